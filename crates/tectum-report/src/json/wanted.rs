//! What is wanted of a report, and what of its text that is: who asks for one disk of five hundred need not read the
//! others.

use std::collections::{BTreeMap, HashMap};

use memchr::memmem;

use super::{
    cut::{Cut, members},
    origins::Depth,
};
use crate::query::{Elements, Path};

/// What is wanted of a report.
#[derive(Debug, Clone, Copy)]
pub struct Wanted<'a> {
    /// How much of where values are from.
    pub depth: Depth,
    /// These sections, and what says which machine it is; all, if nothing is said.
    pub sections: Option<&'a [&'a str]>,
    /// Whether what moves by itself is.
    pub readings: bool,
    /// What these paths may name; everything, if there are none. What no path names may then be missing from the
    /// report, and accesses to files that nothing read is from.
    pub paths: &'a [Path],
}

impl Wanted<'_> {
    /// All of it, so deep.
    pub fn all(depth: Depth) -> Self {
        Self { depth, sections: None, readings: true, paths: &[] }
    }

    /// Whether anything of a section is.
    pub(super) fn is_section(&self, root: &str, section: &str) -> bool {
        self.sections.is_none_or(|wanted| wanted.contains(&section))
            && self.may_name(&[root, section])
    }

    fn may_name(&self, way: &[&str]) -> bool {
        self.paths.is_empty() || self.paths.iter().any(|path| path.may_lead_into(way))
    }

    fn may_name_element(&self, way: [&str; 3], number: usize, text: &[u8]) -> bool {
        let [root, section, list] = way;
        self.paths.iter().filter(|path| path.may_lead_into(&way)).any(|path| {
            match path.elements(root, section, list) {
                Elements::Any => true,
                Elements::Numbered(own) => own == number,
                Elements::Called { name, number: own } => {
                    own == Some(number) || may_be_called(text, name.as_bytes())
                }
            }
        })
    }
}

/// Whether the text of an element may call it so: by a field of its own, and of none of the parts in it. What its parts
/// hold is often a number.
fn may_be_called(text: &[u8], name: &[u8]) -> bool {
    if !holds_value(text, name) {
        return false;
    }
    let Some(fields) = members(text, FIELDS_OF_ELEMENTS, None) else { return true };
    let mut own = fields.iter().filter(|(_, value)| !value.starts_with(b"[\n"));
    own.any(|(_, value)| *value == name || holds_value(value, name))
}

/// Whether a value that stands in a text may be this, or this and more behind a point.
fn holds_value(text: &[u8], value: &[u8]) -> bool {
    memmem::find_iter(text, value).any(|begin| {
        let before = begin.checked_sub(1).and_then(|at| text.get(at));
        let behind = text.get(begin + value.len());
        before.is_some_and(|sign| b"\" [:,".contains(sign))
            && behind.is_some_and(|sign| b"\".,\n]}".contains(sign))
    })
}

/// As deep as a section's fields are indented, a list's elements in it, and their fields.
const FIELDS: usize = 3;
const ELEMENTS: usize = 4;
const FIELDS_OF_ELEMENTS: usize = 5;

/// Nothing in a report is indented so far: what is may be made up to be deep, and is left to a reader that has bounds.
const DEEPEST: usize = 64;

/// Parts that are passed over, by the pointer to the element that holds them: how many of each kind, by its pattern.
pub(super) type PassedOver = HashMap<String, BTreeMap<String, usize>>;

