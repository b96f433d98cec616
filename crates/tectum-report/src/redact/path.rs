//! Paths: the folders that every system has stay, every other name in them is replaced.

use super::{Pseudonyms, name, same_form};
use crate::leaf::{Identifies, Redact};

/// Folders and files that every system may have, by the Filesystem Hierarchy Standard 3.0 and
/// common practice.
const COMMON: [&str; 89] = [
    "",
    "bin",
    "boot",
    "dev",
    "efi",
    "EFI",
    "esp",
    "etc",
    "home",
    "lib",
    "lib32",
    "lib64",
    "libx32",
    "lost+found",
    "media",
    "mnt",
    "opt",
    "proc",
    "root",
    "run",
    "sbin",
    "srv",
    "sys",
    "tmp",
    "usr",
    "var",
    "cache",
    "containers",
    "docker",
    "kubelet",
    "lib",
    "libvirt",
    "local",
    "lock",
    "log",
    "mail",
    "spool",
    "www",
    "audit",
    "share",
    "src",
    "include",
    "games",
    "backups",
    "crash",
    "db",
    "empty",
    "user",
    "systemd",
    "shm",
    "pts",
    "mqueue",
    "hugepages",
    "fs",
    "cgroup",
    "bpf",
    "kernel",
    "debug",
    "tracing",
    "security",
    "config",
    "firmware",
    "efivars",
    "fuse",
    "connections",
    "pstore",
    "binfmt_misc",
    "net",
    "rpc_pipefs",
    "nfs",
    "none",
    "swap",
    "swapfile",
    "swap.img",
    "initctl",
    "lxcfs",
    "snapd",
    "udev",
    "credentials",
    "private",
    "pages",
    "selinux",
    "mounts",
    "images",
    "storage",
    "containerd",
    "overlay",
    "overlay2",
    "reboot-required",
];

/// Where the descriptions of time zones are (tzfile(5)).
const ZONES: &str = "/zoneinfo/";

/// Files and folders below `/etc` that every system may have.
const CONFIGURATION: [&str; 22] = [
    "apk",
    "apt",
    "default",
    "fstab",
    "hostname",
    "keys",
    "locale",
    "locale.conf",
    "localtime",
    "machine-id",
    "mirrorlist",
    "os-release",
    "pacman.conf",
    "pacman.d",
    "repos.d",
    "repositories",
    "resolv.conf",
    "sources.list",
    "sources.list.d",
    "timezone",
    "yum.repos.d",
    "zypp",
];

/// What a kernel's files below `/boot` begin with; behind it stands the kernel's release.
const BOOT_FILES: [&str; 6] =
    ["vmlinuz-", "vmlinux-", "vmlinux.gz-", "Image-", "image-", "kernel-"];

/// The path of a mount point or file.
pub(super) fn folders(by: &Pseudonyms, path: &str) -> String {
    path.split('/')
        .map(|name| {
            let number = name.bytes().all(|byte| byte.is_ascii_digit());
            match number || COMMON.contains(&name) {
                true => name.to_owned(),
                false => same_form(&by.key, Identifies::Path, name),
            }
        })
        .collect::<Vec<_>>()
        .join("/")
}

