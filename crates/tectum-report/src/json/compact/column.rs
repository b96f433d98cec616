//! A column: what stands in one place of many entries, one after the other. For most of them it is the same, or counts,
//! and is then said once.
//!
//! | an entry of a column | stands for |
//! |---|---|
//! | `7`, `"text"`, `null` | itself |
//! | `["text", 3]` | the same so often |
//! | `[7, 3, 2]` | so many numbers, each so much more than the one before it: 7, 9, 11 |
//!
//! A column that is no list stands for the same everywhere, however many there are; `{"like": 3}` for all that the fourth
//! column of the same entries says.

use std::{borrow::Cow, fmt};

use schemars::JsonSchema;
use serde::{
    Deserialize, Deserializer, Serialize,
    de::{self, SeqAccess, Visitor},
};

use crate::{json::cut::Cut, keyed::Map};

/// What stands in one place of an entry.
#[derive(Debug, Clone, PartialEq, Eq, Hash, Serialize, JsonSchema)]
#[serde(untagged)]
pub(in crate::json) enum Cell<'a> {
    /// Nothing.
    Nothing,
    /// A number.
    Number(u64),
    /// A text.
    Text(Cow<'a, str>),
}

/// What stands in some of the places, one after the other.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(untagged)]
pub(in crate::json) enum Run<'a> {
    /// In one.
    One(Cell<'a>),
    /// The same in so many.
    Same(Cell<'a>, u64),
    /// In so many a number that is so much more than the one before it.
    Counting(u64, u64, i64),
}

/// A column, as it is written.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, JsonSchema)]
#[serde(untagged)]
pub(in crate::json) enum Column<'a> {
    /// The same everywhere.
    All(Cell<'a>),
    /// In each place what stands there.
    Runs(Vec<Run<'a>>),
    /// In each place what stands there in another column.
    Like(Like),
}

/// A column that says what one before it says.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
pub(in crate::json) struct Like {
    /// The number of that column, counted from 0.
    like: usize,
}

/// So many of the same are worth being counted, and so many that count.
const SAME: usize = 3;
const COUNTING: usize = 4;

impl<'a> Column<'a> {
    /// A column that says how many places there are.
    pub(super) fn counted(cells: Vec<Cell<'a>>) -> Self {
        let mut runs = Vec::new();
        let mut rest = cells.as_slice();
        while let [first, ..] = rest {
            let same = rest.iter().take_while(|cell| *cell == first).count();
            let counting = counting(rest);
            let (run, length) = match (first, counting) {
                _ if same >= SAME => (Run::Same(first.clone(), same as u64), same),
                (Cell::Number(number), Some((length, step))) => {
                    (Run::Counting(*number, length as u64, step), length)
                }
                _ => (Run::One(first.clone()), 1),
            };
            runs.push(run);
            rest = rest.get(length..).unwrap_or_default();
        }
        Self::Runs(runs)
    }

    /// How long it is where it is written.
    fn length(&self) -> usize {
        serde_json::to_vec(self).map_or(0, |text| text.len())
    }

    /// Columns beside each other, of places that are counted elsewhere: what one says that stands before is not said again.
    pub(super) fn beside_each_other(all: Vec<Vec<Cell<'a>>>) -> Vec<Self> {
        let mut first: Map<Vec<Cell<'a>>, usize> = Map::default();
        let columns = all.into_iter().enumerate().map(|(number, cells)| {
            let column = Self::of(cells.clone());
            let like = *first.entry(cells).or_insert(number);
            match &column {
                Self::Runs(_) if like < number => {
                    let likewise = Self::Like(Like { like });
                    if likewise.length() < column.length() { likewise } else { column }
                }
                _ => column,
            }
        });
        columns.collect()
    }

    /// A column of places that are counted elsewhere.
    pub(super) fn of(cells: Vec<Cell<'a>>) -> Self {
        match cells.as_slice() {
            [first, rest @ ..] if rest.iter().all(|cell| cell == first) => Self::All(first.clone()),
            _ => Self::counted(cells),
        }
    }
}

/// How many cells count from the first on, and by how much, if they are enough.
fn counting(cells: &[Cell<'_>]) -> Option<(usize, i64)> {
    let step = |from: &Cell<'_>, to: &Cell<'_>| match (from, to) {
        (Cell::Number(from), Cell::Number(to)) => {
            i64::try_from(i128::from(*to) - i128::from(*from)).ok()
        }
        _ => None,
    };
    let [first, second, ..] = cells else { return None };
    let by = step(first, second)?;
    let steps = cells.windows(2).take_while(|pair| match pair {
        [from, to] => step(from, to) == Some(by),
        _ => false,
    });
    let length = steps.count() + 1;
    (length >= COUNTING).then_some((length, by))
}

impl Run<'_> {
    /// In how many places it stands.
    fn length(&self) -> u64 {
        match self {
            Self::One(_) => 1,
            Self::Same(_, length) | Self::Counting(_, length, _) => *length,
        }
    }
}

impl<'a> Run<'a> {
    /// What stands in one of its places.
    fn at(&self, place: u64) -> Result<Cell<'a>, serde_json::Error> {
        match self {
            Self::One(cell) | Self::Same(cell, _) => Ok(cell.clone()),
            Self::Counting(first, _, step) => {
                let by = i128::from(*step).checked_mul(i128::from(place));
                let number = by.and_then(|by| u64::try_from(i128::from(*first) + by).ok());
                let number = number.ok_or_else(|| de::Error::custom("a column counts too far"))?;
                Ok(Cell::Number(number))
            }
        }
    }
}

/// A column as it is read: no further than it is wanted, so that one that claims to be very long costs nothing.
#[derive(Debug)]
pub(super) struct Cells<'a> {
    /// What was not read yet.
    rest: &'a [u8],
    /// The run that was read last.
    run: Option<Run<'a>>,
    /// The place that it begins with.
    begin: u64,
    counts: bool,
}

