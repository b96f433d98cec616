//! Each rule on a report made for it: it fires where it should, is silent where all is well, and says so
//! where what it reads is missing.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

#[path = "support/judging.rs"]
mod judging;
#[path = "support/made.rs"]
mod made;

use std::collections::BTreeSet;

use judging::{judged, limits};
use made::{empty, gap_at, set};
use serde_json::{Value, json};
use tectum_report::{
    fact::{Gap, Why},
    finding::{Judgement, Limits, Severity, rules},
};

/// What a rule is tried on: facts that stand, one that decides, and what it is when something is odd and
/// when nothing is.
struct Case {
    rule: &'static str,
    stands: Vec<(&'static str, Value)>,
    decides: &'static str,
    odd: Value,
    well: Value,
}

fn case(
    rule: &'static str,
    stands: Vec<(&'static str, Value)>,
    decides: &'static str,
    odd: Value,
    well: Value,
) -> Case {
    Case { rule, stands, decides, odd, well }
}

fn cases() -> Vec<Case> {
    let bond = || {
        vec![
            ("/inventory/network/interfaces/0/name", json!("bond0")),
            ("/inventory/network/interfaces/0/kind", json!("bond")),
            ("/inventory/network/interfaces/0/members", json!(["a", "b"])),
            ("/inventory/network/interfaces/1/name", json!("a")),
            ("/inventory/network/interfaces/2/name", json!("b")),
            ("/readings/network/interfaces/0/name", json!("a")),
            ("/readings/network/interfaces/0/carrier", json!(true)),
            ("/readings/network/interfaces/0/speed_mbps", json!(25_000)),
            ("/readings/network/interfaces/1/name", json!("b")),
        ]
    };
    let port = || {
        vec![
            ("/inventory/network/interfaces/0/name", json!("eth0")),
            ("/inventory/network/interfaces/0/physical", json!(true)),
            ("/readings/network/interfaces/0/name", json!("eth0")),
        ]
    };
    let link = || {
        vec![
            ("/inventory/pci/functions/0/address", json!("0000:00:01.0")),
            ("/inventory/pci/functions/0/class_id", json!("060400")),
            ("/inventory/pci/functions/0/max_link_speed_mts", json!(16_000)),
            ("/inventory/pci/functions/0/max_link_lanes", json!(16)),
            ("/inventory/pci/functions/1/address", json!("0000:01:00.0")),
            ("/inventory/pci/functions/1/class_id", json!("020000")),
            ("/inventory/pci/functions/1/max_link_speed_mts", json!(16_000)),
            ("/inventory/pci/functions/1/max_link_lanes", json!(8)),
            ("/inventory/pci/functions/1/bridge", json!("0000:00:01.0")),
            ("/readings/pci/functions/0/address", json!("0000:01:00.0")),
            ("/readings/pci/functions/0/link_speed_mts", json!(16_000)),
        ]
    };
    let sensor = |limit: &'static str, at: i64| {
        vec![
            ("/inventory/sensors/chips/0/kernel_name", json!("hwmon0")),
            ("/inventory/sensors/chips/0/channels/0/channel", json!("temp1")),
            ("/inventory/sensors/chips/0/channels/0/kind", json!("temperature")),
            (limit, json!(at)),
            ("/readings/sensors/channels/0/kernel_name", json!("hwmon0")),
            ("/readings/sensors/channels/0/channel", json!("temp1")),
        ]
    };
    let supplies = || {
        vec![
            ("/inventory/platform/power_supplies/0/present", json!(true)),
            ("/inventory/platform/power_supplies/0/plugged_in", json!(true)),
            ("/inventory/platform/power_supplies/0/status", json!("OK")),
            ("/inventory/platform/power_supplies/0/max_watts", json!(800)),
            ("/inventory/platform/power_supplies/1/present", json!(true)),
            ("/inventory/platform/power_supplies/1/plugged_in", json!(true)),
            ("/inventory/platform/power_supplies/1/status", json!("OK")),
        ]
    };
    vec![
        case("cpus-offline", vec![], "/inventory/cpu/offline", json!([7]), json!([])),
        case(
            "cpus-differ",
            vec![("/inventory/cpu/architecture", json!("x86_64"))],
            "/inventory/cpu/all_alike",
            json!(false),
            json!(true),
        ),
        case(
            "microcode-differs",
            vec![],
            "/inventory/cpu/microcode",
            json!(["0x1", "0x2"]),
            json!(["0x1"]),
        ),
        case(
            "cpu-vulnerabilities-open",
            vec![("/inventory/cpu/vulnerabilities/0/name", json!("x"))],
            "/inventory/cpu/vulnerabilities/0/state",
            json!("KVM: Vulnerable"),
            json!("Mitigation: PTI"),
        ),
        case(
            "cpu-throttled",
            vec![("/readings/cpu/core_throttles", json!(0))],
            "/readings/cpu/package_throttles",
            json!(3),
            json!(0),
        ),
        case(
            "memory-module-below-rated-speed",
            vec![("/inventory/memory/modules/0/speed_mts", json!(3200))],
            "/inventory/memory/modules/0/configured_speed_mts",
            json!(2933),
            json!(3200),
        ),
        case(
            "memory-modules-mixed",
            vec![
                ("/inventory/memory/modules/0/size_bytes", json!(1u64 << 30)),
                ("/inventory/memory/modules/0/kind", json!("DDR5")),
                ("/inventory/memory/modules/0/speed_mts", json!(4800)),
                ("/inventory/memory/modules/1/kind", json!("DDR5")),
                ("/inventory/memory/modules/1/speed_mts", json!(4800)),
            ],
            "/inventory/memory/modules/1/size_bytes",
            json!(2u64 << 30),
            json!(1u64 << 30),
        ),
        case(
            "memory-channels-uneven",
            vec![
                ("/inventory/memory/slots/0/locator", json!("A1")),
                ("/inventory/memory/slots/0/channel", json!(1)),
                ("/inventory/memory/slots/1/locator", json!("B1")),
                ("/inventory/memory/slots/1/channel", json!(2)),
                ("/inventory/memory/modules/0/slot", json!("A1")),
                ("/inventory/memory/modules/0/size_bytes", json!(1u64 << 30)),
                ("/inventory/memory/modules/1/slot", json!("B1")),
            ],
            "/inventory/memory/modules/1/size_bytes",
            json!(2u64 << 30),
            json!(1u64 << 30),
        ),
        case(
            "memory-not-managed",
            vec![("/readings/memory/unmanaged_bytes", json!(32u64 << 30))],
            "/readings/memory/unmanaged_is",
            json!("more-than-expected"),
            json!("expected"),
        ),
        case(
            "memory-modules-not-all-told",
            vec![
                ("/readings/memory/total_bytes", json!(32u64 << 30)),
                ("/inventory/memory/installed_bytes", json!(16u64 << 30)),
            ],
            "/readings/memory/unmanaged_is",
            json!("less-than-nothing"),
            json!("expected"),
        ),
        case(
            "memory-module-not-used",
            vec![],
            "/inventory/memory/slots/0/state",
            json!("disabled"),
            json!("empty"),
        ),
        case(
            "memory-errors-uncorrected",
            vec![],
            "/readings/memory/ecc_counts/0/uncorrected",
            json!(1),
            json!(0),
        ),
        case(
            "memory-errors-corrected",
            vec![],
            "/readings/memory/ecc_counts/0/corrected",
            json!(1),
            json!(0),
        ),
        case(
            "memory-error-recorded",
            vec![],
            "/inventory/memory/modules/0/error",
            json!("Uncorrectable error"),
            json!("none"),
        ),
        case(
            "memory-blocks-offline",
            vec![],
            "/inventory/memory/blocks/offline",
            json!(2),
            json!(0),
        ),
        case(
            "pci-link-below-both-ends",
            link(),
            "/readings/pci/functions/0/link_lanes",
            json!(4),
            json!(8),
        ),
        case(
            "pci-function-without-driver",
            vec![("/inventory/pci/functions/0/class_id", json!("120000"))],
            "/inventory/pci/functions/0/driver_state",
            json!("no-module-known"),
            json!("bound"),
        ),
        case(
            "pci-driver-odd-one-out",
            (0..3)
                .flat_map(|at| {
                    let field = |name: &str| -> &'static str {
                        Box::leak(format!("/inventory/pci/functions/{at}/{name}").into_boxed_str())
                    };
                    [
                        (field("vendor_id"), json!("8086")),
                        (field("device_id"), json!("1572")),
                        (field("driver"), json!("i40e")),
                    ]
                })
                .collect(),
            "/inventory/pci/functions/1/driver",
            json!("vfio-pci"),
            json!("i40e"),
        ),
        case(
            "usb-interface-without-driver",
            vec![
                ("/inventory/usb/devices/0/path", json!("1-5")),
                ("/inventory/usb/devices/0/interfaces/0/number", json!(0)),
            ],
            "/inventory/usb/devices/0/interfaces/0/driver",
            Value::Null,
            json!("usbhid"),
        ),
        case(
            "network-port-without-carrier",
            port(),
            "/readings/network/interfaces/0/carrier",
            json!(false),
            json!(true),
        ),
        case(
            "network-port-half-duplex",
            port(),
            "/readings/network/interfaces/0/duplex",
            json!("half"),
            json!("full"),
        ),
        case(
            "network-port-errors",
            [port(), vec![("/readings/network/interfaces/0/transmit_errors", json!(0))]].concat(),
            "/readings/network/interfaces/0/receive_errors",
            json!(12),
            json!(0),
        ),
        case(
            "bond-short-of-members",
            bond(),
            "/readings/network/interfaces/1/carrier",
            json!(false),
            json!(true),
        ),
        case(
            "bond-members-of-unlike-speed",
            bond(),
            "/readings/network/interfaces/1/speed_mbps",
            json!(10_000),
            json!(25_000),
        ),
        case(
            "array-degraded",
            vec![("/inventory/storage/volumes/0/expected_members", json!(2))],
            "/inventory/storage/volumes/0/missing_members",
            json!(1),
            json!(0),
        ),
        case(
            "array-member-faulty",
            vec![("/inventory/storage/volumes/0/name", json!("md0"))],
            "/inventory/storage/volumes/0/members/0/state",
            json!("faulty"),
            json!("in_sync"),
        ),
        case(
            "array-rebuilding",
            vec![("/readings/storage/volumes/0/progress_percent_hundredths", json!(1250))],
            "/readings/storage/volumes/0/action",
            json!("recover"),
            json!("idle"),
        ),
        case(
            "disk-not-running",
            vec![],
            "/readings/storage/disks/0/state",
            json!("offline"),
            json!("running"),
        ),
        case(
            "disk-read-only",
            vec![("/inventory/storage/disks/0/removable", json!(false))],
            "/inventory/storage/disks/0/read_only",
            json!(true),
            json!(false),
        ),
        case(
            "disk-warm",
            vec![],
            "/readings/storage/disks/0/temperature_millicelsius",
            json!(61_000),
            json!(60_000),
        ),
        case(
            "partition-misaligned",
            vec![],
            "/inventory/storage/disks/0/partitions/0/aligned",
            json!(false),
            json!(true),
        ),
        case(
            "disk-space-in-no-partition",
            vec![
                ("/inventory/storage/disks/0/size_bytes", json!(100u64 << 30)),
                ("/inventory/storage/disks/0/partitions/0/number", json!(1)),
            ],
            "/inventory/storage/disks/0/unpartitioned_bytes",
            json!(6u64 << 30),
            json!(5u64 << 30),
        ),
        case(
            "filesystem-nearly-full",
            vec![("/readings/filesystems/usage/0/filesystem", json!("ext4"))],
            "/readings/filesystems/usage/0/used_percent_hundredths",
            json!(9000),
            json!(8999),
        ),
        case(
            "filesystem-inodes-nearly-used",
            vec![("/readings/filesystems/usage/0/inodes", json!(1000))],
            "/readings/filesystems/usage/0/inodes_used",
            json!(900),
            json!(899),
        ),
        case(
            "filesystem-errors-recorded",
            vec![],
            "/readings/filesystems/errors/0/errors",
            json!(1),
            json!(0),
        ),
        case(
            "filesystem-device-errors",
            ["missing", "write_errors", "read_errors", "flush_errors", "generation_errors"]
                .into_iter()
                .map(|name| -> (&'static str, Value) {
                    let at = format!("/readings/filesystems/member_errors/0/{name}");
                    let value = if name == "missing" { json!(false) } else { json!(0) };
                    (Box::leak(at.into_boxed_str()), value)
                })
                .collect(),
            "/readings/filesystems/member_errors/0/corruption_errors",
            json!(1),
            json!(0),
        ),
        case(
            "fstab-entry-not-mounted",
            vec![("/inventory/filesystems/fstab_entries/0/line", json!(7))],
            "/inventory/filesystems/fstab_entries/0/state",
            json!("not-mounted"),
            json!("mounted"),
        ),
        case(
            "disk-requests-failed",
            vec![("/readings/storage/disks/0/name", json!("sda"))],
            "/readings/storage/disks/0/errors",
            json!(212),
            json!(13),
        ),
        case(
            "mount-not-in-fstab",
            vec![
                ("/inventory/filesystems/fstab_entries/0/mount_point", json!("/srv/tides")),
                ("/inventory/filesystems/mounts/0/mount_point", json!("/srv/charts")),
                ("/inventory/filesystems/mounts/0/class", json!("local")),
            ],
            "/inventory/filesystems/mounts/0/in_fstab",
            json!(false),
            json!(true),
        ),
        case(
            "gpu-errors-uncorrected",
            vec![("/readings/gpu/devices/0/address", json!("pci 0000:63:00.0"))],
            "/readings/gpu/devices/0/error_counts/0/uncorrected",
            json!(1),
            json!(0),
        ),
        case(
            "gpu-errors-corrected",
            vec![("/readings/gpu/devices/0/address", json!("pci 0000:63:00.0"))],
            "/readings/gpu/devices/0/error_counts/0/corrected",
            json!(12),
            json!(0),
        ),
        case(
            "gpu-memory-retired",
            vec![("/readings/gpu/devices/0/address", json!("pci 0000:63:00.0"))],
            "/readings/gpu/devices/0/retired_pages",
            json!(3),
            json!(0),
        ),
        case(
            "firmware-old",
            vec![("/inventory/cpu/runs_on", json!("no-sign-of-a-hypervisor"))],
            "/inventory/firmware/release_date",
            json!("2019-01-31"),
            json!("2025-06-01"),
        ),
        case(
            "secure-boot-off",
            vec![("/inventory/firmware/kind", json!("uefi"))],
            "/inventory/firmware/secure_boot",
            json!(false),
            json!(true),
        ),
        case(
            "power-supply-fails",
            supplies(),
            "/inventory/platform/power_supplies/1/plugged_in",
            json!(false),
            json!(true),
        ),
        case(
            "power-supplies-unequal",
            supplies(),
            "/inventory/platform/power_supplies/1/max_watts",
            json!(550),
            json!(800),
        ),
        case(
            "chassis-state",
            vec![("/inventory/platform/chassis/0/power_supply_state", json!("Safe"))],
            "/inventory/platform/chassis/0/thermal_state",
            json!("Critical"),
            json!("Safe"),
        ),
        case(
            "probe-out-of-order",
            vec![],
            "/inventory/platform/cooling_devices/0/status",
            json!("Non-critical"),
            json!("OK"),
        ),
        case(
            "kernel-tainted",
            vec![],
            "/readings/os/taints",
            json!(["proprietary module"]),
            json!([]),
        ),
        case("kernel-oopsed", vec![], "/readings/os/oopses", json!(1), json!(0)),
        case(
            "newer-kernel-installed",
            vec![("/inventory/os/newest_kernel", json!("6.2"))],
            "/inventory/os/newer_kernel_installed",
            json!(true),
            json!(false),
        ),
        case(
            "release-out-of-support",
            vec![],
            "/inventory/os/support_end_date",
            json!("2026-05-31"),
            json!("2026-06-30"),
        ),
        case(
            "clock-source-slow",
            vec![("/inventory/os/architecture", json!("x86_64"))],
            "/inventory/os/clock_source",
            json!("hpet"),
            json!("tsc"),
        ),
        case(
            "time-zone-other",
            vec![],
            "/inventory/os/time_zone",
            json!("Atlantic/Faroe"),
            json!("Etc/UTC"),
        ),
        case(
            "sensor-beyond-critical",
            sensor("/inventory/sensors/chips/0/channels/0/critical", 90_000),
            "/readings/sensors/channels/0/value",
            json!(90_000),
            json!(89_999),
        ),
        case(
            "sensor-outside-limits",
            sensor("/inventory/sensors/chips/0/channels/0/max", 80_000),
            "/readings/sensors/channels/0/value",
            json!(80_001),
            json!(80_000),
        ),
        case(
            "battery-worn",
            vec![],
            "/readings/power/supplies/0/health_percent_hundredths",
            json!(7999),
            json!(8000),
        ),
    ]
}

