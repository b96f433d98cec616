//! A fleet: a row a machine, and which machines have which value.

use crate::page::{Cell, Page, UNKNOWN};
use tectum_archive::{
    exact::Exact,
    fleet::{Having, Row},
};
use tectum_report::leaf::Bytes;

use super::{
    archive::{day, odd},
    findings,
    quantity::{count, disk_total, size, told_apart},
};
use crate::args::Units;

/// The columns of a fleet as a table for programs.
pub(crate) const COLUMNS: [&str; 18] = [
    "host",
    "machine",
    "system_uuid",
    "serial",
    "machine_id",
    "model",
    "processor",
    "packages",
    "cores",
    "memory_bytes",
    "drives",
    "drives_bytes",
    "system",
    "kernel",
    "last_seen",
    "unchanged_since",
    "findings",
    "stale",
];

/// The cells of a machine's row, for programs.
pub(crate) fn cells(row: &Row) -> Vec<String> {
    let text = |text: &Option<String>| text.clone().unwrap_or_default();
    let number = |number: Option<u64>| number.map(|it| it.to_string()).unwrap_or_default();
    let found = row.latest.findings;
    vec![
        text(&row.latest.who.host),
        row.latest.machine.clone(),
        text(&row.latest.who.system_uuid),
        text(&row.latest.who.serial),
        text(&row.latest.who.machine_id),
        text(&row.latest.overview.model),
        text(&row.latest.overview.processor),
        number(row.latest.overview.packages),
        number(row.latest.overview.cores),
        number(row.latest.overview.memory_bytes),
        number(row.latest.overview.drives),
        number(row.latest.overview.drives_bytes),
        text(&row.latest.overview.system),
        text(&row.latest.overview.kernel),
        row.latest.last_seen.to_string(),
        row.latest.unchanged_since.to_string(),
        (found.critical + found.warning + found.notice).to_string(),
        if row.stale { "yes" } else { "no" }.to_owned(),
    ]
}

/// A fleet for people.
pub(crate) fn rows(rows: &[Row], units: Units, page: &mut Page) {
    let stale = rows.iter().filter(|row| row.stale).count();
    let mut aside = vec![count(rows.len(), "machine", "machines")];
    if stale > 0 {
        aside.push(format!("{stale} stale"));
    }
    page.title("fleet", &aside.join(", "));
    let of = |severity| {
        let sum: u64 = rows.iter().map(|row| row.latest.findings.of(severity)).sum();
        usize::try_from(sum).unwrap_or(usize::MAX)
    };
    // What is merely worth knowing is not counted over a fleet.
    let counts = findings::counts(of).into_iter();
    let counts: Vec<_> = counts.filter(|(severity, _)| severity.wants_attention()).collect();
    if !counts.is_empty() {
        let mut said = page.entry("odd");
        for (index, (severity, words)) in counts.into_iter().enumerate() {
            let (tone, sign) = findings::mark(severity);
            let between = if index > 0 { ", " } else { "" };
            said = said.plain(between).mark(sign).tone(tone, words);
        }
    }
    let mut told: Vec<Vec<Cell>> = rows.iter().map(|row| cells_for_people(row, units)).collect();
    let mut heads =
        vec!["machine", "odd", "last seen", ">memory", ">disks", "processor", "model", "system"];
    // What is the same of all is said once.
    let same: Vec<usize> = (FIRST_THAT_MAY_BE_SAID_ONCE..heads.len())
        .filter(|column| {
            let mut cells = told.iter().map(|row| row.get(*column));
            let first = cells.next();
            rows.len() > 1 && cells.all(|cell| Some(cell) == first)
        })
        .collect();
    if !same.is_empty() {
        let said: Vec<String> = same
            .iter()
            .filter_map(|column| {
                let Cell::Text(cell) = told.first()?.get(*column)? else { return None };
                Some(format!("{} {cell}", heads.get(*column)?.trim_start_matches('>')))
            })
            .collect();
        if !said.is_empty() {
            page.entry("all").plain(said.join("; "));
        }
        for column in same.iter().rev() {
            heads.remove(*column);
            told.iter_mut().for_each(|row| drop(row.remove(*column)));
        }
    }
    page.table(&heads, told);
}

