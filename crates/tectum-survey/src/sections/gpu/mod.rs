//! Display, 3D and processing-accelerator devices: by their class, never by a word in their name.

mod card;
mod display;

use crate::readers::sayings;
use std::collections::{BTreeMap, BTreeSet};

use self::card::Card;
use super::{Found, Section};
use crate::readers::{
    devices::{DevicePath, is_numbered, is_usb_device},
    file::{File, hidden, link_name, list, listing_evidence},
    id_names::{IdNames, Ids},
    pci_function::{FUNCTIONS, Identity},
    pcie_link::{self as link, Link, Which},
};
use crate::{formats::number, source::Lease};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Saying, Why, saying},
    leaf::{Bytes, Term},
    model::{Gpu, GpuDevice, GpuDeviceReadings, GpuReadings},
};

pub(super) const SECTION: Section = Section {
    name: "gpu",
    summary: "display, 3D and processing-accelerator devices, their drivers, connectors, displays",
    reads: &[
        "/proc/driver/nvidia/gpus/*/information",
        "/proc/driver/nvidia/version",
        "/sys/bus/pci/devices",
        "/sys/bus/pci/devices/**",
        "/sys/class",
        "/sys/class/drm",
        "/sys/class/drm/**",
        "/sys/class/graphics",
        "/sys/class/graphics/**",
        "/sys/devices/**/hwmon",
        "/sys/devices/**/hwmon/*/*",
        "/usr/share/hwdata/pci.ids",
        "/usr/share/misc/pci.ids",
    ],
    survey,
};

/// The kinds of device that the kernel knows.
const CLASSES: &str = "/sys/class";
/// `Documentation/gpu/drm-uapi.rst`.
const DRM: &str = "/sys/class/drm";

fn survey(lease: &Lease) -> Found {
    let mut functions = Vec::new();
    let listed = list(lease, FUNCTIONS);
    let mut unseen = hidden(&listed).cloned();
    if let Ok(names) = &listed {
        for name in names.iter().filter_map(|name| name.to_str()) {
            let class = File::read(lease, format!("{FUNCTIONS}/{name}/class"));
            // What could not say its class may be one.
            unseen = unseen.or(class.hidden().cloned());
            match number::hexadecimal(&class.text()) {
                Some(code) if is_gpu_class(code) => functions.push((name, class)),
                _ => {}
            }
        }
    }
    let vendors: BTreeSet<u16> = functions
        .iter()
        .flat_map(|(name, _)| {
            ["vendor", "subsystem_vendor"].map(|file| {
                let file = File::read(lease, format!("{FUNCTIONS}/{name}/{file}"));
                number::hexadecimal(&file.text()).and_then(|id| u16::try_from(id).ok())
            })
        })
        .flatten()
        .collect();
    let known = IdNames::read(lease, Ids::Pci, &vendors);
    let cards = cards(lease);
    let mut devices: Vec<(GpuDevice, GpuDeviceReadings)> = functions
        .iter()
        .map(|(name, class)| pci_device(lease, name, class, &known, &cards))
        .collect();
    let on_pci: BTreeSet<String> =
        devices.iter().filter_map(|(device, _)| Some(device.address.value()?.0.clone())).collect();
    devices.extend(elsewhere(lease, &on_pci, unseen.is_some(), &cards));
    let (devices, readings): (Vec<_>, Vec<_>) = devices.into_iter().unzip();
    let no_pci = listed.err();
    let gpu = Gpu { devices: complete(lease, no_pci.clone(), devices).in_part(unseen.clone()) };
    let readings = GpuReadings { devices: complete(lease, no_pci, readings).in_part(unseen) };
    Box::new(|observed| {
        observed.inventory.gpu = Some(gpu);
        observed.readings.gpu = Some(readings);
    })
}

/// The list, if there is any ground to say that these are all: a machine without PCI has a kernel
/// that lists its classes all the same; where nothing can be listed, nothing is known.
fn complete<R: tectum_report::declare::Described>(
    lease: &Lease,
    no_pci: Option<Gap>,
    devices: Vec<R>,
) -> Parts<R> {
    let rule = saying!(
        "pci-functions-base-class-03h",
        "PCI functions of base class 03h or 12h, and display devices elsewhere",
    );
    match no_pci {
        None => Parts::known(devices, listing_evidence(FUNCTIONS, rule)),
        Some(gap) if gap.why.hides_a_value() && devices.is_empty() => Parts::missing(gap),
        Some(gap) => match list(lease, CLASSES) {
            Ok(_) => Parts::known(devices, listing_evidence(CLASSES, rule)),
            Err(_) => Parts::missing(gap),
        },
    }
}

