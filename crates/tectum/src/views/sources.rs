//! Where the values of a whole part came from: how many there are, then each source once with what
//! was taken from it, then what is missing by its reason.

use tectum_report::{
    fact::{Evidence, Gap, Stance},
    query::{Hit, HitValue, spoken},
    report::Report,
};

use super::{
    page::{Sheet, Tone},
    quantity::{self, count},
    why,
};
use crate::args::Units;

/// The most raw text that stands beside a value.
const MOST_RAW: usize = 60;
/// The most names of missing values that share a reason, and of what was tried for them.
const MOST_NAMES: usize = 16;

/// One value that a source gives, agrees with or contradicts.
struct Taken<'a> {
    hit: &'a Hit<'a>,
    piece: &'a Evidence,
}

/// Prints it.
pub(crate) fn print(path: &str, hits: &[Hit<'_>], report: &Report, units: Units, page: &mut Sheet) {
    let mut sources: Vec<(&str, Vec<Taken<'_>>)> = Vec::new();
    let mut reasons: Vec<(&Gap, Vec<(&str, &Gap)>)> = Vec::new();
    let mut known = 0usize;
    for hit in hits {
        let pieces = match &hit.value {
            HitValue::Fact(fact) => match fact.missing() {
                Some(gap) => {
                    group(&mut reasons, gap, same_reason).push((&hit.at, gap));
                    continue;
                }
                None => fact.evidence(),
            },
            HitValue::MissingList(gap) => {
                group(&mut reasons, gap, same_reason).push((&hit.at, gap));
                continue;
            }
            HitValue::EmptyList(pieces) => pieces,
        };
        known += 1;
        for piece in pieces {
            group(&mut sources, &*piece.source, |a, b| a == b).push(Taken { hit, piece });
        }
    }
    let missing = hits.len() - known;
    page.heading(path);
    page.paragraph(&format!(
        "{} from {}; {} for {}",
        count(known, "value", "values"),
        count(sources.len(), "source", "sources"),
        count(missing, "value is missing", "values are missing"),
        count(reasons.len(), "reason", "reasons"),
    ));
    page.gap();
    for (source, all) in &sources {
        let said = page.paragraph_of(source, Tone::Strong);
        if let Some(read) = why::how_read(source, report) {
            said.quiet(format!(" ({read})"));
        }
        for taken in all {
            one(taken, units, page);
        }
    }
    if !reasons.is_empty() {
        page.gap();
    }
    for (gap, missing) in &reasons {
        page.paragraph_of(&count(missing.len(), "value missing", "values missing"), Tone::Before)
            .plain(format!(": {}", why::within_a_line(gap.why.meaning())));
        let mut tried: Vec<String> = Vec::new();
        for attempt in missing.iter().flat_map(|(_, gap)| &gap.tried) {
            let said = format!("{}: {}", attempt.source, attempt.answer);
            if !tried.contains(&said) {
                tried.push(said);
            }
        }
        for said in first_of(tried) {
            page.beneath_paragraph().quiet("tried ").plain(said);
        }
        let names = first_of(missing.iter().map(|(at, _)| spoken(at)).collect());
        page.beneath_paragraph().plain(names.join(", "));
        page.beneath_paragraph().quiet(format!("help: {}", why::help(gap)));
    }
    page.gap();
}

/// A value under its source.
fn one(taken: &Taken<'_>, units: Units, page: &mut Sheet) {
    let Taken { hit, piece } = taken;
    let value = match &hit.value {
        HitValue::Fact(fact) => quantity::fact(hit.record, *fact, units).unwrap_or_default(),
        HitValue::MissingList(_) | HitValue::EmptyList(_) => "none".to_owned(),
    };
    let said = page.beneath_paragraph().quiet(format!("{} ", spoken(&hit.at))).strong(&value);
    let said = match &piece.stance {
        Stance::Gives => said,
        Stance::Agrees => said.quiet(" (agrees)"),
        Stance::Differs(says) => said.tone(Tone::Before, format!(" (differs: says {says})")),
    };
    let place = piece.place.as_ref().map(|place| format!("{place}, ")).unwrap_or_default();
    let raw = piece.raw.as_deref().map(str::trim).filter(|raw| *raw != value);
    let raw = raw.map(|raw| {
        let first: String = raw.lines().next().unwrap_or_default().chars().take(MOST_RAW).collect();
        let more = if first.len() < raw.len() { "…" } else { "" };
        format!(", from “{}{more}”", first.replace('\t', " "))
    });
    said.quiet(format!("  {place}{}{}", piece.rule, raw.unwrap_or_default()));
}

/// Whether two values are missing for the same reason, whatever the file that was asked.
fn same_reason(a: &&Gap, b: &&Gap) -> bool {
    let answers = |gap: &Gap| gap.tried.iter().map(|it| it.answer.to_string()).collect::<Vec<_>>();
    std::ptr::eq(*a, *b) || (a.why == b.why && a.hint == b.hint && answers(a) == answers(b))
}

/// As many of some texts as are told, and how many more there are.
fn first_of(mut all: Vec<String>) -> Vec<String> {
    let more = all.len().saturating_sub(MOST_NAMES);
    all.truncate(MOST_NAMES);
    all.extend((more > 0).then(|| format!("and {more} more")));
    all
}

/// What belongs to a key, in the order in which the keys were first met.
fn group<K, T>(all: &mut Vec<(K, Vec<T>)>, key: K, same: impl Fn(&K, &K) -> bool) -> &mut Vec<T> {
    let at = all.iter().position(|(own, _)| same(own, &key)).unwrap_or_else(|| {
        all.push((key, Vec::new()));
        all.len() - 1
    });
    // The position is one that was found, or that of the last.
    #[allow(clippy::indexing_slicing)]
    &mut all[at].1
}
