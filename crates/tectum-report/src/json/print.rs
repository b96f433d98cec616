//! JSON as it is printed and saved: indented, and harmless to whatever shows it.
//!
//! RFC 8259 lets DEL, the C1 controls and the characters that turn the direction of writing stand as
//! they are; a terminal or an editor would obey them, so they are escaped.

use std::{
    cmp::Ordering,
    io::{self, Write},
};

use serde::Serialize;
use serde_json::{
    ser::{Formatter, Serializer},
    value::RawValue,
};

/// Whether a character does something to what shows it: control characters, and those that turn the
/// direction of writing (Unicode 16.0 clause 23.2 and annex 9).
pub fn is_harmful(character: char) -> bool {
    character.is_control()
        || matches!(
            character,
            '\u{061C}'
                | '\u{200E}'
                | '\u{200F}'
                | '\u{2028}'..='\u{202E}'
                | '\u{2066}'..='\u{2069}'
        )
}

/// Writes a value as JSON with a line end behind it: indented, the entries of long tables in a line each.
///
/// # Errors
/// When it cannot be written.
pub fn to_writer<T: Serialize + ?Sized>(to: impl Write, value: &T) -> io::Result<()> {
    indented(to, value, "  ")
}

/// The same, indented by one blank: a report is deep, and nobody reads hundreds of kilobytes of blanks.
///
/// # Errors
/// As [`to_writer`].
pub fn report_to_writer<T: Serialize + ?Sized>(to: impl Write, value: &T) -> io::Result<()> {
    indented(to, value, " ")
}

fn indented<T: Serialize + ?Sized>(
    mut to: impl Write,
    value: &T,
    indent: &'static str,
) -> io::Result<()> {
    let mut serializer =
        Serializer::with_formatter(&mut to, Harmless { indent, ..Harmless::default() });
    value.serialize(&mut serializer)?;
    to.write_all(b"\n")
}

/// A value as it stands in a line among others that do not: without blanks, for there may be thousands.
///
/// # Errors
/// When it cannot be told as JSON.
pub(super) fn in_a_line<T: Serialize>(value: &T) -> serde_json::Result<Box<RawValue>> {
    let mut line = Vec::new();
    value.serialize(&mut Serializer::with_formatter(&mut line, InALine))?;
    RawValue::from_string(String::from_utf8_lossy(&line).into_owned())
}

/// Writes a value as JSON in one line, as harmless, with a line end behind it.
///
/// # Errors
/// When it cannot be written.
pub fn line_to_writer<T: Serialize + ?Sized>(mut to: impl Write, value: &T) -> io::Result<()> {
    let mut serializer = Serializer::with_formatter(&mut to, InALine);
    value.serialize(&mut serializer)?;
    to.write_all(b"\n")
}

/// Writes a text's fragment, with what is harmful in it escaped.
fn write_harmless<W: ?Sized + Write>(to: &mut W, text: &str) -> io::Result<()> {
    let mut rest = text;
    while let Some(at) = rest.find(is_harmful) {
        let (before, behind) = rest.split_at(at);
        to.write_all(before.as_bytes())?;
        let mut characters = behind.chars();
        let mut units = [0; 2];
        for unit in characters.next().map_or(&[][..], |it| it.encode_utf16(&mut units)) {
            write!(to, "\\u{unit:04x}")?;
        }
        rest = characters.as_str();
    }
    to.write_all(rest.as_bytes())
}

/// A line, with what is harmful escaped.
struct InALine;

impl Formatter for InALine {
    fn write_string_fragment<W: ?Sized + Write>(
        &mut self,
        to: &mut W,
        text: &str,
    ) -> io::Result<()> {
        write_harmless(to, text)
    }
}

/// Members of a report that are long tables, and so deep their entries are: an entry of them stands in a line.
const TABLES: [(&[&str], usize); 6] = [
    (&["findings"], 2),
    (&["gaps"], 2),
    (&["evidence"], 2),
    (&["sources"], 2),
    (&["origins"], 3),
    (&["origins", "parts"], 4),
];

/// As deep as the names of tables stand.
const NAMES: usize = 2;

/// The member whose tables hold numbers, which nobody reads without a program: no blanks stand in them.
const OF_NUMBERS: &str = "origins";

