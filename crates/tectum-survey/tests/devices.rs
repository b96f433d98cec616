//! PCI, USB, network, drivers, sensors, supplies and other devices: recorded machines against what
//! they were built from, and hand-made corners.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

mod support;

use rstest::rstest;
use serde_json::{Value, json};
use support::{changed, demo_with, json as of_report, look, recorded, truth};
use tectum_demo::Tree;
use tectum_report::compare::{Scope, What, compare};

fn with(change: impl FnOnce(&mut Tree)) -> Value {
    of_report(&look(demo_with("gannet-before", change).path()))
}

fn list(value: &Value) -> &Vec<Value> {
    value.as_array().unwrap_or_else(|| panic!("no list: {value}"))
}

#[track_caller]
fn one<'a>(all: &'a Value, field: &str, value: &str) -> &'a Value {
    list(all).iter().find(|one| one[field] == value).unwrap_or_else(|| panic!("no {value}"))
}

#[rstest]
#[case("rack-2s")]
#[case("cloud-small")]
#[case("arm-server")]
#[case("arm-board")]
fn recorded_machines_have_the_devices_that_they_were_built_with(#[case] name: &str) {
    let report = of_report(&look(recorded(name).path()));
    let (inventory, truth) = (&report["inventory"], truth(name));
    if truth["pci"]["functions"] != 0 {
        let functions = &inventory["pci"]["functions"];
        assert_eq!(list(functions).len() as u64, truth["pci"]["functions"].as_u64().unwrap());
        for expected in list(&truth["pci"]["list"]) {
            let found = one(functions, "address", expected["address"].as_str().unwrap());
            assert_eq!(found["vendor_id"], expected["vendor"]);
            assert_eq!(found["device_id"], expected["device"]);
            assert_eq!(found["class_id"], expected["cls"]);
            // What the kernel bound at its boot; the list says what it is bound to at last.
            if !expected["driver"].is_null() {
                assert_eq!(found["driver"], expected["driver"], "{found}");
                assert_eq!(found["driver_state"], "bound");
            }
            // One that sleeps is not woken to be read.
            assert_eq!(found["capabilities"].is_array(), found["header"].is_string());
        }
    }
    for gpu in list(&truth["gpus"]) {
        let address = format!("pci {}", gpu["address"].as_str().unwrap());
        let found = one(&inventory["gpu"]["devices"], "address", &address);
        assert_eq!(found["vendor_id"], gpu["vendor"]);
    }
    let interfaces = &inventory["network"]["interfaces"];
    for nic in list(&truth["nics"]) {
        let found = one(interfaces, "mac", nic["mac"].as_str().unwrap());
        assert_eq!((&found["name"], &found["driver"]), (&nic["name"], &nic["driver"]));
        assert_eq!(found["physical"], true);
        assert_eq!(found["permanent_mac"], nic["mac"]);
        if let Some(pci) = nic["pci"].as_str() {
            assert_eq!(found["parent"], format!("pci {pci}"));
        }
        if nic["mtu"].is_u64() {
            assert_eq!(found["mtu"], nic["mtu"]);
        }
        let now = one(
            &report["readings"]["network"]["interfaces"],
            "name",
            found["name"].as_str().unwrap(),
        );
        assert_eq!(now["state"] == "up", nic["up"] == true);
    }
    assert_eq!(list(interfaces).len(), list(&truth["nics"]).len() + 1, "and the loopback");
    for expected in truth["usb"].as_array().into_iter().flatten() {
        let devices = list(&inventory["usb"]["devices"]);
        let found = devices.iter().find(|device| {
            device["vendor_id"] == expected["vendor"] && device["product_id"] == expected["product"]
        });
        let found = found.unwrap_or_else(|| panic!("no {expected}"));
        assert!(
            found["path"]
                .as_str()
                .unwrap()
                .ends_with(&format!("-{}", expected["port"].as_str().unwrap()))
        );
        if !expected["serial"].is_null() {
            assert_eq!(found["serial"], expected["serial"]);
        }
    }
    if let Some(driver) = truth["watchdog"]["driver"].as_str() {
        let devices = list(&inventory["peripherals"]["devices"]);
        assert!(devices.iter().any(|it| it["kind"] == "watchdog" && it["description"] == driver));
    }
}