/// PCI Code and ID Assignment Specification: base class 03h is display controllers, 12h processing
/// accelerators.
fn is_gpu_class(code: u64) -> bool {
    matches!(code >> 16 & 0xFF, 0x03 | 0x12)
}

fn class_name(code: u64) -> String {
    match (code >> 16 & 0xFF, code >> 8 & 0xFF) {
        (0x03, 0x00) if code & 0xFF == 0 => "VGA-compatible controller".into(),
        (0x03, 0x00) => "8514-compatible controller".into(),
        (0x03, 0x01) => "XGA controller".into(),
        (0x03, 0x02) => "3D controller".into(),
        (0x03, 0x80) => "other display controller".into(),
        (0x12, 0x00) => "processing accelerator".into(),
        (base, sub) => format!("class {base:02x}{sub:02x}"),
    }
}

/// The kernel's cards by the path of the device that each belongs to.
fn cards(lease: &Lease) -> BTreeMap<String, String> {
    let Ok(names) = list(lease, DRM) else { return BTreeMap::new() };
    names
        .iter()
        .filter_map(|name| name.to_str())
        .filter(|name| is_numbered(name, "card"))
        .filter_map(|name| {
            let device = DevicePath::follow(lease, &format!("{DRM}/{name}/device")).ok()?;
            Some((device.path, name.to_owned()))
        })
        .collect()
}

/// Vendors of devices that only hypervisors have: no card of theirs was ever made.
const HYPERVISORS: [&str; 8] = ["1af4", "1234", "1b36", "15ad", "80ee", "1414", "5853", "1ab8"];

fn pci_device(
    lease: &Lease,
    name: &str,
    class: &File,
    known: &IdNames,
    cards: &BTreeMap<String, String>,
) -> (GpuDevice, GpuDeviceReadings) {
    let folder = format!("{FUNCTIONS}/{name}");
    let file = |attribute: &str| File::read(lease, format!("{folder}/{attribute}"));
    let identity = Identity::read(lease, name, known);
    // A virtual device may hang below the function: its card belongs to that one.
    let path = DevicePath::follow(lease, &folder).map_or_else(|_| String::new(), |path| path.path);
    let card = cards.iter().find(|(device, _)| {
        device.strip_prefix(&path).is_some_and(|rest| rest.is_empty() || rest.starts_with('/'))
    });
    let card = Card::new(lease, &folder, card.filter(|_| !path.is_empty()).map(|(_, card)| card));
    let address = Fact::known(
        Term(format!("pci {name}")),
        listing_evidence(FUNCTIONS, sayings::FUNCTION_NAME_FOLDER).raw(name),
    );
    let proprietary = card::Proprietary::read(lease, name);
    let best = link::read(lease, name, Which::Max);
    let device = GpuDevice {
        address: address.clone(),
        class: class
            .fact(saying!("name-pci-class-code", "the name of the PCI class code"), |text| {
                Some(Term(class_name(number::hexadecimal(text)?)))
            }),
        made_by_hypervisor: identity
            .vendor_id
            .clone()
            .and_then(|vendor| match HYPERVISORS.contains(&vendor.0.as_str()) {
                true => Ok(true),
                false => Err(Gap::new(Why::NotProvided).hint(saying!(
                    "emulated-passed-card-another-vendor",
                    "an emulated or passed-on card of another vendor looks like the real one",
                ))),
            })
            .by_rule(saying!(
                "vendor-whose-display-devices-only",
                "a vendor whose display devices only hypervisors have",
            )),
        vendor: identity.vendor,
        vendor_id: identity.vendor_id,
        device: identity.device,
        device_id: identity.device_id,
        subsystem: identity.subsystem,
        subsystem_id: identity.subsystem_id,
        revision: identity.revision,
        driver: link_name(lease, &format!("{folder}/driver"), sayings::DRIVER_LINK_LEADS),
        driver_version: proprietary
            .version(lease)
            .or_known(|| File::read(lease, format!("{folder}/driver/module/version")).text_fact()),
        model: proprietary.text("Model").or_known(|| file("product_name").text_fact()),
        boot_display: file("boot_vga").fact(sayings::ONE_IS_YES, number::flag),
        memory_bytes: file("mem_info_vram_total").fact(sayings::BYTES, number::decimal).map(Bytes),
        video_bios: file("vbios_version").text_fact().or_known(|| proprietary.text("Video BIOS")),
        max_link_speed_mts: best.speed,
        max_link_lanes: best.lanes,
        serial: file("serial_number").text_fact(),
        unique_id: file("unique_id").text_fact(),
        uuid: proprietary.text("GPU UUID"),
        numa_node: file("numa_node").numa_node(),
        connectors: card.connectors(),
    };
    let readings = card.readings(address, link::read(lease, name, Which::Current));
    (device, readings)
}

