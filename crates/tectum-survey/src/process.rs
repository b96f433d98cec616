//! One process, asked about at a moment (`Documentation/filesystems/proc.rst`).
//!
//! It is asked of the running machine alone and never saved. Its environment is never read; its words only where
//! somebody says so.

use std::{
    collections::{BTreeMap, BTreeSet, HashSet},
    fs,
    io::{self, Read},
    net::{IpAddr, Ipv4Addr, Ipv6Addr, SocketAddr},
    os::unix::ffi::OsStrExt,
    path::{Path, PathBuf},
    sync::mpsc,
    thread,
    time::Duration,
};

use jiff::{SignedDuration, Timestamp};
use rustix::io::Errno;
use tectum_report::{
    model::ProcessState,
    process::{
        MemoryByKind, MountSeen, Namespace, OpenFiles, OpenKind, ProcessCard, ProcessGap, Relative,
    },
};

use crate::{
    formats::{
        colon, mountinfo, number,
        process::{self as format, TICKS},
    },
    own_time::said_within,
    sections::process_state,
    source::{Confinement, bytes_text, outcome_of, path_text},
};

/// Why a process cannot be told.
#[derive(Debug, thiserror::Error)]
pub enum ProcessError {
    /// There is none of that number.
    #[error("there is no process {pid} here, or it is hidden from this user")]
    None {
        /// The number.
        pid: u64,
    },
    /// The kernel did not answer.
    #[error("the kernel did not answer in time what process {pid} does")]
    NoAnswer {
        /// The number.
        pid: u64,
    },
}

/// So much of a file is read.
const LIMIT: u64 = 4 << 20;

/// So many parents are followed.
const MOST_PARENTS: usize = 64;

/// So many open files are looked at.
const MOST_OPEN: usize = 1 << 20;

/// So many mounts and addresses are told.
const MOST_TOLD: usize = 100;

/// What a process does, and what it holds.
///
/// # Errors
/// When there is none of that number, or the kernel does not answer within the deadline.
pub fn look(pid: u64, with_words: bool, deadline: Duration) -> Result<ProcessCard, ProcessError> {
    let (say, heard) = mpsc::channel();
    let named = thread::Builder::new().name("asks-process".to_owned());
    let begun = named.spawn(move || {
        // What a process holds is not told to who is kept from files: the calls alone are filtered.
        Confinement::of_calls().enter();
        let _ = say.send(Asking::new(pid).card(with_words));
    });
    let no_answer = ProcessError::NoAnswer { pid };
    if begun.is_err() {
        return Err(no_answer);
    }
    match said_within(&heard, deadline) {
        Ok(card) => card.ok_or(ProcessError::None { pid }),
        Err(_) => Err(no_answer),
    }
}

struct Asking {
    pid: u64,
    root: PathBuf,
    gaps: Vec<ProcessGap>,
}

impl Asking {
    fn new(pid: u64) -> Self {
        Self { pid, root: PathBuf::from(format!("/proc/{pid}")), gaps: Vec::new() }
    }

    fn failed(&mut self, path: &Path, error: &io::Error) {
        let errno = Errno::from_io_error(error).unwrap_or(Errno::IO);
        let path = path_text(path).into_owned();
        self.gaps.push(ProcessGap { path, why: outcome_of(errno) });
    }

    /// A file of the process; what cannot be read is a gap.
    fn text(&mut self, name: &str) -> String {
        let path = self.root.join(name);
        match read(&path) {
            Ok(bytes) => bytes_text(&bytes).into_owned(),
            Err(error) => {
                self.failed(&path, &error);
                String::new()
            }
        }
    }

    fn link(&mut self, name: &str) -> Option<String> {
        let path = self.root.join(name);
        match fs::read_link(&path) {
            Ok(target) => Some(path_text(&target).into_owned()),
            Err(error) => {
                self.failed(&path, &error);
                None
            }
        }
    }

