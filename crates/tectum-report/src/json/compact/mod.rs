//! Where values are from and why others are missing, in tables: what parts of a kind share is said once.
//!
//! A server holds hundreds of parts of a few kinds, and what is said of the values of one disk is said of
//! the next with other names. So a *way* says how a field gets its value ("the file `size` in the first
//! folder, as it stands"), a *recipe* which ways a part's fields took, and a *part* has the number of its
//! recipe, its folders, and what stands in its sources and is not the value itself.
//!
//! | table | an entry |
//! |---|---|
//! | `folders` | folders by the numbers of those that they are in and their names, or a text as it is |
//! | `texts` | a text that stands in sources of several parts |
//! | `sayings` | a code of the table `meanings` |
//! | `ways` | a field, and how it gets its value or why it has none |
//! | `recipes` | the numbers of ways, in the order of a part's fields |
//! | `parts` | by the pointer to the parts, with `*` for a number in a list: the recipe of each; then for each recipe, by columns, folders and what its ways take, one after the other |
//! | `visits` | what was asked of files of a folder: for each operation and outcome their names |
//! | `accesses` | the number of a visit, a column of the folders that were asked so, and for each file of the visit columns of the bytes and the microseconds |
//!
//! Columns (`column.rs`) say what is the same for many parts once, and what counts.
//!
//! A path is its folder's text, a stroke, and its name; where the last name holds a digit the path as a whole
//! stands among the folders, as it differs from part to part. All numbers of entries count from 0.

mod accesses;
mod brief;
mod column;
mod folders;
mod often;
mod parts;
mod read;
mod short;
mod write;

use std::{borrow::Cow, collections::BTreeMap};

use schemars::JsonSchema;
use serde::{Deserialize, Serialize, Serializer};

use crate::{
    fact::{Evidence, Place, Saying, Stance, Why},
    report::{Operation, Outcome},
};
use accesses::Accesses;
pub(super) use brief::leaves_open;
use often::Often;
use parts::Parts;
pub(super) use parts::recipes_of;
pub(super) use read::{Kind, Origin, Read, Told, Unit};
pub(super) use write::{Written, tables};

/// Where values are from, in tables: see the table of the module.
#[derive(Debug, Serialize, Deserialize, JsonSchema)]
pub(super) struct Tables<Folders, Texts, Ways, Recipes, Parts, Visits, Accesses> {
    /// Folders, each behind the one it is in.
    pub(super) folders: Folders,
    /// Texts that stand in sources of several parts.
    pub(super) texts: Texts,
    /// Codes of the table `meanings`: rules, answers, hints.
    pub(super) sayings: Texts,
    /// How fields get their values, or why they have none.
    pub(super) ways: Ways,
    /// For a kind of part, the numbers of the ways that its fields took.
    pub(super) recipes: Recipes,
    /// The parts, by the pointer to them with `*` for a number in a list, in the order of the report.
    pub(super) parts: Parts,
    /// What was asked of files of a folder, and how that ended.
    pub(super) visits: Visits,
    /// Every access to the machine.
    pub(super) accesses: Accesses,
}

/// The tables as the schema describes them.
pub(super) type WholeTables = Tables<
    Vec<folders::Row<'static>>,
    Vec<String>,
    Vec<Way<'static>>,
    Vec<Vec<usize>>,
    BTreeMap<String, Parts<'static>>,
    Vec<Vec<Visit<'static>>>,
    Vec<Accesses<'static>>,
>;

/// What was asked of some files of a folder. Of folders of parts of a kind that is nearly always the same.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
pub(super) struct Visit<'a>(
    /// What was asked.
    pub(super) Operation,
    /// How it ended.
    pub(super) Outcome,
    /// The names of the files.
    pub(super) Vec<Cow<'a, str>>,
);

/// How a field of a part gets its value, or why it has none.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Deserialize, JsonSchema)]
#[schemars(rename = "Way", extend("minItems" = 2))]
pub(super) struct Way<'a, S = Source<'a>>(
    /// The field: a JSON Pointer from the part, without the stroke it begins with.
    pub(super) Cow<'a, str>,
    /// Where its value is from.
    pub(super) Often<From<'a, S>>,
    /// Why it has no value; beside a value, why more of it may exist.
    #[serde(default)]
    pub(super) Option<Lack<'a>>,
);

