//! The walk through a table: header, formatted part, string set (clause 6.1).

use crate::{Text, bytes};

/// A structure's number within its table, by which structures refer to one another.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Handle(pub u16);

impl std::fmt::Display for Handle {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "0x{:04X}", self.0)
    }
}

/// One structure: its formatted part and its strings, borrowed from the table.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Structure<'a> {
    kind: u8,
    handle: Handle,
    offset: usize,
    formatted: &'a [u8],
    strings: &'a [u8],
}

impl<'a> Structure<'a> {
    /// The structure type (clause 7 defines 0 to 127; 128 to 255 are the vendor's).
    pub fn kind(&self) -> u8 {
        self.kind
    }

    /// The structure's handle.
    pub fn handle(&self) -> Handle {
        self.handle
    }

    /// Where the structure begins in the table, in bytes.
    pub fn offset(&self) -> usize {
        self.offset
    }

    /// The formatted part with its four-byte header.
    pub fn formatted(&self) -> &'a [u8] {
        self.formatted
    }

    /// The string set, without the zero byte that ends it.
    pub fn string_bytes(&self) -> &'a [u8] {
        self.strings
    }

    /// The strings in their order.
    pub fn strings(&self) -> impl Iterator<Item = &'a [u8]> + use<'a> {
        let body = self.strings.strip_suffix(b"\0").unwrap_or(self.strings);
        let any = !body.is_empty();
        body.split(|byte| *byte == 0).filter(move |_| any)
    }

    /// The string that a field's index names (clause 6.1.3): index 0 names none.
    pub fn text(&self, index: u8) -> Text<'a> {
        let bytes = match index {
            0 => None,
            given => self.strings().nth(usize::from(given) - 1),
        };
        Text { index, bytes }
    }
}

/// What is wrong with a table at some offset. The structures before it were read.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum TableProblem {
    /// Fewer than four bytes are left for a header.
    #[error("the table ends within a structure header at offset {offset:#x}")]
    HeaderCut {
        /// Offset in the table, in bytes.
        offset: usize,
    },
    /// A header that says it is shorter than itself.
    #[error(
        "the structure at offset {offset:#x} gives its length as {length}, less than its header's 4 bytes"
    )]
    LengthTooSmall {
        /// Offset in the table, in bytes.
        offset: usize,
        /// The length given.
        length: u8,
    },
    /// The formatted part reaches past the table.
    #[error(
        "the structure at offset {offset:#x} gives its length as {length}, and only {left} bytes are left"
    )]
    FormattedCut {
        /// Offset in the table, in bytes.
        offset: usize,
        /// The length given.
        length: u8,
        /// Bytes left in the table from the structure's beginning.
        left: usize,
    },
    /// The strings are not ended by two zero bytes. The structure itself was given before this.
    #[error("the strings of the structure at offset {offset:#x} have no end")]
    StringsCut {
        /// Offset of the structure in the table, in bytes.
        offset: usize,
    },
    /// The table ended without a structure of type 127 (clause 7.45).
    #[error("the table has no end-of-table structure (type 127)")]
    NoEnd,
}

/// Walks a table's structures in their order.
///
/// The walk ends after the end-of-table structure, at the end of the bytes, or after the first
/// problem from which the next structure cannot be found.
pub fn walk(table: &[u8]) -> Walk<'_> {
    Walk { table, next: 0, state: State::Walking }
}

/// The iterator that [`walk`] returns.
#[derive(Debug, Clone)]
pub struct Walk<'a> {
    table: &'a [u8],
    next: usize,
    state: State,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum State {
    Walking,
    StringsCut(usize),
    Done,
}

impl Walk<'_> {
    /// The offset behind the last structure given, in bytes.
    pub fn position(&self) -> usize {
        self.next.min(self.table.len())
    }
}

impl<'a> Iterator for Walk<'a> {
    type Item = Result<Structure<'a>, TableProblem>;

    fn next(&mut self) -> Option<Self::Item> {
        match self.state {
            State::Done => return None,
            State::StringsCut(offset) => {
                self.state = State::Done;
                return Some(Err(TableProblem::StringsCut { offset }));
            }
            State::Walking => {}
        }
        let offset = self.next;
        let rest = self.table.get(offset..).unwrap_or_default();
        if rest.is_empty() {
            self.state = State::Done;
            return Some(Err(TableProblem::NoEnd));
        }
        match split(rest, offset) {
            Ok((structure, strings_end)) => {
                match strings_end {
                    Some(end) => self.next = offset.saturating_add(end),
                    None => {
                        self.next = self.table.len();
                        self.state = State::StringsCut(offset);
                    }
                }
                if structure.kind == 127 {
                    self.state = State::Done;
                }
                Some(Ok(structure))
            }
            Err(problem) => {
                self.state = State::Done;
                Some(Err(problem))
            }
        }
    }
}

/// The first structure of `rest`, and where the next begins if its strings end.
fn split(rest: &[u8], offset: usize) -> Result<(Structure<'_>, Option<usize>), TableProblem> {
    let header: [u8; 4] = bytes::array(rest, 0).ok_or(TableProblem::HeaderCut { offset })?;
    let [kind, length, low, high] = header;
    if length < 4 {
        return Err(TableProblem::LengthTooSmall { offset, length });
    }
    let formatted = bytes::slice(rest, 0, usize::from(length))
        .ok_or(TableProblem::FormattedCut { offset, length, left: rest.len() })?;
    let after = rest.get(formatted.len()..).unwrap_or_default();
    // The set ends with an empty string: two zero bytes, also where there is no string at all.
    let end = after.windows(2).position(|pair| pair == [0, 0]);
    let strings = match end {
        Some(0) => &[][..],
        Some(at) => after.get(..=at).unwrap_or_default(),
        None => after,
    };
    let structure = Structure {
        kind,
        handle: Handle(u16::from_le_bytes([low, high])),
        offset,
        formatted,
        strings,
    };
    Ok((structure, end.map(|at| formatted.len() + at + 2)))
}
