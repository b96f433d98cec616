//! Network interfaces (`Documentation/ABI/testing/sysfs-class-net`, `sysfs-class-net-statistics`).

use std::path::Path;

use super::mac_address::{mac, parent, permanent_mac};
use crate::{
    formats::{colon, number, udev},
    readers::{
        devices::DevicePath,
        file::{File, hidden, link_name, list, listing_evidence, watched},
        pci_function::FUNCTIONS,
        pci_place, sayings,
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Saying, Why, saying},
    leaf::{Bytes, InterfaceName, MegabitsPerSecond, Term},
    model::{InterfaceKind, InterfaceReadings, MacOrigin, NetworkInterface},
};

const ROOT: &str = "/sys/class/net";

/// One interface's folder.
#[derive(Clone)]
pub(super) struct Interface<'a> {
    pub(super) lease: &'a Lease,
    pub(super) name: &'a str,
    pub(super) folder: String,
    /// The device behind it; virtual interfaces have none.
    pub(super) device: Option<DevicePath>,
}

impl Interface<'_> {
    pub(super) fn file(&self, name: &str) -> File {
        File::read(self.lease, format!("{}/{name}", self.folder))
    }

    /// Whether something stands in the interface's folder.
    pub(super) fn has(&self, name: &str) -> bool {
        list(self.lease, format!("{}/{name}", self.folder)).is_ok()
    }

    /// `DEVTYPE` of the kernel's announcement: `bond`, `vlan`, `wlan`.
    pub(super) fn announced(&self) -> Option<String> {
        let event = self.file("uevent");
        let text = event.text();
        text.lines().find_map(|line| line.strip_prefix("DEVTYPE=")).map(str::to_owned)
    }
}

/// The interfaces that the kernel knows, or why they are not known.
pub(super) fn names(lease: &Lease) -> Result<Vec<String>, Gap> {
    // The kernel puts a file of its own beside the interfaces where bonding is loaded.
    let names = list(lease, ROOT)?;
    let names = names.iter().filter_map(|name| name.to_str());
    Ok(names.filter(|name| *name != "bonding_masters").map(str::to_owned).collect())
}

/// Interfaces that stay, and those that programs make and take away again.
pub(super) fn interfaces(
    lease: &Lease,
    names: &Result<Vec<String>, Gap>,
) -> (Parts<NetworkInterface>, Parts<NetworkInterface>) {
    let names = match names {
        Ok(names) => names,
        Err(gap) => return (Parts::missing(gap.clone()), Parts::missing(gap.clone())),
    };
    let labels = pci_place::Places::read(lease);
    let mut unseen = None;
    let mut seen = |name: &String| {
        let found = interface(lease, name, &labels);
        unseen = unseen.take().or(hidden(&found).cloned());
        found.ok()
    };
    let mut all: Vec<NetworkInterface> = names.iter().filter_map(&mut seen).collect();
    // Those with hardware first, in the order of where they sit; then the others as they were made.
    // Never by name: an owner may have chosen it, and their order would tell of it.
    all.sort_by_cached_key(|one| {
        let physical = one.physical.value() != Some(&true);
        let parent = one.parent.value().filter(|_| !physical).map(|parent| parent.0.clone());
        let name = one.name.value().map_or("", |name| name.0.as_str());
        let file = File::read(lease, format!("{ROOT}/{name}/ifindex"));
        (physical, parent, one.port.value().copied(), number::decimal(&file.text()))
    });
    let (passing, lasting) = all.into_iter().partition(|one: &NetworkInterface| {
        matches!(one.kind.value(), Some(InterfaceKind::Pair | InterfaceKind::Tap))
    });
    let evidence = |rule: Saying| listing_evidence(ROOT, rule);
    (
        Parts::known(
            lasting,
            evidence(saying!(
                "every-name-folder-but-pairs",
                "every name in the folder, but for pairs and taps",
            )),
        )
        .in_part(unseen.clone()),
        Parts::known(passing, evidence(saying!("pairs-taps", "pairs and taps"))).in_part(unseen),
    )
}