#[test]
fn a_recorded_machine_tells_its_addresses_displays_and_temperatures() {
    let report = of_report(&look(recorded("rack-2s").path()));
    let inventory = &report["inventory"];
    let address = one(&inventory["network"]["addresses"], "address", "10.0.2.15");
    assert_eq!((&address["interface"], &address["prefix_length"]), (&json!("enp0s5"), &json!(24)));
    let default = one(&inventory["network"]["routes"], "destination", "0.0.0.0");
    assert_eq!((&default["gateway"], &default["prefix_length"]), (&json!("10.0.2.2"), &json!(0)));
    let connector = &inventory["gpu"]["devices"][0]["connectors"][0];
    assert_eq!(
        (&connector["name"], &connector["status"]),
        (&json!("Virtual-1"), &json!("connected"))
    );
    let display = &connector["display"][0];
    assert_eq!(
        (&display["maker_id"], &display["preferred_mode"]),
        (&json!("RHT"), &json!("1280 × 800 at 74.99 Hz"))
    );
    assert!(display["serial"].is_null(), "a number of 0 is none");
    assert_eq!(inventory["sensors"]["chips"][0]["channels"][0]["label"], "Composite");
    assert_eq!(report["readings"]["sensors"]["channels"][0]["value"], 49850);
    let module = one(&inventory["drivers"]["modules"], "name", "dm_mod");
    assert_eq!(
        (&module["size_bytes"], &module["used_by"]),
        (&json!(184_320), &json!(["dm_crypt"]))
    );
    let driver = one(&inventory["drivers"]["in_use"], "name", "nvme");
    assert_eq!(driver["devices"], json!(["0000:01:00.0", "0000:02:00.0"]));
}

const FUNCTION: &str = "sys/bus/pci/devices/0000:07:00.0";

/// A function without a driver.
fn function(tree: &mut Tree, alias: &str) {
    tree.line(format!("{FUNCTION}/class"), "0x020000");
    tree.line(format!("{FUNCTION}/vendor"), "0xf5c7");
    tree.line(format!("{FUNCTION}/device"), "0x0300");
    tree.line(format!("{FUNCTION}/modalias"), alias);
}

const ALIAS: &str = "pci:v0000F5C7d00000300sv00000000sd00000000bc02sc00i00";

#[rstest]
#[case(Some("alias pci:v0000F5C7d*sv*sd*bc02sc*i* tide-net\n"), false, json!("module-not-loaded"))]
#[case(Some("alias pci:v0000F5C7d*sv*sd*bc02sc*i* tide-net\n"), true, json!("module-loaded-but-not-bound"))]
#[case(Some("alias pci:v00001234d*sv*sd*bc02sc*i* other\n"), true, json!("no-module-known"))]
#[case(None, true, Value::Null)]
fn why_a_device_has_no_driver(
    #[case] aliases: Option<&str>,
    #[case] loaded: bool,
    #[case] state: Value,
) {
    let report = with(|tree| {
        function(tree, ALIAS);
        tree.line("proc/sys/kernel/osrelease", "6.12.1-skerry");
        tree.remove("lib/modules/6.12.1-skerry/modules.alias");
        if let Some(aliases) = aliases {
            tree.file("lib/modules/6.12.1-skerry/modules.alias", aliases);
        }
        tree.folder("sys/module/ext4");
        if loaded {
            tree.folder("sys/module/tide_net");
        }
    });
    let found = one(&report["inventory"]["pci"]["functions"], "address", "0000:07:00.0");
    assert_eq!(found["driver_state"], state);
    assert!(found["driver"].is_null());
    if state == "module-not-loaded" {
        assert_eq!(found["modules"], json!(["tide_net"]), "as /sys/module writes it");
    }
}

