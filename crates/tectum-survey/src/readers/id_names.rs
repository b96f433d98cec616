//! Names of PCI and USB ids: by the system's own list where it has a newer one, else by the list that
//! the program carries.

use std::collections::{BTreeSet, HashMap};

use crate::{
    formats::id_list::{self, Entry},
    readers::{
        file::File,
        id_table::{self, Numbered},
    },
    source::Lease,
};
use tectum_report::{
    fact::{Evidence, Fact, Gap, Why, saying},
    leaf::Term,
};

/// Which ids.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Ids {
    /// Of PCI functions.
    Pci,
    /// Of USB devices.
    Usb,
}

impl Ids {
    /// Where systems keep the list.
    pub(crate) const fn paths(self) -> [&'static str; 2] {
        match self {
            Self::Pci => ["/usr/share/hwdata/pci.ids", "/usr/share/misc/pci.ids"],
            Self::Usb => ["/usr/share/hwdata/usb.ids", "/usr/share/misc/usb.ids"],
        }
    }

    /// The version of the list that the program carries.
    const fn carried(self) -> &'static str {
        match self {
            Self::Pci => "2025.07.11",
            Self::Usb => "2026.06.10",
        }
    }

    fn carried_vendor(self, vendor: u16) -> Option<&'static str> {
        match self {
            Self::Pci => crate::readers::pci_names::vendor(vendor),
            Self::Usb => id_table::name(Numbered::UsbVendor, &[vendor]),
        }
    }

    fn carried_device(self, vendor: u16, device: u16) -> Option<&'static str> {
        match self {
            Self::Pci => crate::readers::pci_names::device(vendor, device),
            Self::Usb => id_table::name(Numbered::UsbDevice, &[vendor, device]),
        }
    }
}

/// The numbers of a device: vendor, device, subsystem's vendor, subsystem.
type Key = (u16, Option<u16>, Option<(u16, u16)>);

/// The names that a survey needs.
pub(crate) struct IdNames {
    ids: Ids,
    /// The system's list, where it is newer, with the names in it.
    system: Option<SystemList>,
    /// Why one that the system may have could not be read.
    unseen: Option<Gap>,
}

/// The system's own list.
struct SystemList {
    file: File,
    version: String,
    names: Names,
}

/// Names with the numbers of their lines.
type Names = HashMap<Key, (String, usize)>;

impl IdNames {
    /// Reads the names of some vendors and their devices.
    pub(crate) fn read(lease: &Lease, ids: Ids, vendors: &BTreeSet<u16>) -> Self {
        let mut unseen = None;
        let system = ids.paths().into_iter().find_map(|path| {
            let file = File::read(lease, path);
            unseen = unseen.take().or(file.hidden().cloned());
            let text = file.text();
            let version = id_list::version(&text)?.to_owned();
            // Versions are dates, the year first, so they sort as text.
            if version.as_str() <= ids.carried() {
                return None;
            }
            let names = wanted(&text, vendors);
            drop(text);
            Some(SystemList { file, version, names })
        });
        let unseen = unseen.filter(|_| system.is_none());
        Self { ids, system, unseen }
    }

    /// Which list the names are from.
    pub(crate) fn list(&self) -> Fact<Term> {
        if let Some(gap) = &self.unseen {
            return Fact::gap(gap.clone());
        }
        match &self.system {
            Some(SystemList { file, version, .. }) => {
                let evidence = Evidence::new(
                    file.path().clone(),
                    saying!("version-head", "the version in its head"),
                );
                Fact::known(Term(format!("{} of {version}", file.path())), evidence.raw(version))
            }
            None => {
                let carried = self.ids.carried();
                let rule = saying!("system-no-newer-list", "the system has no newer list");
                let evidence = Evidence::new(self.ids.paths()[0].into(), rule).raw(carried);
                Fact::known(Term(format!("the list that Tectum carries, of {carried}")), evidence)
            }
        }
    }

