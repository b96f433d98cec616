use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{
        Bytes, HostName, InterfaceName, MacAddress, MegabitsPerSecond, NetworkAddress, Term, codes,
    },
};

record! {
    /// Network interfaces, addresses, routes and name servers.
    Network "network" {
        source "Documentation/ABI/testing/sysfs-class-net";

        /// Interfaces: physical ones first. Those that programs make and take away again are not
        /// among them.
        interfaces: Parts<NetworkInterface>,
        /// Addresses that are assigned.
        addresses: Parts<AssignedAddress>,
        /// Routes, without those to the machine's own addresses.
        routes: Parts<NetworkRoute>,
        /// Servers that resolve names.
        name_servers: Parts<NameServer>,
        /// Domains in which names are searched.
        search_domains: Parts<SearchDomain>,
    }
}

record! {
    /// A network interface (`Documentation/ABI/testing/sysfs-class-net`).
    NetworkInterface "network interface" {
        source "Documentation/ABI/testing/sysfs-class-net";
        identity unique [permanent_mac];
        place [parent, port];
        names [name, alternative_names];
        refers parent -> pci.functions.address | usb.devices.path;
        refers upper -> network.interfaces.name;
        refers members -> network.interfaces.name;
        derived [upper, slot_label];

        /// The kernel's name for it.
        name: Fact<InterfaceName>,
        /// Names that it could have by its place.
        #[source = "the udev database"]
        alternative_names: Fact<Vec<InterfaceName>>,
        /// What kind of interface it is: a port, a bridge, a bond, a tunnel.
        kind: Fact<InterfaceKind>,
        /// Whether a port of its own stands behind it. A virtual function has none: it sends through another's.
        physical: Fact<bool>,
        /// The MAC address in use.
        mac: Fact<MacAddress>,
        /// Where that address is from: the hardware, chance, another device, or somebody.
        mac_origin: Fact<MacOrigin>,
        /// The hardware's own MAC address.
        #[source = "Documentation/ABI/testing/sysfs-class-net; Documentation/networking/bonding.rst"]
        permanent_mac: Fact<MacAddress>,
        /// The driver that is bound to its device.
        #[source = "Documentation/driver-api/driver-model/device.rst"]
        driver: Fact<Term>,
        /// The device that it belongs to: a PCI or USB address, or another.
        #[source = "Documentation/ABI/testing/sysfs-bus-pci"]
        parent: Fact<Term>,
        /// Which port of that device it is, from 0.
        port: Fact<u64>,
        /// The slot, as the firmware labels it.
        #[source = "Documentation/ABI/testing/sysfs-bus-pci"]
        slot_label: Fact<Term>,
        /// Largest packet in bytes.
        mtu: Fact<u64>,
        /// Queues for what comes in.
        receive_queues: Fact<u64>,
        /// Queues for what goes out.
        transmit_queues: Fact<u64>,
        /// The most virtual functions that its device can have.
        #[source = "Documentation/PCI/pci-iov-howto.rst"]
        max_virtual_functions: Fact<u64>,
        /// The NUMA node that it is near to.
        numa_node: Fact<u64>,
        /// The bond, bridge or team that it is a member of.
        upper: Fact<InterfaceName>,
        /// Interfaces that it is made of.
        members: Fact<Vec<InterfaceName>>,
        /// The VLAN's number.
        #[source = "/proc/net/vlan"]
        vlan: Fact<u64>,
        /// How a bond spreads what it sends.
        #[source = "Documentation/networking/bonding.rst"]
        bond_mode: Fact<Term>,
    }
}

record! {
    /// An address that an interface has.
    AssignedAddress "address" {
        source "/proc/net/fib_trie; /proc/net/if_inet6";
        place [address];
        refers interface -> network.interfaces.name;

        /// The address, without the length of its prefix.
        address: Fact<NetworkAddress>,
        /// Bits of it that its network has in common.
        prefix_length: Fact<u64>,
        /// How far it is valid: global, site, link, host.
        scope: Fact<Term>,
        /// The interface that it is assigned to.
        interface: Fact<InterfaceName>,
    }
}

