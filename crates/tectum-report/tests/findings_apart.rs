//! Rules that no single value of a part decides: what they find is a list, a gap, or follows from several parts.

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

use judging::{judged, limits};
use made::{empty, gap_at, set};
use rstest::rstest;
use serde_json::{Value, json};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Gap, Why, saying},
    finding::Severity,
    report::Report,
};

/// Rules whose tests are their own: what they find is a list, or a gap itself.
#[rstest]
#[case("cpu-counts-disagree", "/inventory/cpu/disagreements/0/what", json!("cores"))]
#[case("restart-wanted", "/readings/os/reboot_required/0/file", json!("/run/reboot-required"))]
#[case("firmware-tables-odd", "/inventory/platform/firmware_tables/oddities/0/what", json!("x"))]
#[case("partitions-overlap", "/inventory/storage/disks/0/partitions/0/overlaps", json!("sda2"))]
fn what_is_there_is_what_is_found(#[case] rule: &str, #[case] at: &str, #[case] value: Value) {
    let mut report = empty();
    set(&mut report, at, &value);
    assert_eq!(judged(&report, rule, &limits()).findings.len(), 1, "{rule}");
    let missing = judged(&empty(), rule, &limits());
    assert!(missing.findings.is_empty() && !missing.not_judged.is_empty(), "{rule}");
}

#[rstest]
#[case("filesystem-does-not-answer", "/readings/filesystems/usage/0/size_bytes", Why::Timeout)]
#[case("system-serial-is-a-filler", "/inventory/platform/system/serial", Why::Blank)]
fn a_gap_can_be_what_is_odd(#[case] rule: &str, #[case] at: &str, #[case] why: Why) {
    let mut report = empty();
    set(&mut report, at, &json!(if at.ends_with("bytes") { json!(1) } else { json!("S1") }));
    assert_eq!(judged(&report, rule, &limits()).findings, []);
    gap_at(&mut report, at, Gap::new(why));
    assert_eq!(judged(&report, rule, &limits()).findings.len(), 1, "{rule}");
    gap_at(&mut report, at, Gap::new(Why::Permission));
    let hidden = judged(&report, rule, &limits());
    assert!(hidden.findings.is_empty() && !hidden.not_judged.is_empty(), "{rule}");
}

#[test]
fn a_machine_without_a_tpm_and_a_function_without_an_iommu() {
    let mut report = empty();
    set(&mut report, "/inventory/firmware/tpms/0/name", &json!("tpm0"));
    set(&mut report, "/inventory/platform/tpms/0/vendor", &json!("INTC"));
    assert_eq!(judged(&report, "tpm-not-there", &limits()).findings, []);
    let evidence = Evidence::new("/sys/class/tpm".into(), saying!("a-rule", "a rule"));
    report.inventory.firmware.as_mut().unwrap().tpms = Parts::known(Vec::new(), evidence);
    assert_eq!(judged(&report, "tpm-not-there", &limits()).findings.len(), 1);
    let at = "/inventory/pci/functions/0/virtual_functions";
    set(&mut report, at, &json!(4));
    assert_eq!(judged(&report, "virtual-functions-without-iommu", &limits()).findings.len(), 1);
    set(&mut report, "/inventory/pci/functions/0/iommu_group", &json!(12));
    assert_eq!(judged(&report, "virtual-functions-without-iommu", &limits()).findings, []);
}

