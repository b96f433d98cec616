//! Filesystems of disks that are mounted, and that nobody declared.

use std::collections::HashSet;

use crate::{
    finding::{
        judge::{Judge, see},
        rule::{Rule, Severity},
    },
    model::MountClass,
};

pub(super) static RULE: Rule = Rule {
    id: "mount-not-in-fstab",
    severity: Severity::Notice,
    title: "mounted filesystem that /etc/fstab does not declare",
    reads: &[
        "filesystems.mounts.*.in_fstab",
        "filesystems.mounts.*.class",
        "filesystems.mounts.*.mount_point",
        "filesystems.mounts.*.first_mounted_at",
        "filesystems.fstab_entries.*.mount_point",
    ],
    matters: "Unless a unit of the service manager mounts it, it is gone after the next start, and what needs it fails then.",
    action: "Declare it in /etc/fstab if nothing else mounts it at the start; or unmount it if it is not needed.",
    reference: "fstab(5)",
    judge,
};

/// Folders for what comes and goes: removable media, what services mount for themselves.
const PASSING: &[&str] = &[
    "/media/",
    "/run/",
    "/snap/",
    "/tmp/",
    "/var/lib/containers/",
    "/var/lib/docker/",
    "/var/lib/kubelet/",
    "/var/lib/lxc/",
    "/var/lib/machines/",
    "/var/lib/snapd/",
    "/var/snap/",
];
/// The whole system's own, which the kernel's command line or the service manager mounts.
const SYSTEM: &[&str] = &["/", "/boot", "/boot/efi", "/efi", "/usr"];

fn judge(it: &mut Judge<'_>) {
    let Some(all) = it.section(&it.report().inventory.filesystems, "/inventory/filesystems") else {
        return;
    };
    // A machine whose filesystems are declared elsewhere has an empty table, and breaks no habit.
    let declared = it.parts(&all.fstab_entries, "/inventory/filesystems/fstab_entries");
    let declared: HashSet<&str> = declared
        .iter()
        .filter_map(|(at, one)| see!(it, at, one.mount_point))
        .map(|point| point.0.as_str())
        .collect();
    if !declared.iter().any(|point| point.starts_with('/')) {
        return;
    }
    for (at, mount) in it.parts(&all.mounts, "/inventory/filesystems/mounts") {
        let Some(class) = see!(it, &at, mount.class) else { continue };
        let Some(point) = see!(it, &at, mount.mount_point) else { continue };
        let point = point.0.as_str();
        let passes =
            SYSTEM.contains(&point) || PASSING.iter().any(|folder| point.starts_with(folder));
        let again = see!(it, &at, mount.first_mounted_at).is_some();
        if !matches!(class, MountClass::Local | MountClass::Network) || passes || again {
            continue;
        }
        if see!(it, &at, mount.in_fstab) == Some(&false) {
            let says = "mounted, and /etc/fstab does not declare it".to_owned();
            it.finds(mount, &at, &["in_fstab", "mount_point"], says);
        }
    }
}
