//! Where the structure table is read from: the kernel's copy of the whole, or, on kernels without
//! it, the files of one structure each.

use std::{collections::HashMap, sync::Arc};
use tectum_report::fact::saying;

use tectum_smbios::{Handle, walk};

use crate::{
    formats::number,
    readers::file::{File, list},
    source::Lease,
};
use tectum_report::fact::Gap;

/// The kernel publishes the structure table here (`Documentation/ABI/testing/sysfs-firmware-dmi-tables`).
const TABLE: &str = "/sys/firmware/dmi/tables/DMI";

/// One folder a structure, named `TYPE-INSTANCE`
/// (`Documentation/ABI/testing/sysfs-firmware-dmi-entries`).
const ENTRIES: &str = "/sys/firmware/dmi/entries";

/// A table larger than the 16-bit length of the 32-bit entry point can say is rare but allowed.
const TABLE_LIMIT: usize = 4 << 20;

/// A structure's formatted part has 255 bytes at the most; its strings are rarely longer than this.
const ENTRY_LIMIT: usize = 64 << 10;

/// Which of the kernel's files the table was read from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Origin {
    /// The copy of the whole table.
    WholeTable,
    /// The files of one structure each.
    Entries,
}

/// The structure table.
pub(crate) struct Table {
    pub(crate) origin: Origin,
    /// The file, or the folder of the files.
    pub(crate) path: Arc<str>,
    pub(crate) bytes: Result<Arc<[u8]>, Gap>,
    /// The file of each structure, where each has one.
    files: HashMap<Handle, Arc<str>>,
}

impl Table {
    pub(crate) fn read(lease: &Lease) -> Self {
        let whole = File::read_up_to(lease, TABLE, TABLE_LIMIT);
        let bytes = whole.bytes().cloned().map_err(Gap::clone);
        let gap = match &bytes {
            Err(gap) if !gap.why.hides_a_value() => gap.clone(),
            // What only root may read is no more readable in pieces.
            _ => {
                let path = Arc::clone(whole.path());
                return Self { origin: Origin::WholeTable, path, bytes, files: HashMap::new() };
            }
        };
        Self::of_entries(lease, gap)
    }

    fn of_entries(lease: &Lease, missing: Gap) -> Self {
        let mut found = Vec::new();
        let names = list(lease, ENTRIES);
        for name in names.iter().flat_map(|names| names.iter()).filter_map(|name| name.to_str()) {
            let file = |which: &str| format!("{ENTRIES}/{name}/{which}");
            let raw = File::read_up_to(lease, file("raw"), ENTRY_LIMIT);
            let Ok(bytes) = raw.bytes() else { continue };
            let position = number::decimal(&File::read(lease, file("position")).text());
            found.push((position.unwrap_or(u64::MAX), Arc::clone(bytes), Arc::clone(raw.path())));
        }
        // The folder's names sort 10-0 before 2-0; the table's own order is kept beside them.
        found.sort_by_key(|(position, ..)| *position);
        let mut table: Vec<u8> = Vec::new();
        let mut files = HashMap::new();
        for (_, bytes, path) in found {
            let Some(Ok(structure)) = walk(&bytes).next() else { continue };
            if table.len().saturating_add(bytes.len()) > TABLE_LIMIT {
                break;
            }
            files.entry(structure.handle()).or_insert(path);
            table.extend_from_slice(&bytes);
        }
        let bytes =
            match (files.is_empty(), names) {
                (false, _) => Ok(table.into()),
                (true, Ok(_)) => Err(missing
                    .tried(ENTRIES.into(), saying!("holds-no-structure", "holds no structure"))),
                (true, Err(gap)) => Err(Gap { tried: [missing.tried, gap.tried].concat(), ..gap }),
            };
        let (origin, path) = match &bytes {
            Ok(_) => (Origin::Entries, ENTRIES),
            Err(_) => (Origin::WholeTable, TABLE),
        };
        Self { origin, path: path.into(), bytes, files }
    }

    /// The file that holds the structure of a handle.
    pub(crate) fn path_of(&self, handle: Handle) -> Arc<str> {
        self.files.get(&handle).map_or_else(|| Arc::clone(&self.path), Arc::clone)
    }
}
