//! A long answer on a terminal goes through the user's pager.

use std::{
    io::{ErrorKind, Write},
    process::{Command, Stdio},
};

/// The pager where the user names none.
const USUAL: &str = "less";

/// Shows a text in the pager that `PAGER` names, as a shell reads it; whether there was one. An empty
/// `PAGER` is none.
pub(super) fn show(text: &str) -> bool {
    let named = std::env::var("PAGER").unwrap_or_else(|_| USUAL.to_owned());
    if named.trim().is_empty() {
        return false;
    }
    let mut shell = Command::new("/bin/sh");
    // The shell ends with 127 where the program is not there; then nothing was shown.
    shell.args(["-c", &format!("exec {named}")]).stdin(Stdio::piped());
    if std::env::var_os("LESS").is_none() {
        // Colours as they are; what fits the terminal is printed and left there.
        shell.env("LESS", "FRX");
    }
    let Ok(mut pager) = shell.spawn() else { return false };
    let written = pager.stdin.take().map(|mut pipe| pipe.write_all(text.as_bytes()));
    let ended = pager.wait();
    match (written, ended) {
        (_, Ok(status)) if matches!(status.code(), Some(126 | 127)) => false,
        // Who leaves the pager early has seen enough.
        (Some(Err(error)), Ok(_)) => error.kind() == ErrorKind::BrokenPipe,
        (_, ended) => ended.is_ok(),
    }
}
