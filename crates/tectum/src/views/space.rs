//! What fills a filesystem.

use jiff::Timestamp;
use tectum_report::{
    leaf::Bytes,
    report::Outcome,
    space::{Difference, Filesystem, Space},
};

use super::quantity::{count, size};
use crate::{
    args::Units,
    page::{Cell, Page, Sign, TOGETHER, Tone},
};

/// So many gaps, mounts and holders are told one by one.
const MOST_TOLD: usize = 10;

/// What is left when all that was found is taken away.
const LEFT: &str = "not in any file";

/// A folder that is a smaller part of it all is not shown to people: one of so many.
const SMALL: u64 = 200;

/// How far the looking has come.
pub(crate) fn so_far(entries: u64, bytes: u64) -> String {
    format!("{} files and folders, {}", grouped(entries), size(Bytes(bytes), Units::Iec))
}

/// A number with its thousands apart.
fn grouped(number: u64) -> String {
    let digits = number.to_string();
    let mut text = String::new();
    for (index, digit) in digits.chars().enumerate() {
        if index > 0 && (digits.len() - index).is_multiple_of(3) {
            text.push(',');
        }
        text.push(digit);
    }
    text
}

fn files(number: u64) -> String {
    if number == 1 { "1 file".to_owned() } else { format!("{} files", grouped(number)) }
}

fn folders(number: u64) -> String {
    if number == 1 { "1 folder".to_owned() } else { format!("{} folders", grouped(number)) }
}

fn day(at: Timestamp) -> String {
    at.strftime("%Y-%m-%d").to_string()
}

/// What lies beneath a path.
pub(crate) fn space(space: &Space, units: Units, page: &mut Page) {
    let own = space.filesystem.as_ref();
    let aside = own.map(|own| match own.whole {
        true => format!("all of {} on {}", own.kind, own.source),
        false => format!("{} on {}, mounted at {}", own.kind, own.source, own.mount_point),
    });
    page.title(&space.path, &aside.unwrap_or_default());
    sums(space, units, page);
    match own {
        Some(own) if own.size_bytes > 0 => filesystem(own, units, page),
        Some(_) => {}
        None => {
            page.entry("filesystem")
                .plain("not known: no mount that can be seen here holds the path");
        }
    }
    if let Some(difference) = &space.difference {
        parts_of(space, difference, units, page);
    }
    listed(space, units, page);
    largest(space, units, page);
    deleted(space, units, page);
    beneath(space, units, page);
    not_seen(space, page);
}

fn sums(space: &Space, units: Units, page: &mut Page) {
    let sum = &space.sum;
    let bytes = |bytes| size(Bytes(bytes), units);
    page.entry("takes").strong(bytes(sum.allocated_bytes)).plain(format!(
        " in {} and {}",
        files(sum.files),
        folders(sum.folders)
    ));
    let mut said = page.beside().quiet(format!("apparent size {}", bytes(sum.apparent_bytes)));
    if sum.sparse_files > 0 {
        said = said.quiet(format!(
            "; {} sparse or compressed, {} of them without blocks",
            files(sum.sparse_files),
            bytes(sum.sparse_bytes)
        ));
    }
    if sum.hard_linked_files > 0 {
        said.quiet(format!(
            "; {} with several names counted once, which else were {} more",
            files(sum.hard_linked_files),
            bytes(sum.hard_links_saved_bytes)
        ));
    }
    if let (Some(oldest), Some(newest)) = (sum.oldest_change, sum.newest_change) {
        page.entry("changed").plain(format!("between {} and {}", day(oldest), day(newest)));
    }
    if let Some(before) = space.changed_before {
        page.entry("only").tone(Tone::Before, format!("files changed last before {}", day(before)));
    }
    for one in &space.excluded {
        let what = if one.entries == 1 { "file or folder" } else { "files and folders" };
        page.entry("left out")
            .plain(&one.pattern)
            .quiet(format!(": {} {what}, and what is in them", grouped(one.entries)));
    }
}

fn filesystem(own: &Filesystem, units: Units, page: &mut Page) {
    let bytes = |bytes| size(Bytes(bytes), units);
    let taken = own.used_bytes.saturating_add(own.available_bytes);
    page.entry("filesystem").share(own.used_bytes, taken).plain(format!(
        " {} used, {} available of {}",
        bytes(own.used_bytes),
        bytes(own.available_bytes),
        bytes(own.size_bytes)
    ));
    let kept = (own.reserved_bytes > 0)
        .then(|| format!("{} free and kept for root", bytes(own.reserved_bytes)));
    let inodes = own.inodes_used.saturating_mul(100).checked_div(own.inodes);
    let inodes = inodes.map(|share| format!("{share} % of its inodes used"));
    let more: Vec<String> = kept.into_iter().chain(inodes).collect();
    if !more.is_empty() {
        page.beside().quiet(more.join(", "));
    }
    if !own.whole {
        page.beside().quiet(format!(
            "the path is a part of it: `tectum space {}` holds the filesystem's own figure against its files",
            own.mount_point
        ));
    }
}

