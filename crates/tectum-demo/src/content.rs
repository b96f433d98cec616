//! What disks, partitions and volumes hold, and where it is mounted.

use std::fmt::Write;

use crate::{Content, Machine, Tree, disk, volume};

/// A filesystem, or what it is a part of.
pub(crate) struct Held<'a> {
    pub(crate) filesystem: &'a str,
    pub(crate) uuid: &'a str,
    pub(crate) label: &'a str,
}

impl<'a> Held<'a> {
    pub(crate) fn of(content: &'a Content) -> Self {
        Self { filesystem: &content.filesystem, uuid: &content.uuid, label: &content.label }
    }

    /// Its properties in the udev database.
    pub(crate) fn properties(&self) -> String {
        let mut text = String::new();
        for (key, value) in [("ID_FS_TYPE", self.filesystem), ("ID_FS_UUID", self.uuid)] {
            if !value.is_empty() {
                // Writing to a string cannot fail.
                let _ = writeln!(text, "E:{key}={value}");
            }
        }
        if !self.label.is_empty() {
            let label = self.label.replace(' ', "\\x20");
            let _ = write!(text, "E:ID_FS_LABEL={label}\nE:ID_FS_LABEL_ENC={label}\n");
        }
        text
    }
}

/// A filesystem that is mounted.
pub(crate) struct Mounted<'a> {
    pub(crate) number: (u32, u32),
    pub(crate) device: String,
    pub(crate) point: &'a str,
    pub(crate) filesystem: &'a str,
    pub(crate) bytes: u64,
    /// How much of it is used, in percent.
    pub(crate) used: u64,
}

pub(crate) fn put(machine: &Machine, tree: &mut Tree) {
    let mut mounted = disk::mounted(machine);
    mounted.extend(volume::mounted(machine));
    tree.file("proc/self/mountinfo", mountinfo(&mounted));
    tree.file("statvfs.json", statvfs(&mounted));
}

/// What the kernel answers of how full each filesystem is, as it lies beside a recorded tree.
fn statvfs(mounted: &[Mounted<'_>]) -> String {
    const BLOCK: u64 = 4096;
    let answers: Vec<serde_json::Value> = mounted
        .iter()
        .map(|mount| {
            let blocks = mount.bytes / BLOCK;
            // Root keeps a hundredth for itself.
            let free = blocks - blocks * mount.used.min(100) / 100;
            let files = if mount.filesystem == "vfat" { 0 } else { blocks / 4 };
            serde_json::json!({
                "mount_point": mount.point,
                "f_bsize": BLOCK,
                "f_frsize": BLOCK,
                "f_blocks": blocks,
                "f_bfree": free,
                "f_bavail": free.saturating_sub(blocks / 100),
                "f_files": files,
                "f_ffree": files - files * mount.used.min(100) / 300,
            })
        })
        .collect();
    serde_json::Value::from(answers).to_string()
}

fn mountinfo(mounted: &[Mounted<'_>]) -> String {
    let mut text = String::from(
        "22 25 0:20 / /proc rw,relatime - proc proc rw\n\
         23 25 0:21 / /sys rw,nosuid,nodev,noexec,relatime - sysfs sysfs rw\n\
         24 23 0:22 / /sys/fs/cgroup rw,nosuid,nodev,noexec,relatime - cgroup2 cgroup2 rw\n",
    );
    for (id, mount) in (30..).zip(mounted) {
        let (major, minor) = mount.number;
        let point = mount.point.replace('\\', "\\134").replace(' ', "\\040");
        let _ = writeln!(
            text,
            "{id} 25 {major}:{minor} / {point} rw,relatime - {} {} rw",
            mount.filesystem, mount.device
        );
    }
    text
}
