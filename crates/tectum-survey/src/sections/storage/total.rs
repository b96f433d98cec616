//! How many drives there are and how large they are together, each counted once however many paths
//! lead to it and however many namespaces it is divided into.

use std::collections::{HashMap, HashSet};

use super::ROOT;
use crate::readers::file::listing_evidence;
use tectum_report::{
    fact::{Evidence, Fact, Gap, saying},
    leaf::DeviceName,
    model::{Disk, DiskKind},
};

/// Whether a name is one that no two drives share; names made of a model and a serial number (`t10.`,
/// `nvme.`) are as good as their maker's serial numbers.
fn is_unique(wwn: &str) -> bool {
    ["naa.", "eui.", "uuid."].iter().any(|kind| wwn.starts_with(kind))
}

/// Says of each disk whose World Wide Name stands before it in the list, which one that is; where some disk could not be
/// seen, any may be another path to that one.
pub(super) fn find_paths(disks: &mut [Disk], unseen: Option<&Gap>) {
    let mut first: HashMap<String, (DeviceName, Option<Evidence>)> = HashMap::new();
    for disk in disks {
        let (Some(wwn), Some(name)) = (disk.wwn.value(), disk.name.value()) else {
            if let Some(gap) = disk.wwn.unseen() {
                disk.multipath_of = Fact::gap(gap.clone());
            }
            continue;
        };
        if !is_unique(wwn) {
            continue;
        }
        let own = disk.wwn.evidence().first().cloned();
        match first.get(&wwn.0) {
            Some((known, theirs)) => {
                let rule = saying!(
                    "first-disk-same-world-wide",
                    "the first disk with the same World Wide Name",
                );
                // Both names are what it follows from: the other disk's file says which one that is.
                let both = own.into_iter().chain(theirs.clone());
                let both: Vec<Evidence> =
                    both.map(|piece| Evidence { rule: rule.clone(), ..piece }).collect();
                if both.is_empty() {
                    continue;
                }
                disk.multipath_of = Fact::known_from(known.clone(), both);
            }
            None => {
                first.insert(wwn.0.clone(), (name.clone(), own));
                if let Some(gap) = unseen {
                    disk.multipath_of = Fact::gap(gap.clone());
                }
            }
        }
    }
}

/// The number of drives and their size.
pub(super) fn of(disks: &[Disk]) -> (Fact<u64>, Fact<u64>) {
    let own: Vec<&Disk> = disks
        .iter()
        .filter(|disk| !disk.multipath_of.is_known())
        .filter(|disk| disk.kind.value() != Some(&DiskKind::Floppy))
        .collect();
    let rule = saying!(
        "disks-but-those-another-path",
        "disks, without floppies; what several paths or namespaces are of counts once",
    );
    // Namespaces behind one controller are parts of one drive, and so are those of a subsystem that is reached over a
    // network: it has one serial number (NVM Express Base Specification, Identify Controller).
    let mut divided = HashSet::new();
    let drives = own.iter().filter(|disk| {
        let serial = disk.serial.value().map(|serial| serial.0.as_str());
        let whole = disk.controller.value().map(|controller| controller.0.as_str()).or(serial);
        match (disk.kind.value(), whole) {
            (Some(DiskKind::Nvme), Some(whole)) => divided.insert(whole),
            _ => true,
        }
    });
    let count = drives.count() as u64;
    let mut evidence = Vec::new();
    let mut total = 0u64;
    for disk in own {
        // A disk that does not say its size (a card reader without a card) adds nothing.
        if let Some(bytes) = disk.size_bytes.value() {
            total = total.saturating_add(bytes.0);
            evidence.extend_from_slice(disk.size_bytes.evidence());
        }
    }
    let drives = Fact::known(count, listing_evidence(ROOT, rule.clone()).raw(&count.to_string()));
    let total = match evidence.is_empty() {
        true => Fact::known(total, listing_evidence(ROOT, rule).raw("no disk")),
        false => Fact::known_from(total, evidence)
            .by_rule(saying!("sum-over-drives-each-once", "the sum over drives, each once")),
    };
    (drives, total)
}