/// An interface; one that was taken away since it was listed is none, and of one whose device nobody can see nothing can
/// be told.
fn open<'a>(lease: &'a Lease, name: &'a str) -> Result<Interface<'a>, Gap> {
    let folder = format!("{ROOT}/{name}");
    DevicePath::follow(lease, &folder)?;
    let device = DevicePath::follow(lease, &format!("{folder}/device"));
    match hidden(&device) {
        Some(gap) => Err(gap.clone()),
        None => Ok(Interface { lease, name, folder, device: device.ok() }),
    }
}

fn interface(
    lease: &Lease,
    name: &str,
    places: &pci_place::Places,
) -> Result<NetworkInterface, Gap> {
    let one = open(lease, name)?;
    // What stands in its folder decides, and what could not be seen there may.
    let (kind, unseen) = watched(lease, |lease| kind(&Interface { lease, ..one.clone() }));
    let kind = unseen.map_or(kind, Fact::gap);
    let origin = one.file("addr_assign_type").fact(
        saying!(
            "0-hardware-1-chance-2",
            "0 is the hardware's, 1 chance, 2 another device's, 3 set",
        ),
        |text| {
            Some(match number::decimal(text)? {
                0 => MacOrigin::Hardware,
                1 => MacOrigin::Random,
                2 => MacOrigin::Taken,
                3 => MacOrigin::Set,
                _ => return None,
            })
        },
    );
    let mac = mac(&one.file("address"));
    let permanent_mac = permanent_mac(&one, &mac, &origin);
    let way = format!("{}/device", one.folder);
    let physical = physical(&one);
    const VIRTUAL: Saying = sayings::NO_DEVICE_STANDS_BEHIND;
    let address = one.device.as_ref().and_then(DevicePath::pci_address).map(str::to_owned);
    Ok(NetworkInterface {
        name: Fact::known(
            InterfaceName::from(name),
            listing_evidence(ROOT, sayings::INTERFACE_NAME_FOLDER).raw(name),
        ),
        alternative_names: alternative_names(&one)
            .map(|all| all.into_iter().map(|text| InterfaceName(text.0)).collect()),
        kind,
        physical,
        mac_origin: match (mac.missing(), permanent_mac.missing().map(|gap| gap.why)) {
            (Some(gap), _) if gap.why.hides_a_value() => Fact::gap(gap.clone()),
            (Some(_), Some(Why::NotApplicable)) => {
                Fact::not_applicable(saying!("no-mac-address", "it has no MAC address"))
            }
            _ => origin,
        },
        mac,
        permanent_mac,
        driver: match one.device {
            Some(_) => link_name(lease, &format!("{way}/driver"), sayings::DRIVER_LINK_LEADS),
            None => Fact::not_applicable(VIRTUAL),
        },
        parent: match &one.device {
            Some(device) => device.fact(&way, sayings::DEVICE_LINK_LEADS, parent(device)),
            None => Fact::not_applicable(VIRTUAL),
        },
        port: match one.device {
            Some(_) => one.file("dev_port").fact(sayings::DECIMAL_NUMBER, number::decimal),
            None => Fact::not_applicable(VIRTUAL),
        },
        slot_label: match &address {
            Some(address) => {
                places.label(address, &File::read(lease, format!("{FUNCTIONS}/{address}/label")))
            }
            None => Fact::not_applicable(saying!(
                "only-hangs-pci-slot",
                "only what hangs on PCI has a slot",
            )),
        },
        mtu: one.file("mtu").fact(sayings::BYTES, number::decimal),
        receive_queues: queues(&one, "rx-"),
        transmit_queues: queues(&one, "tx-"),
        max_virtual_functions: match &one.device {
            Some(_) => {
                one.file("device/sriov_totalvfs").fact(sayings::DECIMAL_NUMBER, number::decimal)
            }
            None => Fact::not_applicable(VIRTUAL),
        },
        numa_node: match &one.device {
            Some(_) => one.file("device/numa_node").numa_node(),
            None => Fact::not_applicable(VIRTUAL),
        },
        upper: link_name(
            lease,
            &format!("{}/master", one.folder),
            saying!("interface-link-leads", "the interface that the link leads to"),
        )
        .map(|text| InterfaceName(text.0)),
        members: members(&one)
            .map(|all| all.into_iter().map(|text| InterfaceName(text.0)).collect()),
        vlan: vlan(&one),
        bond_mode: one.file("bonding/mode").fact(saying!("first-word", "the first word"), |text| {
            text.split_whitespace().next().map(Term::from)
        }),
    })
}