/// The path of a file that was read: names in it that an owner chose are replaced by what they are.
pub(super) fn source(by: &Pseudonyms, path: &str) -> String {
    // Where a machine stands follows from its time zone.
    if let Some((folder, zone)) = path.split_once(ZONES) {
        return format!("{}{ZONES}{}", source(by, folder), by.text(Identifies::Label, zone));
    }
    let names: Vec<&str> = path.split('/').collect();
    let mut new: Vec<String> = Vec::with_capacity(names.len());
    for (index, own) in names.iter().enumerate() {
        let before = |back: usize| {
            index.checked_sub(back).and_then(|index| names.get(index)).copied().unwrap_or("")
        };
        let root = names.get(1).copied().unwrap_or("");
        let kernel = matches!(root, "sys" | "proc");
        let text = |kind: Identifies| by.text(kind, own);
        let replaced = match (before(1), root) {
            _ if own.is_empty() || index <= 1 => (*own).to_owned(),
            ("net", "sys") if !matches!(*own, "bonding_masters") => text(Identifies::InterfaceName),
            ("bonding" | "vlan", "proc") => text(Identifies::InterfaceName),
            // Devices by their numbers, which the kernel gives.
            ("block" | "char", "sys") if before(2) == "dev" && is_device_number(own) => {
                (*own).to_owned()
            }
            ("block" | "holders" | "slaves", "sys") => text(Identifies::DeviceName),
            ("mapper", _) if *own != "control" => text(Identifies::Label),
            (links, _) if links.starts_with("by-") => text(Identifies::Label),
            _ if own.starts_with("lower_") => {
                format!(
                    "lower_{}",
                    by.text(Identifies::InterfaceName, own.trim_start_matches("lower_"))
                )
            }
            _ if own.starts_with("upper_") => {
                format!(
                    "upper_{}",
                    by.text(Identifies::InterfaceName, own.trim_start_matches("upper_"))
                )
            }
            // An array's member by its device.
            ("md", "sys") if own.starts_with("dev-") => {
                format!("dev-{}", by.text(Identifies::DeviceName, own.trim_start_matches("dev-")))
            }
            // A mounted filesystem by its UUID or its device.
            ("btrfs", "sys") if before(2) == "fs" && *own != "features" => text(Identifies::Uuid),
            ("ext4", "sys") if before(2) == "fs" && *own != "features" => {
                text(Identifies::DeviceName)
            }
            ("power_supply", "sys") => text(Identifies::DeviceName),
            ("livepatch", "sys") => text(Identifies::Label),
            // A partition in its disk's folder.
            _ if before(2) == "block" && kernel && own.starts_with(before(1)) => {
                text(Identifies::DeviceName)
            }
            _ if kernel => (*own).to_owned(),
            ("dev", "dev") => name::device(by, own),
            _ if root == "etc" => configuration(by, own, before(1)),
            ("boot", "boot") if !BOOT_FILES.iter().any(|start| own.starts_with(start)) => {
                text(Identifies::Path)
            }
            // Names of packages: only how many there are is told.
            ("local", "var") | ("rpm", "var") | ("rpm", "usr")
                if !matches!(*own, "ALPM_DB_VERSION") && !own.is_empty() =>
            {
                by.plain(Identifies::Label, own)
            }
            _ if matches!(root, "usr" | "lib" | "lib32" | "lib64" | "run" | "var" | "boot") => {
                (*own).to_owned()
            }
            _ if COMMON.contains(own) || names.len() == 2 => (*own).to_owned(),
            _ => text(Identifies::Path),
        };
        new.push(replaced);
    }
    new.join("/")
}

/// `8:16`: major and minor number of a device.
fn is_device_number(name: &str) -> bool {
    let digits = |text: &str| !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit());
    name.split_once(':').is_some_and(|(major, minor)| digits(major) && digits(minor))
}

/// A file below `/etc`: what lies in a folder of many is named by an owner or a package.
fn configuration(by: &Pseudonyms, name: &str, folder: &str) -> String {
    let many = folder.ends_with(".d");
    if name.contains('*') || (!many || name == "mirrorlist") && CONFIGURATION.contains(&name) {
        return name.to_owned();
    }
    match name.rsplit_once('.') {
        Some((stem, ending @ ("list" | "sources" | "repo"))) => {
            format!("{}.{ending}", by.text(Identifies::Path, stem))
        }
        _ => by.text(Identifies::Path, name),
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn by() -> Pseudonyms {
        Pseudonyms::new(b"key", &std::collections::BTreeSet::new())
    }

    #[rstest]
    #[case("/")]
    #[case("/boot/efi")]
    #[case("/var/lib/docker")]
    #[case("/run/user/1000")]
    fn common_folders_stay(#[case] path: &str) {
        assert_eq!(folders(&by(), path), path);
    }

    #[test]
    fn chosen_folders_go() {
        let new = folders(&by(), "/home/anna/harbour");
        assert!(new.starts_with("/home/") && !new.contains("anna") && !new.contains("harbour"));
    }

    #[rstest]
    #[case("/sys/class/net/harbour/address", "harbour")]
    #[case("/sys/devices/virtual/net/harbour/bridge", "harbour")]
    #[case("/sys/block/md_harbour/md/level", "md_harbour")]
    #[case("/dev/disk/by-label/harbour", "harbour")]
    #[case("/sys/fs/ext4/md_harbour/errors_count", "md_harbour")]
    #[case("/sys/fs/btrfs/0c5d1e2f-4a3b-4c5d-8e9f-001122334455/devinfo", "0c5d1e2f")]
    #[case("/etc/apt/sources.list.d/harbour.list", "harbour")]
    #[case("/sys/dev/block/harbour", "harbour")]
    fn names_in_sources_go(#[case] path: &str, #[case] name: &str) {
        assert!(!source(&by(), path).contains(name), "{}", source(&by(), path));
    }

    #[rstest]
    #[case("/sys/class/net/eth0/address")]
    #[case("/sys/block/sda/sda1/partition")]
    #[case("/sys/module/ext4/taint")]
    #[case("/sys/fs/ext4/sda1/errors_count")]
    #[case("/sys/dev/block/8:16")]
    #[case("/sys/firmware/dmi/tables/DMI")]
    #[case("/proc/meminfo")]
    #[case("/etc/os-release")]
    #[case("uname(2)")]
    fn kernel_paths_stay(#[case] path: &str) {
        assert_eq!(source(&by(), path), path);
    }
}
