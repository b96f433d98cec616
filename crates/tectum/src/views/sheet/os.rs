//! Operating system.

use crate::page::{Card, Page, UNKNOWN};
use tectum_report::{
    fact::Fact,
    leaf::{Hundredths, PercentHundredths},
    model::{Os, OsReadings, Pressure},
};

use super::{View, cell, joined, known, text};

pub(super) fn print(os: &Os, view: &View<'_>, page: &mut Page) {
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
        page.beside().quiet(format!("up {}{}", span(up.0), since.unwrap_or_default()));
    }
    view.odd("os", page);
    if !view.drawn {
        return;
    }
    page.gap();
    page.card(Card { rows: rows(os, readings) });
    if os.installed_kernels.len() > 1 {
        page.gap();
        kernels(os, page);
    }
    if let Some(readings) = readings {
        page.gap();
        running(readings, page);
    }
    if !os.repositories.is_empty() {
        page.gap();
        repositories(os, page);
    }
}

/// What stands on the card.
fn rows(os: &Os, readings: Option<&OsReadings>) -> Vec<(&'static str, String)> {
    let mut rows = Vec::new();
    let mut row = |label: &'static str, value: Option<String>| {
        rows.extend(value.filter(|value| !value.is_empty()).map(|value| (label, value)));
    };
    row("host name", known(&os.hostname));
    row("domain", known(&os.domain));
    row("machine id", known(&os.machine_id));
    row("boot id", readings.and_then(|all| known(&all.boot_id)));
    row("version", known(&os.version).or_else(|| known(&os.version_id)));
    row("code name", known(&os.codename));
    row("edition", known(&os.variant));
    row("build", known(&os.build_id));
    row("like", known(&os.compatible_with));
    row("support ends", known(&os.support_end_date));
    row("kernel build", known(&os.kernel_version));
    row("built by", known(&os.kernel_built_by));
    row("compiler", known(&os.kernel_compiler));
    row("init", known(&os.init_system));
    row("time zone", known(&os.time_zone));
    row("locale", known(&os.locale));
    row("clock", known(&os.clock_source));
    row(
        "groups",
        known(&os.control_groups).map(|version| {
            format!("control groups, version {}", version.replace("-and-", " and "))
        }),
    );
    row("security", known(&os.security_modules));
    row(
        "SELinux",
        os.selinux_enforcing.value().map(|enforcing| {
            if *enforcing { "enforcing".to_owned() } else { "permissive".to_owned() }
        }),
    );
    row("lockdown", known(&os.lockdown));
    row("taints", readings.and_then(|all| known(&all.taints)));
    let patches: Vec<String> = os.live_patches.iter().map(|patch| cell(&patch.name)).collect();
    row("live patches", Some(patches.join(", ")));
    let databases = os.package_databases.iter().map(|database| match database.packages.value() {
        Some(count) => format!("{count} by {}", cell(&database.manager)),
        None => format!("{}: {}", cell(&database.manager), text(&database.packages)),
    });
    row("packages", Some(databases.collect::<Vec<_>>().join(", ")));
    row("home page", known(&os.home_url));
    row("help", known(&os.support_url));
    row("defects", known(&os.bug_report_url));
    for field in os.other_fields.iter() {
        row("release says", Some(format!("{}={}", cell(&field.key), cell(&field.value))));
    }
    rows
}

fn kernels(os: &Os, page: &mut Page) {
    let yes = |fact: &Fact<bool>| match fact.value() {
        Some(true) => "yes".to_owned(),
        Some(false) => "no".to_owned(),
        None => UNKNOWN.to_owned(),
    };
    let rows: Vec<Vec<String>> = os
        .installed_kernels
        .iter()
        .map(|kernel| {
            vec![
                cell(&kernel.release),
                yes(&kernel.running),
                yes(&kernel.boot_file),
                yes(&kernel.modules),
            ]
        })
        .collect();
    page.table(&["installed kernel", "running", "boot image", "modules"], rows);
}