/// Display devices that are no PCI functions of a display class: boards' own controllers, USB
/// display adapters, framebuffers that the firmware left.
fn elsewhere(
    lease: &Lease,
    on_pci: &BTreeSet<String>,
    some_unseen: bool,
    cards: &BTreeMap<String, String>,
) -> Vec<(GpuDevice, GpuDeviceReadings)> {
    let mut seen = BTreeSet::new();
    let mut devices = Vec::new();
    for (class, prefix) in [(DRM, "card"), ("/sys/class/graphics", "fb")] {
        let Ok(names) = list(lease, class) else { continue };
        for name in names.iter().filter_map(|name| name.to_str()) {
            if !is_numbered(name, prefix) {
                continue;
            }
            let link = format!("{class}/{name}/device");
            let Ok(device) = DevicePath::follow(lease, &link) else { continue };
            // Of a function whose class nobody could see it is not known that it is another one.
            let is_told = |pci: &str| some_unseen || on_pci.contains(&format!("pci {pci}"));
            if device.pci_address().is_some_and(is_told) {
                continue;
            }
            let Some(last) = device.parts.last() else { continue };
            if !seen.insert(device.path.clone()) {
                continue;
            }
            let address = match device.last(is_usb_device) {
                Some(usb) => format!("usb {usb}"),
                None => device.place().unwrap_or_else(|| format!("platform {last}")),
            };
            let card = Card::new(lease, &link, cards.get(&device.path));
            devices.push(not_on_pci(lease, &device, &link, address, &card));
        }
    }
    devices
}

fn not_on_pci(
    lease: &Lease,
    device: &DevicePath,
    link: &str,
    address: String,
    card: &Card<'_>,
) -> (GpuDevice, GpuDeviceReadings) {
    const ONLY_PCI: Saying = saying!("only-pci-devices", "only PCI devices have it");
    fn not_pci<T>() -> Fact<T> {
        Fact::not_applicable(ONLY_PCI)
    }
    let address = device.fact(link, sayings::DEVICE_LINK_LEADS, Some(address));
    let gpu = GpuDevice {
        address: address.clone(),
        class: device.fact(
            link,
            saying!(
                "kernel-lists-display-device-no",
                "the kernel lists it as a display device, and it is no PCI display function",
            ),
            Some("display device".into()),
        ),
        driver: link_name(lease, &format!("{link}/driver"), sayings::DRIVER_LINK_LEADS),
        driver_version: File::read(lease, format!("{link}/driver/module/version")).text_fact(),
        vendor_id: not_pci(),
        vendor: not_pci(),
        device_id: not_pci(),
        device: not_pci(),
        subsystem_id: not_pci(),
        subsystem: not_pci(),
        revision: not_pci(),
        model: not_pci(),
        boot_display: not_pci(),
        made_by_hypervisor: not_pci(),
        memory_bytes: not_pci(),
        video_bios: not_pci(),
        max_link_speed_mts: not_pci(),
        max_link_lanes: not_pci(),
        serial: not_pci(),
        unique_id: not_pci(),
        uuid: not_pci(),
        numa_node: not_pci(),
        connectors: card.connectors(),
    };
    (gpu, card.readings(address, Link { speed: not_pci(), lanes: not_pci() }))
}
