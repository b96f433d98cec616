//! What is missing, in a line.

use tectum_core::report::{Report, fact::Why};

use super::sizes::count;

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
        parts.push(format!(
            "{} root ({}{more}); run the same as root to get them",
            count(root, "value needs", "values need"),
            shown.join(", "),
        ));
    }
    let hung = report.count_gaps(Why::Timeout);
    if hung > 0 {
        parts.push(format!(
            "{} because a source did not answer in time",
            count(hung, "value is missing", "values are missing")
        ));
    }
    let cut = report.sources.iter().filter(|source| source.outcome.starts_with("cut")).count();
    if cut > 0 {
        parts.push(format!(
            "{} read only up to the size limit",
            count(cut, "file was", "files were")
        ));
    }
    (!parts.is_empty()).then(|| parts.join("; "))
}

/// Every gap, by its pointer.
pub(crate) fn list(report: &Report, page: &mut super::page::Sheet) {
    let gaps = report.gaps();
    page.entry("missing").plain(count(gaps.len(), "value", "values"));
    let rows: Vec<Vec<String>> = gaps
        .iter()
        .map(|(at, gap)| {
            let source = gap.source.as_deref().unwrap_or("").to_owned();
            vec![at.clone(), gap.why.word().to_owned(), source]
        })
        .collect();
    if !rows.is_empty() {
        page.table(&["value", "why", "source"], &rows);
    }
}
