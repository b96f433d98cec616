//! Where a filesystem lies, by its kind and its device.

use crate::formats::mountinfo::Mount;
use tectum_report::model::MountClass;

/// What the kernel makes up: it holds no files of anybody.
const MADE_UP: [&str; 32] = [
    "autofs",
    "binder",
    "binfmt_misc",
    "bpf",
    "cgroup",
    "cgroup2",
    "configfs",
    "debugfs",
    "devpts",
    "devtmpfs",
    "efivarfs",
    "fuse.gvfsd-fuse",
    "fuse.lxcfs",
    "fuse.portal",
    "fusectl",
    "hugetlbfs",
    "mqueue",
    "nfsd",
    "nsfs",
    "pipefs",
    "proc",
    "pstore",
    "resctrl",
    "rootfs",
    "rpc_pipefs",
    "securityfs",
    "selinuxfs",
    "smackfs",
    "sockfs",
    "sysfs",
    "tracefs",
    "usbfs",
];

const NETWORK: [&str; 18] = [
    "9p",
    "afs",
    "beegfs",
    "ceph",
    "cifs",
    "coda",
    "davfs",
    "fuse.ceph",
    "fuse.davfs2",
    "fuse.glusterfs",
    "fuse.s3fs",
    "fuse.sshfs",
    "glusterfs",
    "lustre",
    "nfs",
    "nfs4",
    "smb3",
    "smbfs",
];

const LAYERED: [&str; 5] = ["aufs", "ecryptfs", "fuse.mergerfs", "fuse.unionfs", "overlay"];

/// Where it lies; nothing for what the kernel makes up.
pub(crate) fn of(mount: &Mount<'_>) -> Option<MountClass> {
    let is = |list: &[&str]| list.contains(&mount.filesystem);
    if is(&MADE_UP) {
        return None;
    }
    Some(if is(&NETWORK) {
        MountClass::Network
    } else if is(&LAYERED) {
        MountClass::Layered
    } else if matches!(mount.filesystem, "tmpfs" | "ramfs") {
        MountClass::Memory
    } else {
        MountClass::Local
    })
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("ext4", Some(MountClass::Local))]
    #[case("zfs", Some(MountClass::Local))]
    #[case("overlay", Some(MountClass::Layered))]
    #[case("nfs4", Some(MountClass::Network))]
    #[case("tmpfs", Some(MountClass::Memory))]
    #[case("cgroup2", None)]
    fn classes(#[case] kind: &str, #[case] class: Option<MountClass>) {
        let line = format!("24 1 0:22 / /x rw - {kind} source rw");
        let mounts = crate::formats::mountinfo::parse(&line);
        assert_eq!(of(&mounts[0]), class);
    }
}
