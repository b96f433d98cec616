//! Addresses, routes, name servers (`Documentation/networking`, resolv.conf(5)).

use crate::readers::{limits::leave_first, sayings};
use std::net::{IpAddr, Ipv4Addr};

use crate::{
    formats::routes::{self, Resolver, Route},
    readers::file::File,
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Saying, Why, saying},
    leaf::{HostName, InterfaceName, NetworkAddress, Term},
    model::{AssignedAddress, NameServer, NetworkRoute, SearchDomain},
};

/// The files that tell of addresses and routes.
pub(super) struct Addresses {
    trie: File,
    inet6: File,
    route4: File,
    route6: File,
}

fn known(address: IpAddr, evidence: Evidence) -> Fact<NetworkAddress> {
    Fact::known(NetworkAddress(address.to_string()), evidence)
}

impl Addresses {
    pub(super) fn read(lease: &Lease) -> Self {
        let file = |name: &str| File::read(lease, format!("/proc/net/{name}"));
        Self {
            trie: file("fib_trie"),
            inet6: file("if_inet6"),
            route4: file("route"),
            route6: file("ipv6_route"),
        }
    }

    /// Addresses that somebody gave; those that the kernel made up for a while are not among them.
    pub(super) fn lasting(&self) -> Parts<AssignedAddress> {
        if let (Err(gap), Err(_)) = (self.trie.bytes(), self.inet6.bytes()) {
            return Parts::missing(gap.clone());
        }
        let mut parts = self.ipv4();
        parts.extend(self.ipv6(false));
        let rule = saying!(
            "machine-own-addresses-fib-trie",
            "the machine's own addresses in fib_trie, and the lines of if_inet6",
        );
        let unseen = [&self.trie, &self.inet6].into_iter().find_map(not_seen);
        Parts::known(parts, Evidence::new(self.trie.path().clone(), rule)).in_part(unseen)
    }

    pub(super) fn temporary(&self) -> Parts<AssignedAddress> {
        match self.inet6.bytes() {
            Err(gap) => Parts::missing(gap.clone()),
            Ok(_) => Parts::known(
                self.ipv6(true),
                Evidence::new(
                    self.inet6.path().clone(),
                    saying!("lines-flag-such-address", "lines with the flag of such an address",),
                ),
            ),
        }
    }

    fn ipv6(&self, temporary: bool) -> Vec<AssignedAddress> {
        let text = self.inet6.text();
        let all = routes::if_inet6(&text).into_iter();
        let wanted = all.filter(|assigned| assigned.is_temporary() == temporary);
        wanted
            .map(|assigned| {
                let at = |rule: Saying| self.inet6.at_line(assigned.line, rule);
                AssignedAddress {
                    address: known(assigned.address.into(), at(sayings::FIRST_FIELD)),
                    prefix_length: Fact::known(
                        u64::from(assigned.prefix),
                        at(saying!("third-field-hexadecimal", "the third field, hexadecimal")),
                    ),
                    scope: match assigned.scope_word() {
                        Some(word) => Fact::known(Term::from(word), at(sayings::FOURTH_FIELD)),
                        None => Fact::gap(Gap::new(Why::Invalid).raw(assigned.line.raw)),
                    },
                    interface: Fact::known(
                        InterfaceName::from(assigned.interface),
                        at(sayings::LAST_FIELD),
                    ),
                }
            })
            .collect()
    }

    /// The kernel's table of addresses does not name interfaces; its table of routes does: the
    /// network that an address lies on belongs to the interface that reaches it without a gateway.
    fn ipv4(&self) -> Vec<AssignedAddress> {
        let (trie, table) = (self.trie.text(), self.route4.text());
        let connected: Vec<Route<'_>> =
            routes::ipv4(&table).into_iter().filter(|route| !route.has_gateway()).collect();
        let all = routes::local_ipv4(&trie);
        all.into_iter().map(|(address, line)| self.assigned(address, line, &connected)).collect()
    }