#[test]
fn capabilities_that_only_root_sees_are_a_gap_that_says_so() {
    let mut space = vec![0u8; 64];
    space[6] = 0x10;
    space[0x34] = 0x40;
    let report = with(|tree| {
        function(tree, ALIAS);
        tree.file(format!("{FUNCTION}/config"), space);
    });
    let functions = list(&report["inventory"]["pci"]["functions"]);
    let at = functions.iter().position(|it| it["address"] == "0000:07:00.0").unwrap();
    assert_eq!(functions[at]["header"], "device");
    let pointer = format!("/inventory/pci/functions/{at}/capabilities");
    let gap = list(&report["gaps"]).iter().find(|gap| gap["at"] == json!(pointer)).unwrap();
    assert_eq!((&gap["why"], &gap["hint"]), (&json!("permission"), &json!("root-can-read")));
}

#[test]
fn a_function_that_sleeps_is_not_woken() {
    let report = with(|tree| {
        function(tree, ALIAS);
        tree.file(format!("{FUNCTION}/config"), vec![0u8; 256]);
        tree.line(format!("{FUNCTION}/power/runtime_status"), "suspended");
    });
    let found = one(&report["inventory"]["pci"]["functions"], "address", "0000:07:00.0");
    assert!(found["header"].is_null());
    let read = |path: &str| list(&report["sources"]).iter().any(|it| it["path"] == path);
    assert!(!read(&format!("/{FUNCTION}/config")));
}

#[test]
fn a_card_that_sleeps_is_not_asked_how_warm_it_is() {
    let report = with(|tree| {
        let card = "sys/devices/pci0000:00/0000:63:00.0";
        tree.line(format!("{card}/power/runtime_status"), "suspended");
        tree.line(format!("{card}/gpu_busy_percent"), 0);
        tree.line(format!("{card}/hwmon/hwmon5/temp1_input"), 40_000);
        tree.link("sys/class/hwmon/hwmon5", &format!("/{card}/hwmon/hwmon5"));
        tree.link(format!("{card}/hwmon/hwmon5/device"), &format!("/{card}"));
    });
    let sources = report["sources"].to_string();
    for asked in ["hwmon5/temp1_input", "0000:63:00.0/gpu_busy_percent"] {
        let at = sources.find(asked).map(|at| &sources[at.saturating_sub(90)..at + 90]);
        assert_eq!(at, None);
    }
    let mut channels = list(&report["readings"]["sensors"]["channels"]).iter();
    assert!(channels.any(|it| it["device"] == "pci 0000:63:00.0" && it["value"].is_null()));
}

#[test]
fn the_systems_own_list_of_ids_wins_where_it_is_newer() {
    let list_of = |version: &str| {
        format!("#\tVersion: {version}\nf5c7  Fathom Displays\n\t0300  FN-300 tide link\n")
    };
    let name = |version: &str| {
        let report = with(|tree| {
            function(tree, ALIAS);
            tree.file("usr/share/misc/pci.ids", list_of(version));
        });
        let pci = &report["inventory"]["pci"];
        (
            one(&pci["functions"], "address", "0000:07:00.0")["device"].clone(),
            pci["id_list_version"].clone(),
        )
    };
    let (newer, by) = name("2099.01.01");
    assert_eq!(newer, "FN-300 tide link");
    assert_eq!(by, "/usr/share/misc/pci.ids of 2099.01.01");
    assert!(name("2001.01.01").0.is_null(), "an older one is not asked");
}

