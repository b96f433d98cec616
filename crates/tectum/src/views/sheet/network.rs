//! The network: ports with hardware first, then what is made of them, addresses, routes.

use crate::page::{Page, Tree, UNKNOWN};
use std::collections::HashMap;
use tectum_report::declare::link::ReadingsOf;
use tectum_report::leaf::Bytes;

use tectum_report::model::{InterfaceReadings, Network, NetworkInterface, NetworkRoute};

use super::{
    View,
    alike::{alike, names},
    cell,
    hang::{Thing, trees},
    joined, known, why,
};
use crate::views::quantity::{count, size};

pub(super) fn print(network: &Network, view: &View<'_>, page: &mut Page) {
    let said = page.entry("network");
    if let Some(gap) = network.interfaces.gap() {
        said.plain(why(gap));
        return;
    }
    let lookup = Lookup::new(network, view);
    let physical = network.interfaces.iter().filter(|one| is_physical(one)).count();
    let others = network.interfaces.len() - physical;
    match physical {
        0 => said.plain("no port with hardware behind it"),
        number => said.strong(count(number, "port", "ports")),
    }
    .plain(format!(", {others} virtual"))
    .quiet(default_route(network).map(|way| format!(", {way}")).unwrap_or_default());
    let shown = network.interfaces.iter().filter(|one| view.drawn || is_physical(one));
    for group in alike(shown, |one| if view.drawn { None } else { likeness(one, &lookup) }) {
        match group.as_slice() {
            [one] => line(one, &lookup, page),
            several => {
                let Some(first) = several.first() else { continue };
                let driver = known(&first.driver).map(|driver| format!(", driver {driver}"));
                page.beside()
                    .strong(format!("{} × ", several.len()))
                    .plain(told(first, &lookup))
                    .plain(driver.unwrap_or_default())
                    .quiet(format!(": {}", names(several, |one| cell(&one.name))));
            }
        }
    }
    view.odd("network", page);
    let passing = view.report.readings.network.as_ref().map(|all| all.transient_interfaces.len());
    if let Some(number) = passing.filter(|number| *number > 0) {
        page.beside().quiet(format!(
            "{} of programs, which come and go",
            count(number, "interface", "interfaces")
        ));
    }
    if view.drawn {
        more(network, &lookup, view, page);
    }
}

fn is_physical(one: &NetworkInterface) -> bool {
    one.physical.value() == Some(&true)
}

/// What is looked up for each interface.
struct Lookup<'a> {
    readings: &'a ReadingsOf<'a, InterfaceReadings>,
    addresses: HashMap<&'a str, Vec<String>>,
}

impl<'a> Lookup<'a> {
    fn new(network: &'a Network, view: &'a View<'a>) -> Self {
        let mut addresses: HashMap<&str, Vec<String>> = HashMap::new();
        for address in network.addresses.iter() {
            let Some(interface) = address.interface.value() else { continue };
            let told = format!("{}/{}", cell(&address.address), cell(&address.prefix_length));
            addresses.entry(interface).or_default().push(told);
        }
        Self { readings: &view.readings.interfaces, addresses }
    }

    fn reading(&self, one: &NetworkInterface) -> Option<&'a InterfaceReadings> {
        self.readings.of(&[one])
    }

    fn addresses(&self, one: &NetworkInterface) -> &[String] {
        let own = one.name.value().and_then(|name| self.addresses.get(&**name));
        own.map_or(&[], Vec::as_slice)
    }
}

fn is_default(route: &NetworkRoute) -> bool {
    route.prefix_length.value() == Some(&0) && route.gateway.is_known()
}

fn default_route(network: &Network) -> Option<String> {
    let route = network.routes.iter().find(|route| is_default(route))?;
    Some(format!("default gateway {} by {}", cell(&route.gateway), cell(&route.interface)))
}

/// A speed as it is sold: in gigabits where it is whole ones.
fn speed(megabits: u64) -> String {
    match megabits {
        whole if whole >= 1000 && whole % 1000 == 0 => format!("{} Gb/s", whole / 1000),
        megabits => format!("{megabits} Mb/s"),
    }
}

/// What ports that are told together have in common; one with an address stands alone.
fn likeness(one: &NetworkInterface, lookup: &Lookup<'_>) -> Option<String> {
    let alone = !lookup.addresses(one).is_empty();
    (!alone).then(|| format!("{}|{}", told(one, lookup), cell(&one.driver)))
}

