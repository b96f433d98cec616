//! Functions on PCI and PCI Express (`Documentation/ABI/testing/sysfs-bus-pci`).

mod configuration;

use crate::readers::sayings;
use std::collections::BTreeSet;

use super::{Found, Section};
use crate::readers::{
    devices::is_pci_address,
    file::{File, link_name, list, listing_evidence},
    id_names::{IdNames, Ids},
    module_matching::{self, Matcher, unbound},
    pci_names,
};
use crate::readers::{
    pci_function::{FUNCTIONS, Identity, on_bus},
    pci_place as place,
    pcie_link::{self as link, Which},
};
use crate::{formats::number, source::Lease};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Why, saying},
    leaf::Term,
    model::{Pci, PciFunction, PciFunctionReadings, PciReadings},
};

pub(super) const SECTION: Section = Section {
    name: "pci",
    summary: "functions on PCI: names, classes, drivers and modules, links, slots, capabilities",
    reads: &[
        module_matching::READS[0],
        module_matching::READS[1],
        module_matching::READS[2],
        module_matching::READS[3],
        "/sys/bus",
        "/sys/bus/pci/devices",
        "/sys/bus/pci/devices/**",
        "/sys/bus/pci/slots",
        "/sys/bus/pci/slots/*/address",
        "/sys/firmware/dmi/**",
        "/usr/share/hwdata/pci.ids",
        "/usr/share/misc/pci.ids",
    ],
    survey,
};

/// Every function, a link each.
fn survey(lease: &Lease) -> Found {
    let (pci, readings) = look(lease);
    Box::new(|observed| {
        observed.inventory.pci = Some(pci);
        observed.readings.pci = Some(readings);
    })
}

fn look(lease: &Lease) -> (Pci, PciReadings) {
    let (names, told_by) = match on_bus(lease, FUNCTIONS) {
        Ok(found) => found,
        Err(gap) => {
            let pci = Pci {
                functions: Parts::missing(gap.clone()),
                id_list_version: Fact::gap(gap.clone()),
            };
            return (pci, PciReadings { functions: Parts::missing(gap) });
        }
    };
    let mut addresses: Vec<&str> =
        names.iter().filter_map(|name| name.to_str()).filter(|name| is_pci_address(name)).collect();
    addresses.sort_unstable();
    let vendors: BTreeSet<u16> = addresses
        .iter()
        .flat_map(|address| {
            ["vendor", "subsystem_vendor"].map(|file| {
                let file = File::read(lease, format!("{FUNCTIONS}/{address}/{file}"));
                number::hexadecimal(&file.text()).and_then(|id| u16::try_from(id).ok())
            })
        })
        .flatten()
        .collect();
    let known = IdNames::read(lease, Ids::Pci, &vendors);
    let aliases = module_matching::alias_file(lease);
    let text = aliases.text();
    let matcher = Matcher::new(lease, &aliases, &text);
    let places = place::Places::read(lease);
    let functions: Vec<PciFunction> = addresses
        .iter()
        .filter_map(|address| function(lease, address, &known, &matcher, &places))
        .collect();
    let readings = functions.iter().filter_map(|function| reading(lease, function)).collect();
    let evidence = || {
        listing_evidence(
            told_by,
            saying!("every-name-function-address", "every name that is a function's address"),
        )
    };
    (
        Pci { functions: Parts::known(functions, evidence()), id_list_version: known.list() },
        PciReadings { functions: Parts::known(readings, evidence()) },
    )
}

