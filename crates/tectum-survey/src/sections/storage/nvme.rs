//! NVMe controllers and the namespaces that are reached through them
//! (`Documentation/ABI/testing/sysfs-nvme`).

use crate::{
    formats::number,
    readers::{
        block::BlockDevice,
        devices::{DevicePath, is_numbered},
        file::{File, hidden, list, listing_evidence},
        sayings,
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Why, saying},
    leaf::{DeviceName, Term},
    model::NvmeController,
};

/// The class of NVMe controllers.
const ROOT: &str = "/sys/class/nvme";

pub(super) fn controllers(lease: &Lease) -> Parts<NvmeController> {
    let names = match list(lease, ROOT) {
        Ok(names) => names,
        // A kernel without NVMe has no such class, and so no such controllers, if it has classes.
        Err(gap) => match list(lease, "/sys/class") {
            Ok(_) if gap.why == Why::NotProvided => {
                let rule = saying!(
                    "kernel-lists-no-class-nvme",
                    "the kernel lists no class of NVMe controllers",
                );
                return Parts::known(Vec::new(), listing_evidence("/sys/class", rule));
            }
            _ => return Parts::missing(gap),
        },
    };
    let mut numbers: Vec<(u64, &str)> = names
        .iter()
        .filter_map(|name| name.to_str())
        .filter(|name| is_numbered(name, "nvme"))
        .filter_map(|name| Some((name.strip_prefix("nvme")?.parse().ok()?, name)))
        .collect();
    numbers.sort_unstable();
    let mut unseen = None;
    let parts = numbers.into_iter().filter_map(|(_, name)| {
        let found = controller(lease, name);
        unseen = unseen.take().or(hidden(&found).cloned());
        found.ok()
    });
    Parts::known(
        parts.collect(),
        listing_evidence(
            ROOT,
            saying!("every-name-nvme-number", "every name that is nvme and a number"),
        ),
    )
    .in_part(unseen)
}

/// A controller; one that has gone since it was listed is none.
fn controller(lease: &Lease, name: &str) -> Result<NvmeController, Gap> {
    let folder = format!("{ROOT}/{name}");
    let path = DevicePath::follow(lease, &folder)?;
    let file = |attribute: &str| File::read(lease, format!("{folder}/{attribute}"));
    let transport: Fact<Term> = file("transport").text_fact();
    let pci = path.pci_address().map(|address| format!("pci {address}"));
    let on_pci = pci.is_some();
    Ok(NvmeController {
        name: Fact::known(
            DeviceName::from(name),
            listing_evidence(
                ROOT,
                saying!("controller-name-folder", "the controller's name in the folder"),
            )
            .raw(name),
        ),
        address: match on_pci {
            true => path.fact(
                &folder,
                saying!("pci-function-way", "the PCI function on the way to it"),
                pci,
            ),
            false => Fact::not_applicable(saying!("no-pci-function", "it is no PCI function")),
        },
        remote: match on_pci {
            true => Fact::not_applicable(saying!("pci-function", "it is a PCI function")),
            false => file("address").text_fact(),
        },
        transport,
        model: file("model").text_fact(),
        serial: file("serial").text_fact(),
        firmware_revision: file("firmware_rev").text_fact(),
        controller_id: file("cntlid").fact(sayings::DECIMAL_NUMBER, number::decimal),
        subsystem: file("subsysnqn").text_fact(),
        kind: file("cntrltype").text_fact(),
        numa_node: file("numa_node").numa_node(),
        namespaces: namespaces(lease, &folder, name)
            .map(|all| all.into_iter().map(|text| DeviceName(text.0)).collect()),
    })
}

/// A namespace that is reached through a subsystem of several paths hangs on no bus itself
/// (`Documentation/ABI/testing/sysfs-nvme`, `drivers/nvme/host/multipath.c`). Its place is then that
/// of the first of the subsystem's controllers by their places, which does not follow the order of
/// probing.
pub(super) fn take_path(device: &mut BlockDevice<'_>) {
    if !device.path.parts.iter().any(|part| part == "nvme-subsystem") {
        return;
    }
    let subsystem = format!("{}/device", device.folder);
    let Ok(names) = list(device.lease, &subsystem) else { return };
    let controllers = names.iter().filter_map(|name| {
        let name = name.to_str().filter(|name| is_numbered(name, "nvme"))?;
        let link = format!("{subsystem}/{name}");
        let path = DevicePath::follow(device.lease, &link).ok()?;
        Some((link, path))
    });
    if let Some((link, path)) = controllers.min_by(|one, other| one.1.parts.cmp(&other.1.parts)) {
        device.link = link;
        device.path = path;
    }
}

/// How a namespace is reached; through a subsystem of several paths by the transport of the controller whose place is its
/// own (see [`take_path`]).
pub(super) fn transport(device: &BlockDevice<'_>) -> Fact<Term> {
    let behind = device.link.rsplit_once('/').map_or("", |(_, name)| name);
    match is_numbered(behind, "nvme") {
        true => File::read(device.lease, format!("{ROOT}/{behind}/transport")).text_fact(),
        false => device.file("device/transport").text_fact(),
    }
}

/// `nvme0n1`, or the namespace that one of several paths leads to: `nvme0n1` for `nvme0c1n1`.
fn namespaces(lease: &Lease, folder: &str, controller: &str) -> Fact<Vec<Term>> {
    match list(lease, folder) {
        Err(gap) => Fact::gap(gap),
        Ok(names) => {
            let instance = format!("{controller}n");
            let mut found: Vec<String> = names
                .iter()
                .filter_map(|name| name.to_str())
                .filter_map(|name| match is_numbered(name, &instance) {
                    true => Some(name.to_owned()),
                    false => reached(name),
                })
                .collect();
            found.sort_unstable();
            let raw = found.join(" ");
            let rule = saying!(
                "names-namespaces-paths-them-controller",
                "names of namespaces, or of what paths to them lead to, in the controller's folder",
            );
            let found = found.into_iter().map(Term).collect();
            Fact::known(found, listing_evidence(folder, rule).raw(&raw))
        }
    }
}

/// `nvme0n1` for `nvme0c1n1`, a path through controller 1 to namespace 1 of subsystem 0.
fn reached(name: &str) -> Option<String> {
    let digits = |text: &str| !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit());
    let (subsystem, rest) = name.strip_prefix("nvme")?.split_once('c')?;
    let (path, namespace) = rest.split_once('n')?;
    (digits(subsystem) && digits(path) && digits(namespace))
        .then(|| format!("nvme{subsystem}n{namespace}"))
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("nvme0c1n1", Some("nvme0n1"))]
    #[case("nvme12c3n4", Some("nvme12n4"))]
    #[case("nvme0n1", None)]
    #[case("nvmec1n1", None)]
    fn a_path_leads_to_a_namespace(#[case] name: &str, #[case] namespace: Option<&str>) {
        assert_eq!(reached(name).as_deref(), namespace);
    }
}
