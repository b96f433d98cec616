//! Devices around the processor: PCI functions, network ports, USB, sensors, modules, a display.

use std::fmt::Write;

use crate::{Chip, Function, Gpu, Machine, Monitor, NetworkPort, Tree, UsbDevice};

pub(crate) fn put(machine: &Machine, tree: &mut Tree) {
    if machine.functions.is_empty() && machine.ports.is_empty() {
        return;
    }
    for function in &machine.functions {
        put_function(machine, function, tree);
    }
    lists(machine, tree);
    for (index, port) in (2u32..).zip(&machine.ports) {
        put_port(index, port, machine, tree);
    }
    loopback(tree);
    addresses(machine, tree);
    for device in &machine.usb {
        put_usb(machine, device, tree);
    }
    for (number, chip) in machine.chips.iter().enumerate() {
        put_chip(number, chip, tree);
    }
    for gpu in &machine.gpus {
        if let Some(monitor) = &gpu.monitor {
            put_monitor(gpu, monitor, tree);
        }
    }
    others(tree);
}

/// The folder of a PCI function, or of a device that is told by its folder below `/sys/devices`.
pub(crate) fn folder(machine: &Machine, device: &str) -> String {
    if device.contains('/') {
        return format!("sys/devices/{device}");
    }
    let function = machine.functions.iter().find(|function| function.address == device);
    match function.map(|function| function.behind.as_str()) {
        None | Some("") => format!("sys/devices/pci0000:00/{device}"),
        Some(bridge) => format!("{}/{device}", folder(machine, bridge)),
    }
}

fn put_function(machine: &Machine, function: &Function, tree: &mut Tree) {
    let folder = folder(machine, &function.address);
    tree.link(format!("sys/bus/pci/devices/{}", function.address), &format!("/{folder}"));
    let [vendor, device, sub_vendor, sub_device] = function.ids;
    let class = function.class;
    for (name, value) in [
        ("class", format!("{class:#08x}")),
        ("vendor", format!("{vendor:#06x}")),
        ("device", format!("{device:#06x}")),
        ("subsystem_vendor", format!("{sub_vendor:#06x}")),
        ("subsystem_device", format!("{sub_device:#06x}")),
        ("revision", "0x02".into()),
        ("power_state", "D0".into()),
        ("modalias", modalias(function)),
        ("irq", "0".into()),
        ("numa_node", function.node.to_string()),
    ] {
        tree.line(format!("{folder}/{name}"), value);
    }
    if let [speed, width, best_speed, best_width] = function.link.as_slice() {
        for (name, value) in [
            ("current_link_speed", speed),
            ("current_link_width", width),
            ("max_link_speed", best_speed),
            ("max_link_width", best_width),
        ] {
            tree.line(format!("{folder}/{name}"), value);
        }
    }
    tree.file(format!("{folder}/config"), configuration(function));
    if function.max_virtual_functions > 0 {
        tree.line(format!("{folder}/sriov_totalvfs"), function.max_virtual_functions);
        tree.line(format!("{folder}/sriov_numvfs"), function.virtual_functions.len());
    }
    for (number, address) in function.virtual_functions.iter().enumerate() {
        let part = self::folder(machine, address);
        tree.link(format!("{folder}/virtfn{number}"), &format!("/{part}"));
        tree.link(format!("{part}/physfn"), &format!("/{folder}"));
    }
    if !function.driver.is_empty() {
        let driver = format!("sys/bus/pci/drivers/{}", function.driver);
        tree.folder(&driver);
        tree.link(format!("{folder}/driver"), &format!("/{driver}"));
        tree.link(format!("{driver}/{}", function.address), &format!("/{folder}"));
        tree.link(format!("{driver}/module"), &format!("/sys/module/{}", function.module));
    }
}

fn modalias(function: &Function) -> String {
    let [vendor, device, sub_vendor, sub_device] = function.ids;
    let [_, class, subclass, interface] = function.class.to_be_bytes();
    format!(
        "pci:v{vendor:08X}d{device:08X}sv{sub_vendor:08X}sd{sub_device:08X}\
         bc{class:02X}sc{subclass:02X}i{interface:02X}"
    )
}

