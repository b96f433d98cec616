//! Questions that may never be answered are asked by another process.
//!
//! A file or filesystem of a server that is gone can hold whoever asks for it in a sleep that nothing
//! ends, not even the end of the process, which then holds the terminal too. So what lies on network
//! and user-space filesystems is asked by a helper, which is left behind if it does not come back.

use std::{
    ffi::OsString,
    io::{self, BufRead, BufReader, Read, Write},
    os::unix::ffi::{OsStrExt, OsStringExt},
    path::{Path, PathBuf},
    process::{Child, ChildStdin, ChildStdout, Command, Stdio},
    sync::{
        Arc, Mutex, PoisonError,
        mpsc::{self, Sender},
    },
    thread,
};

use rustix::process::{Signal, set_parent_process_death_signal};

use super::{Confinement, Content, Door, Operation, Outcome, Tree, VolumeUse, tree::Want};
use crate::formats::mountinfo;

/// How a helper is begun: this program, with a word that makes it call [`answer_questions`].
#[derive(Debug, Clone)]
pub struct Helper {
    /// The program.
    pub program: PathBuf,
    /// Its only argument.
    pub word: &'static str,
}

/// Filesystems whose answers come from another machine or another process. `autofs` mounts such a one
/// when it is asked.
const ELSEWHERE: [&str; 20] = [
    "9p",
    "acfs",
    "afs",
    "autofs",
    "beegfs",
    "ceph",
    "cifs",
    "coda",
    "fuse",
    "fuseblk",
    "gfs2",
    "glusterfs",
    "gpfs",
    "lustre",
    "ncpfs",
    "nfs",
    "nfs4",
    "ocfs2",
    "smb3",
    "virtiofs",
];

/// More helpers than this are not left behind: a machine on which so many questions hang has told
/// enough.
const MOST_HELPERS: usize = 32;

/// The mounts of this machine on which answers come from elsewhere, and who asks there.
#[derive(Debug)]
pub(super) struct Aside {
    /// Each mount point, and whether its filesystem is such a one; a later mount covers an earlier.
    mounts: Vec<(PathBuf, bool)>,
    requests: Mutex<Sender<Request>>,
}

#[derive(Debug)]
struct Request {
    line: Vec<u8>,
    reply: Sender<Result<Vec<u8>, Outcome>>,
}

impl Aside {
    /// Who asks on the mounts of this text; nobody where all answers come from this kernel.
    pub(super) fn on(mounts: &str, helper: Helper) -> Option<Self> {
        let mounts: Vec<(PathBuf, bool)> = mountinfo::parse(mounts)
            .into_iter()
            .map(|mount| {
                let kind = mount.filesystem;
                let elsewhere = ELSEWHERE.contains(&kind) || kind.starts_with("fuse.");
                (PathBuf::from(&*mount.mount_point), elsewhere)
            })
            .collect();
        if !mounts.iter().any(|(_, elsewhere)| *elsewhere) {
            return None;
        }
        let (requests, heard) = mpsc::channel::<Request>();
        // This thread begins helpers, so it is not confined as those that read are; it ends with the
        // last who could ask it.
        let named = thread::Builder::new().name("asks-aside".to_owned());
        named.spawn(move || serve(&helper, &heard)).ok()?;
        Some(Self { mounts, requests: Mutex::new(requests) })
    }

    /// Whether a path lies where answers come from elsewhere.
    pub(super) fn holds(&self, path: &Path) -> bool {
        let covers = self.mounts.iter().filter(|(point, _)| path.starts_with(point));
        let nearest = covers
            .enumerate()
            .max_by_key(|(order, (point, _))| (point.components().count(), *order));
        nearest.is_some_and(|(_, (_, elsewhere))| *elsewhere)
    }

    fn ask(&self, operation: Operation, path: &Path, limit: usize) -> Result<Vec<u8>, Outcome> {
        let mut line = format!("{} {limit} ", operation.code()).into_bytes();
        line.extend(hex::encode(path.as_os_str().as_bytes()).bytes());
        line.push(b'\n');
        let (reply, answer) = mpsc::channel();
        let sent = {
            let requests = self.requests.lock().unwrap_or_else(PoisonError::into_inner);
            requests.send(Request { line, reply })
        };
        // Whoever waits for this thread gives it up at its deadline.
        match sent {
            Ok(()) => answer.recv().unwrap_or(Err(Outcome::TimedOut)),
            Err(_) => Err(Outcome::Failed("no helper could be begun".into())),
        }
    }

    pub(super) fn read(&self, path: &Path, limit: usize) -> Result<Content, Outcome> {
        let bytes = self.ask(Operation::Read, path, limit)?;
        let (cut, bytes) = bytes.split_first().ok_or(Outcome::Damaged)?;
        Ok(Content { bytes: bytes.into(), cut: *cut == 1 })
    }

