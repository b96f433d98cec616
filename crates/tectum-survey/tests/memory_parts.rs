//! What the firmware's tables and the kernel's files say of memory: hand-made corners, each on a machine that is
//! otherwise whole.

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
use support::{changed, demo_with, json as of_report, look, recorded, with_table};
use tectum_demo::{StructureBuilder, table};
use tectum_report::report::Report;

const DMI: &str = "sys/firmware/dmi/tables/DMI";

fn gap(report: &Report, at: &str) -> (String, String) {
    let gaps = report.gaps();
    let (_, gap) = gaps.iter().find(|(pointer, _)| pointer == at).unwrap();
    (gap.why.code().to_owned(), gap.hint.as_ref().map(ToString::to_string).unwrap_or_default())
}
fn device(handle: u16, locator: &str, mib: u16) -> StructureBuilder {
    of_array(0x1000, handle, locator, mib)
}

fn of_array(array: u16, handle: u16, locator: &str, mib: u16) -> StructureBuilder {
    StructureBuilder::new(17, handle)
        .word(array)
        .word(0xFFFE)
        .word(72)
        .word(64)
        .word(mib)
        .bytes(&[9, 0])
        .text(locator)
        .byte(0)
        .byte(0x1A)
        .word(0x0080)
        .word(3200)
}

fn array(capacity_kib: u32, slots: u16) -> StructureBuilder {
    StructureBuilder::new(16, 0x1000).bytes(&[3, 3, 6]).dword(capacity_kib).word(0xFFFE).word(slots)
}

#[test]
fn channels_capacity_free_slots_and_the_largest_module() {
    let report = with_table([
        array(64 << 20, 4),
        device(0x11, "A1", 16384).bytes(&[0, 0, 0, 0]),
        device(0x12, "A2", 0).bytes(&[0, 0, 0, 0]),
        device(0x13, "B1", 16384).bytes(&[0, 0, 0, 0]),
        device(0x14, "B2", 0).bytes(&[0, 0, 0, 0]),
        StructureBuilder::new(37, 0x25).bytes(&[3, 4, 2, 1]).word(0x11).byte(1).word(0x12),
    ]);
    let memory = &report["inventory"]["memory"];
    assert_eq!(memory["max_capacity_bytes"], 64u64 << 30);
    assert_eq!(memory["free_slots"], 2);
    assert_eq!(memory["arrays"][0]["largest_module_bytes"], 16u64 << 30);
    assert_eq!(memory["arrays"][0]["free_slots"], 2);
    assert_eq!(memory["channels"][0]["slots"], json!(["A1", "A2"]));
    assert_eq!(memory["slots"][1]["channel"], 1);
    assert!(memory["slots"][2]["channel"].is_null());
    assert_eq!(memory["slots"][0]["array"], 1);
    assert_eq!(memory["modules"][0]["check_bits"], 8);
    assert_eq!(memory["modules"][0]["detail"], json!(["Synchronous"]));
}

/// A module of more than fits into the old field, and what parts its content has (DSP0134 clause 7.18).
fn parted(handle: u16, locator: &str, mib: u32, parts: (u64, u64, u64)) -> StructureBuilder {
    let (volatile, non_volatile, cache) = parts;
    let sizes = [non_volatile, volatile, cache, 0];
    let bytes: Vec<u8> = sizes.iter().flat_map(|size| size.to_le_bytes()).collect();
    // Up to the extended size at 0x1C, from there to the sizes at 0x34, and these.
    device(handle, locator, 0x7FFF).bytes(&[0; 5]).dword(mib).bytes(&[0; 20]).bytes(&bytes)
}