/// A standard header, power management and PCI Express behind it.
fn configuration(function: &Function) -> Vec<u8> {
    let mut space = vec![0u8; 256];
    let mut put = |at: usize, bytes: &[u8]| {
        for (slot, byte) in space.iter_mut().skip(at).zip(bytes) {
            *slot = *byte;
        }
    };
    let [vendor, device, sub_vendor, sub_device] = function.ids;
    put(0x00, &vendor.to_le_bytes());
    put(0x02, &device.to_le_bytes());
    put(0x04, &[0x06, 0x04, 0x10, 0x00, 0x02]);
    let [_, class, subclass, interface] = function.class.to_be_bytes();
    put(0x09, &[interface, subclass, class]);
    put(0x2C, &sub_vendor.to_le_bytes());
    put(0x2E, &sub_device.to_le_bytes());
    put(0x34, &[0x40]);
    put(0x40, &[0x01, 0x50]);
    put(0x50, &[0x10, 0x00]);
    space
}

/// The list of ids with the invented makers, and what the kernel's modules would drive.
fn lists(machine: &Machine, tree: &mut Tree) {
    // Later than any list that the program carries, so that the invented names are found.
    let mut ids = String::from("#\tVersion: 2026.06.30\n");
    let mut vendors = machine.vendors.clone();
    vendors.sort();
    for (vendor, name) in &vendors {
        // Writing to a string cannot fail.
        let _ = writeln!(ids, "{vendor:04x}  {name}");
        let gpus = machine.gpus.iter().map(|gpu| (gpu.ids, gpu.name.as_str()));
        let all = machine.functions.iter().map(|it| (it.ids, it.name.as_str())).chain(gpus);
        let mut devices: Vec<(u16, &str)> = all
            .filter(|([maker, ..], name)| maker == vendor && !name.is_empty())
            .map(|([_, device, ..], name)| (device, name))
            .collect();
        devices.sort_unstable();
        devices.dedup();
        for (device, name) in devices {
            let _ = writeln!(ids, "\t{device:04x}  {name}");
        }
    }
    tree.file("usr/share/misc/pci.ids", ids);
    let mut aliases = String::from("# Which module drives which device.\n");
    for function in machine.functions.iter().filter(|function| !function.module.is_empty()) {
        let [vendor, device, ..] = function.ids;
        let _ = writeln!(
            aliases,
            "alias pci:v{vendor:08X}d{device:08X}sv*sd*bc*sc*i* {}",
            function.module
        );
    }
    tree.file(format!("usr/lib/modules/{}/modules.alias", machine.kernel_release), aliases);
    let mut modules = String::new();
    for (name, size, users, used_by) in &machine.modules {
        let by = if used_by.is_empty() { "-".to_owned() } else { format!("{used_by},") };
        let _ = writeln!(modules, "{name} {size} {users} {by} Live 0x0000000000000000");
        tree.line(format!("sys/module/{name}/taint"), "");
        tree.line(format!("sys/module/{name}/version"), "2.4");
    }
    tree.file("proc/modules", modules);
    tree.file(
        "proc/devices",
        "Character devices:\n  1 mem\n  4 ttyS\n\nBlock devices:\n  8 sd\n259 blkext\n",
    );
}

fn put_port(index: u32, port: &NetworkPort, machine: &Machine, tree: &mut Tree) {
    let device = match port.function.as_str() {
        "" => None,
        device => Some(folder(machine, device)),
    };
    let folder = match &device {
        Some(device) => format!("{device}/net/{}", port.name),
        None => format!("sys/devices/virtual/net/{}", port.name),
    };
    tree.link(format!("sys/class/net/{}", port.name), &format!("/{folder}"));
    if let Some(device) = &device {
        tree.link(format!("{folder}/device"), &format!("/{device}"));
        if !port.driver.is_empty() {
            let driver = format!("sys/bus/platform/drivers/{}", port.driver);
            tree.folder(&driver);
            tree.link(format!("{device}/driver"), &format!("/{driver}"));
        }
    }
    let counted = u64::from(index) * 1_000_003;
    let state = if port.up { "up" } else { "down" };
    for (name, value) in [
        ("type", "1".into()),
        ("address", port.mac.clone()),
        ("addr_assign_type", "0".into()),
        ("ifindex", index.to_string()),
        ("dev_port", port.port.to_string()),
        ("mtu", port.mtu.to_string()),
        ("operstate", state.into()),
        ("carrier_changes", "2".into()),
        ("statistics/rx_bytes", (counted * 977).to_string()),
        ("statistics/tx_bytes", (counted * 311).to_string()),
        ("statistics/rx_packets", counted.to_string()),
        ("statistics/tx_packets", (counted / 2).to_string()),
        ("statistics/rx_errors", port.errors.to_string()),
        ("statistics/tx_errors", "0".into()),
        ("statistics/rx_dropped", "0".into()),
        ("statistics/tx_dropped", "0".into()),
    ] {
        tree.line(format!("{folder}/{name}"), value);
    }
    tree.folder(format!("{folder}/queues/rx-0"));
    tree.folder(format!("{folder}/queues/tx-0"));
    if port.up {
        tree.line(format!("{folder}/carrier"), 1);
        tree.line(format!("{folder}/speed"), port.mbps);
        tree.line(format!("{folder}/duplex"), "full");
    }
    if !port.members.is_empty() {
        tree.line(format!("{folder}/bonding/mode"), "active-backup 1");
        for name in &port.members {
            let member = machine.ports.iter().find(|other| &other.name == name);
            if let Some(member) = member {
                let below = format!("{}/net/{name}", self::folder(machine, &member.function));
                tree.link(format!("{folder}/lower_{name}"), &format!("/{below}"));
                tree.link(format!("{below}/master"), &format!("/{folder}"));
                tree.line(format!("{below}/bonding_slave/perm_hwaddr"), &member.mac);
            }
        }
    }
}

