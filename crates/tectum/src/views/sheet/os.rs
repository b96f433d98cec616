//! Operating system.

use tectum_core::report::{
    fact::Fact,
    kinds::{Leaf, Text},
    model::Os,
};

use super::{View, cell, joined, known, text};
use crate::views::page::Sheet;

pub(super) fn print(os: &Os, view: &View<'_>, page: &mut Sheet) {
    let name = known(&os.pretty_name)
        .or_else(|| known(&os.name))
        .unwrap_or_else(|| format!("operating system {}", text(&os.pretty_name)));
    let kernel = joined([known(&os.kernel_name), known(&os.kernel_release)], " ");
    let kernel = if kernel.is_empty() { "kernel not known".to_owned() } else { kernel };
    let on = known(&os.architecture).map(|architecture| format!(" on {architecture}"));
    page.entry("system").strong(name).plain(format!(", {kernel}{}", on.unwrap_or_default()));
    let readings = view.report.readings.os.as_ref();
    if let Some(up) = readings.and_then(|times| times.uptime_seconds.value()) {
        let since = readings.and_then(|times| known(&times.booted_at));
        let since =
            since.map(|at| format!(", since {}", at.replace('T', " ").replace('Z', " UTC")));
        page.beside().quiet(format!("up {}{}", span(*up), since.unwrap_or_default()));
    }
    if !view.drawn {
        return;
    }
    page.beside().quiet("kernel build ").plain(text(&os.kernel_version));
    page.beside().quiet("machine id ").plain(text(&os.machine_id));
    let mut rows = Vec::new();
    let mut row = |label: &str, fact: &Fact<Text>| {
        if let Some(value) = known(fact) {
            rows.push(vec![label.to_owned(), value]);
        }
    };
    row("version", &os.version);
    row("code name", &os.codename);
    row("edition", &os.variant);
    row("build", &os.build_id);
    row("support ends", &os.support_end);
    row("home page", &os.home_url);
    row("help", &os.support_url);
    row("defects", &os.bug_report_url);
    if let Some(names) = os.compatible_with.value() {
        rows.push(vec!["compatible with".to_owned(), names.to_text()]);
    }
    for field in os.other_fields.iter() {
        rows.push(vec![cell(&field.key), cell(&field.value)]);
    }
    if !rows.is_empty() {
        page.gap();
        page.table(&["release", ""], &rows);
    }
}

/// A time span in its two largest units.
fn span(seconds: u64) -> String {
    let (days, hours, minutes) = (seconds / 86_400, seconds / 3600 % 24, seconds / 60 % 60);
    match (days, hours) {
        (0, 0) => format!("{minutes} min"),
        (0, _) => format!("{hours} h {minutes} min"),
        _ => format!("{days} d {hours} h"),
    }
}
