//! What was found, for people: the gravest first, each kind once with why it matters and what to do.

use crate::page::{Found, Page, Sign, Tone};
use tectum_report::finding::{Asked, Checked, Finding, Judgement, Severity, Told};

use super::quantity::count;

/// The most machines of a finding that are named.
const MOST_NAMES: usize = 12;
/// The most values that are told of what is read.
const MOST_VALUES: usize = 40;

/// The sign of a severity, and the tone of what is said with it.
pub(crate) fn mark(severity: Severity) -> (Tone, Sign) {
    let sign = match severity {
        Severity::Critical => Sign::Critical,
        Severity::Warning => Sign::Warning,
        Severity::Notice => Sign::Notice,
    };
    (sign.tone(), sign)
}

/// How many of each severity, in words.
pub(crate) fn counts(of: impl Fn(Severity) -> usize) -> Vec<(Severity, String)> {
    Severity::BY_RANK
        .into_iter()
        .filter_map(|severity| {
            let number = of(severity);
            let words = match severity {
                Severity::Critical => format!("{number} critical"),
                Severity::Warning => count(number, "warning", "warnings"),
                Severity::Notice => count(number, "notice", "notices"),
            };
            (number > 0).then_some((severity, words))
        })
        .collect()
}

/// Tells findings beside a section: those of a kind that say the same in one line.
pub(crate) fn beside(all: &[Finding], page: &mut Page) {
    for group in alike(all) {
        let Some((first, others)) = group.split_first() else { continue };
        let (tone, sign) = mark(first.severity);
        let mut said = page.beside().sign(sign).tone(tone, &first.label);
        if !others.is_empty() {
            said = said.quiet(format!(" and {} more", others.len()));
        }
        said.plain(format!(": {}", first.says));
    }
}

/// How many findings there are, beneath the head of a sheet.
pub(crate) fn counted(judgement: &Judgement, page: &mut Page) {
    let counts = counts(|severity| judgement.count(severity));
    if counts.is_empty() {
        return;
    }
    let mut said = page.paragraph_of("", Tone::Plain);
    for (index, (severity, words)) in counts.into_iter().enumerate() {
        let (tone, sign) = mark(severity);
        let between = if index > 0 { ", " } else { "" };
        said = said.plain(between).mark(sign).tone(tone, words);
    }
}

/// All findings, for a page that leads to what they are of.
pub(crate) fn at_the_top(judgement: &Judgement, page: &mut Page) {
    let told = |group: Vec<&Finding>| {
        let (first, others) = group.split_first()?;
        let more = match others.len() {
            0 => String::new(),
            more => format!(" and {more} more"),
        };
        Some(Found {
            sign: mark(first.severity).1,
            section: first.part.split('/').nth(2).unwrap_or_default().to_owned(),
            part: first.part.clone(),
            label: format!("{}{more}", first.label),
            says: first.says.clone(),
        })
    };
    let all: Vec<Found> = alike(&judgement.findings).into_iter().filter_map(told).collect();
    if !all.is_empty() {
        page.findings(all);
    }
}

/// Findings of one kind that say the same, in the order of the first.
fn alike(all: &[Finding]) -> Vec<Vec<&Finding>> {
    let mut groups: Vec<Vec<&Finding>> = Vec::new();
    for one in all {
        let same = |group: &&mut Vec<&Finding>| {
            group.first().is_some_and(|first| first.by == one.by && first.says == one.says)
        };
        match groups.iter_mut().find(same) {
            Some(group) => group.push(one),
            None => groups.push(vec![one]),
        }
    }
    groups
}

/// Prints what was found.
pub(crate) fn print(checked: &Checked, not_judged: bool, page: &mut Page) {
    let machines = match checked.machines.as_slice() {
        [one] => one.name.clone(),
        several => count(several.len(), "machine", "machines"),
    };
    page.title(&machines, "what is odd");
    page.gap();
    let told = checked.told();
    for group in told.chunk_by(|a, b| {
        a.by == b.by && a.finding.accepted.is_some() == b.finding.accepted.is_some()
    }) {
        let Some(first) = group.first() else { continue };
        kind(first, page);
        for told in group {
            one(told, checked, page);
        }
        if first.finding.accepted.is_none() {
            if let Some(matters) = first.by.matters() {
                page.beneath_paragraph().quiet(matters);
            }
            if let Some(action) = first.by.action() {
                page.beneath_paragraph().sign(Sign::Action).plain(action);
            }
        }
        page.gap();
    }
    summary(checked, not_judged, page);
}

fn kind(first: &Told, page: &mut Page) {
    let severity = first.finding.severity;
    let (tone, sign) = mark(severity);
    let accepted = first.finding.accepted.is_some();
    let (tone, sign) = if accepted { (Tone::Quiet, Sign::Accepted) } else { (tone, sign) };
    let word = if accepted { "accepted" } else { severity.code() };
    page.paragraph_of("", tone)
        .mark(sign)
        .tone(tone, format!("{word} "))
        .strong(first.by.title())
        .quiet(format!("  {}", first.by.id()));
}

