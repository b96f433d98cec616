//! Machines held against each other, beside a plain count of who has what.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::print_stderr,
    clippy::indexing_slicing,
    clippy::cast_possible_truncation,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

mod support;

use std::collections::{BTreeMap, BTreeSet};

use proptest::prelude::*;
use serde_json::json;
use support::{Machine, made, plain};
use tectum_archive::{
    alike::{Alike, Held, Holding},
    exact::Exact,
};
use tectum_report::fact::{Gap, Why};

/// Values that a machine of the test may have, each at its path and of its own kinds; one may not be seen.
#[derive(Debug, Clone, PartialEq, Eq)]
struct Has {
    product: usize,
    firmware: Option<usize>,
    kernel: Option<usize>,
    /// Whether there is a module in each of two slots.
    modules: [bool; 2],
}

const PRODUCTS: [&str; 2] = ["Fathom 2240", "Lugworm 9"];
const FIRMWARE: [&str; 3] = ["2.4", "2.1", "1.9"];
const KERNELS: [&str; 3] = ["6.12.31", "5.4.0", "6.1.7"];
const SLOTS: [&str; 2] = ["A1", "B1"];
const PATHS: [&str; 4] =
    ["firmware.version", "os.kernel_release", "memory.modules.A1", "memory.modules.B1"];

prop_compose! {
    // What stands first in each list is what most have, so that odd ones are few, and sometimes nobody agrees.
    fn has(common: u32)(
        product in prop::sample::select(vec![0usize, 0, 0, 1]),
        firmware in prop::option::weighted(0.9, kind(common)),
        kernel in prop::option::weighted(0.9, kind(common)),
        modules in prop::array::uniform2(prop::bool::weighted(0.9)),
    ) -> Has {
        Has { product, firmware, kernel, modules }
    }
}

fn kind(common: u32) -> impl Strategy<Value = usize> {
    prop_oneof![common => Just(0usize), 1 => Just(1usize), 1 => Just(2usize)]
}

fn held(number: u32, has: &Has) -> Held {
    let mut machine = Machine::new(number);
    machine.product = PRODUCTS[has.product];
    machine.firmware = FIRMWARE[has.firmware.unwrap_or(0)].to_owned();
    machine.kernel = KERNELS[has.kernel.unwrap_or(0)].to_owned();
    for (slot, _) in SLOTS.iter().zip(has.modules).filter(|(_, there)| !there) {
        machine.modules.remove(*slot);
    }
    let mut report = machine.report(0);
    let hidden = [
        (has.firmware, "/inventory/firmware/version"),
        (has.kernel, "/inventory/os/kernel_release"),
    ];
    for (_, at) in hidden.iter().filter(|(value, _)| value.is_none()) {
        made::gap_at(&mut report, at, Gap::new(Why::Permission));
    }
    Held::of(&report, &"platform.system.product".parse().unwrap())
}

/// Who has which value at a path, counted plainly; who could not see it is not counted.
fn who(fleet: &[Has], product: usize, path: &str) -> BTreeMap<String, BTreeSet<String>> {
    let mut who: BTreeMap<String, BTreeSet<String>> = BTreeMap::new();
    for (number, has) in fleet.iter().enumerate().filter(|(_, has)| has.product == product) {
        let there = |at: usize| Some(if has.modules[at] { "there" } else { "not there" });
        let value = match path {
            "firmware.version" => has.firmware.map(|kind| FIRMWARE[kind]),
            "os.kernel_release" => has.kernel.map(|kind| KERNELS[kind]),
            "memory.modules.A1" => there(0),
            _ => there(1),
        };
        if let Some(value) = value {
            who.entry(value.to_owned()).or_default().insert(format!("tide-{number:03}"));
        }
    }
    who
}

/// What is told at a path: the common value with how many share it, and who has others.
type Told = (Option<(String, usize, usize)>, BTreeMap<String, BTreeSet<String>>);

fn told(group: &Alike, path: &str) -> Option<Told> {
    let sets = |values: &[(Exact, Vec<String>)]| {
        let sets = values.iter();
        sets.map(|(value, who)| (value.text().to_owned(), who.iter().cloned().collect())).collect()
    };
    let odd = group.odd.iter().flat_map(|odd| &odd.values).find(|value| value.path == path);
    if let Some(value) = odd {
        return Some((
            Some((value.common.text().to_owned(), value.share, value.of)),
            sets(&value.odd),
        ));
    }
    let mixed = group.mixed.iter().find(|mixed| mixed.path == path)?;
    Some((None, sets(&mixed.values)))
}