#[test]
fn slots_links_virtual_functions_and_groups() {
    let report = with(|tree| {
        function(tree, ALIAS);
        tree.line("sys/bus/pci/slots/12/address", "0000:07:00");
        for (file, value) in [
            ("max_link_speed", "16.0 GT/s PCIe"),
            ("max_link_width", "8"),
            ("current_link_speed", "8.0 GT/s PCIe"),
            ("current_link_width", "4"),
            ("sriov_totalvfs", "64"),
            ("sriov_numvfs", "2"),
            ("numa_node", "1"),
            ("label", "Onboard LAN 1"),
            ("irq", "0"),
        ] {
            tree.line(format!("{FUNCTION}/{file}"), value);
        }
        tree.folder("sys/kernel/iommu_groups/17");
        tree.link(format!("{FUNCTION}/iommu_group"), "/sys/kernel/iommu_groups/17");
        tree.folder(format!("{FUNCTION}/msi_irqs/40"));
        tree.folder(format!("{FUNCTION}/msi_irqs/41"));
    });
    let found = one(&report["inventory"]["pci"]["functions"], "address", "0000:07:00.0");
    for (field, value) in [
        ("slot", json!("12")),
        ("max_link_speed_mts", json!(16_000)),
        ("max_link_lanes", json!(8)),
        ("max_virtual_functions", json!(64)),
        ("virtual_functions", json!(2)),
        ("numa_node", json!(1)),
        ("firmware_label", json!("Onboard LAN 1")),
        ("iommu_group", json!(17)),
        ("irq", Value::Null),
    ] {
        assert_eq!(found[field], value, "{field}");
    }
    let now = one(&report["readings"]["pci"]["functions"], "address", "0000:07:00.0");
    assert_eq!((&now["link_lanes"], &now["interrupt_vectors"]), (&json!(4), &json!(2)));
}

#[test]
fn what_is_pulled_out_while_it_is_read_costs_nothing_else() {
    let report = with(|tree| {
        tree.link("sys/bus/pci/devices/0000:08:00.0", "/sys/devices/pci0000:00/gone");
        tree.folder("sys/bus/pci/devices/0000:09:00.0");
        tree.link("sys/bus/usb/devices/3-1", "/sys/devices/gone");
        tree.link("sys/class/net/eth9", "/sys/devices/gone");
        tree.link("sys/class/hwmon/hwmon9", "/sys/devices/gone");
        tree.link("sys/class/rtc/rtc9", "/sys/devices/gone");
        function(tree, ALIAS);
    });
    let inventory = &report["inventory"];
    let functions = list(&inventory["pci"]["functions"]);
    assert!(functions.iter().any(|it| it["address"] == "0000:07:00.0"));
    assert!(
        functions
            .iter()
            .all(|it| it["address"] != "0000:08:00.0" && it["address"] != "0000:09:00.0")
    );
    assert!(list(&inventory["usb"]["devices"]).iter().all(|it| it["path"] != "3-1"));
    assert!(list(&inventory["network"]["interfaces"]).iter().all(|it| it["name"] != "eth9"));
    assert!(list(&inventory["peripherals"]["devices"]).iter().all(|it| it["name"] != "rtc9"));
}

fn interface(tree: &mut Tree, name: &str, device: Option<&str>, files: &[(&str, &str)]) {
    let folder = match device {
        Some(device) => format!("{device}/net/{name}"),
        None => format!("sys/devices/virtual/net/{name}"),
    };
    tree.link(format!("sys/class/net/{name}"), &format!("/{folder}"));
    if let Some(device) = device {
        tree.link(format!("{folder}/device"), &format!("/{device}"));
    }
    tree.line(format!("{folder}/type"), 1);
    for (file, value) in files {
        tree.line(format!("{folder}/{file}"), value);
    }
}

