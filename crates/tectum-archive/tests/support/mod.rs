//! Made-up machines with a past that is known.

#![allow(dead_code, reason = "each test file uses its own part")]

#[path = "../../../tectum-report/tests/support/made.rs"]
pub mod made;
pub mod server;

use std::collections::{BTreeMap, BTreeSet};

use jiff::{SignedDuration, Timestamp};
use serde_json::json;
use tectum_archive::{
    exact::Exact,
    store::{Saved, Store, StoreError},
    written::Prepared,
};
use tectum_report::{
    Report,
    declare::Parts,
    fact::{Gap, Why},
    finding::{Judgement, Limits},
};

/// When the past begins.
pub fn beginning() -> Timestamp {
    "2026-01-01T03:00:00Z".parse().unwrap()
}

/// The night of a day.
pub fn night(day: u32) -> Timestamp {
    beginning() + SignedDuration::from_hours(24 * i64::from(day))
}

/// A machine as it is on some day.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Machine {
    pub number: u32,
    pub host: String,
    pub product: &'static str,
    pub firmware: String,
    pub kernel: String,
    /// Serial numbers of modules by slot.
    pub modules: BTreeMap<String, String>,
    /// Serial numbers of disks by address.
    pub disks: BTreeMap<String, String>,
    pub memory_free: u64,
    /// So large that another byte is not seen in any rounded number.
    pub rom_bytes: u64,
    /// What whoever looks cannot see.
    pub hidden: BTreeSet<Hidden>,
}

/// What a look at a machine may not be able to see.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Hidden {
    /// Which modules there are.
    Modules,
    /// Which modules there are beside the first.
    OtherModules,
    /// Which disks there are beside the first.
    OtherDisks,
    /// The serial numbers of disks.
    Serials,
    /// Anything of storage.
    Storage,
    /// The firmware's version.
    Version,
}

impl Machine {
    pub fn new(number: u32) -> Self {
        Self {
            number,
            host: format!("tide-{number:03}"),
            product: "Fathom 2240",
            firmware: "2.4".into(),
            kernel: "6.12.31".into(),
            modules: ["A1", "B1"]
                .into_iter()
                .map(|slot| (slot.to_owned(), format!("LW-{number:03}-{slot}")))
                .collect(),
            disks: ["0000:01:00.0 port 0", "0000:01:00.0 port 1"]
                .into_iter()
                .enumerate()
                .map(|(at, address)| (address.to_owned(), format!("SKS4-{number:03}-{at}")))
                .collect(),
            memory_free: 1000,
            rom_bytes: 12_884_901_888,
            hidden: BTreeSet::new(),
        }
    }

    pub fn uuid(&self) -> String {
        format!("5b8f3c02-91de-4a67-b7c4-{:012x}", self.number + 1)
    }

    /// What a look at it on some day finds.
    pub fn report(&self, day: u32) -> Report {
        self.report_at(night(day))
    }

