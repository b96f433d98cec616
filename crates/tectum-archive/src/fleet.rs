//! A fleet at a glance: a row a machine, and which machines have which value.

use std::{
    collections::{BTreeMap, BTreeSet},
    sync::{Mutex, PoisonError},
};

use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use tectum_report::{
    Report,
    compare::shown,
    fact::Fact,
    leaf::Leaf,
    query::{Found, HitValue, Path, find_all},
};

use crate::{
    exact::Exact,
    store::{Asked, Latest, Store, StoreError},
};

/// What a list of machines tells of one.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Overview {
    /// The system's manufacturer and product.
    pub model: Option<String>,
    /// The processor's model.
    pub processor: Option<String>,
    /// Processor packages.
    pub packages: Option<u64>,
    /// Cores that are online.
    pub cores: Option<u64>,
    /// Installed memory in bytes; what the kernel was given where the firmware tells of no modules.
    pub memory_bytes: Option<u64>,
    /// Drives, each once.
    pub drives: Option<u64>,
    /// Size of them all in bytes.
    pub drives_bytes: Option<u64>,
    /// The operating system's name and version.
    pub system: Option<String>,
    /// The kernel's release.
    pub kernel: Option<String>,
    /// Tags that its owner gave it.
    pub asset_tags: Vec<String>,
}

impl Overview {
    /// What a report tells.
    pub fn of(report: &Report) -> Self {
        fn text<T: Leaf>(fact: &Fact<T>) -> Option<String> {
            shown(fact).filter(|text| !text.is_empty())
        }
        let inventory = &report.inventory;
        let mut own = Self::default();
        if let Some(platform) = &inventory.platform {
            let system = &platform.system;
            let words = [text(&system.manufacturer), text(&system.product)];
            let words: Vec<String> = words.into_iter().flatten().collect();
            own.model = (!words.is_empty()).then(|| words.join(" "));
            let chassis = platform.chassis.iter().map(|one| text(&one.asset_tag));
            let boards = platform.boards.iter().map(|one| text(&one.asset_tag));
            own.asset_tags = chassis.chain(boards).flatten().collect();
            own.asset_tags.dedup();
        }
        if let Some(cpu) = &inventory.cpu {
            own.processor = text(&cpu.model_name).or_else(|| text(&cpu.vendor));
            own.packages = cpu.packages.value().copied();
            own.cores = cpu.cores.value().copied();
        }
        // What the machine holds, by whatever tells it; what the kernel manages of it is less.
        let told = inventory.memory.iter().flat_map(|memory| {
            [&memory.installed_bytes, &memory.device_tree_bytes, &memory.blocks.online_bytes]
        });
        let managed = report.readings.memory.as_ref().map(|now| &now.total_bytes);
        let bytes = told.chain(managed).find_map(Fact::value);
        own.memory_bytes = bytes.map(|bytes| bytes.0);
        if let Some(storage) = &inventory.storage {
            own.drives = storage.drives.value().copied();
            own.drives_bytes = storage.total_bytes.value().map(|bytes| bytes.0);
        }
        if let Some(os) = &inventory.os {
            own.system = text(&os.pretty_name).or_else(|| text(&os.name));
            own.kernel = text(&os.kernel_release);
        }
        own
    }
}

/// A machine in a list of a fleet.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Row {
    /// The machine as it was looked at last.
    #[serde(flatten)]
    pub latest: Latest,
    /// Whether it was not looked at for longer than it should be.
    pub stale: bool,
}

impl Row {
    /// The row of a machine as it was looked at last.
    pub fn of(latest: Latest, stale_before: Timestamp) -> Self {
        Self { stale: latest.last_seen < stale_before, latest }
    }
}

/// What is at a path, and the machines that have it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Having {
    /// The values, sorted.
    pub values: Vec<Exact>,
    /// How many more there are, or may be, that the machines do not tell. Where there are neither, there is nothing at the
    /// path.
    pub not_told: usize,
    /// Host names of the machines, or their keys.
    pub machines: Vec<String>,
}

/// The values that a machine tells, and how many it does not tell.
type Told = (Vec<Exact>, usize);

/// Which machines have which value at a path, the most common first. A machine with several has all of them
/// together as one.
///
/// # Errors
/// What stands in the way of reading a machine's state.
pub fn by_value(
    store: &dyn Store,
    machines: &[Latest],
    path: &Path,
) -> Result<Vec<Having>, StoreError> {
    let rows: Mutex<BTreeMap<Told, BTreeSet<usize>>> = Mutex::default();
    let asked = Asked::paths(std::slice::from_ref(path));
    store.latest_values(machines, &asked, &|row, report| {
        let found = find_all(report, path);
        let not_told = found.gaps().count() + usize::from(path.not_surveyed(report).is_some());
        let told = (known(&found), not_told);
        rows.lock().unwrap_or_else(PoisonError::into_inner).entry(told).or_default().insert(row);
    })?;
    let rows = rows.into_inner().unwrap_or_else(PoisonError::into_inner);
    let named = |rows: BTreeSet<usize>| {
        rows.into_iter().filter_map(|row| Some(machines.get(row)?.name())).collect()
    };
    let having = rows.into_iter();
    let having =
        having.map(|((values, not_told), rows)| Having { values, not_told, machines: named(rows) });
    let mut having: Vec<Having> = having.collect();
    having.sort_by_key(|one| std::cmp::Reverse(one.machines.len()));
    Ok(having)
}

/// The known values at a path, sorted.
pub(crate) fn values_at(report: &Report, path: &Path) -> Vec<Exact> {
    known(&find_all(report, path))
}

/// The known values of what was found, sorted.
fn known(found: &Found<'_>) -> Vec<Exact> {
    let facts = found.hits.iter().filter_map(|hit| match hit.value {
        HitValue::Fact(fact) => Exact::of(fact),
        _ => None,
    });
    let mut values: Vec<Exact> = facts.collect();
    values.sort();
    values
}
