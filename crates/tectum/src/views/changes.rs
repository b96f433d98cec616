//! A comparison as text: each change a sentence, its fields under it.

use tectum_core::{
    compare::{Change, Comparison, Side, What, WhichSide},
    report::Report,
};

use super::{
    page::{Sheet, Tone},
    sizes::{by_field_name, count},
};

/// Prints a comparison.
pub(crate) fn print(before: &Report, after: &Report, result: &Comparison, page: &mut Sheet) {
    let name = |report: &Report| {
        report.machine.hostname.value().map_or("a machine without a name", |name| name).to_owned()
    };
    let (first, second) = (name(before), name(after));
    let title = if first == second { first } else { format!("{first} and {second}") };
    page.roof(&title, &tally(result));
    for (label, report) in [("before", before), ("after", after)] {
        page.entry(label)
            .plain(&report.taken.subject)
            .quiet(format!(", seen {}", report.taken.at.strftime("%Y-%m-%d %H:%M UTC")));
    }
    if result.changes.is_empty() {
        page.gap();
        page.entry("same").plain("nothing that was compared differs");
        return;
    }
    let mut section = "";
    for change in &result.changes {
        if change.section != section {
            page.gap();
            section = &change.section;
            one(change, Some(section), page);
        } else {
            one(change, None, page);
        }
    }
}

fn tally(result: &Comparison) -> String {
    let kinds = [What::Replaced, What::Moved, What::Added, What::Removed, What::Changed];
    let parts: Vec<String> = kinds
        .into_iter()
        .filter_map(|what| {
            let number = result.changes.iter().filter(|change| change.what == what).count();
            (number > 0).then(|| format!("{number} {}", what.word()))
        })
        .collect();
    if parts.is_empty() { "no differences".to_owned() } else { parts.join(", ") }
}

fn one(change: &Change, section: Option<&str>, page: &mut Sheet) {
    let said = match section {
        Some(section) => page.entry(section),
        None => page.beside(),
    };
    let tone = match change.what {
        What::Added => Tone::After,
        What::Removed => Tone::Before,
        What::Replaced | What::Moved | What::Changed => Tone::Strong,
    };
    let known = change.after.as_ref().or(change.before.as_ref());
    let place = known.and_then(|side| side.place.as_deref());
    let said = said.tone(tone, change.what.word()).plain(format!(" {}", change.part));
    let said = match change.what {
        What::Moved | What::Replaced => said,
        _ => said.plain(known.map(who).unwrap_or_default()),
    };
    let said = match (change.what, place) {
        (What::Replaced, Some(place)) => said.plain(format!(" in {place}")),
        (What::Moved, _) => said.plain(known.map(identity).unwrap_or_default()),
        _ => said,
    };
    if !change.within.is_empty() {
        said.quiet(format!(" of {}", change.within.join(", ")));
    }
    let side = |pick: fn(&Side) -> Option<&str>, side: Option<&Side>| {
        side.and_then(pick).unwrap_or("not known").to_owned()
    };
    let (before, after) = (change.before.as_ref(), change.after.as_ref());
    match change.what {
        What::Moved => {
            let place = |side: &Side| -> Option<String> { side.place.clone() };
            let show = |side: Option<&Side>| side.and_then(place).unwrap_or("not known".into());
            fade(page, "place", &show(before), &show(after));
        }
        What::Replaced => fade(
            page,
            "part",
            &side(|side| side.identity.as_deref(), before),
            &side(|side| side.identity.as_deref(), after),
        ),
        _ => {}
    }
    let told = |value: &serde_json::Value, side: Option<&Side>| {
        let identity = side.and_then(|side| side.identity.as_deref()).unwrap_or_default();
        value.as_str().is_some_and(|text| identity.contains(text))
    };
    for field in &change.fields {
        // Who was replaced by whom stands above already.
        if told(&field.before, before) && told(&field.after, after) {
            continue;
        }
        fade(
            page,
            field.field,
            &by_field_name(change.part, field.field, &field.before),
            &by_field_name(change.part, field.field, &field.after),
        );
    }
}

/// A value before and after.
fn fade(page: &mut Sheet, field: &str, before: &str, after: &str) {
    page.beneath(&words(field), [(Tone::Before, before), (Tone::Quiet, "→"), (Tone::After, after)]);
}

/// A field's name as words: its unit stands with the value.
fn words(field: &str) -> String {
    let units = ["_bytes", "_mhz", "_mts", "_mv", "_bits", "_seconds", "_units"];
    let plain = units.iter().find_map(|unit| field.strip_suffix(unit)).unwrap_or(field);
    plain.replace('_', " ")
}

fn who(side: &Side) -> String {
    let shown = side.identity.as_ref().or(side.place.as_ref()).or(side.name.as_ref());
    let place = side.place.as_ref().filter(|_| side.identity.is_some());
    match (shown, place) {
        (Some(shown), Some(place)) => format!(" {shown}, at {place}"),
        (Some(shown), None) => format!(" {shown}"),
        (None, _) => String::new(),
    }
}

fn identity(side: &Side) -> String {
    side.identity.as_ref().map(|identity| format!(" {identity}")).unwrap_or_default()
}

/// What could not be compared, in a line.
pub(crate) fn not_compared(result: &Comparison) -> String {
    let of = |side: WhichSide| result.not_compared.iter().filter(|one| one.side == side).count();
    let (before, after) = (of(WhichSide::Before), of(WhichSide::After));
    let mut sides = Vec::new();
    if before > 0 {
        sides.push(format!("{before} unknown before"));
    }
    if after > 0 {
        sides.push(format!("{after} unknown after"));
    }
    let first = result.not_compared.first().map(|one| format!("{} ({})", one.at, one.why));
    format!(
        "{} not compared: {}, the first {}",
        count(result.not_compared.len(), "value was", "values were"),
        sides.join(", "),
        first.unwrap_or_default()
    )
}