#[test]
fn each_rule_fires_is_silent_and_says_what_it_cannot_judge() {
    for Case { rule, stands, decides, odd, well } in cases() {
        let with = |value: &Value| {
            let mut report = empty();
            stands.iter().for_each(|(at, value)| set(&mut report, at, value));
            set(&mut report, decides, value);
            report
        };
        let found = judged(&with(&odd), rule, &limits());
        assert!(!found.findings.is_empty(), "{rule} does not fire");
        for finding in &found.findings {
            assert_eq!(finding.by.id(), rule);
            assert!(!finding.says.is_empty() && !finding.label.is_empty(), "{rule}");
        }
        let silent = judged(&with(&well), rule, &limits());
        assert_eq!(silent.findings, [], "{rule} fires where all is well");
        let mut hidden = with(&well);
        gap_at(&mut hidden, decides, Gap::new(Why::Permission));
        let hidden = judged(&hidden, rule, &limits());
        assert!(
            hidden.not_judged.iter().any(|one| one.at == decides),
            "{rule} says nothing of {decides}: {:?}",
            hidden.not_judged
        );
        let mut off = limits();
        off.turn_off(rule).unwrap();
        assert_eq!(judged(&with(&odd), rule, &off), Judgement::default(), "{rule} is off");
    }
}

