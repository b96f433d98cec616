//! Folders that go when the program ends, however it ends: by itself, or by a signal.

use std::{
    io,
    path::PathBuf,
    sync::{Mutex, PoisonError},
};

use tempfile::{Builder, TempDir};

use crate::interrupt;

/// Those that were made.
static MADE: Mutex<Vec<PathBuf>> = Mutex::new(Vec::new());

/// Makes a folder, for its owner only.
pub(crate) fn folder(
    make: impl FnOnce(&Builder<'_, '_>) -> io::Result<TempDir>,
) -> io::Result<TempDir> {
    interrupt::watch();
    let mut builder = Builder::new();
    builder.prefix(".tectum-").permissions(std::os::unix::fs::PermissionsExt::from_mode(0o700));
    // Held while it is made, so that no signal comes between its making and its being known.
    let mut made = MADE.lock().unwrap_or_else(PoisonError::into_inner);
    let folder = make(&builder)?;
    made.push(folder.path().to_owned());
    Ok(folder)
}

/// Takes away those that were made.
pub(crate) fn take_away() {
    let made = MADE.lock().unwrap_or_else(PoisonError::into_inner);
    for path in made.iter() {
        // Whoever still writes into it may be faster once or twice.
        for _ in 0..50 {
            if std::fs::remove_dir_all(path).is_ok() || !path.exists() {
                break;
            }
        }
    }
}
