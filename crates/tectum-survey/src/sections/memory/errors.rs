//! Memory controllers whose errors the kernel counts (`Documentation/ABI/testing/sysfs-devices-edac`).

use crate::readers::sayings;
use std::collections::BTreeMap;

use crate::{
    formats::number,
    readers::{
        devices::is_numbered,
        file::{File, hidden, list, listing_evidence, numbered},
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Why, saying},
    leaf::{Bytes, Label, Term},
    model::{EccController, EccCount, MemorySlot},
};

const CONTROLLERS: &str = "/sys/devices/system/edac/mc";

pub(super) fn controllers(lease: &Lease) -> Parts<EccController> {
    let names = match list(lease, CONTROLLERS) {
        Ok(names) => names,
        Err(gap) => return Parts::missing(no_driver(gap)),
    };
    let controllers = numbered(&names, "mc").into_iter().map(|number| {
        let folder = format!("{CONTROLLERS}/mc{number}");
        let file = |name: &str| File::read(lease, format!("{folder}/{name}"));
        EccController {
            name: name_of(CONTROLLERS, &format!("mc{number}")),
            kind: file("mc_name").text_fact(),
            size_bytes: file("size_mb")
                .fact(saying!("mebibytes-times-1048576", "mebibytes times 1048576"), mebibytes)
                .map(Bytes),
            modes: modes(lease, &folder),
        }
    });
    let rule = saying!(
        "every-folder-named-mc-number",
        "every folder named mc and a number; none where no driver counts errors",
    );
    Parts::known(controllers.collect(), listing_evidence(CONTROLLERS, rule))
}

fn no_driver(gap: Gap) -> Gap {
    gap.hint(saying!(
        "driver-counts-memory-errors-platform",
        "there where a driver counts the memory errors of this platform",
    ))
}

fn name_of(folder: &str, name: &str) -> Fact<Term> {
    Fact::known(Term::from(name), listing_evidence(folder, sayings::NAME_OF_THE_FOLDER).raw(name))
}

fn mebibytes(text: &str) -> Option<u64> {
    number::decimal(text)?.checked_mul(1 << 20)
}

/// The folders of a controller's modules, or of its ranks where it knows no modules.
fn module_names(lease: &Lease, folder: &str) -> Result<Vec<String>, Gap> {
    let names = list(lease, folder)?;
    Ok(names
        .iter()
        .filter_map(|name| name.to_str())
        .filter(|name| is_numbered(name, "dimm") || is_numbered(name, "rank"))
        .map(str::to_owned)
        .collect())
}

/// How a controller's modules find and correct errors, each way once.
fn modes(lease: &Lease, folder: &str) -> Fact<Vec<Term>> {
    let names = match module_names(lease, folder) {
        Ok(names) => names,
        Err(gap) => return Fact::gap(gap),
    };
    let mut seen: BTreeMap<Term, Evidence> = BTreeMap::new();
    let mut missing = Gap::new(Why::NotProvided)
        .tried(folder.into(), saying!("holds-no-module-rank", "holds no module or rank"));
    for name in names {
        let fact = File::read(lease, format!("{folder}/{name}/dimm_edac_mode"))
            .text_fact::<Term>()
            .by_rule(saying!("each-way-once", "each way once"));
        match (fact.value(), fact.evidence().first()) {
            (Some(mode), Some(evidence)) => {
                seen.entry(mode.clone()).or_insert_with(|| evidence.clone());
            }
            _ => missing = fact.missing().cloned().unwrap_or(missing),
        }
    }
    if seen.is_empty() {
        return Fact::gap(missing);
    }
    let (modes, evidence) = seen.into_iter().unzip();
    Fact::known_from(modes, evidence)
}

/// The slot that has a module's label: the label alone, never where it might sit, decides.
fn slot_of(label: &Fact<Term>, slots: &Parts<MemorySlot>) -> Fact<Term> {
    let slot = label.value().and_then(|label| {
        let mut with = slots.iter().filter(|slot| {
            slot.locator.value().is_some_and(|locator| locator.eq_ignore_ascii_case(label))
        });
        // A label that several slots share names none of them.
        with.next().filter(|_| with.next().is_none())
    });
    match slot {
        Some(slot) => slot.locator.clone().with_evidence_of(label),
        None => label.clone().and_then(|_| {
            Err(Gap::new(Why::NotProvided).hint(saying!("no-slot-label", "no slot has this label")))
        }),
    }
}

/// A label that is no slot's: that may be an owner's, while a slot's is the board maker's.
fn own_label(label: Fact<Term>, slot: &Fact<Term>) -> Fact<Label> {
    match (label.evidence().first(), slot.value()) {
        (Some(evidence), Some(_)) => Fact::gap(Gap::new(Why::NotApplicable).tried(
            evidence.source.clone(),
            saying!("names-the-slot", "names the slot, which is told"),
        )),
        _ => label.map(|text| Label(text.0)),
    }
}

pub(super) fn counts(lease: &Lease, slots: &Parts<MemorySlot>) -> Parts<EccCount> {
    let names = match list(lease, CONTROLLERS) {
        Ok(names) => names,
        Err(gap) => return Parts::missing(no_driver(gap)),
    };
    let mut counts = Vec::new();
    let mut unseen = None;
    for number in numbered(&names, "mc") {
        let folder = format!("{CONTROLLERS}/mc{number}");
        let controller = || name_of(CONTROLLERS, &format!("mc{number}"));
        let count = |path: String| {
            File::read(lease, path).fact(saying!("counter", "a counter"), number::decimal)
        };
        let modules = module_names(lease, &folder);
        unseen = unseen.or(hidden(&modules).cloned());
        for name in modules.unwrap_or_default() {
            let text = |field: &str| {
                File::read(lease, format!("{folder}/{name}/{field}")).text_fact::<Term>()
            };
            let label = text("dimm_label");
            let slot = slot_of(&label, slots);
            counts.push(EccCount {
                controller: controller(),
                module: name_of(&folder, &name),
                label: own_label(label, &slot),
                slot,
                location: text("dimm_location"),
                corrected: count(format!("{folder}/{name}/dimm_ce_count")),
                uncorrected: count(format!("{folder}/{name}/dimm_ue_count")),
            });
        }
        let nowhere = || {
            Gap::new(Why::NotApplicable)
                .hint(saying!("errors-could-not-located", "errors that could not be located"))
        };
        counts.push(EccCount {
            controller: controller(),
            module: Fact::gap(nowhere()),
            label: Fact::gap(nowhere()),
            location: Fact::gap(nowhere()),
            slot: Fact::gap(nowhere()),
            corrected: count(format!("{folder}/ce_noinfo_count")),
            uncorrected: count(format!("{folder}/ue_noinfo_count")),
        });
    }
    let rule = saying!(
        "each-module-counters-those-errors",
        "each module's counters, and those of errors that could not be located",
    );
    Parts::known(counts, listing_evidence(CONTROLLERS, rule)).in_part(unseen)
}