/// Whether a port of its own stands behind it. A virtual function sends through the port of another function
/// (`Documentation/PCI/pci-iov-howto.rst`), and what stands for one in a switch is no port of the machine either
/// (`Documentation/networking/switchdev.rst`).
fn physical(one: &Interface<'_>) -> Fact<bool> {
    if one.device.is_some() {
        let function = format!("{}/device/physfn", one.folder);
        if let Ok(of) = one.lease.resolve(Path::new(&function)) {
            let rule = saying!(
                "virtual-function-of",
                "a virtual function, which sends through the port of the function that the link leads to",
            );
            let evidence = Evidence::new(function.as_str().into(), rule).place("link");
            return Fact::known(false, evidence.raw(&of.to_string_lossy()));
        }
        let port = one.file("phys_port_name");
        if stands_for_a_function(port.text().trim()) {
            let rule = saying!(
                "port-name-of-a-function",
                "the name of a switch's port that leads to a function and not out of the machine",
            );
            return Fact::known(false, port.evidence(rule));
        }
    }
    Fact::known(
        one.device.is_some(),
        listing_evidence(&one.folder, saying!("whether-device", "whether it has a device"))
            .raw(if one.device.is_some() { "device" } else { "no device" }),
    )
}

/// Whether the name of a switch's port is one that leads to a virtual function or a part of one: `pf0vf3`, `c1pf0sf88`.
fn stands_for_a_function(port: &str) -> bool {
    fn numbered<'a>(text: &'a str, name: &str) -> Option<&'a str> {
        let digits = text.strip_prefix(name)?;
        let rest = digits.trim_start_matches(|sign: char| sign.is_ascii_digit());
        (rest.len() < digits.len()).then_some(rest)
    }
    let port = numbered(port, "c").unwrap_or(port);
    let function =
        numbered(port, "pf").and_then(|rest| numbered(rest, "vf").or_else(|| numbered(rest, "sf")));
    function == Some("")
}

/// What an interface is, by the kernel's signs.
fn kind(one: &Interface<'_>) -> Fact<InterfaceKind> {
    let announced = one.announced();
    let kind_of = |hardware: u64| {
        if hardware == 772 {
            return InterfaceKind::Loopback;
        }
        if one.has("bonding") {
            return InterfaceKind::Bond;
        }
        if one.has("bridge") {
            return InterfaceKind::Bridge;
        }
        if one.has("phy80211") || one.has("wireless") {
            return InterfaceKind::Wireless;
        }
        match announced.as_deref() {
            Some("bond") => return InterfaceKind::Bond,
            Some("team") => return InterfaceKind::Team,
            Some("bridge") => return InterfaceKind::Bridge,
            Some("vlan") => return InterfaceKind::Vlan,
            Some("wlan") => return InterfaceKind::Wireless,
            Some("vxlan" | "gre" | "geneve" | "wireguard" | "ip6gre") => {
                return InterfaceKind::Tunnel;
            }
            _ => {}
        }
        if one.file("tun_flags").bytes().is_ok() {
            return InterfaceKind::Tap;
        }
        match (hardware, one.device.is_some()) {
            (1, true) => InterfaceKind::Ethernet,
            (32, _) => InterfaceKind::Infiniband,
            (_, true) => InterfaceKind::OtherHardware,
            // Tunnels of `include/uapi/linux/if_arp.h`: IP in IP, IP6, SIT, GRE.
            (768 | 769 | 776 | 778 | 823 | 65534, false) => InterfaceKind::Tunnel,
            (1, false) if announced.is_none() && paired(one) => InterfaceKind::Pair,
            (_, false) => InterfaceKind::Virtual,
        }
    };
    let rule = saying!(
        "hardware-type-kernel-announces-stands",
        "the hardware type, what the kernel announces, and what stands in its folder",
    );
    one.file("type").fact(rule, |text| number::decimal(text).map(kind_of))
}

