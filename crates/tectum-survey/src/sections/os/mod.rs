//! Operating system and kernel, what is installed, what runs.

mod kernel;
mod packages;
mod rates;
mod repositories;
mod running;
mod setting;

pub(crate) use rates::between as rates_between;
pub(crate) use running::own_clock;

use crate::readers::sayings;
use std::sync::Arc;

use super::{Found, Section};
use crate::readers::{file::File, limits::leave_first};
use crate::{
    formats::assignment,
    source::{Lease, SystemNames},
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Why, saying},
    leaf::{FreeText, HostName, Label, MachineId, ParameterName, Term},
    model::{Os, ReleaseField},
};

pub(super) const SECTION: Section = Section {
    name: "os",
    summary: "operating system, kernels, security, where software comes from, load",
    reads: &[
        "/boot",
        "/etc/apk/repositories",
        "/etc/apt/sources.list",
        "/etc/apt/sources.list.d",
        "/etc/apt/sources.list.d/*",
        "/etc/default/locale",
        "/etc/hostname",
        "/etc/locale.conf",
        "/etc/localtime",
        "/etc/machine-id",
        "/etc/os-release",
        "/etc/pacman.conf",
        "/etc/pacman.d/*",
        "/etc/timezone",
        "/etc/yum.repos.d",
        "/etc/yum.repos.d/*",
        "/etc/zypp/repos.d",
        "/etc/zypp/repos.d/*",
        "/lib/apk/db/installed",
        "/lib/modules",
        "/proc/1/comm",
        "/proc/loadavg",
        "/proc/pressure/*",
        "/proc/self/mountinfo",
        "/proc/stat",
        "/proc/sys/kernel/*",
        "/proc/sys/kernel/random/boot_id",
        "/proc/sys/kernel/random/entropy_avail",
        "/proc/uptime",
        "/proc/version",
        "/run/openrc/softlevel",
        "/run/reboot-required",
        "/run/reboot-required.pkgs",
        "/run/systemd/system",
        "/sys/devices/system/clocksource/clocksource0/*",
        "/sys/fs/selinux/enforce",
        "/sys/kernel/livepatch",
        "/sys/kernel/livepatch/*/enabled",
        "/sys/kernel/oops_count",
        "/sys/kernel/security/lockdown",
        "/sys/kernel/security/lsm",
        "/sys/kernel/warn_count",
        "/usr/lib/modules",
        "/usr/lib/os-release",
        "/usr/lib/sysimage/rpm",
        "/var/lib/dpkg/status",
        "/var/lib/pacman/local",
        "/var/lib/rpm",
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

/// Whether a field of os-release has a place of its own in the model, for its maker's words.
pub(crate) fn is_known_release_field(key: &str) -> bool {
    PLACED.contains(&key)
}

fn survey(lease: &Lease) -> Found {
    let release = release_file(lease);
    let text = release.text();
    let fields = assignment::shell(&text);
    let field = |key: &str| {
        release.assigned(&fields, key, sayings::VALUE_WITHOUT_QUOTES, |value| {
            Some(Term(value.to_owned()))
        })
    };
    let kernel_release: Fact<Term> =
        kernel(lease, "/proc/sys/kernel/osrelease", "release", |names| &names.release);
    let installed_kernels = kernel::installed(lease, &kernel_release);
    let newest_kernel = kernel::newest(&installed_kernels, &kernel_release);
    let version = File::read(lease, "/proc/version");
    let os = Os {
        pretty_name: field("PRETTY_NAME"),
        name: field("NAME"),
        id: field("ID"),
        compatible_with: release.assigned(
            &fields,
            "ID_LIKE",
            saying!("words-closest-first", "words, the closest first"),
            |value| Some(value.split_whitespace().map(Term::from).collect()),
        ),
        version: field("VERSION"),
        version_id: field("VERSION_ID"),
        codename: field("VERSION_CODENAME"),
        variant: field("VARIANT"),
        variant_id: field("VARIANT_ID"),
        build_id: field("BUILD_ID"),
        support_end_date: field("SUPPORT_END").and_then(|text: Term| {
            text.parse().map_err(|()| {
                Gap::new(Why::Invalid)
                    .raw(&text)
                    .hint(saying!("not-date-yyyy-mm-dd", "not a date yyyy-mm-dd"))
            })
        }),
        home_url: field("HOME_URL"),
        support_url: field("SUPPORT_URL"),
        bug_report_url: field("BUG_REPORT_URL"),
        other_fields: other_fields(&release, &fields),
        kernel_name: kernel(lease, "/proc/sys/kernel/ostype", "sysname", |names| &names.system),
        kernel_built_by: kernel::built(&version, |built| built.by).map(|text| FreeText(text.0)),
        kernel_compiler: kernel::built(&version, |built| built.compiler),
        newer_kernel_installed: kernel::newer(&newest_kernel, &kernel_release),
        newest_kernel,
        installed_kernels,
        kernel_release,
        live_patches: kernel::live_patches(lease),
        clock_source: kernel::clock(lease, "current_clocksource").text_fact(),
        clock_sources: kernel::clock(lease, "available_clocksource")
            .fact(sayings::ITS_WORDS, |text| {
                Some(text.split_whitespace().map(Term::from).collect())
            }),
        security_modules: setting::security_modules(lease),
        selinux_enforcing: setting::selinux_enforcing(lease),
        lockdown: setting::lockdown(lease),
        control_groups: setting::control_groups(lease),
        init_system: setting::init_system(lease),
        time_zone: setting::time_zone(lease).map(|text| Label(text.0)),
        locale: setting::locale(lease),
        repositories: repositories::repositories(lease),
        package_databases: packages::databases(lease),
        domain: File::read(lease, "/proc/sys/kernel/domainname").text_fact().and_then(
            |domain: HostName| match &*domain {
                "(none)" => Err(Gap::new(Why::Blank).raw("(none)")),
                _ => Ok(domain),
            },
        ),
        kernel_version: kernel(lease, "/proc/sys/kernel/version", "version", |names| {
            &names.version
        }),
        architecture: architecture(lease),
        hostname: hostname(lease),
        machine_id: machine_id(lease),
    };
    let running = running::readings(lease);
    Box::new(|observed| {
        observed.inventory.os = Some(os);
        observed.readings.os = Some(running);
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
    let mut others: Vec<_> = fields.iter().filter(|field| !PLACED.contains(&field.key)).collect();
    let more = leave_first(&mut others, release);
    let others: Vec<ReleaseField> = others
        .into_iter()
        .map(|field| ReleaseField {
            key: Fact::known(
                ParameterName::from(field.key),
                release.at_line(field.line, saying!("key", "the key")),
            ),
            value: release
                .assigned(
                    std::slice::from_ref(field),
                    field.key,
                    sayings::VALUE_WITHOUT_QUOTES,
                    |value| Some(Term(value.to_owned())),
                )
                .map(|text| FreeText(text.0)),
        })
        .collect();
    let rule =
        saying!("every-assignment-no-field-own", "every assignment that has no field of its own",);
    Parts::known(others, Evidence::new(Arc::clone(release.path()), rule)).in_part(more)
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
    let fact = file.fact(sayings::FILE_TEXT_TRIMMED, |text| Some(T::from(text.to_owned())));
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
            let evidence = Evidence::new(
                "uname(2)".into(),
                saying!("kernel-answers", "as the kernel answers"),
            )
            .place(field)
            .raw(&value);
            Fact::known(value, evidence)
        }
        Err(error) => {
            let mut gap = crate::readers::file::refused(&error);
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
pub(super) fn architecture(lease: &Lease) -> Fact<Term> {
    kernel(lease, "/proc/sys/kernel/arch", "machine", |names| &names.machine)
}

pub(super) fn machine_id(lease: &Lease) -> Fact<MachineId> {
    let file = File::read(lease, "/etc/machine-id");
    file.fact(
        saying!("32-hexadecimal-digits-machine-id", "32 hexadecimal digits (machine-id(5))"),
        |text| {
            let digits = text.len() == 32 && text.bytes().all(|byte| byte.is_ascii_hexdigit());
            // One of zeros is none (sd-id128(3)).
            let any = text.bytes().any(|byte| byte != b'0');
            (digits && any).then(|| MachineId(text.to_ascii_lowercase()))
        },
    )
}
