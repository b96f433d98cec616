//! Routes and addresses as the kernel lists them: `/proc/net/route`, `/proc/net/ipv6_route`,
//! `/proc/net/if_inet6`, `/proc/net/fib_trie`, and resolv.conf(5).

use std::{
    collections::HashSet,
    net::{IpAddr, Ipv4Addr, Ipv6Addr},
};

use tectum_report::leaf::{Identifies, Redact};

use super::{Line, line_by_line, lines, number};

/// A route.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Route<'a> {
    /// The interface.
    pub interface: &'a str,
    /// The network that is reached.
    pub destination: IpAddr,
    /// Bits of it that count.
    pub prefix: u8,
    /// The gateway; the unspecified address where there is none.
    pub gateway: IpAddr,
    /// The metric: a lower one is preferred.
    pub metric: u64,
    /// The kernel's flags (`include/uapi/linux/route.h`, `ipv6_route.h`).
    pub flags: u32,
    /// The line.
    pub line: Line<'a>,
}

/// The route is one of the machine's own addresses, or to many at once.
const LOCAL: u32 = 0x8000_0000;
/// The route refuses.
const REJECT: u32 = 0x0200;

impl Route<'_> {
    /// Whether it goes through a gateway.
    pub fn has_gateway(&self) -> bool {
        !self.gateway.is_unspecified()
    }

    /// Whether it refuses what it matches.
    pub fn refuses(&self) -> bool {
        self.flags & REJECT != 0
    }

    /// Whether it leads to one of the machine's own addresses.
    pub fn is_local(&self) -> bool {
        self.flags & LOCAL != 0
    }

    /// Whether an address lies on its network.
    pub fn holds(&self, address: Ipv4Addr) -> bool {
        let IpAddr::V4(network) = self.destination else { return false };
        let mask = u32::MAX.checked_shl(32 - u32::from(self.prefix.min(32))).unwrap_or(0);
        network.to_bits() & mask == address.to_bits() & mask
    }
}

/// The lines of `/proc/net/route`; the heading and what cannot be read are passed over. Addresses
/// stand there as the machine keeps them in memory, which is taken to be the lowest byte first.
pub fn ipv4(text: &str) -> Vec<Route<'_>> {
    lines(text)
        .filter_map(|line| {
            let fields: Vec<&str> = line.raw.split_ascii_whitespace().collect();
            let [interface, destination, gateway, flags, _, _, metric, mask, ..] = *fields else {
                return None;
            };
            let address = |field: &str| {
                (field.len() == 8).then_some(())?;
                let bits = u32::from_str_radix(field, 16).ok()?;
                Some(Ipv4Addr::from_bits(bits.swap_bytes()))
            };
            Some(Route {
                interface,
                destination: address(destination)?.into(),
                prefix: u8::try_from(address(mask)?.to_bits().leading_ones()).ok()?,
                gateway: address(gateway)?.into(),
                metric: number::decimal(metric)?,
                flags: u32::from_str_radix(flags, 16).ok()?,
                line,
            })
        })
        .collect()
}

/// 32 hexadecimal digits as an address.
fn digits(field: &str) -> Option<Ipv6Addr> {
    (field.len() == 32).then_some(())?;
    Some(Ipv6Addr::from_bits(u128::from_str_radix(field, 16).ok()?))
}

/// The lines of `/proc/net/ipv6_route`.
pub fn ipv6(text: &str) -> Vec<Route<'_>> {
    lines(text)
        .filter_map(|line| {
            let fields: Vec<&str> = line.raw.split_ascii_whitespace().collect();
            let [destination, prefix, _, _, gateway, metric, _, _, flags, interface] = *fields
            else {
                return None;
            };
            Some(Route {
                interface,
                destination: digits(destination)?.into(),
                prefix: u8::from_str_radix(prefix, 16).ok()?,
                gateway: digits(gateway)?.into(),
                metric: u64::from_str_radix(metric, 16).ok()?,
                flags: u32::from_str_radix(flags, 16).ok()?,
                line,
            })
        })
        .collect()
}

/// An IPv6 address of an interface.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Assigned<'a> {
    /// The address.
    pub address: Ipv6Addr,
    /// The interface.
    pub interface: &'a str,
    /// Bits of the network.
    pub prefix: u8,
    /// How far it is valid (`include/net/ipv6.h`).
    pub scope: u8,
    /// The kernel's flags (`include/uapi/linux/if_addr.h`).
    pub flags: u32,
    /// The line.
    pub line: Line<'a>,
}

impl Assigned<'_> {
    /// How far it is valid, in a word.
    pub fn scope_word(&self) -> Option<&'static str> {
        Some(match self.scope {
            0x00 => "global",
            0x10 => "host",
            0x20 => "link",
            0x40 => "site",
            _ => return None,
        })
    }

    /// Whether the kernel made it up for a while.
    pub fn is_temporary(&self) -> bool {
        self.flags & 0x01 != 0
    }
}

