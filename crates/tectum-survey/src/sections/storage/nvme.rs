//! NVMe controllers and the namespaces that are reached through them
//! (`Documentation/ABI/testing/sysfs-nvme`).

use crate::{
    formats::number,
    readers::{
        devices::{DevicePath, is_numbered},
        file::{File, list, listing_evidence},
        sayings,
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Saying, Why},
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
                let rule = Saying::new(
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
    let parts = numbers.into_iter().filter_map(|(_, name)| controller(lease, name)).collect();
    Parts::known(
        parts,
        listing_evidence(
            ROOT,
            Saying::new("every-name-nvme-number", "every name that is nvme and a number"),
        ),
    )
}

fn controller(lease: &Lease, name: &str) -> Option<NvmeController> {
    let folder = format!("{ROOT}/{name}");
    // A controller that has gone since it was listed is none.
    let path = DevicePath::follow(lease, &folder).ok()?;
    let file = |attribute: &str| File::read(lease, format!("{folder}/{attribute}"));
    let transport: Fact<Term> = file("transport").text_fact();
    let pci = path.pci_address().map(|address| format!("pci {address}"));
    let on_pci = pci.is_some();
    Some(NvmeController {
        name: Fact::known(
            DeviceName::from(name),
            listing_evidence(
                ROOT,
                Saying::new("controller-name-folder", "the controller's name in the folder"),
            )
            .raw(name),
        ),
        address: match on_pci {
            true => path.fact(
                &folder,
                Saying::new("pci-function-way", "the PCI function on the way to it"),
                pci,
            ),
            false => Fact::not_applicable(Saying::new("no-pci-function", "it is no PCI function")),
        },
        remote: match on_pci {
            true => Fact::not_applicable(Saying::new("pci-function", "it is a PCI function")),
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

/// `nvme0n1`, or one of several paths to it: `nvme0c1n1`.
fn namespaces(lease: &Lease, folder: &str, controller: &str) -> Fact<Vec<Term>> {
    match list(lease, folder) {
        Err(gap) => Fact::gap(gap),
        Ok(names) => {
            let instance = format!("{controller}n");
            let mut found: Vec<String> = names
                .iter()
                .filter_map(|name| name.to_str())
                .filter(|name| is_numbered(name, &instance) || is_path(name))
                .map(str::to_owned)
                .collect();
            found.sort_unstable();
            let raw = found.join(" ");
            let rule = Saying::new(
                "names-namespaces-paths-them-controller",
                "names of namespaces, or of paths to them, in the controller's folder",
            );
            let found = found.into_iter().map(Term).collect();
            Fact::known(found, listing_evidence(folder, rule).raw(&raw))
        }
    }
}

/// `nvme0c1n1`: a path through controller 1 to namespace 1 of subsystem 0.
fn is_path(name: &str) -> bool {
    let digits = |text: &str| !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit());
    let parts = || {
        let (subsystem, rest) = name.strip_prefix("nvme")?.split_once('c')?;
        let (path, namespace) = rest.split_once('n')?;
        Some(digits(subsystem) && digits(path) && digits(namespace))
    };
    parts().unwrap_or(false)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("nvme0c1n1", true)]
    #[case("nvme0n1", false)]
    #[case("nvmec1n1", false)]
    fn paths_are_told_from_namespaces(#[case] name: &str, #[case] is: bool) {
        assert_eq!(is_path(name), is);
    }
}
