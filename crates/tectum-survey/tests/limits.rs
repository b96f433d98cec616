//! What a list holds at the most, and that what is more is said.

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

use std::fmt::Write;

use rstest::rstest;
use serde_json::Value;
use support::{demo_with, json as of_report, look};
use tectum_demo::{StructureBuilder, Tree, table};

/// Lines of a file, and the list that they become.
#[rstest]
#[case("etc/fstab", "/inventory/filesystems/fstab_entries", |at| format!("/dev/m{at} /m{at} ext4 rw 0 0"))]
#[case("proc/swaps", "/inventory/filesystems/swap_spaces", |at| format!("/dev/m{at} partition 8 0 -2"))]
#[case("proc/modules", "/inventory/drivers/modules", |at| format!("m{at} 16384 0 - Live 0x0"))]
#[case("etc/apt/sources.list", "/inventory/os/repositories", |at| format!("deb http://h{at}/ s main"))]
fn of_ten_thousand_lines_more_than_that_are_counted_and_not_told(
    #[case] path: &str,
    #[case] list: &str,
    #[case] line: fn(usize) -> String,
    #[values(10_000, 10_050)] count: usize,
) {
    let report = of_report(&look(
        demo_with("gannet-before", |tree| {
            let mut text = String::new();
            if path == "proc/swaps" {
                text.push_str("Filename Type Size Used Priority\n");
            }
            for at in 0..count {
                writeln!(text, "{}", line(at)).unwrap();
            }
            tree.remove("etc/apt/sources.list.d/skerry.sources");
            tree.file(path, text);
        })
        .path(),
    ));
    let told = report.pointer(list).unwrap().as_array().unwrap().len();
    assert!((10_000..10_010).contains(&told), "{told}");
    let said = report["gaps"].as_array().unwrap().iter().find(|gap| gap["at"] == list);
    match count > 10_000 {
        true => {
            let said = said.unwrap();
            assert_eq!(said["why"], "too-many");
            assert!(
                said["tried"].to_string().contains(&format!("{count}, of which the first")),
                "{said}"
            );
        }
        false => assert_eq!(said, None),
    }
}

fn modules(count: u16) -> Value {
    let change = |tree: &mut Tree| {
        let module =
            |handle| StructureBuilder::new(17, handle).word(0).word(0).word(72).word(72).word(1024);
        tree.file("sys/firmware/dmi/tables/DMI", table((0..count).map(module)));
    };
    of_report(&look(demo_with("gannet-before", change).path()))
}

#[rstest]
#[case(4096, 0)]
#[case(4097, 1)]
fn of_structures_of_one_type_more_than_the_limit_are_an_oddity(
    #[case] count: u16,
    #[case] oddities: usize,
) {
    let report = modules(count);
    assert_eq!(report["inventory"]["memory"]["modules"].as_array().unwrap().len(), 4096);
    let told = report["inventory"]["platform"]["firmware_tables"]["oddities"].as_array().unwrap();
    let beyond = told.iter().filter(|one| {
        one["what"] == format!("{count} structures of type 17, of which the first 4096 are told")
    });
    assert_eq!(beyond.count(), oddities);
}