/// A card whose link goes slower while it has little to do, with the sound that sits on it, and one that always
/// goes as fast as it can.
#[rstest]
#[case("030000", "0000:41:00.1", 0)]
#[case("120000", "0000:41:00.1", 0)]
#[case("020000", "0000:41:00.1", 1)]
#[case("030000", "0000:42:00.1", 1)]
fn a_link_that_goes_with_its_cards_load_is_not_odd(
    #[case] class: &str,
    #[case] sound: &str,
    #[case] found: usize,
) {
    let mut report = empty();
    let functions = [("0000:40:01.0", "060400"), ("0000:41:00.0", class), (sound, "040300")];
    for (at, (address, class)) in functions.into_iter().enumerate() {
        let field = |name: &str| format!("/inventory/pci/functions/{at}/{name}");
        set(&mut report, &field("address"), &json!(address));
        set(&mut report, &field("class_id"), &json!(class));
        set(&mut report, &field("max_link_speed_mts"), &json!(16_000));
        set(&mut report, &field("max_link_lanes"), &json!(16));
        if at > 0 {
            set(&mut report, &field("bridge"), &json!("0000:40:01.0"));
        }
    }
    let now = |name: &str| format!("/readings/pci/functions/0/{name}");
    set(&mut report, &now("address"), &json!(sound));
    set(&mut report, &now("link_speed_mts"), &json!(2_500));
    set(&mut report, &now("link_lanes"), &json!(16));
    assert_eq!(judged(&report, "pci-link-below-both-ends", &limits()).findings.len(), found);
    // Lanes that are missing come back with no load.
    set(&mut report, &now("link_lanes"), &json!(8));
    assert_eq!(judged(&report, "pci-link-below-both-ends", &limits()).findings.len(), 1);
}

/// The disk that brings a virtual machine its settings cannot be written to, and neither can a card whose
/// switch says so, or what a server exports so: all are meant.
#[rstest]
#[case("virtio", false, 0)]
#[case("xen", false, 0)]
#[case("network", false, 0)]
#[case("scsi", true, 0)]
#[case("scsi", false, 1)]
fn a_disk_that_is_read_only_as_it_was_meant_is_not_odd(
    #[case] kind: &str,
    #[case] removable: bool,
    #[case] found: usize,
) {
    let mut report = empty();
    set(&mut report, "/inventory/storage/disks/0/kind", &json!(kind));
    set(&mut report, "/inventory/storage/disks/0/removable", &json!(removable));
    set(&mut report, "/inventory/storage/disks/0/read_only", &json!(true));
    assert_eq!(judged(&report, "disk-read-only", &limits()).findings.len(), found);
}

/// Whose mount stands though its device is gone; that none is, is known; nobody looked.
#[test]
fn a_mount_whose_device_is_gone() {
    let judged = |report: &Report| judged(report, "mounted-device-gone", &limits());
    let mut report = empty();
    let at = "/readings/filesystems/gone_devices/0";
    for (field, value) in
        [("number", "8:16"), ("source", "/dev/sdb"), ("mount_point", "/srv/tides")]
    {
        set(&mut report, &format!("{at}/{field}"), &json!(value));
    }
    let found = judged(&report).findings;
    assert_eq!(found[0].label, "device that is gone /srv/tides");
    assert_eq!(found[0].says, "/dev/sdb is mounted, and its device is gone");
    assert_eq!(found[0].severity, Severity::Critical);
    let evidence = Evidence::new("/sys/dev/block".into(), saying!("a-rule", "a rule"));
    let now = report.readings.filesystems.as_mut().unwrap();
    now.gone_devices = Parts::known(Vec::new(), evidence);
    let none = judged(&report);
    assert!(none.findings.is_empty() && none.not_judged.is_empty());
    let now = report.readings.filesystems.as_mut().unwrap();
    now.gone_devices = Parts::missing(Gap::new(Why::Permission));
    let hidden = judged(&report);
    assert!(hidden.findings.is_empty() && !hidden.not_judged.is_empty());
}

/// Swap has no mount point to be called by: what it is on is said.
#[rstest]
#[case("swap", "label", "tides", "swap on tides, declared in line 7 of /etc/fstab, and not in use")]
#[case(
    "swap",
    "source",
    "/dev/sdb2",
    "swap on /dev/sdb2, declared in line 7 of /etc/fstab, and not in use"
)]
#[case("ext4", "label", "tides", "declared in line 7 of /etc/fstab, and not mounted")]
fn what_is_declared_and_not_in_use_is_called_by_what_it_is(
    #[case] filesystem: &str,
    #[case] field: &str,
    #[case] value: &str,
    #[case] says: &str,
) {
    let mut report = empty();
    let told = [("line", json!(7)), ("filesystem", json!(filesystem)), (field, json!(value))];
    for (field, value) in told.into_iter().chain([("state", json!("not-mounted"))]) {
        set(&mut report, &format!("/inventory/filesystems/fstab_entries/0/{field}"), &value);
    }
    let found = judged(&report, "fstab-entry-not-mounted", &limits()).findings;
    assert_eq!(found[0].says, says);
}
