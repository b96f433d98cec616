//! PCI functions as several sections see them: where they are listed, what they are
//! (`Documentation/ABI/testing/sysfs-bus-pci`).

use crate::readers::sayings;
use std::ffi::OsString;

use tectum_report::{
    fact::{Fact, Gap, Why, saying},
    leaf::Term,
};

use crate::readers::{
    file::{File, list},
    id_names::IdNames,
};
use crate::{formats::number, source::Lease};

/// The folder of all functions.
pub(crate) const FUNCTIONS: &str = "/sys/bus/pci/devices";

/// The buses that the kernel knows.
const BUSES: &str = "/sys/bus";
/// The names of a bus's devices, with the folder that says so; a bus that the kernel does not list
/// among its buses has none.
pub(crate) fn on_bus(
    lease: &Lease,
    devices: &'static str,
) -> Result<(std::sync::Arc<[OsString]>, &'static str), Gap> {
    match list(lease, devices) {
        Ok(names) => Ok((names, devices)),
        Err(gap) if gap.why == Why::NotProvided && list(lease, BUSES).is_ok() => {
            Ok((std::sync::Arc::default(), BUSES))
        }
        Err(gap) => Err(gap),
    }
}

/// The numbers of a function and their names.
pub(crate) struct Identity {
    pub(crate) vendor_id: Fact<Term>,
    pub(crate) vendor: Fact<Term>,
    pub(crate) device_id: Fact<Term>,
    pub(crate) device: Fact<Term>,
    pub(crate) subsystem_id: Fact<Term>,
    pub(crate) subsystem: Fact<Term>,
    pub(crate) revision: Fact<Term>,
}

impl Identity {
    pub(crate) fn read(lease: &Lease, address: &str, known: &IdNames) -> Self {
        let file = |name: &str| File::read(lease, format!("{FUNCTIONS}/{address}/{name}"));
        let id = |name: &str| {
            file(name).fact(sayings::FOUR_HEXADECIMAL_DIGITS, |text| {
                Some(Term(format!("{:04x}", u16::try_from(number::hexadecimal(text)?).ok()?)))
            })
        };
        let (vendor_id, device_id) = (id("vendor"), id("device"));
        let (sub_vendor, sub_device) = (id("subsystem_vendor"), id("subsystem_device"));
        let subsystem_id = sub_vendor
            .and_then(|vendor| match sub_device.value() {
                Some(device) if &*vendor != "0000" || &**device != "0000" => {
                    Ok(Term(format!("{vendor}:{device}")))
                }
                // All zeros is none; half of it that was not seen makes the whole unknown.
                _ => Err(sub_device.unseen().cloned().unwrap_or_else(|| Gap::new(Why::Blank))),
            })
            .with_evidence_of(&sub_device);
        Self {
            vendor: known.vendor(&vendor_id),
            device: known.device(&vendor_id, &device_id),
            subsystem: known.subsystem(&vendor_id, &device_id, &subsystem_id),
            revision: file("revision").fact(
                saying!("two-hexadecimal-digits", "two hexadecimal digits"),
                |text| {
                    Some(Term(format!("{:02x}", u8::try_from(number::hexadecimal(text)?).ok()?)))
                },
            ),
            vendor_id,
            device_id,
            subsystem_id,
        }
    }
}