/// A piece of evidence, but for what is a part's own. What stands at the end and is usual is left out.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Deserialize, JsonSchema)]
#[schemars(rename = "From", extend("minItems" = 2))]
pub(super) struct From<'a, S = Source<'a>>(
    /// The file.
    S,
    /// How the value follows from what stands there.
    Said,
    /// What stands there.
    #[serde(default)]
    Stands<'a>,
    /// Where in the source.
    #[serde(default)]
    Option<Spot<'a>>,
    /// Whether the value was taken from here.
    #[serde(default)]
    Says,
);

impl Serialize for Way<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let Self(at, from, gap) = self;
        match gap {
            None => (at, from).serialize(serializer),
            Some(gap) => (at, from, gap).serialize(serializer),
        }
    }
}

impl Serialize for From<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let Self(source, rule, stands, place, says) = self;
        match (stands, place, says) {
            (Stands::Value, None, Says::Gives) => (source, rule).serialize(serializer),
            (stands, None, Says::Gives) => (source, rule, stands).serialize(serializer),
            (stands, place, Says::Gives) => (source, rule, stands, place).serialize(serializer),
            _ => (source, rule, stands, place, says).serialize(serializer),
        }
    }
}

/// A source.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, JsonSchema)]
#[serde(untagged)]
pub(super) enum Source<'a> {
    /// One of the part's folders, counted from 0, as a whole.
    Whole(usize),
    /// A file in one of the part's folders, by its name.
    Within(usize, Cow<'a, str>),
}

/// Where in a source something stands.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
enum Spot<'a> {
    /// The line that the part names next.
    Line,
    /// Some bytes: where the first stands, and how many.
    Bytes(u32, u32),
    /// Some bytes of the structure whose handle the part names next: where the first stands in it, and how many.
    Structure(u32, u32),
    /// A part of the source by its name.
    Named(Cow<'a, str>),
    /// The name that the part gives next.
    Name,
}

/// What is said, by its number in the table `sayings`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, JsonSchema)]
#[serde(untagged)]
enum Said {
    /// The number.
    Plain(usize),
    /// The number of what is said of the text that the part gives next.
    OfNext {
        /// The number.
        of_next: usize,
    },
}

/// What stands in a source.
#[derive(Debug, Clone, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
enum Stands<'a> {
    /// The value itself.
    #[default]
    Value,
    /// The value behind this text, as in `NAME=value`.
    Behind(Cow<'a, str>),
    /// The text that the part gives next.
    Next,
    /// What is not told.
    Untold,
}

/// What a source says of a value.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
enum Says {
    /// The value was taken from here.
    #[default]
    Gives,
    /// It was taken from another source; this one says the same.
    Agrees,
    /// It says something else: the text that the part gives next.
    Differs,
}

/// Why a value is missing, but for what is a part's own.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
pub(super) struct Lack<'a> {
    /// The reason.
    why: Why,
    /// The source that was asked last, or the one that would hold the value; left out where it is the last of
    /// those that were tried.
    #[serde(default, skip_serializing_if = "Asked::is_last")]
    source: Asked<'a>,
    /// What would help.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    hint: Option<Said>,
    /// Whether the part gives next what the source holds instead of a value.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    raw: bool,
    /// Each source that was asked, with its answer.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    tried: Vec<(Source<'a>, Said)>,
}

/// The source that a gap names.
#[derive(Debug, Clone, Default, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(untagged)]
enum Asked<'a> {
    /// The last of those that were tried.
    #[default]
    Last,
    /// This one.
    One(Source<'a>),
    /// None: `false`.
    None(bool),
}

impl Asked<'_> {
    fn is_last(&self) -> bool {
        *self == Self::Last
    }
}

/// Whether a pointer leads to a section, or to what else stands in a root.
pub(super) fn is_section(pointer: &str) -> bool {
    pointer.bytes().filter(|byte| *byte == b'/').count() == 2
}

/// A pointer to every part of a kind: that to one of them, with `*` for a number in a list. No member of a
/// report is called by a number.
pub(super) fn pattern(pointer: &str) -> String {
    let mut all = String::with_capacity(pointer.len());
    for member in pointer.split('/').skip(1) {
        let number = member.bytes().all(|byte| byte.is_ascii_digit());
        all.push('/');
        all.push_str(if number { "*" } else { member });
    }
    all
}

/// The text that a value is as it stands in a file: what a source says is then not said twice.
fn as_it_stands(value: &serde_json::Value) -> Option<Cow<'_, str>> {
    match value {
        serde_json::Value::String(text) => Some(Cow::Borrowed(text)),
        serde_json::Value::Number(number) => Some(Cow::Owned(number.to_string())),
        _ => None,
    }
}