/// Whether the kernel links it to another interface.
fn paired(one: &Interface<'_>) -> bool {
    let number = |file: &str| number::decimal(&one.file(file).text());
    number("iflink").zip(number("ifindex")).is_some_and(|(link, own)| link != own)
}

/// Names by place, as udev made them up; a name made of the MAC address is not among them.
fn alternative_names(one: &Interface<'_>) -> Fact<Vec<Term>> {
    let index = one.file("ifindex");
    let index = index.text();
    let record = File::read(one.lease, format!("/run/udev/data/n{}", index.trim()));
    if let Err(gap) = record.bytes() {
        return Fact::gap(gap.clone());
    }
    let text = record.text();
    let properties = udev::properties(&text);
    let mut names = Vec::new();
    let mut evidence = Vec::new();
    for key in ["ID_NET_NAME_ONBOARD", "ID_NET_NAME_SLOT", "ID_NET_NAME_PATH"] {
        let fact =
            record.assigned(&properties, key, sayings::AS_UDEV_RECORDED, |it| Some(Term::from(it)));
        if let Some(name) = fact.value().filter(|name| name.0 != one.name)
            && !names.contains(name)
        {
            names.push(name.clone());
            evidence.extend_from_slice(fact.evidence());
        }
    }
    if evidence.is_empty() {
        let evidence = tectum_report::fact::Evidence::new(
            record.path().clone(),
            saying!("no-other-name-place", "no other name by its place"),
        );
        return Fact::known(names, evidence.raw(one.name));
    }
    Fact::known_from(names, evidence)
}

fn queues(one: &Interface<'_>, prefix: &str) -> Fact<u64> {
    let folder = format!("{}/queues", one.folder);
    match list(one.lease, &folder) {
        Err(gap) => Fact::gap(gap),
        Ok(names) => {
            let found = names.iter().filter_map(|name| name.to_str());
            let count = found.filter(|name| name.starts_with(prefix)).count() as u64;
            let evidence = listing_evidence(
                &folder,
                saying!("names-kind-counted", "names of the kind, counted"),
            );
            Fact::known(count, evidence.raw(&format!("{prefix}: {count}")))
        }
    }
}

/// The interfaces below: links named `lower_…`.
fn members(one: &Interface<'_>) -> Fact<Vec<Term>> {
    match list(one.lease, &one.folder) {
        Err(gap) => Fact::gap(gap),
        Ok(names) => {
            let mut lower: Vec<String> = names
                .iter()
                .filter_map(|name| name.to_str()?.strip_prefix("lower_").map(str::to_owned))
                .collect();
            lower.sort_unstable();
            let raw = lower.join(" ");
            let lower = lower.into_iter().map(Term).collect();
            let rule = saying!("behind-lower-names-links", "behind lower_ in the names of links");
            Fact::known(lower, listing_evidence(&one.folder, rule).raw(&raw))
        }
    }
}

