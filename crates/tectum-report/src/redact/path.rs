//! Paths: the folders that every system has stay, every other name in them is replaced.

use super::{Pseudonyms, name, pseudonym};
use crate::leaf::{Identifies, Redact};

/// Folders and files that every system may have, by the Filesystem Hierarchy Standard 3.0 and
/// common practice.
const COMMON: [&str; 84] = [
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
];

/// The path of a mount point or file.
pub(super) fn folders(by: &Pseudonyms, path: &str) -> String {
    path.split('/')
        .map(|name| {
            let number = name.bytes().all(|byte| byte.is_ascii_digit());
            match number || COMMON.contains(&name) {
                true => name.to_owned(),
                false => pseudonym(&by.key, Identifies::Path, name),
            }
        })
        .collect::<Vec<_>>()
        .join("/")
}

/// The path of a file that was read: names in it that an owner chose are replaced by what they are.
pub(super) fn source(by: &Pseudonyms, path: &str) -> String {
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
            ("power_supply", "sys") => text(Identifies::DeviceName),
            ("livepatch", "sys") => text(Identifies::Label),
            // A partition in its disk's folder.
            _ if before(2) == "block" && kernel && own.starts_with(before(1)) => {
                text(Identifies::DeviceName)
            }
            _ if kernel => (*own).to_owned(),
            ("dev", "dev") => name::device(by, own),
            _ if root == "etc" => configuration(by, own, before(1)),
            _ => (*own).to_owned(),
        };
        new.push(replaced);
    }
    new.join("/")
}

/// A file below `/etc`: what lies in a folder of many is named by an owner or a package.
fn configuration(by: &Pseudonyms, name: &str, folder: &str) -> String {
    let many = folder.ends_with(".d") || folder.ends_with("repos.d");
    if !many || name.contains('*') {
        return name.to_owned();
    }
    match name.rsplit_once('.') {
        Some((stem, ending)) => {
            format!("{}.{ending}", by.text(Identifies::Path, stem))
        }
        None => by.text(Identifies::Path, name),
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
    #[case("/etc/apt/sources.list.d/harbour.list", "harbour")]
    fn names_in_sources_go(#[case] path: &str, #[case] name: &str) {
        assert!(!source(&by(), path).contains(name), "{}", source(&by(), path));
    }

    #[rstest]
    #[case("/sys/class/net/eth0/address")]
    #[case("/sys/block/sda/sda1/partition")]
    #[case("/sys/firmware/dmi/tables/DMI")]
    #[case("/proc/meminfo")]
    #[case("/etc/os-release")]
    #[case("uname(2)")]
    fn kernel_paths_stay(#[case] path: &str) {
        assert_eq!(source(&by(), path), path);
    }
}
