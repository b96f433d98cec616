//! Signs of the one domain that controls a hypervisor: it sees the machine's own firmware and devices, though CPUs and
//! memory are what the hypervisor gives.

use tectum_report::fact::saying;

use super::{Of, Sign};
use crate::{readers::file::File, source::Lease};

/// The bit of the features that Xen gives to this domain alone (`include/xen/interface/features.h`, `XENFEAT_dom0`).
const CONTROLS: u64 = 1 << 11;

/// The domain says so itself (`Documentation/ABI/stable/sysfs-hypervisor-xen`, and `/proc/xen/capabilities` before).
pub(super) fn sign(lease: &Lease) -> Option<Sign> {
    let kind = File::read(lease, "/sys/hypervisor/type");
    if kind.text().trim() != "xen" {
        return None;
    }
    let flag = File::read(lease, "/sys/hypervisor/start_flags/initdomain");
    let features = File::read(lease, "/sys/hypervisor/properties/features");
    let capabilities = File::read(lease, "/proc/xen/capabilities");
    let bits = features.text();
    let bits = u64::from_str_radix(bits.trim().trim_start_matches("0x"), 16).unwrap_or_default();
    let told = [
        (flag.text().trim() == "1", &flag, "initdomain"),
        (bits & CONTROLS != 0, &features, "the feature of the control domain"),
        (capabilities.text().contains("control_d"), &capabilities, "control_d"),
    ];
    let (_, file, says) = told.into_iter().find(|(is, ..)| *is)?;
    Some(Sign {
        of: Of::ControlDomain,
        decisive: true,
        sign: "domain",
        says: says.to_owned(),
        technology: Some("Xen"),
        evidence: file.evidence(saying!(
            "control-domain-own-word",
            "what the hypervisor tells the domain that controls it",
        )),
    })
}
