//! What somebody may have meant who names what is not there.

use super::{field::visit_paths, path::Path};
use crate::model::also_called::called;

/// How much a name is like another, from 0 to 1.
fn likeness(given: &str, name: &str) -> f64 {
    if called(given).contains(&name) { 1.0 } else { strsim::jaro_winkler(given, name) }
}

/// The name that is most like another, if any is much like it: first what a thing is called here that others call so.
pub fn nearest_name<'a>(given: &str, known: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    let given = given.to_lowercase();
    known
        .into_iter()
        .map(|name| (likeness(&given, &name.to_lowercase()), name))
        .filter(|(likeness, _)| *likeness > 0.7)
        // Of those that are as much like it the first.
        .reduce(|most, other| if other.0 > most.0 { other } else { most })
        .map(|(_, name)| name)
}

/// A path that may be meant, by its words, and how much less likely it is than the words as they are given.
struct Meant {
    words: Vec<String>,
    less: f64,
}

/// What a path may mean: its words as they are; what is here called so in the place of one of them; and of the last
/// word its last part alone, which is meant less likely than another letter.
fn meant(given: &[String]) -> Vec<Meant> {
    let mut all = vec![Meant { words: given.to_vec(), less: 0.0 }];
    let mut with = |at: usize, here: &str, less| {
        let (before, behind) = given.split_at(at);
        let here = here.split('.').map(str::to_owned);
        let behind = behind.iter().skip(1).cloned();
        let words = before.iter().cloned().chain(here).chain(behind).collect();
        all.push(Meant { words, less });
    };
    for (at, word) in given.iter().enumerate() {
        let here = called(word);
        here.iter().for_each(|here| with(at, here, 0.0));
        if here.len() > 1 {
            with(at, &here.join("."), 0.0);
        }
    }
    if let Some((_, part)) = given.last().and_then(|last| last.rsplit_once('_')) {
        with(given.len() - 1, part, A_PART_ALONE);
    }
    all
}

/// More than a slip costs, less than what another ending does.
const A_PART_ALONE: f64 = 0.15;

/// How much the last words of paths are like each other: nearly the same where one letter in four is another, or missing.
fn likeness_of_ends(given: &str, name: &str) -> f64 {
    let like = strsim::jaro_winkler(given, name);
    let slips = strsim::osa_distance(given, name);
    if slips * 4 <= given.len() { like.max(A_SLIP) } else { like }
}

const A_SLIP: f64 = 0.97;

/// Every path as people may write it: by the fields' names, and by their names without the unit.
fn every_spelling() -> Vec<String> {
    let mut paths = Vec::new();
    visit_paths(&mut |path, field| {
        let before = path.len().saturating_sub(field.name.len());
        let short = field.short_name();
        paths.extend(
            short.map(|short| format!("{}{short}", path.get(..before).unwrap_or_default())),
        );
        paths.push(path);
    });
    paths
}

