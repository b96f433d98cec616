//! Where a survey's time went.

use crate::page::Page;
use std::time::Duration;

use tectum_report::report::{Outcome, Report};

use super::quantity::count;

/// Prints each section's time and the slowest accesses.
pub(crate) fn print(sections: &[(&'static str, Duration)], report: &Report, page: &mut Page) {
    let longest = sections.iter().map(|(_, time)| *time).max().unwrap_or_default();
    page.entry("time").plain(format!(
        "{} ms for {}",
        report.taken.elapsed_ms,
        count(report.sources.len(), "access", "accesses")
    ));
    for (section, time) in sections {
        let nanos = |time: Duration| u64::try_from(time.as_nanos()).unwrap_or(u64::MAX);
        page.beside()
            .plain(format!("{section:<12}{:>10} ms  ", milliseconds(*time)))
            .share(nanos(*time), nanos(longest));
    }
    let mut slowest: Vec<_> = report.sources.iter().collect();
    slowest.sort_by_key(|source| std::cmp::Reverse(source.elapsed_us));
    page.entry("slowest").plain("accesses");
    for source in slowest.into_iter().take(8) {
        let Some(elapsed) = source.elapsed_us else { continue };
        let time = milliseconds(Duration::from_micros(elapsed));
        page.beside().plain(format!("{time:>8} ms  {} {}", source.operation, source.path)).quiet(
            match &source.outcome {
                Outcome::Done => String::new(),
                other => format!(", {other}"),
            },
        );
    }
}

/// A time in milliseconds, three digits or so.
pub(crate) fn milliseconds(time: Duration) -> String {
    format!("{:.2}", time.as_secs_f64() * 1e3)
}
