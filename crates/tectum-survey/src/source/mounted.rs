//! Whether the kernel's own filesystems lie where they are looked for. Where `/sys` is not mounted, or something
//! lies over a part of it, what is not there says nothing of the machine: containers hide `/sys/firmware` so. Nor does
//! it where a folder stands in for `/` that has none: somebody copied `/etc` alone.

use std::{
    os::fd::BorrowedFd,
    path::{Path, PathBuf},
    sync::OnceLock,
};

use rustix::fs::{Access, AtFlags};

use super::Outcome;
use crate::formats::mountinfo::{self, Mount};

/// Where the kernel tells of itself, each with something that is there wherever it is mounted.
const OWN: [(&str, &str); 2] = [("/proc", "/proc/version"), ("/sys", "/sys/devices")];

/// The kernel's own folder that a path lies in, if it does in one.
pub(super) fn kernels_own(path: &Path) -> Option<&'static str> {
    OWN.iter().map(|(root, _)| *root).find(|root| path.starts_with(root))
}

/// What of `/proc` and `/sys` is the kernel's, on the running machine.
#[derive(Debug, Default)]
pub(super) struct Mounted {
    /// Folders over which something else lies.
    covered: Vec<PathBuf>,
    is_there: [OnceLock<bool>; 2],
}

impl Mounted {
    /// By the table of mounts (`/proc/self/mountinfo`).
    pub(super) fn by(table: &str) -> Self {
        Self { covered: covered(&mountinfo::parse(table)), ..Self::default() }
    }

    /// Whether something else than the kernel answers for a path of `/proc` or `/sys`.
    pub(super) fn is_covered(&self, path: &Path) -> bool {
        self.covered.iter().any(|folder| path.starts_with(folder))
    }

    /// How an access to a path ended, by what the kernel answered; `within` is the folder that stands in for `/`, where
    /// one does.
    pub(super) fn outcome(
        &self,
        path: &Path,
        answered: Outcome,
        within: Option<BorrowedFd<'_>>,
    ) -> Outcome {
        let of = OWN.iter().zip(&self.is_there).find(|((root, _), _)| path.starts_with(root));
        match (answered, of) {
            (Outcome::NotFound, Some(((root, sure), is_there))) => {
                let is_there = *is_there.get_or_init(|| match within {
                    None => rustix::fs::access(*sure, Access::EXISTS).is_ok(),
                    // Whoever copied a part of it copied the folder too.
                    Some(folder) => {
                        let own = root.trim_start_matches('/');
                        rustix::fs::statat(folder, own, AtFlags::SYMLINK_NOFOLLOW).is_ok()
                    }
                });
                if is_there { Outcome::NotFound } else { Outcome::NotMounted }
            }
            (answered, _) => answered,
        }
    }
}

/// The folders of `/proc` and `/sys` over which a filesystem in memory was laid. One that holds mounts of its
/// own is no cover, but where those hang (`/sys/fs/cgroup`).
fn covered(mounts: &[Mount<'_>]) -> Vec<PathBuf> {
    let of_kernel = |mount: &&Mount<'_>| {
        OWN.iter().any(|(root, _)| Path::new(&*mount.mount_point).starts_with(root))
    };
    let on_top = |mount: &&Mount<'_>| {
        let mut again = mounts.iter().filter(|other| other.mount_point == mount.mount_point);
        again.next_back().is_some_and(|last| last.id == mount.id)
    };
    mounts
        .iter()
        .filter(of_kernel)
        .filter(|mount| matches!(mount.filesystem, "tmpfs" | "ramfs"))
        .filter(|mount| !mounts.iter().any(|other| other.parent == mount.id))
        .filter(on_top)
        .map(|mount| PathBuf::from(&*mount.mount_point))
        .collect()
}

#[cfg(test)]
mod tests {
    #![allow(
        clippy::unwrap_used,
        reason = "a test stops at the first thing that is not as it should be"
    )]

    use rstest::rstest;

    use super::*;

    const KERNEL: &str =
        "22 1 0:21 / /sys rw - sysfs sysfs rw\n23 1 0:22 / /proc rw - proc proc rw\n";

    #[rstest]
    #[case::nothing("", "/sys/firmware/dmi", false)]
    #[case::masked("30 22 0:50 / /sys/firmware ro - tmpfs tmpfs ro\n", "/sys/firmware/dmi", true)]
    #[case::itself("30 22 0:50 / /sys/firmware ro - tmpfs tmpfs ro\n", "/sys/firmware", true)]
    #[case::beside("30 22 0:50 / /sys/firmware ro - tmpfs tmpfs ro\n", "/sys/firmware2", false)]
    #[case::whole("30 1 0:50 / /sys rw - tmpfs none rw\n", "/sys/class/net", true)]
    #[case::other_kind(
        "30 22 0:50 / /sys/kernel/debug rw - debugfs d rw\n",
        "/sys/kernel/debug/x",
        false
    )]
    #[case::holds_others(
        "30 22 0:50 / /sys/fs/cgroup ro - tmpfs t ro\n31 30 0:51 / /sys/fs/cgroup/cpu rw - cgroup c rw\n",
        "/sys/fs/cgroup/cpu/x",
        false
    )]
    #[case::mounted_again(
        "30 22 0:50 / /sys/firmware ro - tmpfs t ro\n31 22 0:21 /firmware /sys/firmware rw - sysfs s rw\n",
        "/sys/firmware/dmi",
        false
    )]
    #[case::elsewhere("30 1 0:50 / /run rw - tmpfs t rw\n", "/run/udev", false)]
    fn what_lies_over_the_kernels_files_is_no_answer_of_its(
        #[case] more: &str,
        #[case] path: &str,
        #[case] covered: bool,
    ) {
        let mounted = Mounted::by(&format!("{KERNEL}{more}"));
        assert_eq!(mounted.is_covered(Path::new(path)), covered);
    }

    #[test]
    fn where_the_kernel_tells_of_itself_what_is_not_there_is_not_there() {
        let mounted = Mounted::default();
        let outcome = |path: &str, answered| mounted.outcome(Path::new(path), answered, None);
        assert_eq!(outcome("/sys/nowhere", Outcome::NotFound), Outcome::NotFound);
        assert_eq!(outcome("/proc/nowhere", Outcome::NotFound), Outcome::NotFound);
        assert_eq!(outcome("/etc/nowhere", Outcome::NotFound), Outcome::NotFound);
        let mounted = Mounted::default();
        for is_there in &mounted.is_there {
            is_there.set(false).unwrap();
        }
        let outcome = |path: &str, answered| mounted.outcome(Path::new(path), answered, None);
        assert_eq!(outcome("/sys/class", Outcome::NotFound), Outcome::NotMounted);
        assert_eq!(outcome("/proc/cpuinfo", Outcome::PermissionDenied), Outcome::PermissionDenied);
        assert_eq!(outcome("/etc/hostname", Outcome::NotFound), Outcome::NotFound);
    }
}
