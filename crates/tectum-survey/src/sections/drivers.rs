//! Kernel modules, drivers that have a device, major numbers (`Documentation/ABI/stable/sysfs-module`,
//! `Documentation/filesystems/proc.rst`).

use super::{Found, Section};
use crate::readers::file::{File, link_name, list, listing_evidence, watched};
use crate::readers::{limits::leave_first, sayings};
use crate::{formats::kernel_modules, source::Lease};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Saying, saying},
    leaf::{Bytes, Term},
    model::{DeviceMajor, DriverInUse, DriverReadings, Drivers, KernelModule, ModuleReadings},
};

pub(super) const SECTION: Section = Section {
    name: "drivers",
    summary: "kernel modules with versions, parameters and users; which driver has which device",
    reads: &[
        "/proc/devices",
        "/proc/modules",
        "/sys/bus",
        "/sys/bus/*/drivers",
        "/sys/bus/*/drivers/*",
        "/sys/bus/*/drivers/*/*",
        "/sys/module/*/parameters",
        "/sys/module/*/parameters/*",
        "/sys/module/*/srcversion",
        "/sys/module/*/taint",
        "/sys/module/*/version",
    ],
    survey,
};

fn survey(lease: &Lease) -> Found {
    let file = File::read(lease, "/proc/modules");
    let text = file.text();
    let mut modules = kernel_modules::modules(&text);
    let more = leave_first(&mut modules, &file);
    let drivers = Drivers {
        modules: match file.bytes() {
            Err(gap) => Parts::missing(gap.clone()),
            Ok(_) => {
                let mut parts: Vec<KernelModule> =
                    modules.iter().map(|it| module(lease, &file, it)).collect();
                // The kernel lists the newest first, which says how they were loaded and no more.
                parts.sort_by_cached_key(|part| part.name.value().map(|name| name.0.clone()));
                Parts::known(parts, Evidence::new(file.path().clone(), sayings::EVERY_LINE))
                    .in_part(more.clone())
            }
        },
        in_use: in_use(lease),
        majors: majors(lease),
    };
    let readings = DriverReadings {
        modules: match file.bytes() {
            Err(gap) => Parts::missing(gap.clone()),
            Ok(_) => Parts::known(
                modules.iter().map(|it| reading(&file, it)).collect(),
                Evidence::new(file.path().clone(), sayings::EVERY_LINE),
            )
            .in_part(more),
        },
    };
    drop(modules);
    drop(text);
    Box::new(|observed| {
        observed.inventory.drivers = Some(drivers);
        observed.readings.drivers = Some(readings);
    })
}

fn module(lease: &Lease, file: &File, one: &kernel_modules::Module<'_>) -> KernelModule {
    let at = |rule: Saying| file.at_line(one.line, rule);
    let of = |name: &str| File::read(lease, format!("/sys/module/{}/{name}", one.name));
    let mut used_by: Vec<Term> = one.used_by.iter().map(|name| Term::from(*name)).collect();
    used_by.sort();
    let taint = of("taint");
    KernelModule {
        name: Fact::known(Term::from(one.name), at(sayings::FIRST_FIELD)),
        size_bytes: Fact::known(Bytes(one.size_bytes), at(sayings::SECOND_FIELD)),
        version: of("version").text_fact(),
        source_version: of("srcversion").text_fact(),
        taint: match taint.bytes() {
            // The file is there and empty for a module that does not taint.
            Ok(_) => {
                Fact::known(
                    Term(taint.text().trim().to_owned()),
                    Evidence::new(
                        taint.path().clone(),
                        saying!(
                            "letters-none-does-not-taint",
                            "letters; none where it does not taint",
                        ),
                    )
                    .raw(taint.text().trim()),
                )
            }
            Err(gap) => Fact::gap(gap.clone()),
        },
        used_by: Fact::known(
            used_by,
            at(saying!("fourth-field-sorted", "the fourth field, sorted")),
        ),
        parameters: parameters(lease, one.name),
    }
}

/// Longer values may hold anything.
const LONGEST: usize = 24;

/// Whether a value is a switch, a number, a list of numbers or a short word: nothing that anybody
/// could be known by.
pub(crate) fn is_harmless(value: &str) -> bool {
    value.len() <= LONGEST
        && (value.bytes().all(
            |byte| matches!(byte, b'0'..=b'9' | b'-' | b',' | b'x' | b'a'..=b'f' | b'A'..=b'F'),
        ) && value.len() <= 12
            || matches!(value, "Y" | "N" | "(null)" | "auto" | "default" | "none" | "on" | "off"))
}

fn parameters(lease: &Lease, module: &str) -> Fact<Vec<Term>> {
    let folder = format!("/sys/module/{module}/parameters");
    let names = match list(lease, &folder) {
        Ok(names) => names,
        Err(gap) => return Fact::gap(gap),
    };
    let mut found = Vec::new();
    let mut evidence = Vec::new();
    // Some parameters are for root's eyes.
    let mut hidden = None;
    for name in names.iter().filter_map(|name| name.to_str()) {
        let file = File::read(lease, format!("{folder}/{name}"));
        if let Some(gap) = file.hidden() {
            hidden.get_or_insert_with(|| gap.clone());
        }
        let text = file.text();
        let value = text.trim();
        if file.bytes().is_err() || !is_harmless(value) {
            continue;
        }
        found.push(Term(format!("{name}={value}")));
        evidence.push(file.evidence(saying!(
            "parameter-file-values-may-more",
            "the parameter's file; values that may say more are left out",
        )));
    }
    if evidence.is_empty() {
        let rule =
            saying!("no-parameter-value-can-told", "no parameter has a value that can be told");
        return Fact::known(
            found,
            listing_evidence(&folder, rule).raw(&format!("{} names", names.len())),
        )
        .in_part(hidden);
    }
    Fact::known_from(found, evidence).in_part(hidden)
}

