//! What runs, and how it is doing.

use super::kernel;
use crate::readers::sayings;
use crate::{
    formats::{Line, lines, number, pressure},
    readers::file::File,
    source::Lease,
};
use jiff::{SignedDuration, Timestamp};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Saying, Why, saying},
    leaf::{
        Bits, FreeText, Hundredths, MachineId, Microseconds, Moment, PathName, PercentHundredths,
        Seconds, Term,
    },
    model::{OsReadings, Pressure, RebootRequest},
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
            Some(count) => Fact::known(
                count,
                stat.at_line(line, saying!("line-first-number", "the line's first number")),
            ),
            None => Fact::gap(Gap::new(Why::Invalid).raw(line.raw)),
        },
    };
    let load = File::read(lease, "/proc/loadavg");
    let average = |index: usize| {
        load.fact(saying!("hundredths-number", "hundredths of the number"), |text| {
            pressure::hundredths(text.split_whitespace().nth(index)?)
        })
    };
    let since_boot = |name: &str| {
        File::read(lease, format!("/sys/kernel/{name}"))
            .fact(sayings::DECIMAL_NUMBER, number::decimal)
    };
    OsReadings {
        booted_at: booted_at(&stat, &text),
        uptime_seconds: uptime(lease).map(Seconds),
        boot_id: File::read(lease, "/proc/sys/kernel/random/boot_id").text_fact::<MachineId>(),
        load_1_minute_hundredths: average(0).map(Hundredths),
        load_5_minutes_hundredths: average(1).map(Hundredths),
        load_15_minutes_hundredths: average(2).map(Hundredths),
        threads: load.fact(
            saying!("behind-stroke-fourth-word", "behind the stroke of the fourth word"),
            |text| number::decimal(text.split_whitespace().nth(3)?.split_once('/')?.1),
        ),
        threads_running: count("procs_running"),
        threads_blocked: count("procs_blocked"),
        forks: count("processes"),
        context_switches: count("ctxt"),
        interrupts: count("intr"),
        oopses: since_boot("oops_count"),
        warnings: since_boot("warn_count"),
        taints: kernel::taints(lease),
        entropy_bits: File::read(lease, "/proc/sys/kernel/random/entropy_avail")
            .fact(sayings::BITS, number::decimal)
            .map(Bits),
        reboot_required: reboot_required(lease),
        pressure: stalls(lease),
        rates: None,
    }
}

/// 1991-09-17, when the first kernel was released.
const FIRST_LINUX: i64 = 685_065_600;

/// Longer than any machine has run: 200 years, in seconds.
const LONGEST_UPTIME: u64 = 200 * 366 * 24 * 60 * 60;

fn uptime(lease: &Lease) -> Fact<u64> {
    File::read(lease, "/proc/uptime").fact(
        saying!("first-number-rounded-down", "the first number, rounded down"),
        |text| {
            number::whole_part(text.split_whitespace().next()?)
                .filter(|seconds| *seconds < LONGEST_UPTIME)
        },
    )
}

/// What the clock of a machine said when it was recorded: when its kernel started, and how long it had run.
pub(crate) fn own_clock(lease: &Lease) -> Option<Timestamp> {
    let stat = File::read(lease, "/proc/stat");
    let Moment(began) = *booted_at(&stat, &stat.text()).value()?;
    let ran = i64::try_from(*uptime(lease).value()?).ok()?;
    began.checked_add(SignedDuration::from_secs(ran)).ok()
}

