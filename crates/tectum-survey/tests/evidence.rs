//! Every value has its evidence and every missing one its reason, on every machine there is. A new
//! section is held to this by being registered.

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

use std::path::Path;

use rstest::rstest;
use support::{RECORDED, demo, look, recorded};
use tectum_report::{
    declare::AnyFact,
    fact::{RAW_LIMIT, Stance, Why},
    leaf::Whose,
    report::{Note, Report},
    walk::Met,
};

#[test]
fn on_every_recorded_machine() {
    for name in RECORDED {
        complete(&look(recorded(name).path()), name);
    }
}

#[test]
fn on_every_demo_machine() {
    for shipped in tectum_demo::MACHINES {
        complete(&look(demo(shipped.name).path()), shipped.name);
    }
}

#[rstest]
fn on_an_empty_folder() {
    let folder = tempfile::tempdir().unwrap();
    complete(&look(folder.path()), "empty");
}

/// Fails on a leaf that has neither evidence nor a reason, and on evidence that does not hold the
/// value or what it was derived from.
fn complete(report: &Report, machine: &str) {
    let mut leaves = 0;
    report.walk(&mut |at, _, met| {
        let at = format!("{machine}: {}", at.as_str());
        match met {
            Met::Record(_) => {}
            Met::List(list) => match list.missing() {
                Some(gap) => {
                    assert!(!gap.tried.is_empty(), "{at}: a list is missing for no reason")
                }
                None => assert!(!list.evidence().is_empty(), "{at}: a list without evidence"),
            },
            Met::Leaf(fact) => {
                leaves += 1;
                if let Some(gap) = fact.missing() {
                    let reason = !gap.tried.is_empty() || gap.hint.is_some();
                    assert!(reason, "{at}: missing ({}) for no reason", gap.why.code());
                    assert!(
                        gap.why == Why::NotApplicable || gap.source.is_some() || gap.hint.is_some(),
                        "{at}: missing and no source named"
                    );
                    return;
                }
                let evidence = fact.evidence();
                assert!(!evidence.is_empty(), "{at}: no evidence");
                assert_eq!(evidence[0].stance, Stance::Gives, "{at}: its first evidence gives it");
                for piece in evidence {
                    assert!(!piece.rule.words().is_empty(), "{at}: evidence without a rule");
                    let source = Path::new(&*piece.source);
                    let call = piece.source.ends_with("(2)");
                    assert!(source.is_absolute() || call, "{at}: {} is no source", piece.source);
                }
                holds(&at, fact);
            }
        }
    });
    assert!(leaves > 50, "{machine}: only {leaves} leaves were walked");
}

/// Texts that an owner chose, and a maker's for one part alone, stand in the raw text as they are;
/// what is derived (sizes times a unit, names for codes, sums) has raw text at least.
fn holds(at: &str, fact: &dyn AnyFact) {
    let raws: Vec<&str> = fact.evidence().iter().filter_map(|piece| piece.raw.as_deref()).collect();
    let text = fact.text().unwrap();
    // An empty list follows from what does not stand in the source.
    if text.is_empty() {
        return;
    }
    assert!(!raws.is_empty(), "{at}: evidence without raw text for {text:?}");
    if matches!(fact.leaf_shape().whose, Whose::Owners(_)) {
        let texts = match fact.json().unwrap() {
            serde_json::Value::Array(items) => {
                items.iter().map(|item| item.as_str().unwrap().to_owned()).collect()
            }
            _ => vec![text],
        };
        let fold = |text: &str| {
            text.chars().filter(char::is_ascii_alphanumeric).collect::<String>().to_lowercase()
        };
        for value in texts {
            // The loopback's name follows from its addresses; a file's name is its source.
            if value == "lo" || fact.evidence().iter().any(|piece| piece.source.contains(&value)) {
                continue;
            }
            let found = raws.iter().any(|raw| {
                // As mountinfo and udev write a blank.
                let raw = &raw.replace("\\040", " ").replace("\\x20", " ");
                // Evidence keeps the beginning of what is long.
                raw.len() >= RAW_LIMIT
                    || fold(raw).contains(&fold(&value))
                    || as_the_kernel_writes(&value).is_some_and(|address| raw.contains(&address))
            });
            assert!(found, "{at}: {value:?} does not stand in {raws:?}");
        }
    }
}

/// An address as the kernel's tables have it: IPv6 in full, IPv4 as a number of the CPU's own order
/// (all that have such a table here are little-endian).
fn as_the_kernel_writes(value: &str) -> Option<String> {
    Some(match value.parse().ok()? {
        std::net::IpAddr::V4(address) => format!("{:08X}", u32::from(address).swap_bytes()),
        std::net::IpAddr::V6(address) => format!("{:032x}", u128::from(address)),
    })
}

#[test]
fn sources_that_disagree_are_both_kept_and_noted() {
    let folder = support::demo_with("gannet-before", |tree| {
        tree.line("sys/devices/virtual/dmi/id/product_serial", "ANOTHER-1");
    });
    let report = look(folder.path());
    let serial = &report.inventory.platform.as_ref().unwrap().system.serial;
    assert_eq!(&**serial.value().unwrap(), "MS-F2240-00731");
    let differs = serial.evidence().iter().find(|piece| piece.stance != Stance::Gives).unwrap();
    assert_eq!(differs.stance, Stance::differs("ANOTHER-1"));
    assert_eq!(&*differs.source, "/sys/class/dmi/id/product_serial");
    let note = Note::SourcesDiffer {
        at: "/inventory/platform/system/serial".to_owned(),
        source: "/sys/firmware/dmi/tables/DMI".to_owned(),
        says: "MS-F2240-00731".to_owned(),
        other_source: "/sys/class/dmi/id/product_serial".to_owned(),
        other_says: "ANOTHER-1".to_owned(),
    };
    assert!(report.notes.contains(&note), "{:?}", report.notes);
    let product = &report.inventory.platform.as_ref().unwrap().system.product;
    assert_eq!(product.evidence()[1].stance, Stance::Agrees);
}
