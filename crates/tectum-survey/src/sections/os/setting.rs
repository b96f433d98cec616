//! How the system is set up: security, control groups, init, time zone, locale.

use crate::readers::sayings;
use std::path::Path;

use crate::{
    formats::{assignment, mountinfo, number},
    readers::file::{File, listing_evidence, refused},
    source::{Lease, path_text},
};
use tectum_report::{
    fact::{Evidence, Fact, Gap, Why, saying},
    leaf::Term,
    model::ControlGroups,
};

/// `Documentation/admin-guide/LSM`.
pub(super) fn security_modules(lease: &Lease) -> Fact<Vec<Term>> {
    File::read(lease, "/sys/kernel/security/lsm")
        .fact(saying!("names-order-they-asked", "names, in the order they are asked"), |text| {
            Some(text.split(',').map(|name| Term::from(name.trim())).collect())
        })
        .and_then(|names: Vec<Term>| match names.is_empty() {
            true => Err(Gap::new(Why::Blank)),
            false => Ok(names),
        })
}

pub(super) fn selinux_enforcing(lease: &Lease) -> Fact<bool> {
    File::read(lease, "/sys/fs/selinux/enforce")
        .fact(saying!("1-yes-0-permissive", "1 is yes, 0 is permissive"), number::flag)
}

/// The chosen one of `none [integrity] confidentiality` (kernel_lockdown(7)).
pub(super) fn lockdown(lease: &Lease) -> Fact<Term> {
    File::read(lease, "/sys/kernel/security/lockdown").fact(sayings::ONE_BRACKETS, |text| {
        let (_, rest) = text.split_once('[')?;
        rest.split_once(']').map(|(word, _)| Term::from(word))
    })
}

pub(super) fn control_groups(lease: &Lease) -> Fact<ControlGroups> {
    let file = File::read(lease, "/proc/self/mountinfo");
    let text = file.text();
    let mounts = mountinfo::parse(&text);
    let of = |kind: &str| mounts.iter().find(|mount| mount.filesystem == kind);
    let (version, lines) = match (of("cgroup"), of("cgroup2")) {
        (None, None) => return Fact::gap(file.lacks("that control groups are mounted")),
        (Some(first), None) => (ControlGroups::First, vec![first.line]),
        (None, Some(second)) => (ControlGroups::Second, vec![second.line]),
        (Some(first), Some(second)) => (ControlGroups::Both, vec![first.line, second.line]),
    };
    let evidence = lines.into_iter().map(|line| {
        file.at_line(
            line,
            saying!(
                "kinds-control-group-filesystem-mounted",
                "the kinds of control group filesystem that are mounted",
            ),
        )
    });
    Fact::known_from(version, evidence.collect())
}

/// What starts and watches services: by the folder or file that it keeps while it runs, or by the
/// name of process 1.
pub(super) fn init_system(lease: &Lease) -> Fact<Term> {
    const SYSTEMD: &str = "/run/systemd/system";
    if let Ok((names, _)) = lease.list(Path::new(SYSTEMD)) {
        let rule = saying!(
            "folder-only-while-systemd-process",
            "the folder is there only while systemd is process 1 (sd_booted(3))",
        );
        let raw = format!("{} names", names.len());
        return Fact::known(Term::from("systemd"), listing_evidence(SYSTEMD, rule).raw(&raw));
    }
    let openrc = File::read(lease, "/run/openrc/softlevel");
    if openrc.bytes().is_ok() {
        let evidence = openrc
            .evidence(saying!("file-keeps-runlevel", "the file in which it keeps its runlevel",));
        return Fact::known(Term::from("OpenRC"), evidence);
    }
    File::read(lease, "/proc/1/comm")
        .text_fact::<Term>()
        .by_rule(saying!("process-1-called", "what process 1 is called"))
}

/// localtime(5): the zone is what the link leads to below `zoneinfo`.
pub(super) fn time_zone(lease: &Lease) -> Fact<Term> {
    const LINK: &str = "/etc/localtime";
    let linked = match lease.resolve(Path::new(LINK)) {
        Err(error) => Fact::gap(refused(&error)),
        Ok(target) => {
            let path = path_text(&target).into_owned();
            match path.split_once("/zoneinfo/") {
                Some((_, zone)) => Fact::known(
                    Term::from(zone),
                    Evidence::new(
                        LINK.into(),
                        saying!("link-target-below-zoneinfo", "the link's target below zoneinfo",),
                    )
                    .place("link")
                    .raw(&path),
                ),
                None => Fact::gap(
                    Gap::new(Why::Invalid).tried(
                        LINK.into(),
                        saying!("leads-names-no-zone", "leads to {}, which names no zone")
                            .with(path.to_string()),
                    ),
                ),
            }
        }
    };
    linked.or_from(|| File::read(lease, "/etc/timezone").text_fact())
}

/// locale.conf(5), or the file that Debian has in its stead.
pub(super) fn locale(lease: &Lease) -> Fact<Term> {
    let language = |path: &str| {
        let file = File::read(lease, path);
        let text = file.text();
        let assigned = assignment::shell(&text);
        file.assigned(&assigned, "LANG", saying!("value-lang", "the value of LANG"), |value| {
            Some(Term::from(value))
        })
    };
    language("/etc/locale.conf").or_known(|| language("/etc/default/locale"))
}
