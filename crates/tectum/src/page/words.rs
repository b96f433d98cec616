//! What stands on a line: words with their weight, signs, and small drawings.

use super::drawing::Bar;

/// How a piece of text is meant.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Tone {
    /// As it is.
    Plain,
    /// What matters most.
    Strong,
    /// What matters least.
    Quiet,
    /// A label.
    Label,
    /// A value before, or what wants looking at.
    Before,
    /// A value after, or what is meant.
    After,
    /// Something wrong.
    Alarm,
}

/// A space between words that stand on one line.
pub(crate) const TOGETHER: char = '\u{a0}';

/// A sign that means something.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Sign {
    /// A critical finding.
    Critical,
    /// A warning.
    Warning,
    /// A notice.
    Notice,
    /// A finding that the owner accepts.
    Accepted,
    /// What to do.
    Action,
    /// From a value before to the one after.
    Becomes,
    /// What comes before rests on what follows.
    RestsOn,
    /// A line as it stands in a file.
    Quote,
    /// Between values that stand in a row.
    Between,
    /// Before and after what was searched for.
    Found(Edge),
}

impl Sign {
    /// The tone of the sign, and of what is said with it.
    pub(crate) fn tone(self) -> Tone {
        match self {
            Self::Critical => Tone::Alarm,
            Self::Warning => Tone::Before,
            Self::Notice => Tone::Label,
            Self::Found(_) => Tone::After,
            Self::Accepted
            | Self::Action
            | Self::Becomes
            | Self::RestsOn
            | Self::Quote
            | Self::Between => Tone::Quiet,
        }
    }
}

/// An end of something.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Edge {
    Begin,
    End,
}

/// A piece of a line.
#[derive(Debug, Clone)]
pub(crate) enum Piece {
    /// Words.
    Text(Tone, String),
    /// What tells one part from all others, as people copy it.
    Identity(String),
    /// A sign, which has words where there are no signs.
    Sign(Sign),
    /// A sign before words that say the same.
    Mark(Sign),
    /// A short bar.
    Bar(Bar),
    /// Slots: whether each is filled, banks apart.
    Strip(Vec<Vec<bool>>),
    /// How much something is of a whole.
    Share { part: u64, whole: u64 },
    /// Numbers one after the other.
    Series(Vec<i64>),
}
