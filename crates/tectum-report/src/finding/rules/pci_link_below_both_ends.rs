//! PCI Express links that are slower or narrower than both their ends could be.

use std::collections::{HashMap, HashSet};

use crate::finding::Seen;
use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};
use crate::leaf::in_large_units;
use crate::model::PciFunction;

pub(super) static RULE: Rule = Rule {
    id: "pci-link-below-both-ends",
    severity: Severity::Warning,
    title: "PCI Express link slower or narrower than both its ends could",
    reads: &[
        "readings.pci.functions.*.link_speed_mts",
        "readings.pci.functions.*.link_lanes",
        "pci.functions.*.max_link_speed_mts",
        "pci.functions.*.max_link_lanes",
        "pci.functions.*.bridge",
    ],
    matters: "The device gets a part of the bandwidth that it was bought for: a card not seated well, a riser, a slot shared with another.",
    action: "Seat the card anew, look at the slot's own width, its riser and the firmware's setup of the slot.",
    reference: "PCI Express Base Specification 5.0 clause 7.5.3",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(pci) = it.section(&it.report().inventory.pci, "/inventory/pci") else { return };
    let readings = it.section(&it.report().readings.pci, "/readings/pci");
    let Some(readings) = readings else { return };
    let functions = it.parts(&pci.functions, "/inventory/pci/functions");
    let now = it.parts(&readings.functions, "/readings/pci/functions");
    let by_address: HashMap<&str, &(String, &PciFunction)> =
        functions.iter().filter_map(|one| Some((one.1.address.value()?.0.as_str(), one))).collect();
    let adapting = adapting(&functions);
    for (at, link) in &now {
        let Some((own_at, function)) =
            link.address.value().and_then(|address| by_address.get(address.0.as_str()))
        else {
            continue;
        };
        // A bridge is as wide as what is behind it.
        let class = function.class_id.value().map_or("", |class| class.0.as_str());
        if class.starts_with("0604") {
            continue;
        }
        let speed = see!(it, at, link.link_speed_mts);
        let lanes = see!(it, at, link.link_lanes);
        let best = see!(it, own_at, function.max_link_speed_mts);
        let widest = see!(it, own_at, function.max_link_lanes);
        let (Some(speed), Some(lanes), Some(best), Some(widest)) = (speed, lanes, best, widest)
        else {
            continue;
        };
        if speed >= best && lanes >= widest {
            continue;
        }
        // What is built into the processor or chipset has no bridge above it.
        let Some(bridge) = see!(it, own_at, function.bridge) else { continue };
        let Some((bridge_at, bridge)) = by_address.get(bridge.0.as_str()) else { continue };
        let above = see!(it, bridge_at, bridge.max_link_speed_mts);
        let above_widest = see!(it, bridge_at, bridge.max_link_lanes);
        let (Some(above), Some(above_widest)) = (above, above_widest) else { continue };
        let adapts = function.address.value().is_some_and(|it| adapting.contains(card(&it.0)));
        let slower = speed < best.min(above) && !adapts;
        if slower || lanes < widest.min(above_widest) {
            let says = format!(
                "{} over {} lanes; both ends could do {} over {}",
                rate(speed.0),
                lanes.0,
                rate(best.min(above).0),
                widest.min(above_widest).0
            );
            let mut seen: Vec<Seen> = it.seen(*link, at, "link_speed_mts").into_iter().collect();
            seen.extend(it.seen(*link, at, "link_lanes"));
            seen.extend(it.seen(*function, own_at, "max_link_lanes"));
            seen.extend(it.seen(*bridge, bridge_at, "max_link_lanes"));
            it.finds_by(*function, own_at, seen, says);
        }
    }
}

/// The cards whose link goes slower while they have little to do: displays and accelerators, with the sound
/// and the USB that sit on the same card.
fn adapting<'a>(functions: &[(String, &'a PciFunction)]) -> HashSet<&'a str> {
    let adapts = |one: &PciFunction| {
        let class = one.class_id.value().map_or("", |class| class.0.as_str());
        class.starts_with("03") || class.starts_with("12")
    };
    let of = |(_, one): &(String, &'a PciFunction)| {
        adapts(one).then(|| one.address.value().map(|address| card(&address.0)))?
    };
    functions.iter().filter_map(of).collect()
}

/// An address without the function's number.
fn card(address: &str) -> &str {
    address.rsplit_once('.').map_or(address, |(card, _)| card)
}

fn rate(mts: u64) -> String {
    format!("{} GT/s", in_large_units(i128::from(mts), 1000))
}