fn network(tree: &mut Tree) {
    let nic = "sys/devices/pci0000:00/0000:19:00.0";
    interface(
        tree,
        "port0",
        Some(nic),
        &[
            ("address", "02:00:00:00:00:aa"),
            ("addr_assign_type", "3"),
            ("dev_port", "0"),
            ("bonding_slave/perm_hwaddr", "02:11:22:33:44:01"),
            ("ifindex", "2"),
        ],
    );
    interface(
        tree,
        "port1",
        Some(nic),
        &[("address", "02:11:22:33:44:02"), ("addr_assign_type", "0"), ("dev_port", "1")],
    );
    interface(
        tree,
        "bond7",
        None,
        &[("bonding/mode", "802.3ad 4"), ("address", "02:00:00:00:00:aa")],
    );
    tree.link(
        "sys/devices/pci0000:00/0000:19:00.0/net/port0/master",
        "/sys/devices/virtual/net/bond7",
    );
    tree.link(
        "sys/devices/virtual/net/bond7/lower_port0",
        "/sys/devices/pci0000:00/0000:19:00.0/net/port0",
    );
    interface(tree, "bond7.40", None, &[("uevent", "DEVTYPE=vlan")]);
    tree.file(
        "proc/net/vlan/bond7.40",
        "bond7.40  VID: 40\t REORDER_HDR: 1  dev->priv_flags: 1\nDevice: bond7\n",
    );
    interface(tree, "veth8", None, &[("ifindex", "8"), ("iflink", "2")]);
    interface(tree, "br0", None, &[("bridge/stp_state", "0")]);
    interface(tree, "tun3", None, &[("tun_flags", "0x1001")]);
    interface(tree, "wl0", Some("sys/devices/pci0000:00/0000:18:00.0"), &[("phy80211/index", "0")]);
    tree.file("run/udev/data/n2", "E:ID_NET_NAME_ONBOARD=eno1\nE:ID_NET_NAME_PATH=enp23s0f0\nE:ID_NET_NAME_MAC=enx021122334401\n");
    tree.file(
        "proc/net/fib_trie",
        "Local:\n  |-- 192.0.2.20\n     /32 host LOCAL\n  |-- 198.51.100.9\n     /32 host LOCAL\n",
    );
    tree.file(
        "proc/net/route",
        "Iface\tDestination\tGateway\tFlags\tRefCnt\tUse\tMetric\tMask\n\
        bond7.40\t000200C0\t00000000\t0001\t0\t0\t0\tF0FFFFFF\n\
        bond7.40\t100200C0\t00000000\t0001\t0\t0\t0\tF0FFFFFF\n",
    );
    tree.file("etc/resolv.conf", "nameserver 192.0.2.53\nsearch tide.example\n");
}

#[test]
fn ports_bonds_bridges_and_vlans_are_told_apart() {
    let report = with(network);
    let network = &report["inventory"]["network"];
    let passing = &report["readings"]["network"]["transient_interfaces"];
    let of = |name: &str| {
        let list = if ["tun3", "veth8"].contains(&name) { passing } else { &network["interfaces"] };
        one(list, "name", name)
    };
    assert_eq!(of("veth8")["kind"], "pair", "a container's, which comes and goes");
    let kinds =
        ["port0", "bond7", "bond7.40", "br0", "tun3", "wl0"].map(|name| of(name)["kind"].clone());
    assert_eq!(json!(kinds), json!(["ethernet", "bond", "vlan", "bridge", "tap", "wireless"]));
    assert_eq!(of("port0")["permanent_mac"], "02:11:22:33:44:01", "bonding keeps it");
    assert_eq!(of("port0")["mac_origin"], "set");
    assert_eq!(
        (&of("port0")["upper"], &of("bond7")["members"]),
        (&json!("bond7"), &json!(["port0"]))
    );
    assert_eq!(
        (&of("bond7.40")["vlan"], &of("bond7")["bond_mode"]),
        (&json!(40), &json!("802.3ad"))
    );
    assert_eq!(
        of("port0")["alternative_names"],
        json!(["eno1", "enp23s0f0"]),
        "none made of the MAC"
    );
    let physical: Vec<bool> =
        list(&network["interfaces"]).iter().map(|it| it["physical"] == true).collect();
    assert!(physical.is_sorted_by(|a, b| a >= b), "hardware first: {physical:?}");
    let address = one(&network["addresses"], "address", "192.0.2.20");
    assert_eq!(
        (&address["interface"], &address["prefix_length"]),
        (&json!("bond7.40"), &json!(28))
    );
    assert!(one(&network["addresses"], "address", "198.51.100.9")["interface"].is_null());
    assert_eq!(network["name_servers"][0]["address"], "192.0.2.53");
    assert_eq!(network["search_domains"][0]["domain"], "tide.example");
}

