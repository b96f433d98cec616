//! Where the files of made-up machines are written.

use std::{env, io, path::Path};

use tempfile::TempDir;

use crate::temporary::folder;

/// Where memory is a folder (tmpfs).
const MEMORY: &str = "/dev/shm";

/// The most that made-up machines take there, with room to spare: bytes, and files.
const MOST_OF_MACHINES: (u64, u64) = (256 << 20, 1 << 16);

/// Makes a folder for the files of made-up machines: thousands of small ones, which go again at once.
///
/// In memory, if there is room and nobody says where temporary files lie (`TMPDIR`). On a disk they take thirty times as
/// long where others like them were removed a moment ago: ext4 gives no inode anew within five seconds, and looks past
/// each of them for every file.
pub(crate) fn folder_of_machines() -> io::Result<TempDir> {
    let memory = Path::new(MEMORY);
    if env::var_os("TMPDIR").is_none()
        && has_room(memory, MOST_OF_MACHINES)
        && let Ok(made) = folder(|own| own.tempdir_in(memory))
    {
        return Ok(made);
    }
    folder(|own| own.tempdir())
}

/// Whether whoever runs this may put so many bytes and files into a filesystem (statvfs(3)).
fn has_room(folder: &Path, (bytes, files): (u64, u64)) -> bool {
    rustix::fs::statvfs(folder).is_ok_and(|all| {
        let unbounded = all.f_files == 0;
        all.f_bavail.saturating_mul(all.f_frsize) >= bytes && (unbounded || all.f_favail >= files)
    })
}
