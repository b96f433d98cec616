//! USB devices of which an interface has no driver.

use crate::fact::Why;
use crate::finding::rules::words::joined;
use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "usb-interface-without-driver",
    severity: Severity::Notice,
    title: "USB device that nothing drives",
    reads: &["usb.devices.*.interfaces.*.driver"],
    matters: "The device is there and cannot be used.",
    action: "Load a module for it, or unplug what is not wanted.",
    reference: "Documentation/driver-api/usb/usb.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(usb) = it.section(&it.report().inventory.usb, "/inventory/usb") else { return };
    for (at, device) in it.parts(&usb.devices, "/inventory/usb/devices") {
        if device.is_root() {
            continue;
        }
        let interfaces = it.parts(&device.interfaces, &format!("{at}/interfaces"));
        let mut idle = 0;
        for (at, one) in &interfaces {
            match one.driver.missing().map(|gap| gap.why) {
                Some(Why::NotProvided) => idle += 1,
                Some(_) => {
                    see!(it, at, one.driver);
                }
                None => {}
            }
        }
        if idle > 0 {
            let name = match &device.product {
                product if product.is_known() => joined([&device.vendor, product]),
                _ => joined([&device.manufacturer_string, &device.product_string]),
            };
            let which = match (idle, interfaces.len()) {
                (_, 1) => "its interface has no driver".to_owned(),
                (idle, all) if idle == all => format!("none of its {all} interfaces has a driver"),
                (1, all) => format!("1 of {all} interfaces has no driver"),
                (idle, all) => format!("{idle} of {all} interfaces have no driver"),
            };
            let says = format!("{name}: {which}");
            it.finds(device, &at, &["vendor_id", "product_id"], says.trim_start_matches(": "));
        }
    }
}