/// Memory that keeps its content, and modules that are a cache for it, are no memory that the kernel could manage.
#[rstest]
#[case::beside_each_other([(32 << 30, 0, 0), (0, 256 << 30, 0)], 32 << 30)]
#[case::in_parts([(32 << 30, 0, 0), (100 << 30, 156 << 30, 0)], 132 << 30)]
#[case::one_a_cache_of_the_other([(0, 0, 32 << 30), (256 << 30, 0, 0)], 256 << 30)]
#[case::of_a_firmware_that_tells_no_parts([(u64::MAX, u64::MAX, u64::MAX); 2], 288 << 30)]
fn what_modules_give_to_be_used_as_memory(
    #[case] parts: [(u64, u64, u64); 2],
    #[case] installed: u64,
) {
    let [first, second] = parts;
    let report = with_table([
        array(512 << 20, 2),
        parted(0x11, "A1", 32 << 10, first),
        parted(0x12, "A2", 256 << 10, second),
    ]);
    let memory = &report["inventory"]["memory"];
    assert_eq!(memory["installed_bytes"], installed, "{}", memory["modules"]);
}

/// The chip that the firmware stands in is a memory device to the standard, and no module to anybody else.
#[test]
fn what_sits_in_an_array_for_something_else_is_no_module() {
    let flash = StructureBuilder::new(16, 0x20).bytes(&[3, 5, 3]);
    let flash = flash.dword(16 << 10).word(0xFFFE).word(1);
    let rom = of_array(0x20, 0x21, "SYSTEM ROM", 16);
    let report = with_table([array(64 << 20, 2), device(0x11, "A1", 16384), flash, rom]);
    let memory = &report["inventory"]["memory"];
    let names = |list: &str, field: &str| -> Vec<Value> {
        memory[list].as_array().unwrap().iter().map(|one| one[field].clone()).collect()
    };
    assert_eq!(names("modules", "slot"), [json!("A1")]);
    assert_eq!(names("slots", "locator"), [json!("A1")]);
    assert_eq!(memory["installed_bytes"], 16u64 << 30);
    let arrays = &memory["arrays"];
    assert_eq!(arrays[1]["usage"], "Flash memory");
    let held = arrays[1]["holds"][0].as_str().unwrap();
    assert!(held.starts_with("SYSTEM ROM, ") && held.ends_with("16777216 bytes"), "{held}");
    assert!(arrays[0]["holds"].is_null() && arrays[1]["largest_module_bytes"].is_null());
}

#[test]
fn a_capacity_that_what_is_installed_contradicts_gives_no_largest_module() {
    let folder = demo_with("gannet-before", |tree| {
        tree.file(DMI, table([array(16 << 20, 4), device(0x11, "A1", 16384)]));
    });
    let (why, hint) = gap(&look(folder.path()), "/inventory/memory/arrays/0/largest_module_bytes");
    assert_eq!(why, "invalid");
    assert!(hint.contains("larger module is installed"));
}

/// Makers' numbers: two bytes of JEP-106, each with a parity bit at the top.
#[rstest]
#[case::by_id("", 0x2C80, "Micron Technology")]
#[case::by_text("80AD000080AD", 0, "SK Hynix")]
#[case::by_prefixed_text("0x80CE", 0, "Samsung")]
#[case::the_id_is_surer("80AD", 0x2C80, "Micron Technology")]
#[case::a_name_is_no_number("Lapwing Memory", 0, "")]
#[case::not_in_the_list("", 0x7E7F, "")]
fn makers_by_their_jedec_number(#[case] text: &str, #[case] id: u16, #[case] name: &str) {
    let report = with_table([
        array(64 << 20, 1),
        device(0x11, "A1", 1024)
            .text(text)
            .bytes(&[0, 0, 0, 2])
            .dword(0)
            .word(3200)
            .word(1200)
            .word(1200)
            .word(1200)
            .byte(3)
            .word(8)
            .byte(0)
            .word(id)
            .word(0)
            .word(0)
            .word(0)
            .qword(0)
            .qword(1 << 30)
            .qword(u64::MAX),
    ]);
    let module = &report["inventory"]["memory"]["modules"][0];
    assert_eq!(module["manufacturer_by_id"].as_str().unwrap_or_default(), name);
    assert_eq!(module["technology"], "DRAM");
    assert_eq!(module["modes"], json!(["Volatile memory"]));
    assert_eq!(module["volatile_bytes"], 1u64 << 30);
    assert!(module["cache_bytes"].is_null());
}

