//! A survey as a sheet: who the machine is, what is in it, section by section.

mod alike;
mod bars;
mod cpu;
mod drivers;
mod everything;
mod filesystems;
mod firmware;
mod gpu;
mod hang;
mod memory;
mod network;
mod os;
mod pci;
mod peripherals;
mod platform;
mod power;
mod processes;
mod readings;
mod sensors;
mod storage;
mod usb;

use crate::page::{Page, UNKNOWN};
use std::cell::RefCell;

use tectum_report::{
    fact::{Fact, Gap},
    finding::{Finding, Judgement},
    leaf::{Bytes, Lanes, Leaf, Megatransfers, in_large_units},
    model::{Inventory, Storage},
    report::Report,
};

use self::readings::ByPart;
use super::findings;
use crate::args::{Detail, Units};

/// What a section's view is given.
struct View<'a> {
    report: &'a Report,
    /// What filesystems stand on, where that is known though it is not told.
    storage: Option<&'a Storage>,
    readings: ByPart<'a>,
    units: Units,
    /// Whether tables and drawings are wanted.
    drawn: bool,
    /// What is odd and not yet told.
    odd: RefCell<Vec<Finding>>,
}

impl View<'_> {
    /// Tells what is odd of a section: once, where the section wants it.
    fn odd(&self, section: &str, page: &mut Page) {
        let is_of = |found: &Finding| found.part.split('/').nth(2) == Some(section);
        let all = self.odd.take();
        let (own, others) = all.into_iter().partition(is_of);
        self.odd.replace(others);
        findings::beside(&own, page);
    }
}

/// Prints a survey, with what is odd of each section.
///
/// Where disks are not told, `beneath` may say what filesystems stand on.
pub(crate) fn survey(
    report: &Report,
    beneath: Option<&Storage>,
    judgement: Judgement,
    page: &mut Page,
    named: bool,
    detail: Detail,
    units: Units,
) {
    let hostname = report.machine.hostname.value().map_or("a machine without a name", |name| name);
    let seen = report.taken.at.strftime("seen %Y-%m-%d %H:%M UTC").to_string();
    page.title(hostname, &format!("{}, {seen}", report.taken.subject));
    findings::counted(&judgement, page);
    findings::at_the_top(&judgement, page);
    page.gap();
    let drawn = match detail {
        Detail::Brief => false,
        Detail::Normal => named,
        Detail::Full => true,
    };
    let readings = ByPart::of(&report.readings);
    let odd = RefCell::new(judgement.findings);
    let storage = report.inventory.storage.as_ref().or(beneath);
    let view = View { report, storage, readings, units, drawn, odd };
    // All fields by name: a section without a view does not compile.
    let Inventory {
        platform,
        cpu,
        memory,
        storage,
        filesystems,
        gpu,
        firmware,
        os,
        network,
        pci,
        usb,
        drivers,
        sensors,
        power,
        peripherals,
    } = &report.inventory;
    /// A section's view, and at full detail everything else that is known of it.
    macro_rules! section {
        ($field:ident, $print:path) => {
            if let Some(section) = $field {
                page.section(stringify!($field));
                $print(section, &view, page);
                view.odd(stringify!($field), page);
                if detail == Detail::Full {
                    everything::print(stringify!($field), section, units, page);
                    everything::readings(stringify!($field), &report.readings, units, page);
                }
                if drawn {
                    page.gap();
                }
            }
        };
    }
    section!(platform, platform::print);
    section!(cpu, cpu::print);
    section!(memory, memory::print);
    section!(gpu, gpu::print);
    section!(storage, storage::print);
    section!(filesystems, filesystems::print);
    section!(os, os::print);
    section!(firmware, firmware::print);
    section!(network, network::print);
    section!(pci, pci::print);
    section!(usb, usb::print);
    section!(drivers, drivers::print);
    section!(sensors, sensors::print);
    section!(power, power::print);
    section!(peripherals, peripherals::print);
    // What runs is told of the moment alone, and only where it was asked for.
    if let Some(own) = &report.readings.processes {
        page.section("processes");
        processes::print(own, &view, page);
        if detail == Detail::Full {
            everything::readings("processes", &report.readings, units, page);
        }
    }
}

/// A value as text, or why it is missing.
pub(super) fn text<T: Leaf>(fact: &Fact<T>) -> String {
    match fact.value() {
        Some(value) => value.to_text(),
        None => fact.missing().map_or_else(String::new, why),
    }
}

/// A value as text, or nothing.
pub(super) fn known<T: Leaf>(fact: &Fact<T>) -> Option<String> {
    fact.value().map(Leaf::to_text)
}

/// A table's cell: a value, or a dot where it is missing.
pub(super) fn cell<T: Leaf>(fact: &Fact<T>) -> String {
    known(fact).unwrap_or_else(|| UNKNOWN.to_owned())
}

/// A table's cell for a size.
pub(super) fn size_cell(fact: &Fact<Bytes>, form: impl Fn(Bytes) -> String) -> String {
    fact.value().map_or_else(|| UNKNOWN.to_owned(), |bytes| form(*bytes))
}

/// A PCI Express link as the trade writes it: `8 GT/s x16`.
pub(super) fn link_words(speed: &Fact<Megatransfers>, lanes: &Fact<Lanes>) -> Option<String> {
    let speed = in_large_units(i128::from(speed.value()?.0), 1000);
    Some(match lanes.value() {
        Some(lanes) => format!("{speed} GT/s x{lanes}"),
        None => format!("{speed} GT/s"),
    })
}

/// A gap in a few words.
pub(crate) fn why(gap: &Gap) -> String {
    use tectum_report::fact::Why;
    match gap.why {
        Why::NotProvided => "not given by this machine".to_owned(),
        Why::Permission => "only root may see it".to_owned(),
        Why::Blank => "left blank".to_owned(),
        Why::Invalid => "unreadable".to_owned(),
        Why::Timeout => "did not answer in time".to_owned(),
        Why::NotApplicable => "does not apply".to_owned(),
        Why::Withheld => "withheld by redaction".to_owned(),
        Why::TooMany => "more than a report holds".to_owned(),
        Why::NotRead => "could not be read".to_owned(),
    }
}

/// Words that are known, joined.
pub(super) fn joined(parts: impl IntoIterator<Item = Option<String>>, between: &str) -> String {
    parts.into_iter().flatten().collect::<Vec<_>>().join(between)
}
