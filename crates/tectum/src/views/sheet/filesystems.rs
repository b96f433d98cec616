//! Filesystems: one table with bars of use, what is declared beside what is mounted.

use tectum_report::{
    fact::Fact,
    leaf::{Bytes, PercentHundredths},
    model::{
        DeclaredState, FilesystemReadings, FilesystemUse, Filesystems, FstabEntry, Mount,
        MountClass,
    },
};

use super::{View, cell, known, size_cell, why};
use crate::views::{
    page::Sheet,
    quantity::{count, size},
};

pub(super) fn print(filesystems: &Filesystems, view: &View<'_>, page: &mut Sheet) {
    let readings = view.report.readings.filesystems.as_ref();
    let bytes = |fact: &Fact<Bytes>| fact.value().map(|bytes| size(*bytes, view.units));
    let said = page.entry("mounted");
    let local = filesystems
        .mounts
        .iter()
        .filter(|mount| mount.class.value() == Some(&MountClass::Local))
        .filter(|mount| !mount.first_mounted_at.is_known())
        .count();
    let all = count(local, "local filesystem", "local filesystems");
    let total = readings.and_then(|all| {
        Some((bytes(&all.used_bytes)?, bytes(&all.total_bytes)?, bytes(&all.available_bytes)?))
    });
    match (filesystems.mounts.gap(), total) {
        (Some(gap), _) => said.plain(format!("filesystems: {}", why(gap))),
        (None, Some((used, total, left))) => {
            said.strong(format!("{used} of {total}")).plain(format!(" used on {all}, {left} left"))
        }
        (None, None) => {
            // Why it cannot be told: a folder or capture has nobody to ask.
            let gap = readings.and_then(|all| all.total_bytes.missing());
            let reason =
                gap.map(|gap| gap.hint.as_ref().map_or_else(|| why(gap), ToString::to_string));
            let reason = reason.unwrap_or_default();
            said.plain(format!("{all}; how full: {reason}"))
        }
    };
    if readings.is_some_and(|all| all.total_bytes.hidden_part().is_some()) {
        for one in readings.iter().flat_map(|all| all.usage.iter()) {
            if let Some(gap) = one.size_bytes.missing().filter(|gap| gap.why.hides_a_value()) {
                let point = cell(&one.mount_point);
                page.beside().quiet("not counted: ").plain(format!("{point}, {}", why(gap)));
            }
        }
    }
    view.odd("filesystems", page);
    if !view.drawn {
        return;
    }
    page.gap();
    if let Some(readings) = readings {
        usage(filesystems, readings, view, page);
    }
    swap(filesystems, readings, view, page);
}

/// What a line of fstab declares.
fn declared(one: &FstabEntry) -> String {
    known(&one.source)
        .or_else(|| known(&one.uuid))
        .or_else(|| known(&one.label))
        .or_else(|| known(&one.other_source))
        .unwrap_or_default()
}

fn percent(fact: &Fact<PercentHundredths>) -> String {
    fact.value().map_or_else(|| "·".to_owned(), |used| format!("{} %", used.0 / 100))
}

/// Columns of a bar.
const BAR: usize = 10;

fn bar(fact: &Fact<PercentHundredths>) -> String {
    fact.value().map(|share| drawn_share(share.0)).unwrap_or_default()
}

fn drawn_share(used: u64) -> String {
    let tenths = usize::try_from(used.saturating_mul(BAR as u64).div_ceil(10_000)).unwrap_or(BAR);
    let filled = tenths.min(BAR);
    format!("▕{}{}▏", "█".repeat(filled), "·".repeat(BAR - filled))
}

/// Where a mount comes from, a device by its name alone.
fn source(mount: &Mount) -> String {
    let whole = cell(&mount.source);
    whole.strip_prefix("/dev/").map_or(whole.clone(), str::to_owned)
}