/// The text of a field of a section.
pub(super) enum Field<'a> {
    /// To be read as it stands.
    Whole(Cut<'a>),
    /// The elements of a list, those alone that are to be read.
    Elements(Vec<Option<Cut<'a>>>),
}

/// The fields of a section that are wanted, by their names, and in them what is; nothing where the text is not laid
/// out as it is printed, and all has to be read.
pub(super) fn fields<'a>(
    section: Cut<'a>,
    way: [&str; 2],
    wanted: &Wanted<'_>,
    passed_over: &mut PassedOver,
) -> Option<Vec<(&'a str, Field<'a>)>> {
    let [root, name] = way;
    let mut fields = Vec::new();
    for (field, text) in members(section.0, FIELDS, None)? {
        let way = [root, name, field];
        let holds_parts = text.starts_with(b"{") || text.starts_with(b"[\n");
        if holds_parts && !wanted.may_name(&way) {
            continue;
        }
        fields.push((field, elements(text, way, wanted, passed_over)));
    }
    Some(fields)
}

fn elements<'a>(
    text: &'a [u8],
    way: [&str; 3],
    wanted: &Wanted<'_>,
    passed_over: &mut PassedOver,
) -> Field<'a> {
    let whole = Field::Whole(Cut(text));
    let Some(all) = elements_of(text, ELEMENTS) else { return whole };
    let kept: Vec<bool> = all
        .iter()
        .enumerate()
        .map(|(number, text)| wanted.may_name_element(way, number, text))
        .collect();
    if kept.iter().all(|kept| *kept) {
        return whole;
    }
    let list = format!("/{}", way.join("/"));
    let mut own = PassedOver::new();
    for (number, (text, kept)) in all.iter().zip(&kept).enumerate() {
        let mut counts = BTreeMap::new();
        if !kept {
            match count(text, FIELDS_OF_ELEMENTS, format!("{list}/*"), &mut counts) {
                Some(()) => own.insert(format!("{list}/{number}"), counts),
                None => return whole,
            };
        }
    }
    passed_over.extend(own);
    Field::Elements(
        all.into_iter().zip(kept).map(|(text, kept)| kept.then_some(Cut(text))).collect(),
    )
}

/// Counts a part and those in it, by the patterns of the pointers to them.
fn count(
    text: &[u8],
    blanks: usize,
    pattern: String,
    counts: &mut BTreeMap<String, usize>,
) -> Option<()> {
    if blanks > DEEPEST {
        return None;
    }
    // What stands in a line holds no records; where a bracket may begin one, it is not as it is printed.
    if memchr::memchr(b'\n', text).is_none() {
        (memchr::memchr_iter(b'{', text).count() == 1).then_some(())?;
        *counts.entry(pattern).or_default() += 1;
        return Some(());
    }
    for (name, value) in members(text, blanks, None)? {
        if value.starts_with(b"[\n") {
            for element in elements_of(value, blanks + 1)? {
                count(element, blanks + 2, format!("{pattern}/{name}/*"), counts)?;
            }
        } else if value.starts_with(b"{\n") {
            // A record is told of with the part that it belongs to, and the parts in it by themselves.
            let mut within = BTreeMap::new();
            let own = format!("{pattern}/{name}");
            count(value, blanks + 1, own.clone(), &mut within)?;
            within.remove(&own);
            counts.extend(within);
        }
    }
    *counts.entry(pattern).or_default() += 1;
    Some(())
}

/// The elements of a list of parts whose lines begin with so many blanks, if that is how it is laid out.
fn elements_of(text: &[u8], blanks: usize) -> Option<Vec<&[u8]>> {
    let (before, end) = (" ".repeat(blanks), format!("\n{}]", " ".repeat(blanks.checked_sub(1)?)));
    let mut rest = text.strip_prefix(b"[")?.strip_suffix(end.as_bytes())?;
    let begin = format!("\n{before}{{");
    let begin = memmem::Finder::new(&begin);
    let mut elements = Vec::new();
    while !rest.is_empty() {
        // The bracket that it begins with is its own.
        let behind = rest.strip_prefix(begin.needle())?;
        let own = rest.get(begin.needle().len() - 1..)?;
        let end = begin.find(behind).map_or(own.len(), |end| end + 1);
        let (element, further) = own.split_at_checked(end)?;
        elements.push(if further.is_empty() { element } else { element.strip_suffix(b",")? });
        rest = further;
    }
    Some(elements)
}
