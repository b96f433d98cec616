//! What a page is made of.

use super::{
    drawing::{Bar, Card, Packages, SlotGroup, Tree},
    words::{Piece, Sign},
};

/// A block.
#[derive(Debug)]
#[cfg_attr(not(feature = "html"), allow(dead_code, reason = "what only a page in HTML shows"))]
pub(crate) enum Block {
    /// The top of a page.
    Title {
        /// What it is about.
        name: String,
        /// What else says who or what that is.
        aside: String,
    },
    /// The beginning of a section, by its name.
    Section(&'static str),
    /// What is odd, with the sections that it is of: for a page that leads there.
    Findings(Vec<Found>),
    /// Room.
    Gap,
    /// A line over what belongs together.
    Heading(String),
    /// A line.
    Line(Line),
    /// A command as it is typed.
    #[cfg_attr(not(feature = "demo"), expect(dead_code, reason = "only the demo shows commands"))]
    Command(String),
    /// A table.
    Table(Table),
    /// A bar as long as there is room.
    Bar(Bar),
    /// Memory slots.
    Slots(Vec<SlotGroup>),
    /// Processors.
    Packages(Packages),
    /// Things that hang together, where pictures are drawn: what it shows is told in words too.
    Tree(Tree),
    /// Labels with what they say.
    Card(Card),
    /// Lines whose columns mean something.
    Fixed(Vec<String>),
}

/// Something odd.
#[derive(Debug, Clone)]
#[cfg_attr(not(feature = "html"), allow(dead_code, reason = "what only a page in HTML shows"))]
pub(crate) struct Found {
    pub(crate) sign: Sign,
    /// The section that it is of.
    pub(crate) section: String,
    /// JSON Pointer to the part that it is of.
    pub(crate) part: String,
    pub(crate) label: String,
    pub(crate) says: String,
}

/// Where a line stands.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Place {
    /// Beside a label.
    Entry(String),
    /// In the entry before.
    Beside,
    /// Beneath a line of the entry before; its first words are a name.
    Beneath,
    /// Over the whole width.
    Paragraph,
    /// Beneath the paragraph before.
    BeneathParagraph,
}

/// A line: as long as what it says.
#[derive(Debug)]
pub(crate) struct Line {
    pub(crate) place: Place,
    pub(crate) words: Vec<Piece>,
}

/// A table.
#[derive(Debug)]
pub(crate) struct Table {
    pub(crate) columns: Vec<Column>,
    pub(crate) groups: Vec<Group>,
}

/// Rows that belong together.
#[derive(Debug, Default)]
pub(crate) struct Group {
    /// What they belong to, and what is to say of that; nothing where a table is of one kind.
    pub(crate) title: Vec<Piece>,
    /// It as a drawing.
    pub(crate) bar: Option<Bar>,
    pub(crate) rows: Vec<Vec<Cell>>,
}

/// A column.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Column {
    pub(crate) head: String,
    /// Whether it holds numbers.
    pub(crate) numbers: bool,
    /// Whether it may be left out where there is no room.
    pub(crate) optional: bool,
    /// Whether it holds what tells one part from all others.
    pub(crate) identity: bool,
}

impl Column {
    pub(super) fn of(head: &str) -> Self {
        Self {
            head: head.trim_start_matches(['>', '?', '=']).to_owned(),
            numbers: head.contains('>'),
            optional: head.starts_with('?'),
            identity: head.starts_with('='),
        }
    }
}

/// A cell.
#[derive(Debug, Clone, PartialEq)]
pub(crate) enum Cell {
    /// A text.
    Text(String),
    /// Nothing is known of it.
    Missing,
    /// Counts, each behind its sign.
    Counts(Vec<(Sign, u64)>),
    /// Where a value stands between nothing and the most it may be, in ten-thousandths.
    Level(Option<u64>),
    /// How much something is of a whole.
    Share { part: u64, whole: u64 },
}

/// What stands for a value that is not known.
pub(crate) const UNKNOWN: &str = "·";

impl From<String> for Cell {
    fn from(text: String) -> Self {
        if text == UNKNOWN { Self::Missing } else { Self::Text(text) }
    }
}

impl From<Option<String>> for Cell {
    fn from(text: Option<String>) -> Self {
        text.map_or(Self::Missing, Self::Text)
    }
}