/// The row under the others: all local filesystems, each device once.
fn sum(readings: &FilesystemReadings, bytes: &impl Fn(&Fact<Bytes>) -> String) -> Vec<String> {
    let (used, left) = (readings.used_bytes.value(), readings.available_bytes.value());
    let share = used.zip(left).and_then(|(used, left)| {
        let whole = u128::from(used.0) + u128::from(left.0);
        u64::try_from((u128::from(used.0) * 10_000).checked_div(whole)?).ok()
    });
    vec![
        "all local ones".to_owned(),
        share.map(drawn_share).unwrap_or_default(),
        share.map(|share| format!("{} %", share / 100)).unwrap_or_default(),
        bytes(&readings.used_bytes),
        bytes(&readings.total_bytes),
        bytes(&readings.available_bytes),
        String::new(),
        String::new(),
    ]
}

fn usage(
    filesystems: &Filesystems,
    readings: &FilesystemReadings,
    view: &View<'_>,
    page: &mut Sheet,
) {
    let bytes = |fact: &Fact<Bytes>| size_cell(fact, |bytes| size(bytes, view.units));
    let rows: Vec<Vec<String>> = readings
        .usage
        .iter()
        .filter(|one| one.class.value() != Some(&MountClass::Memory))
        .map(|one| {
            let mount = filesystems
                .mounts
                .iter()
                .find(|mount| mount.mount_point.value() == one.mount_point.value());
            let told = mount.map(|mount| {
                let declared = match mount.in_fstab.value() {
                    Some(false) => ", not declared",
                    _ => "",
                };
                let read_only =
                    if mount.read_only.value() == Some(&true) { ", read-only" } else { "" };
                let part = known(&mount.root).filter(|root| root != "/");
                let part = part.map(|root| format!(", {root} of it")).unwrap_or_default();
                let part = match known(&mount.first_mounted_at) {
                    Some(first) => format!("{part}, the same as at {first}"),
                    None => part,
                };
                format!("{}{part}{read_only}{declared}", cell(&mount.filesystem))
            });
            vec![
                cell(&one.mount_point),
                bar(&one.used_percent_hundredths),
                percent(&one.used_percent_hundredths),
                bytes(&one.used_bytes),
                bytes(&one.size_bytes),
                bytes(&one.available_bytes),
                told.unwrap_or_default(),
                mount.map(source).unwrap_or_default(),
            ]
        })
        .collect();
    let mut rows = rows;
    // A sum of one is no sum.
    if rows.len() > 1 && readings.total_bytes.is_known() {
        rows.push(sum(readings, &bytes));
    }
    let heads = ["mounted at", "", ">full", ">used", ">size", ">left", "what", "from"];
    page.table(&heads, &rows);
    let memory: Vec<&FilesystemUse> = readings
        .usage
        .iter()
        .filter(|one| one.class.value() == Some(&MountClass::Memory))
        .filter(|one| one.used_bytes.value().is_some_and(|used| used.0 > 0))
        .collect();
    for one in memory {
        page.beside().quiet(format!(
            "in memory: {}, {} of {} used at {}",
            cell(&one.filesystem),
            bytes(&one.used_bytes),
            bytes(&one.size_bytes),
            cell(&one.mount_point)
        ));
    }
}

fn swap(
    filesystems: &Filesystems,
    readings: Option<&FilesystemReadings>,
    view: &View<'_>,
    page: &mut Sheet,
) {
    let rows: Vec<Vec<String>> = filesystems
        .swap_spaces
        .iter()
        .map(|space| {
            let used = readings.into_iter().flat_map(|all| all.swap.iter());
            let used = used
                .filter(|one| one.path.value() == space.path.value())
                .find_map(|one| one.used_bytes.value());
            vec![
                cell(&space.path),
                cell(&space.kind),
                size_cell(&space.size_bytes, |bytes| size(bytes, view.units)),
                used.map_or_else(|| "·".to_owned(), |bytes| size(*bytes, view.units)),
                cell(&space.priority),
            ]
        })
        .collect();
    if !rows.is_empty() {
        page.gap();
        page.table(&["swap", "kind", ">size", ">used", ">priority"], &rows);
    }
    let waiting = filesystems
        .fstab_entries
        .iter()
        .filter(|one| one.state.value() == Some(&DeclaredState::OnRequest));
    for one in waiting {
        page.beside().quiet(format!(
            "mounted on request only: {} at {}",
            declared(one),
            cell(&one.mount_point)
        ));
    }
}
