//! Files of an archive: read no longer than such a file is, written whole or not at all.

use std::{
    fs::{File, Metadata},
    io::{self, Write},
    os::{fd::AsFd, unix::fs::MetadataExt},
    path::Path,
};

use rustix::{
    buffer::spare_capacity,
    fs::{Mode, OFlags},
};
use tectum_report::save::{
    step::{Step, step},
    write_whole,
};

use crate::store::StoreError;

/// The most bytes of a file, packed or unpacked: many times what the largest machine gives.
pub(super) const MOST_BYTES: usize = if cfg!(test) { 4 << 20 } else { 256 << 20 };

fn failed(path: &Path) -> impl Fn(io::Error) -> StoreError + use<> {
    let path = path.to_owned();
    move |cause| StoreError::Io { doing: "read", path: path.clone(), cause }
}

pub(super) fn damaged(path: &Path, said: impl Into<String>) -> StoreError {
    StoreError::Damaged { what: path.display().to_string(), said: said.into() }
}

/// Opens a file, and says what stands there. What is no regular file is not opened.
fn open(path: &Path, how: OFlags) -> Result<(File, Metadata), StoreError> {
    let failed = failed(path);
    let flags = how | OFlags::NOFOLLOW | OFlags::NONBLOCK | OFlags::CLOEXEC;
    let file =
        rustix::fs::open(path, flags, Mode::empty()).map_err(|cause| failed(cause.into()))?;
    let file = File::from(file);
    let stands = file.metadata().map_err(failed)?;
    match stands.is_file() {
        true => Ok((file, stands)),
        false => Err(damaged(path, "no file stands there")),
    }
}

/// The bytes of a file. What is no regular file is not read.
pub(super) fn read(path: &Path) -> Result<Vec<u8>, StoreError> {
    let (file, stands) = open(path, OFlags::RDONLY)?;
    let length = usize::try_from(stands.len()).unwrap_or(usize::MAX).min(MOST_BYTES);
    let mut bytes = Vec::with_capacity(length + 1);
    loop {
        if bytes.len() == bytes.capacity() {
            bytes.reserve(4096);
        }
        match rustix::io::read(&file, spare_capacity(&mut bytes)) {
            Ok(0) => return Ok(bytes),
            Ok(_) | Err(rustix::io::Errno::INTR) => {}
            Err(cause) => return Err(failed(path)(cause.into())),
        }
        if bytes.len() > MOST_BYTES {
            return Err(damaged(path, format!("it is longer than {MOST_BYTES} bytes")));
        }
    }
}

/// Writes a file.
pub(super) fn write(path: &Path, bytes: &[u8]) -> Result<(), StoreError> {
    write_whole(path, |to| to.write_all(bytes))?;
    Ok(())
}

/// Writes over what stands in a file of the same length, in one go; whether there was one. It comes onto the
/// disk when the system brings it there.
pub(super) fn write_over(path: &Path, bytes: &[u8]) -> Result<bool, StoreError> {
    let Ok((file, stands)) = open(path, OFlags::WRONLY) else { return Ok(false) };
    if stands.len() != bytes.len() as u64 || stands.nlink() != 1 {
        return Ok(false);
    }
    let failed = |cause| StoreError::Io { doing: "write", path: path.to_owned(), cause };
    step(Step::Write).map_err(failed)?;
    (&file).write_all(bytes).map_err(failed)?;
    Ok(true)
}

/// Makes a folder that only its owner may enter, if it is not there; its name is on the disk.
pub(super) fn make_folder(path: &Path) -> Result<(), StoreError> {
    let failed = |cause| StoreError::Io { doing: "make", path: path.to_owned(), cause };
    if path.is_dir() {
        return Ok(());
    }
    let above = path.parent().filter(|above| !above.as_os_str().is_empty());
    if let Some(above) = above {
        make_folder_above(above).map_err(failed)?;
    }
    step(Step::MakeFolder).map_err(failed)?;
    match rustix::fs::mkdir(path, Mode::RWXU) {
        Ok(()) | Err(rustix::io::Errno::EXIST) => {}
        Err(cause) => return Err(failed(cause.into())),
    }
    sync_folder(above.unwrap_or(Path::new(".")));
    Ok(())
}

/// The folders above an archive are made as others make theirs.
fn make_folder_above(path: &Path) -> io::Result<()> {
    if path.is_dir() {
        return Ok(());
    }
    step(Step::MakeFolder)?;
    std::fs::create_dir_all(path)
}

/// A name is only safe once its folder is on the disk. A filesystem that cannot sync folders has done all
/// it can.
fn sync_folder(path: &Path) {
    if step(Step::SyncFolder).is_ok()
        && let Ok(folder) = File::open(path)
    {
        let _ = rustix::fs::fsync(folder.as_fd());
    }
}

/// Removes a file, if it is there.
pub(super) fn remove(path: &Path) -> Result<(), StoreError> {
    let failed = |cause| StoreError::Io { doing: "remove", path: path.to_owned(), cause };
    step(Step::Remove).map_err(failed)?;
    match std::fs::remove_file(path) {
        Err(cause) if cause.kind() != io::ErrorKind::NotFound => Err(failed(cause)),
        _ => Ok(()),
    }
}

/// The names in a folder, sorted; none where there is no folder.
pub(super) fn names(path: &Path) -> Result<Vec<String>, StoreError> {
    let failed = |cause| StoreError::Io { doing: "list", path: path.to_owned(), cause };
    let entries = match std::fs::read_dir(path) {
        Err(cause) if cause.kind() == io::ErrorKind::NotFound => return Ok(Vec::new()),
        entries => entries.map_err(failed)?,
    };
    let mut names = Vec::new();
    for entry in entries {
        // A name that is no text is nothing of an archive's.
        if let Ok(name) = entry.map_err(failed)?.file_name().into_string() {
            names.push(name);
        }
    }
    names.sort();
    Ok(names)
}
