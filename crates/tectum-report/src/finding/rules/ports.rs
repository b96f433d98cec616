//! Network ports with what is read of them now, as several rules look at them.

use std::collections::HashMap;

use crate::{
    finding::judge::{Judge, see},
    leaf::InterfaceName,
    model::{InterfaceKind, InterfaceReadings, NetworkInterface},
};

/// A port, with the pointer to its readings.
#[derive(Clone)]
pub(super) struct Port<'a> {
    pub(super) at: String,
    pub(super) now: &'a InterfaceReadings,
}

/// A bond or team, with the ports that it is made of.
pub(super) struct Bond<'a> {
    pub(super) at: String,
    pub(super) bond: &'a NetworkInterface,
    pub(super) names: &'a [InterfaceName],
    pub(super) members: Vec<Port<'a>>,
}

/// Interfaces with their pointers, and the readings of each by its name.
type Interfaces<'a> = (Vec<(String, &'a NetworkInterface)>, HashMap<&'a str, Port<'a>>);

fn interfaces<'a>(it: &mut Judge<'a>) -> Option<Interfaces<'a>> {
    let network = it.section(&it.report().inventory.network, "/inventory/network")?;
    let now = it.section(&it.report().readings.network, "/readings/network")?;
    let mut readings = HashMap::new();
    for (at, now) in it.parts(&now.interfaces, "/readings/network/interfaces") {
        if let Some(name) = now.name.value() {
            readings.entry(name.0.as_str()).or_insert(Port { at, now });
        }
    }
    Some((it.parts(&network.interfaces, "/inventory/network/interfaces"), readings))
}

/// The ports with hardware behind them.
pub(super) fn physical<'a>(it: &mut Judge<'a>) -> Vec<Port<'a>> {
    let Some((interfaces, readings)) = interfaces(it) else { return Vec::new() };
    let mut ports = Vec::new();
    for (at, one) in &interfaces {
        let physical = see!(it, at, one.physical) == Some(&true);
        let reading = one.name.value().and_then(|name| readings.get(name.0.as_str()));
        ports.extend(reading.filter(|_| physical).cloned());
    }
    ports
}

/// The bonds and teams.
pub(super) fn bonds<'a>(it: &mut Judge<'a>) -> Vec<Bond<'a>> {
    let Some((interfaces, readings)) = interfaces(it) else { return Vec::new() };
    let mut bonds = Vec::new();
    for (at, bond) in interfaces {
        let kind = see!(it, &at, bond.kind);
        if !matches!(kind, Some(InterfaceKind::Bond | InterfaceKind::Team)) {
            continue;
        }
        let Some(names) = see!(it, &at, bond.members) else { continue };
        let members = names.iter().filter_map(|name| readings.get(name.0.as_str()).cloned());
        bonds.push(Bond { members: members.collect(), names, bond, at });
    }
    bonds
}