/// The first column that is said once where it is the same of all: who, what is odd and when are each one's own.
const FIRST_THAT_MAY_BE_SAID_ONCE: usize = 3;

fn cells_for_people(row: &Row, units: Units) -> Vec<Cell> {
    let text = |text: &Option<String>| text.clone().unwrap_or_else(|| UNKNOWN.to_owned());
    let overview = &row.latest.overview;
    let processor = match overview.packages {
        Some(packages) if packages > 1 => format!("{packages} × {}", text(&overview.processor)),
        _ => text(&overview.processor),
    };
    let cores = overview
        .cores
        .map(|cores| count(usize::try_from(cores).unwrap_or(usize::MAX), "core", "cores"));
    let processor = match cores {
        Some(cores) => format!("{processor}, {cores}"),
        None => processor,
    };
    let disks = match (overview.drives, overview.drives_bytes) {
        (Some(drives), Some(bytes)) => format!("{drives}: {}", disk_total(Bytes(bytes), units)),
        (Some(drives), None) => drives.to_string(),
        _ => UNKNOWN.to_owned(),
    };
    let seen = day(row.latest.last_seen);
    vec![
        row.latest.who.host.clone().unwrap_or_else(|| row.latest.machine.clone()).into(),
        odd(row.latest.findings),
        if row.stale { format!("{seen} stale") } else { seen }.into(),
        overview.memory_bytes.map(|bytes| size(Bytes(bytes), units)).into(),
        disks.into(),
        processor.into(),
        text(&overview.model).into(),
        text(&overview.system).into(),
    ]
}

/// So many machines are named beside a value.
const MOST_NAMES: usize = 12;

/// Which machines have which value.
pub(crate) fn by(path: &str, having: &[Having], units: Units, page: &mut Page) {
    let all: usize = having.iter().map(|one| one.machines.len()).sum();
    page.title(
        path,
        &format!(
            "{} in {}",
            count(having.iter().filter(|one| !one.values.is_empty()).count(), "value", "values"),
            count(all, "machine", "machines")
        ),
    );
    let most = having.iter().map(|one| one.machines.len()).max().unwrap_or(1);
    let digits = most.to_string().len();
    for (one, value) in having.iter().zip(values(having.iter().map(|one| &one.values), units)) {
        let number = one.machines.len();
        let said = page
            .beside()
            .quiet(format!("{number:>digits$} "))
            .share(number as u64, most as u64)
            .plain(" ");
        let said = match (one.values.is_empty(), one.not_told) {
            (false, 0) => said.strong(value),
            (false, more) => said.strong(value).quiet(format!(", {more} not told")),
            (true, 0) => said.quiet("none there"),
            (true, _) => said.quiet("not told"),
        };
        // Who is not with the many is who is asked for.
        if number * 2 <= all || having.len() == 1 {
            let names = one.machines.get(..number.min(MOST_NAMES)).unwrap_or_default();
            let more = number.saturating_sub(MOST_NAMES);
            let more = if more > 0 { format!(" and {more} more") } else { String::new() };
            said.quiet(format!("  {}{more}", names.join(", ")));
        }
    }
}

/// What of lists of values is told, each in a line: of the same values one, with how often it stands there.
pub(super) fn values<'a>(
    lists: impl Iterator<Item = &'a Vec<Exact>> + Clone,
    units: Units,
) -> Vec<String> {
    let mut all: Vec<&Exact> = lists.clone().flatten().collect();
    all.sort();
    all.dedup();
    let words = told_apart(&all, units);
    let word = |value: &Exact| {
        let at = all.binary_search(&value).ok();
        at.and_then(|at| words.get(at)).cloned().unwrap_or_default()
    };
    lists.map(|list| in_a_line(list, word)).collect()
}

/// Sorted values in a line.
pub(crate) fn in_a_line(sorted: &[Exact], word: impl Fn(&Exact) -> String) -> String {
    let alike = sorted.chunk_by(|a, b| a == b);
    let words = alike.filter_map(|chunk| {
        let first = word(chunk.first()?);
        Some(match chunk.len() {
            1 => first,
            many => format!("{many} × {first}"),
        })
    });
    words.collect::<Vec<_>>().join(", ")
}
