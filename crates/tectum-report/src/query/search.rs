//! A search over everything that a report says: labels of parts, names of fields, values with their
//! units, and the evidence.

use globset::{GlobBuilder, GlobMatcher};
use regex::{Regex, RegexBuilder};

use super::{amount::amount, rows::spoken, selection::Selection};
use crate::{
    compare::{label, shown},
    declare::{AnyFact, FieldShape, Node, Record, fields},
    fact::Evidence,
    report::Report,
};

/// What is searched for.
#[derive(Debug, Clone)]
pub struct Search(Needle);

#[derive(Debug, Clone)]
enum Needle {
    /// Words, in lower case, all of which must be found.
    Words(Vec<String>),
    /// A pattern with wildcards for a whole text.
    Pattern(GlobMatcher),
    /// A regular expression for any part of a text.
    Expression(Regex),
}

/// Why a text cannot be searched for.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{text:?} cannot be searched for: {reason}")]
pub struct SearchError {
    /// The text.
    pub text: String,
    /// What is wrong with it.
    pub reason: String,
}

/// The most memory that a regular expression may be compiled to, in bytes.
const EXPRESSION_SIZE: usize = 1 << 20;

/// Where a search found something.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum In {
    /// In what a part is called.
    Label,
    /// In the name of a field.
    Name,
    /// In a value, or its unit.
    Value,
    /// In what stands in the source.
    Evidence,
}

impl In {
    /// A word for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Label => "label",
            Self::Name => "name",
            Self::Value => "value",
            Self::Evidence => "evidence",
        }
    }
}

/// Something that was found.
pub struct Found<'a> {
    /// The path to it.
    pub path: String,
    /// The part that it belongs to.
    pub part: &'a dyn Record,
    /// What the part is called.
    pub label: String,
    /// The field and its value, if it is not the part as a whole.
    pub value: Option<(&'static FieldShape, &'a dyn AnyFact)>,
    /// Where in it.
    pub found_in: In,
    /// The evidence of the value, the piece that was found first.
    pub evidence: Option<&'a Evidence>,
}

impl Search {
    /// Words: each must be found, whatever the case; one that begins or ends with a digit is not found
    /// within a longer number.
    pub fn words(text: &str) -> Result<Self, SearchError> {
        let words: Vec<String> = text.split_whitespace().map(str::to_lowercase).collect();
        match words.is_empty() {
            true => Err(SearchError { text: text.to_owned(), reason: "it has no word".to_owned() }),
            false => Ok(Self(Needle::Words(words))),
        }
    }

    /// A pattern with wildcards that a whole text is like, whatever the case.
    pub fn pattern(text: &str) -> Result<Self, SearchError> {
        let glob = GlobBuilder::new(text).case_insensitive(true).build().map_err(|error| {
            SearchError { text: text.to_owned(), reason: error.kind().to_string() }
        })?;
        Ok(Self(Needle::Pattern(glob.compile_matcher())))
    }

    /// A regular expression that is found in a text.
    pub fn expression(text: &str) -> Result<Self, SearchError> {
        let built = RegexBuilder::new(text).size_limit(EXPRESSION_SIZE).build();
        let expression = built.map_err(|error| {
            // The lines before the last one show the text once more.
            let said = error.to_string();
            let reason = said.lines().last().unwrap_or(&said);
            let reason = reason.strip_prefix("error: ").unwrap_or(reason).to_owned();
            SearchError { text: text.to_owned(), reason }
        })?;
        Ok(Self(Needle::Expression(expression)))
    }

    /// Whether a text has what is searched for.
    pub fn is_in(&self, text: &str) -> bool {
        match &self.0 {
            Needle::Words(words) => {
                let text = text.to_lowercase();
                words.iter().all(|word| has_word(&text, word))
            }
            Needle::Pattern(glob) => glob.is_match(text),
            Needle::Expression(expression) => expression.is_match(text),
        }
    }

