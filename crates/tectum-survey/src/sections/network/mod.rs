//! Network interfaces, addresses, routes and name servers, all by what the kernel and the system say:
//! nothing is ever asked over the network.

mod address;
mod interface;
mod mac_address;

use super::{Found, Section};
use crate::source::Lease;
use tectum_report::model::{Network, NetworkReadings};

pub(super) const SECTION: Section = Section {
    name: "network",
    summary: "ports and virtual interfaces, MAC and IP addresses, routes, name servers, counters",
    reads: &[
        "/etc/resolv.conf",
        "/proc/net/fib_trie",
        "/proc/net/if_inet6",
        "/proc/net/ipv6_route",
        "/proc/net/route",
        "/proc/net/vlan/*",
        "/run/systemd/resolve/resolv.conf",
        "/run/udev/data/n*",
        "/sys/bus/pci/devices/**",
        "/sys/class/net",
        "/sys/class/net/**",
        "/sys/firmware/dmi/**",
    ],
    survey,
};

fn survey(lease: &Lease) -> Found {
    let names = interface::names(lease);
    let addresses = address::Addresses::read(lease);
    let (interfaces, transient_interfaces) = interface::interfaces(lease, &names);
    let network = Network {
        interfaces,
        addresses: addresses.lasting(),
        routes: addresses.routes(),
        name_servers: address::name_servers(lease),
        search_domains: address::search_domains(lease),
    };
    let readings = NetworkReadings {
        interfaces: interface::readings(lease, &names),
        transient_interfaces,
        temporary_addresses: addresses.temporary(),
    };
    Box::new(|observed| {
        observed.inventory.network = Some(network);
        observed.readings.network = Some(readings);
    })
}
