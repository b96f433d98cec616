//! A state: what a machine was, kept once.
//!
//! Its text has a section a line, so that whoever asks for one section reads no other, and what compares lines
//! says which section is another:
//!
//! ```text
//! {"format":"tectum-state",…,"inventory":{
//! "platform":{…},
//! "cpu":{…}
//! }}
//! ```

use memchr::{memchr, memchr_iter};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use tectum_report::{json::canonical::write_plain, version::FormatVersion};

use super::{STATE, digest};

/// An inventory, by its digest.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct State {
    /// The word that names the form.
    pub format: String,
    /// The version of the form.
    pub format_version: FormatVersion,
    /// Digest of the inventory's canonical JSON (RFC 8785).
    pub inventory_digest: String,
    /// The inventory, as plain values.
    pub inventory: Value,
}

/// What is written before the sections, but for the inventory itself.
#[derive(Serialize)]
struct Head<'a> {
    format: &'a str,
    format_version: FormatVersion,
    inventory_digest: &'a str,
}

impl Head<'_> {
    fn line(&self) -> Result<Vec<u8>, serde_json::Error> {
        let mut line = serde_json::to_vec(self)?;
        line.pop();
        line.extend_from_slice(BEFORE);
        Ok(line)
    }
}

/// How the line before the sections ends.
const BEFORE: &[u8] = b",\"inventory\":{\n";
/// The line behind the sections.
const BEHIND: &[u8] = b"}}\n";

impl State {
    /// A state of this inventory.
    pub fn new(inventory: Value, inventory_digest: String) -> Self {
        Self {
            format: STATE.name.to_owned(),
            format_version: STATE.current,
            inventory_digest,
            inventory,
        }
    }

    /// Whether the inventory is the one that the digest was made of.
    pub fn is_whole(&self) -> bool {
        let mut canonical = Vec::new();
        write_plain(&self.inventory, &mut canonical)
            .is_ok_and(|()| digest(&canonical) == self.inventory_digest)
    }

    /// Its text, a section a line.
    ///
    /// # Errors
    /// That it cannot be written as JSON.
    pub fn text(&self) -> Result<Vec<u8>, serde_json::Error> {
        let Some(sections) = self.inventory.as_object().filter(|sections| !sections.is_empty())
        else {
            let mut text = serde_json::to_vec(self)?;
            text.push(b'\n');
            return Ok(text);
        };
        let head = Head {
            format: &self.format,
            format_version: self.format_version,
            inventory_digest: &self.inventory_digest,
        };
        let head = head.line()?;
        let lines = sections.iter().map(|(name, section)| {
            let mut line = serde_json::to_vec(name)?;
            line.push(b':');
            serde_json::to_writer(&mut line, section)?;
            Ok(line)
        });
        let lines = lines.collect::<Result<Vec<_>, serde_json::Error>>()?;
        Ok(put_together(&head, &lines))
    }

    /// The text of a state of which these are the sections, each with the text of its name's.
    ///
    /// # Errors
    /// That a name cannot be written as JSON.
    pub(crate) fn text_of_sections<'a>(
        digest: &str,
        sections: impl IntoIterator<Item = (&'a str, &'a [u8])>,
    ) -> Result<Vec<u8>, serde_json::Error> {
        let head =
            Head { format: STATE.name, format_version: STATE.current, inventory_digest: digest };
        let lines = sections.into_iter().map(|(name, text)| {
            let mut line = serde_json::to_vec(name)?;
            line.push(b':');
            line.extend_from_slice(text);
            Ok(line)
        });
        let lines = lines.collect::<Result<Vec<_>, serde_json::Error>>()?;
        Ok(put_together(&head.line()?, &lines))
    }

    /// The text with these sections alone; nothing where its lines are not as they are written here.
    pub(crate) fn text_in_part(text: &[u8], sections: &[&str]) -> Option<Vec<u8>> {
        let mut lines = lines(text);
        let head = lines.next().filter(|line| is_head(line))?;
        let mut wanted = Vec::new();
        loop {
            let line = lines.next()?;
            // A section that somebody parted into lines is none of these.
            let count = |sign: u8| memchr_iter(sign, line).count();
            if line != BEHIND && count(b'{') != count(b'}') {
                return None;
            }
            match section_of(line) {
                Some(own) if sections.contains(&own) => wanted.push(line),
                Some(_) => {}
                None => return (line == BEHIND).then(|| put_together(head, &wanted)),
            }
        }
    }
}

impl State {
    /// What stands in the text of a state behind the line that says which it is; nothing where that is not this one,
    /// or is laid out otherwise.
    pub(crate) fn sections_of<'a>(text: &'a [u8], digest: &str) -> Option<&'a [u8]> {
        let head = lines(text).next().filter(|line| is_head(line))?;
        let own =
            Head { format: STATE.name, format_version: STATE.current, inventory_digest: digest };
        let own = serde_json::to_vec(&own).ok()?;
        let is = head.strip_suffix(BEFORE) == own.strip_suffix(b"}");
        is.then(|| text.get(head.len()..)).flatten()
    }
}