/// The filesystem's own figure, and what it is made of.
fn parts_of(space: &Space, own: &Difference, units: Units, page: &mut Page) {
    let bytes = |bytes| size(Bytes(bytes), units);
    page.heading("What the filesystem says is used, and where it is");
    let left = own.left_bytes;
    let parts = [
        ("in files and folders", own.found_bytes, String::new()),
        (
            "deleted, still held open",
            own.deleted_open_bytes,
            match own.processes_not_asked {
                0 => String::new(),
                number => format!(
                    "{} could not be asked what they hold open",
                    count(usize::try_from(number).unwrap_or(usize::MAX), "process", "processes")
                ),
            },
        ),
        (
            "beneath mount points",
            own.beneath_mounts_bytes,
            match own.beneath_mounts_seen {
                true => String::new(),
                false => format!(
                    "not looked at beneath {}: that needs root",
                    count(space.mounts_passed_over.len(), "mount", "mounts")
                ),
            },
        ),
        (LEFT, left.unsigned_abs(), left_words(own)),
    ];
    let whole = own.used_bytes.max(own.found_bytes).max(1);
    let rows = parts.into_iter().map(|(label, number, words)| {
        let below = label == LEFT && left < 0;
        let sign = if below { "-" } else { "" };
        vec![
            Cell::from(label.to_owned()),
            Cell::from(format!("{sign}{}", bytes(number))),
            Cell::Share { part: if below { 0 } else { number }, whole },
            Cell::from(words),
        ]
    });
    page.table(&["where", ">size", "share", ""], rows.collect::<Vec<_>>());
    if let Some(filesystem) = &space.filesystem
        && filesystem.grew_bytes != 0
    {
        let grew = filesystem.grew_bytes;
        let way = if grew > 0 { "grew" } else { "shrank" };
        page.beside().quiet(format!(
            "while it was looked at, what is used {way} by {}",
            bytes(grew.unsigned_abs())
        ));
    }
}

fn left_words(own: &Difference) -> String {
    if own.left_bytes < 0 {
        return "files hold more than the filesystem uses: they share blocks, or it compresses"
            .to_owned();
    }
    if own.left_bytes == 0 {
        return String::new();
    }
    let mut may_be = vec!["the filesystem's own tables and journal".to_owned()];
    if own.folders_not_read > 0 {
        let number = usize::try_from(own.folders_not_read).unwrap_or(usize::MAX);
        may_be.push(count(number, "folder that was not read", "folders that were not read"));
    }
    if own.processes_not_asked > 0 {
        may_be.push("deleted files of processes that were not asked".to_owned());
    }
    if !own.beneath_mounts_seen {
        may_be.push("what lies beneath mount points".to_owned());
    }
    format!("may be {}", may_be.join(", "))
}

fn listed(space: &Space, units: Units, page: &mut Page) {
    page.heading("The largest folders");
    let whole = space.sum.allocated_bytes;
    // Beneath a folder that is passed over nothing is told either: it is smaller still.
    let told = space
        .folders
        .iter()
        .filter(|one| one.depth == 0 || one.allocated_bytes.saturating_mul(SMALL) >= whole.max(1));
    let bytes = |bytes| size(Bytes(bytes), units);
    let rows: Vec<Vec<Cell>> = told
        .map(|one| {
            let own = one.folders > 0 && one.own_files_bytes.saturating_mul(SMALL) >= whole.max(1);
            vec![
                bytes(one.allocated_bytes).into(),
                Cell::Share { part: one.allocated_bytes, whole },
                grouped(one.files).into(),
                one.newest_change.map(day).into(),
                one.path.clone().into(),
                if own { bytes(one.own_files_bytes) } else { String::new() }.into(),
            ]
        })
        .collect();
    let small = space.folders.len().saturating_sub(rows.len());
    page.table(&[">size", "share", ">files", "newest", "folder", "?>in it itself"], rows);
    if small > 0 {
        page.beside().quiet(format!(
            "{} of less than {} % of it not shown; --format csv lists them",
            folders(small as u64),
            100.0 / SMALL as f64
        ));
    }
}