    fn card(mut self, with_words: bool) -> Option<ProcessCard> {
        let text = bytes_text(&read(&self.root.join("stat")).ok()?).into_owned();
        let stat = format::stat(&text)?;
        let mut card = ProcessCard::new(self.pid, Timestamp::now());
        card.name = stat.name.to_owned();
        card.state = process_state(stat.state).map(|state| state.code().to_owned());
        card.threads = stat.threads;
        let ticks = stat.user_ticks.saturating_add(stat.system_ticks);
        card.processor_time_ms = ticks.saturating_mul(1000 / TICKS);
        card.started = started(stat.started_ticks);
        card.parents = parents(stat.parent);
        if process_state(stat.state) == Some(ProcessState::WaitingForDevice) {
            card.waits_in = Some(self.text("wchan")).filter(|place| !matches!(&**place, "" | "0"));
        }
        self.status(&mut card);
        if !stat.is_kernel_thread() {
            card.program = self.link("exe");
            if let Some(bare) = card.program.as_deref().and_then(|it| it.strip_suffix(DELETED)) {
                card.program = Some(bare.to_owned());
                card.program_deleted = true;
            }
            let rollup = self.text("smaps_rollup");
            card.memory.proportional_bytes = amount(&rollup, "Pss");
        }
        if with_words {
            let words = self.text("cmdline");
            let words = words.trim_end_matches('\0').split('\0').map(str::to_owned);
            card.command_line = Some(words.filter(|word| !word.is_empty()).collect());
        }
        let io = self.text("io");
        card.read_bytes = counted(&io, "read_bytes");
        card.written_bytes = counted(&io, "write_bytes");
        card.control_group = format::control_group(&self.text("cgroup")).map(str::to_owned);
        self.open_files(&mut card.open_files);
        self.namespaces(&mut card);
        card.gaps = self.gaps;
        Some(card)
    }

    fn status(&mut self, card: &mut ProcessCard) {
        let text = self.text("status");
        let effective = |key: &str| {
            let blocks = colon::blocks(&text);
            number::decimal(colon::find_first(&blocks, key)?.value.split_ascii_whitespace().nth(1)?)
        };
        card.user_id = effective("Uid");
        card.group_id = effective("Gid");
        card.memory = MemoryByKind {
            resident_bytes: amount(&text, "VmRSS"),
            peak_bytes: amount(&text, "VmHWM"),
            anonymous_bytes: amount(&text, "RssAnon"),
            file_bytes: amount(&text, "RssFile"),
            shared_bytes: amount(&text, "RssShmem"),
            locked_bytes: amount(&text, "VmLck"),
            swapped_bytes: amount(&text, "VmSwap"),
            proportional_bytes: None,
        };
    }

    fn open_files(&mut self, open: &mut OpenFiles) {
        open.limit = self.text("limits").lines().find_map(|line| {
            let rest = line.strip_prefix("Max open files")?;
            number::decimal(rest.split_ascii_whitespace().next()?)
        });
        let folder = self.root.join("fd");
        let entries = match fs::read_dir(&folder) {
            Ok(entries) => entries,
            Err(error) => return self.failed(&folder, &error),
        };
        let mut kinds: BTreeMap<&'static str, u64> = BTreeMap::new();
        let mut sockets = HashSet::new();
        let mut count = 0;
        for entry in entries.flatten().take(MOST_OPEN) {
            // It may have been closed meanwhile.
            let Ok(target) = fs::read_link(entry.path()) else { continue };
            let (kind, socket) = kind_of(target.as_os_str().as_bytes());
            *kinds.entry(kind).or_default() += 1;
            sockets.extend(socket);
            count += 1;
        }
        open.count = Some(count);
        open.kinds = counts(kinds);
        if !sockets.is_empty() {
            self.sockets(&sockets, open);
        }
    }

    fn sockets(&mut self, own: &HashSet<u64>, open: &mut OpenFiles) {
        let mut kinds: BTreeMap<&'static str, u64> = BTreeMap::new();
        let mut known = 0;
        let mut listens = BTreeSet::new();
        for kind in ["tcp", "tcp6", "udp", "udp6"] {
            let text = self.text(&format!("net/{kind}"));
            for socket in text.lines().filter_map(|line| internet(line, kind)) {
                if !own.contains(&socket.inode) {
                    continue;
                }
                known += 1;
                *kinds.entry(kind).or_default() += 1;
                if socket.listens {
                    listens.insert(format!("{kind} {}", socket.local));
                }
            }
        }
        for line in self.text("net/unix").lines() {
            let inode = line.split_ascii_whitespace().nth(6).and_then(number::decimal);
            if inode.is_some_and(|inode| own.contains(&inode)) {
                known += 1;
                *kinds.entry("unix").or_default() += 1;
            }
        }
        let other = (own.len() as u64).saturating_sub(known);
        if other > 0 {
            kinds.insert("other", other);
        }
        open.sockets = counts(kinds);
        open.listens = listens.into_iter().take(MOST_TOLD).collect();
    }

