//! The Universal Serial Bus (`Documentation/ABI/testing/sysfs-bus-usb`,
//! `Documentation/ABI/stable/sysfs-bus-usb`).

use crate::readers::sayings;
use std::collections::BTreeSet;

use super::{Found, Section};
use crate::readers::{
    devices::{DevicePath, is_numbered, is_usb_device},
    file::{File, link_name, list, listing_evidence},
    id_names::{IdNames, Ids},
    id_table::{self, Numbered},
    module_matching::unbound,
    pci_function::on_bus,
};
use crate::{
    formats::{link_speed, number},
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Why, saying},
    leaf::{KilobitsPerSecond, Milliamperes, Term},
    model::{Usb, UsbDevice, UsbInterface},
};

pub(super) const SECTION: Section = Section {
    name: "usb",
    summary: "hubs and devices on USB as they hang together, their interfaces and drivers",
    reads: &[
        "/sys/bus",
        "/sys/bus/usb/devices",
        "/sys/bus/usb/devices/**",
        "/usr/share/hwdata/usb.ids",
        "/usr/share/misc/usb.ids",
    ],
    survey,
};

const DEVICES: &str = "/sys/bus/usb/devices";

fn survey(lease: &Lease) -> Found {
    let usb = look(lease);
    Box::new(|observed| observed.inventory.usb = Some(usb))
}

/// Where a device stands: its bus, then the ports on the way, root hubs before what hangs on them.
fn order(path: &str) -> (u64, Vec<u64>) {
    let numbers = |text: &str| text.split('.').filter_map(|part| part.parse().ok()).collect();
    match path.strip_prefix("usb") {
        Some(bus) => (bus.parse().unwrap_or(0), Vec::new()),
        None => match path.split_once('-') {
            Some((bus, ports)) => (bus.parse().unwrap_or(0), numbers(ports)),
            None => (0, Vec::new()),
        },
    }
}

fn look(lease: &Lease) -> Usb {
    let (names, told_by) = match on_bus(lease, DEVICES) {
        Ok(found) => found,
        Err(gap) => {
            return Usb { devices: Parts::missing(gap.clone()), id_list_version: Fact::gap(gap) };
        }
    };
    let mut paths: Vec<&str> = names
        .iter()
        .filter_map(|name| name.to_str())
        .filter(|name| is_usb_device(name) || is_numbered(name, "usb"))
        .collect();
    paths.sort_by_key(|path| order(path));
    let vendors: BTreeSet<u16> = paths
        .iter()
        .filter_map(|path| {
            let file = File::read(lease, format!("{DEVICES}/{path}/idVendor"));
            number::hexadecimal(&file.text()).and_then(|id| u16::try_from(id).ok())
        })
        .collect();
    let known = IdNames::read(lease, Ids::Usb, &vendors);
    let devices = paths.iter().filter_map(|path| device(lease, path, &known)).collect();
    let rule =
        saying!("every-name-root-hub-device", "every name that is a root hub's or a device's");
    Usb {
        devices: Parts::known(devices, listing_evidence(told_by, rule)),
        id_list_version: known.list(),
    }
}

/// Words of a device's or interface's class (USB-IF class codes).
fn class(file: &File) -> Fact<Term> {
    file.fact(saying!("name-class-code", "the name of the class code"), |text| {
        let code = u8::try_from(number::hexadecimal(text)?).ok()?;
        Some(match (code, id_table::name(Numbered::UsbClass, &[u16::from(code)])) {
            (0, _) => Term::from("told by its interfaces"),
            (_, Some(class)) => Term::from(class),
            (code, None) => Term(format!("class {code:02x}")),
        })
    })
}

