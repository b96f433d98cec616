//! JSON as it is printed and saved: indented, and harmless to whatever shows it.
//!
//! RFC 8259 lets DEL, the C1 controls and the characters that turn the direction of writing stand as
//! they are; a terminal or an editor would obey them, so they are escaped.

use std::io::{self, Write};

use serde::Serialize;
use serde_json::ser::{CharEscape, Formatter, PrettyFormatter, Serializer};

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

/// Writes a value as indented JSON with a line end behind it.
///
/// # Errors
/// When it cannot be written.
pub fn to_writer<T: Serialize + ?Sized>(mut to: impl Write, value: &T) -> io::Result<()> {
    let mut serializer = Serializer::with_formatter(&mut to, Harmless::default());
    value.serialize(&mut serializer)?;
    to.write_all(b"\n")
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

/// Members of a report that are long tables: an entry of them stands in a line.
const TABLES: [&str; 4] = ["findings", "gaps", "evidence", "sources"];

/// Depth of a table's entries: what is within one is not indented.
const ENTRY: usize = 2;

/// The usual indented form, the entries of long tables in a line each, with what is harmful escaped.
#[derive(Default)]
struct Harmless<'a> {
    pretty: PrettyFormatter<'a>,
    /// How many arrays and objects are open.
    depth: usize,
    /// The key of the outermost object that is being written, as long as it is.
    key: Option<String>,
    in_table: bool,
}

impl Harmless<'_> {
    /// Whether what is written now stands within an entry of a table.
    fn in_line(&self) -> bool {
        self.in_table && self.depth > ENTRY
    }

    fn open<W: ?Sized + Write>(&mut self, to: &mut W, sign: &[u8]) -> Option<io::Result<()>> {
        self.depth += 1;
        self.in_line().then(|| to.write_all(sign))
    }

    fn close<W: ?Sized + Write>(&mut self, to: &mut W, sign: &[u8]) -> Option<io::Result<()>> {
        let written = self.in_line().then(|| to.write_all(sign));
        self.depth = self.depth.saturating_sub(1);
        written
    }

    fn part<W: ?Sized + Write>(&self, to: &mut W, first: bool) -> Option<io::Result<()>> {
        self.in_line().then(|| if first { Ok(()) } else { to.write_all(b", ") })
    }
}

impl Formatter for Harmless<'_> {
    fn write_string_fragment<W: ?Sized + Write>(
        &mut self,
        to: &mut W,
        text: &str,
    ) -> io::Result<()> {
        if let Some(key) = &mut self.key {
            key.push_str(text);
        }
        write_harmless(to, text)
    }

    fn write_char_escape<W: ?Sized + Write>(
        &mut self,
        to: &mut W,
        it: CharEscape,
    ) -> io::Result<()> {
        self.pretty.write_char_escape(to, it)
    }

    fn begin_array<W: ?Sized + Write>(&mut self, to: &mut W) -> io::Result<()> {
        match self.open(to, b"[") {
            Some(written) => written,
            None => self.pretty.begin_array(to),
        }
    }

    fn end_array<W: ?Sized + Write>(&mut self, to: &mut W) -> io::Result<()> {
        match self.close(to, b"]") {
            Some(written) => written,
            None => self.pretty.end_array(to),
        }
    }

    fn begin_array_value<W: ?Sized + Write>(&mut self, to: &mut W, first: bool) -> io::Result<()> {
        match self.part(to, first) {
            Some(written) => written,
            None => self.pretty.begin_array_value(to, first),
        }
    }

    fn end_array_value<W: ?Sized + Write>(&mut self, to: &mut W) -> io::Result<()> {
        if self.in_line() { Ok(()) } else { self.pretty.end_array_value(to) }
    }

    fn begin_object<W: ?Sized + Write>(&mut self, to: &mut W) -> io::Result<()> {
        match self.open(to, b"{") {
            Some(written) => written,
            None => self.pretty.begin_object(to),
        }
    }

    fn end_object<W: ?Sized + Write>(&mut self, to: &mut W) -> io::Result<()> {
        match self.close(to, b"}") {
            Some(written) => written,
            None => self.pretty.end_object(to),
        }
    }

    fn begin_object_key<W: ?Sized + Write>(&mut self, to: &mut W, first: bool) -> io::Result<()> {
        if self.depth == 1 {
            self.key = Some(String::new());
        }
        match self.part(to, first) {
            Some(written) => written,
            None => self.pretty.begin_object_key(to, first),
        }
    }

    fn begin_object_value<W: ?Sized + Write>(&mut self, to: &mut W) -> io::Result<()> {
        if let Some(key) = self.key.take() {
            self.in_table = TABLES.contains(&key.as_str());
        }
        self.pretty.begin_object_value(to)
    }

    fn end_object_value<W: ?Sized + Write>(&mut self, to: &mut W) -> io::Result<()> {
        if self.in_line() { Ok(()) } else { self.pretty.end_object_value(to) }
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
        let expected = "{\n  \"a\": [\n    {\n      \"b\": [\n        1,\n        2\n      ]\n    }\n  ],\n  \
            \"gaps\": [\n    {\"at\": \"/x\", \"tried\": []},\n    \
            {\"at\": \"/y\", \"tried\": [{\"c\": 1}]}\n  ],\n  \"z\": {\n    \"b\": []\n  }\n}\n";
        assert_eq!(text, expected);
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
            let printed = printed(&value);
            prop_assert!(!printed.replace('\n', "").contains(is_harmful));
            prop_assert_eq!(serde_json::from_str::<Value>(&printed).unwrap(), value);
        }
    }
}