fn check(fleet: &[Has], groups: &[Alike]) {
    let sizes: Vec<usize> = groups.iter().map(|group| group.machines.len()).collect();
    assert!(sizes.is_sorted_by(|a, b| a >= b), "the largest stands first: {sizes:?}");
    assert_eq!(sizes.iter().sum::<usize>(), fleet.len(), "every machine is in one group");
    for (product, name) in PRODUCTS.iter().enumerate() {
        let Some(group) = groups.iter().find(|group| plain(&group.group).as_deref() == Some(*name))
        else {
            assert!(fleet.iter().all(|has| has.product != product));
            continue;
        };
        for path in PATHS {
            let mut expected = who(fleet, product, path);
            let of: usize = expected.values().map(BTreeSet::len).sum();
            let told = told(group, path);
            // A part that none of them has is nothing that anybody could lack.
            let nobody = expected.len() == 1 && expected.contains_key("not there");
            if expected.len() <= 1 || nobody {
                assert_eq!(told, None, "{path}: {expected:?}");
                continue;
            }
            let most = expected.iter().max_by_key(|(_, who)| who.len()).unwrap();
            let (common, share) = (most.0.clone(), most.1.len());
            if 2 * share > of {
                expected.remove(&common);
                assert_eq!(told, Some((Some((common, share, of)), expected)), "{path}");
            } else {
                assert_eq!(told, Some((None, expected)), "{path}");
            }
        }
        // Who is odd in the very same values stands together, and in no second place.
        let together: BTreeSet<&Vec<String>> = group.odd.iter().map(|odd| &odd.machines).collect();
        assert_eq!(together.len(), group.odd.len());
        for odd in &group.odd {
            for value in &odd.values {
                let own: BTreeSet<&String> = value.odd.iter().flat_map(|(_, who)| who).collect();
                assert_eq!(own, odd.machines.iter().collect());
            }
        }
    }
}

fn hold<'a>(fleet: impl IntoIterator<Item = (usize, &'a Has)>) -> Vec<Alike> {
    let mut holding = Holding::default();
    for (number, has) in fleet {
        holding.add(&format!("tide-{number:03}"), held(number as u32, has));
    }
    holding.end()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, ..ProptestConfig::default() })]

    #[test]
    fn odd_and_mixed_are_what_a_plain_count_says(fleet in prop::collection::vec(has(8), 1..14)) {
        check(&fleet, &hold(fleet.iter().enumerate()));
    }

    #[test]
    fn where_nobody_agrees_it_is_said_who_has_what(fleet in prop::collection::vec(has(1), 1..8)) {
        check(&fleet, &hold(fleet.iter().enumerate()));
    }

    #[test]
    fn the_order_in_which_machines_are_given_changes_nothing(
        fleet in prop::collection::vec(has(6), 1..10),
        order in any::<u64>(),
    ) {
        let given: Vec<(usize, &Has)> = fleet.iter().enumerate().collect();
        let mut turned = given.clone();
        // A plain shuffle by a number.
        let mut seed = order;
        for at in (1..turned.len()).rev() {
            seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1);
            turned.swap(at, (seed >> 33) as usize % (at + 1));
        }
        prop_assert_eq!(hold(given), hold(turned));
    }

    #[test]
    fn what_all_share_is_counted(fleet in prop::collection::vec(has(8), 1..10)) {
        let groups = hold(fleet.iter().enumerate());
        for group in &groups {
            let product = PRODUCTS.iter().position(|name| plain(&group.group).as_deref() == Some(*name)).unwrap();
            // Twice as many machines of the same kind share as much.
            let own: Vec<(usize, &Has)> =
                fleet.iter().enumerate().filter(|(_, has)| has.product == product).collect();
            let twice = own.iter().copied().chain(own.iter().map(|(number, has)| (number + 500, *has)));
            let again = hold(twice);
            prop_assert_eq!(again.len(), 1);
            prop_assert_eq!(again[0].in_common, group.in_common);
            prop_assert_eq!(again[0].odd.len(), group.odd.len());
        }
    }
}

#[test]
fn what_makes_a_machine_itself_is_nothing_odd() {
    let mut holding = Holding::default();
    for number in 0..6 {
        let mut report = Machine::new(number).report(0);
        made::set(&mut report, "/inventory/platform/system/serial", &json!(format!("S{number}")));
        made::set(&mut report, "/inventory/memory/modules/0/serial", &json!(format!("M{number}")));
        made::set(&mut report, "/inventory/os/hostname", &json!(format!("gannet-{number}")));
        holding.add(
            &format!("tide-{number:03}"),
            Held::of(&report, &"platform.system.product".parse().unwrap()),
        );
    }
    let groups = holding.end();
    assert_eq!(groups.len(), 1);
    assert_eq!((groups[0].odd.len(), groups[0].mixed.len()), (0, 0), "{groups:?}");
}

/// A byte more is odd, though no rounded number shows it.
#[test]
fn what_reads_the_same_and_is_not_is_odd() {
    let mut holding = Holding::default();
    for number in 0..5 {
        let mut machine = Machine::new(number);
        machine.rom_bytes += u64::from(number == 3);
        let report = machine.report(0);
        let by = "platform.system.product".parse().unwrap();
        holding.add(&format!("tide-{number:03}"), Held::of(&report, &by));
    }
    let groups = holding.end();
    assert_eq!(groups.len(), 1);
    assert_eq!(groups[0].odd.len(), 1, "{groups:?}");
    let odd = &groups[0].odd[0];
    assert_eq!(odd.machines, ["tide-003"]);
    assert_eq!(odd.values[0].path, "firmware.rom_size_bytes");
    let json = serde_json::to_value(odd).unwrap();
    let expected = json!([[12_884_901_889_u64, ["tide-003"]]]);
    assert_eq!(
        (&json["values"][0]["common"], &json["values"][0]["odd"]),
        (&json!(12_884_901_888_u64), &expected)
    );
}
