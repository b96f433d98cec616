//! An interrupt leaves nothing behind: no folder, no line of progress.

use std::{sync::Once, thread};

use signal_hook::{
    consts::{SIGHUP, SIGINT, SIGTERM},
    iterator::Signals,
};

use crate::{temporary, views::progress};

/// The status of a program that an interrupt ended, as shells tell it.
const INTERRUPTED: i32 = 130;

/// Once is enough; a program that leaves nothing pays nothing for it.
static WATCHED: Once = Once::new();

/// From now on an interrupt takes away what there is, and ends the program.
pub(crate) fn watch() {
    WATCHED.call_once(|| {
        // Where signals cannot be watched, a folder may be left: that is no reason to do nothing.
        let Ok(mut signals) = Signals::new([SIGHUP, SIGINT, SIGTERM]) else { return };
        let _ = thread::Builder::new().name("interrupt".into()).spawn(move || {
            if signals.forever().next().is_some() {
                progress::clear();
                temporary::take_away();
                std::process::exit(INTERRUPTED);
            }
        });
    });
}