#[test]
fn the_old_structures_serve_where_there_are_no_others() {
    let report = with_table([
        StructureBuilder::new(6, 1).text("J1").bytes(&[0, 60, 0x00, 0x05, 0x08, 0x08, 0]),
        StructureBuilder::new(6, 2).text("J2").bytes(&[0, 60, 0x00, 0x05, 0x7F, 0x7F, 0]),
        StructureBuilder::new(6, 3).text("J3").bytes(&[0, 60, 0x00, 0x05, 0x7E, 0x7E, 0]),
    ]);
    let memory = &report["inventory"]["memory"];
    let states: Vec<&Value> =
        memory["slots"].as_array().unwrap().iter().map(|slot| &slot["state"]).collect();
    assert_eq!(states, ["filled", "empty", "disabled"]);
    assert_eq!(memory["modules"].as_array().unwrap().len(), 2);
    assert_eq!(memory["modules"][0]["size_bytes"], 256 << 20);
    assert_eq!(memory["modules"][0]["detail"], json!(["DIMM", "SDRAM"]));
}

#[rstest]
#[case::usual(132_120_576, "expected")]
#[case::much_is_missing(67_108_864, "more-than-expected")]
#[case::more_than_there_is(268_435_456, "less-than-nothing")]
fn what_the_kernel_does_not_manage(#[case] managed_kib: u64, #[case] is: &str) {
    let report = changed(|tree| tree.line("proc/meminfo", format!("MemTotal: {managed_kib} kB")));
    let readings = &report["readings"]["memory"];
    assert_eq!(readings["unmanaged_is"], is);
    let installed = 128u64 << 30;
    match installed.checked_sub(managed_kib * 1024) {
        Some(rest) => assert_eq!(readings["unmanaged_bytes"], rest),
        None => assert!(readings["unmanaged_bytes"].is_null()),
    }
}

#[test]
fn nodes_blocks_and_huge_pages() {
    let report = changed(|tree| {
        tree.line("sys/devices/system/memory/memory2/state", "offline");
        tree.line("sys/devices/system/node/node10/cpulist", "");
        tree.line("sys/devices/system/node/node10/distance", "40 40 10");
        tree.line("sys/kernel/mm/hugepages/hugepages-1048576kB/nr_hugepages", 4);
    });
    let memory = &report["inventory"]["memory"];
    assert_eq!(memory["blocks"]["offline"], 1);
    assert_eq!(memory["blocks"]["online_bytes"], 63u64 * (2 << 30));
    let nodes = memory["numa_nodes"].as_array().unwrap();
    let numbers: Vec<&Value> = nodes.iter().map(|node| &node["number"]).collect();
    assert_eq!(numbers, [0, 1, 10], "by number, not by name");
    assert_eq!(nodes[0]["online_bytes"], 31u64 * (2 << 30), "an offline block is not counted");
    assert_eq!(nodes[2]["cpus"], json!([]), "a node of memory alone has no CPU; that is known");
    assert_eq!(memory["hugepages"][1]["page_bytes"], 1 << 30);
    assert_eq!(memory["hugepages"][1]["pages"], 4);
}