    /// The places in a text that are to be marked, in bytes, in their order.
    pub fn marks(&self, text: &str) -> Vec<std::ops::Range<usize>> {
        match &self.0 {
            Needle::Words(words) => {
                let lower = text.to_lowercase();
                // Where lower case has another length, its places are not the text's.
                if lower.len() != text.len() {
                    return Vec::new();
                }
                let mut all: Vec<std::ops::Range<usize>> = words
                    .iter()
                    .flat_map(|word| {
                        let places: Vec<_> = places(&lower, word).collect();
                        places.into_iter().map(move |at| at..at + word.len())
                    })
                    .filter(|range| {
                        text.is_char_boundary(range.start) && text.is_char_boundary(range.end)
                    })
                    .collect();
                all.sort_by_key(|range| (range.start, range.end));
                let mut end = 0;
                all.retain(|range| {
                    let keep = range.start >= end;
                    if keep {
                        end = range.end;
                    }
                    keep
                });
                all
            }
            Needle::Pattern(glob) => {
                glob.is_match(text).then_some(0..text.len()).into_iter().collect()
            }
            Needle::Expression(expression) => {
                expression.find_iter(text).map(|found| found.range()).collect()
            }
        }
    }

    /// Where what a value's field, its part and itself say has it.
    fn in_value(
        &self,
        label: &str,
        field: &FieldShape,
        fact: &dyn AnyFact,
        text: &str,
    ) -> Option<In> {
        let name = field.name.replace('_', " ");
        let shown = shown(fact).unwrap_or_default();
        match &self.0 {
            Needle::Words(words) => {
                let value = format!("{text}\n{shown}").to_lowercase();
                let (label, name) = (label.to_lowercase(), name.to_lowercase());
                let is_value = |word: &String| has_word(&value, word) || is_amount(word, fact);
                let mut all = words.iter();
                if !all
                    .all(|word| is_value(word) || has_word(&name, word) || has_word(&label, word))
                {
                    return None;
                }
                // What the label says of the part is told once, with the part.
                let own = |word: &&String| !has_word(&label, word);
                if words.iter().filter(own).any(is_value) {
                    Some(In::Value)
                } else if words.iter().any(|word| own(&word)) {
                    Some(In::Name)
                } else {
                    None
                }
            }
            _ if self.is_in(text) || self.is_in(&shown) => Some(In::Value),
            _ if self.is_in(field.name) || self.is_in(&name) => Some(In::Name),
            _ => None,
        }
    }
}

/// Whether a word is an amount that a number with a unit is.
fn is_amount(word: &str, fact: &dyn AnyFact) -> bool {
    let unit = fact.leaf_shape().unit;
    let number = fact
        .json()
        .and_then(|json| json.as_i64().map(i128::from).or_else(|| json.as_u64().map(i128::from)));
    // Units are written in upper and lower case, and a word is in lower case: the usual forms are tried.
    let forms = [word.to_owned(), word.to_uppercase(), proper(word)];
    number.is_some_and(|number| {
        forms
            .iter()
            .any(|form| amount(form, unit).is_some_and(|amount| amount.is_about(number, unit)))
    })
}

/// `32gib` as `32GiB`, `2.5ghz` as `2.5GHz`.
fn proper(word: &str) -> String {
    let at = word.find(|c: char| c.is_ascii_alphabetic()).unwrap_or(word.len());
    let (number, unit) = word.split_at(at);
    let unit = match unit {
        "kib" => "KiB".to_owned(),
        "mib" => "MiB".to_owned(),
        "gib" => "GiB".to_owned(),
        "tib" => "TiB".to_owned(),
        "pib" => "PiB".to_owned(),
        "kb" => "kB".to_owned(),
        "khz" => "kHz".to_owned(),
        "mhz" => "MHz".to_owned(),
        "ghz" => "GHz".to_owned(),
        "mt/s" => "MT/s".to_owned(),
        "gt/s" => "GT/s".to_owned(),
        "mb/s" => "Mb/s".to_owned(),
        "gb/s" => "Gb/s".to_owned(),
        other => other.to_owned(),
    };
    format!("{number}{unit}")
}