    fn assigned(
        &self,
        address: Ipv4Addr,
        line: crate::formats::Line<'_>,
        connected: &[Route<'_>],
    ) -> AssignedAddress {
        let at = |rule: Saying| self.trie.at_line(line, rule);
        let own = known(
            address.into(),
            at(saying!("leaf-table-machine-own", "a leaf of the table that is the machine's own",)),
        );
        if address.is_loopback() {
            let rule = saying!(
                "addresses-begin-127-loopback-rfc",
                "addresses that begin with 127 are the loopback's (RFC 1122 clause 3.2.1.3)",
            );
            return AssignedAddress {
                address: own,
                prefix_length: Fact::known(8, at(rule.clone())),
                scope: Fact::known(Term::from("host"), at(rule.clone())),
                interface: Fact::known(InterfaceName::from("lo"), at(rule)),
            };
        }
        let holding = || connected.iter().filter(|route| route.prefix > 0 && route.holds(address));
        let longest = holding().map(|route| route.prefix).max();
        let found: Vec<&Route<'_>> =
            holding().filter(|route| Some(route.prefix) == longest).collect();
        let none =
            |answer: Saying| Gap::new(Why::NotProvided).tried(self.route4.path().clone(), answer);
        let (prefix_length, interface) = match found.as_slice() {
            [] => {
                let gap = not_seen(&self.route4).unwrap_or_else(|| {
                    none(saying!(
                        "no-network-without-gateway-holds",
                        "no network without a gateway holds the address",
                    ))
                });
                (Fact::gap(gap.clone()), Fact::gap(gap))
            }
            [first, rest @ ..] => {
                let at = |rule: Saying| self.route4.at_line(first.line, rule);
                let rule = saying!(
                    "network-reached-without-gateway-holds",
                    "the network, reached without a gateway, that holds the address",
                );
                let prefix = Fact::known(u64::from(first.prefix), at(rule.clone()));
                let interface = match rest.iter().all(|other| other.interface == first.interface) {
                    true => Fact::known(Term::from(first.interface), at(rule)),
                    false => Fact::gap(none(saying!(
                        "several-interfaces-reach-address-network",
                        "several interfaces reach the address's network",
                    ))),
                };
                (prefix, interface)
            }
        };
        AssignedAddress {
            address: own,
            prefix_length,
            scope: Fact::known(
                Term::from(if address.is_link_local() { "link" } else { "global" }),
                at(saying!(
                    "link-addresses-begin-169-254",
                    "link for addresses that begin with 169.254 (RFC 3927)",
                )),
            ),
            interface: interface.map(|text| InterfaceName(text.0)),
        }
    }

    pub(super) fn routes(&self) -> Parts<NetworkRoute> {
        if let (Err(gap), Err(_)) = (self.route4.bytes(), self.route6.bytes()) {
            return Parts::missing(gap.clone());
        }
        let (first, second) = (self.route4.text(), self.route6.text());
        let told = |route: &Route<'_>| {
            !(route.is_local() || route.refuses() || route.destination.is_multicast())
        };
        let (mut fourth, mut sixth) = (routes::ipv4(&first), routes::ipv6(&second));
        fourth.retain(told);
        sixth.retain(told);
        let more = leave_first(&mut fourth, &self.route4).or(leave_first(&mut sixth, &self.route6));
        let fourth = fourth.into_iter().map(|route| (&self.route4, route));
        let sixth = sixth.into_iter().map(|route| (&self.route6, route));
        let parts = fourth.chain(sixth).map(|(file, route)| {
            let at = |rule: Saying| file.at_line(route.line, rule);
            NetworkRoute {
                destination: known(
                    route.destination,
                    at(saying!("destination-field", "the destination's field")),
                ),
                prefix_length: Fact::known(
                    u64::from(route.prefix),
                    at(saying!(
                        "bits-set-mask-prefix-field",
                        "the bits that are set in the mask, or the prefix's field",
                    )),
                ),
                gateway: match route.has_gateway() {
                    true => {
                        known(route.gateway, at(saying!("gateway-field", "the gateway's field")))
                    }
                    false => Fact::not_applicable(saying!(
                        "reached-without-gateway",
                        "it is reached without a gateway",
                    )),
                },
                interface: Fact::known(
                    InterfaceName::from(route.interface),
                    at(saying!("interface-field", "the interface's field")),
                ),
                metric: Fact::known(
                    route.metric,
                    at(saying!("metric-field", "the metric's field")),
                ),
            }
        });
        let rule =
            saying!("lines-lead-elsewhere-do-not", "lines that lead elsewhere and do not refuse",);
        let unseen = [&self.route4, &self.route6].into_iter().find_map(not_seen).or(more);
        Parts::known(parts.collect(), Evidence::new(self.route4.path().clone(), rule))
            .in_part(unseen)
    }
}

/// Why a file that may well hold something could not be read.
fn not_seen(file: &File) -> Option<Gap> {
    file.hidden().cloned()
}

/// The system's own list; the one that systemd keeps is asked where that names only itself.
fn resolver_file(lease: &Lease) -> File {
    let file = File::read(lease, "/etc/resolv.conf");
    let stub = {
        let text = file.text();
        let mut servers = routes::resolvers(&text).into_iter().filter_map(|line| match line {
            Resolver::Server(address, _) => Some(address.to_owned()),
            Resolver::Search(..) => None,
        });
        servers.next().as_deref() == Some("127.0.0.53")
    };
    if stub {
        let behind = File::read(lease, "/run/systemd/resolve/resolv.conf");
        if behind.bytes().is_ok() {
            return behind;
        }
    }
    file
}

pub(super) fn name_servers(lease: &Lease) -> Parts<NameServer> {
    let file = resolver_file(lease);
    if let Err(gap) = file.bytes() {
        return Parts::missing(gap.clone());
    }
    let text = file.text();
    let parts = routes::resolvers(&text).into_iter().filter_map(|one| match one {
        Resolver::Server(address, line) => Some(NameServer {
            address: Fact::known(
                NetworkAddress::from(address),
                file.at_line(line, saying!("behind-nameserver", "behind nameserver")),
            ),
        }),
        Resolver::Search(..) => None,
    });
    Parts::known(
        parts.collect(),
        file.evidence(saying!(
            "every-line-begins-nameserver",
            "every line that begins with nameserver",
        )),
    )
}

pub(super) fn search_domains(lease: &Lease) -> Parts<SearchDomain> {
    let file = resolver_file(lease);
    if let Err(gap) = file.bytes() {
        return Parts::missing(gap.clone());
    }
    let text = file.text();
    let mut parts = Vec::new();
    for one in routes::resolvers(&text) {
        if let Resolver::Search(names, line) = one {
            parts.extend(names.into_iter().map(|name| SearchDomain {
                domain: Fact::known(
                    HostName::from(name),
                    file.at_line(line, saying!("behind-search", "behind search")),
                ),
            }));
        }
    }
    Parts::known(
        parts,
        file.evidence(saying!(
            "every-line-begins-search-domain",
            "every line that begins with search or domain",
        )),
    )
}