#[test]
fn a_port_is_itself_in_another_slot_and_by_another_name() {
    let nic = |tree: &mut Tree, address: &str, name: &str| {
        interface(
            tree,
            name,
            Some(&format!("sys/devices/pci0000:00/{address}")),
            &[("address", "02:11:22:33:44:07"), ("addr_assign_type", "0"), ("dev_port", "0")],
        );
    };
    let before = look(demo_with("gannet-before", |tree| nic(tree, "0000:20:00.0", "eth0")).path());
    let moved = look(demo_with("gannet-before", |tree| nic(tree, "0000:21:00.0", "eth3")).path());
    let renamed = look(demo_with("gannet-before", |tree| nic(tree, "0000:20:00.0", "eth3")).path());
    let of_ports = |after| {
        let all = compare(&before, after, Scope::Inventory).changes;
        all.into_iter().filter(|it| it.part == "network interface").collect::<Vec<_>>()
    };
    assert_eq!(of_ports(&moved).iter().map(|it| it.what).collect::<Vec<_>>(), [What::Moved]);
    assert_eq!(of_ports(&renamed), []);
}

#[test]
fn sensors_zones_supplies_and_caps() {
    let report = with(|tree| {
        let chip = "sys/devices/platform/mt6150.656/hwmon/hwmon3";
        tree.link("sys/class/hwmon/hwmon3", &format!("/{chip}"));
        for (file, value) in [
            ("name", "mt6150"),
            ("temp1_input", "41500"),
            ("temp1_label", "CPU 1"),
            ("temp1_crit", "95000"),
            ("temp1_alarm", "0"),
            ("fan2_input", "0"),
            ("fan2_min", "600"),
            ("fan2_alarm", "1"),
            ("in0_input", "1208"),
        ] {
            tree.line(format!("{chip}/{file}"), value);
        }
        let zone = "sys/class/thermal/thermal_zone0";
        for (file, value) in [
            ("type", "acpitz"),
            ("temp", "36000"),
            ("trip_point_0_type", "passive"),
            ("trip_point_1_type", "critical"),
            ("trip_point_1_temp", "105000"),
            ("policy", "step_wise"),
        ] {
            tree.line(format!("{zone}/{file}"), value);
        }
        for (file, value) in [
            ("name", "package-0"),
            ("enabled", "1"),
            ("energy_uj", "123456"),
            ("constraint_0_power_limit_uw", "125000000"),
        ] {
            tree.line(format!("sys/class/powercap/capped-energy:0/{file}"), value);
        }
        tree.folder("sys/class/powercap/capped-energy");
        for (file, value) in [
            ("type", "Battery"),
            ("present", "1"),
            ("status", "Discharging"),
            ("capacity", "81"),
            ("serial_number", "MB-00417"),
            ("energy_full", "45000000"),
            ("energy_full_design", "50000000"),
            ("cycle_count", "112"),
            ("manufacturer", "Marram"),
        ] {
            tree.line(format!("sys/class/power_supply/BAT0/{file}"), value);
        }
        tree.line("sys/class/power_supply/AC/online", 0);
    });
    let (inventory, readings) = (&report["inventory"], &report["readings"]);
    let chip = one(&inventory["sensors"]["chips"], "name", "mt6150");
    assert_eq!((&chip["name"], &chip["device"]), (&json!("mt6150"), &json!("platform mt6150.656")));
    assert_eq!(
        (&chip["channels"][0]["label"], &chip["channels"][0]["critical"]),
        (&json!("CPU 1"), &json!(95000))
    );
    let mut channels = list(&readings["sensors"]["channels"]).iter();
    let fan = channels.find(|it| it["channel"] == "fan2" && it["chip"] == "mt6150").unwrap();
    assert_eq!((&fan["value"], &fan["alarm"]), (&json!(0), &json!(true)));
    assert_eq!(inventory["sensors"]["zones"][0]["critical_millicelsius"], 105_000);
    assert_eq!(inventory["sensors"]["power_zones"][0]["limit_microwatts"], 125_000_000);
    assert_eq!(readings["sensors"]["power_zones"][0]["energy_microjoules"], 123_456);
    let battery = one(&readings["power"]["supplies"], "name", "BAT0");
    assert_eq!(
        (&battery["health_percent_hundredths"], &battery["cycles"]),
        (&json!(9000), &json!(112))
    );
    assert_eq!(one(&inventory["power"]["supplies"], "name", "BAT0")["serial"], "MB-00417");
    assert_eq!(one(&readings["power"]["supplies"], "name", "AC")["online"], false);
}

