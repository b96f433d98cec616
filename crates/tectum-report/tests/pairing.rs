//! Which module of one report is which of the other, held against what must follow from serial numbers and slots
//! whatever is in them: doubles, numbers that nobody gives, modules that changed places.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

#[path = "support/made.rs"]
mod made;

use std::collections::{BTreeMap, BTreeSet};

use proptest::prelude::*;
use serde_json::json;
use tectum_report::{
    Report,
    compare::{Change, Comparison, Scope, Side, What, compare},
    declare::Parts,
    fact::{Evidence, Gap, Why, saying},
};

/// A module of the test.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
struct Module {
    slot: u8,
    part: &'static str,
    serial: Serial,
    size: u64,
}

/// A serial number, or why there is none.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Serial {
    Known(u8),
    /// The firmware gives none.
    NotGiven,
    /// It is there, and could not be seen.
    Hidden,
}

impl Module {
    /// What makes it itself, where that is known.
    fn key(&self) -> Option<(&'static str, u8)> {
        match self.serial {
            Serial::Known(number) => Some((self.part, number)),
            Serial::NotGiven | Serial::Hidden => None,
        }
    }
}

prop_compose! {
    fn module(hidden: bool)(
        part in prop::sample::select(vec!["LW32G", "LW64G"]),
        serial in prop_oneof![
            6 => (0u8..5).prop_map(Serial::Known),
            1 => Just(Serial::NotGiven),
            u32::from(hidden) => Just(Serial::Hidden),
        ],
        size in prop::sample::select(vec![32u64 << 30, 64 << 30]),
    ) -> Module {
        Module { slot: 0, part, serial, size }
    }
}

/// Modules, each in a slot of its own.
fn modules(hidden: bool) -> impl Strategy<Value = Vec<Module>> {
    prop::collection::btree_map(0u8..6, module(hidden), 0..6)
        .prop_map(|all| all.into_iter().map(|(slot, module)| Module { slot, ..module }).collect())
}

fn report(modules: &[Module]) -> Report {
    let mut report = made::empty();
    // What slots there are does not change.
    for slot in 0..6u8 {
        made::set(
            &mut report,
            &format!("/inventory/memory/slots/{slot}/locator"),
            &json!(name(slot)),
        );
    }
    // It is known which modules there are, even where there is none.
    let evidence = Evidence::new("/proc/x".into(), saying!("a-rule", "a rule"));
    report.inventory.memory.as_mut().unwrap().modules = Parts::known(Vec::new(), evidence);
    for (row, module) in modules.iter().enumerate() {
        let at = format!("/inventory/memory/modules/{row}");
        made::set(&mut report, &format!("{at}/slot"), &json!(name(module.slot)));
        made::set(&mut report, &format!("{at}/part_number"), &json!(module.part));
        made::set(&mut report, &format!("{at}/size_bytes"), &json!(module.size));
        let serial = format!("{at}/serial");
        match module.serial {
            Serial::Known(number) => {
                made::set(&mut report, &serial, &json!(format!("LW-{number}")))
            }
            Serial::NotGiven => made::gap_at(&mut report, &serial, Gap::new(Why::NotProvided)),
            Serial::Hidden => made::gap_at(&mut report, &serial, Gap::new(Why::Permission)),
        }
    }
    report
}

fn name(slot: u8) -> String {
    format!("DIMM {}", char::from(b'A' + slot))
}

/// Every change, those that follow from others too.
fn all(result: &Comparison) -> Vec<&Change> {
    result
        .changes
        .iter()
        .flat_map(|change| std::iter::once(change).chain(&change.follows))
        .collect()
}

/// The row of a module in its report.
fn row(side: &Side) -> usize {
    side.at.rsplit('/').next().unwrap().parse().unwrap()
}

