//! Giving up the right to do anything but read: Landlock (`Documentation/userspace-api/landlock`) and a
//! filter of system calls (`Documentation/userspace-api/seccomp_filter`).
//!
//! The threads that read confine themselves before the first access, so that not even a defect could
//! write, reach a network, start a program, or read what no section declares. The thread that saves
//! the report is not confined. Kernels that lack either go on without it, and say so.

#[cfg(target_pointer_width = "64")]
use std::collections::BTreeMap;
use std::{fmt, path::Path};

use landlock::{
    ABI, Access as _, AccessFs, AccessNet, CompatLevel, Compatible, PathBeneath, PathFd, Ruleset,
    RulesetAttr, RulesetCreated, RulesetCreatedAttr, RulesetStatus, Scope,
};
use seccompiler::BpfProgram;
#[cfg(target_pointer_width = "64")]
use seccompiler::{
    SeccompAction, SeccompCmpArgLen, SeccompCmpOp, SeccompCondition, SeccompFilter, SeccompRule,
    TargetArch,
};

use super::{Door, backend::Backend};

/// The right to read what was declared, and nothing else.
#[derive(Debug)]
pub(crate) struct Confinement {
    rules: Option<RulesetCreated>,
    calls: Option<BpfProgram>,
    /// Whether files were left out on purpose.
    asks_processes: bool,
}

/// What of a confinement the kernel enforces.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Confined {
    /// Files and networks, by Landlock.
    pub files: Enforced,
    /// System calls, by a filter.
    pub calls: Enforced,
}

/// How far the kernel enforces something.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Enforced {
    /// All that Tectum knows to ask for.
    Whole,
    /// What the kernel knows of it; a newer one would more.
    InPart,
    /// Nothing: the kernel lacks it, or this processor.
    Nothing,
    /// Nothing, on purpose: other processes are asked about, of which the kernel tells nothing to who is confined so.
    LeftOut,
}

impl fmt::Display for Enforced {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::Whole => "as far as Tectum can ask",
            Self::InPart => "as far as this kernel can",
            Self::Nothing => "not at all, because this kernel cannot",
            Self::LeftOut => "not at all, because the kernel then tells nothing of other processes",
        })
    }
}

impl fmt::Display for Confined {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(
            f,
            "the threads that read are kept from other files and from networks {}, and from system \
             calls that do more than read {}",
            self.files, self.calls
        )
    }
}

/// How patterns of files begin that stand for any process.
const OTHER_PROCESSES: &str = "/proc/[0-9]*/";

/// The newest level of Landlock that is asked for; older kernels do what they can of it.
const NEWEST: ABI = ABI::V6;

impl Confinement {
    /// Confinement to what reading these patterns through a door needs; `None` where there is nothing
    /// to confine.
    pub(crate) fn to(door: &Door, patterns: &[&str]) -> Option<Self> {
        let live = match door.backend() {
            #[cfg(test)]
            Backend::Hanging(..) => return None,
            Backend::Tree(tree) => tree.is_live(),
            Backend::Archive(_) => false,
        };
        // Who is in a domain of Landlock's may trace nobody outside, and the kernel asks for that right before it
        // tells what a process read or holds.
        let asks_processes = live && patterns.iter().any(|one| one.starts_with(OTHER_PROCESSES));
        let rules = if asks_processes { None } else { rules(door, patterns) };
        // A folder is read by a call whose flags no filter sees; Landlock sees them.
        Some(Self { rules, calls: calls(live), asks_processes })
    }

    /// Confinement to calls that only read, on whatever file: for who asks what Landlock would hide, as what other
    /// processes hold open.
    pub(crate) fn of_calls() -> Self {
        Self { rules: None, calls: calls(true), asks_processes: true }
    }