#[test]
fn a_graphics_card_tells_what_its_driver_knows() {
    let card = "sys/devices/pci0000:00/0000:63:00.0";
    let report = with(|tree| {
        for (file, value) in [
            ("mem_info_vram_total", "17163091968"),
            ("mem_info_vram_used", "1048576"),
            ("vbios_version", "113-FATHOM-01"),
            ("unique_id", "f5c70a1b2c3d4e5f"),
            ("serial_number", "FC9-000417"),
            ("gpu_busy_percent", "7"),
            ("hwmon/hwmon5/temp1_input", "52000"),
            ("hwmon/hwmon5/power1_average", "38000000"),
            ("hwmon/hwmon5/fan1_input", "1200"),
            ("hwmon/hwmon5/freq1_input", "1500000000"),
            ("ras/umc_err_count", "ue: 1\nce: 12"),
            ("ras/gfx_err_count", "ue: 0\nce: none"),
            (
                "ras/gpu_vram_bad_pages",
                "0x00000001 : 0x00001000 : R\n0x00000002 : 0x00001000 : P\n0x00000003 : 0x00001000 : R",
            ),
            ("ras/features", "feature mask: 0x3"),
        ] {
            tree.line(format!("{card}/{file}"), value);
        }
        tree.file(
            "proc/driver/nvidia/gpus/0000:63:00.0/information",
            "Model: \t\t Fathom Compute 9\nGPU UUID: \t GPU-0a1b2c3d-1111-2222-3333-444455556666\nVideo BIOS: \t ??.??.??.??.??\n",
        );
        tree.file("proc/driver/nvidia/version", "NVRM version: Module  570.86.15  Thu\n");
    });
    let gpu = one(&report["inventory"]["gpu"]["devices"], "address", "pci 0000:63:00.0");
    for (field, value) in [
        ("memory_bytes", json!(17_163_091_968u64)),
        ("video_bios", json!("113-FATHOM-01")),
        ("unique_id", json!("f5c70a1b2c3d4e5f")),
        ("serial", json!("FC9-000417")),
        ("model", json!("Fathom Compute 9")),
        ("uuid", json!("GPU-0a1b2c3d-1111-2222-3333-444455556666")),
        ("driver_version", json!("570.86.15")),
    ] {
        assert_eq!(gpu[field], value, "{field}");
    }
    let now = one(&report["readings"]["gpu"]["devices"], "address", "pci 0000:63:00.0");
    assert_eq!(now["retired_pages"], 2);
    assert_eq!(
        now["error_counts"],
        json!([
            { "block": "gfx", "corrected": null, "uncorrected": 0 },
            { "block": "umc", "corrected": 12, "uncorrected": 1 },
        ])
    );
    assert_eq!(
        json!([
            now["temperature_millicelsius"],
            now["power_microwatts"],
            now["fan_rpm"],
            now["core_mhz"]
        ]),
        json!([52000, 38_000_000, 1200, 1500])
    );
}