fn largest(space: &Space, units: Units, page: &mut Page) {
    if space.files.is_empty() {
        return;
    }
    page.heading("The largest files");
    let sizes: Vec<String> =
        space.files.iter().map(|one| size(Bytes(one.allocated_bytes), units)).collect();
    let wide = sizes.iter().map(String::len).max().unwrap_or(0);
    for (one, bytes) in space.files.iter().zip(sizes) {
        let room = TOGETHER.to_string().repeat(wide.saturating_sub(bytes.len()));
        let mut aside = vec![format!("changed {}", day(one.changed))];
        if one.apparent_bytes.saturating_sub(one.allocated_bytes) >= 4096 {
            aside.insert(0, format!("of {}", size(Bytes(one.apparent_bytes), units)));
        }
        if one.links > 1 {
            aside.push(format!("{} names", one.links));
        }
        page.beside()
            .plain(format!("{room}{bytes}  "))
            .strong(&one.path)
            .quiet(format!("  {}", aside.join(", ")));
    }
}

fn deleted(space: &Space, units: Units, page: &mut Page) {
    if space.deleted_open.is_empty() {
        return;
    }
    page.heading("Deleted, and still held open");
    let told = space.deleted_open.iter().take(MOST_TOLD.max(1));
    let rows = told.map(|one| {
        let holders = one.held_by.iter().map(|holder| match holder.descriptor {
            Some(descriptor) => format!("{} {} (fd {descriptor})", holder.name, holder.pid),
            None => format!("{} {} (mapped)", holder.name, holder.pid),
        });
        vec![
            Cell::from(size(Bytes(one.allocated_bytes), units)),
            Cell::from(one.path.clone()),
            Cell::from(holders.collect::<Vec<_>>().join(", ")),
        ]
    });
    page.table(&[">size", "file", "held by"], rows.collect::<Vec<_>>());
    let more = space.deleted_open.len().saturating_sub(MOST_TOLD);
    if more > 0 {
        page.beside().quiet(format!("and {more} more"));
    }
    page.beside()
        .sign(Sign::Action)
        .plain(" the room is free again when those processes close the files: start them anew");
}

fn beneath(space: &Space, units: Units, page: &mut Page) {
    if space.beneath_mounts.is_empty() {
        return;
    }
    page.heading("Hidden beneath what is mounted");
    let rows = space.beneath_mounts.iter().take(MOST_TOLD).map(|one| {
        vec![
            Cell::from(size(Bytes(one.allocated_bytes), units)),
            Cell::from(grouped(one.files)),
            Cell::from(one.mount_point.clone()),
        ]
    });
    page.table(&[">size", ">files", "mount point"], rows.collect::<Vec<_>>());
}

fn not_seen(space: &Space, page: &mut Page) {
    let all = (space.gaps.len() as u64).saturating_add(space.more_gaps);
    if all > 0 {
        page.heading("Not read");
        for gap in space.gaps.iter().take(MOST_TOLD) {
            let why = match gap.why {
                Outcome::PermissionDenied => "permission denied: needs root".to_owned(),
                Outcome::TimedOut => "no answer within the deadline".to_owned(),
                Outcome::OutOfTime => "not asked: too many others did not answer".to_owned(),
                ref other => other.to_string(),
            };
            page.beside().plain(&gap.path).quiet(format!("  {why}"));
        }
        let more = all.saturating_sub(MOST_TOLD as u64);
        if more > 0 {
            page.beside().quiet(format!("and {} more", grouped(more)));
        }
    }
    if !space.mounts_passed_over.is_empty() {
        let told: Vec<&str> =
            space.mounts_passed_over.iter().take(MOST_TOLD).map(String::as_str).collect();
        let more = space.mounts_passed_over.len().saturating_sub(MOST_TOLD);
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        page.entry("skipped")
            .quiet(format!("other filesystems mounted here: {}{more}", told.join(", ")));
    }
}

#[cfg(test)]
mod tests {
    use tectum_report::space::{
        BeneathMount, DeletedFile, Excluded, FileSize, FolderSize, Holder, SpaceGap, Sum,
    };

    use super::*;
    use crate::render::plain;