/// What happened to which module of either side, in an order of its own.
type Told = BTreeSet<(What, Option<Module>, Option<Module>, Vec<&'static str>)>;

fn told(before: &[Module], after: &[Module]) -> Told {
    let result = compare(&report(before), &report(after), Scope::Inventory);
    let changes = all(&result);
    let of_modules = changes.iter().filter(|change| change.part == "memory module");
    let told: Vec<_> = of_modules
        .map(|change| {
            let side = |side: &Option<Side>, all: &[Module]| {
                side.as_ref().map(|side| all[row(side)].clone())
            };
            let fields = change.fields.iter().map(|field| field.field).collect();
            (change.what, side(&change.before, before), side(&change.after, after), fields)
        })
        .collect();
    let count = told.len();
    let told: Told = told.into_iter().collect();
    assert_eq!(told.len(), count, "nothing is told twice");
    told
}

/// How often each known identity stands.
fn keys(modules: &[Module]) -> BTreeMap<(&'static str, u8), Vec<&Module>> {
    let mut keys: BTreeMap<_, Vec<&Module>> = BTreeMap::new();
    for module in modules {
        if let Some(key) = module.key() {
            keys.entry(key).or_default().push(module);
        }
    }
    keys
}

fn mirrored(told: Told) -> Told {
    told.into_iter()
        .map(|(what, before, after, fields)| {
            let what = match what {
                What::Added => What::Removed,
                What::Removed => What::Added,
                other => other,
            };
            (what, after, before, fields)
        })
        .collect()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 96, ..ProptestConfig::default() })]

    #[test]
    fn the_same_modules_are_the_same_in_any_order(modules in modules(true)) {
        let mut turned = modules.clone();
        turned.reverse();
        prop_assert_eq!(told(&modules, &modules), Told::new());
        prop_assert_eq!(told(&modules, &turned), Told::new());
    }

    #[test]
    fn what_came_had_gone_the_other_way_round(before in modules(false), after in modules(false)) {
        prop_assert_eq!(told(&before, &after), mirrored(told(&after, &before)));
    }

    #[test]
    fn the_order_of_rows_tells_nothing(before in modules(true), after in modules(true)) {
        let mut turned = after.clone();
        turned.reverse();
        prop_assert_eq!(told(&before, &after), told(&before, &turned));
    }

    /// Every module that is there before and after is told of at most once, and the numbers come out.
    #[test]
    fn the_numbers_come_out(before in modules(false), after in modules(false)) {
        let told = told(&before, &after);
        let count = |what: What| told.iter().filter(|one| one.0 == what).count();
        prop_assert_eq!(before.len() + count(What::Added), after.len() + count(What::Removed));
        for sides in [
            told.iter().filter_map(|one| one.1.as_ref()).collect::<Vec<_>>(),
            told.iter().filter_map(|one| one.2.as_ref()).collect(),
        ] {
            let each: BTreeSet<&Module> = sides.iter().copied().collect();
            prop_assert_eq!(each.len(), sides.len(), "{:?}", told);
        }
        for (what, before, after, _) in &told {
            prop_assert_eq!(before.is_some(), *what != What::Added);
            prop_assert_eq!(after.is_some(), *what != What::Removed);
        }
    }

    /// A serial number that stands once on either side is the same module, wherever it sits.
    #[test]
    fn a_serial_number_that_stands_once_is_the_module(before in modules(true), after in modules(true)) {
        let told = told(&before, &after);
        let (olds, news) = (keys(&before), keys(&after));
        for (key, old) in &olds {
            let ([old], Some([new])) = (old.as_slice(), news.get(key).map(Vec::as_slice)) else { continue };
            let own: Vec<_> = told
                .iter()
                .filter(|one| one.1.as_ref() == Some(old) || one.2.as_ref() == Some(new))
                .collect();
            match (old.slot == new.slot, old.size == new.size) {
                (true, true) => prop_assert_eq!(&own, &Vec::<&_>::new(), "{:?}", told),
                (moved, _) => {
                    prop_assert_eq!(own.len(), 1, "{:?}", told);
                    let (what, before, after, fields) = own[0];
                    prop_assert_eq!(*what, if moved { What::Changed } else { What::Moved });
                    prop_assert_eq!((before.as_ref(), after.as_ref()), (Some(*old), Some(*new)));
                    prop_assert_eq!(fields.contains(&"size_bytes"), old.size != new.size);
                }
            }
        }
    }

    /// A module whose number is nowhere on the other side, where every number could be seen, is gone, or another one
    /// sits in its place: never is it said to be another one that merely changed.
    #[test]
    fn another_serial_number_is_another_module(before in modules(false), after in modules(false)) {
        prop_assume!(before.iter().chain(&after).all(|module| module.key().is_some()));
        let (olds, news) = (keys(&before), keys(&after));
        for old in &before {
            if news.contains_key(&old.key().unwrap()) || olds[&old.key().unwrap()].len() > 1 {
                continue;
            }
            let told = told(&before, &after);
            let own: Vec<_> = told.iter().filter(|one| one.1.as_ref() == Some(old)).collect();
            prop_assert_eq!(own.len(), 1, "{:?}", told);
            prop_assert!(matches!(own[0].0, What::Removed | What::Replaced), "{:?}", own);
            // What is new in its very slot stands in for it.
            let there = after.iter().find(|new| new.slot == old.slot);
            let is_new = there.filter(|new| {
                news[&new.key().unwrap()].len() == 1 && !olds.contains_key(&new.key().unwrap())
            });
            if let Some(new) = is_new {
                prop_assert_eq!((own[0].0, own[0].2.as_ref()), (What::Replaced, Some(new)));
            }
        }
    }

    /// What could not be seen on a side is never said to have gone or come.
    #[test]
    fn a_number_that_could_not_be_seen_tells_nothing(modules in modules(false), which in any::<prop::sample::Index>()) {
        prop_assume!(!modules.is_empty());
        let mut hidden = modules.clone();
        let at = which.index(hidden.len());
        hidden[at].serial = Serial::Hidden;
        prop_assert_eq!(told(&modules, &hidden), Told::new());
        prop_assert_eq!(told(&hidden, &modules), Told::new());
    }
}