#[test]
fn hubs_and_devices_hang_together() {
    let report = with(|tree| {
        let root = "sys/devices/pci0000:00/0000:00:14.0/usb3";
        let hub = format!("{root}/3-2");
        let key = format!("{hub}/3-2.4");
        for (path, folder) in [("usb3", root), ("3-2", &hub), ("3-2.4", &key)] {
            tree.link(format!("sys/bus/usb/devices/{path}"), &format!("/{folder}"));
            tree.line(format!("{folder}/idVendor"), "f5c8");
            tree.line(format!("{folder}/speed"), "1.5");
        }
        tree.line(format!("{hub}/maxchild"), 4);
        tree.line(format!("{hub}/bDeviceClass"), "09");
        tree.line(format!("{key}/serial"), "TK-0042");
        tree.line(format!("{key}/bMaxPower"), "98mA");
        tree.line(format!("{key}/3-2.4:1.0/bInterfaceClass"), "03");
    });
    let devices = &report["inventory"]["usb"]["devices"];
    let key = one(devices, "path", "3-2.4");
    assert_eq!(
        (&key["hub"], &key["max_power_ma"], &key["speed_kbps"]),
        (&json!("3-2"), &json!(98), &json!(1500))
    );
    assert_eq!(key["interfaces"][0]["class"], "Human Interface Device");
    assert_eq!(
        (&one(devices, "path", "3-2")["ports"], &one(devices, "path", "3-2")["hub"]),
        (&json!(4), &json!("usb3"))
    );
    assert_eq!(one(devices, "path", "usb3")["controller"], "pci 0000:00:14.0");
}

#[test]
fn a_bus_that_the_kernel_lacks_is_told_by_the_list_of_buses() {
    let report = with(|tree| tree.remove("sys/bus/usb"));
    assert_eq!(report["inventory"]["usb"]["devices"], json!([]));
    assert_eq!(report["evidence"]["/inventory/usb/devices"][0]["source"], "/sys/bus");
}

/// A virtual function sends through the port of another, and what stands for one in a switch is no port either: a machine
/// of two ports has two, however many of these there are.
#[rstest]
#[case::of_its_own(None, "p0", true)]
#[case::a_virtual_function(Some("0000:17:00.0"), "", false)]
#[case::what_stands_for_one(None, "pf0vf3", false)]
fn a_port_has_hardware_of_its_own(
    #[case] function_of: Option<&str>,
    #[case] port: &str,
    #[case] physical: bool,
) {
    let report = changed(|tree| {
        let device = "sys/devices/pci0000:17/0000:17:02.0";
        tree.line(format!("{device}/net/tern7/type"), 1);
        tree.line(format!("{device}/net/tern7/phys_port_name"), port);
        tree.link(format!("{device}/net/tern7/device"), &format!("/{device}"));
        tree.link("sys/class/net/tern7", &format!("/{device}/net/tern7"));
        if let Some(of) = function_of {
            tree.folder(format!("sys/devices/pci0000:17/{of}"));
            tree.link(format!("{device}/physfn"), &format!("/sys/devices/pci0000:17/{of}"));
        }
    });
    let all = list(&report["inventory"]["network"]["interfaces"]);
    let own = all.iter().find(|one| one["name"] == "tern7").unwrap();
    assert_eq!(own["physical"], physical, "{own}");
    assert_eq!(own["parent"], "pci 0000:17:02.0", "{own}");
}

/// What a battery of the machine's own says is its maker's word; one of a mouse may say what the mouse's user calls it.
#[rstest]
#[case("BAT1", "model", "given_name")]
#[case("hid-02:5c:a7:00:00:99-battery", "given_name", "model")]
fn a_battery_that_its_user_may_have_named(
    #[case] supply: &str,
    #[case] told: &str,
    #[case] not: &str,
) {
    let report = with(|tree| {
        tree.line(format!("sys/class/power_supply/{supply}/model_name"), "Anna's mouse");
    });
    let battery = one(&report["inventory"]["power"]["supplies"], "name", supply);
    assert_eq!((&battery[told], &battery[not]), (&json!("Anna's mouse"), &Value::Null));
}
