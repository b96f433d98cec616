//! A page, described: what is said, in which order, with what weight. How it looks (columns, colours, signs, boxes)
//! is a renderer's to decide, and no view knows.

mod block;
mod drawing;
mod words;

pub(crate) use block::{Block, Cell, Column, Found, Group, Line, Place, Table, UNKNOWN};
pub(crate) use drawing::{
    Bar, Cache, Card, Node, Package, Packages, Part, Slot, SlotGroup, SlotHolds, Tree,
};
pub(crate) use words::{Edge, Piece, Sign, TOGETHER, Tone};

use tectum_report::{fact::Fact, leaf::Serial};

/// A page.
#[derive(Debug, Default)]
pub(crate) struct Page {
    blocks: Vec<Block>,
}

/// What is said on the last line.
pub(crate) struct Said<'a>(&'a mut Vec<Block>);

impl Page {
    /// What is on it, in order.
    pub(crate) fn blocks(&self) -> &[Block] {
        &self.blocks
    }

    fn line(&mut self, place: Place) -> Said<'_> {
        self.blocks.push(Block::Line(Line { place, words: Vec::new() }));
        Said(&mut self.blocks)
    }

    /// The beginning of what is said of a section.
    pub(crate) fn section(&mut self, name: &'static str) {
        self.blocks.push(Block::Section(name));
    }

    /// What is odd, with the sections that it is of.
    pub(crate) fn findings(&mut self, all: Vec<Found>) {
        self.blocks.push(Block::Findings(all));
    }

    /// Things that hang together, for where pictures are drawn. What it shows is told in words too.
    pub(crate) fn tree(&mut self, tree: Tree) {
        if !tree.roots.is_empty() {
            self.blocks.push(Block::Tree(tree));
        }
    }

    /// Room between what does not belong together.
    pub(crate) fn gap(&mut self) {
        // What would have stood between two of them may have had nothing to say.
        if !matches!(self.blocks.last(), Some(Block::Gap)) {
            self.blocks.push(Block::Gap);
        }
    }

    /// The top of a page: the name, and what else says who it is.
    pub(crate) fn title(&mut self, name: &str, aside: &str) {
        self.blocks.push(Block::Title { name: name.to_owned(), aside: aside.to_owned() });
    }

    /// A label; what is said goes beside it.
    pub(crate) fn entry(&mut self, label: &str) -> Said<'_> {
        self.line(Place::Entry(label.to_owned()))
    }

    /// Another line of the entry before.
    pub(crate) fn beside(&mut self) -> Said<'_> {
        self.line(Place::Beside)
    }

    /// A line beneath what was said in the entry before: a name, and what it has to say.
    pub(crate) fn beneath<'a>(
        &mut self,
        name: &str,
        parts: impl IntoIterator<Item = (Tone, &'a str)>,
    ) -> Said<'_> {
        let said = self.line(Place::Beneath).quiet(name);
        parts.into_iter().fold(said, |said, (tone, part)| said.plain(" ").tone(tone, part))
    }

    /// A line over what belongs together.
    pub(crate) fn heading(&mut self, text: &str) {
        self.blocks.push(Block::Heading(text.to_owned()));
    }

    /// A paragraph.
    pub(crate) fn paragraph(&mut self, text: &str) {
        self.line(Place::Paragraph).plain(text);
    }

    /// The beginning of a paragraph.
    pub(crate) fn paragraph_of(&mut self, text: &str, tone: Tone) -> Said<'_> {
        self.line(Place::Paragraph).tone(tone, text)
    }

    /// A line beneath the beginning of a paragraph.
    pub(crate) fn beneath_paragraph(&mut self) -> Said<'_> {
        self.line(Place::BeneathParagraph)
    }

    /// A command as it is typed.
    #[cfg(feature = "demo")]
    pub(crate) fn command(&mut self, line: &str) {
        self.blocks.push(Block::Command(line.to_owned()));
    }

    /// A table. A heading that begins with `>` is of a column of numbers, one that begins with `?` of a column that
    /// may be left out where there is no room, one that begins with `=` of what tells one part from all others.
    pub(crate) fn table<C: Into<Cell>>(
        &mut self,
        heads: &[&str],
        rows: impl IntoIterator<Item = Vec<C>>,
    ) {
        let rows = rows.into_iter().map(|row| row.into_iter().map(Into::into).collect()).collect();
        self.grouped(heads, vec![Group { rows, ..Group::default() }]);
    }

    /// A table whose rows belong to several things.
    pub(crate) fn grouped(&mut self, heads: &[&str], groups: Vec<Group>) {
        let columns = heads.iter().map(|head| Column::of(head)).collect();
        self.blocks.push(Block::Table(Table { columns, groups }));
    }

    /// A bar of parts in proportion, as long as there is room.
    pub(crate) fn bar(&mut self, bar: Bar) {
        self.blocks.push(Block::Bar(bar));
    }

    /// Memory slots as they sit.
    pub(crate) fn slots(&mut self, groups: Vec<SlotGroup>) {
        self.blocks.push(Block::Slots(groups));
    }

    /// Processors with what they share.
    pub(crate) fn packages(&mut self, packages: Packages) {
        self.blocks.push(Block::Packages(packages));
    }

    /// Labels with what they say, as on a card.
    pub(crate) fn card(&mut self, card: Card) {
        self.blocks.push(Block::Card(card));
    }

    /// Lines whose columns mean something, as bytes in hexadecimal.
    pub(crate) fn fixed(&mut self, lines: Vec<String>) {
        self.blocks.push(Block::Fixed(lines));
    }
}

