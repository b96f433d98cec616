//! The archive that this run of the program means.

use std::{
    env,
    path::{Path, PathBuf},
    sync::OnceLock,
};

#[cfg(feature = "postgres")]
use tectum_archive::store::postgres::{PostgresStore, is_url};
use tectum_archive::{
    named::matching,
    store::{Latest, Store, StoreError, folder::FolderStore},
};
use tectum_report::{expectation::Groups, settings::Settings};

use crate::exit::Failure;

/// Where the archive is, said once when the program begins: names of machines are subjects of every command.
static MEANT: OnceLock<Meant> = OnceLock::new();
/// The archive, opened when it is first asked.
static OPEN: OnceLock<Box<dyn Store>> = OnceLock::new();

#[derive(Debug)]
struct Meant {
    location: Option<String>,
    packed: bool,
    groups: Groups,
}

/// Says which archive is meant: what the command line names, else what is set, else the usual place.
pub(crate) fn is(named: Option<&str>, settings: &Settings) {
    let location = named.map(str::to_owned).or_else(|| settings.archive.clone());
    let _ = MEANT.set(Meant {
        location,
        packed: settings.archive_packed,
        groups: settings.groups.clone(),
    });
}

/// The archive, to be read.
pub(crate) fn store() -> Result<&'static dyn Store, Failure> {
    opened(open)
}

/// The archive, which is made if there is none.
pub(crate) fn store_or_make() -> Result<&'static dyn Store, Failure> {
    opened(open_or_make)
}

/// The machines of the archive that are named: by patterns, by groups, one by one.
pub(crate) fn machines(names: &[String]) -> Result<Vec<Latest>, Failure> {
    let none = Groups::default();
    let groups = MEANT.get().map_or(&none, |meant| &meant.groups);
    Ok(matching(store()?, names, groups)?)
}

/// An archive by its location.
pub(crate) fn open(location: &str, packed: bool) -> Result<Box<dyn Store>, StoreError> {
    #[cfg(feature = "postgres")]
    if is_url(location) {
        return Ok(Box::new(PostgresStore::open(location)?));
    }
    no_database(location)?;
    Ok(Box::new(FolderStore::open(Path::new(location), packed)?))
}

/// An archive by its location, which is made if there is none.
pub(crate) fn open_or_make(location: &str, packed: bool) -> Result<Box<dyn Store>, StoreError> {
    #[cfg(feature = "postgres")]
    if is_url(location) {
        return Ok(Box::new(PostgresStore::open_or_make(location)?));
    }
    no_database(location)?;
    Ok(Box::new(FolderStore::open_or_make(Path::new(location), packed)?))
}

/// A URL is no folder's name: what this program cannot open is told.
fn no_database(location: &str) -> Result<(), StoreError> {
    match location.split_once("://") {
        None => Ok(()),
        Some((scheme, _)) => Err(StoreError::Url {
            location: format!("{scheme}://…"),
            said: "this program opens archives in folders, and in databases by postgres:// where it was built with them".to_owned(),
        }),
    }
}

/// A way of opening an archive.
type Opening = fn(&str, bool) -> Result<Box<dyn Store>, StoreError>;

fn opened(open: Opening) -> Result<&'static dyn Store, Failure> {
    if let Some(store) = OPEN.get() {
        return Ok(store.as_ref());
    }
    let meant = MEANT.get();
    let location = meant.and_then(|meant| meant.location.clone());
    let location = match location {
        Some(location) if location.is_empty() => return Err(Failure::NoPlaceForArchive),
        Some(location) => location,
        None => usual().ok_or(Failure::NoPlaceForArchive)?.display().to_string(),
    };
    let store = open(&location, meant.is_some_and(|meant| meant.packed))?;
    Ok(OPEN.get_or_init(|| store).as_ref())
}

/// Where an archive usually is: the machine's for root, else the user's (XDG Base Directory Specification).
fn usual() -> Option<PathBuf> {
    if rustix::process::geteuid().is_root() {
        return Some(PathBuf::from("/var/lib/tectum"));
    }
    let named = env::var_os("XDG_DATA_HOME").map(PathBuf::from).filter(|path| path.is_absolute());
    let usual = || Some(PathBuf::from(env::var_os("HOME")?).join(".local/share"));
    Some(named.or_else(usual)?.join("tectum"))
}