fn running(all: &OsReadings, page: &mut Page) {
    let two = |value: u64| format!("{}.{:02}", value / 100, value % 100);
    let average = |fact: &Fact<Hundredths>| fact.value().map(|value| two(value.0));
    let percent = |fact: &Fact<PercentHundredths>| fact.value().map(|value| two(value.0));
    let load = joined(
        [
            average(&all.load_1_minute_hundredths),
            average(&all.load_5_minutes_hundredths),
            average(&all.load_15_minutes_hundredths),
        ],
        ", ",
    );
    if !load.is_empty() {
        page.beside().quiet("load over 1, 5 and 15 minutes ").plain(load);
    }
    let number = |fact: &Fact<u64>, what: &str| known(fact).map(|count| format!("{count} {what}"));
    let threads = joined(
        [
            number(&all.threads, "threads"),
            number(&all.threads_running, "run or could"),
            number(&all.threads_blocked, "wait for a device"),
        ],
        ", ",
    );
    if !threads.is_empty() {
        page.beside().quiet(threads);
    }
    let since = joined(
        [
            number(&all.forks, "processes and threads started"),
            number(&all.context_switches, "switches between threads"),
            number(&all.interrupts, "interrupts"),
            number(&all.oopses, "kernel failures"),
            number(&all.warnings, "kernel warnings"),
        ],
        ", ",
    );
    if !since.is_empty() {
        page.beside().quiet(format!("since boot: {since}"));
    }
    if let Some(rates) = &all.rates {
        let seconds = rates.over_ms.value().map_or(0, |ms| ms.0 / 1000);
        let busy =
            percent(&rates.cpu_busy_percent_hundredths).map(|share| format!("CPUs busy {share} %"));
        let parts = joined(
            [
                busy,
                number(&rates.context_switches_per_second, "switches a second"),
                number(&rates.interrupts_per_second, "interrupts a second"),
                number(&rates.forks_per_second, "processes and threads started a second"),
            ],
            ", ",
        );
        page.beside().quiet(format!("watched for {seconds} s: ")).plain(parts);
    }
    if all.pressure.is_empty() {
        return;
    }
    let waited = |stall: &&Pressure| {
        let shares = [
            &stall.avg10_percent_hundredths,
            &stall.avg60_percent_hundredths,
            &stall.avg300_percent_hundredths,
        ];
        shares.iter().any(|share| share.value().is_some_and(|share| share.0 > 0))
    };
    let rows: Vec<Vec<String>> = all
        .pressure
        .iter()
        .filter(waited)
        .map(|stall| {
            let whose = match stall.whose.value().is_some_and(|whose| &**whose == "full") {
                true => "all work at once",
                false => "some of the work",
            };
            let share = |fact: &Fact<PercentHundredths>| {
                percent(fact).map_or_else(|| UNKNOWN.to_owned(), |share| format!("{share} %"))
            };
            vec![
                cell(&stall.resource),
                whose.to_owned(),
                share(&stall.avg10_percent_hundredths),
                share(&stall.avg60_percent_hundredths),
                share(&stall.avg300_percent_hundredths),
            ]
        })
        .collect();
    if rows.is_empty() {
        page.beside().quiet("no work had to wait in the last 300 seconds");
        return;
    }
    page.gap();
    page.table(&["resource", "tasks that waited", ">last 10 s", ">last 60 s", ">last 300 s"], rows);
}

fn repositories(os: &Os, page: &mut Page) {
    let rows: Vec<Vec<String>> = os
        .repositories
        .iter()
        .filter(|one| one.enabled.value() == Some(&true))
        .map(|one| {
            let what = joined([known(&one.name), known(&one.kind)], " ");
            vec![
                cell(&one.manager),
                what,
                cell(&one.uris),
                joined([known(&one.suites), known(&one.components)], ": "),
                format!("{}:{}", cell(&one.file), cell(&one.line)),
            ]
        })
        .collect();
    let off = os.repositories.len() - rows.len();
    page.table(&["package manager", "type", "URI", "suites: components", "file"], rows);
    if off > 0 {
        page.beside().quiet(format!("and {off} switched off"));
    }
}

/// A time span in its two largest units.
fn span(seconds: u64) -> String {
    let (days, hours, minutes) = (seconds / 86_400, seconds / 3600 % 24, seconds / 60 % 60);
    match (days, hours) {
        (0, 0) if minutes == 0 => format!("{seconds} s"),
        (0, 0) => format!("{minutes} min"),
        (0, _) => format!("{hours} h {minutes} min"),
        _ => format!("{days} d {hours} h"),
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(0, "0 s")]
    #[case(59, "59 s")]
    #[case(60, "1 min")]
    #[case(3_599, "59 min")]
    #[case(3_600, "1 h 0 min")]
    #[case(86_399, "23 h 59 min")]
    #[case(86_400, "1 d 0 h")]
    #[case(9_000_000, "104 d 4 h")]
    fn a_span_is_told_in_its_largest_units(#[case] seconds: u64, #[case] told: &str) {
        assert_eq!(span(seconds), told);
    }
}
