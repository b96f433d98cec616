//! Persistent memory and memory on CXL buses.

use crate::readers::sayings;
use crate::{
    formats::number,
    readers::{
        devices::is_numbered,
        file::{File, list, listing_evidence, numbered},
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Why, saying},
    leaf::{Bytes, Serial, Term},
    model::{CxlMemory, PersistentMemory},
};

fn node(file: &File) -> Fact<i64> {
    file.fact(sayings::NUMBER_1_NONE, number::signed).and_then(|node| match node {
        ..0 => Err(Gap::new(Why::NotApplicable)
            .hint(saying!("1-belongs-no-node", "-1 says that it belongs to no node"))),
        node => Ok(node),
    })
}

fn named(bus: &str, name: &str) -> Fact<Term> {
    Fact::known(Term::from(name), listing_evidence(bus, sayings::NAME_OF_THE_FOLDER).raw(name))
}

/// `Documentation/ABI/testing/sysfs-bus-nvdimm`, `Documentation/driver-api/nvdimm`.
pub(super) fn persistent(lease: &Lease) -> Parts<PersistentMemory> {
    const BUS: &str = "/sys/bus/nd/devices";
    let names = match list(lease, BUS) {
        Ok(names) => names,
        Err(gap) => {
            return Parts::missing(gap.hint(saying!(
                "kernel-drives-persistent-memory",
                "there where the kernel drives persistent memory",
            )));
        }
    };
    let parts = names
        .iter()
        .filter_map(|name| name.to_str())
        .filter(|name| is_numbered(name, "region") || name.starts_with("namespace"))
        .map(|name| {
            let file = |field: &str| File::read(lease, format!("{BUS}/{name}/{field}"));
            PersistentMemory {
                name: named(BUS, name),
                kind: file("devtype").text_fact(),
                size_bytes: file("size").fact(sayings::BYTES, number::decimal).map(Bytes),
                mode: file("mode").text_fact(),
                uuid: file("uuid").text_fact(),
                numa_node: node(&file("numa_node")),
            }
        });
    Parts::known(
        parts.collect(),
        listing_evidence(BUS, saying!("every-region-namespace", "every region and namespace")),
    )
}

/// The number of a CXL device, which the kernel takes from its Device Serial Number capability; zero where it has none
/// (`drivers/cxl/pci.c`).
fn cxl_serial(file: &File) -> Fact<Serial> {
    file.text_fact().and_then(|text: Serial| match number::hexadecimal(&text) {
        Some(0) => Err(Gap::new(Why::Blank).raw(&text).hint(saying!(
            "device-without-serial-number-says-zero",
            "a device without one says zero"
        ))),
        _ => Ok(text),
    })
}

/// `Documentation/ABI/testing/sysfs-bus-cxl`.
pub(super) fn cxl(lease: &Lease) -> Parts<CxlMemory> {
    const BUS: &str = "/sys/bus/cxl/devices";
    let names = match list(lease, BUS) {
        Ok(names) => names,
        Err(gap) => {
            return Parts::missing(gap.hint(saying!(
                "kernel-drives-cxl-devices",
                "there where the kernel drives CXL devices",
            )));
        }
    };
    let parts = numbered(&names, "mem").into_iter().map(|number| {
        let name = format!("mem{number}");
        let file = |field: &str| File::read(lease, format!("{BUS}/{name}/{field}"));
        let size = |field: &str| file(field).fact(sayings::HEXADECIMAL_BYTES, number::hexadecimal);
        CxlMemory {
            name: named(BUS, &name),
            serial: cxl_serial(&file("serial")),
            firmware_version: file("firmware_version").text_fact(),
            volatile_bytes: size("ram/size").map(Bytes),
            persistent_bytes: size("pmem/size").map(Bytes),
            numa_node: node(&file("numa_node")),
        }
    });
    Parts::known(
        parts.collect(),
        listing_evidence(
            BUS,
            saying!("every-folder-named-mem-number", "every folder named mem and a number"),
        ),
    )
}