fn one(told: &Told, checked: &Checked, page: &mut Page) {
    let finding = &told.finding;
    let mut said = page.beneath_paragraph();
    if checked.machines.len() > 1 {
        let names: Vec<&str> = checked.names(told).take(MOST_NAMES).collect();
        let more = told.machines.len().saturating_sub(MOST_NAMES);
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        said = said.tone(Tone::Label, format!("{}{more} ", names.join(", ")));
    }
    said = said.strong(&finding.label).plain(format!(": {}", finding.says));
    if let Some(accepted) = &finding.accepted {
        let until = accepted.until.as_ref().map(|date| format!(", until {date}"));
        said.quiet(format!("; accepted{}: {}", until.unwrap_or_default(), accepted.reason));
    } else if let Some(over) = told.ended_acceptance() {
        let until = over.until.as_deref().unwrap_or_default();
        said.tone(Tone::Before, format!("; accepted until {until}, which is over:"))
            .quiet(format!(" {}", over.reason));
    }
}

fn summary(checked: &Checked, not_judged: bool, page: &mut Page) {
    let counts = counts(|severity| checked.count(severity));
    let mut said = page.paragraph_of("", Tone::Plain);
    if counts.is_empty() {
        said = said.plain("nothing odd");
    }
    for (index, (severity, words)) in counts.into_iter().enumerate() {
        let (tone, sign) = mark(severity);
        let between = if index > 0 { ", " } else { "" };
        said = said.plain(between).mark(sign).tone(tone, words);
    }
    if checked.accepted() > 0 {
        said = said.quiet(format!(", {} accepted", checked.accepted()));
    }
    let unjudged: Vec<_> = checked.unjudged().collect();
    let who: std::collections::BTreeSet<&str> = unjudged.iter().map(|one| one.by.id()).collect();
    said.quiet(format!(
        "; {} of {} found nothing, {} could not judge all that they read{}",
        checked.fine(),
        checked.asked().len(),
        who.len(),
        if not_judged || who.is_empty() { "" } else { " (--not-judged tells why)" }
    ));
    if !not_judged || unjudged.is_empty() {
        return;
    }
    page.gap();
    page.heading("could not be judged");
    for one in unjudged {
        let values = count(one.values, "value", "values");
        let machines = match checked.machines.len() {
            1 => String::new(),
            _ => format!(" of {}", count(one.machines.len(), "machine", "machines")),
        };
        page.paragraph_of(one.by.id(), Tone::Label)
            .plain(format!(" {}", one.says))
            .quiet(format!(": {values}{machines}, the first {}", one.at));
    }
}

/// Prints what there is to be found.
pub(crate) fn list(all: &[Asked], page: &mut Page) {
    for severity in Severity::BY_RANK {
        let of: Vec<&Asked> = all.iter().filter(|asked| asked.severity() == severity).collect();
        if of.is_empty() {
            continue;
        }
        page.heading(&format!("{severity}: {}", severity.meaning().trim_end_matches('.')));
        for asked in of {
            let (tone, sign) = mark(severity);
            page.paragraph_of("", tone)
                .mark(sign)
                .tone(tone, asked.id())
                .plain(format!("  {}", asked.title()));
        }
        page.gap();
    }
}

/// A machine, and what somebody who is asked reads of it: each path with its value; nothing where the
/// machine is not meant.
pub(crate) type Read = (String, Option<Vec<(String, String)>>);

/// Prints all about one of those who are asked, and what it reads of the machines.
pub(crate) fn explain(asked: &Asked, machines: &[Read], checked: &Checked, page: &mut Page) {
    page.heading(asked.id());
    page.entry("finds").plain(asked.title());
    page.entry("severity")
        .plain(asked.severity().code())
        .quiet(format!(": {}", asked.severity().meaning().trim_end_matches('.')));
    if let Some(matters) = asked.matters() {
        page.entry("matters").plain(matters);
    }
    if let Some(action) = asked.action() {
        page.entry("to do").plain(action);
    }
    match asked {
        Asked::Rule(rule) => {
            page.entry("reads").plain(rule.reads.join(", "));
        }
        Asked::Expectation(own) => {
            page.entry("expects").plain(own.words());
        }
    }
    if let Some(reference) = asked.reference() {
        page.entry("more in").plain(reference);
    }
    for (name, selected) in machines {
        page.gap();
        let Some(values) = selected else {
            page.entry(name).quiet("is not among the machines that it is meant for");
            continue;
        };
        let all = count(values.len(), "value", "values");
        page.entry(name).plain(all);
        for (path, value) in values.iter().take(MOST_VALUES) {
            page.beside().quiet(format!("{path} ")).plain(value);
        }
        let more = values.len().saturating_sub(MOST_VALUES);
        if more > 0 {
            page.beside().quiet(format!("and {more} more"));
        }
    }
    page.gap();
    for told in checked.told() {
        one(told, checked, page);
    }
    for gone in checked.unjudged() {
        page.beneath_paragraph()
            .tone(Tone::Before, "not judged: ")
            .plain(&gone.says)
            .quiet(format!(", {}", gone.at));
    }
    if checked.told().is_empty() && checked.unjudged().next().is_none() {
        page.beneath_paragraph().quiet("nothing found");
    }
}
