//! What is wrong with a file, and where.

use std::{fmt, ops::Range};

/// What is wrong with a file that a person wrote.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FileError {
    /// The file's name.
    pub file: String,
    /// The line, from 1.
    pub line: usize,
    /// The column in characters, from 1.
    pub column: usize,
    /// What is wrong.
    pub said: String,
    /// The line as it stands.
    text: String,
    /// How many characters are meant.
    length: usize,
}

impl FileError {
    pub(crate) fn new(
        file: &str,
        text: &str,
        span: Option<Range<usize>>,
        said: impl Into<String>,
    ) -> Self {
        let placed = span.is_some();
        let span = span.unwrap_or(0..0);
        let before = text.get(..span.start).unwrap_or(text);
        let line = before.matches('\n').count();
        let start = before.rfind('\n').map_or(0, |at| at + 1);
        let whole = text.get(start..).unwrap_or_default().lines().next().unwrap_or_default();
        let meant = text.get(span.clone()).unwrap_or_default();
        let meant = meant.lines().next().unwrap_or_default();
        Self {
            file: file.to_owned(),
            line: line + 1,
            column: text.get(start..span.start).unwrap_or_default().chars().count() + 1,
            said: said.into(),
            text: whole.chars().take(MOST_SHOWN).collect(),
            length: if placed { meant.chars().count().clamp(1, MOST_SHOWN) } else { 0 },
        }
    }
}

/// The most characters of a line that are shown.
const MOST_SHOWN: usize = 160;

impl std::error::Error for FileError {}

impl fmt::Display for FileError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { file, line, column, said, text, length } = self;
        if *length == 0 {
            return write!(f, "{file}: {said}");
        }
        writeln!(f, "{file}:{line}:{column}: {said}")?;
        let number = line.to_string();
        writeln!(f, "  {number} │ {}", text.replace('\t', " "))?;
        let before = " ".repeat(number.len());
        let room = MOST_SHOWN.saturating_sub(column - 1).max(1);
        write!(f, "  {before} │ {}{}", " ".repeat(column - 1), "^".repeat((*length).min(room)))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_place_is_told_with_a_caret_beneath() {
        let text = "a = 1\nünd = \"wrong\"\n";
        let at = text.find("\"wrong\"").unwrap();
        let error = FileError::new("x.toml", text, Some(at..at + 7), "no such thing");
        assert_eq!(
            error.to_string(),
            "x.toml:2:7: no such thing\n  2 │ ünd = \"wrong\"\n    │       ^^^^^^^"
        );
    }

    #[test]
    fn any_place_is_shown() {
        let text = "a\n\u{e9}";
        for start in 0..6 {
            for end in start..6 {
                let _ = FileError::new("x", text, Some(start..end), "y").to_string();
            }
        }
    }
}