fn function(
    lease: &Lease,
    address: &str,
    known: &IdNames,
    matcher: &Matcher<'_>,
    places: &place::Places,
) -> Option<PciFunction> {
    let folder = format!("{FUNCTIONS}/{address}");
    let file = |name: &str| File::read(lease, format!("{folder}/{name}"));
    let class = file("class");
    // A function that was taken out since it was listed has no files left, and is none.
    if class.bytes().is_err()
        && file("vendor").bytes().is_err()
        && file("modalias").bytes().is_err()
    {
        return None;
    }
    let words = |pick: fn(pci_names::ClassWords) -> Option<&'static str>| {
        class
            .fact(saying!("name-class-code-byte", "the name of the class code's byte"), |text| {
                u32::try_from(number::hexadecimal(text)?).ok()
            })
            .and_then(|code| {
                pick(pci_names::class(code)).map(Term::from).ok_or_else(|| {
                    Gap::new(Why::NotProvided).hint(
                        saying!("class-code-no-name", "class code {} has no name")
                            .with(format!("{:06x}", code)),
                    )
                })
            })
    };
    let identity = Identity::read(lease, address, known);
    let driver = unbound(link_name(lease, &format!("{folder}/driver"), sayings::DRIVER_LINK_LEADS));
    let modules = matcher.modules(&file("modalias"));
    let decoded = configuration::Decoded::read(&configuration::space(lease, address));
    let count = |name: &str| file(name).fact(sayings::DECIMAL_NUMBER, number::decimal);
    let best = link::read(lease, address, Which::Max);
    Some(PciFunction {
        address: Fact::known(
            Term::from(address),
            listing_evidence(FUNCTIONS, sayings::FUNCTION_NAME_FOLDER).raw(address),
        ),
        class_id: class.fact(saying!("six-hexadecimal-digits", "six hexadecimal digits"), |text| {
            let code = number::hexadecimal(text).filter(|code| *code <= 0xFF_FFFF)?;
            Some(Term(format!("{code:06x}")))
        }),
        class: words(|it| it.class),
        subclass: words(|it| it.subclass),
        interface: words(|it| it.interface),
        vendor_id: identity.vendor_id,
        vendor: identity.vendor,
        device_id: identity.device_id,
        device: identity.device,
        subsystem_id: identity.subsystem_id,
        subsystem: identity.subsystem,
        revision: identity.revision,
        driver_state: matcher.state(&driver, &modules),
        driver,
        modules,
        irq: count("irq").and_then(|irq| match irq {
            0 => {
                Err(Gap::new(Why::NotApplicable).hint(saying!("0-none", "0 says that it has none")))
            }
            irq => Ok(irq),
        }),
        numa_node: file("numa_node").numa_node(),
        iommu_group: link_name(
            lease,
            &format!("{folder}/iommu_group"),
            saying!("number-group-link-leads", "the number of the group that the link leads to",),
        )
        .and_then(|name| number::decimal(&name).ok_or_else(|| Gap::new(Why::Invalid))),
        max_link_speed_mts: best.speed,
        max_link_lanes: best.lanes,
        slot: places.slot(address),
        firmware_label: places.label(address, &file("label")),
        bridge: place::bridge(lease, &folder, address),
        max_virtual_functions: count("sriov_totalvfs"),
        virtual_functions: count("sriov_numvfs"),
        physical_function: link_name(
            lease,
            &format!("{folder}/physfn"),
            saying!("function-link-leads", "the function that the link leads to"),
        ),
        header: decoded.header,
        buses_below: decoded.buses,
        capabilities: decoded.capabilities,
    })
}

fn reading(lease: &Lease, function: &PciFunction) -> Option<PciFunctionReadings> {
    let address = &function.address.value()?.0;
    let file = |name: &str| File::read(lease, format!("{FUNCTIONS}/{address}/{name}"));
    let vectors = format!("{FUNCTIONS}/{address}/msi_irqs");
    let now = link::read(lease, address, Which::Current);
    let registers = configuration::Registers::read(&configuration::space(lease, address));
    Some(PciFunctionReadings {
        address: function.address.clone(),
        power_state: file("power_state").text_fact(),
        link_speed_mts: now.speed,
        link_lanes: now.lanes,
        interrupt_vectors: match list(lease, &vectors) {
            Ok(names) => Fact::known(
                names.len() as u64,
                listing_evidence(&vectors, sayings::COUNTED).raw(&format!("{} names", names.len())),
            ),
            Err(gap) => Fact::gap(gap),
        },
        command_flags: registers.allowed,
        status_errors: registers.errors,
        configuration: registers.bytes,
    })
}