    pub fn report_at(&self, at: Timestamp) -> Report {
        let mut report = made::empty();
        report.taken.at = at;
        report.taken.subject = "live".into();
        // Where nobody sees a part there is none, unless it is hidden.
        if let Some(memory) = &mut report.inventory.memory {
            memory.modules = Parts::known(Vec::new(), made::evidence());
        }
        if let Some(storage) = &mut report.inventory.storage {
            storage.disks = Parts::known(Vec::new(), made::evidence());
        }
        let mut set = |pointer: String, value: serde_json::Value| {
            made::set(&mut report, &pointer, &value);
        };
        set("/machine/hostname".into(), json!(self.host));
        set("/machine/system_uuid".into(), json!(self.uuid()));
        set("/machine/serial".into(), json!(format!("MS-{:05}", self.number)));
        set("/machine/machine_id".into(), json!(format!("{:032x}", self.number + 1)));
        set("/inventory/platform/system/manufacturer".into(), json!("Marram Systems"));
        set("/inventory/platform/system/product".into(), json!(self.product));
        set("/inventory/firmware/version".into(), json!(self.firmware));
        set("/inventory/firmware/rom_size_bytes".into(), json!(self.rom_bytes));
        set("/inventory/os/kernel_release".into(), json!(self.kernel));
        for (row, (slot, serial)) in self.modules.iter().enumerate() {
            let at = format!("/inventory/memory/modules/{row}");
            set(format!("{at}/slot"), json!(slot));
            set(format!("{at}/serial"), json!(serial));
            set(format!("{at}/part_number"), json!("LW32G"));
            set(format!("{at}/size_bytes"), json!(34_359_738_368_u64));
        }
        for (row, (address, serial)) in self.disks.iter().enumerate() {
            let at = format!("/inventory/storage/disks/{row}");
            set(format!("{at}/address"), json!(address));
            set(format!("{at}/name"), json!(format!("sd{}", char::from(b'a' + row as u8))));
            set(format!("{at}/model"), json!("SKS4"));
            set(format!("{at}/serial"), json!(serial));
        }
        set("/readings/memory/available_bytes".into(), json!(self.memory_free));
        self.hide(&mut report);
        report
    }
}

impl Machine {
    /// Takes out what is not to be seen.
    fn hide(&self, report: &mut Report) {
        let gap = || Gap::new(Why::Permission);
        for hidden in &self.hidden {
            match hidden {
                Hidden::Modules => {
                    report.inventory.memory.as_mut().unwrap().modules = Parts::missing(gap());
                }
                Hidden::OtherModules => {
                    let modules = &mut report.inventory.memory.as_mut().unwrap().modules;
                    let first = modules.iter().take(1).cloned().collect();
                    *modules = Parts::known(first, made::evidence()).in_part(Some(gap()));
                }
                Hidden::OtherDisks => {
                    let disks = &mut report.inventory.storage.as_mut().unwrap().disks;
                    let first = disks.iter().take(1).cloned().collect();
                    *disks = Parts::known(first, made::evidence()).in_part(Some(gap()));
                }
                Hidden::Serials => {
                    let shown = report.inventory.storage.as_ref().unwrap().disks.len();
                    for row in 0..shown {
                        let at = format!("/inventory/storage/disks/{row}/serial");
                        made::gap_at(report, &at, gap());
                    }
                }
                Hidden::Storage => report.inventory.storage = None,
                Hidden::Version => made::gap_at(report, "/inventory/firmware/version", gap()),
            }
        }
    }
}

/// What values are, plainly: nothing where there are none.
pub fn plain(values: &[Exact]) -> Option<String> {
    let texts: Vec<&str> = values.iter().map(Exact::text).collect();
    (!texts.is_empty()).then(|| texts.join(", "))
}

/// Saves a look.
pub fn save(store: &dyn Store, report: &Report) -> Result<Saved, StoreError> {
    let judgement = Judgement::of(report, &Limits::default());
    store.save(&Prepared::of(report, &judgement).unwrap())
}

/// Everything that an archive says of a machine, to be compared with what another says.
pub fn told(store: &dyn Store) -> Vec<String> {
    let mut told = Vec::new();
    for latest in store.machines().unwrap() {
        told.push(format!("{latest:?}"));
        for entry in store.entries(&latest.machine).unwrap() {
            let observation = store.observation(&latest.machine, entry.number).unwrap();
            let state = store.state(&latest.machine, &observation.state).unwrap();
            assert!(state.is_whole());
            for at in store.origins_list(&latest.machine, entry.number).unwrap() {
                let text = store.origins_text(&latest.machine, &at).unwrap();
                told.push(format!("{} {} {text:?}", at.section, at.digest));
            }
            let state = serde_json_canonicalizer::to_string(&state).unwrap();
            told.push(format!("{observation:?} {state}"));
        }
        told.push(format!("{:?}", store.marks(&latest.machine).unwrap()));
        told.push(format!("{:?}", store.removed(&latest.machine).unwrap()));
    }
    told
}