#[test]
fn persistent_memory_cxl_and_compressed_swap() {
    let report = changed(|tree| {
        let nd = "sys/bus/nd/devices";
        tree.line(format!("{nd}/region0/size"), 1 << 30);
        tree.line(format!("{nd}/region0/devtype"), "nd_pmem");
        tree.line(format!("{nd}/region0/numa_node"), -1);
        tree.line(format!("{nd}/namespace0.0/mode"), "fsdax");
        tree.line(format!("{nd}/namespace0.0/uuid"), "0a6d1c70-3b52-4d6e-9c55-1f0e000000aa");
        tree.line(format!("{nd}/ndbus0/provider"), "ACPI.NFIT");
        let cxl = "sys/bus/cxl/devices/mem0";
        tree.line(format!("{cxl}/serial"), "0x00a1b2c3d4e50077");
        tree.line(format!("{cxl}/ram/size"), "0x400000000");
        tree.line(format!("{cxl}/numa_node"), 1);
        tree.line("sys/block/zram0/disksize", 8u64 << 30);
        tree.line("sys/block/zram0/comp_algorithm", "lzo-rle lz4 [zstd]");
        tree.line("sys/block/zram0/mm_stat", "4096 77 12288 1048576 12288 0 0 0");
        tree.line("sys/module/zswap/parameters/enabled", "Y");
    });
    let memory = &report["inventory"]["memory"];
    let persistent = memory["persistent"].as_array().unwrap();
    assert_eq!(persistent.len(), 2, "a bus is no memory");
    let region = persistent.iter().find(|part| part["name"] == "region0").unwrap();
    assert_eq!((&region["size_bytes"], &region["numa_node"]), (&json!(1 << 30), &Value::Null));
    let namespace = persistent.iter().find(|part| part["name"] == "namespace0.0").unwrap();
    assert_eq!(namespace["mode"], "fsdax");
    assert_eq!(memory["cxl"][0]["volatile_bytes"], 16u64 << 30);
    assert_eq!(memory["cxl"][0]["serial"], "0x00a1b2c3d4e50077");
    assert_eq!(memory["compressed_swap"]["zram"][0]["compressor"], "zstd");
    assert_eq!(memory["compressed_swap"]["zram"][0]["limit_bytes"], 1 << 20);
    assert_eq!(memory["compressed_swap"]["zswap_enabled"], true);
}

#[test]
fn counted_errors_are_matched_to_slots_by_label_alone() {
    let mc = "sys/devices/system/edac/mc/mc0";
    let report = changed(|tree| {
        tree.line(format!("{mc}/dimm2/dimm_label"), "CPU_SrcID#0_MC#0_Chan#0_DIMM#0");
        tree.line(format!("{mc}/dimm2/dimm_ue_count"), 2);
        tree.line(format!("{mc}/ce_noinfo_count"), 7);
    });
    let counts = report["readings"]["memory"]["ecc_counts"].as_array().unwrap();
    let of = |module: Value| {
        counts.iter().find(|one| one["controller"] == "mc0" && one["module"] == module).unwrap()
    };
    assert_eq!(
        (&of(json!("dimm0"))["slot"], &of(json!("dimm0"))["corrected"]),
        (&json!("A1"), &json!(3))
    );
    assert_eq!(of(json!("dimm2"))["uncorrected"], 2);
    assert!(of(json!("dimm2"))["slot"].is_null(), "no slot has that label");
    assert_eq!(of(Value::Null)["corrected"], 7, "errors that could not be located");
    let controller = &report["inventory"]["memory"]["ecc_controllers"][0];
    assert_eq!(controller["modes"], json!(["S4ECD4ED"]));
}

#[test]
fn a_device_tree_gives_the_memory_of_a_board_without_modules() {
    let report = of_report(&look(recorded("arm-board").path()));
    assert_eq!(report["inventory"]["memory"]["device_tree_bytes"], 1 << 30);
    assert_eq!(report["readings"]["memory"]["unmanaged_is"], "expected");
    assert_eq!(report["inventory"]["platform"]["firmware_tables"]["source"], "device-tree");
}

#[test]
fn a_module_that_the_firmware_does_not_use_is_no_empty_slot() {
    let named = |handle, locator: &str, mib| {
        device(handle, locator, mib)
            .text("HARBOUR")
            .text(&format!("HB-{handle}"))
            .byte(0)
            .text("HB16")
    };
    let report = with_table([
        array(64 << 20, 3),
        named(0x11, "A1", 16384),
        named(0x12, "A2", 0),
        device(0x13, "B1", 0).bytes(&[0, 0, 0, 0]),
    ]);
    let memory = &report["inventory"]["memory"];
    let states: Vec<&Value> =
        memory["slots"].as_array().unwrap().iter().map(|slot| &slot["state"]).collect();
    assert_eq!(states, ["filled", "disabled", "empty"]);
    let unused = &memory["modules"][1];
    assert_eq!((&unused["serial"], &unused["size_bytes"]), (&json!("HB-18"), &Value::Null));
    assert_eq!(memory["installed_bytes"], 16384u64 << 20, "what is not used adds nothing");
}