    /// Confines the thread that calls it, for good, and says how far.
    pub(crate) fn enter(&self) -> Confined {
        let status = self
            .rules
            .as_ref()
            .and_then(|rules| rules.try_clone().ok())
            .and_then(|rules| rules.restrict_self().ok());
        let files = match status.map(|status| status.ruleset) {
            Some(RulesetStatus::FullyEnforced) => Enforced::Whole,
            Some(RulesetStatus::PartiallyEnforced) => Enforced::InPart,
            None if self.asks_processes => Enforced::LeftOut,
            Some(RulesetStatus::NotEnforced) | None => Enforced::Nothing,
        };
        let filtered = self.calls.as_ref().map(|calls| seccompiler::apply_filter(calls).is_ok());
        let calls = if filtered == Some(true) { Enforced::Whole } else { Enforced::Nothing };
        Confined { files, calls }
    }
}

fn rules(door: &Door, patterns: &[&str]) -> Option<RulesetCreated> {
    let mut rules = Ruleset::default()
        .set_compatibility(CompatLevel::BestEffort)
        .handle_access(AccessFs::from_all(NEWEST))
        .ok()?
        .handle_access(AccessNet::from_all(NEWEST))
        .ok()?
        .scope(Scope::from_all(NEWEST))
        .ok()?
        .create()
        .ok()?;
    let reading = AccessFs::ReadFile | AccessFs::ReadDir;
    match door.backend() {
        Backend::Archive(_) => {}
        #[cfg(test)]
        Backend::Hanging(..) => {}
        Backend::Tree(tree) if tree.is_live() => {
            for place in places(patterns) {
                // What is not there cannot be read either.
                let Ok(opened) = PathFd::new(&place) else { continue };
                let folder = Path::new(&place).is_dir();
                let allowed = if folder { reading } else { AccessFs::ReadFile.into() };
                rules = rules.add_rule(PathBeneath::new(opened, allowed)).ok()?;
            }
        }
        Backend::Tree(tree) => {
            rules = rules.add_rule(PathBeneath::new(tree.root(), reading)).ok()?;
        }
    }
    Some(rules)
}

/// System calls that do more than read, by what they do. None of them is made by a thread that reads.
#[cfg(target_pointer_width = "64")]
const REFUSED: &[i64] = &[
    // Networks.
    libc::SYS_socket,
    libc::SYS_socketpair,
    libc::SYS_connect,
    libc::SYS_bind,
    libc::SYS_listen,
    libc::SYS_accept4,
    libc::SYS_sendto,
    libc::SYS_sendmsg,
    // Programs and other processes.
    libc::SYS_execve,
    libc::SYS_execveat,
    libc::SYS_ptrace,
    libc::SYS_process_vm_readv,
    libc::SYS_process_vm_writev,
    libc::SYS_pidfd_getfd,
    libc::SYS_kill,
    libc::SYS_tkill,
    // What is mounted, loaded or running.
    libc::SYS_mount,
    libc::SYS_umount2,
    libc::SYS_move_mount,
    libc::SYS_open_tree,
    libc::SYS_fsopen,
    libc::SYS_fsmount,
    libc::SYS_pivot_root,
    libc::SYS_chroot,
    libc::SYS_unshare,
    libc::SYS_setns,
    libc::SYS_init_module,
    libc::SYS_finit_module,
    libc::SYS_delete_module,
    libc::SYS_kexec_load,
    libc::SYS_reboot,
    libc::SYS_swapon,
    libc::SYS_swapoff,
    libc::SYS_bpf,
    libc::SYS_perf_event_open,
    libc::SYS_keyctl,
    libc::SYS_io_uring_setup,
    libc::SYS_sethostname,
    libc::SYS_settimeofday,
    libc::SYS_clock_settime,
    // Files.
    libc::SYS_truncate,
    libc::SYS_ftruncate,
    libc::SYS_fallocate,
    libc::SYS_mkdirat,
    libc::SYS_mknodat,
    libc::SYS_unlinkat,
    libc::SYS_linkat,
    libc::SYS_symlinkat,
    libc::SYS_renameat2,
    libc::SYS_fchmod,
    libc::SYS_fchmodat,
    libc::SYS_fchown,
    libc::SYS_fchownat,
    libc::SYS_setxattr,
    libc::SYS_lsetxattr,
    libc::SYS_fsetxattr,
    libc::SYS_utimensat,
    libc::SYS_open_by_handle_at,
];