/// The path that a report can have and that is most like another.
pub(super) fn nearest(path: &Path) -> Option<String> {
    let names = path.names_as_text();
    let given = match names {
        [root, rest @ ..] if root == "inventory" && !rest.is_empty() => rest,
        all => all,
    };
    // Field names are in lower case.
    let lower: Vec<String> = given.iter().map(|name| name.to_lowercase()).collect();
    let meant = meant(&lower);
    let mut best: Option<(f64, String)> = None;
    for candidate in every_spelling() {
        let names: Vec<&str> = candidate.split('.').collect();
        let own = names.last().copied().unwrap_or_default();
        for Meant { words, less } in &meant {
            // An element's own name is kept where the path has one at that place.
            let own_name = |index: usize| {
                let behind = (words.len() == names.len()).then(|| words.len() - index)?;
                given.get(given.len().checked_sub(behind)?)
            };
            let shown = names.iter().enumerate().map(|(index, name)| match own_name(index) {
                Some(own) if *name == "*" => own.as_str(),
                _ => *name,
            });
            let shown = shown.collect::<Vec<_>>().join(".");
            let last = words.last().map_or("", String::as_str);
            let whole = strsim::jaro_winkler(&words.join("."), &shown.to_lowercase());
            let like = whole + likeness_of_ends(last, own) - less;
            if best.as_ref().is_none_or(|(most, _)| like > *most) {
                best = Some((like, shown));
            }
        }
    }
    best.filter(|(likeness, _)| *likeness > 1.5).map(|(_, candidate)| candidate)
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeSet;

    use proptest::prelude::*;
    use rstest::rstest;

    use super::{super::field::every_path, *};
    use crate::model::also_called::ALSO_CALLED;

    #[rstest]
    #[case("os.version_codename", "os.codename")]
    #[case("bios.version", "firmware.version")]
    #[case("ram.A1.serial", "memory.modules.A1.serial")]
    #[case("memory.dimms.*.serial", "memory.modules.*.serial")]
    #[case("memory.modules.A1.sn", "memory.modules.A1.serial")]
    #[case("storage.disk.*.serial_number", "storage.disks.*.serial")]
    #[case("network.nics.*.driver", "network.interfaces.*.driver")]
    #[case("disk.sda.serial", "storage.disks.sda.serial")]
    #[case("processor.model", "cpu.model")]
    #[case("inventory.os.nmae", "os.name")]
    #[case("OS.NAME", "os.name")]
    #[case("os.machne_id", "os.machine_id")]
    fn a_path_is_offered_that_may_be_meant(#[case] given: &str, #[case] expected: &str) {
        assert_eq!(nearest(&given.parse().unwrap()).as_deref(), Some(expected));
    }

    #[rstest]
    #[case("zzz")]
    #[case("tide.gauge.salt")]
    fn nothing_is_offered_for_what_is_like_nothing(#[case] given: &str) {
        assert_eq!(nearest(&given.parse().unwrap()), None);
    }

    const SECTIONS: [&str; 7] =
        ["platform", "cpu", "memory", "storage", "processes", "filesystems", "os"];

    #[rstest]
    #[case("processor", Some("cpu"))]
    #[case("RAM", Some("memory"))]
    #[case("disk", Some("storage"))]
    #[case("mounts", Some("filesystems"))]
    #[case("procesess", Some("processes"))]
    #[case("storge", Some("storage"))]
    #[case("tide", None)]
    fn a_name_is_offered(#[case] given: &str, #[case] expected: Option<&str>) {
        assert_eq!(nearest_name(given, SECTIONS), expected);
    }

    #[test]
    fn what_things_are_called_here_are_names_that_a_report_has() {
        let here: BTreeSet<String> =
            every_path().iter().flat_map(|path| path.split('.')).map(str::to_owned).collect();
        for (other, names) in ALSO_CALLED {
            assert!(names.iter().all(|name| here.contains(*name)), "{other}: {names:?}");
        }
        assert!(ALSO_CALLED.is_sorted_by(|a, b| a.0 < b.0), "in order, each once");
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(64))]

        // Who drops or doubles a letter of a long path is offered no path that is less like it than that one.
        #[test]
        fn a_slip_is_mended(which in any::<prop::sample::Index>(), at in any::<prop::sample::Index>(), double in any::<bool>()) {
            let all = every_path();
            let path = &all[which.index(all.len())];
            let last = path.rsplit('.').next().unwrap();
            prop_assume!(last.len() > 6);
            let slip = path.len() - last.len() + 1 + at.index(last.len() - 2);
            let (before, behind) = path.split_at(slip);
            let given = match double {
                true => format!("{before}{}{behind}", &behind[..1]),
                false => format!("{before}{}", &behind[1..]),
            };
            let Ok(parsed) = given.parse::<Path>() else { return Err(TestCaseError::reject("no path")) };
            prop_assume!(!all.contains(&given));
            let offered = nearest(&parsed).unwrap();
            let like = |name: &str| strsim::jaro_winkler(&given, name)
                + strsim::jaro_winkler(given.rsplit('.').next().unwrap(), name.rsplit('.').next().unwrap());
            prop_assert!(offered == *path || like(&offered) + 0.02 >= like(path), "{given}: {offered}");
        }
    }
}