fn device(lease: &Lease, path: &str, known: &IdNames) -> Option<UsbDevice> {
    let folder = format!("{DEVICES}/{path}");
    let file = |name: &str| File::read(lease, format!("{folder}/{name}"));
    let id = |file: File| {
        file.fact(sayings::FOUR_HEXADECIMAL_DIGITS, |text| {
            Some(Term(format!("{:04x}", u16::try_from(number::hexadecimal(text)?).ok()?)))
        })
    };
    let (vendor_file, product_file) = (file("idVendor"), file("idProduct"));
    // A device that was pulled out since it was listed has nothing left to say, and is none.
    if vendor_file.bytes().is_err()
        && product_file.bytes().is_err()
        && file("speed").bytes().is_err()
    {
        return None;
    }
    let (vendor_id, product_id) = (id(vendor_file), id(product_file));
    let root = is_numbered(path, "usb");
    let way = DevicePath::follow(lease, &folder);
    Some(UsbDevice {
        path: Fact::known(
            Term::from(path),
            listing_evidence(DEVICES, sayings::DEVICE_NAME_FOLDER).raw(path),
        ),
        hub: match hub(path) {
            Some(hub) => Fact::known(
                Term(hub),
                listing_evidence(
                    DEVICES,
                    saying!(
                        "device-name-without-last-port",
                        "the device's name without its last port",
                    ),
                )
                .raw(path),
            ),
            None => Fact::not_applicable(saying!(
                "root-hub-hangs-no-hub",
                "a root hub hangs on no hub",
            )),
        },
        controller: match (&way, root) {
            (_, false) => Fact::not_applicable(saying!(
                "only-root-hubs-belong-controller",
                "only root hubs belong to a controller",
            )),
            (Err(gap), true) => Fact::gap(gap.clone()),
            (Ok(way), true) => way.fact(
                &folder,
                saying!("device-above-root-hub", "the device above the root hub"),
                way.place().or_else(|| {
                    way.parts.iter().rev().nth(1).map(|above| format!("platform {above}"))
                }),
            ),
        },
        vendor: known.vendor(&vendor_id),
        product: known.device(&vendor_id, &product_id),
        vendor_id,
        product_id,
        // The kernel writes its own release into a root hub's strings.
        manufacturer_string: match root {
            true => Fact::not_applicable(saying!(
                "kernel-makes-up-root-hub",
                "the kernel makes up a root hub's strings",
            )),
            false => file("manufacturer").text_fact(),
        },
        product_string: file("product").text_fact(),
        serial: match root {
            true => Fact::not_applicable(saying!(
                "root-hub-gives-controller-address",
                "a root hub gives its controller's address instead",
            )),
            false => file("serial").text_fact(),
        },
        class: class(&file("bDeviceClass")),
        usb_version: file("version").text_fact(),
        release: file("bcdDevice").text_fact(),
        speed_kbps: file("speed")
            .fact(
                saying!("megabits-second-thousand", "megabits a second, by a thousand"),
                link_speed::kilobits,
            )
            .map(KilobitsPerSecond),
        max_power_ma: file("bMaxPower")
            .fact(sayings::MILLIAMPERES, |text| number::decimal(text.strip_suffix("mA")?))
            .map(Milliamperes),
        removable: file("removable").text_fact().and_then(|text: Term| match &*text.0 {
            "unknown" => Err(Gap::new(Why::Blank)),
            _ => Ok(text),
        }),
        ports: file("maxchild").fact(sayings::DECIMAL_NUMBER, number::decimal).and_then(|ports| {
            match ports {
                0 => Err(Gap::new(Why::NotApplicable)
                    .hint(saying!("only-hubs-ports", "only hubs have ports"))),
                ports => Ok(ports),
            }
        }),
        interfaces: interfaces(lease, path, root),
    })
}

/// The path of the hub above: `2-1` of `2-1.4`, `usb2` of `2-1`.
fn hub(path: &str) -> Option<String> {
    let (bus, _) = path.split_once('-')?;
    Some(match path.rsplit_once('.') {
        Some((hub, _)) => hub.to_owned(),
        None => format!("usb{bus}"),
    })
}

/// Interfaces stand beside the devices, as `2-1.4:1.0`: configuration and number behind the colon.
fn interfaces(lease: &Lease, path: &str, root: bool) -> Parts<UsbInterface> {
    let folder = format!("{DEVICES}/{path}");
    let names = match list(lease, &folder) {
        Ok(names) => names,
        Err(gap) => return Parts::missing(gap),
    };
    let stem = match root {
        true => path.replace("usb", "") + "-0:",
        false => format!("{path}:"),
    };
    let mut found: Vec<&str> =
        names.iter().filter_map(|name| name.to_str()).filter(|n| n.starts_with(&stem)).collect();
    found.sort_unstable();
    let parts = found.into_iter().map(|name| {
        let file = |attribute: &str| File::read(lease, format!("{folder}/{name}/{attribute}"));
        UsbInterface {
            number: file("bInterfaceNumber").fact(sayings::HEXADECIMAL, number::hexadecimal),
            class: class(&file("bInterfaceClass")),
            name: file("interface").text_fact(),
            driver: unbound(link_name(
                lease,
                &format!("{folder}/{name}/driver"),
                sayings::DRIVER_LINK_LEADS,
            )),
        }
    });
    let rule = saying!(
        "folders-named-device-configuration-interface",
        "folders named for the device, its configuration and the interface",
    );
    Parts::known(
        parts.collect(),
        Evidence::new(folder.as_str().into(), rule).place("names in the folder"),
    )
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("2-1.4", Some("2-1"))]
    #[case("2-1", Some("usb2"))]
    #[case("usb2", None)]
    fn hubs(#[case] path: &str, #[case] above: Option<&str>) {
        assert_eq!(hub(path).as_deref(), above);
    }

    #[test]
    fn devices_stand_behind_the_hubs_they_hang_on() {
        let mut paths = ["1-10", "2-1", "usb2", "1-2.3", "1-2", "usb1"];
        paths.sort_by_key(|path| order(path));
        assert_eq!(paths, ["usb1", "1-2", "1-2.3", "1-10", "usb2", "2-1"]);
    }
}
