//! Where settings are: a file for the machine, one of the user's, the environment.

use std::{
    env,
    fs::File,
    io::ErrorKind,
    os::unix::fs::MetadataExt,
    path::{Path, PathBuf},
};

use tectum_report::settings::Settings;

use crate::{exit::Failure, written::text_in};

/// The machine's.
const MACHINE: &str = "/etc/tectum/tectum.toml";
/// Below the user's folder of settings (XDG Base Directory Specification).
const USERS: &str = "tectum/tectum.toml";

/// What is set; where a file is named, by it and the environment alone. A user's file that is somebody else's
/// (as under `sudo` with the home of who called it) is passed over, and told.
pub(crate) fn load(named: Option<&Path>, tell: &mut dyn FnMut(&str)) -> Result<Settings, Failure> {
    let mut settings = Settings::default();
    match named {
        Some(path) => {
            if !read(path, &mut settings)? {
                let cause = std::io::Error::from(ErrorKind::NotFound);
                return Err(Failure::Subject { path: path.to_owned(), cause });
            }
        }
        None => {
            read(Path::new(MACHINE), &mut settings)?;
            if let Some(path) = users() {
                match read(&path, &mut settings) {
                    // A home that may not be entered is not one's own.
                    Err(Failure::Subject { cause, .. })
                        if cause.kind() == ErrorKind::PermissionDenied => {}
                    Err(Failure::OthersSettings(path)) => {
                        tell(&Failure::OthersSettings(path).to_string());
                    }
                    other => {
                        other?;
                    }
                }
            }
        }
    }
    let told = env::vars_os()
        .filter_map(|(name, value)| Some((name.into_string().ok()?, value.into_string().ok()?)));
    settings.read_environment(told).map_err(Failure::Environment)?;
    Ok(settings)
}

/// Where the user's own settings would be.
fn users() -> Option<PathBuf> {
    let named = env::var_os("XDG_CONFIG_HOME").map(PathBuf::from).filter(|path| path.is_absolute());
    let usual = || Some(PathBuf::from(env::var_os("HOME")?).join(".config"));
    Some(named.or_else(usual)?.join(USERS))
}

/// Takes over a file; whether there is one.
fn read(path: &Path, settings: &mut Settings) -> Result<bool, Failure> {
    let failed = |cause| Failure::Subject { path: path.to_owned(), cause };
    let file = match File::open(path) {
        Ok(file) => file,
        Err(error) if matches!(error.kind(), ErrorKind::NotFound | ErrorKind::NotADirectory) => {
            return Ok(false);
        }
        Err(error) => return Err(failed(error)),
    };
    // Somebody else's settings would say which files this one reads.
    let owner = file.metadata().map_err(failed)?.uid();
    if owner != 0 && owner != rustix::process::geteuid().as_raw() {
        return Err(Failure::OthersSettings(path.to_owned()));
    }
    let text = text_in(file).map_err(|said| Failure::Unreadable { path: path.to_owned(), said })?;
    settings.read(&path.display().to_string(), &text)?;
    Ok(true)
}
