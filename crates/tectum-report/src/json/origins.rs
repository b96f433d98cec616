//! Where the values of a report are from and why others are missing, section by section: apart from the
//! values, as an archive keeps it. What many looks at a machine share is then kept once.

use std::{
    collections::{BTreeMap, HashMap},
    sync::Arc,
};

use serde::{Deserialize, Serialize};
use serde_json::Value;

use super::{
    envelope::GapAt,
    pointer::members,
    read::{ReadError, Where, Whole, filled},
    wanted::PassedOver,
    write::add_meanings,
};
use crate::{
    fact::{Evidence, Gap},
    report::{Note, Report, Taken},
    version::REPORT,
    walk::Met,
};

/// Where the values of one section are from, and why others are missing.
///
/// Of what moves by itself the gaps are held and the evidence is not: raw text that is another at every look
/// would be kept for each of them.
#[derive(Debug, Clone, Default, Serialize, Deserialize)]
pub struct Origins {
    /// Gaps by where they are.
    gaps: Vec<GapAt<String, Gap>>,
    /// For each value of the inventory, by its JSON Pointer, where it came from.
    evidence: BTreeMap<String, Vec<Evidence>>,
    /// The sentences that codes stand for.
    meanings: BTreeMap<String, String>,
}

/// How much is read of where values are from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Depth {
    /// All of it.
    Whole,
    /// Why values are missing, and not where the others are from.
    Gaps,
    /// Of why values are missing the reason alone, without who was asked and what would help.
    Reasons,
}

/// What is read where only gaps are wanted; the rest, which is far more, is passed over.
#[derive(Deserialize)]
struct GapsAlone {
    gaps: Vec<GapAt<String, Gap>>,
    meanings: BTreeMap<String, String>,
}

impl Origins {
    /// Reads what was written of a section.
    ///
    /// # Errors
    /// What is wrong with the text.
    pub fn read(text: &[u8], depth: Depth) -> Result<Self, serde_json::Error> {
        if depth == Depth::Whole {
            return serde_json::from_slice(text);
        }
        let GapsAlone { gaps, meanings } = serde_json::from_slice(text)?;
        Ok(Self { gaps, evidence: BTreeMap::new(), meanings })
    }
}

/// What a report is put together from.
#[derive(Debug)]
pub struct Pieces<'a> {
    /// When, how and by whom it was taken.
    pub taken: Taken,
    /// Which machine it is, as plain values.
    pub machine: &'a Value,
    /// The inventory, as plain values.
    pub inventory: &'a Value,
    /// The readings, as plain values.
    pub readings: &'a Value,
    /// Where values are from, of as many sections as are wanted: the values of others are whole all the same.
    pub origins: Vec<Arc<Origins>>,
    /// What a reader should know and no field says.
    pub notes: Vec<Note>,
}

/// The name of what says which machine it is, beside the sections.
const MACHINE: &str = "machine";

impl Report {
    /// Where its values are from, by section; what says which machine it is stands under `machine`.
    pub fn origins(&self) -> BTreeMap<String, Origins> {
        let mut sections: BTreeMap<String, Origins> = BTreeMap::new();
        self.walk(&mut |at, _, met| {
            let (evidence, gap) = match met {
                Met::Leaf(fact) => (fact.evidence(), fact.missing().or_else(|| fact.hidden_part())),
                Met::List(list) => (list.evidence(), list.missing().or_else(|| list.hidden_part())),
                Met::Record(_) => return,
            };
            let mut way = members(at.as_str());
            let root = way.next().unwrap_or_default();
            let moves = root == "readings";
            if gap.is_none() && (evidence.is_empty() || moves) {
                return;
            }
            let section = if root == MACHINE { root } else { way.next().unwrap_or_default() };
            let own = sections.entry(section).or_default();
            if let Some(gap) = gap {
                own.gaps.push(GapAt { at: at.as_str().to_owned(), gap: gap.clone() });
            }
            if !evidence.is_empty() && !moves {
                own.evidence.insert(at.as_str().to_owned(), evidence.to_vec());
            }
            add_meanings(&mut own.meanings, evidence.iter().filter(|_| !moves), gap);
        });
        sections
    }

    /// Puts a report together again. What was asked of the machine, access by access, it does not hold.
    ///
    /// # Errors
    /// A [`ReadError`] that says which piece is none, and where.
    pub fn of_pieces(pieces: Pieces<'_>) -> Result<Self, ReadError> {
        let Pieces { taken, machine, inventory, readings, origins, notes } = pieces;
        let mut gaps = Vec::new();
        let mut evidence = HashMap::new();
        let mut meanings = BTreeMap::new();
        for one in origins {
            let one = Arc::unwrap_or_clone(one);
            gaps.extend(one.gaps);
            evidence.extend(one.evidence);
            meanings.extend(one.meanings);
        }
        let whole = Whole {
            format_version: REPORT.current,
            newer: false,
            taken,
            machine: machine.into(),
            inventory: inventory.into(),
            readings: readings.into(),
            origins: Where::by_pointer(gaps, evidence, &meanings),
            sources: Vec::new(),
            notes,
        };
        Ok(filled(whole, PassedOver::new(), None)?.0)
    }
}
