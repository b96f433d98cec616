//! Operating system and kernel.

use std::sync::Arc;

use super::{Found, Section, file::File};
use crate::{
    formats::{assignment, number},
    report::{
        fact::{Evidence, Fact, Gap, Why},
        kinds::{HostName, MachineId, Text},
        model::{Os, OsReadings, ReleaseField},
        record::Parts,
    },
    source::{Lease, SystemNames},
};

pub(super) const SECTION: Section = Section {
    name: "os",
    summary: "operating system, kernel, host name, boot time",
    reads: &[
        "/etc/hostname",
        "/etc/machine-id",
        "/etc/os-release",
        "/proc/stat",
        "/proc/sys/kernel/*",
        "/proc/uptime",
        "/usr/lib/os-release",
    ],
    survey,
};

/// os-release(5): the first that exists is read.
const RELEASE_FILES: [&str; 2] = ["/etc/os-release", "/usr/lib/os-release"];

/// The keys that have a field of their own in the model.
const PLACED: &[&str] = &[
    "PRETTY_NAME",
    "NAME",
    "ID",
    "ID_LIKE",
    "VERSION",
    "VERSION_ID",
    "VERSION_CODENAME",
    "VARIANT",
    "VARIANT_ID",
    "BUILD_ID",
    "SUPPORT_END",
    "HOME_URL",
    "SUPPORT_URL",
    "BUG_REPORT_URL",
];

fn survey(lease: &Lease) -> Found {
    let release = release_file(lease);
    let text = release.text();
    let fields = assignment::shell(&text);
    let field = |key: &str| {
        release.assigned(&fields, key, "the value without its quotes", |value| {
            Some(Text(value.to_owned()))
        })
    };
    let os = Os {
        pretty_name: field("PRETTY_NAME"),
        name: field("NAME"),
        id: field("ID"),
        compatible_with: release.assigned(
            &fields,
            "ID_LIKE",
            "words, the closest first",
            |value| Some(value.split_whitespace().map(Text::from).collect()),
        ),
        version: field("VERSION"),
        version_id: field("VERSION_ID"),
        codename: field("VERSION_CODENAME"),
        variant: field("VARIANT"),
        variant_id: field("VARIANT_ID"),
        build_id: field("BUILD_ID"),
        support_end: field("SUPPORT_END"),
        home_url: field("HOME_URL"),
        support_url: field("SUPPORT_URL"),
        bug_report_url: field("BUG_REPORT_URL"),
        other_fields: other_fields(&release, &fields),
        kernel_name: kernel(lease, "/proc/sys/kernel/ostype", "sysname", |names| &names.system),
        kernel_release: kernel(lease, "/proc/sys/kernel/osrelease", "release", |names| {
            &names.release
        }),
        kernel_version: kernel(lease, "/proc/sys/kernel/version", "version", |names| {
            &names.version
        }),
        architecture: architecture(lease),
        hostname: hostname(lease),
        machine_id: machine_id(lease),
    };
    let times = times(lease);
    Box::new(|findings| {
        findings.inventory.os = Some(os);
        findings.readings.os = Some(times);
    })
}

/// The name that the kernel runs under, and beside it the one that is configured.
pub(super) fn hostname(lease: &Lease) -> Fact<HostName> {
    kernel::<HostName>(lease, "/proc/sys/kernel/hostname", "nodename", |names| &names.node)
        .or_from(|| File::read(lease, "/etc/hostname").text_fact())
}

fn release_file(lease: &Lease) -> File {
    let [first, second] = RELEASE_FILES.map(|path| File::read(lease, path));
    if first.bytes().is_err() && second.bytes().is_ok() { second } else { first }
}

fn other_fields(release: &File, fields: &[assignment::Assignment<'_>]) -> Parts<ReleaseField> {
    if let Err(gap) = release.bytes() {
        return Parts::missing(gap.clone());
    }
    let mut others: Vec<ReleaseField> = fields
        .iter()
        .filter(|field| !PLACED.contains(&field.key))
        .map(|field| ReleaseField {
            key: Fact::known(Text::from(field.key), release.at_line(field.line, "the key")),
            value: release.assigned(fields, field.key, "the value without its quotes", |value| {
                Some(Text(value.to_owned()))
            }),
        })
        .collect();
    others.sort_by(|a, b| a.key.value().cmp(&b.key.value()));
    let rule = "every assignment that has no field of its own";
    Parts::known(others, Evidence::new(Arc::clone(release.path()), rule))
}

/// What the kernel says of itself: the file and the system call are two doors to the same.
fn kernel<T>(
    lease: &Lease,
    path: &str,
    field: &'static str,
    pick: impl Fn(&SystemNames) -> &String,
) -> Fact<T>
where
    T: From<String> + PartialEq + std::fmt::Display,
{
    let file = File::read(lease, path);
    let fact = file.fact("the file's text, trimmed", |text| Some(T::from(text.to_owned())));
    fact.or_from(|| uname(lease, field, pick).map(T::from))
}

fn uname(
    lease: &Lease,
    field: &'static str,
    pick: impl Fn(&SystemNames) -> &String,
) -> Fact<String> {
    match lease.uname() {
        Ok(names) => {
            let value = pick(&names).clone();
            let evidence =
                Evidence::new("uname(2)".into(), "as the kernel answers").place(field).raw(&value);
            Fact::known(value, evidence)
        }
        Err(error) => {
            let mut gap = super::file::refused(&error);
            for attempt in &mut gap.tried {
                attempt.source = "uname(2)".into();
            }
            gap.source = Some("uname(2)".into());
            Fact::gap(gap)
        }
    }
}

/// The architecture that the kernel answers with. The personality of the asking process can change
/// what uname(2) says (a 32-bit program on a 64-bit kernel), so the kernel's own file comes first.
pub(super) fn architecture(lease: &Lease) -> Fact<Text> {
    kernel(lease, "/proc/sys/kernel/arch", "machine", |names| &names.machine)
}

pub(super) fn machine_id(lease: &Lease) -> Fact<MachineId> {
    let file = File::read(lease, "/etc/machine-id");
    file.fact("32 hexadecimal digits (machine-id(5))", |text| {
        let digits = text.len() == 32 && text.bytes().all(|byte| byte.is_ascii_hexdigit());
        digits.then(|| MachineId(text.to_ascii_lowercase()))
    })
}

fn times(lease: &Lease) -> OsReadings {
    let stat = File::read(lease, "/proc/stat");
    let text = stat.text();
    let boot = crate::formats::lines(&text).find_map(|line| {
        let value = line.raw.strip_prefix("btime ")?;
        Some((line, value))
    });
    let booted_at = match boot {
        None => Fact::gap(stat.lacks("btime")),
        Some((line, value)) => {
            let time = number::signed(value).and_then(|s| jiff::Timestamp::from_second(s).ok());
            match time {
                Some(time) => Fact::known(
                    Text(time.to_string()),
                    stat.at_line(line, "seconds since 1970-01-01 UTC, as a date"),
                ),
                None => Fact::gap(Gap::new(Why::Invalid).raw(value)),
            }
        }
    };
    let uptime = File::read(lease, "/proc/uptime");
    OsReadings {
        booted_at,
        uptime_seconds: uptime.fact("the first number, rounded down", |text| {
            number::whole_part(text.split_whitespace().next()?)
        }),
    }
}
