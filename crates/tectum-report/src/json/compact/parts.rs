//! What parts of a kind have of their own: those of one recipe stand together, and what is the same for many of them, or
//! counts, is said once.

use std::{borrow::Cow, collections::hash_map::Entry};

use schemars::JsonSchema;
use serde::{Deserialize, Deserializer, Serialize, Serializer, de, ser::SerializeSeq};

use super::{
    column::{Cell, Cells, Column, Run},
    read::broken,
};
use crate::{
    json::{
        cut::{Cut, Rows},
        read::ReadError,
    },
    keyed::Map,
};

/// The parts of a kind.
#[derive(Debug)]
pub(in crate::json) struct Parts<'a> {
    /// For each of them, in the order of the report, the number of its recipe.
    recipes: Column<'a>,
    /// Those of each recipe.
    alike: Vec<Alike<Column<'a>>>,
}

/// Parts of one recipe: their recipe, and by columns their folders and what their ways take.
#[derive(Debug)]
struct Alike<Column> {
    recipe: usize,
    folders: Vec<Column>,
    values: Vec<Column>,
}

/// One part.
#[derive(Debug)]
pub(super) struct Part<'a> {
    /// The number of its recipe.
    pub(super) recipe: usize,
    /// The numbers of its folders.
    pub(super) folders: Vec<usize>,
    /// What its ways take.
    pub(super) values: Vec<Cell<'a>>,
}

impl<'a> Parts<'a> {
    /// Parts in the order of the report.
    pub(super) fn of(parts: Vec<Part<'a>>) -> Self {
        let number = |number: usize| Cell::Number(number as u64);
        let recipes = Column::counted(parts.iter().map(|part| number(part.recipe)).collect());
        let mut alike: Vec<Alike<Vec<Cell<'a>>>> = Vec::new();
        let mut numbers = Map::default();
        for Part { recipe, folders, values } in parts {
            let at = *numbers.entry(recipe).or_insert(alike.len());
            if at == alike.len() {
                let columns = |count: usize| vec![Vec::new(); count];
                let (folders, values) = (columns(folders.len()), columns(values.len()));
                alike.push(Alike { recipe, folders, values });
            }
            // The ways of a recipe say how many folders and values a part has.
            let Some(own) = alike.get_mut(at) else { continue };
            own.folders.iter_mut().zip(folders).for_each(|(column, of)| column.push(number(of)));
            own.values.iter_mut().zip(values).for_each(|(column, value)| column.push(value));
        }
        let alike = alike.into_iter().map(|Alike { recipe, folders, values }| Alike {
            recipe,
            folders: Column::beside_each_other(folders),
            values: Column::beside_each_other(values),
        });
        Self { recipes, alike: alike.collect() }
    }
}

impl Serialize for Parts<'_> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut list = serializer.serialize_seq(Some(1 + self.alike.len()))?;
        list.serialize_element(&self.recipes)?;
        self.alike.iter().try_for_each(|alike| list.serialize_element(alike))?;
        list.end()
    }
}

impl<Column: Serialize> Serialize for Alike<Column> {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let mut list = serializer.serialize_seq(Some(2 + self.values.len()))?;
        list.serialize_element(&self.recipe)?;
        list.serialize_element(&self.folders)?;
        self.values.iter().try_for_each(|value| list.serialize_element(value))?;
        list.end()
    }
}

impl<'de, Column: Deserialize<'de>> Deserialize<'de> for Alike<Column> {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Reader<Column>(std::marker::PhantomData<Column>);
        impl<'de, Column: Deserialize<'de>> de::Visitor<'de> for Reader<Column> {
            type Value = Alike<Column>;

            fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str("a list: a recipe's number, a list of columns of folders, columns")
            }

            fn visit_seq<A: de::SeqAccess<'de>>(
                self,
                mut list: A,
            ) -> Result<Alike<Column>, A::Error> {
                let lacks = |at| de::Error::invalid_length(at, &self);
                let recipe = list.next_element()?.ok_or_else(|| lacks(0))?;
                let folders = list.next_element()?.ok_or_else(|| lacks(1))?;
                let mut values = Vec::new();
                while let Some(value) = list.next_element()? {
                    values.push(value);
                }
                Ok(Alike { recipe, folders, values })
            }
        }
        deserializer.deserialize_seq(Reader(std::marker::PhantomData))
    }
}

