//! Files that were deleted and are still held open: `/proc/PID/fd` and `/proc/PID/map_files` (proc(5)).

use std::{
    collections::{BTreeMap, HashSet},
    fs,
    io::Read,
    os::unix::ffi::OsStrExt,
    path::{Path, PathBuf},
    sync::{
        Arc,
        atomic::{AtomicU64, Ordering},
        mpsc::{self, RecvTimeoutError},
    },
    thread,
    time::Duration,
};

use rustix::{
    fs::{AtFlags, CWD, FileType},
    io::Errno,
};
use tectum_report::space::{DeletedFile, Holder};

use super::ASKED;
use crate::{
    own_time::{OwnTime, Still},
    source::{Confinement, bytes_text},
};

/// What processes hold open of what was deleted.
#[derive(Debug, Default)]
pub(super) struct Deleted {
    /// The largest first.
    pub(super) files: Vec<DeletedFile>,
    /// Processes that did not let themselves be asked.
    pub(super) processes_not_asked: u64,
}

/// What the kernel writes behind the path of what was deleted.
const MARK: &[u8] = b" (deleted)";

/// So much of a table of what is mapped is read.
const MAPS_LIMIT: u64 = 4 << 20;

/// So many holders of one file are told.
const MOST_HOLDERS: usize = 20;

/// How often to look whether anything moved.
const TICK: Duration = Duration::from_millis(25);

/// Deleted files on some devices that are held open. Where the kernel does not answer within the deadline, nothing
/// is told, and no process counts as asked.
pub(super) fn deleted(devices: &HashSet<(u32, u32)>, deadline: Duration) -> Deleted {
    let pids = pids();
    let all = pids.len() as u64;
    let moved: Arc<AtomicU64> = Arc::default();
    let (say, heard) = mpsc::channel();
    let (devices, own) = (devices.clone(), Arc::clone(&moved));
    let named = thread::Builder::new().name("asks-processes".to_owned());
    let begun = named.spawn(move || {
        // What a process holds open is not told to who is kept from files: the calls alone are filtered.
        Confinement::of_calls().enter();
        let _ = say.send(of_processes(&pids, &devices, &own));
    });
    let none = Deleted { files: Vec::new(), processes_not_asked: all };
    if begun.is_err() {
        return none;
    }
    let (mut clock, mut still) = (OwnTime::begin(), Still::default());
    loop {
        let found = heard.recv_timeout(TICK);
        let now = clock.look();
        match found {
            Ok(found) => return found,
            Err(RecvTimeoutError::Disconnected) => return none,
            Err(RecvTimeoutError::Timeout) => {
                if still.at(moved.load(Ordering::Relaxed), now) > deadline {
                    return none;
                }
            }
        }
    }
}

/// The processes that are there.
fn pids() -> Vec<u32> {
    let Ok(entries) = fs::read_dir("/proc") else { return Vec::new() };
    let own = std::process::id();
    let names = entries.flatten().filter_map(|entry| entry.file_name().to_str()?.parse().ok());
    names.filter(|pid| *pid != own).collect()
}

type Found = BTreeMap<(u32, u32, u64), DeletedFile>;

fn of_processes(pids: &[u32], devices: &HashSet<(u32, u32)>, moved: &AtomicU64) -> Deleted {
    let mut found = Found::new();
    let mut processes_not_asked = 0;
    for pid in pids {
        let process = PathBuf::from(format!("/proc/{pid}"));
        moved.fetch_add(1, Ordering::Relaxed);
        match of_process(&process, *pid, devices, moved, &mut found) {
            Ok(()) => {}
            // It ended meanwhile.
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => {}
            Err(error) if Errno::from_io_error(&error) == Some(Errno::SRCH) => {}
            Err(_) => processes_not_asked += 1,
        }
    }
    let mut files: Vec<DeletedFile> = found.into_values().collect();
    files.sort_by(|one, other| {
        other.allocated_bytes.cmp(&one.allocated_bytes).then_with(|| one.path.cmp(&other.path))
    });
    Deleted { files, processes_not_asked }
}

fn of_process(
    process: &Path,
    pid: u32,
    devices: &HashSet<(u32, u32)>,
    moved: &AtomicU64,
    found: &mut Found,
) -> std::io::Result<()> {
    for entry in fs::read_dir(process.join("fd"))? {
        moved.fetch_add(1, Ordering::Relaxed);
        let link = entry?.path();
        let descriptor = link.file_name().and_then(|name| name.to_str()?.parse().ok());
        // It may have been closed meanwhile.
        let Ok(path) = fs::read_link(&link) else { continue };
        met(process, pid, descriptor, &link, &path, devices, found);
    }
    // What is mapped only is found too; its table may be kept from who may see the descriptors.
    let mut maps = Vec::new();
    let opened = fs::File::open(process.join("maps"));
    if opened.and_then(|file| file.take(MAPS_LIMIT).read_to_end(&mut maps)).is_err() {
        return Ok(());
    }
    for line in maps.split(|byte| *byte == b'\n').filter(|line| line.ends_with(MARK)) {
        moved.fetch_add(1, Ordering::Relaxed);
        let Some(range) = line.split(|byte| *byte == b' ').next() else { continue };
        let link = process.join("map_files").join(&*bytes_text(range));
        let Ok(path) = fs::read_link(&link) else { continue };
        met(process, pid, None, &link, &path, devices, found);
    }
    Ok(())
}

fn met(
    process: &Path,
    pid: u32,
    descriptor: Option<u32>,
    link: &Path,
    path: &Path,
    devices: &HashSet<(u32, u32)>,
    found: &mut Found,
) {
    let bytes = path.as_os_str().as_bytes();
    let Some(path) = bytes.strip_suffix(MARK) else { return };
    let Ok(status) = rustix::fs::statx(CWD, link, AtFlags::STATX_DONT_SYNC, ASKED) else { return };
    let device = (status.stx_dev_major, status.stx_dev_minor);
    let is_file = FileType::from_raw_mode(status.stx_mode.into()) == FileType::RegularFile;
    if status.stx_nlink > 0 || status.stx_blocks == 0 || !is_file || !devices.contains(&device) {
        return;
    }
    let file = found.entry((device.0, device.1, status.stx_ino)).or_insert_with(|| DeletedFile {
        path: bytes_text(path).into_owned(),
        allocated_bytes: status.stx_blocks.saturating_mul(512),
        apparent_bytes: status.stx_size,
        held_by: Vec::new(),
    });
    let known = file.held_by.iter().any(|holder| holder.pid == pid);
    if !known && file.held_by.len() < MOST_HOLDERS {
        let name = fs::read(process.join("comm")).unwrap_or_default();
        let name = bytes_text(name.trim_ascii_end()).into_owned();
        file.held_by.push(Holder { pid, name, descriptor });
    }
}