/// The same by the names that only old processors' kernels have.
#[cfg(target_arch = "x86_64")]
const REFUSED_OLD: &[i64] = &[
    libc::SYS_creat,
    libc::SYS_mkdir,
    libc::SYS_rmdir,
    libc::SYS_mknod,
    libc::SYS_unlink,
    libc::SYS_link,
    libc::SYS_symlink,
    libc::SYS_rename,
    libc::SYS_renameat,
    libc::SYS_chmod,
    libc::SYS_chown,
    libc::SYS_lchown,
    libc::SYS_accept,
    libc::SYS_fork,
    libc::SYS_vfork,
];
#[cfg(all(target_pointer_width = "64", not(target_arch = "x86_64")))]
const REFUSED_OLD: &[i64] = &[];

/// A filter that answers with an error what is refused; `None` on a processor that the filter's writer
/// does not know.
#[cfg(target_pointer_width = "64")]
fn calls(live: bool) -> Option<BpfProgram> {
    let mut rules: BTreeMap<i64, Vec<SeccompRule>> = BTreeMap::new();
    for call in REFUSED.iter().chain(REFUSED_OLD) {
        rules.insert(*call, Vec::new());
    }
    rules.insert(libc::SYS_openat, writing(2)?);
    #[cfg(target_arch = "x86_64")]
    rules.insert(libc::SYS_open, writing(1)?);
    if live {
        rules.insert(libc::SYS_openat2, Vec::new());
    }
    let refuse = SeccompAction::Errno(u32::try_from(libc::EPERM).ok()?);
    let processor = TargetArch::try_from(std::env::consts::ARCH).ok()?;
    let filter = SeccompFilter::new(rules, SeccompAction::Allow, refuse, processor).ok()?;
    filter.try_into().ok()
}

/// The filter's writer knows no processor of 32 bits.
#[cfg(not(target_pointer_width = "64"))]
fn calls(_: bool) -> Option<BpfProgram> {
    None
}

/// Flags of an opening that writes, in the argument of that number.
#[cfg(target_pointer_width = "64")]
fn writing(argument: u8) -> Option<Vec<SeccompRule>> {
    // The flag of nameless files stands beside that of folders, which reading has too.
    const NAMELESS: i32 = libc::O_TMPFILE & !libc::O_DIRECTORY;
    [
        (libc::O_ACCMODE, libc::O_WRONLY),
        (libc::O_ACCMODE, libc::O_RDWR),
        (libc::O_CREAT, libc::O_CREAT),
        (libc::O_TRUNC, libc::O_TRUNC),
        (NAMELESS, NAMELESS),
    ]
    .into_iter()
    .map(|(mask, value)| {
        let (mask, value) = (u64::try_from(mask).ok()?, u64::try_from(value).ok()?);
        let flags = SeccompCmpOp::MaskedEq(mask);
        let condition =
            SeccompCondition::new(argument, SeccompCmpArgLen::Dword, flags, value).ok()?;
        SeccompRule::new(vec![condition]).ok()
    })
    .collect()
}

/// The places that patterns begin at. The kernel's own filesystems are taken whole: their links
/// lead from one corner into another.
fn places(patterns: &[&str]) -> Vec<String> {
    let mut places: Vec<String> = patterns
        .iter()
        .map(|pattern| {
            for whole in ["/proc", "/sys"] {
                if pattern.starts_with(whole) {
                    return whole.to_owned();
                }
            }
            match pattern.find(['*', '?', '[', '{']) {
                None => (*pattern).to_owned(),
                Some(wild) => {
                    let literal = pattern.get(..wild).unwrap_or_default();
                    // What begins at the root has nothing before its slash.
                    match literal.rsplit_once('/') {
                        Some(("", _)) | None => "/".to_owned(),
                        Some((folder, _)) => folder.to_owned(),
                    }
                }
            }
        })
        .collect();
    places.sort_unstable();
    places.dedup();
    places
}

