//! Files of an archive: read no longer than such a file is, written whole or not at all.

use std::{
    fs::File,
    io::{self, Read},
    path::{Path, PathBuf},
};

use rustix::fs::{Mode, OFlags};
use tectum_report::save::{
    Together,
    step::{Step, step},
};

use super::pack::{pack, unpacked, unpacked_in_part};
use crate::{store::StoreError, written::State};

/// The most bytes of a file, packed or unpacked: many times what the largest machine gives.
const MOST_BYTES: u64 = 256 << 20;

/// Behind the name of a file that is packed.
pub(super) const PACKED: &str = ".zst";

fn is_packed(path: &Path) -> bool {
    path.as_os_str().as_encoded_bytes().ends_with(PACKED.as_bytes())
}

fn failed(path: &Path) -> impl Fn(io::Error) -> StoreError + use<> {
    let path = path.to_owned();
    move |cause| StoreError::Io { doing: "read", path: path.clone(), cause }
}

fn damaged(path: &Path, said: String) -> StoreError {
    StoreError::Damaged { what: path.display().to_string(), said }
}

/// Opens a file to be read. What is no regular file is not.
fn open(path: &Path) -> Result<File, StoreError> {
    let failed = failed(path);
    let flags = OFlags::RDONLY | OFlags::NOFOLLOW | OFlags::NONBLOCK | OFlags::CLOEXEC;
    let file =
        rustix::fs::open(path, flags, Mode::empty()).map_err(|cause| failed(cause.into()))?;
    let file = File::from(file);
    match file.metadata().map_err(failed)?.is_file() {
        true => Ok(file),
        false => Err(damaged(path, "no file stands there".to_owned())),
    }
}

/// The text of a file, unpacked where its name says that it is packed. What is no regular file is not read.
pub(super) fn read(path: &Path) -> Result<Vec<u8>, StoreError> {
    let bytes = read_as_is(path)?;
    if !is_packed(path) {
        return Ok(bytes);
    }
    match unpacked(&bytes, most_bytes()) {
        Some(text) => Ok(text),
        None => read_otherwise_packed(path, &bytes),
    }
}

/// The text of a state with these sections, if it is laid out so that they can be told; else the whole.
pub(super) fn read_in_part(path: &Path, sections: &[&str]) -> Result<Vec<u8>, StoreError> {
    let bytes = read_as_is(path)?;
    if !is_packed(path) {
        return Ok(State::text_in_part(&bytes, sections).unwrap_or(bytes));
    }
    match unpacked_in_part(&bytes, sections, most_bytes()) {
        Some(text) => Ok(text),
        None => read(path),
    }
}

/// What somebody else packed, or damaged.
fn read_otherwise_packed(path: &Path, bytes: &[u8]) -> Result<Vec<u8>, StoreError> {
    let mut text = Vec::new();
    zstd::Decoder::new(bytes)
        .and_then(|decoder| decoder.take(MOST_BYTES + 1).read_to_end(&mut text))
        .map_err(|cause| damaged(path, format!("it cannot be unpacked: {cause}")))?;
    bounded(path, text)
}

/// The bytes of a file.
fn read_as_is(path: &Path) -> Result<Vec<u8>, StoreError> {
    let mut bytes = Vec::new();
    open(path)?.take(MOST_BYTES + 1).read_to_end(&mut bytes).map_err(failed(path))?;
    bounded(path, bytes)
}

fn bounded(path: &Path, bytes: Vec<u8>) -> Result<Vec<u8>, StoreError> {
    match bytes.len() as u64 > MOST_BYTES {
        true => Err(damaged(path, format!("it is longer than {MOST_BYTES} bytes"))),
        false => Ok(bytes),
    }
}

fn most_bytes() -> usize {
    usize::try_from(MOST_BYTES).unwrap_or(usize::MAX)
}

/// Writes a file, packed where its name says so.
pub(super) fn write(path: &Path, text: &[u8]) -> Result<(), StoreError> {
    let mut alone = Together::default();
    write_with(&mut alone, path, text)?;
    Ok(alone.publish()?)
}

/// Writes a file that has its name with others, packed where its name says so.
pub(super) fn write_with(
    together: &mut Together,
    path: &Path,
    text: &[u8],
) -> Result<(), StoreError> {
    together.write(path, |to| match is_packed(path) {
        true => to.write_all(&pack(text)?),
        false => to.write_all(text),
    })?;
    Ok(())
}

/// Makes a folder that only its owner may enter, if it is not there; its name is on the disk.
pub(super) fn make_folder(path: &Path) -> Result<(), StoreError> {
    if path.is_dir() {
        return Ok(());
    }
    make_folder_within(path)?;
    if let Some(above) = path.parent() {
        sync_folder(above);
    }
    Ok(())
}

/// Makes a folder in one that will be brought onto the disk itself.
pub(super) fn make_folder_within(path: &Path) -> Result<(), StoreError> {
    let failed = |cause| StoreError::Io { doing: "make", path: path.to_owned(), cause };
    if path.is_dir() {
        return Ok(());
    }
    if let Some(above) = path.parent()
        && !above.as_os_str().is_empty()
    {
        make_folder_above(above).map_err(failed)?;
    }
    step(Step::MakeFolder).map_err(failed)?;
    match rustix::fs::mkdir(path, Mode::RWXU) {
        Ok(()) | Err(rustix::io::Errno::EXIST) => {}
        Err(cause) => return Err(failed(cause.into())),
    }
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
pub(super) fn sync_folder(path: &Path) {
    let path = if path.as_os_str().is_empty() { Path::new(".") } else { path };
    if step(Step::SyncFolder).is_ok()
        && let Ok(folder) = File::open(path)
    {
        let _ = folder.sync_all();
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

/// The file of this name, plain or packed; nothing where there is neither.
pub(super) fn either(folder: &Path, name: &str) -> Option<PathBuf> {
    let plain = folder.join(name);
    let packed = folder.join(format!("{name}{PACKED}"));
    [plain, packed].into_iter().find(|path| path.symlink_metadata().is_ok())
}
