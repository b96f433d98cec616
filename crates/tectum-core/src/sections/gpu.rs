//! Display, 3D and processing-accelerator devices: by their class, never by a word in their name.

use std::collections::BTreeSet;

use super::{
    Found, Section,
    devices::DevicePath,
    file::{File, link_name, list, listing_evidence},
    pci_names,
};
use crate::{
    formats::number,
    report::{
        fact::{Fact, Gap, Why},
        kinds::Text,
        model::{Gpu, GpuDevice},
        record::Parts,
    },
    source::Lease,
};

pub(super) const SECTION: Section = Section {
    name: "gpu",
    summary: "display, 3D and processing-accelerator devices with their drivers",
    reads: &[
        "/sys/bus/pci/devices",
        "/sys/bus/pci/devices/**",
        "/sys/class",
        "/sys/class/drm",
        "/sys/class/drm/**",
        "/sys/class/graphics",
        "/sys/class/graphics/**",
    ],
    survey,
};

/// `Documentation/ABI/testing/sysfs-bus-pci`.
const FUNCTIONS: &str = "/sys/bus/pci/devices";
/// The kinds of device that the kernel knows.
const CLASSES: &str = "/sys/class";

fn survey(lease: &Lease) -> Found {
    let mut devices = Vec::new();
    let listed = list(lease, FUNCTIONS);
    if let Ok(names) = &listed {
        for name in names.iter().filter_map(|name| name.to_str()) {
            let class = File::read(lease, format!("{FUNCTIONS}/{name}/class"));
            match number::hexadecimal(&class.text()) {
                Some(code) if is_gpu_class(code) => devices.push(pci_device(lease, name, &class)),
                _ => {}
            }
        }
    }
    let on_pci: BTreeSet<String> =
        devices.iter().filter_map(|device| Some(device.address.value()?.0.clone())).collect();
    devices.extend(elsewhere(lease, &on_pci));
    let gpu = Gpu { devices: complete(lease, listed.err(), devices) };
    Box::new(|findings| findings.inventory.gpu = Some(gpu))
}

/// The list, if there is any ground to say that these are all: a machine without PCI has a kernel
/// that lists its classes all the same; where nothing can be listed, nothing is known.
fn complete(lease: &Lease, no_pci: Option<Gap>, devices: Vec<GpuDevice>) -> Parts<GpuDevice> {
    let rule = "PCI functions of base class 03h or 12h, and display devices elsewhere";
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

fn pci_device(lease: &Lease, name: &str, class: &File) -> GpuDevice {
    let folder = format!("{FUNCTIONS}/{name}");
    let file = |attribute: &str| File::read(lease, format!("{folder}/{attribute}"));
    let id = |attribute: &str| {
        file(attribute).fact("four hexadecimal digits", |text| {
            Some(Text(format!("{:04x}", u16::try_from(number::hexadecimal(text)?).ok()?)))
        })
    };
    let (vendor_id, device_id) = (id("vendor"), id("device"));
    let (sub_vendor, sub_device) = (id("subsystem_vendor"), id("subsystem_device"));
    let code = |fact: &Fact<Text>| fact.value().and_then(|text| u16::from_str_radix(text, 16).ok());
    let ids = (code(&vendor_id), code(&device_id), code(&sub_vendor), code(&sub_device));
    let known = |of: &Fact<Text>, name: Option<&'static str>| {
        of.clone()
            .and_then(|number| match name {
                Some(name) => Ok(Text::from(name)),
                None => Err(Gap::new(Why::NotProvided)
                    .hint(format!("{number} is not in the list of PCI ids that Tectum carries"))),
            })
            .by_rule("the number's name in the PCI id list that Tectum carries")
    };
    GpuDevice {
        address: Fact::known(
            Text(format!("pci {name}")),
            listing_evidence(FUNCTIONS, "the function's name in the folder").raw(name),
        ),
        class: class.fact("the name of the PCI class code", |text| {
            Some(Text(class_name(number::hexadecimal(text)?)))
        }),
        vendor: known(&vendor_id, ids.0.and_then(pci_names::vendor)),
        device: known(&device_id, ids.0.zip(ids.1).and_then(|(v, d)| pci_names::device(v, d))),
        subsystem: known(&sub_device, subsystem_name(ids)),
        subsystem_id: sub_vendor
            .clone()
            .and_then(|vendor| match sub_device.value() {
                Some(device) if &*vendor != "0000" || &**device != "0000" => {
                    Ok(Text(format!("{vendor}:{device}")))
                }
                _ => Err(Gap::new(Why::Blank)),
            })
            .with_evidence_of(&sub_device),
        vendor_id,
        device_id,
        revision: file("revision").fact("two hexadecimal digits", |text| {
            Some(Text(format!("{:02x}", u8::try_from(number::hexadecimal(text)?).ok()?)))
        }),
        driver: link_name(lease, &format!("{folder}/driver"), "the driver that the link leads to"),
        boot_display: file("boot_vga").fact("1 is yes", number::flag),
    }
}

fn subsystem_name(
    (vendor, device, sub_vendor, sub_device): (Option<u16>, Option<u16>, Option<u16>, Option<u16>),
) -> Option<&'static str> {
    let device = pci_ids::Device::from_vid_pid(vendor?, device?)?;
    let (sub_vendor, sub_device) = (sub_vendor?, sub_device?);
    device
        .subsystems()
        .find(|entry| entry.subvendor() == sub_vendor && entry.subdevice() == sub_device)
        .map(pci_ids::SubSystem::name)
}

/// Display devices that are no PCI functions of a display class: boards' own controllers, USB
/// display adapters, framebuffers that the firmware left.
fn elsewhere(lease: &Lease, on_pci: &BTreeSet<String>) -> Vec<GpuDevice> {
    let mut seen = BTreeSet::new();
    let mut devices = Vec::new();
    for (class, prefix) in [("/sys/class/drm", "card"), ("/sys/class/graphics", "fb")] {
        let Ok(names) = list(lease, class) else { continue };
        for name in names.iter().filter_map(|name| name.to_str()) {
            if !super::devices::is_numbered(name, prefix) {
                continue;
            }
            let link = format!("{class}/{name}/device");
            let Ok(device) = DevicePath::follow(lease, &link) else { continue };
            if device.pci_address().is_some_and(|pci| on_pci.contains(&format!("pci {pci}"))) {
                continue;
            }
            let Some(last) = device.parts.last() else { continue };
            if !seen.insert(device.path.clone()) {
                continue;
            }
            const ONLY_PCI: &str = "only PCI devices have it";
            let not_pci = || Fact::not_applicable(ONLY_PCI);
            let address = match device.last(super::devices::is_usb_device) {
                Some(usb) => format!("usb {usb}"),
                None => format!("platform {last}"),
            };
            devices.push(GpuDevice {
                address: device.fact(&link, "the device that the link leads to", Some(address)),
                class: device.fact(
                    &link,
                    "the kernel lists it as a display device, and it is no PCI display function",
                    Some("display device".into()),
                ),
                vendor_id: not_pci(),
                vendor: not_pci(),
                device_id: not_pci(),
                device: not_pci(),
                subsystem_id: not_pci(),
                subsystem: not_pci(),
                revision: not_pci(),
                driver: link_name(
                    lease,
                    &format!("{link}/driver"),
                    "the driver that the link leads to",
                ),
                boot_display: Fact::not_applicable(ONLY_PCI),
            });
        }
    }
    devices
}