/// What an interface is, whether it is up and how fast, and what it is part of.
fn told(one: &NetworkInterface, lookup: &Lookup<'_>) -> String {
    let now = lookup.reading(one);
    let state = now.and_then(|now| known(&now.state)).filter(|state| state != "unknown");
    let carrier = now.and_then(|now| now.carrier.value().copied());
    let fast = || now.and_then(|now| now.speed_mbps.value()).map(|it| speed(it.0));
    let up = match (state.as_deref(), carrier) {
        (Some("up"), _) => fast().unwrap_or_else(|| "up".to_owned()),
        (Some(state), Some(false)) => format!("{state}, no signal"),
        (Some(state), _) => state.to_owned(),
        // Some drivers tell no state; what a program makes has always a signal.
        (None, Some(true)) if is_physical(one) => fast().unwrap_or_else(|| "signal".to_owned()),
        (None, Some(false)) if is_physical(one) => "no signal".to_owned(),
        (None, _) => String::new(),
    };
    let upper = known(&one.upper).map(|upper| format!("part of {upper}"));
    let kind = match is_physical(one) {
        true => None,
        false => Some(joined(
            [
                known(&one.kind),
                known(&one.vlan).map(|vlan| format!("number {vlan}")),
                known(&one.bond_mode),
                one.members
                    .value()
                    .filter(|members| !members.is_empty())
                    .and_then(|_| known(&one.members))
                    .map(|members| format!("of {members}")),
            ],
            " ",
        )),
    };
    joined([kind, (!up.is_empty()).then_some(up), upper], ", ")
}

fn line(one: &NetworkInterface, lookup: &Lookup<'_>, page: &mut Page) {
    let told = told(one, lookup);
    let own = lookup.addresses(one);
    let more = joined(
        [
            known(&one.mac),
            known(&one.driver).map(|driver| format!("driver {driver}")),
            known(&one.slot_label).or_else(|| known(&one.parent)),
        ],
        ", ",
    );
    let mut said = page.beside().strong(cell(&one.name));
    let own = (!own.is_empty()).then(|| own.join(", "));
    let told = joined([(!told.is_empty()).then_some(told), own], ", ");
    if told.is_empty() {
        // Nothing stands before what is told of the hardware.
        said.plain("  ").quiet(more);
        return;
    }
    said = said.plain(format!("  {told}"));
    if !more.is_empty() {
        said.quiet(format!(", {more}"));
    }
}

fn more(network: &Network, lookup: &Lookup<'_>, view: &View<'_>, page: &mut Page) {
    let things = network.interfaces.iter().map(|one| {
        let kind = if is_physical(one) { "port".to_owned() } else { cell(&one.kind) };
        let addresses = lookup.addresses(one).join(", ");
        let addresses = if addresses.is_empty() { addresses } else { format!(", {addresses}") };
        Thing {
            name: cell(&one.name),
            on: known(&one.upper).or_else(|| below_it(one, network)),
            text: format!("{}  {kind}{addresses}", cell(&one.name)),
        }
    });
    let things: Vec<Thing> = things.collect();
    page.tree(Tree { title: "what is made of which ports", roots: trees(&things) });
    page.gap();
    let bytes =
        |value: Option<&Bytes>| value.map_or(UNKNOWN.to_owned(), |bytes| size(*bytes, view.units));
    let rows: Vec<Vec<String>> = network
        .interfaces
        .iter()
        .map(|one| {
            let now = lookup.reading(one);
            vec![
                cell(&one.name),
                cell(&one.kind),
                cell(&one.mtu),
                format!("{} in, {} out", cell(&one.receive_queues), cell(&one.transmit_queues)),
                bytes(now.and_then(|now| now.received_bytes.value())),
                bytes(now.and_then(|now| now.sent_bytes.value())),
            ]
        })
        .collect();
    page.table(&["interface", "type", ">MTU", "queues", ">received", ">sent"], rows);
    let homeless: Vec<String> = network
        .addresses
        .iter()
        .filter(|address| !address.interface.is_known())
        .map(|address| cell(&address.address))
        .collect();
    if !homeless.is_empty() {
        page.beside()
            .quiet(format!("addresses whose interface is not known: {}", homeless.join(", ")));
    }
    if !network.routes.is_empty() {
        page.gap();
        let rows: Vec<Vec<String>> = network
            .routes
            .iter()
            .map(|route| {
                let to = format!("{}/{}", cell(&route.destination), cell(&route.prefix_length));
                vec![
                    if is_default(route) { "everything else".to_owned() } else { to },
                    cell(&route.gateway),
                    cell(&route.interface),
                    cell(&route.metric),
                ]
            })
            .collect();
        page.table(&["destination", "gateway", "interface", ">metric"], rows);
    }
    let servers: Vec<String> = network.name_servers.iter().map(|it| cell(&it.address)).collect();
    let domains: Vec<String> = network.search_domains.iter().map(|it| cell(&it.domain)).collect();
    if !servers.is_empty() || !domains.is_empty() {
        page.gap();
        page.beside().quiet(format!("names resolved by {}", or_nobody(&servers))).quiet(
            if domains.is_empty() {
                String::new()
            } else {
                format!(", searched in {}", domains.join(", "))
            },
        );
    }
}

/// What is made of an interface that is part of nothing: a VLAN of its port, say.
fn below_it(one: &NetworkInterface, network: &Network) -> Option<String> {
    let name = one.name.value()?;
    let made = network.interfaces.iter().find(|other| {
        other.members.value().is_some_and(|members| members.iter().any(|it| it.0 == name.0))
    });
    known(&made?.name)
}

fn or_nobody(names: &[String]) -> String {
    if names.is_empty() { "nobody".to_owned() } else { names.join(", ") }
}