record! {
    /// A route.
    NetworkRoute "route" {
        source "/proc/net/route; /proc/net/ipv6_route";
        place [destination, prefix_length, interface];
        refers interface -> network.interfaces.name;

        /// The network that is reached; unspecified for the default.
        destination: Fact<NetworkAddress>,
        /// Bits of it that count: 0 for the default.
        prefix_length: Fact<u64>,
        /// The address of the router; none where the network is reached directly.
        gateway: Fact<NetworkAddress>,
        /// The interface that packets leave by.
        interface: Fact<InterfaceName>,
        /// The metric: a lower one is preferred.
        metric: Fact<u64>,
    }
}

record! {
    /// A name server.
    NameServer "name server" {
        source "resolv.conf(5)";
        place [address];

        /// The address that names are asked of.
        address: Fact<NetworkAddress>,
    }
}

record! {
    /// A domain in which names are searched.
    SearchDomain "search domain" {
        source "resolv.conf(5)";
        place [domain];

        /// A domain that is put behind a name without dots.
        domain: Fact<HostName>,
    }
}

record! {
    /// How the network is doing.
    NetworkReadings "network readings" {
        source "Documentation/ABI/testing/sysfs-class-net-statistics";

        /// Each interface.
        interfaces: Parts<InterfaceReadings>,
        /// Interfaces that programs make and take away again: ends of pairs, and of wires that
        /// programs hold.
        transient_interfaces: Parts<NetworkInterface>,
        /// Addresses that the kernel made up for a while.
        temporary_addresses: Parts<AssignedAddress>,
    }
}

record! {
    /// How an interface is doing.
    InterfaceReadings "network interface" {
        source "Documentation/ABI/testing/sysfs-class-net-statistics";
        names [name];
        counts [carrier_changes, received_bytes, sent_bytes, received_packets, sent_packets, receive_errors, transmit_errors, receive_dropped, transmit_dropped];
        reading of network.interfaces by name = name;

        /// The kernel's name for it.
        name: Fact<InterfaceName>,
        /// Its state: up, down, dormant, unknown (RFC 2863).
        state: Fact<Term>,
        /// Whether a signal is there.
        carrier: Fact<bool>,
        /// Speed in megabits a second.
        speed_mbps: Fact<MegabitsPerSecond>,
        /// Whether both ends may send at once (`full`) or in turn (`half`).
        duplex: Fact<Term>,
        /// How often the signal came and went.
        carrier_changes: Fact<u64>,
        /// Bytes received since the interface came to be.
        received_bytes: Fact<Bytes>,
        /// Bytes sent since the interface came to be.
        sent_bytes: Fact<Bytes>,
        /// Packets received since the interface came to be.
        received_packets: Fact<u64>,
        /// Packets sent since the interface came to be.
        sent_packets: Fact<u64>,
        /// Packets received with errors.
        receive_errors: Fact<u64>,
        /// Packets that could not be sent for errors.
        transmit_errors: Fact<u64>,
        /// Packets received that found no room.
        receive_dropped: Fact<u64>,
        /// Packets to be sent that found no room.
        transmit_dropped: Fact<u64>,
    }
}

codes! {
    /// What a network interface is.
    InterfaceKind {
        /// Ethernet.
        Ethernet = "ethernet",
        /// Wireless.
        Wireless = "wireless",
        /// InfiniBand.
        Infiniband = "infiniband",
        /// Another with hardware behind it.
        OtherHardware = "other-hardware",
        /// The machine to itself.
        Loopback = "loopback",
        /// Several interfaces as one.
        Bond = "bond",
        /// Several interfaces as one, by a program.
        Team = "team",
        /// A switch in the kernel.
        Bridge = "bridge",
        /// A virtual network on an interface.
        Vlan = "vlan",
        /// A tunnel.
        Tunnel = "tunnel",
        /// A program's own end of a wire.
        Tap = "tap",
        /// One end of a pair, the other of which is elsewhere in this machine.
        Pair = "pair",
        /// Another interface without hardware.
        Virtual = "virtual",
    }
}

codes! {
    /// Where a MAC address is from.
    MacOrigin {
        /// The hardware's own.
        Hardware = "hardware",
        /// Made up by chance.
        Random = "random",
        /// Taken from another device.
        Taken = "taken-from-another",
        /// Set by somebody.
        Set = "set",
    }
}