impl JsonSchema for Parts<'_> {
    fn schema_name() -> Cow<'static, str> {
        "Parts".into()
    }

    fn json_schema(generator: &mut schemars::SchemaGenerator) -> schemars::Schema {
        let run = generator.subschema_for::<Run<'_>>();
        let column = generator.subschema_for::<Column<'_>>();
        schemars::json_schema!({
            "description": "For each part the number of its recipe, as a column that counts; then for each of these \
                recipes its number and by columns the folders of its parts, and what their ways take, one after the \
                other: a text, the number of one of `texts`, a line, a handle.",
            "type": "array",
            "prefixItems": [{ "type": "array", "items": run }],
            "items": {
                "type": "array",
                "prefixItems": [
                    { "type": "integer", "minimum": 0 },
                    { "type": "array", "items": column },
                ],
                "items": column,
                "minItems": 2,
            },
            "minItems": 1,
        })
    }
}

const MORE: &str = "it tells of more parts than there are; a report that is to be changed by hand is saved in the \
    expanded form";
const FEWER: &str = "it tells of fewer parts than there are; a report that is to be changed by hand is saved in the \
    expanded form";

/// What is said of the parts of a kind, while it is read part by part.
pub(super) struct Opened<'a> {
    recipes: Cells<'a>,
    /// So many of them were met.
    met: u64,
    alike: Vec<Of<'a>>,
    /// Where those of a recipe stand among these.
    numbers: Map<usize, usize>,
    /// Whether any was passed over: what is said of it was not looked at.
    passed_over: bool,
}

/// What is said of parts of one recipe.
struct Of<'a> {
    recipe: usize,
    folders: Vec<Cells<'a>>,
    values: Vec<Cells<'a>>,
    /// So many of them were met.
    met: u64,
}

/// The part whose turn it is: the recipe that it is of, and how many of that were before it.
#[derive(Debug, Clone, Copy)]
pub(super) struct Turn {
    pub(super) recipe: usize,
    of: usize,
    place: u64,
}

/// The recipes of parts, by the text of what is said of them; nothing where it is not as it is printed.
pub(in crate::json) fn recipes_of(parts: Cut<'_>) -> Option<Vec<usize>> {
    let rows = Rows::of(parts).ok()?.apart();
    let (_, alike) = rows.split_first()?;
    let recipe = |row: &Cut<'_>| {
        let behind = row.0.trim_ascii_start().strip_prefix(b"[")?;
        let end = behind.iter().position(|sign| !sign.is_ascii_digit())?;
        std::str::from_utf8(behind.get(..end)?).ok()?.parse().ok()
    };
    alike.iter().map(recipe).collect()
}

fn wrong(error: &serde_json::Error) -> ReadError {
    broken("", error.to_string())
}

/// The number in a cell.
pub(super) fn number(cell: &Cell<'_>) -> Result<u64, ReadError> {
    match cell {
        Cell::Number(number) => Ok(*number),
        Cell::Text(_) => Err(broken("", "a text stands where a number is wanted")),
        Cell::Nothing => Err(broken("", "nothing stands where a number is wanted")),
    }
}

/// The number of an entry in a cell.
pub(super) fn number_of_entry(cell: &Cell<'_>) -> Result<usize, ReadError> {
    Ok(usize::try_from(number(cell)?).unwrap_or(usize::MAX))
}

