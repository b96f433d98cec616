//! The folders that files are in. Folders of parts of a kind hold folders of the same names, and these are then said once.
//!
//! | an entry | stands for |
//! |---|---|
//! | `"text"` | itself: the beginning of every path, and what is no path |
//! | `[[3, [7, 4, 1]], "cache", "topology"]` | in each folder of the column, one after the other, folders of these names |
//!
//! Each folder that an entry stands for has the next number; it is in one that has a number before its entry.

use std::{borrow::Cow, fmt};

use schemars::JsonSchema;
use serde::{
    Deserialize, Deserializer, Serialize, Serializer,
    de::{self, SeqAccess, Visitor},
    ser::SerializeSeq,
};

use super::{
    column::{Cell, Cells, Column, Run},
    parts::number_of_entry,
    read::{broken, told_at},
};
use crate::{
    json::{
        cut::{Cut, Rows},
        read::ReadError,
    },
    keyed::Map,
};

/// An entry, as it is written.
#[derive(Debug)]
pub(in crate::json) enum Row<'a> {
    Whole(&'a str),
    Within(Column<'a>, Vec<&'a str>),
}

impl Serialize for Row<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        match self {
            Self::Whole(text) => serializer.serialize_str(text),
            Self::Within(folders, names) => {
                let mut list = serializer.serialize_seq(Some(1 + names.len()))?;
                list.serialize_element(folders)?;
                names.iter().try_for_each(|name| list.serialize_element(name))?;
                list.end()
            }
        }
    }
}

impl JsonSchema for Row<'_> {
    fn schema_name() -> Cow<'static, str> {
        "Folders".into()
    }

    fn json_schema(generator: &mut schemars::SchemaGenerator) -> schemars::Schema {
        let run = generator.subschema_for::<Run<'_>>();
        schemars::json_schema!({
            "description": "A text as it is: the beginning of every path, and what is no path. Or folders by a column \
                that counts, and the names of folders that are in each of them. Each folder has the next number.",
            "oneOf": [
                { "type": "string" },
                {
                    "type": "array",
                    "prefixItems": [{ "type": "array", "items": run }],
                    "items": { "type": "string" },
                    "minItems": 2,
                },
            ],
        })
    }
}

/// Folders, each with a number that is told once all of them are known.
#[derive(Default)]
pub(super) struct Gathered<'a> {
    /// The name of each, and the one that it is in.
    all: Vec<(Option<usize>, &'a str)>,
    met: Map<&'a str, usize>,
}

/// Folders of which some may hold others, each by its place and with its number.
type Level = Vec<(usize, usize)>;

impl<'a> Gathered<'a> {
    /// Where the folder at a path is among those that are gathered.
    pub(super) fn place(&mut self, path: &'a str) -> usize {
        // From the path itself up to what is known, and down again: a path may be deep.
        let mut unknown = Vec::new();
        let mut rest = Some(path);
        let mut within = None;
        while let Some(path) = rest {
            within = self.met.get(path).copied();
            if within.is_some() {
                break;
            }
            let split = path.rsplit_once('/');
            unknown.push((path, split.map_or(path, |(_, name)| name)));
            rest = split.map(|(folder, _)| folder);
        }
        for (path, name) in unknown.into_iter().rev() {
            let place = self.all.len();
            self.all.push((within, name));
            self.met.insert(path, place);
            within = Some(place);
        }
        within.unwrap_or_default()
    }

    /// The table, and for each place the number of its folder.
    pub(super) fn table(self) -> (Vec<Row<'a>>, Vec<usize>) {
        let mut held = vec![Vec::new(); self.all.len()];
        let mut numbers = vec![0; self.all.len()];
        let mut rows = Vec::new();
        let mut next = 0;
        let mut number = |place: usize| {
            if let Some(number) = numbers.get_mut(place) {
                *number = next;
            }
            next += 1;
            next - 1
        };
        let mut level = Level::new();
        for (place, (within, name)) in self.all.iter().enumerate() {
            match within.and_then(|within| held.get_mut(within)) {
                Some(held) => held.push(place),
                None => {
                    rows.push(Row::Whole(name));
                    level.push((place, number(place)));
                }
            }
        }
        // Those in which folders of the same names are stand together, level by level.
        while !level.is_empty() {
            let mut alike = Vec::<(Vec<&str>, Level)>::new();
            let mut places = Map::default();
            for (place, number) in level.drain(..) {
                let held = held.get(place).map_or(&[][..], Vec::as_slice);
                if held.is_empty() {
                    continue;
                }
                let names = held.iter().filter_map(|place| Some(self.all.get(*place)?.1));
                let names: Vec<&str> = names.collect();
                let at = *places.entry(names.clone()).or_insert(alike.len());
                match alike.get_mut(at) {
                    Some((_, folders)) => folders.push((place, number)),
                    None => alike.push((names, vec![(place, number)])),
                }
            }
            for (names, folders) in alike {
                let column = folders.iter().map(|(_, number)| Cell::Number(*number as u64));
                rows.push(Row::Within(Column::counted(column.collect()), names));
                let all = folders.into_iter().filter_map(|(place, _)| held.get(place)).flatten();
                level.extend(all.map(|place| (*place, number(*place))));
            }
        }
        (rows, numbers)
    }
}