    /// The store of a tide gauge's server that is full, and nobody finds why.
    fn made_up() -> Space {
        let at = |text: &str| -> Timestamp { text.parse().unwrap() };
        let folder =
            |path: &str, depth, allocated_bytes, own_files_bytes, files, folders| FolderSize {
                path: path.to_owned(),
                depth,
                allocated_bytes,
                apparent_bytes: allocated_bytes,
                own_files_bytes,
                files,
                folders,
                newest_change: Some(at("2026-05-12T04:00:00Z")),
                oldest_change: Some(at("2021-02-01T00:00:00Z")),
                not_listed: 0,
                not_listed_bytes: 0,
            };
        let used_bytes = 96 << 30;
        let mut space = Space {
            path: "/srv".to_owned(),
            at: at("2026-05-12T06:30:00Z"),
            elapsed_ms: 1_200,
            across_mounts: false,
            changed_before: None,
            excluded: vec![Excluded { pattern: "*.iso".to_owned(), entries: 2 }],
            sum: Sum {
                allocated_bytes: 70 << 30,
                apparent_bytes: 91 << 30,
                files: 1_204_311,
                folders: 8_120,
                others: 3,
                hard_linked_files: 12,
                hard_links_saved_bytes: 5 << 30,
                sparse_files: 1,
                sparse_bytes: 21 << 30,
                newest_change: Some(at("2026-05-12T04:00:00Z")),
                oldest_change: Some(at("2021-02-01T00:00:00Z")),
                vanished: 0,
            },
            filesystem: Some(Filesystem {
                mount_point: "/srv".to_owned(),
                kind: "xfs".to_owned(),
                source: "/dev/mapper/tide-srv".to_owned(),
                size_bytes: 100 << 30,
                used_bytes,
                available_bytes: 4 << 30,
                reserved_bytes: 0,
                inodes: 52_428_800,
                inodes_used: 1_212_500,
                grew_bytes: 2 << 20,
                whole: true,
            }),
            difference: None,
            folders: vec![
                folder("/srv", 0, 70 << 30, 1 << 20, 1_204_311, 8_119),
                folder("/srv/gauges", 1, 61 << 30, 2 << 30, 1_200_000, 8_000),
                folder("/srv/gauges/2025", 2, 40 << 30, 0, 800_000, 365),
                folder("/srv/charts", 1, 10 << 20, 0, 4_311, 118),
            ],
            files: vec![FileSize {
                path: "/srv/gauges/model.img".to_owned(),
                allocated_bytes: 9 << 30,
                apparent_bytes: 30 << 30,
                links: 2,
                changed: at("2026-03-02T11:00:00Z"),
            }],
            deleted_open: vec![DeletedFile {
                path: "/srv/gauges/collector.log".to_owned(),
                allocated_bytes: 22 << 30,
                apparent_bytes: 22 << 30,
                held_by: vec![Holder {
                    pid: 812,
                    name: "collector".to_owned(),
                    descriptor: Some(7),
                }],
            }],
            mounts_passed_over: vec!["/srv/charts/old".to_owned()],
            beneath_mounts: vec![BeneathMount {
                mount_point: "/srv/charts/old".to_owned(),
                allocated_bytes: 3 << 30,
                files: 40,
            }],
            gaps: vec![SpaceGap {
                path: "/srv/sealed\u{1b}[2J".to_owned(),
                why: Outcome::PermissionDenied,
            }],
            more_gaps: 0,
        };
        space.difference = Some(Difference {
            used_bytes,
            found_bytes: 70 << 30,
            deleted_open_bytes: 22 << 30,
            beneath_mounts_bytes: 3 << 30,
            left_bytes: 1 << 30,
            folders_not_read: 1,
            processes_not_asked: 0,
            beneath_mounts_seen: true,
        });
        space
    }

    fn told(space: &Space) -> String {
        let mut page = Page::default();
        super::space(space, Units::Iec, &mut page);
        plain::page(&page)
    }

    #[test]
    fn a_full_disk_is_told_from_its_figure_to_what_holds_it() {
        insta::assert_snapshot!(told(&made_up()));
    }

    #[test]
    fn files_that_share_blocks_are_said_to() {
        let mut space = made_up();
        if let Some(difference) = &mut space.difference {
            difference.left_bytes = -(12 << 30);
        }
        let told = told(&space);
        assert!(told.contains("-12 GiB") && told.contains("they share blocks"), "{told}");
    }

    #[test]
    fn what_was_not_looked_at_is_named_as_what_may_be_left() {
        let mut space = made_up();
        if let Some(difference) = &mut space.difference {
            difference.processes_not_asked = 214;
            difference.beneath_mounts_seen = false;
        }
        let told = told(&space);
        assert!(told.contains("214 processes could not be asked"), "{told}");
        assert!(told.contains("not looked at beneath 1 mount: that needs root"), "{told}");
    }

    #[test]
    fn thousands_stand_apart() {
        let told: Vec<String> = [0, 999, 1_000, 1_234_567].into_iter().map(grouped).collect();
        assert_eq!(told, ["0", "999", "1,000", "1,234,567"]);
    }
}