#[cfg(test)]
mod tests {
    use std::{fs, net::UdpSocket, process::Command, thread};

    use super::*;
    use crate::source::Tree;

    #[test]
    fn patterns_begin_at_places() {
        let patterns = ["/sys/block/**", "/proc/stat", "/run/udev/data/b*", "/etc/hostname"];
        assert_eq!(places(&patterns), ["/etc/hostname", "/proc", "/run/udev/data", "/sys"]);
        assert_eq!(places(&["/**"]), ["/"]);
    }

    /// Who may read everywhere is kept from writing, and from nothing else.
    #[test]
    fn reading_everywhere_is_no_reading_nowhere() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("there");
        fs::write(&path, "text").unwrap();
        let door = Door::new(Tree::live().unwrap());
        let confinement = Confinement::to(&door, &["/**"]).unwrap();
        let place = path.clone();
        let (read, written) = thread::spawn(move || {
            confinement.enter();
            (fs::read_to_string(&place), fs::write(&place, "other"))
        })
        .join()
        .unwrap();
        assert_eq!(read.unwrap(), "text");
        if written.is_ok() {
            // Said past the test runner, which would keep it to itself.
            use std::io::Write;
            writeln!(std::io::stderr(), "NOT SHOWN: this kernel confines nobody").unwrap();
        }
    }

    /// What a thread that is confined to the live machine's `/proc` finds when it does what no section
    /// may.
    #[test]
    fn each_rule_holds_from_inside() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("there");
        fs::write(&path, "before").unwrap();
        let door = Door::new(Tree::live().unwrap());
        let confinement = Confinement::to(&door, &["/proc/**"]).unwrap();
        let place = folder.path().to_owned();
        let broken = thread::spawn(move || {
            let confined = confinement.enter();
            let mut broken: Vec<&str> = Vec::new();
            let mut must_fail = |what: &'static str, held: bool| {
                if !held {
                    broken.push(what);
                }
            };
            assert!(fs::read("/proc/self/stat").is_ok(), "what is declared can be read");
            if confined.files != Enforced::Nothing {
                must_fail("reading another file", fs::read(place.join("there")).is_err());
                must_fail("listing another folder", fs::read_dir(&place).is_err());
            }
            if confined.calls != Enforced::Nothing {
                must_fail("a socket", UdpSocket::bind("127.0.0.1:0").is_err());
                must_fail("a program", Command::new("/bin/true").status().is_err());
                must_fail("tracing", nix::sys::ptrace::traceme().is_err());
                let none: Option<&str> = None;
                let flags = nix::mount::MsFlags::empty();
                let mounted = nix::mount::mount(none, &place, Some("tmpfs"), flags, none);
                must_fail("mounting", mounted.is_err());
            }
            if confined.files != Enforced::Nothing || confined.calls != Enforced::Nothing {
                must_fail("a new file", fs::File::create(place.join("new")).is_err());
                let open = fs::File::options().write(true).open(place.join("there"));
                must_fail("opening to write", open.is_err());
                must_fail("removing", fs::remove_file(place.join("there")).is_err());
                must_fail("renaming", fs::rename(place.join("there"), place.join("x")).is_err());
                must_fail("a folder", fs::create_dir(place.join("folder")).is_err());
            }
            (confined, broken)
        });
        let (confined, broken) = broken.join().unwrap();
        assert_eq!(broken, [""; 0], "{confined}");
        assert_eq!(fs::read_to_string(&path).unwrap(), "before");
        if confined.files == Enforced::Nothing || confined.calls == Enforced::Nothing {
            // Said past the test runner, which would keep it to itself.
            use std::io::Write;
            writeln!(std::io::stderr(), "NOT SHOWN in part: {confined}").unwrap();
        }
    }
}
