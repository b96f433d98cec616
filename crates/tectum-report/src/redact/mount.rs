//! What is mounted, as what, and with which options.

use super::{Pseudonyms, path, same_form};
use crate::leaf::{Identifies, Redact};

/// Filesystems that the kernel or common programs know by name.
const FILESYSTEMS: [&str; 62] = [
    "9p",
    "afs",
    "autofs",
    "bcachefs",
    "binfmt_misc",
    "bpf",
    "btrfs",
    "ceph",
    "cgroup",
    "cgroup2",
    "cifs",
    "configfs",
    "debugfs",
    "devpts",
    "devtmpfs",
    "ecryptfs",
    "efivarfs",
    "erofs",
    "exfat",
    "ext2",
    "ext3",
    "ext4",
    "f2fs",
    "fuse",
    "fuse.gvfsd-fuse",
    "fuse.lxcfs",
    "fuse.portal",
    "fuse.snapfuse",
    "fuse.sshfs",
    "fuseblk",
    "fusectl",
    "gfs2",
    "glusterfs",
    "hfs",
    "hfsplus",
    "hugetlbfs",
    "iso9660",
    "jfs",
    "lustre",
    "minix",
    "mqueue",
    "nfs",
    "nfs4",
    "nfsd",
    "nilfs2",
    "none",
    "ntfs",
    "ntfs3",
    "ocfs2",
    "overlay",
    "proc",
    "pstore",
    "ramfs",
    "securityfs",
    "smb3",
    "squashfs",
    "swap",
    "sysfs",
    "tmpfs",
    "tracefs",
    "udf",
    "vfat",
];

/// More of them.
const MORE_FILESYSTEMS: [&str; 10] = [
    "virtiofs",
    "xfs",
    "zfs",
    "rootfs",
    "rpc_pipefs",
    "selinuxfs",
    "auto",
    "reiserfs",
    "nsfs",
    "msdos",
];

/// Options that say by themselves what they are.
const OPTIONS: [&str; 99] = [
    "acl",
    "async",
    "atime",
    "auto",
    "bind",
    "commit",
    "compress",
    "compress-force",
    "context",
    "data",
    "data_err",
    "defaults",
    "delalloc",
    "dev",
    "dirsync",
    "discard",
    "dmask",
    "errors",
    "exec",
    "fmask",
    "fsc",
    "gid",
    "group",
    "hard",
    "huge",
    "inode32",
    "inode64",
    "intr",
    "iocharset",
    "largeio",
    "lazytime",
    "local_lock",
    "logbsize",
    "logbufs",
    "loop",
    "lookupcache",
    "max_batch_time",
    "mode",
    "mountproto",
    "namlen",
    "nconnect",
    "noacl",
    "noatime",
    "noauto",
    "nobarrier",
    "nodelalloc",
    "nodev",
    "nodiratime",
    "nodiscard",
    "noexec",
    "nofail",
    "nolock",
    "noquota",
    "nosuid",
    "nr_inodes",
    "pri",
    "proto",
    "quota",
    "relatime",
    "retrans",
    "ro",
    "rsize",
    "rw",
    "sec",
    "seclabel",
    "size",
    "soft",
    "space_cache",
    "ssd",
    "strictatime",
    "stripe",
    "suid",
    "sunit",
    "swidth",
    "sw",
    "sync",
    "timeo",
    "uid",
    "umask",
    "user",
    "user_xattr",
    "users",
    "usrquota",
    "vers",
    "wsize",
    "x-systemd.automount",
    "codepage",
    "shortname",
    "utf8",
    "flush",
    "nocase",
    "xattr",
    "grpquota",
    "prjquota",
    "swalloc",
    "allocsize",
    "attr2",
    "noquota",
    "ptmxmode",
];

/// Values of options that are words of the kernel's.
const VALUES: [&str; 34] = [
    "remount-ro",
    "continue",
    "panic",
    "ordered",
    "writeback",
    "journal",
    "sys",
    "krb5",
    "krb5i",
    "krb5p",
    "none",
    "tcp",
    "udp",
    "rdma",
    "tcp6",
    "zstd",
    "zlib",
    "lzo",
    "no",
    "always",
    "never",
    "within_size",
    "all",
    "positive",
    "pos",
    "v2",
    "utf8",
    "iso8859-1",
    "ascii",
    "mixed",
    "winnt",
    "advise",
    "strict",
    "default",
];

/// The kind of a filesystem.
pub(super) fn filesystem(by: &Pseudonyms, text: &str) -> String {
    if FILESYSTEMS.contains(&text) || MORE_FILESYSTEMS.contains(&text) {
        return text.to_owned();
    }
    match text.split_once('.') {
        Some((fuse @ ("fuse" | "fuseblk"), own)) => {
            format!("{fuse}.{}", same_form(&by.key, Identifies::FilesystemKind, own))
        }
        _ => same_form(&by.key, Identifies::FilesystemKind, text),
    }
}

