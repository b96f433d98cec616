//! Folders that go when the program ends, however it ends: by itself, or by a signal.

use std::{
    io,
    path::PathBuf,
    sync::{Mutex, Once, PoisonError},
};

use tempfile::{Builder, TempDir};

/// Those that were made.
static MADE: Mutex<Vec<PathBuf>> = Mutex::new(Vec::new());
/// What takes them away when a signal ends the program. One that makes none pays nothing for it.
static WATCHED: Once = Once::new();

/// The status of a program that an interrupt ended, as shells tell it.
const INTERRUPTED: i32 = 130;

/// Makes a folder, for its owner only.
pub(crate) fn folder(
    make: impl FnOnce(&Builder<'_, '_>) -> io::Result<TempDir>,
) -> io::Result<TempDir> {
    WATCHED.call_once(|| {
        // Where signals cannot be watched, a folder may be left: that is no reason to do nothing.
        let _ = ctrlc::set_handler(|| {
            let made = MADE.lock().unwrap_or_else(PoisonError::into_inner);
            for path in made.iter() {
                // Whoever still writes into it may be faster once or twice.
                for _ in 0..50 {
                    if std::fs::remove_dir_all(path).is_ok() || !path.exists() {
                        break;
                    }
                }
            }
            std::process::exit(INTERRUPTED);
        });
    });
    let mut builder = Builder::new();
    builder.prefix(".tectum-").permissions(std::os::unix::fs::PermissionsExt::from_mode(0o700));
    // Held while it is made, so that no signal comes between its making and its being known.
    let mut made = MADE.lock().unwrap_or_else(PoisonError::into_inner);
    let folder = make(&builder)?;
    made.push(folder.path().to_owned());
    Ok(folder)
}