/// The lines of `/proc/net/if_inet6`.
pub fn if_inet6(text: &str) -> Vec<Assigned<'_>> {
    lines(text)
        .filter_map(|line| {
            let fields: Vec<&str> = line.raw.split_ascii_whitespace().collect();
            let [address, _, prefix, scope, flags, interface] = *fields else { return None };
            Some(Assigned {
                address: digits(address)?,
                interface,
                prefix: u8::from_str_radix(prefix, 16).ok()?,
                scope: u8::from_str_radix(scope, 16).ok()?,
                flags: u32::from_str_radix(flags, 16).ok()?,
                line,
            })
        })
        .collect()
}

/// The machine's own IPv4 addresses by `/proc/net/fib_trie`: a leaf whose next lines say
/// `/32 host LOCAL`. Tables repeat one another; each address is given once, in the order met.
pub fn local_ipv4(text: &str) -> Vec<(Ipv4Addr, Line<'_>)> {
    let mut found: Vec<(Ipv4Addr, Line<'_>)> = Vec::new();
    let mut seen = HashSet::new();
    let mut leaf: Option<(Ipv4Addr, Line<'_>)> = None;
    for line in lines(text) {
        let body = line.raw.trim();
        if let Some(address) = body.strip_prefix("|-- ") {
            leaf = address.parse().ok().map(|address| (address, line));
        } else if body.starts_with("+--") {
            leaf = None;
        } else if let (Some((address, at)), "/32 host LOCAL") = (leaf, body)
            && seen.insert(address)
        {
            found.push((address, at));
        }
    }
    found
}

/// A line of resolv.conf that names a server or domains.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Resolver<'a> {
    /// A name server.
    Server(&'a str, Line<'a>),
    /// Domains that are searched.
    Search(Vec<&'a str>, Line<'a>),
}

/// The name servers and domains of resolv.conf(5).
pub fn resolvers(text: &str) -> Vec<Resolver<'_>> {
    lines(text)
        .filter_map(|line| {
            let mut words = line.raw.split_ascii_whitespace();
            match words.next()? {
                "nameserver" => Some(Resolver::Server(words.next()?, line)),
                "search" | "domain" => Some(Resolver::Search(words.collect(), line)),
                _ => None,
            }
        })
        .collect()
}

/// resolv.conf(5), fit to share: servers and domains are made anew, all else is left out.
pub(crate) fn resolvers_redacted(text: &str, by: &dyn Redact) -> String {
    line_by_line(text, |raw| match resolvers(raw).pop() {
        Some(Resolver::Server(server, _)) => {
            format!("nameserver {}", by.text(Identifies::Address, server))
        }
        Some(Resolver::Search(domains, _)) => {
            let new = domains.iter().map(|domain| by.text(Identifies::HostName, domain));
            format!("search {}", new.collect::<Vec<_>>().join(" "))
        }
        None => String::new(),
    })
}

/// `/proc/net/route`, fit to share.
pub(crate) fn ipv4_redacted(text: &str, by: &dyn Redact) -> String {
    line_by_line(text, |raw| {
        let fields: Vec<&str> = raw.split_ascii_whitespace().collect();
        let [interface, destination, gateway, flags, _, _, metric, mask, ..] = *fields else {
            return String::new();
        };
        let address = |field: &str| {
            let bits = u32::from_str_radix(field, 16).ok().filter(|_| field.len() == 8)?;
            let text = Ipv4Addr::from_bits(bits.swap_bytes()).to_string();
            let new: Ipv4Addr = by.text(Identifies::Address, &text).parse().ok()?;
            Some(format!("{:08X}", new.to_bits().swap_bytes()))
        };
        let numbers = [flags, metric, mask];
        if numbers.iter().any(|it| !it.bytes().all(|byte| byte.is_ascii_hexdigit())) {
            return String::new();
        }
        let (Some(destination), Some(gateway)) = (address(destination), address(gateway)) else {
            return String::new();
        };
        let interface = by.text(Identifies::InterfaceName, interface);
        format!("{interface}\t{destination}\t{gateway}\t{flags}\t0\t0\t{metric}\t{mask}\t0\t0\t0")
    })
}

/// Fields of a table of IPv6 addresses, fit to share: those at the places given are addresses, the
/// last is an interface, the others are numbers.
fn ipv6_fields(raw: &str, addresses: &[usize], count: usize, by: &dyn Redact) -> Option<String> {
    let fields: Vec<&str> = raw.split_ascii_whitespace().collect();
    let (interface, numbers) = fields.split_last().filter(|_| fields.len() == count)?;
    let mut new = Vec::with_capacity(count);
    for (index, field) in numbers.iter().enumerate() {
        if addresses.contains(&index) {
            let text = digits(field)?.to_string();
            let address: Ipv6Addr = by.text(Identifies::Address, &text).parse().ok()?;
            new.push(format!("{:032x}", address.to_bits()));
        } else {
            field.bytes().all(|byte| byte.is_ascii_hexdigit()).then_some(())?;
            new.push((*field).to_owned());
        }
    }
    new.push(by.text(Identifies::InterfaceName, interface));
    Some(new.join(" "))
}