/// An entry, as it is read.
struct Entry<'a> {
    /// The folders that hold those of these names; none for a text as it is.
    within: Option<Cut<'a>>,
    names: Vec<Cow<'a, str>>,
}

/// The folders of a table, which are read once one of them is wanted.
pub(super) struct Folders<'a> {
    rows: Option<Rows<'a>>,
    groups: Vec<Group<'a>>,
}

/// The folders of an entry.
struct Group<'a> {
    /// The number of the first one.
    first: usize,
    within: Vec<usize>,
    names: Vec<Cow<'a, str>>,
}

/// A folder.
pub(super) enum Folder<'f> {
    /// A text as it is.
    Whole(&'f str),
    /// The folder that it is in, which has a smaller number, and its name.
    Within(usize, &'f str),
}

impl<'a> Folders<'a> {
    pub(super) fn of(rows: Rows<'a>) -> Self {
        Self { rows: Some(rows), groups: Vec::new() }
    }

    /// The folder of a number. What folders take beside the text of the table is told to `spend`, which may refuse it.
    ///
    /// # Errors
    /// What is wrong with the table; that it has no such folder.
    pub(super) fn get(
        &mut self,
        number: usize,
        spend: impl FnMut(usize) -> Result<(), ReadError>,
    ) -> Result<Folder<'_>, ReadError> {
        if let Some(rows) = self.rows.take() {
            self.groups = read(rows, spend)?;
        }
        let none = || broken("", format!("there is no entry {number} of folders"));
        let behind = self.groups.partition_point(|group| group.first <= number);
        let group = behind.checked_sub(1).and_then(|at| self.groups.get(at)).ok_or_else(none)?;
        let (at, names) = (number - group.first, group.names.len().max(1));
        let name = group.names.get(at % names).ok_or_else(none)?;
        match group.within.get(at / names) {
            Some(within) => Ok(Folder::Within(*within, name)),
            None if at == 0 && group.within.is_empty() => Ok(Folder::Whole(name)),
            None => Err(none()),
        }
    }
}

fn read<'a>(
    rows: Rows<'a>,
    mut spend: impl FnMut(usize) -> Result<(), ReadError>,
) -> Result<Vec<Group<'a>>, ReadError> {
    let mut groups = Vec::new();
    let mut first: usize = 0;
    for (entry, row) in rows.apart().into_iter().enumerate() {
        let at = format!("folders/{entry}");
        let wrong = |error: &serde_json::Error| broken(&at, error.to_string());
        let Entry { within, names } =
            serde_json::from_slice(row.0).map_err(|error| wrong(&error))?;
        spend(size_of::<Group<'_>>() + names.len() * size_of::<Cow<'_, str>>())?;
        let mut folders = Vec::new();
        let mut count = 1;
        if let Some(column) = within {
            let mut column = Cells::of(column).map_err(|error| wrong(&error))?;
            if !column.counts() {
                return Err(broken(&at, "the folders that they are in are no list"));
            }
            let mut place = 0;
            while let Some((cell, _)) = column.get(place).map_err(|error| wrong(&error))? {
                spend(size_of::<usize>())?;
                let within = number_of_entry(&cell).map_err(|error| told_at(error, &at))?;
                if within >= first {
                    return Err(broken(&at, "it is in no folder that stands before it"));
                }
                folders.push(within);
                place += 1;
            }
            count = folders.len().saturating_mul(names.len());
            // What stands for nothing is no text as it is.
            if count == 0 {
                continue;
            }
        }
        groups.push(Group { first, within: folders, names });
        first = first.saturating_add(count);
    }
    Ok(groups)
}