#[test]
fn every_rule_is_tried() {
    let own = [
        "cpu-counts-disagree",
        "restart-wanted",
        "firmware-tables-odd",
        "partitions-overlap",
        "filesystem-does-not-answer",
        "system-serial-is-a-filler",
        "tpm-not-there",
        "virtual-functions-without-iommu",
        "mounted-device-gone",
        // On recorded machines, and where several are checked.
        "sources-disagree",
        "identity-doubled",
    ];
    let tried: BTreeSet<&str> = cases().iter().map(|case| case.rule).chain(own).collect();
    let all: BTreeSet<&str> = rules().iter().map(|rule| rule.id).collect();
    assert_eq!(tried, all);
}

#[test]
fn of_a_report_that_knows_nothing_every_rule_says_so() {
    let nothing = Judgement::of(&empty(), &Limits::default());
    assert_eq!(nothing.findings, []);
    let silent = ["sources-disagree", "time-zone-other", "identity-doubled"];
    for asked in &nothing.asked {
        let said = nothing.not_judged.iter().any(|one| one.by == *asked);
        assert!(said || silent.contains(&asked.id()), "{} takes nothing for fine", asked.id());
    }
}

#[test]
fn of_very_many_the_first_are_told_and_the_rest_are_counted() {
    let mut report = empty();
    for at in 0..700 {
        set(&mut report, &format!("/readings/memory/ecc_counts/{at}/uncorrected"), &json!(1));
    }
    let found = judged(&report, "memory-errors-uncorrected", &limits()).findings;
    assert_eq!(found.len(), 501);
    assert!(found.last().unwrap().says.starts_with("200 more"), "{}", found.last().unwrap().says);
    assert_eq!(found[0].severity, Severity::Critical);
}