/// Whether a line is the one before the sections.
fn is_head(line: &[u8]) -> bool {
    line.ends_with(BEFORE)
}

/// The lines of a text, each with its end.
pub(crate) fn lines(text: &[u8]) -> impl Iterator<Item = &[u8]> {
    let mut rest = text;
    std::iter::from_fn(move || {
        let end = memchr(b'\n', rest).map_or(rest.len(), |end| end + 1);
        let (line, behind) = rest.split_at_checked(end).filter(|(line, _)| !line.is_empty())?;
        rest = behind;
        Some(line)
    })
}

/// The name of the section in a line.
fn section_of(line: &[u8]) -> Option<&str> {
    let name = line.strip_prefix(b"\"")?;
    let (name, behind) = name.split_at_checked(memchr(b'"', name)?)?;
    let plain = name.iter().all(|byte| byte.is_ascii_lowercase() || *byte == b'_');
    let is = plain && !name.is_empty() && behind.starts_with(b"\":");
    is.then(|| std::str::from_utf8(name).ok()).flatten()
}

/// Lines of sections, whatever stands at their ends, with what stands before and behind them.
fn put_together<T: AsRef<[u8]>>(head: &[u8], sections: &[T]) -> Vec<u8> {
    let mut text = head.to_vec();
    for (row, line) in sections.iter().enumerate() {
        if row > 0 {
            text.extend_from_slice(b",\n");
        }
        let line = line.as_ref();
        let line = line.strip_suffix(b"\n").unwrap_or(line);
        text.extend_from_slice(line.strip_suffix(b",").unwrap_or(line));
    }
    if !sections.is_empty() {
        text.push(b'\n');
    }
    text.extend_from_slice(BEHIND);
    text
}

#[cfg(test)]
mod tests {
    use rstest::rstest;
    use serde_json::json;

    use super::*;

    fn state() -> State {
        let inventory = json!({
            "cpu": {"cores": 4, "memory": {}},
            "memory": {"modules": [{"name": "a\nb"}]},
            "os": null,
        });
        State::new(inventory, "sha256:00".to_owned())
    }

    #[rstest]
    fn a_text_has_a_section_a_line_and_is_read_as_what_it_was() {
        let text = state().text().unwrap();
        assert_eq!(lines(&text).count(), 5);
        assert_eq!(serde_json::from_slice::<State>(&text).unwrap(), state());
        let pieces = crate::written::piece::sections(&state().inventory).unwrap();
        let sections = pieces.iter().map(|one| (one.section.as_str(), &one.text[..]));
        assert_eq!(State::text_of_sections("sha256:00", sections).unwrap(), text);
        let empty = State::new(json!({}), String::new());
        assert_eq!(serde_json::from_slice::<State>(&empty.text().unwrap()).unwrap(), empty);
    }

    #[rstest]
    #[case(&[])]
    #[case(&["memory"])]
    #[case(&["os", "cpu"])]
    #[case(&["cpu", "memory", "os", "gpu"])]
    fn a_part_of_a_text_is_the_text_of_a_part(#[case] sections: &[&str]) {
        let part = State::text_in_part(&state().text().unwrap(), sections).unwrap();
        let mut expected = state();
        let own = expected.inventory.as_object_mut().unwrap();
        own.retain(|name, _| sections.contains(&name.as_str()));
        assert_eq!(serde_json::from_slice::<State>(&part).unwrap(), expected);
    }

    #[rstest]
    fn what_says_which_state_it_is_stands_before_what_others_may_share() {
        let text = state().text().unwrap();
        let mut other = state();
        other.inventory_digest = "sha256:01".to_owned();
        let other = other.text().unwrap();
        let own = State::sections_of(&text, "sha256:00").unwrap();
        assert_eq!(Some(own), State::sections_of(&other, "sha256:01"));
        assert!(own.starts_with(b"\"cpu\":"));
        assert_eq!(State::sections_of(&text, "sha256:01"), None);
    }

    #[rstest]
    #[case::in_one_line(serde_json::to_string(&state()).unwrap())]
    #[case::indented(serde_json::to_string_pretty(&state()).unwrap())]
    #[case::a_section_on_several_lines(
        String::from_utf8(state().text().unwrap()).unwrap().replace("{\"cores\"", "{\n\"cores\"")
    )]
    #[case::a_section_parted_between_its_fields(
        String::from_utf8(state().text().unwrap()).unwrap().replace("4,\"memory\"", "4,\n\"memory\"")
    )]
    #[case::cut_off(String::from_utf8(state().text().unwrap()).unwrap().replace("}}\n", ""))]
    fn lines_that_somebody_else_made_are_not_taken_for_sections(#[case] text: String) {
        assert_eq!(State::text_in_part(text.as_bytes(), &["memory"]), None);
    }
}