impl<'de: 'a, 'a> Deserialize<'de> for Entry<'a> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Reader;
        impl<'de> Visitor<'de> for Reader {
            type Value = Entry<'de>;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a text, or a column of folders and names")
            }

            fn visit_borrowed_str<E: de::Error>(self, text: &'de str) -> Result<Entry<'de>, E> {
                Ok(Entry { within: None, names: vec![Cow::Borrowed(text)] })
            }

            fn visit_str<E: de::Error>(self, text: &str) -> Result<Entry<'de>, E> {
                Ok(Entry { within: None, names: vec![Cow::Owned(text.to_owned())] })
            }

            fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<Entry<'de>, A::Error> {
                let within = list.next_element()?;
                let within = within.ok_or_else(|| de::Error::invalid_length(0, &self))?;
                let mut names = Vec::new();
                while let Some(Name(name)) = list.next_element()? {
                    names.push(name);
                }
                Ok(Entry { within: Some(within), names })
            }
        }
        deserializer.deserialize_any(Reader)
    }
}

/// A name, borrowed where it stands as it is.
#[derive(Deserialize)]
struct Name<'a>(#[serde(borrow)] Cow<'a, str>);

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    fn enough(_: usize) -> Result<(), ReadError> {
        Ok(())
    }

    fn table(paths: &[String]) -> (String, Vec<usize>) {
        let mut gathered = Gathered::default();
        let places: Vec<usize> = paths.iter().map(|path| gathered.place(path)).collect();
        let (rows, numbers) = gathered.table();
        let numbers = places.into_iter().map(|place| numbers[place]).collect();
        (serde_json::to_string(&rows).unwrap(), numbers)
    }

    fn path(folders: &mut Folders<'_>, number: usize) -> String {
        match folders.get(number, enough).unwrap() {
            Folder::Whole(text) => text.to_owned(),
            Folder::Within(within, name) => {
                assert!(within < number);
                let name = name.to_owned();
                format!("{}/{name}", path(folders, within))
            }
        }
    }

    #[test]
    fn folders_that_hold_the_same_are_said_once() {
        let mut paths = Vec::new();
        for cpu in 0..5 {
            for name in ["cache/index0", "cache/index1", "topology"] {
                paths.push(format!("/sys/cpu{cpu}/{name}"));
            }
        }
        paths.push("uname(2)".to_owned());
        let (text, _) = table(&paths);
        let expected = r#"["","uname(2)",[[0],"sys"],[[2],"cpu0","cpu1","cpu2","cpu3","cpu4"],"#
            .to_owned()
            + r#"[[[3,5,1]],"cache","topology"],[[[8,5,2]],"index0","index1"]]"#;
        assert_eq!(text, expected);
    }

    #[rstest]
    #[case("[7]", 0, "at /origins/folders/0: invalid type")]
    #[case("[[]]", 0, "at /origins/folders/0: invalid length 0")]
    #[case("[[[0], 7]]", 0, "at /origins/folders/0: invalid type")]
    #[case("[[7, \"a\"]]", 0, "at /origins/folders/0: the folders that they are in are no list")]
    #[case("[[[\"\"], \"a\"]]", 0, "at /origins/folders/0: a text stands where a number")]
    #[case(
        "[\"\", [[1], \"a\"]]",
        0,
        "at /origins/folders/1: it is in no folder that stands before"
    )]
    #[case("[\"\", [[0], \"a\"]]", 2, "there is no entry 2 of folders")]
    #[case("[\"\", [[0]]]", 1, "there is no entry 1 of folders")]
    #[case("[\"\", [[], \"a\"]]", 1, "there is no entry 1 of folders")]
    #[case("[]", 0, "there is no entry 0 of folders")]
    #[case("[\"\", [[[0, 18446744073709551615]], \"a\"]]", 0, "it is too much")]
    fn what_is_wrong_is_said(#[case] text: &str, #[case] number: usize, #[case] said: &str) {
        let mut left: usize = 10_000;
        let spend = |bytes| {
            left = left.checked_sub(bytes).ok_or_else(|| broken("", "it is too much"))?;
            Ok(())
        };
        let mut folders = Folders::of(serde_json::from_str(text).unwrap());
        let error = folders.get(number, spend).map(drop).unwrap_err().to_string();
        assert!(error.contains(said), "{error}");
    }

    proptest! {
        #[test]
        fn each_path_comes_back(paths in prop::collection::vec("(/?[ab]?[12]?){0,5}", 0..12)) {
            let (text, numbers) = table(&paths);
            let mut folders = Folders::of(serde_json::from_str(&text).unwrap());
            for (own, number) in paths.iter().zip(numbers) {
                prop_assert_eq!(&path(&mut folders, number), own);
            }
        }
    }
}