/// What is mounted.
pub(super) fn source(by: &Pseudonyms, text: &str) -> String {
    if filesystem_name(text) {
        return text.to_owned();
    }
    if let Some(device) = text.strip_prefix("/dev/") {
        return match device.split_once('/') {
            None => format!("/dev/{}", by.text(Identifies::DeviceName, device)),
            Some((folder @ ("mapper" | "md"), name)) => {
                format!("/dev/{folder}/{}", by.text(Identifies::Label, name))
            }
            Some(("disk", rest)) => match rest.split_once('/') {
                Some((links, name)) => {
                    format!("/dev/disk/{links}/{}", by.text(Identifies::Label, name))
                }
                None => format!("/dev/disk/{}", by.text(Identifies::Label, rest)),
            },
            // A volume's group and its own name.
            Some((group, name)) => format!(
                "/dev/{}/{}",
                by.text(Identifies::Label, group),
                by.text(Identifies::Label, name)
            ),
        };
    }
    for (tag, kind) in [
        ("UUID=", Identifies::Uuid),
        ("PARTUUID=", Identifies::Uuid),
        ("LABEL=", Identifies::Label),
        ("PARTLABEL=", Identifies::Label),
        ("ID=", Identifies::Label),
    ] {
        if let Some(value) = text.strip_prefix(tag) {
            return format!("{tag}{}", by.text(kind, value));
        }
    }
    if let Some(share) = text.strip_prefix("//") {
        let (host, share) = share.split_once('/').unwrap_or((share, ""));
        return format!("//{}/{}", server(by, host), same_form(&by.key, Identifies::Path, share));
    }
    if text.starts_with('/') {
        return path::folders(by, text);
    }
    if let Some((servers, folder)) = text.rsplit_once(":/") {
        let servers: Vec<String> =
            servers.split(',').map(|one| server(by, one.trim_matches(['[', ']']))).collect();
        return format!("{}:{}", servers.join(","), path::folders(by, &format!("/{folder}")));
    }
    same_form(&by.key, Identifies::MountSource, text)
}

fn filesystem_name(text: &str) -> bool {
    FILESYSTEMS.contains(&text)
        || MORE_FILESYSTEMS.contains(&text)
        || matches!(text, "systemd-1" | "udev")
}

/// A server by name or address, with who asks it in front and its port behind.
fn server(by: &Pseudonyms, text: &str) -> String {
    if text.parse::<std::net::IpAddr>().is_ok() {
        return by.text(Identifies::Address, text);
    }
    if let Some((user, host)) = text.rsplit_once('@') {
        let user = same_form(&by.key, Identifies::Label, user);
        return format!("{user}@{}", server(by, host));
    }
    by.text(Identifies::HostName, text)
}

/// One option of a mount.
pub(super) fn option(by: &Pseudonyms, text: &str) -> String {
    let Some((key, value)) = text.split_once('=') else {
        return match OPTIONS.contains(&text) {
            true => text.to_owned(),
            false => same_form(&by.key, Identifies::MountOption, text),
        };
    };
    let key_stays = OPTIONS.contains(&key)
        || matches!(
            key,
            "addr"
                | "clientaddr"
                | "mountaddr"
                | "mountvers"
                | "mountport"
                | "port"
                | "username"
                | "domain"
                | "subvol"
                | "subvolid"
                | "lowerdir"
                | "upperdir"
                | "workdir"
                | "user_id"
                | "group_id"
                | "fd"
                | "pgrp"
                | "timeout"
                | "minproto"
                | "maxproto"
                | "max_read"
                | "blksize"
                | "acregmin"
                | "acregmax"
                | "acdirmin"
                | "acdirmax"
                | "actimeo"
        );
    if !key_stays {
        return same_form(&by.key, Identifies::MountOption, text);
    }
    let number = !value.is_empty()
        && value.len() <= 20
        && value
            .trim_end_matches(['k', 'K', 'm', 'M', 'g', 'G', '%'])
            .bytes()
            .all(|byte| byte.is_ascii_digit() || matches!(byte, b'.' | b':'))
        && value.parse::<std::net::IpAddr>().is_err();
    let known = |word: &str| {
        VALUES.contains(&word)
            || word.split_once(':').is_some_and(|(word, level)| {
                VALUES.contains(&word) && level.bytes().all(|byte| byte.is_ascii_digit())
            })
    };
    let value = match key {
        _ if (number && !value.contains(':')) || known(value) => value.to_owned(),
        "addr" | "clientaddr" | "mountaddr" => server(by, value),
        "lowerdir" | "upperdir" | "workdir" | "subvol" => path::folders(by, value),
        _ => same_form(&by.key, Identifies::MountOption, value),
    };
    format!("{key}={value}")
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn by() -> Pseudonyms {
        Pseudonyms::new(b"key", &std::collections::BTreeSet::new())
    }

    #[rstest]
    #[case("/dev/sda1")]
    #[case("tmpfs")]
    #[case("/dev/nvme0n1p2")]
    fn sources_that_say_nothing_stay(#[case] text: &str) {
        assert_eq!(source(&by(), text), text);
    }

    #[rstest]
    #[case("/dev/mapper/harbour-log")]
    #[case("/dev/harbour/log")]
    #[case("harbour.example:/export/harbour")]
    #[case("anna@harbour:/srv")]
    #[case("//harbour/share")]
    #[case("LABEL=harbour")]
    #[case("/dev/disk/by-label/harbour")]
    #[case("harbour")]
    #[case("/srv/images/harbour.img")]
    fn sources_of_an_owner_go(#[case] text: &str) {
        let new = source(&by(), text);
        assert!(!new.contains("harbour") && !new.contains("anna"), "{new}");
    }

    #[rstest]
    #[case("rw")]
    #[case("size=65536k")]
    #[case("errors=remount-ro")]
    #[case("vers=4.2")]
    #[case("compress=zstd:3")]
    #[case("uid=1000")]
    fn options_that_say_nothing_stay(#[case] text: &str) {
        assert_eq!(option(&by(), text), text);
    }

    #[rstest]
    #[case("username=anna")]
    #[case("addr=192.0.2.17")]
    #[case("subvol=/anna")]
    #[case("x-anna")]
    #[case("credentials=/root/anna")]
    #[case("context=anna")]
    fn options_of_an_owner_go(#[case] text: &str) {
        let new = option(&by(), text);
        assert!(!new.contains("anna") && !new.contains("192.0.2.17"), "{new}");
    }
}
