//! A comparison as text: a summary, then each change as a sentence with its fields under it.

use crate::page::{Page, Sign, Tone, UNKNOWN};
use serde_json::Value;
use tectum_report::compare::{
    Change, Compared, Comparison, FieldChange, NotCompared, Sameness, Side, What, WhichSide,
};
use tectum_report::query::spoken;

use super::quantity::{count, disk_size, field_words, value};
use crate::args::{Detail, Units};

/// So many changes are told with a summary in front.
const LONG: usize = 8;

/// Prints a comparison.
pub(crate) fn print(result: &Comparison, detail: Detail, units: Units, page: &mut Page) {
    let (first, second) = (name(&result.before), name(&result.after));
    let title = if first == second { first } else { format!("{first} and {second}") };
    page.title(&title, &tally(result));
    for (label, one) in [("before", &result.before), ("after", &result.after)] {
        let root = if one.privileged { "" } else { ", not as root" };
        page.entry(label)
            .plain(&one.subject)
            .quiet(format!(", seen {}{root}", one.taken_at.strftime("%Y-%m-%d %H:%M UTC")));
    }
    match result.machines.same {
        Sameness::Same => {}
        Sameness::Other => {
            page.entry("machine").strong("two different machines").plain(", by their ").plain(
                result
                    .machines
                    .by
                    .iter()
                    .map(|field| field.field.replace('_', " "))
                    .collect::<Vec<_>>()
                    .join(" and "),
            );
        }
        Sameness::Unknown => {
            page.entry("machine").quiet("nothing that both reports know says whether it is one");
        }
    }
    if let Some(words) = not_compared(result) {
        page.entry("not seen").quiet(words);
        let each = result.not_compared.iter().filter(|_| detail == Detail::Full);
        for NotCompared { at, side, why } in each {
            page.beneath(&spoken(at), [(Tone::Plain, seen_by(*side)), (Tone::Quiet, why.code())]);
        }
    }
    if result.changes.is_empty() {
        page.gap();
        page.entry("same").plain("nothing that was compared differs");
        return;
    }
    if result.changes.len() > LONG || detail == Detail::Brief {
        summary(result, page);
    }
    if detail == Detail::Brief {
        return;
    }
    let full = detail == Detail::Full;
    let mut section = "";
    for change in &result.changes {
        if change.section != section {
            page.gap();
            section = &change.section;
            one(change, Some(section), full, units, page);
        } else {
            one(change, None, full, units, page);
        }
    }
}

/// What a report's machine is called.
fn name(one: &Compared) -> String {
    match one.machine.get("hostname").and_then(Value::as_str) {
        Some(name) => name.to_owned(),
        None => "a machine without a name".to_owned(),
    }
}

fn tally(result: &Comparison) -> String {
    let told: Vec<String> =
        [What::Replaced, What::Moved, What::Added, What::Removed, What::Changed]
            .into_iter()
            .filter_map(|what| {
                let number = result.changes.iter().filter(|change| change.what == what).count();
                (number > 0).then(|| format!("{number} {what}"))
            })
            .collect();
    match (told.is_empty(), result.not_compared.is_empty()) {
        (true, true) => "no differences".to_owned(),
        (true, false) => "no differences seen".to_owned(),
        (false, _) => told.join(", "),
    }
}

/// How many changes of each kind every section has.
fn summary(result: &Comparison, page: &mut Page) {
    page.gap();
    let number = |count: usize| if count == 0 { UNKNOWN.to_owned() } else { count.to_string() };
    let rows: Vec<Vec<String>> = result
        .summary
        .iter()
        .map(|one| {
            vec![
                one.section.clone(),
                number(one.added),
                number(one.removed),
                number(one.replaced),
                number(one.moved),
                number(one.changed),
            ]
        })
        .collect();
    page.table(&["section", ">added", ">removed", ">replaced", ">moved", ">changed"], rows);
}

