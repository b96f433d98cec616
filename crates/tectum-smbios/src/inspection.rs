//! What is odd about a table as a whole: what its entry point says of it against what it holds.

use std::collections::BTreeMap;

use crate::{Checksum, EntryPoint, EntryPointKind, Handle, TableProblem, walk};

/// A table looked at as a whole.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Inspection {
    /// How many structures can be read, the end-of-table structure counted.
    pub structures: usize,
    /// How many bytes they take.
    pub used_bytes: usize,
    /// What is odd, in the order of the table.
    pub oddities: Vec<Oddity>,
}

/// Something that the standard does not foresee. What is readable is read all the same.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum Oddity {
    /// The walk ended early, or the end was not marked.
    #[error("{0}")]
    Problem(TableProblem),
    /// Several structures have one handle, which the standard wants unique (clause 6.1.2).
    #[error(
        "{count} structures have the handle {handle}; the first is taken where one refers to it"
    )]
    SameHandle {
        /// The handle.
        handle: Handle,
        /// How many have it.
        count: usize,
    },
    /// The entry point gives another number of structures (clause 5.2.1, offset 1Ch).
    #[error("the entry point says {declared} structures, and the table holds {found}")]
    Count {
        /// What the entry point says.
        declared: u16,
        /// What can be read.
        found: usize,
    },
    /// The entry point gives another length.
    #[error("the entry point says that the table is {declared} bytes long, and {given} are there")]
    Length {
        /// What the entry point says, in bytes.
        declared: u32,
        /// The bytes that were given.
        given: usize,
    },
    /// Bytes behind the end-of-table structure that are not zero.
    #[error("{count} bytes follow the end-of-table structure")]
    BytesBehindEnd {
        /// How many.
        count: usize,
    },
    /// A checksum of the entry point does not hold.
    #[error(
        "the entry point's {which} checksum does not hold: its bytes add up to {sum:#04x}, not to 0"
    )]
    Checksum {
        /// Which of the two.
        which: &'static str,
        /// What the bytes add up to.
        sum: u8,
    },
}

/// Looks at a table as a whole, and at what its entry point, if there is one, says of it.
///
/// Memory is bounded by the number of distinct handles, of which there are 65,536 at the most.
pub fn inspect(table: &[u8], entry_point: Option<&EntryPoint>) -> Inspection {
    let mut oddities = Vec::new();
    let mut handles: BTreeMap<Handle, usize> = BTreeMap::new();
    let mut structures = 0usize;
    let mut walking = walk(table);
    for step in walking.by_ref() {
        match step {
            Ok(structure) => {
                structures += 1;
                *handles.entry(structure.handle()).or_default() += 1;
            }
            Err(problem) => oddities.push(Oddity::Problem(problem)),
        }
    }
    let used_bytes = walking.position();
    let behind = table.get(used_bytes..).unwrap_or_default();
    // Zeros fill a table up to the size of its area; after a problem the rest was never read.
    if oddities.is_empty() && behind.iter().any(|byte| *byte != 0) {
        oddities.push(Oddity::BytesBehindEnd { count: behind.len() });
    }
    let several = handles.into_iter().filter(|(_, count)| *count > 1);
    oddities.extend(several.map(|(handle, count)| Oddity::SameHandle { handle, count }));
    if let Some(entry) = entry_point {
        if let Some(declared) =
            entry.structure_count.filter(|count| usize::from(*count) != structures)
        {
            oddities.push(Oddity::Count { declared, found: structures });
        }
        let declared = usize::try_from(entry.table_length).unwrap_or(usize::MAX);
        let differs = match entry.kind {
            EntryPointKind::Bits32 => declared != table.len(),
            // The 64-bit entry point gives the most that the table can take.
            EntryPointKind::Bits64 => declared < table.len(),
        };
        if differs {
            oddities.push(Oddity::Length { declared: entry.table_length, given: table.len() });
        }
        let sums = [("first", Some(entry.checksum)), ("second", entry.intermediate_checksum)];
        for (which, sum) in sums {
            if let Some(Checksum::Off(sum)) = sum {
                oddities.push(Oddity::Checksum { which, sum });
            }
        }
    }
    Inspection { structures, used_bytes, oddities }
}
