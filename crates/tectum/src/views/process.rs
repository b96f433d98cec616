//! One process.

use jiff::Timestamp;
use tectum_report::{
    leaf::{Bytes, Milliseconds, Number},
    process::{MemoryByKind, MountSeen, OpenFiles, OpenKind, ProcessCard},
    report::Outcome,
};

use super::quantity::{count, size, value};
use crate::{
    args::Units,
    page::{Page, Tone},
};

/// So many mounts, addresses and words are told.
const MOST_TOLD: usize = 20;

fn moment(at: Timestamp) -> String {
    at.strftime("%Y-%m-%d %H:%M:%S UTC").to_string()
}

fn some<T>(all: &[T], told: impl Fn(&T) -> String) -> String {
    let more = all.len().saturating_sub(MOST_TOLD);
    let mut text: Vec<String> = all.iter().take(MOST_TOLD).map(told).collect();
    if more > 0 {
        text.push(format!("and {more} more"));
    }
    text.join(", ")
}

/// A process as a card.
pub(crate) fn card(card: &ProcessCard, units: Units, page: &mut Page) {
    let bytes = |number: u64| size(Bytes(number), units);
    page.title(&format!("{} {}", card.name, card.pid), &format!("seen {}", moment(card.at)));
    if let Some(program) = &card.program {
        let said = page.entry("program").strong(program);
        if card.program_deleted {
            said.tone(Tone::Before, ", deleted or replaced since it was started");
        }
    }
    if let Some(words) = &card.command_line {
        // As a shell would take them apart again.
        page.entry("command").plain(some(words, |word| format!("{word:?}")));
    }
    let said = page.entry("state").strong(card.state.as_deref().unwrap_or("not known"));
    if let Some(place) = &card.waits_in {
        said.plain(format!(" in {place}"));
    }
    if let Some(started) = card.started {
        page.entry("started").plain(moment(started));
    }
    if !card.parents.is_empty() {
        page.entry("parents").plain(some(&card.parents, |one| format!("{} {}", one.name, one.pid)));
    }
    if let (Some(user), Some(group)) = (card.user_id, card.group_id) {
        page.entry("user").plain(format!("{user}, group {group}"));
    }
    let time = value(&card.processor_time_ms.into(), Some(<Milliseconds as Number>::UNIT), units);
    let threads = count(usize::try_from(card.threads).unwrap_or(usize::MAX), "thread", "threads");
    page.entry("processors").plain(format!("{time} in {threads}"));
    memory(&card.memory, units, page);
    match (card.read_bytes, card.written_bytes) {
        (Some(read), Some(written)) => {
            page.entry("devices").plain(format!(
                "{} read, {} written",
                bytes(read),
                bytes(written)
            ));
        }
        _ => {
            page.entry("devices").quiet("what it read and wrote is not told to this user");
        }
    }
    open_files(&card.open_files, page);
    if let Some(group) = &card.control_group {
        page.entry("cgroup").plain(group);
    }
    namespaces(card, page);
    not_told(card, page);
}

fn memory(memory: &MemoryByKind, units: Units, page: &mut Page) {
    let bytes = |number: Option<u64>| number.map(|number| size(Bytes(number), units));
    let Some(resident) = bytes(memory.resident_bytes) else { return };
    let said = page.entry("memory").strong(resident);
    let kinds = [
        (memory.anonymous_bytes, "its own data"),
        (memory.file_bytes, "files"),
        (memory.shared_bytes, "shared memory"),
    ];
    let told = kinds.into_iter().filter(|(number, _)| number.is_some_and(|number| number > 0));
    let told: Vec<String> =
        told.filter_map(|(number, what)| Some(format!("{} {what}", bytes(number)?))).collect();
    said.plain(format!(": {}", told.join(", ")));
    let more = [
        (memory.proportional_bytes, "with shared pages shared out"),
        (memory.peak_bytes, "at the most so far"),
        (memory.swapped_bytes.filter(|number| *number > 0), "swapped out"),
        (memory.locked_bytes.filter(|number| *number > 0), "locked"),
    ];
    let more: Vec<String> = more
        .into_iter()
        .filter_map(|(number, what)| Some(format!("{} {what}", bytes(number)?)))
        .collect();
    if !more.is_empty() {
        page.beside().quiet(more.join(", "));
    }
}

fn kinds(all: &[OpenKind]) -> String {
    all.iter().map(|one| format!("{} {}", one.count, one.kind)).collect::<Vec<_>>().join(", ")
}

fn open_files(open: &OpenFiles, page: &mut Page) {
    let Some(number) = open.count else {
        page.entry("open files").quiet("what it holds open is not told to this user");
        return;
    };
    let said = page.entry("open files").strong(number.to_string());
    let said = match open.limit {
        Some(limit) => {
            said.plain(" ").share(number, limit).plain(format!(" of {limit} at the most"))
        }
        None => said.plain(", without a limit"),
    };
    if number > 0 {
        said.quiet(format!(": {}", kinds(&open.kinds)));
    }
    if !open.sockets.is_empty() {
        page.entry("sockets").plain(kinds(&open.sockets));
    }
    if !open.listens.is_empty() {
        page.beside().plain(format!("listens on {}", some(&open.listens, String::clone)));
    }
}

fn namespaces(card: &ProcessCard, page: &mut Page) {
    let own: Vec<&str> = card
        .namespaces
        .iter()
        .filter(|one| one.is_own == Some(true))
        .map(|one| one.kind.as_str())
        .collect();
    let asked = card.namespaces.iter().any(|one| one.is_own.is_some());
    if !own.is_empty() {
        page.entry("namespaces")
            .strong(format!("its own: {}", own.join(", ")))
            .quiet(", as a container has them");
    } else if asked {
        page.entry("namespaces").plain("none of its own");
    }
    let told = |seen: bool| -> Vec<&MountSeen> {
        card.mounts.iter().filter(|one| one.seen == seen).collect()
    };
    for (seen, words) in [(true, "sees mounted"), (false, "does not see")] {
        let mounts = told(seen);
        if !mounts.is_empty() {
            page.beside().plain(format!(
                "{words} {}",
                some(&mounts, |one| format!("{} ({})", one.mount_point, one.kind))
            ));
        }
    }
}

fn not_told(card: &ProcessCard, page: &mut Page) {
    let refused = |gap: &&tectum_report::process::ProcessGap| gap.why == Outcome::PermissionDenied;
    let number = card.gaps.iter().filter(refused).count();
    if number > 0 {
        let first: Vec<&str> =
            card.gaps.iter().filter(refused).take(3).map(|gap| gap.path.as_str()).collect();
        page.entry("not told").quiet(format!(
            "{} refused to this user: {}",
            count(number, "file", "files"),
            first.join(", ")
        ));
    }
}