impl Said<'_> {
    fn piece(self, piece: Piece) -> Self {
        if let Some(Block::Line(line)) = self.0.last_mut() {
            line.words.push(piece);
        }
        self
    }

    pub(crate) fn tone(self, tone: Tone, text: impl AsRef<str>) -> Self {
        match text.as_ref() {
            "" => self,
            text => self.piece(Piece::Text(tone, text.to_owned())),
        }
    }

    pub(crate) fn plain(self, text: impl AsRef<str>) -> Self {
        self.tone(Tone::Plain, text)
    }

    pub(crate) fn strong(self, text: impl AsRef<str>) -> Self {
        self.tone(Tone::Strong, text)
    }

    pub(crate) fn quiet(self, text: impl AsRef<str>) -> Self {
        self.tone(Tone::Quiet, text)
    }

    /// What tells one part from all others.
    pub(crate) fn identity(self, text: impl AsRef<str>) -> Self {
        self.piece(Piece::Identity(text.as_ref().to_owned()))
    }

    /// A serial number, if it is known.
    pub(crate) fn serial(self, serial: &Fact<Serial>) -> Self {
        match serial.value() {
            Some(serial) => self.quiet(format!(", serial{TOGETHER}")).identity(&serial.0),
            None => self,
        }
    }

    /// A sign, which has words where there are no signs.
    pub(crate) fn sign(self, sign: Sign) -> Self {
        self.piece(Piece::Sign(sign))
    }

    /// A sign before words that say the same.
    pub(crate) fn mark(self, sign: Sign) -> Self {
        self.piece(Piece::Mark(sign))
    }

    /// A short bar of parts in proportion.
    pub(crate) fn bar(self, bar: Bar) -> Self {
        self.piece(Piece::Bar(bar))
    }

    /// A sign for each slot, banks apart.
    pub(crate) fn strip(self, banks: Vec<Vec<bool>>) -> Self {
        self.piece(Piece::Strip(banks))
    }

    /// How much something is of a whole.
    pub(crate) fn share(self, part: u64, whole: u64) -> Self {
        self.piece(Piece::Share { part, whole })
    }

    /// Numbers one after the other, as small columns.
    pub(crate) fn series(self, numbers: Vec<i64>) -> Self {
        self.piece(Piece::Series(numbers))
    }
}