/// `/proc/net/if_inet6`, fit to share.
pub(crate) fn if_inet6_redacted(text: &str, by: &dyn Redact) -> String {
    line_by_line(text, |raw| ipv6_fields(raw, &[0], 6, by).unwrap_or_default())
}

/// `/proc/net/ipv6_route`, fit to share.
pub(crate) fn ipv6_redacted(text: &str, by: &dyn Redact) -> String {
    line_by_line(text, |raw| ipv6_fields(raw, &[0, 2, 4], 10, by).unwrap_or_default())
}

/// `/proc/net/fib_trie`, fit to share: the machine's own addresses and their marks.
pub(crate) fn local_ipv4_redacted(text: &str, by: &dyn Redact) -> String {
    line_by_line(text, |raw| {
        let body = raw.trim();
        if let Some(address) = body.strip_prefix("|-- ").and_then(|it| it.parse::<Ipv4Addr>().ok())
        {
            return format!("|-- {}", by.text(Identifies::Address, &address.to_string()));
        }
        match body {
            "/32 host LOCAL" => body.to_owned(),
            _ if body.starts_with("+--") => "+--".to_owned(),
            _ => String::new(),
        }
    })
}

/// A VLAN's file in `/proc/net/vlan`, fit to share: its number.
pub(crate) fn vlan_redacted(text: &str) -> String {
    line_by_line(text, |raw| {
        let number = raw
            .split_once("VID:")
            .and_then(|(_, rest)| rest.split_whitespace().next()?.parse::<u16>().ok());
        number.map(|number| format!("x VID: {number} REORDER_HDR: 1")).unwrap_or_default()
    })
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    const ROUTES: &str = "Iface\tDestination\tGateway\tFlags\tRefCnt\tUse\tMetric\tMask\tMTU\tWindow\tIRTT\n\
        eth0\t00000000\t010200C0\t0003\t0\t0\t100\t00000000\t0\t0\t0\n\
        eth0\t000200C0\t00000000\t0001\t0\t0\t0\t00FFFFFF\t0\t0\t0\n";

    #[test]
    fn ipv4_routes() {
        let routes = ipv4(ROUTES);
        assert_eq!(routes.len(), 2);
        assert_eq!(routes[0].gateway, IpAddr::V4(Ipv4Addr::new(192, 0, 2, 1)));
        assert_eq!((routes[0].prefix, routes[0].metric), (0, 100));
        assert_eq!((routes[1].prefix, routes[1].has_gateway()), (24, false));
        assert!(routes[1].holds(Ipv4Addr::new(192, 0, 2, 77)));
        assert!(!routes[1].holds(Ipv4Addr::new(192, 0, 3, 77)));
        assert!(routes[0].holds(Ipv4Addr::new(8, 8, 8, 8)));
    }

    #[test]
    fn ipv6_addresses_and_routes() {
        let text = "20010db8000000000000000000000007 02 40 00 81 eth0\n";
        let all = if_inet6(text);
        assert_eq!(all[0].address.to_string(), "2001:db8::7");
        assert_eq!((all[0].prefix, all[0].scope_word()), (64, Some("global")));
        assert!(all[0].is_temporary());
        let zeros = "0".repeat(32);
        let route = format!(
            "{zeros} 00 {zeros} 00 fe80{} 00000400 1 0 00000003 eth0\n",
            "0".repeat(27) + "1"
        );
        let routes = ipv6(&route);
        assert_eq!(routes[0].gateway.to_string(), "fe80::1");
        assert_eq!((routes[0].prefix, routes[0].metric, routes[0].is_local()), (0, 1024, false));
    }

    #[test]
    fn own_addresses_stand_once() {
        let trie = "Main:\n  +-- 0.0.0.0/0 3 0 5\n     |-- 192.0.2.15\n        /32 host LOCAL\n\
                    \x20    |-- 192.0.2.255\n        /32 link BROADCAST\n\
                    Local:\n     |-- 192.0.2.15\n        /32 host LOCAL\n";
        let all: Vec<String> = local_ipv4(trie).iter().map(|(it, _)| it.to_string()).collect();
        assert_eq!(all, ["192.0.2.15"]);
    }

    #[test]
    fn name_servers_and_domains() {
        let text = "# made by hand\nnameserver 192.0.2.53\nsearch tide.example skerry.example\n";
        let all = resolvers(text);
        assert!(matches!(all[0], Resolver::Server("192.0.2.53", _)));
        assert!(matches!(&all[1], Resolver::Search(names, _) if names.len() == 2));
    }

    proptest! {
        #[test]
        fn no_text_makes_it_panic(text in "[0-9a-fA-F/|+. \\-a-zA-Z\n\t]{0,300}") {
            let _ = (ipv4(&text), ipv6(&text), if_inet6(&text), local_ipv4(&text), resolvers(&text));
        }
    }
}