/// Where a word stands in a text, not within a longer number.
fn places<'a>(text: &'a str, word: &'a str) -> impl Iterator<Item = usize> + use<'a> {
    text.match_indices(word).map(|(at, _)| at).filter(move |at| {
        let digit = |c: Option<char>| c.is_some_and(|c| c.is_ascii_digit());
        let before = text.get(..*at).and_then(|text| text.chars().next_back());
        let behind = text.get(at + word.len()..).and_then(|text| text.chars().next());
        let goes_on = |own: Option<char>, next: Option<char>| digit(own) && digit(next);
        let within_number =
            goes_on(word.chars().next(), before) || goes_on(word.chars().next_back(), behind);
        !within_number
    })
}

fn has_word(text: &str, word: &str) -> bool {
    places(text, word).next().is_some()
}

/// Everything of a report that has what is searched for, in the report's order, of what some paths name
/// if there are any.
pub fn search<'a>(report: &'a Report, search: &Search, only: Option<&Selection>) -> Vec<Found<'a>> {
    let mut all = Vec::new();
    for (name, root) in report.roots() {
        within(root, &format!("/{name}"), "", search, only, &mut all);
    }
    all
}

fn within<'a>(
    record: &'a dyn Record,
    at: &str,
    label_of_part: &str,
    search: &Search,
    only: Option<&Selection>,
    all: &mut Vec<Found<'a>>,
) {
    for (field, node) in fields(record) {
        let at = format!("{at}/{}", field.name);
        match node {
            Node::Absent => {}
            Node::Record(inner) => within(inner, &at, "", search, only, all),
            Node::List(list) => {
                for index in 0..list.len() {
                    let Some(item) = list.get(index) else { continue };
                    let at = format!("{at}/{index}");
                    let name = label(item);
                    if search.is_in(&name) && only.is_none_or(|only| only.touches(&at)) {
                        all.push(Found {
                            path: spoken(&at),
                            part: item,
                            label: name.clone(),
                            value: None,
                            found_in: In::Label,
                            evidence: list.evidence().first(),
                        });
                    }
                    within(item, &at, &name, search, only, all);
                }
            }
            Node::Leaf(fact) => {
                let Some(text) = fact.text() else { continue };
                if !only.is_none_or(|only| only.holds(&at)) {
                    continue;
                }
                let own = search.in_value(label_of_part, field, fact, &text);
                let in_evidence = || {
                    let mut pieces = fact.evidence().iter();
                    pieces.find(|piece| {
                        piece.raw.as_deref().is_some_and(|raw| search.is_in(raw))
                            || search.is_in(&piece.source)
                    })
                };
                let (found_in, evidence) = match own {
                    Some(place) => (place, fact.evidence().first()),
                    // What a part is called stands in the sources of all that it has.
                    None if search.is_in(label_of_part) => continue,
                    None => match in_evidence() {
                        Some(piece) => (In::Evidence, Some(piece)),
                        None => continue,
                    },
                };
                all.push(Found {
                    path: spoken(&at),
                    part: record,
                    label: label_of_part.to_owned(),
                    value: Some((field, fact)),
                    found_in,
                    evidence,
                });
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("tide HARBOUR", "The harbour's tide", true)]
    #[case("32", "132 GiB", false)]
    #[case("32", "a 32 b", true)]
    #[case("sda", "sda1", true)]
    #[case("sda1", "sda12", false)]
    fn words_are_found_whatever_the_case(
        #[case] words: &str,
        #[case] text: &str,
        #[case] is: bool,
    ) {
        assert_eq!(Search::words(words).unwrap().is_in(text), is);
    }

    #[test]
    fn marks_do_not_overlap() {
        let search = Search::words("tide ide x").unwrap();
        assert_eq!(search.marks("Tide x"), [0..4, 5..6]);
    }

    #[rstest]
    #[case("[a-z", false)]
    #[case("a{1000}{1000}", false)]
    #[case("^S.*7$", true)]
    fn expressions_are_bounded(#[case] text: &str, #[case] is: bool) {
        assert_eq!(Search::expression(text).is_ok(), is);
    }
}