fn loopback(tree: &mut Tree) {
    let folder = "sys/devices/virtual/net/lo";
    tree.link("sys/class/net/lo", &format!("/{folder}"));
    for (name, value) in [
        ("type", "772"),
        ("address", "00:00:00:00:00:00"),
        ("addr_assign_type", "0"),
        ("mtu", "65536"),
        ("operstate", "unknown"),
    ] {
        tree.line(format!("{folder}/{name}"), value);
    }
    tree.folder(format!("{folder}/queues/rx-0"));
    tree.folder(format!("{folder}/queues/tx-0"));
}

fn addresses(machine: &Machine, tree: &mut Tree) {
    let mut trie = String::from("Local:\n  |-- 127.0.0.1\n     /32 host LOCAL\n");
    let mut routes = String::from(
        "Iface\tDestination\tGateway\tFlags\tRefCnt\tUse\tMetric\tMask\tMTU\tWindow\tIRTT\n",
    );
    for port in &machine.ports {
        let Some((address, prefix)) = port.ipv4.split_once('/') else { continue };
        let (Ok(own), Ok(prefix)) = (address.parse::<std::net::Ipv4Addr>(), prefix.parse::<u32>())
        else {
            continue;
        };
        let mask = u32::MAX.checked_shl(32 - prefix).unwrap_or(0);
        let raw = |bits: u32| format!("{:08X}", bits.swap_bytes());
        // Writing to a string cannot fail.
        let _ = write!(trie, "  |-- {own}\n     /32 host LOCAL\n");
        if let Ok(gateway) = port.gateway.parse::<std::net::Ipv4Addr>() {
            let _ = writeln!(
                routes,
                "{}\t00000000\t{}\t0003\t0\t0\t100\t00000000\t0\t0\t0",
                port.name,
                raw(gateway.to_bits())
            );
        }
        let _ = writeln!(
            routes,
            "{}\t{}\t00000000\t0001\t0\t0\t100\t{}\t0\t0\t0",
            port.name,
            raw(own.to_bits() & mask),
            raw(mask)
        );
    }
    tree.file("proc/net/fib_trie", trie);
    tree.file("proc/net/route", routes);
    tree.file("proc/net/if_inet6", "00000000000000000000000000000001 01 80 10 80       lo\n");
    tree.file("proc/net/ipv6_route", "");
    tree.file("etc/resolv.conf", "nameserver 192.0.2.53\nsearch scts.example\n");
}

fn put_usb(machine: &Machine, device: &UsbDevice, tree: &mut Tree) {
    let folder = format!("{}/{}", folder(machine, &device.controller), device.tree);
    tree.link(format!("sys/bus/usb/devices/{}", device.path), &format!("/{folder}"));
    let [vendor, product] = device.ids;
    for (name, value) in [
        ("idVendor", format!("{vendor:04x}")),
        ("idProduct", format!("{product:04x}")),
        ("manufacturer", device.maker.clone()),
        ("product", device.name.clone()),
        ("serial", device.serial.clone()),
        ("bDeviceClass", format!("{:02x}", device.class)),
        ("speed", device.mbps.to_string()),
        ("version", " 2.00".into()),
        ("bMaxPower", "100mA".into()),
        ("maxchild", device.ports.to_string()),
        ("removable", "removable".into()),
    ] {
        if !value.is_empty() {
            tree.line(format!("{folder}/{name}"), value);
        }
    }
    let own = device.path.replace("usb", "") + if device.ports > 0 { "-0:1.0" } else { ":1.0" };
    let interface = format!("{folder}/{own}");
    tree.line(format!("{interface}/bInterfaceNumber"), "00");
    tree.line(format!("{interface}/bInterfaceClass"), format!("{:02x}", device.interface));
    if !device.driver.is_empty() {
        let driver = format!("sys/bus/usb/drivers/{}", device.driver);
        tree.folder(&driver);
        tree.link(format!("{interface}/driver"), &format!("/{driver}"));
    }
}

