//! Where the values of a whole part came from: how many there are, then each source once with what
//! was taken from it, then what is missing by its reason.

use crate::page::{Page, Tone};
use std::{collections::HashMap, hash::Hash};

use tectum_report::{
    fact::{Evidence, Gap, Stance},
    query::{Hit, HitValue, spoken},
    report::Report,
};

use super::{
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
pub(crate) fn print(
    path: &str,
    hits: &[Hit<'_>],
    hidden: &[(String, &Gap)],
    report: &Report,
    units: Units,
    page: &mut Page,
) {
    let mut sources: Groups<&str, Taken<'_>> = Groups::default();
    let mut reasons: Groups<String, (&str, &Gap)> = Groups::default();
    let mut known = 0usize;
    for hit in hits {
        let pieces = match &hit.value {
            HitValue::Fact(fact) => match fact.missing() {
                Some(gap) => {
                    reasons.add(reason(gap), (&hit.at, gap));
                    continue;
                }
                None => fact.evidence(),
            },
            HitValue::MissingList(gap) => {
                reasons.add(reason(gap), (&hit.at, gap));
                continue;
            }
            HitValue::EmptyList(pieces) => pieces,
        };
        known += 1;
        for piece in pieces {
            sources.add(&*piece.source, Taken { hit, piece });
        }
    }
    // Lists that are not known, or not whole.
    for (at, gap) in hidden {
        reasons.add(reason(gap), (at, gap));
    }
    let missing = hits.len() + hidden.len() - known;
    page.heading(path);
    page.paragraph(&format!(
        "{} from {}; {} for {}",
        count(known, "value", "values"),
        count(sources.all.len(), "source", "sources"),
        count(missing, "value is missing", "values are missing"),
        count(reasons.all.len(), "reason", "reasons"),
    ));
    page.gap();
    for (source, all) in &sources.all {
        let said = page.paragraph_of(source, Tone::Strong);
        if let Some(read) = why::how_read(source, report) {
            said.quiet(format!(" ({read})"));
        }
        for taken in all {
            one(taken, units, page);
        }
    }
    if !reasons.all.is_empty() {
        page.gap();
    }
    for (_, missing) in &reasons.all {
        let Some((_, gap)) = missing.first() else { continue };
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
fn one(taken: &Taken<'_>, units: Units, page: &mut Page) {
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

/// Why a value is missing, whatever the file that was asked.
fn reason(gap: &Gap) -> String {
    let hint = gap.hint.as_ref().map(ToString::to_string).unwrap_or_default();
    let answers: Vec<String> = gap.tried.iter().map(|it| it.answer.to_string()).collect();
    format!("{}\n{hint}\n{}", gap.why, answers.join("\n"))
}

/// As many of some texts as are told, and how many more there are.
fn first_of(mut all: Vec<String>) -> Vec<String> {
    let more = all.len().saturating_sub(MOST_NAMES);
    all.truncate(MOST_NAMES);
    all.extend((more > 0).then(|| format!("and {more} more")));
    all
}

/// What belongs to each key, in the order in which the keys were first met.
struct Groups<K, T> {
    all: Vec<(K, Vec<T>)>,
    at: HashMap<K, usize>,
}

impl<K, T> Default for Groups<K, T> {
    fn default() -> Self {
        Self { all: Vec::new(), at: HashMap::new() }
    }
}

impl<K: Clone + Eq + Hash, T> Groups<K, T> {
    fn add(&mut self, key: K, item: T) {
        let at = *self.at.entry(key).or_insert_with_key(|key| {
            self.all.push((key.clone(), Vec::new()));
            self.all.len() - 1
        });
        if let Some((_, group)) = self.all.get_mut(at) {
            group.push(item);
        }
    }
}
