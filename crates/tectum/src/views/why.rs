//! A value's origin as text: what it is, where each piece of evidence stands and what it says; or
//! what was tried and what would help.

use crate::page::{Page, Sign, Tone};
use serde_json::{Value, json};
use tectum_report::{
    declare::AnyFact,
    fact::{Evidence, Gap, Stance, Why},
    query::{Hit, HitValue},
    report::{Outcome, Report},
};

use crate::args::Units;

use super::quantity::fact as shown;

/// Prints where one value came from.
pub(crate) fn print(hit: &Hit<'_>, report: &Report, units: Units, page: &mut Page) {
    page.heading(&hit.at);
    page.entry("is").quiet(doc(hit.field.doc));
    match &hit.value {
        HitValue::Fact(fact) => match fact.missing() {
            Some(gap) => missing(gap, report, page),
            None => {
                let value = shown(hit.record, *fact, units).unwrap_or_default();
                page.entry("value").strong(value);
                fact.evidence().iter().for_each(|piece| evidence(piece, report, page));
            }
        },
        HitValue::MissingList(gap) => missing(gap, report, page),
        HitValue::EmptyList(pieces) => {
            page.entry("value").strong("none");
            pieces.iter().for_each(|piece| evidence(piece, report, page));
        }
    }
    page.gap();
}

/// Prints why the parts of a list are not known, or not all of them, that what was asked for would be a part of.
pub(crate) fn print_hidden(at: &str, gap: &Gap, report: &Report, page: &mut Page) {
    page.heading(at);
    page.entry("is").quiet("A list of parts, which is not known, or not whole.");
    missing(gap, report, page);
    page.gap();
}

fn evidence(piece: &Evidence, report: &Report, page: &mut Page) {
    let label = match &piece.stance {
        Stance::Gives => "from",
        Stance::Agrees => "agrees",
        Stance::Differs(_) => "differs",
    };
    let place = piece.place.as_ref().map(|place| format!(", {place}")).unwrap_or_default();
    page.entry(label).plain(&*piece.source).quiet(place);
    if let Stance::Differs(says) = &piece.stance {
        page.beside().tone(Tone::Before, format!("says {says}"));
    }
    if let Some(raw) = &piece.raw {
        for line in raw.lines().take(6) {
            page.beside().sign(Sign::Quote).plain(line.replace('\t', " "));
        }
        let more = raw.lines().count().saturating_sub(6);
        if more > 0 {
            page.beside().sign(Sign::Quote).quiet(format!("and {more} lines more"));
        }
    }
    page.beside().quiet("rule: ").plain(piece.rule.to_string());
    if let Some(read) = how_read(&piece.source, report) {
        page.beside().quiet(read);
    }
}

/// How a source was read: `read: 42 bytes, 17 µs`.
pub(super) fn how_read(source: &str, report: &Report) -> Option<String> {
    // They stand sorted by their paths.
    let first = report.sources.partition_point(|one| *one.path < *source);
    let read = report.sources.get(first).filter(|one| *one.path == *source)?;
    let bytes = read.bytes.filter(|bytes| *bytes > 0).map(|bytes| format!("{bytes} bytes"));
    let time = read.elapsed_us.map(|time| match time {
        0 => "less than 5 µs".to_owned(),
        time => format!("{time} µs"),
    });
    let outcome = match &read.outcome {
        Outcome::Done => None,
        other => Some(other.to_string()),
    };
    let said: Vec<String> = bytes.into_iter().chain(time).chain(outcome).collect();
    (!said.is_empty()).then(|| format!("{}: {}", read.operation, said.join(", ")))
}

/// A sentence as part of a line.
pub(super) fn within_a_line(sentence: &str) -> String {
    let mut letters = sentence.trim_end_matches('.').chars();
    letters.next().map(char::to_lowercase).into_iter().flatten().chain(letters).collect()
}

fn missing(gap: &Gap, report: &Report, page: &mut Page) {
    page.entry("missing").tone(Tone::Before, within_a_line(gap.why.meaning()));
    for attempt in &gap.tried {
        page.entry("tried").plain(&*attempt.source).quiet(format!(": {}", attempt.answer));
    }
    if let Some(raw) = &gap.raw {
        page.beside().sign(Sign::Quote).plain(&**raw);
    }
    let privileged = if report.taken.privileged { "as root" } else { "as an ordinary user" };
    page.entry("help").plain(help(gap)).quiet(format!(" (this survey ran {privileged})"));
}

/// What would help to get a missing value.
pub(super) fn help(gap: &Gap) -> String {
    match (&gap.hint, gap.why) {
        (Some(hint), _) => hint.to_string(),
        (None, Why::Permission) => "root can read it".to_owned(),
        (None, Why::NotProvided) => {
            // A file that is not there may come with a driver; one that is there and silent will not.
            if gap.tried.iter().any(|attempt| attempt.answer.code() == "not-found") {
                "a driver, a kernel module or a newer kernel may provide it".to_owned()
            } else {
                "nothing known: the source itself would have to say it".to_owned()
            }
        }
        (None, Why::Blank) => "only what fills the source in can give it".to_owned(),
        (None, Why::Invalid) => {
            "look at the source: what stands there cannot be the value".to_owned()
        }
        (None, Why::Timeout) => "find out why the source hangs, or allow it more time".to_owned(),
        (None, Why::NotApplicable) => "nothing: such a part has no such property".to_owned(),
        (None, Why::Withheld) => "the capture that this was redacted from may hold it".to_owned(),
        (None, Why::TooMany) => {
            "look at the source itself; no machine is known to have so many".to_owned()
        }
        (None, Why::NotRead) => {
            "survey the running machine, or look there why its kernel gives no answer".to_owned()
        }
    }
}

/// A field's documentation as one line.
fn doc(doc: &str) -> String {
    tectum_report::json::schema::words(doc)
}

/// A fact with its origin, as JSON.
pub(crate) fn fact_json(fact: &dyn AnyFact) -> Value {
    match fact.missing() {
        Some(gap) => gap_json(gap),
        None => json!({
            "value": fact.json(),
            "evidence": fact.evidence().iter().map(evidence_json).collect::<Vec<_>>(),
        }),
    }
}

/// A piece of evidence with its rule spelled out, as JSON.
pub(crate) fn evidence_json(piece: &Evidence) -> Value {
    let mut json = json!(piece);
    if let Some(rule) = json.get_mut("rule") {
        *rule = Value::from(piece.rule.to_string());
    }
    json
}

/// A gap with its reason, as JSON.
pub(crate) fn gap_json(gap: &Gap) -> Value {
    json!({
        "value": null,
        "why": gap.why,
        "source": gap.source,
        "hint": gap.hint.as_ref().map(ToString::to_string),
        "raw": gap.raw,
        "tried": gap.tried.iter().map(|attempt| json!({
            "source": attempt.source,
            "answer": attempt.answer.to_string(),
        })).collect::<Vec<_>>(),
    })
}