fn put_chip(number: usize, chip: &Chip, tree: &mut Tree) {
    let folder = format!("sys/devices/{}/hwmon/hwmon{number}", chip.device);
    tree.link(format!("sys/class/hwmon/hwmon{number}"), &format!("/{folder}"));
    tree.line(format!("{folder}/name"), &chip.name);
    for (channel, label, value, limits) in &chip.channels {
        tree.line(format!("{folder}/{channel}_input"), value);
        if !label.is_empty() {
            tree.line(format!("{folder}/{channel}_label"), label);
        }
        for (limit, value) in limits {
            tree.line(format!("{folder}/{channel}_{limit}"), value);
        }
    }
}

/// A base block of EDID with a timing of 1920 by 1080.
fn put_monitor(gpu: &Gpu, monitor: &Monitor, tree: &mut Tree) {
    let folder = format!("sys/devices/pci0000:00/{}/drm/card0", gpu.address);
    tree.link("sys/class/drm/card0", &format!("/{folder}"));
    tree.link(format!("{folder}/device"), &format!("/sys/devices/pci0000:00/{}", gpu.address));
    for (connector, status) in
        [(monitor.connector.as_str(), "connected"), ("VGA-2", "disconnected")]
    {
        let own = format!("{folder}/card0-{connector}");
        tree.link(format!("sys/class/drm/card0-{connector}"), &format!("/{own}"));
        tree.line(format!("{own}/status"), status);
        let edid = if status == "connected" { edid(monitor) } else { Vec::new() };
        tree.file(format!("{own}/edid"), edid);
    }
}

fn edid(monitor: &Monitor) -> Vec<u8> {
    let mut block = vec![0u8; 127];
    let mut put = |at: usize, bytes: &[u8]| {
        for (slot, byte) in block.iter_mut().skip(at).zip(bytes) {
            *slot = *byte;
        }
    };
    put(0, &[0, 0xFF, 0xFF, 0xFF, 0xFF, 0xFF, 0xFF, 0]);
    let letters = monitor.maker.bytes().fold(0u16, |sum, letter| {
        sum << 5 | u16::from(letter.saturating_sub(b'A').saturating_add(1) & 0x1F)
    });
    put(8, &letters.to_be_bytes());
    put(10, &[0x40, 0x17]);
    put(16, &[12, 34, 1, 4, 0xA5, 53, 30, 120]);
    put(
        54,
        &[0x02, 0x3A, 0x80, 0x18, 0x71, 0x38, 0x2D, 0x40, 0x58, 0x2C, 0x45, 0, 0, 0, 0, 0, 0, 0x1E],
    );
    let text = |tag: u8, text: &str| {
        let mut descriptor = vec![0, 0, 0, tag, 0];
        descriptor.extend(format!("{text:<12}").bytes().take(12));
        descriptor.push(b'\n');
        descriptor
    };
    put(72, &text(0xFC, &monitor.name));
    put(90, &text(0xFF, &monitor.serial));
    let sum = block.iter().fold(0u8, |sum, byte| sum.wrapping_add(*byte));
    block.push(0u8.wrapping_sub(sum));
    block
}

/// A serial port and a clock, as every server has them.
fn others(tree: &mut Tree) {
    let port = "sys/devices/pnp0/00:05/tty/ttyS0";
    tree.link("sys/class/tty/ttyS0", &format!("/{port}"));
    tree.line(format!("{port}/type"), 4);
    tree.link(format!("{port}/device"), "/sys/devices/pnp0/00:05");
    tree.folder("sys/bus/pnp/drivers/serial");
    tree.link("sys/devices/pnp0/00:05/driver", "/sys/bus/pnp/drivers/serial");
    let clock = "sys/devices/pnp0/00:01/rtc/rtc0";
    tree.link("sys/class/rtc/rtc0", &format!("/{clock}"));
    tree.line(format!("{clock}/name"), "rtc_cmos 00:01");
    tree.link(format!("{clock}/device"), "/sys/devices/pnp0/00:01");
}
