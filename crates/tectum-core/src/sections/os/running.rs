//! What runs, and how it is doing.

use super::kernel;
use crate::{
    formats::{Line, lines, number, pressure},
    report::{
        fact::{Fact, Gap, Why},
        kinds::{MachineId, Text},
        model::{OsReadings, Pressure, RebootMark},
        record::Parts,
    },
    sections::file::File,
    source::Lease,
};

/// A line `KEY NUMBER …` of `/proc/stat`.
pub(super) fn counter<'a>(text: &'a str, key: &str) -> Option<(Line<'a>, &'a str)> {
    lines(text).find_map(|line| {
        let rest = line.raw.strip_prefix(key)?.strip_prefix(' ')?;
        Some((line, rest.split_whitespace().next()?))
    })
}

/// `/proc/loadavg`, `/proc/stat`, `/proc/uptime` (`Documentation/filesystems/proc.rst`).
pub(super) fn readings(lease: &Lease) -> OsReadings {
    let stat = File::read(lease, "/proc/stat");
    let text = stat.text();
    let count = |key: &str| match counter(&text, key) {
        None => Fact::gap(stat.lacks(key)),
        Some((line, value)) => match number::decimal(value) {
            Some(count) => Fact::known(count, stat.at_line(line, "the line's first number")),
            None => Fact::gap(Gap::new(Why::Invalid).raw(line.raw)),
        },
    };
    let load = File::read(lease, "/proc/loadavg");
    let average = |index: usize| {
        load.fact("hundredths of the number", |text| {
            pressure::hundredths(text.split_whitespace().nth(index)?)
        })
    };
    let uptime = File::read(lease, "/proc/uptime");
    let since_boot = |name: &str| {
        File::read(lease, format!("/sys/kernel/{name}")).fact("a decimal number", number::decimal)
    };
    OsReadings {
        booted_at: booted_at(&stat, &text),
        uptime_seconds: uptime.fact("the first number, rounded down", |text| {
            number::whole_part(text.split_whitespace().next()?)
        }),
        boot_id: File::read(lease, "/proc/sys/kernel/random/boot_id").text_fact::<MachineId>(),
        load_1_minute_hundredths: average(0),
        load_5_minutes_hundredths: average(1),
        load_15_minutes_hundredths: average(2),
        threads: load.fact("behind the stroke of the fourth word", |text| {
            number::decimal(text.split_whitespace().nth(3)?.split_once('/')?.1)
        }),
        threads_running: count("procs_running"),
        threads_blocked: count("procs_blocked"),
        forks: count("processes"),
        context_switches: count("ctxt"),
        interrupts: count("intr"),
        oopses: since_boot("oops_count"),
        warnings: since_boot("warn_count"),
        taints: kernel::taints(lease),
        entropy_bits: File::read(lease, "/proc/sys/kernel/random/entropy_avail")
            .fact("bits", number::decimal),
        reboot_marks: reboot_marks(lease),
        pressure: stalls(lease),
        rates: None,
    }
}

fn booted_at(stat: &File, text: &str) -> Fact<Text> {
    let Some((line, value)) = counter(text, "btime") else {
        return Fact::gap(stat.lacks("btime"));
    };
    let time = number::signed(value).and_then(|s| jiff::Timestamp::from_second(s).ok());
    match time {
        Some(time) => Fact::known(
            Text(time.to_string()),
            stat.at_line(line, "seconds since 1970-01-01 UTC, as a date"),
        ),
        None => Fact::gap(Gap::new(Why::Invalid).raw(value)),
    }
}

/// Files by which updates ask for a new start. That there is none is known only where the system
/// would leave one.
fn reboot_marks(lease: &Lease) -> Parts<RebootMark> {
    const MARK: &str = "/run/reboot-required";
    let file = File::read(lease, MARK);
    match file.bytes() {
        Err(gap) => Parts::missing(
            gap.clone().hint("not every system leaves a mark; newer_kernel_installed tells more"),
        ),
        Ok(_) => {
            let packages = File::read(lease, "/run/reboot-required.pkgs");
            let asked: Vec<String> =
                packages.text().lines().map(|line| line.trim().to_owned()).collect();
            let says = match asked.is_empty() {
                true => file.text_fact(),
                false => Fact::known(
                    Text(asked.join(", ")),
                    packages.evidence("the packages that asked for it"),
                ),
            };
            let name = file.evidence("the file is there");
            let mark = RebootMark { file: Fact::known(Text::from(MARK), name.raw(MARK)), says };
            Parts::known(vec![mark], file.evidence("the file is there"))
        }
    }
}

fn stalls(lease: &Lease) -> Parts<Pressure> {
    let mut found = Vec::new();
    let mut missing = None;
    for resource in ["cpu", "memory", "io", "irq"] {
        let file = File::read(lease, format!("/proc/pressure/{resource}"));
        if let Err(gap) = file.bytes() {
            missing = missing.or_else(|| Some(gap.clone()));
            continue;
        }
        let text = file.text();
        for stall in pressure::parse(&text) {
            let at = |rule: &'static str| file.at_line(stall.line, rule);
            let [ten, sixty, long] = stall.averages;
            const AVERAGE: &str = "the average, in hundredths";
            found.push(Pressure {
                resource: Fact::known(Text::from(resource), at("the file's name")),
                whose: Fact::known(Text::from(stall.whose), at("the line's first word")),
                last_10_seconds: Fact::known(ten, at(AVERAGE)),
                last_60_seconds: Fact::known(sixty, at(AVERAGE)),
                last_300_seconds: Fact::known(long, at(AVERAGE)),
                total_us: Fact::known(stall.total_us, at("microseconds")),
            });
        }
    }
    match missing.filter(|_| found.is_empty()) {
        Some(gap) => Parts::missing(gap.hint("there where the kernel accounts for pressure")),
        None => Parts::known(
            found,
            crate::report::fact::Evidence::new("/proc/pressure".into(), "every line of its files"),
        ),
    }
}
