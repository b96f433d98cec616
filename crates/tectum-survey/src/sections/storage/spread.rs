//! Filesystems that are spread over several devices (btrfs): the kernel's table of mounts names one of
//! them, and all hold it.

use std::collections::HashMap;

use tectum_report::{
    fact::{Fact, saying},
    leaf::{PathName, Term, Uuid},
    model::{Disk, Volume},
};

/// What is on a device, and where it is mounted.
type Held<'a> = (&'a Fact<Term>, &'a Fact<Uuid>, &'a mut Fact<Vec<PathName>>);

fn held<'a>(disks: &'a mut [Disk], volumes: &'a mut [Volume]) -> Vec<Held<'a>> {
    let mut all: Vec<Held<'a>> = Vec::new();
    for disk in disks {
        all.push((&disk.filesystem, &disk.filesystem_uuid, &mut disk.mount_points));
        for one in disk.partitions.iter_mut() {
            all.push((&one.filesystem, &one.filesystem_uuid, &mut one.mount_points));
        }
    }
    for volume in volumes {
        all.push((&volume.filesystem, &volume.filesystem_uuid, &mut volume.mount_points));
    }
    all.retain(|(filesystem, ..)| filesystem.value().is_some_and(|kind| kind.0 == "btrfs"));
    all
}

/// Says of every device of a mounted filesystem where that is mounted.
pub(super) fn share_mounts(disks: &mut [Disk], volumes: &mut [Volume]) {
    let mut mounted: HashMap<Uuid, Fact<Vec<PathName>>> = HashMap::new();
    for (_, uuid, points) in held(disks, volumes) {
        if let (Some(uuid), Some(true)) = (uuid.value(), points.value().map(|all| !all.is_empty()))
        {
            mounted.entry(uuid.clone()).or_insert_with(|| points.clone());
        }
    }
    for (_, uuid, points) in held(disks, volumes) {
        let none = points.value().is_some_and(Vec::is_empty);
        if let Some(shared) = uuid.value().and_then(|uuid| mounted.get(uuid)).filter(|_| none) {
            *points = shared
                .clone()
                .by_rule(saying!(
                    "mounts-of-same-filesystem",
                    "where another device of the same filesystem, by its UUID, is mounted",
                ))
                .with_evidence_of(uuid);
        }
    }
}