    pub(super) fn list(&self, path: &Path) -> Result<(Vec<OsString>, bool), Outcome> {
        let bytes = self.ask(Operation::List, path, 0)?;
        let (cut, names) = bytes.split_first().ok_or(Outcome::Damaged)?;
        let names = names.split(|byte| *byte == 0).filter(|name| !name.is_empty());
        Ok((names.map(|name| OsString::from_vec(name.to_vec())).collect(), *cut == 1))
    }

    pub(super) fn resolve(&self, path: &Path) -> Result<PathBuf, Outcome> {
        Ok(OsString::from_vec(self.ask(Operation::Resolve, path, 0)?).into())
    }

    pub(super) fn statvfs(&self, path: &Path) -> Result<VolumeUse, Outcome> {
        let bytes = self.ask(Operation::Statvfs, path, 0)?;
        let text = String::from_utf8(bytes).map_err(|_| Outcome::Damaged)?;
        let numbers: Vec<u64> = text.split(' ').filter_map(|word| word.parse().ok()).collect();
        let [size_bytes, free_bytes, available_bytes, inodes, free_inodes] = *numbers else {
            return Err(Outcome::Damaged);
        };
        Ok(VolumeUse { size_bytes, free_bytes, available_bytes, inodes, free_inodes })
    }
}

/// A helper and the way to it.
struct Begun {
    child: Child,
    to: ChildStdin,
    from: BufReader<ChildStdout>,
}

/// Hands each request to a helper that is free, or to a new one.
fn serve(helper: &Helper, requests: &mpsc::Receiver<Request>) {
    let free: Arc<Mutex<Vec<Begun>>> = Arc::default();
    let mut begun = 0;
    while let Ok(request) = requests.recv() {
        let waiting = free.lock().unwrap_or_else(PoisonError::into_inner).pop();
        let one = match waiting {
            Some(one) => Ok(one),
            None if begun >= MOST_HELPERS => Err(Outcome::TimedOut),
            None => {
                begun += 1;
                begin(helper).map_err(|error| Outcome::Failed(error.kind().to_string().into()))
            }
        };
        match one {
            // Nobody may listen any more.
            Err(outcome) => drop(request.reply.send(Err(outcome))),
            Ok(one) => {
                let free = Arc::clone(&free);
                let named = thread::Builder::new().name("waits-aside".to_owned());
                let _ = named.spawn(move || exchange(one, &request, &free));
            }
        }
    }
}

fn begin(helper: &Helper) -> io::Result<Begun> {
    let mut child = Command::new(&helper.program)
        .arg(helper.word)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        // Nobody listens; a rescue system may have no /dev/null.
        .stderr(Stdio::piped())
        .env_clear()
        .current_dir("/")
        .spawn()?;
    let ways = (child.stdin.take(), child.stdout.take());
    let (Some(to), Some(from)) = ways else { return Err(io::ErrorKind::BrokenPipe.into()) };
    Ok(Begun { child, to, from: BufReader::new(from) })
}

fn exchange(mut one: Begun, request: &Request, free: &Mutex<Vec<Begun>>) {
    let answered = one.to.write_all(&request.line).and_then(|()| reply(&mut one.from));
    match answered {
        Ok(answer) => {
            free.lock().unwrap_or_else(PoisonError::into_inner).push(one);
            let _ = request.reply.send(answer);
        }
        Err(error) => {
            // It is of no more use; that it could not be ended either is nothing to act on.
            let _ = one.child.kill();
            let _ = request.reply.send(Err(Outcome::Failed(error.kind().to_string().into())));
        }
    }
}

/// Reads `CODE LENGTH`, and as many bytes behind the line.
fn reply(from: &mut impl BufRead) -> io::Result<Result<Vec<u8>, Outcome>> {
    let mut line = String::new();
    from.take(256).read_line(&mut line)?;
    let (code, length) = line.trim_end().rsplit_once(' ').ok_or(io::ErrorKind::InvalidData)?;
    let length: u64 = length.parse().map_err(|_| io::ErrorKind::InvalidData)?;
    let mut bytes = Vec::new();
    from.take(length).read_to_end(&mut bytes)?;
    if bytes.len() as u64 != length {
        return Err(io::ErrorKind::UnexpectedEof.into());
    }
    Ok(match Outcome::from_code(code) {
        Outcome::Done => Ok(bytes),
        refused => Err(refused),
    })
}

