//! Of many serial numbers of one form one may be what another becomes: that is no leak, and no reason
//! to refuse a copy. A text that leaked is.

#![allow(
    clippy::unwrap_used,
    clippy::panic,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

use std::collections::{BTreeSet, HashSet};

use rstest::rstest;
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, saying},
    leaf::{Identifies, Serial, Uuid},
    model::{Disk, Partition, Storage},
    redact::{Pseudonyms, RedactError, pseudonym},
    report::{Observed, Report, Taken},
};

fn known<T>(value: T) -> Fact<T> {
    Fact::known(value, Evidence::new("/made/up".into(), saying!("a-rule", "a rule")))
}

fn report(disks: impl Iterator<Item = Disk>) -> Report {
    let mut observed = Observed::default();
    let evidence = Evidence::new("/made/up".into(), saying!("a-rule", "a rule"));
    observed.inventory.storage =
        Some(Storage { disks: Parts::known(disks.collect(), evidence), ..Storage::default() });
    let taken = Taken {
        at: jiff::Timestamp::UNIX_EPOCH,
        tool: "test".into(),
        subject: "made up".into(),
        privileged: true,
        sections: vec!["storage".into()],
        elapsed_ms: 0,
    };
    Report::new(observed, taken, Vec::new(), Vec::new())
}

fn with_serial(serial: &str) -> Disk {
    Disk { serial: known(Serial(serial.to_owned())), ..Disk::default() }
}

fn serials(report: &Report) -> Vec<String> {
    let storage = report.inventory.storage.as_ref().unwrap();
    storage.disks.iter().map(|disk| disk.serial.value().unwrap().0.clone()).collect()
}

fn by(key: &[u8]) -> Pseudonyms {
    Pseudonyms::new(key, &BTreeSet::new())
}

/// A key by which one of the serial numbers becomes another, and which does: of so many one always does.
fn a_key_that_repeats(serials: &[String]) -> (Vec<u8>, usize, String) {
    let all: HashSet<&String> = serials.iter().collect();
    let found = (0u32..10_000).find_map(|key| {
        let key = key.to_be_bytes().to_vec();
        serials.iter().enumerate().find_map(|(at, serial)| {
            let new = pseudonym(&key, Identifies::Serial, serial);
            all.contains(&new).then(|| (key.clone(), at, new))
        })
    });
    found.unwrap()
}

#[rstest]
fn what_another_becomes_is_no_leak() {
    let originals: Vec<String> = (0..600).map(|number| format!("D-{number:06}")).collect();
    let (key, at, new) = a_key_that_repeats(&originals);
    let copy = by(&key).report(&report(originals.iter().map(|serial| with_serial(serial))));
    assert_eq!(serials(&copy.unwrap()).get(at), Some(&new), "the same pseudonym as ever");
}

#[rstest]
fn an_original_beside_it_is_one() {
    let originals: Vec<String> = (0..600).map(|number| format!("D-{number:06}")).collect();
    let (key, _, repeated) = a_key_that_repeats(&originals);
    let other = originals.iter().find(|serial| **serial != repeated).unwrap();
    let leaks = |text: &str| {
        let mut disks: Vec<Disk> = originals.iter().map(|serial| with_serial(serial)).collect();
        // Of a folder below /sys it is taken that nobody chose its name.
        let path = format!("/sys/devices/{text}/removable");
        let evidence = Evidence::new(path.as_str().into(), saying!("a-rule", "a rule"));
        disks.push(Disk { removable: Fact::known(true, evidence), ..Disk::default() });
        by(&key).report(&report(disks.into_iter())).err()
    };
    assert_eq!(leaks("sata"), None);
    for text in [other.clone(), format!("{repeated} {other}"), other.to_ascii_lowercase()] {
        assert!(matches!(leaks(&text), Some(RedactError::StillThere { .. })), "{text}");
    }
}

/// A serial number turned about may stand in one of thousands of random identifiers.
#[rstest]
fn what_random_digits_hold_is_no_leak() {
    let found = (0u32..200_000).find_map(|number| {
        let uuid = format!("{number:08x}-0000-4000-8000-000000000000");
        let new = pseudonym(b"key", Identifies::Uuid, &uuid);
        let group = new.rsplit('-').next()?.get(..7)?;
        let digits = group.get(1..)?.bytes().all(|digit| digit.is_ascii_digit());
        (group.starts_with('d') && digits).then(|| (uuid.clone(), group.to_owned()))
    });
    let (uuid, group) = found.unwrap();
    // With the bytes of each pair swapped this is `-` and the group.
    let turned: String = format!("-{group}")
        .as_bytes()
        .chunks(2)
        .flat_map(|pair| pair.iter().rev().map(|byte| char::from(*byte)))
        .collect();
    let partition = Partition { partuuid: known(Uuid(uuid)), ..Partition::default() };
    let evidence = Evidence::new("/made/up".into(), saying!("a-rule", "a rule"));
    let disk = Disk {
        partitions: Parts::known(vec![partition], evidence),
        ..with_serial(&turned.to_ascii_uppercase())
    };
    by(b"key").report(&report([disk].into_iter())).unwrap();
}

/// What is made of a copy while it is searched is given out with the copy, or not at all; a key gives the same copy
/// however it is asked for.
#[test]
fn what_is_made_of_a_copy_that_leaks_is_not_given_out() {
    let disks = || ["SKS4-220418", "SKS4-220419"].into_iter().map(with_serial);
    let original = report(disks());
    let (copy, made) = by(b"key").report_and(original.clone(), serials).unwrap();
    assert_eq!(made, serials(&copy));
    assert!(made.iter().all(|serial| !serials(&original).contains(serial)), "{made:?}");
    assert!(by(b"key").report(&original).unwrap() == copy);

    let path = "/sys/devices/SKS4-220418/removable";
    let evidence = Evidence::new(path.into(), saying!("a-rule", "a rule"));
    let leaks = Disk { removable: Fact::known(true, evidence), ..Disk::default() };
    let mut was_made = false;
    let given =
        by(b"key").report_and(report(disks().chain([leaks])), |_| was_made = true).map(drop);
    assert!(matches!(given, Err(RedactError::StillThere { .. })));
    assert!(was_made);
}