fn reading(file: &File, one: &kernel_modules::Module<'_>) -> ModuleReadings {
    let at = |rule: Saying| file.at_line(one.line, rule);
    ModuleReadings {
        name: Fact::known(Term::from(one.name), at(sayings::FIRST_FIELD)),
        users: match one.users {
            Some(users) => Fact::known(users, at(sayings::THIRD_FIELD)),
            None => Fact::not_applicable(saying!(
                "cannot-taken-out-so-users",
                "it cannot be taken out, so its users are not counted",
            )),
        },
        state: Fact::known(Term::from(one.state), at(saying!("fifth-field", "the fifth field"))),
    }
}

/// Drivers with at least one device, bus by bus.
fn in_use(lease: &Lease) -> Parts<DriverInUse> {
    const BUSES: &str = "/sys/bus";
    let buses = match list(lease, BUSES) {
        Ok(buses) => buses,
        Err(gap) => return Parts::missing(gap),
    };
    let (parts, hidden) = watched(lease, |lease| {
        let mut parts = Vec::new();
        for bus in buses.iter().filter_map(|bus| bus.to_str()) {
            let folder = format!("{BUSES}/{bus}/drivers");
            let Ok(drivers) = list(lease, &folder) else { continue };
            for driver in drivers.iter().filter_map(|driver| driver.to_str()) {
                parts.extend(driver_in_use(lease, bus, driver, &format!("{folder}/{driver}")));
            }
        }
        parts
    });
    Parts::known(
        parts,
        listing_evidence(
            BUSES,
            saying!("drivers-every-bus-device", "drivers of every bus that have a device"),
        ),
    )
    .in_part(hidden)
}

/// What else stands in a driver's folder.
fn is_attribute(name: &str) -> bool {
    matches!(name, "bind" | "unbind" | "uevent" | "module" | "new_id" | "remove_id" | "description")
}

fn driver_in_use(lease: &Lease, bus: &str, driver: &str, folder: &str) -> Option<DriverInUse> {
    let names = list(lease, folder).ok()?;
    // A device's name has a number in it, which no attribute's has; links alone would not tell them
    // from `module`.
    let (mut devices, hidden) = watched(lease, |lease| {
        let named = names.iter().filter_map(|name| name.to_str());
        let devices = named.filter(|name| !is_attribute(name)).filter(|name| {
            lease
                .resolve(std::path::Path::new(&format!("{folder}/{name}")))
                .is_ok_and(|target| target.starts_with("/sys/devices"))
        });
        devices.collect::<Vec<&str>>()
    });
    if devices.is_empty() {
        return None;
    }
    devices.sort_unstable();
    let raw = devices.join(" ");
    let at = |rule: Saying| listing_evidence(folder, rule).raw(&raw);
    Some(DriverInUse {
        bus: Fact::known(
            Term::from(bus),
            listing_evidence("/sys/bus", saying!("bus-folder", "the bus's folder")).raw(bus),
        ),
        name: Fact::known(
            Term::from(driver),
            listing_evidence(folder, saying!("driver-folder", "the driver's folder")).raw(driver),
        ),
        module: link_name(
            lease,
            &format!("{folder}/module"),
            saying!("module-link-leads", "the module that the link leads to"),
        ),
        devices: Fact::known(
            devices.iter().map(|name| Term::from(*name)).collect(),
            at(saying!(
                "links-driver-folder-lead-devices",
                "links in the driver's folder that lead to devices",
            )),
        )
        .in_part(hidden),
    })
}

fn majors(lease: &Lease) -> Parts<DeviceMajor> {
    let file = File::read(lease, "/proc/devices");
    if let Err(gap) = file.bytes() {
        return Parts::missing(gap.clone());
    }
    let text = file.text();
    let parts = kernel_modules::majors(&text).into_iter().map(|major| {
        let at = |rule: Saying| file.at_line(major.line, rule);
        DeviceMajor {
            kind: Fact::known(
                Term::from(if major.block { "block" } else { "character" }),
                at(saying!("heading-above-line", "the heading above the line")),
            ),
            number: Fact::known(major.number, at(sayings::FIRST_FIELD)),
            name: Fact::known(
                Term::from(major.name),
                at(saying!("behind-number", "behind the number")),
            ),
        }
    });
    Parts::known(
        parts.collect(),
        Evidence::new(
            file.path().clone(),
            saying!("every-line-below-heading", "every line below a heading"),
        ),
    )
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("Y", true)]
    #[case("1500", true)]
    #[case("0,0,-1", true)]
    #[case("correct horse", false)]
    #[case("host.tide.example", false)]
    #[case("00112233445566778899", false)]
    fn values_that_can_be_told(#[case] value: &str, #[case] harmless: bool) {
        assert_eq!(is_harmless(value), harmless);
    }
}
