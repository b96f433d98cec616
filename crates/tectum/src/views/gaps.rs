//! What is missing, in a line.

use crate::page::{Page, Tone};
use std::collections::BTreeMap;

use tectum_report::{
    fact::{Gap, Why},
    report::{Note, Outcome, Report},
};

use super::{notes, quantity::count};

/// What a user should know of the gaps in a report; nothing where root would see no more and
/// nothing hung.
pub(crate) fn summary(report: &Report) -> Option<String> {
    let mut parts = Vec::new();
    let root = report.count_gaps(Why::Permission);
    if root > 0 {
        let examples: Vec<&str> = {
            let mut sources: Vec<&str> = Vec::new();
            for (_, gap) in report.gaps() {
                if gap.why == Why::Permission
                    && let Some(source) = gap.source.as_deref()
                    && !sources.contains(&source)
                {
                    sources.push(source);
                }
            }
            sources
        };
        let shown: Vec<&str> = examples.iter().take(3).copied().collect();
        let more = examples.len().saturating_sub(shown.len());
        let more = if more > 0 { format!(" and {more} more") } else { String::new() };
        let shown = shown.join(", ");
        parts.push(match report.taken.privileged {
            true => format!(
                "{} refused even to root ({shown}{more})",
                count(root, "value is", "values are")
            ),
            false => format!(
                "{} root ({shown}{more}); run the same as root to get them",
                count(root, "value needs", "values need"),
            ),
        });
    }
    let hung = report.count_gaps(Why::Timeout);
    if hung > 0 {
        parts.push(format!(
            "{} because a source did not answer in time",
            count(hung, "value is missing", "values are missing")
        ));
    }
    let cut = report.sources.iter().filter(|source| source.outcome == Outcome::Cut).count();
    if cut > 0 {
        parts.push(format!(
            "{} read only up to the size limit",
            count(cut, "file was", "files were")
        ));
    }
    (!parts.is_empty()).then(|| parts.join("; "))
}

/// That a report says nothing of a section, and why.
pub(crate) fn not_surveyed(section: &str, report: &Report) -> String {
    let of_it = |note: &&Note| match note {
        Note::SectionFailed { section: own, .. } | Note::SectionUnfinished { section: own } => {
            own == section
        }
        _ => false,
    };
    match report.notes.iter().find(of_it) {
        Some(note) => format!("{section}: not known: {}", notes::words(note)),
        None => format!("{section}: not known, as this section was not surveyed"),
    }
}

/// A gap in one line: why, what the last source answered, what would help.
pub(crate) fn gap_words(gap: &Gap) -> String {
    let answer = gap.tried.last().map(|attempt| format!(", {} {}", attempt.source, attempt.answer));
    let hint = gap.hint.as_ref().map(|hint| format!("; {hint}"));
    [Some(super::sheet::why(gap)), answer, hint].into_iter().flatten().collect()
}

/// Every gap: those of one reason and source together.
pub(crate) fn list(report: &Report, page: &mut Page) {
    let gaps = report.gaps();
    page.gap();
    page.entry("missing").plain(count(gaps.len(), "value", "values"));
    let mut groups: BTreeMap<(Why, String), Vec<&str>> = BTreeMap::new();
    for (at, gap) in &gaps {
        let source = gap.source.as_deref().map(str::to_owned);
        let source = source.or(gap.hint.as_ref().map(ToString::to_string)).unwrap_or_default();
        groups.entry((gap.why, source)).or_default().push(at);
    }
    for ((why, source), places) in &groups {
        page.beside()
            .tone(Tone::Before, why.code())
            .plain(format!(" {source}"))
            .quiet(format!(", {}", count(places.len(), "value", "values")));
        page.beneath("", [(Tone::Quiet, places.join(" ").as_str())]);
    }
}