/// What a helper does: it answers questions from standard input until there are no more. It is kept
/// from all else, and ends when the process ends that began it.
///
/// # Errors
/// When nobody listens any more.
pub fn answer_questions() -> io::Result<()> {
    // Without it a helper that is left behind would outlive its sleep.
    let _ = set_parent_process_death_signal(Some(Signal::KILL));
    let tree = Tree::live().map_err(io::Error::other)?;
    let door = Door::new(tree);
    if let Some(confinement) = Confinement::to(&door, &["/**"]) {
        confinement.enter();
    }
    let mut out = io::stdout().lock();
    for line in io::stdin().lock().lines() {
        let (code, bytes) = match line.ok().as_deref().and_then(|line| answer(&door, line)) {
            Some(Ok(bytes)) => ("done".to_owned(), bytes),
            Some(Err(outcome)) => (outcome.code().to_owned(), Vec::new()),
            None => (Outcome::Unsupported.code().to_owned(), Vec::new()),
        };
        writeln!(out, "{code} {}", bytes.len())?;
        out.write_all(&bytes)?;
        out.flush()?;
    }
    Ok(())
}

fn answer(door: &Door, line: &str) -> Option<Result<Vec<u8>, Outcome>> {
    let mut words = line.split(' ');
    let word = words.next()?;
    let operation = *Operation::ALL.iter().find(|operation| operation.code() == word)?;
    let limit: usize = words.next()?.parse().ok()?;
    let path = PathBuf::from(OsString::from_vec(hex::decode(words.next()?).ok()?));
    let marked = |cut: bool, rest: Vec<u8>| {
        let mut bytes = vec![u8::from(cut)];
        bytes.extend(rest);
        bytes
    };
    let machine = door.backend();
    Some(match operation {
        Operation::Read => machine
            .read(&path, Want::UpTo(limit))
            .map(|content| marked(content.cut, content.bytes.to_vec())),
        Operation::List => machine.list(&path).map(|(names, cut)| {
            let mut bytes = Vec::new();
            for name in names {
                bytes.extend_from_slice(name.as_bytes());
                bytes.push(0);
            }
            marked(cut, bytes)
        }),
        Operation::Resolve => {
            machine.resolve(&path).map(|target| target.into_os_string().into_vec())
        }
        Operation::Statvfs => machine.statvfs(&path).map(|volume| {
            let VolumeUse { size_bytes, free_bytes, available_bytes, inodes, free_inodes } = volume;
            format!("{size_bytes} {free_bytes} {available_bytes} {inodes} {free_inodes}")
                .into_bytes()
        }),
        Operation::Uname => return None,
    })
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    const MOUNTS: &str = "22 1 8:1 / / rw - ext4 /dev/sda1 rw\n\
        30 22 0:40 / /srv/share rw - nfs4 files.example:/x rw\n\
        31 30 8:2 / /srv/share/local rw - ext4 /dev/sda2 rw\n\
        32 22 0:41 / /proc/cpuinfo rw - fuse.lxcfs lxcfs rw\n\
        33 22 0:42 / /mnt rw - fuse.helper x rw\n\
        34 22 8:3 / /mnt rw - xfs /dev/sdb1 rw\n";

    fn aside() -> Aside {
        let helper = Helper { program: "/bin/false".into(), word: "x" };
        Aside::on(MOUNTS, helper).unwrap()
    }

    #[rstest]
    #[case("/srv/share", true)]
    #[case("/srv/share/deep/file", true)]
    #[case("/srv/share/local/file", false)]
    #[case("/srv/shared", false)]
    #[case("/proc/cpuinfo", true)]
    #[case("/proc/stat", false)]
    #[case("/mnt/covered", false)]
    fn the_nearest_mount_decides(#[case] path: &str, #[case] elsewhere: bool) {
        assert_eq!(aside().holds(Path::new(path)), elsewhere);
    }

    #[test]
    fn a_helper_that_ends_is_an_error_and_no_hang() {
        let answer = aside().statvfs(Path::new("/srv/share"));
        assert!(matches!(answer, Err(Outcome::Failed(_))), "{answer:?}");
    }

    #[test]
    fn a_machine_without_such_mounts_needs_no_helper() {
        let helper = Helper { program: "/bin/false".into(), word: "x" };
        assert!(Aside::on("22 1 8:1 / / rw - ext4 /dev/sda1 rw\n", helper).is_none());
    }

    #[test]
    fn questions_are_answered_as_the_kernel_does() {
        let door = Door::new(Tree::live().unwrap());
        let ask = |operation: &str, path: &str| {
            answer(&door, &format!("{operation} 100 {}", hex::encode(path))).unwrap()
        };
        assert_eq!(ask("read", "/proc/sys/kernel/ostype").unwrap(), b"\0Linux\n");
        assert_eq!(ask("resolve", "/proc/..").unwrap(), b"/");
        assert!(ask("list", "/proc/sys").unwrap().windows(7).any(|part| part == b"kernel\0"));
        assert_eq!(ask("read", "/nowhere").unwrap_err(), Outcome::NotFound);
        assert!(answer(&door, "read x zz").is_none());
    }
}