impl<'a> Opened<'a> {
    /// Parts of a kind by the text of what is said of them. What columns take beside that text is told to `spend`, which
    /// may refuse it.
    ///
    /// # Errors
    /// What is wrong with it.
    pub(super) fn of(
        parts: Cut<'a>,
        mut spend: impl FnMut(usize) -> Result<(), ReadError>,
    ) -> Result<Self, ReadError> {
        let rows = Rows::of(parts).map_err(|error| wrong(&error))?.apart();
        let Some((recipes, rows)) = rows.split_first() else {
            return Err(broken("", "no recipes stand there"));
        };
        let recipes = Cells::of(*recipes).map_err(|error| wrong(&error))?;
        if !recipes.counts() {
            return Err(broken("", "the recipes of parts are no list"));
        }
        let mut own = Self {
            recipes,
            met: 0,
            alike: Vec::new(),
            numbers: Map::default(),
            passed_over: false,
        };
        for row in rows {
            let Alike::<Cut<'a>> { recipe, folders, values } =
                serde_json::from_slice(row.0).map_err(|error| wrong(&error))?;
            spend((folders.len() + values.len()) * size_of::<Cells<'_>>())?;
            let folders = Cells::beside_each_other(folders).map_err(|error| wrong(&error))?;
            let values = Cells::beside_each_other(values).map_err(|error| wrong(&error))?;
            match own.numbers.entry(recipe) {
                Entry::Vacant(slot) => slot.insert(own.alike.len()),
                Entry::Occupied(_) => {
                    return Err(broken(
                        "",
                        format!("the parts of recipe {recipe} stand there twice"),
                    ));
                }
            };
            own.alike.push(Of { recipe, folders, values, met: 0 });
        }
        Ok(own)
    }

    /// The recipe of the next part, and of how many from there on.
    fn next_recipe(&mut self) -> Result<Option<(usize, u64)>, ReadError> {
        let next = self.recipes.get(self.met).map_err(|error| wrong(&error))?;
        next.map(|(cell, alike)| Ok((number_of_entry(&cell)?, alike))).transpose()
    }

    /// Where parts of a recipe stand.
    fn of_recipe(&self, recipe: usize) -> Result<usize, ReadError> {
        let at = self.numbers.get(&recipe).copied();
        at.ok_or_else(|| broken("", format!("no parts of recipe {recipe} stand there")))
    }

    /// Whose turn it is, after those whose turn it was.
    ///
    /// # Errors
    /// That no part is told of any more; what is wrong with the column of recipes.
    pub(super) fn turn(&mut self) -> Result<Turn, ReadError> {
        let (recipe, _) = self.next_recipe()?.ok_or_else(|| broken("", FEWER))?;
        let of = self.of_recipe(recipe)?;
        let mut place = 0;
        if let Some(own) = self.alike.get_mut(of) {
            place = own.met;
            own.met += 1;
        }
        self.met += 1;
        Ok(Turn { recipe, of, place })
    }

    /// How much the ways of the part whose turn it is may take.
    pub(super) fn values(&self, turn: Turn) -> usize {
        self.alike.get(turn.of).map_or(0, |own| own.values.len())
    }

    /// The part whose turn it is, with its folders and with what some of its ways take, which are told by their places.
    ///
    /// # Errors
    /// What is wrong with a column.
    pub(super) fn part(
        &mut self,
        turn: Turn,
        taken: impl Iterator<Item = usize>,
    ) -> Result<Part<'a>, ReadError> {
        let mut part = Part { recipe: turn.recipe, folders: Vec::new(), values: Vec::new() };
        let Some(own) = self.alike.get_mut(turn.of) else { return Ok(part) };
        let cell = |column: &mut Cells<'a>| {
            let cell = column.get(turn.place).map_err(|error| wrong(&error))?;
            let cell = cell.map(|(cell, _)| cell);
            cell.ok_or_else(|| broken("", "a column ends before the parts do"))
        };
        for column in &mut own.folders {
            part.folders.push(number_of_entry(&cell(column)?)?);
        }
        for at in taken {
            if let Some(column) = own.values.get_mut(at) {
                part.values.push(cell(column)?);
            }
        }
        Ok(part)
    }

    /// Passes over so many parts.
    ///
    /// # Errors
    /// That fewer are told of; what is wrong with the column of recipes.
    pub(super) fn pass_over(&mut self, count: usize) -> Result<(), ReadError> {
        let mut left = count as u64;
        while left > 0 {
            let (recipe, alike) = self.next_recipe()?.ok_or_else(|| broken("", FEWER))?;
            let passed = alike.min(left);
            let of = self.of_recipe(recipe)?;
            if let Some(own) = self.alike.get_mut(of) {
                own.met += passed;
            }
            self.met += passed;
            left -= passed;
            self.passed_over = true;
        }
        Ok(())
    }

    /// Looks whether all was said of parts that are there; with the columns, whether they end with these.
    ///
    /// # Errors
    /// That more is said.
    pub(super) fn end(&mut self, with_columns: bool) -> Result<(), ReadError> {
        if self.next_recipe()?.is_some() {
            return Err(broken("", MORE));
        }
        if !with_columns || self.passed_over {
            return Ok(());
        }
        for own in &mut self.alike {
            if own.met == 0 {
                let said = format!("parts of recipe {} stand there, and none is of it", own.recipe);
                return Err(broken("", said));
            }
            for column in own.folders.iter_mut().chain(&mut own.values) {
                let behind = column.get(own.met).map_err(|error| wrong(&error))?;
                if column.counts() && behind.is_some() {
                    return Err(broken("", "a column goes on behind the last part"));
                }
            }
        }
        Ok(())
    }
}