/// `Documentation/networking`: the file of a VLAN in `/proc/net/vlan`.
fn vlan(one: &Interface<'_>) -> Fact<u64> {
    let file = File::read(one.lease, format!("/proc/net/vlan/{}", one.name));
    let text = file.text();
    let rule = saying!("behind-vid-first-line", "behind VID: in the first line");
    let blocks = colon::blocks(&text);
    let first = blocks.iter().flatten().next();
    match first {
        Some(entry) => {
            let number = entry
                .line
                .raw
                .split_once("VID:")
                .and_then(|(_, rest)| rest.split_whitespace().next().and_then(number::decimal));
            match number {
                Some(number) => Fact::known(number, file.at_line(entry.line, rule)),
                None => Fact::gap(file.lacks("the VLAN's number")),
            }
        }
        None => Fact::gap(file.lacks("a VLAN of this name")),
    }
}

pub(super) fn readings(
    lease: &Lease,
    names: &Result<Vec<String>, Gap>,
) -> Parts<InterfaceReadings> {
    let names = match names {
        Ok(names) => names,
        Err(gap) => return Parts::missing(gap.clone()),
    };
    let mut unseen = None;
    let parts = names.iter().filter_map(|name| {
        let one = open(lease, name);
        unseen = unseen.take().or(hidden(&one).cloned());
        let one = one.ok()?;
        let count = |file: &str| {
            one.file(&format!("statistics/{file}")).fact(sayings::COUNTED, number::decimal)
        };
        let down = || {
            Gap::new(Why::NotApplicable).hint(saying!(
                "kernel-knows-only-while-interface",
                "the kernel knows it only while the interface is up",
            ))
        };
        Some(InterfaceReadings {
            name: Fact::known(
                InterfaceName::from(name.as_str()),
                listing_evidence(ROOT, sayings::INTERFACE_NAME_FOLDER).raw(name),
            ),
            state: one.file("operstate").text_fact(),
            carrier: while_up(&one.file("carrier"), down, number::flag),
            speed_mbps: while_up(&one.file("speed"), down, number::signed)
                .and_then(|speed| {
                    // Old kernels print -1 as a number without a sign.
                    let speed = if speed == i64::from(u32::MAX) { -1 } else { speed };
                    u64::try_from(speed).map_err(|_| {
                        Gap::new(Why::NotApplicable)
                            .hint(saying!("1-none-now", "-1 says that it has none now"))
                    })
                })
                .map(MegabitsPerSecond),
            duplex: while_up(&one.file("duplex"), down, |text| {
                (text != "unknown").then(|| Term::from(text))
            }),
            carrier_changes: one.file("carrier_changes").fact(sayings::COUNTED, number::decimal),
            received_bytes: count("rx_bytes").map(Bytes),
            sent_bytes: count("tx_bytes").map(Bytes),
            received_packets: count("rx_packets"),
            sent_packets: count("tx_packets"),
            receive_errors: count("rx_errors"),
            transmit_errors: count("tx_errors"),
            receive_dropped: count("rx_dropped"),
            transmit_dropped: count("tx_dropped"),
        })
    });
    Parts::known(parts.collect(), listing_evidence(ROOT, sayings::EVERY_NAME_FOLDER))
        .in_part(unseen)
}

/// A file that the kernel refuses to read while an interface is down.
fn while_up<T>(
    file: &File,
    down: impl Fn() -> Gap,
    parse: impl FnOnce(&str) -> Option<T>,
) -> Fact<T> {
    let fact = file.fact(saying!("kernel-writes", "as the kernel writes it"), parse);
    match fact.missing() {
        Some(gap) if gap.why == Why::Invalid || gap.why == Why::NotProvided => {
            let attempts = gap.tried.clone();
            let mut why = down();
            why.tried = attempts;
            Fact::gap(why)
        }
        _ => fact,
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("pf0vf3", true)]
    #[case("c1pf0sf88", true)]
    #[case("p0", false)]
    #[case("p1s2", false)]
    #[case("pf0", false)]
    #[case("pf0vf", false)]
    #[case("pf0vf3x", false)]
    #[case("", false)]
    fn the_name_of_a_switchs_port(#[case] port: &str, #[case] function: bool) {
        assert_eq!(stands_for_a_function(port), function);
    }
}