fn booted_at(stat: &File, text: &str) -> Fact<Moment> {
    let Some((line, value)) = counter(text, "btime") else {
        return Fact::gap(stat.lacks("btime"));
    };
    let seconds = number::signed(value);
    // A kernel that is older than Linux was started by a clock that nobody had set.
    if seconds.is_some_and(|seconds| seconds < FIRST_LINUX) {
        return Fact::gap(Gap::new(Why::Invalid).raw(value).hint(saying!(
            "clock-not-set-at-boot",
            "the clock was not set when the kernel took the time",
        )));
    }
    let time = seconds
        .filter(|seconds| *seconds < FIRST_LINUX + i64::try_from(LONGEST_UPTIME).unwrap_or(0))
        .and_then(|seconds| Timestamp::from_second(seconds).ok());
    match time {
        Some(time) => Fact::known(
            Moment(time),
            stat.at_line(
                line,
                saying!("seconds-since-1970-01-01", "seconds since 1970-01-01 UTC, as a date"),
            ),
        ),
        None => Fact::gap(Gap::new(Why::Invalid).raw(value)),
    }
}

/// Files by which updates ask for a new start. That there is none is known only where the system
/// would leave one.
fn reboot_required(lease: &Lease) -> Parts<RebootRequest> {
    const MARK: &str = "/run/reboot-required";
    let file = File::read(lease, MARK);
    match file.bytes() {
        Err(gap) => Parts::missing(gap.clone().hint(saying!(
            "not-every-system-leaves-mark",
            "not every system leaves a mark; newer_kernel_installed tells more",
        ))),
        Ok(_) => {
            let packages = File::read(lease, "/run/reboot-required.pkgs");
            let asked: Vec<String> =
                packages.text().lines().map(|line| line.trim().to_owned()).collect();
            let says = match asked.is_empty() {
                true => file.text_fact(),
                false => Fact::known(
                    Term(asked.join(", ")),
                    packages.evidence(saying!("packages-asked", "the packages that asked for it")),
                ),
            };
            let name = file.evidence(sayings::FILE);
            let mark = RebootRequest {
                file: Fact::known(PathName::from(MARK), name.raw(MARK)),
                message: says.map(|text| FreeText(text.0)),
            };
            Parts::known(vec![mark], file.evidence(sayings::FILE))
        }
    }
}

fn stalls(lease: &Lease) -> Parts<Pressure> {
    let mut found = Vec::new();
    let mut missing = None;
    for resource in ["cpu", "memory", "io", "irq"] {
        let file = File::read(lease, format!("/proc/pressure/{resource}"));
        if let Err(gap) = file.bytes() {
            // What may be there weighs more than what is not.
            missing = missing
                .filter(|known: &Gap| known.why.hides_a_value())
                .or_else(|| Some(gap.clone()));
            continue;
        }
        let text = file.text();
        for stall in pressure::parse(&text) {
            let at = |rule: Saying| file.at_line(stall.line, rule);
            let [ten, sixty, long] = stall.averages;
            const AVERAGE: Saying = saying!("average-hundredths", "the average, in hundredths");
            found.push(Pressure {
                resource: Fact::known(Term::from(resource), at(sayings::FILE_NAME)),
                whose: Fact::known(
                    Term::from(stall.whose),
                    at(saying!("line-first-word", "the line's first word")),
                ),
                avg10_percent_hundredths: Fact::known(PercentHundredths(ten), at(AVERAGE)),
                avg60_percent_hundredths: Fact::known(PercentHundredths(sixty), at(AVERAGE)),
                avg300_percent_hundredths: Fact::known(PercentHundredths(long), at(AVERAGE)),
                total_us: Fact::known(
                    Microseconds(stall.total_us),
                    at(saying!("microseconds", "microseconds")),
                ),
            });
        }
    }
    let unseen = missing.clone().filter(|gap: &Gap| gap.why.hides_a_value());
    match missing.filter(|_| found.is_empty()) {
        Some(gap) => Parts::missing(gap.hint(saying!(
            "kernel-accounts-pressure",
            "there where the kernel accounts for pressure",
        ))),
        None => Parts::known(
            found,
            tectum_report::fact::Evidence::new(
                "/proc/pressure".into(),
                saying!("every-line-files", "every line of its files"),
            ),
        )
        .in_part(unseen),
    }
}
