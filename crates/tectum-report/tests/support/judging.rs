//! A report judged by one rule.

use tectum_report::{
    Report,
    expectation::Expectations,
    finding::{Judgement, Limits},
};

/// What one rule finds.
pub fn judged(report: &Report, rule: &str, limits: &Limits) -> Judgement {
    Judgement::by(&|id| id == rule, report, limits, &Expectations::default())
}

/// The usual limits, and a time zone that is expected.
pub fn limits() -> Limits {
    let mut limits = Limits::default();
    limits.time_zone = Some("Etc/UTC".to_owned());
    limits
}