fn one(change: &Change, section: Option<&str>, full: bool, units: Units, page: &mut Page) {
    let said = match section {
        Some(section) => page.entry(section),
        None => page.beside(),
    };
    let tone = match change.what {
        What::Added => Tone::After,
        What::Removed => Tone::Before,
        What::Replaced | What::Moved | What::Changed => Tone::Strong,
    };
    let (before, after) = (change.before.as_ref(), change.after.as_ref());
    let said = said.tone(tone, change.what.code()).plain(" ");
    let known = after.or(before);
    let said = match (change.what, known) {
        // Which one it is stands beneath, before and after.
        (What::Replaced, Some(side)) => match &side.place {
            Some(place) => said.plain(format!("{} in {place}", change.part)),
            None => said.plain(change.part),
        },
        (What::Moved, Some(side)) => said.plain(match &side.identity {
            Some(identity) => format!("{} {identity}", change.part),
            None => side.label.clone(),
        }),
        (What::Added | What::Removed, Some(side)) => said.plain(whole(change.part, side)),
        (What::Changed, Some(side)) => said.plain(&side.label),
        (_, None) => said.plain(change.part),
    };
    if !change.within.is_empty() {
        said.quiet(format!(" of {}", change.within.join(", ")));
    }
    let side = |pick: fn(&Side) -> Option<&str>, side: Option<&Side>| {
        side.and_then(pick).unwrap_or("not known").to_owned()
    };
    match change.what {
        What::Moved => {
            let place = |side: &Side| -> Option<String> { side.place.clone() };
            let show = |side: Option<&Side>| side.and_then(place).unwrap_or("not known".into());
            fade(page, "place", &show(before), &show(after));
        }
        What::Replaced => fade(
            page,
            change.part,
            &side(|side| side.identity.as_deref(), before),
            &side(|side| side.identity.as_deref(), after),
        ),
        _ => {}
    }
    let told = |value: &Value, side: Option<&Side>| {
        let identity = side.and_then(|side| side.identity.as_deref()).unwrap_or_default();
        value.as_str().is_some_and(|text| identity.split(", ").any(|part| part == text))
    };
    for own in &change.fields {
        let standing =
            change.what == What::Replaced && told(&own.before, before) && told(&own.after, after);
        if !standing && (full || !own.derived || change.fields.iter().all(|field| field.derived)) {
            field(change.part, own, units, page);
        }
    }
    follows(change, full, units, page);
}

/// A part by all that a person would know it by.
fn whole(part: &str, side: &Side) -> String {
    let bare = side.label == part || side.label.ends_with(side.identity.as_deref().unwrap_or("\0"));
    let identity = side.identity.as_ref().filter(|_| !bare);
    let place = side.place.as_ref().filter(|place| !side.label.contains(place.as_str()));
    match (identity, place) {
        (Some(identity), Some(place)) => format!("{}: {identity}, at {place}", side.label),
        (Some(identity), None) => format!("{}: {identity}", side.label),
        (None, Some(place)) => format!("{}, at {place}", side.label),
        (None, None) => side.label.clone(),
    }
}

