//! What is drawn where people think in pictures.

use super::words::Piece;

/// Parts of a whole in their order and proportion.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Bar {
    /// The size of it all; what no part takes is shown as free.
    pub(crate) whole: u64,
    pub(crate) parts: Vec<Part>,
}

/// A part of a bar.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Part {
    /// What it is called; nothing for what is free.
    pub(crate) name: Option<String>,
    /// What is to say of it, beside its name.
    pub(crate) says: String,
    pub(crate) size: u64,
    /// How full it is, in ten-thousandths, where that is known.
    pub(crate) full: Option<u64>,
}

impl Part {
    /// A part that nothing uses.
    pub(crate) fn free(size: u64) -> Self {
        Self { name: None, says: String::new(), size, full: None }
    }
}

/// Slots that belong together: a bank or a channel.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct SlotGroup {
    pub(crate) label: String,
    pub(crate) slots: Vec<Slot>,
}

/// A slot.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Slot {
    pub(crate) name: String,
    pub(crate) holds: SlotHolds,
}

/// What a slot holds.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum SlotHolds {
    /// A module, by its size.
    Module(String),
    /// Nothing.
    Empty,
    /// It is switched off.
    Disabled,
}

impl SlotHolds {
    /// In a word.
    pub(crate) fn words(&self) -> &str {
        match self {
            Self::Module(size) => size,
            Self::Empty => "empty",
            Self::Disabled => "disabled",
        }
    }
}

/// Processors: drawn where they are few enough, told otherwise.
#[derive(Debug)]
pub(crate) struct Packages {
    pub(crate) packages: Vec<Package>,
    /// The same in words, a line each.
    pub(crate) told: Vec<Vec<Piece>>,
}

/// A processor package.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Package {
    pub(crate) title: String,
    /// The CPUs of each core.
    pub(crate) cores: Vec<String>,
    /// Caches that several threads share, a row a level and kind.
    pub(crate) caches: Vec<Vec<Cache>>,
}

/// A cache, and the cores that share it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Cache {
    /// `L2`.
    pub(crate) name: String,
    pub(crate) size: Option<String>,
    /// The first of its cores, and how many they are.
    pub(crate) first: usize,
    pub(crate) cores: usize,
}

/// Labels with what they say.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Card {
    pub(crate) rows: Vec<(&'static str, String)>,
}

/// Things that hang together.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Tree {
    /// What it shows.
    pub(crate) title: &'static str,
    pub(crate) roots: Vec<Node>,
}

/// A thing, and what hangs on it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Node {
    pub(crate) text: String,
    pub(crate) below: Vec<Node>,
}
