//! Arrays (`Documentation/admin-guide/md.rst`) and mapped devices: logical volumes, thin pools, encryption, several
//! paths as one.

use std::fmt::Write;

use crate::{
    Machine, Tree, Volume,
    content::{Held, Mounted},
    disk,
};

pub(crate) fn put(machine: &Machine, tree: &mut Tree) {
    for volume in &machine.volumes {
        put_volume(machine, volume, tree);
    }
}

/// What is mounted from volumes.
pub(crate) fn mounted(machine: &Machine) -> Vec<Mounted<'_>> {
    let held = machine.volumes.iter().filter_map(|volume| Some((volume, volume.content.as_ref()?)));
    held.filter(|(_, content)| !content.mount.is_empty())
        .map(|(volume, content)| Mounted {
            number: device_number(&volume.name),
            device: match is_array(volume) {
                true => format!("/dev/{}", volume.name),
                false => format!("/dev/mapper/{}", volume.title),
            },
            point: &content.mount,
            filesystem: &content.filesystem,
            bytes: volume.bytes,
            used: content.used,
        })
        .collect()
}

fn is_array(volume: &Volume) -> bool {
    volume.name.starts_with("md")
}

fn device_number(name: &str) -> (u32, u32) {
    let minor = name.trim_start_matches(|c: char| !c.is_ascii_digit()).parse().unwrap_or(0);
    (if name.starts_with("md") { 9 } else { 253 }, minor)
}

fn folder(name: &str) -> String {
    format!("sys/devices/virtual/block/{name}")
}

fn put_volume(machine: &Machine, volume: &Volume, tree: &mut Tree) {
    let block = folder(&volume.name);
    tree.link(format!("sys/block/{}", volume.name), &format!("/{block}"));
    let (major, minor) = device_number(&volume.name);
    tree.line(format!("{block}/dev"), format!("{major}:{minor}"));
    tree.line(format!("{block}/size"), volume.bytes / 512);
    for (name, value) in [("ro", 0), ("removable", 0), ("hidden", 0)] {
        tree.line(format!("{block}/{name}"), value);
    }
    for below in &volume.on {
        let of = disk::folder_of(machine, below).unwrap_or_else(|| folder(below));
        tree.link(format!("{block}/slaves/{below}"), &format!("/{of}"));
        tree.link(format!("{of}/holders/{}", volume.name), &format!("/{block}"));
    }
    let mut properties = if is_array(volume) {
        array(machine, volume, &block, tree);
        format!(
            "E:MD_LEVEL={}\nE:MD_UUID={}\nE:MD_DEVNAME={}\n",
            volume.level, volume.uuid, volume.title
        )
    } else {
        tree.line(format!("{block}/dm/name"), &volume.title);
        tree.line(format!("{block}/dm/uuid"), &volume.uuid);
        tree.line(format!("{block}/dm/suspended"), 0);
        format!("E:DM_NAME={}\nE:DM_UUID={}\n", volume.title, volume.uuid)
    };
    if let Some((group, name)) = &volume.group {
        // Writing to a string cannot fail.
        let _ = write!(properties, "E:DM_VG_NAME={group}\nE:DM_LV_NAME={name}\n");
    }
    if let Some(content) = &volume.content {
        properties += &Held::of(content).properties();
    }
    tree.file(format!("run/udev/data/b{major}:{minor}"), properties);
}

fn array(machine: &Machine, volume: &Volume, block: &str, tree: &mut Tree) {
    let active = volume.on.len().saturating_sub(volume.spares.len());
    let expected = active + volume.missing as usize;
    let action = if volume.action.is_empty() { "idle" } else { &volume.action };
    for (name, value) in [
        ("level", volume.level.clone()),
        ("raid_disks", expected.to_string()),
        ("degraded", volume.missing.to_string()),
        ("array_state", "clean".to_owned()),
        ("sync_action", action.to_owned()),
        ("metadata_version", "1.2".to_owned()),
        ("chunk_size", "524288".to_owned()),
        ("uuid", volume.uuid.clone()),
    ] {
        tree.line(format!("{block}/md/{name}"), value);
    }
    let mut place = 0;
    for member in &volume.on {
        let own = format!("{block}/md/dev-{member}");
        let spare = volume.spares.contains(member);
        tree.line(format!("{own}/state"), if spare { "spare" } else { "in_sync" });
        tree.line(format!("{own}/slot"), if spare { "none".to_owned() } else { place.to_string() });
        if let Some(of) = disk::folder_of(machine, member) {
            tree.link(format!("{own}/block"), &format!("/{of}"));
        }
        place += usize::from(!spare);
    }
}