/// Indented, but for the entries of long tables and lists of plain values, which stand in a line each: what is found
/// in a line is then whole. What is harmful is escaped.
#[derive(Default)]
struct Harmless {
    /// What a line begins with, for each array and object that it stands in.
    indent: &'static str,
    /// The arrays and objects that are being written.
    open: Vec<Level>,
    /// The names of the members that are being written, of the outermost ones.
    names: Vec<String>,
    /// Whether the last of them is still being written.
    in_name: bool,
    /// How deep entries are that stand in a line, where any do.
    entry: Option<usize>,
}

/// An array or an object that is being written.
struct Level {
    lines: Lines,
    /// Whether anything stands in it.
    any: bool,
}

/// How an array or an object is written.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Lines {
    /// An array of which it is not known yet: nothing stands in it, or one value that may be a plain one.
    Open,
    /// All in a line.
    One,
    /// A value a line.
    Each,
}

impl Harmless {
    fn lines(&self) -> Lines {
        self.open.last().map_or(Lines::Each, |level| level.lines)
    }

    fn is_tight(&self) -> bool {
        self.lines() == Lines::One && self.is_of_numbers()
    }

    /// What is no plain value stands in a line of its own.
    fn in_a_line_of_its_own<W: ?Sized + Write>(&mut self, to: &mut W) -> io::Result<()> {
        match self.open.last_mut().filter(|level| level.lines == Lines::Open) {
            Some(level) => {
                level.lines = Lines::Each;
                self.line(to)
            }
            None => Ok(()),
        }
    }

    fn open<W: ?Sized + Write>(&mut self, to: &mut W, sign: &[u8], other: Lines) -> io::Result<()> {
        self.in_a_line_of_its_own(to)?;
        let depth = self.open.len() + 1;
        let lines = match self.entry.map(|entry| depth.cmp(&entry)) {
            Some(Ordering::Greater) => Lines::One,
            Some(Ordering::Equal) => Lines::Each,
            _ if self.lines() == Lines::One => Lines::One,
            _ => other,
        };
        self.open.push(Level { lines, any: false });
        to.write_all(sign)
    }

    fn close<W: ?Sized + Write>(&mut self, to: &mut W, sign: &[u8]) -> io::Result<()> {
        let level = self.open.pop();
        if level.is_some_and(|level| level.any && level.lines == Lines::Each) {
            self.line(to)?;
        }
        to.write_all(sign)
    }

    /// What stands before a value of an array, or a name of an object.
    fn next<W: ?Sized + Write>(&mut self, to: &mut W, first: bool) -> io::Result<()> {
        if let Some(level) = self.open.last_mut() {
            level.any = true;
            if level.lines == Lines::Open && !first {
                level.lines = Lines::One;
            }
        }
        match (self.lines(), first) {
            (Lines::Open, _) | (Lines::One, true) => Ok(()),
            (Lines::One, false) if self.is_tight() => to.write_all(b","),
            (Lines::One, false) => to.write_all(b", "),
            (Lines::Each, first) => {
                if !first {
                    to.write_all(b",")?;
                }
                self.line(to)
            }
        }
    }

    fn is_of_numbers(&self) -> bool {
        self.names.first().is_some_and(|name| name == OF_NUMBERS)
    }

    fn line<W: ?Sized + Write>(&self, to: &mut W) -> io::Result<()> {
        to.write_all(b"\n")?;
        // What nobody reads is not indented.
        let deepest = if self.is_of_numbers() { 1 } else { usize::MAX };
        self.open.iter().take(deepest).try_for_each(|_| to.write_all(self.indent.as_bytes()))
    }
}

impl Formatter for Harmless {
    fn write_string_fragment<W: ?Sized + Write>(
        &mut self,
        to: &mut W,
        text: &str,
    ) -> io::Result<()> {
        if self.in_name
            && let Some(name) = self.names.last_mut()
        {
            name.push_str(text);
        }
        write_harmless(to, text)
    }

    fn write_raw_fragment<W: ?Sized + Write>(
        &mut self,
        to: &mut W,
        fragment: &str,
    ) -> io::Result<()> {
        self.in_a_line_of_its_own(to)?;
        to.write_all(fragment.as_bytes())
    }

    fn begin_array<W: ?Sized + Write>(&mut self, to: &mut W) -> io::Result<()> {
        self.open(to, b"[", Lines::Open)
    }

    fn end_array<W: ?Sized + Write>(&mut self, to: &mut W) -> io::Result<()> {
        self.close(to, b"]")
    }