    fn namespaces(&mut self, card: &mut ProcessCard) {
        let folder = self.root.join("ns");
        let entries = match fs::read_dir(&folder) {
            Ok(entries) => entries,
            Err(error) => return self.failed(&folder, &error),
        };
        let names: BTreeSet<String> = entries
            .flatten()
            .filter_map(|entry| entry.file_name().into_string().ok())
            .filter(|name| !name.ends_with("_for_children"))
            .collect();
        for kind in names {
            let Some(inode) = self.link(&format!("ns/{kind}")).as_deref().and_then(in_brackets)
            else {
                continue;
            };
            // Process 1 may be kept from being asked, in a container and elsewhere; then who asks is the measure.
            let other = ["1", "self"].into_iter().find_map(|other| {
                let target = fs::read_link(format!("/proc/{other}/ns/{kind}")).ok()?;
                Some((other, in_brackets(&path_text(&target))?))
            });
            let is_own = other.map(|(_, other)| other != inode);
            if let Some((other, _)) = other.filter(|_| kind == "mnt" && is_own == Some(true)) {
                card.mounts = self.mounts(other);
            }
            card.namespaces.push(Namespace { kind, inode, is_own });
        }
    }

    /// What it sees mounted otherwise than another process.
    fn mounts(&mut self, other: &str) -> Vec<MountSeen> {
        let own = self.text("mountinfo");
        let path = PathBuf::from(format!("/proc/{other}/mountinfo"));
        let first = match read(&path) {
            Ok(bytes) => bytes_text(&bytes).into_owned(),
            Err(error) => {
                self.failed(&path, &error);
                return Vec::new();
            }
        };
        let of = |text: &str| -> BTreeSet<(String, String)> {
            let mounts = mountinfo::parse(text);
            let pair = |mount: &mountinfo::Mount<'_>| {
                (mount.mount_point.clone().into_owned(), mount.filesystem.to_owned())
            };
            mounts.iter().map(pair).collect()
        };
        let (own, first) = (of(&own), of(&first));
        let told = |seen: bool| {
            move |(mount_point, kind): &(String, String)| MountSeen {
                mount_point: mount_point.clone(),
                kind: kind.clone(),
                seen,
            }
        };
        let more = own.difference(&first).map(told(true));
        more.chain(first.difference(&own).map(told(false))).take(MOST_TOLD).collect()
    }
}

/// What the kernel writes behind the path of what was deleted.
const DELETED: &str = " (deleted)";

fn read(path: &Path) -> io::Result<Vec<u8>> {
    let mut bytes = Vec::new();
    fs::File::open(path)?.take(LIMIT).read_to_end(&mut bytes)?;
    Ok(bytes)
}

/// The amount of a line `KEY: NUMBER kB`, in bytes.
fn amount(text: &str, key: &str) -> Option<u64> {
    number::kibibytes(colon::find_first(&colon::blocks(text), key)?.value)
}

fn counted(text: &str, key: &str) -> Option<u64> {
    number::decimal(colon::find_first(&colon::blocks(text), key)?.value)
}

fn counts(kinds: BTreeMap<&'static str, u64>) -> Vec<OpenKind> {
    let of = |(kind, count): (&str, u64)| OpenKind { kind: kind.to_owned(), count };
    kinds.into_iter().map(of).collect()
}

/// `net:[4026531840]`
fn in_brackets(text: &str) -> Option<u64> {
    text.split_once('[')?.1.strip_suffix(']')?.parse().ok()
}

/// What a descriptor stands for, and the number of a socket.
fn kind_of(target: &[u8]) -> (&'static str, Option<u64>) {
    let text = bytes_text(target);
    let starts = |word: &str| text.starts_with(word);
    if starts("socket:") {
        return ("socket", in_brackets(&text));
    }
    let kind = if starts("pipe:") {
        "pipe"
    } else if starts("anon_inode:") {
        "event"
    } else if starts("/memfd:") {
        "memory"
    } else if starts("/dev/") {
        "device"
    } else if text.ends_with(DELETED) {
        "deleted file"
    } else if starts("/") {
        "file"
    } else {
        "other"
    };
    (kind, None)
}