#[rstest]
#[case(0xFFFF, json!("none"))]
#[case(0xFFFE, Value::Null)]
#[case(0x0018, json!("Uncorrectable error"))]
#[case(0x0033, json!("Corrected single-bit error"))]
#[case(0x0099, Value::Null)]
fn the_error_that_was_recorded_of_a_module_is_told(#[case] handle: u16, #[case] kind: Value) {
    let module = StructureBuilder::new(17, 0x11)
        .word(0x1000)
        .word(handle)
        .word(72)
        .word(64)
        .word(8192)
        .bytes(&[9, 0])
        .text("A1");
    let record = |number, handle, kind: u8, length| {
        StructureBuilder::new(number, handle).byte(kind).bytes(&vec![0; length])
    };
    let array =
        StructureBuilder::new(16, 0x1000).bytes(&[3, 3, 6]).dword(1 << 20).word(handle).word(1);
    let records = [record(18, 0x18, 0x0E, 18), record(33, 0x33, 0x0C, 26)];
    let report = with_table([array, module].into_iter().chain(records));
    let memory = &report["inventory"]["memory"];
    assert_eq!(memory["modules"][0]["error"], kind);
    assert_eq!(memory["arrays"][0]["error"], kind);
    let slot = &memory["slots"][0];
    assert_eq!(slot["form_factor"], "DIMM", "the slot's, whether or not a module sits in it");
}

#[test]
fn how_fast_each_node_is_and_what_drivers_added() {
    let report = changed(|tree| {
        let access = "sys/devices/system/node/node1/access0/initiators";
        tree.line(format!("{access}/read_bandwidth"), 131_072);
        tree.line(format!("{access}/read_latency"), 0);
        tree.folder(format!("{access}/node0"));
        tree.file(
            "proc/iomem",
            "00001000-0009ffff : System RAM\n\
             80000000-bfffffff : System RAM (kmem)\n\
             10000000000-1003fffffff : virtio3\n  10000000000-1000fffffff : System RAM (virtio_mem)\n  \
             10010000000-1001fffffff : System RAM (virtio_mem)\n",
        );
    });
    let memory = &report["inventory"]["memory"];
    let node = &memory["numa_nodes"][1];
    assert_eq!(node["read_bandwidth_mib_per_second"], 131_072);
    assert_eq!((&node["read_latency_ns"], &node["best_initiators"]), (&Value::Null, &json!([0])));
    let added = memory["added"].as_array().unwrap();
    assert_eq!(added.len(), 2);
    assert_eq!((&added[0]["driver"], &added[0]["size_bytes"]), (&json!("kmem"), &json!(1 << 30)));
    assert_eq!(added[0]["numa_node"], 1, "the node of the second block of 2 GiB");
    assert_eq!(added[1]["size_bytes"], 512 << 20);
    assert!(added[1]["numa_node"].is_null(), "no node has a block there");
}

#[test]
fn addresses_that_the_kernel_hides_are_no_absence_of_memory() {
    let report = changed(|tree| {
        tree.line("proc/iomem", "00000000-00000000 : System RAM (virtio_mem)");
    });
    assert!(report["inventory"]["memory"]["added"].is_null());
    let gap = report["gaps"].as_array().unwrap().iter();
    let gap = gap.clone().find(|gap| gap["at"] == "/inventory/memory/added").unwrap();
    assert_eq!(gap["why"], "permission");
}

/// A CXL device whose configuration space has no serial number is listed with zero, which is nobody's.
#[rstest]
#[case("0x0", Value::Null)]
#[case("0x00a1b2c3d4e50077", json!("0x00a1b2c3d4e50077"))]
fn a_cxl_device_without_a_serial_number_has_none(#[case] listed: &str, #[case] told: Value) {
    let report = changed(|tree| {
        tree.line("sys/bus/cxl/devices/mem0/serial", listed);
    });
    assert_eq!(report["inventory"]["memory"]["cxl"][0]["serial"], told);
}