    fn name(&self, key: Key) -> Option<(String, Option<Evidence>)> {
        if let Some(SystemList { file, names, .. }) = &self.system
            && let Some((name, line)) = names.get(&key)
        {
            let evidence = Evidence::new(
                file.path().clone(),
                saying!("number-name-list", "the number's name in the list"),
            )
            .line(*line)
            .raw(name);
            return Some((name.clone(), Some(evidence)));
        }
        let carried = match key {
            (vendor, None, _) => self.ids.carried_vendor(vendor),
            (vendor, Some(device), None) => self.ids.carried_device(vendor, device),
            (vendor, Some(device), Some((sub_vendor, sub_device))) => {
                crate::readers::pci_names::subsystem(vendor, device, sub_vendor, sub_device)
            }
        };
        carried.map(|name| (name.to_owned(), None))
    }

    /// The name of a number; the number is the fact that the name follows from.
    fn of(&self, number: &Fact<Term>, key: Option<Key>) -> Fact<Term> {
        let found = key.and_then(|key| self.name(key));
        let (name, more) = match found {
            Some((name, more)) => (Some(name), more),
            None => (None, None),
        };
        let mut fact = number.clone().and_then(|number| {
            name.map(Term).ok_or_else(|| {
                self.unseen.clone().unwrap_or(
                    Gap::new(Why::NotProvided)
                        .hint(saying!("no-list", "{} is in no list").with(number.to_string())),
                )
            })
        });
        fact =
            fact.by_rule(saying!("number-name-list-ids", "the number's name in the list of ids"));
        match more {
            Some(evidence) => fact.with_evidence_of(&Fact::known((), evidence)),
            None => fact,
        }
    }

    pub(crate) fn vendor(&self, vendor: &Fact<Term>) -> Fact<Term> {
        self.of(vendor, number(vendor).map(|vendor| (vendor, None, None)))
    }

    pub(crate) fn device(&self, vendor: &Fact<Term>, device: &Fact<Term>) -> Fact<Term> {
        if let Some(gap) = hidden([vendor]) {
            return Fact::gap(gap.clone());
        }
        let key = number(vendor).zip(number(device));
        self.of(device, key.map(|(vendor, device)| (vendor, Some(device), None)))
    }

    /// The name of a subsystem, whose numbers are written `vendor:device`; the vendor's alone where
    /// the list does not know the subsystem.
    pub(crate) fn subsystem(
        &self,
        vendor: &Fact<Term>,
        device: &Fact<Term>,
        subsystem: &Fact<Term>,
    ) -> Fact<Term> {
        if let Some(gap) = hidden([vendor, device]) {
            return Fact::gap(gap.clone());
        }
        let sub = subsystem.value().and_then(|text| {
            let (vendor, device) = text.split_once(':')?;
            Some((u16::from_str_radix(vendor, 16).ok()?, u16::from_str_radix(device, 16).ok()?))
        });
        let key = number(vendor)
            .zip(number(device))
            .zip(sub)
            .map(|((vendor, device), sub)| (vendor, Some(device), Some(sub)));
        self.of(subsystem, key)
            .or_known(|| self.of(subsystem, sub.map(|(vendor, _)| (vendor, None, None))))
    }
}

/// Why one of the numbers by which a list is asked was not seen.
fn hidden<const N: usize>(numbers: [&Fact<Term>; N]) -> Option<&Gap> {
    numbers.into_iter().find_map(|number| number.unseen())
}

/// Four hexadecimal digits as a number.
fn number(fact: &Fact<Term>) -> Option<u16> {
    u16::from_str_radix(fact.value()?, 16).ok()
}

/// The entries of some vendors.
fn wanted(text: &str, vendors: &BTreeSet<u16>) -> Names {
    let mut names = HashMap::new();
    let mut vendor = None;
    let mut device = None;
    for (entry, line) in id_list::entries(text) {
        match entry {
            Entry::Vendor(id, name) => {
                vendor = vendors.contains(&id).then_some(id);
                if vendor.is_some() {
                    names.insert((id, None, None), (name.to_owned(), line.number));
                }
            }
            Entry::Device(id, name) => {
                device = Some(id);
                if let Some(vendor) = vendor {
                    names.insert((vendor, device, None), (name.to_owned(), line.number));
                }
            }
            Entry::Subsystem(of, id, name) => {
                if let Some(vendor) = vendor {
                    let key = (vendor, device, Some((of, id)));
                    names.insert(key, (name.to_owned(), line.number));
                }
            }
        }
    }
    names
}