/// A line of `/proc/PID/net/tcp` or a neighbour of it.
struct Internet {
    inode: u64,
    local: SocketAddr,
    listens: bool,
}

/// `sl local_address rem_address st … inode`; the address is the machine's words in hexadecimal.
fn internet(line: &str, kind: &str) -> Option<Internet> {
    let fields: Vec<&str> = line.split_ascii_whitespace().collect();
    let (address, port) = fields.get(1)?.split_once(':')?;
    let port = u16::from_str_radix(port, 16).ok()?;
    let words: Vec<u32> = (0..address.len() / 8)
        .map(|index| u32::from_str_radix(address.get(index * 8..index * 8 + 8)?, 16).ok())
        .collect::<Option<_>>()?;
    let bytes: Vec<u8> = words.iter().flat_map(|word| word.to_ne_bytes()).collect();
    let address: IpAddr = match *bytes {
        [a, b, c, d] => Ipv4Addr::new(a, b, c, d).into(),
        _ => Ipv6Addr::from(<[u8; 16]>::try_from(&*bytes).ok()?).into(),
    };
    // TCP_LISTEN; a UDP socket that is connected to nobody hears everybody.
    let waits = if kind.starts_with("tcp") { "0A" } else { "07" };
    Some(Internet {
        inode: number::decimal(fields.get(9)?)?,
        local: SocketAddr::new(address, port),
        listens: *fields.get(3)? == waits,
    })
}

fn started(ticks: u64) -> Option<Timestamp> {
    let text = bytes_text(&read(Path::new("/proc/stat")).ok()?).into_owned();
    let booted = text.lines().find_map(|line| line.strip_prefix("btime "))?.trim().parse().ok()?;
    let after = SignedDuration::from_secs(i64::try_from(ticks / TICKS).ok()?);
    Timestamp::from_second(booted).ok()?.checked_add(after).ok()
}

fn parents(first: u64) -> Vec<Relative> {
    let mut all: Vec<Relative> = Vec::new();
    let mut next = first;
    while next != 0 && all.len() < MOST_PARENTS && all.iter().all(|one| one.pid != next) {
        let Ok(bytes) = read(Path::new(&format!("/proc/{next}/stat"))) else { break };
        let text = bytes_text(&bytes);
        let Some(stat) = format::stat(&text) else { break };
        all.push(Relative { pid: next, name: stat.name.to_owned() });
        next = stat.parent;
    }
    all
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("socket:[4711]", "socket", Some(4711))]
    #[case("pipe:[12]", "pipe", None)]
    #[case("anon_inode:[eventpoll]", "event", None)]
    #[case("/memfd:tide (deleted)", "memory", None)]
    #[case("/dev/null", "device", None)]
    #[case("/srv/gauges/north.log (deleted)", "deleted file", None)]
    #[case("/srv/gauges/north.log", "file", None)]
    #[case("net:[4026531840]", "other", None)]
    fn what_a_descriptor_stands_for(
        #[case] target: &str,
        #[case] kind: &str,
        #[case] socket: Option<u64>,
    ) {
        assert_eq!(kind_of(target.as_bytes()), (kind, socket));
    }

    #[test]
    fn addresses_are_the_machines_words() {
        let words = |bytes: [u8; 4]| format!("{:08X}", u32::from_ne_bytes(bytes));
        let line = format!(
            "   0: {}:01BB 00000000:0000 0A 00000000:00000000 00:00000000 00000000     0        0 4711 1",
            words([127, 0, 0, 1])
        );
        let own = internet(&line, "tcp").unwrap();
        assert_eq!(
            (own.local.to_string(), own.inode, own.listens),
            ("127.0.0.1:443".into(), 4711, true)
        );
        assert!(!internet(&line, "udp").unwrap().listens);
        let zeros = [words([0; 4]), words([0; 4]), words([0; 4]), words([0, 0, 0, 1])].concat();
        let line = line.replace(&words([127, 0, 0, 1]), &zeros);
        assert_eq!(internet(&line, "tcp6").unwrap().local.to_string(), "[::1]:443");
        for wrong in ["", "sl local_address rem_address st", "0: 7F:01BB x 0A", "0: ééé:01BB x 0A"]
        {
            assert!(internet(wrong, "tcp").is_none(), "{wrong}");
        }
    }
}