impl<'a> Cells<'a> {
    /// A column by its text, which was found to be JSON.
    ///
    /// # Errors
    /// That it is no column.
    pub(super) fn of(column: Cut<'a>) -> Result<Self, serde_json::Error> {
        let text = column.0.trim_ascii();
        Ok(match text.strip_prefix(b"[") {
            Some(rest) => Self { rest, run: None, begin: 0, counts: true },
            None => {
                let all = Run::Same(serde_json::from_slice(text)?, u64::MAX);
                Self { rest: &[], run: Some(all), begin: 0, counts: false }
            }
        })
    }

    /// Columns beside each other, each of which may say that it says what one before it does.
    ///
    /// # Errors
    /// What is no column, or says it of none that stands before.
    pub(super) fn beside_each_other(all: Vec<Cut<'a>>) -> Result<Vec<Self>, serde_json::Error> {
        let mut columns: Vec<Cut<'a>> = Vec::with_capacity(all.len());
        for column in all {
            columns.push(match column.0.trim_ascii_start().first() {
                Some(b'{') => {
                    let Like { like } = serde_json::from_slice(column.0)?;
                    let before = columns.get(like).copied();
                    before.ok_or_else(|| de::Error::custom("a column is like none before it"))?
                }
                _ => column,
            });
        }
        columns.into_iter().map(Self::of).collect()
    }

    /// Whether it says how many places there are.
    pub(super) fn counts(&self) -> bool {
        self.counts
    }

    /// What stands in a place, and in how many from there on; nothing behind the last one. Places are asked for in their
    /// order; what stands before one that was asked for is gone.
    ///
    /// # Errors
    /// What is wrong with the column.
    pub(super) fn get(&mut self, place: u64) -> Result<Option<(Cell<'a>, u64)>, serde_json::Error> {
        loop {
            let length = self.run.as_ref().map_or(0, Run::length);
            let within = place.checked_sub(self.begin).filter(|within| *within < length);
            if let (Some(run), Some(within)) = (&self.run, within) {
                let alike = if matches!(run, Run::Counting(..)) { 1 } else { length - within };
                return Ok(Some((run.at(within)?, alike)));
            }
            let Some(next) = self.next_run()? else { return Ok(None) };
            // No place is so far that one behind it could be asked for.
            self.begin = self.begin.saturating_add(length);
            self.run = Some(next);
        }
    }

    fn next_run(&mut self) -> Result<Option<Run<'a>>, serde_json::Error> {
        let rest = self.rest.trim_ascii_start();
        let rest = rest.strip_prefix(b",").unwrap_or(rest);
        if matches!(rest.trim_ascii_start(), [] | [b']', ..]) {
            return Ok(None);
        }
        let mut runs = serde_json::Deserializer::from_slice(rest).into_iter();
        let run = runs.next().transpose()?;
        self.rest = rest.get(runs.byte_offset()..).unwrap_or_default();
        Ok(run)
    }
}

impl<'de: 'a, 'a> Deserialize<'de> for Cell<'a> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        match Run::deserialize(deserializer)? {
            Run::One(cell) => Ok(cell),
            Run::Same(..) | Run::Counting(..) => {
                Err(de::Error::invalid_type(de::Unexpected::Seq, &"a number, a text or null"))
            }
        }
    }
}