    fn begin_array_value<W: ?Sized + Write>(&mut self, to: &mut W, first: bool) -> io::Result<()> {
        self.next(to, first)
    }

    fn begin_object<W: ?Sized + Write>(&mut self, to: &mut W) -> io::Result<()> {
        self.open(to, b"{", Lines::Each)
    }

    fn end_object<W: ?Sized + Write>(&mut self, to: &mut W) -> io::Result<()> {
        self.close(to, b"}")
    }

    fn begin_object_key<W: ?Sized + Write>(&mut self, to: &mut W, first: bool) -> io::Result<()> {
        let depth = self.open.len();
        if depth <= NAMES {
            self.names.truncate(depth.saturating_sub(1));
            self.names.push(String::new());
            self.in_name = true;
        }
        self.next(to, first)
    }

    fn begin_object_value<W: ?Sized + Write>(&mut self, to: &mut W) -> io::Result<()> {
        if std::mem::take(&mut self.in_name) {
            let of = |(names, entry): &(&[&str], usize)| {
                let begins = self.names.iter().zip(*names).all(|(own, name)| own == name);
                (self.names.len() >= names.len() && begins).then_some(*entry)
            };
            // The longest of them says it.
            self.entry = TABLES.iter().rev().find_map(of);
        }
        to.write_all(if self.is_tight() { b":" } else { b": " })
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use serde_json::{Value, json};

    use super::*;

    fn printed(value: &Value) -> String {
        let mut bytes = Vec::new();
        to_writer(&mut bytes, value).unwrap();
        String::from_utf8(bytes).unwrap()
    }

    #[test]
    fn what_is_harmful_is_escaped() {
        let text = printed(&json!({"a\u{9b}": "\u{7f}\u{85}\u{202e}\u{61c}\u{2028}\u{1b} é"}));
        assert_eq!(
            text,
            "{\n  \"a\\u009b\": \"\\u007f\\u0085\\u202e\\u061c\\u2028\\u001b é\"\n}\n"
        );
    }

    #[test]
    fn an_entry_of_a_table_stands_in_a_line() {
        let text = printed(&json!({
            "a": [{ "b": [1, 2] }],
            "gaps": [{ "at": "/x", "tried": [] }, { "at": "/y", "tried": [{ "c": 1 }] }],
            "z": { "b": [] },
        }));
        let expected = "{\n  \"a\": [\n    {\n      \"b\": [1, 2]\n    }\n  ],\n  \
            \"gaps\": [\n    {\"at\": \"/x\", \"tried\": []},\n    \
            {\"at\": \"/y\", \"tried\": [{\"c\": 1}]}\n  ],\n  \"z\": {\n    \"b\": []\n  }\n}\n";
        assert_eq!(text, expected);
    }

    #[test]
    fn what_stands_in_a_line_of_its_own_stands_among_others() {
        let line = in_a_line(&json!({ "a": [1, "\u{9b}"], "b": null })).unwrap();
        let mut printed = Vec::new();
        report_to_writer(&mut printed, &[line.clone(), line]).unwrap();
        let expected = "[\n {\"a\":[1,\"\\u009b\"],\"b\":null},\n \
            {\"a\":[1,\"\\u009b\"],\"b\":null}\n]\n";
        assert_eq!(String::from_utf8(printed).unwrap(), expected);
    }

    proptest! {
        #[test]
        fn any_tree_comes_back(names in prop::collection::vec("gaps|evidence|a", 1..5), number: u8) {
            let inner = json!([[], {}, [{ "gaps": [number, {}] }], { "a": { "b": [[number]] } }]);
            let all: serde_json::Map<String, Value> =
                names.into_iter().map(|name| (name, inner.clone())).collect();
            let value = Value::Object(all);
            prop_assert_eq!(serde_json::from_str::<Value>(&printed(&value)).unwrap(), value);
        }

        #[test]
        fn any_text_comes_back(text in any::<String>(), key in any::<String>()) {
            let value = json!({ key: [text, {}, [], null, 1] });
            let line = in_a_line(&value).unwrap();
            prop_assert!(!line.get().contains(is_harmful));
            prop_assert_eq!(serde_json::from_str::<Value>(line.get()).unwrap(), value.clone());
            let printed = printed(&value);
            prop_assert!(!printed.replace('\n', "").contains(is_harmful));
            prop_assert_eq!(serde_json::from_str::<Value>(&printed).unwrap(), value);
        }
    }
}