/// A field before and after; of a long list what came and what went.
fn field(part: &str, change: &FieldChange, units: Units, page: &mut Page) {
    let words = field_words(change.field, change.unit);
    let items = |all: &[Value]| {
        let all: Vec<String> = all.iter().map(|one| value(one, change.unit, units)).collect();
        all.join(", ")
    };
    let long = |one: &Value| one.as_array().is_some_and(|all| all.len() > 3);
    if long(&change.before) || long(&change.after) {
        let mut said: Vec<(Tone, String)> = Vec::new();
        if !change.went.is_empty() {
            said.push((Tone::Quiet, "gone:".to_owned()));
            said.push((Tone::Before, items(&change.went)));
        }
        if !change.came.is_empty() {
            said.push((Tone::Quiet, "new:".to_owned()));
            said.push((Tone::After, items(&change.came)));
        }
        if !said.is_empty() {
            page.beneath(&words, said.iter().map(|(tone, text)| (*tone, text.as_str())));
            return;
        }
    }
    let shown = |one: &Value| match (part, change.field, one.as_u64()) {
        ("disk", "size_bytes", Some(bytes)) => disk_size(bytes.into(), units),
        _ => value(one, change.unit, units),
    };
    let [mut before, mut after] = [&change.before, &change.after].map(shown);
    if before == after {
        // What reads the same and is not is told to the last digit.
        for (told, own) in [(&mut before, &change.before), (&mut after, &change.after)] {
            told.push_str(&format!(" (exactly {})", value(own, None, Units::Exact)));
        }
    }
    fade(page, &words, &before, &after);
}

/// What follows from a change: in a line, or each by itself.
fn follows(change: &Change, full: bool, units: Units, page: &mut Page) {
    if change.follows.is_empty() {
        return;
    }
    if full {
        for inner in &change.follows {
            let known = inner.after.as_ref().or(inner.before.as_ref());
            let label = known.map_or(inner.part, |side| side.label.as_str());
            page.beneath("so", [(Tone::Quiet, inner.what.code()), (Tone::Plain, label)]);
            for own in &inner.fields {
                field(inner.part, own, units, page);
            }
        }
        return;
    }
    // Alike together: what was removed with it, what changed with it.
    let mut told: Vec<String> = Vec::new();
    for what in What::ALL {
        const SHOWN: usize = 4;
        let mut labels: Vec<String> =
            change.follows.iter().filter(|inner| inner.what == *what).map(in_short).collect();
        let more = labels.len().saturating_sub(SHOWN);
        labels.truncate(SHOWN);
        if !labels.is_empty() {
            let more = if more > 0 { format!(" and {more} more") } else { String::new() };
            told.push(format!("{what} {}{more}", labels.join(", ")));
        }
    }
    page.beneath("with it", [(Tone::Quiet, told.join("; ").as_str())]);
}

/// What follows, in a few words: its label, and the fields where these are few.
fn in_short(change: &Change) -> String {
    let known = change.after.as_ref().or(change.before.as_ref());
    let label = known.map_or(change.part, |side| side.label.as_str());
    match change.fields.as_slice() {
        fields @ ([_] | [_, _]) if change.what == What::Changed => {
            let mut words: Vec<String> =
                fields.iter().map(|field| field_words(field.field, field.unit)).collect();
            // A count and a size of one thing have one name.
            words.dedup();
            format!("{label} ({})", words.join(", "))
        }
        _ => label.to_owned(),
    }
}

/// A value before and after.
fn fade(page: &mut Page, field: &str, before: &str, after: &str) {
    page.beneath(field, [(Tone::Before, before)]).sign(Sign::Becomes).tone(Tone::After, after);
}

/// Which side does not say what something is.
fn seen_by(side: WhichSide) -> &'static str {
    match side {
        WhichSide::Before => "not known before",
        WhichSide::After => "not known after",
        WhichSide::Both => "known on neither side",
    }
}

/// What could not be compared, in a line.
pub(crate) fn not_compared(result: &Comparison) -> Option<String> {
    let first = result.not_compared.first()?;
    let sides = [WhichSide::Before, WhichSide::After, WhichSide::Both].into_iter().map(|side| {
        let own = result.not_compared.iter().filter(|one| one.side == side);
        (own.count(), seen_by(side))
    });
    let sides = sides.filter(|(count, _)| *count > 0);
    let sides: Vec<String> = sides.map(|(count, words)| format!("{count} {words}")).collect();
    Some(format!(
        "{} not compared: {}, the first {} ({})",
        count(result.not_compared.len(), "value was", "values were"),
        sides.join(", "),
        spoken(&first.at),
        first.why
    ))
}