impl<'de: 'a, 'a> Deserialize<'de> for Run<'a> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Reader;
        impl<'de> Visitor<'de> for Reader {
            type Value = Run<'de>;

            fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                f.write_str("a number, a text or null, or that with how often it stands")
            }

            fn visit_unit<E: de::Error>(self) -> Result<Run<'de>, E> {
                Ok(Run::One(Cell::Nothing))
            }

            fn visit_u64<E: de::Error>(self, number: u64) -> Result<Run<'de>, E> {
                Ok(Run::One(Cell::Number(number)))
            }

            fn visit_borrowed_str<E: de::Error>(self, text: &'de str) -> Result<Run<'de>, E> {
                Ok(Run::One(Cell::Text(Cow::Borrowed(text))))
            }

            fn visit_str<E: de::Error>(self, text: &str) -> Result<Run<'de>, E> {
                Ok(Run::One(Cell::Text(Cow::Owned(text.to_owned()))))
            }

            fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<Run<'de>, A::Error> {
                let lacks = |at| de::Error::invalid_length(at, &self);
                let first: Cell<'de> = list.next_element()?.ok_or_else(|| lacks(0))?;
                let length: u64 = list.next_element()?.ok_or_else(|| lacks(1))?;
                let step: Option<i64> = list.next_element()?;
                if list.next_element::<de::IgnoredAny>()?.is_some() {
                    return Err(lacks(4));
                }
                match (first, step) {
                    (first, None) => Ok(Run::Same(first, length)),
                    (Cell::Number(first), Some(step)) => Ok(Run::Counting(first, length, step)),
                    _ => Err(de::Error::custom("what is no number cannot count")),
                }
            }
        }
        deserializer.deserialize_any(Reader)
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    fn written(column: &Column<'_>) -> String {
        serde_json::to_string(column).unwrap()
    }

    fn numbers(numbers: &[u64]) -> Vec<Cell<'static>> {
        numbers.iter().map(|number| Cell::Number(*number)).collect()
    }

    #[rstest]
    #[case::none(&[], "[]")]
    #[case::one(&[7], "7")]
    #[case::all(&[7, 7], "7")]
    #[case::few(&[7, 7, 8], "[7,7,8]")]
    #[case::often(&[7, 7, 7, 8], "[[7,3],8]")]
    #[case::counting(&[1, 2, 3, 4, 9], "[[1,4,1],9]")]
    #[case::down(&[9, 7, 5, 3], "[[9,4,-2]]")]
    #[case::far(&[0, u64::MAX, 0, 1], "[0,18446744073709551615,0,1]")]
    #[case::counting_from_one_that_stands_before(&[5, 5, 6, 7, 8], "[5,[5,4,1]]")]
    fn a_column_says_once_what_it_can(#[case] cells: &[u64], #[case] expected: &str) {
        assert_eq!(written(&Column::of(numbers(cells))), expected);
    }

    #[test]
    fn a_column_that_counts_says_how_many_there_are() {
        assert_eq!(written(&Column::counted(numbers(&[7]))), "[7]");
        assert_eq!(written(&Column::counted(numbers(&[7; 5]))), "[[7,5]]");
    }

    #[test]
    fn a_column_that_says_what_another_says_names_it() {
        let long = [100, 200, 900];
        let all =
            [&long, &[7, 7, 7], &long, &[7, 7, 7], &[100, 200, 800], &long, &[1, 2, 9], &[1, 2, 9]];
        let columns = Column::beside_each_other(all.iter().map(|own| numbers(*own)).collect());
        let text = serde_json::to_string(&columns).unwrap();
        let expected = r#"[[100,200,900],7,{"like":0},7,[100,200,800],{"like":0},[1,2,9],[1,2,9]]"#;
        assert_eq!(text, expected);

        let cuts: Vec<Cut<'_>> = serde_json::from_str(&text).unwrap();
        let read = Cells::beside_each_other(cuts).unwrap();
        for (mut read, own) in read.into_iter().zip(all) {
            for (place, number) in own.iter().enumerate() {
                let (cell, _) = read.get(place as u64).unwrap().unwrap();
                assert_eq!(cell, Cell::Number(*number));
            }
        }
    }

    #[rstest]
    #[case::itself(r#"[[1,2],{"like":1}]"#)]
    #[case::one_behind(r#"[{"like":1},[1,2]]"#)]
    #[case::none(r#"[{"like":0}]"#)]
    #[case::no_number(r#"[[1,2],{"like":"0"}]"#)]
    #[case::nothing_said("[[1,2],{}]")]
    fn a_column_that_is_like_none_before_it_is_refused(#[case] text: &str) {
        let cuts: Vec<Cut<'_>> = serde_json::from_str(text).unwrap();
        assert!(Cells::beside_each_other(cuts).is_err());
    }

    #[rstest]
    #[case("[[7]]", "invalid length 1")]
    #[case("[[7, 3, 1, 1]]", "invalid length 4")]
    #[case("[[7, -3]]", "invalid value")]
    #[case("[[\"a\", 3, 1]]", "what is no number cannot count")]
    #[case("[[null, 3, 1]]", "what is no number cannot count")]
    #[case("[true]", "invalid type")]
    #[case("[-1]", "invalid type")]
    #[case("[[[1, 2], 3]]", "invalid type")]
    #[case("[{}]", "invalid type")]
    #[case("[[18446744073709551615, 2, 1], 3]", "a column counts too far")]
    #[case("[[1, 3, -1]]", "a column counts too far")]
    fn what_is_no_column_is_refused(#[case] text: &str, #[case] said: &str) {
        let mut cells = Cells::of(Cut(text.as_bytes())).unwrap();
        let error = (0..4).map(|place| cells.get(place)).find_map(Result::err).unwrap();
        assert!(error.to_string().contains(said), "{error}");
    }

    #[rstest]
    #[case("true")]
    #[case("{}")]
    #[case("-1")]
    fn what_stands_everywhere_is_a_cell(#[case] text: &str) {
        assert!(Cells::of(Cut(text.as_bytes())).is_err());
    }

    #[test]
    fn a_column_that_claims_to_be_long_is_as_long() {
        let text = "[[3, 18446744073709551614], 4]";
        let mut cells = Cells::of(Cut(text.as_bytes())).unwrap();
        assert_eq!(cells.get(5).unwrap(), Some((Cell::Number(3), u64::MAX - 6)));
        assert_eq!(cells.get(u64::MAX - 1).unwrap(), Some((Cell::Number(4), 1)));
        assert_eq!(cells.get(u64::MAX).unwrap(), None);
    }

    fn any_cell() -> impl Strategy<Value = Cell<'static>> {
        prop_oneof![
            Just(Cell::Nothing),
            (0..6_u64).prop_map(Cell::Number),
            any::<u64>().prop_map(Cell::Number),
            "[a\"\\\\\u{e9}]{0,2}".prop_map(|text| Cell::Text(text.into())),
        ]
    }

    /// Cells as they stand in reports: the same for some, or counting.
    fn any_cells() -> impl Strategy<Value = Vec<Cell<'static>>> {
        let run = (any_cell(), 1..6_usize, -2..3_i64).prop_map(|(cell, length, step)| {
            let places = (0..).take(length);
            let at = |place: i64| match &cell {
                Cell::Number(first) => {
                    Cell::Number(first.checked_add_signed(place * step).unwrap_or(*first))
                }
                other => other.clone(),
            };
            places.map(at).collect::<Vec<_>>()
        });
        prop::collection::vec(run, 0..8).prop_map(|runs| runs.concat())
    }

    proptest! {
        /// Columns beside each other, of which some say the same, say what they said, and are no longer for it.
        #[test]
        fn columns_beside_each_other_are_read(
            kinds in prop::collection::vec(any_cells(), 1..4),
            which in prop::collection::vec(any::<prop::sample::Index>(), 0..8),
        ) {
            let all: Vec<Vec<Cell<'_>>> = which.iter().map(|at| at.get(&kinds).clone()).collect();
            let columns = Column::beside_each_other(all.clone());
            let text = serde_json::to_string(&columns).unwrap();
            let apart: Vec<_> = all.iter().map(|cells| Column::of(cells.clone())).collect();
            prop_assert!(text.len() <= serde_json::to_string(&apart).unwrap().len());
            let read = Cells::beside_each_other(serde_json::from_str(&text).unwrap()).unwrap();
            prop_assert_eq!(read.len(), all.len());
            for (mut read, cells) in read.into_iter().zip(all) {
                for (place, cell) in cells.iter().enumerate() {
                    prop_assert_eq!(&read.get(place as u64).unwrap().unwrap().0, cell);
                }
            }
        }

        /// Every place, or every so many, says what it said, and so does how many say the same.
        #[test]
        fn what_is_written_is_read(cells in any_cells(), every in 1..4_usize, spaced: bool) {
            let column = Column::counted(cells.clone());
            let text = match spaced {
                true => serde_json::to_string_pretty(&column).unwrap(),
                false => written(&column),
            };
            let mut read = Cells::of(Cut(text.as_bytes())).unwrap();
            prop_assert!(read.counts());
            for (place, cell) in cells.iter().enumerate().step_by(every) {
                let (own, alike) = read.get(place as u64).unwrap().unwrap();
                prop_assert_eq!(&own, cell);
                let further = &cells[place..place + usize::try_from(alike).unwrap()];
                prop_assert!(further.iter().all(|further| further == cell));
            }
            prop_assert_eq!(read.get(cells.len() as u64).unwrap(), None);

            let text = written(&Column::of(cells.clone()));
            let mut read = Cells::of(Cut(text.as_bytes())).unwrap();
            for (place, cell) in cells.iter().enumerate() {
                prop_assert_eq!(&read.get(place as u64).unwrap().unwrap().0, cell);
            }
        }
    }
}
