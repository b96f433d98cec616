//! Of an inventory the fields that paths may name, and those that say which part it is: who asks thousands of
//! inventories for one field need not read the others.

use std::{borrow::Cow, fmt};

use serde::{
    Deserializer,
    de::{DeserializeSeed, Error, IgnoredAny, MapAccess, SeqAccess, Visitor},
};

use super::{
    read::{ReadError, Where, Whole, Within, filled},
    tree::{Name, Tree},
    wanted::PassedOver,
};
use crate::{
    declare::{Described, FieldShape, Kind, Shape},
    model::Inventory,
    query::{Along, Path},
    report::{Report, Taken},
    version::REPORT,
};

/// Fields of an inventory.
#[derive(Debug)]
pub struct Chosen(ChosenFields);

/// Fields of a record.
#[derive(Debug)]
pub struct ChosenFields {
    shape: &'static Shape,
    /// For each field whether it is chosen, and what in it.
    fields: Vec<Option<ChosenField>>,
}

#[derive(Debug)]
enum ChosenField {
    /// All of it.
    Whole,
    /// Of the record or the records in it, these fields.
    Within(ChosenFields),
}

impl Chosen {
    /// What these paths may name in an inventory. With conditions in it a path may ask for anything that
    /// stands in its section.
    pub fn by(paths: &[Path]) -> Self {
        let root = [Along::Named("inventory")];
        Self(ChosenFields::of(Inventory::SHAPE, &root, paths).unwrap_or(ChosenFields {
            shape: Inventory::SHAPE,
            fields: Inventory::SHAPE.fields.iter().map(|_| None).collect(),
        }))
    }

    /// All that stands in these sections.
    pub fn sections(names: &[&str]) -> Self {
        let shape = Inventory::SHAPE;
        let field = |name| names.contains(&name).then_some(ChosenField::Whole);
        let fields = shape.fields.iter().map(|section| field(section.name)).collect();
        Self(ChosenFields { shape, fields })
    }

    /// What is chosen of a section: nothing, all of it, or some fields in it.
    pub fn section(&self, name: &str) -> Option<Option<&ChosenFields>> {
        self.0.field(self.0.shape.index_of(name)?)
    }
}

impl ChosenFields {
    fn of(shape: &'static Shape, way: &[Along<'static>], paths: &[Path]) -> Option<Self> {
        let fields: Vec<Option<ChosenField>> = shape
            .fields
            .iter()
            .map(|field| {
                let mut way = way.to_vec();
                way.push(Along::Field(field));
                let lead: Vec<&Path> =
                    paths.iter().filter(|path| path.may_lead_along(&way)).collect();
                let inner = field.kind.inner().filter(|_| !lead.is_empty())?;
                if lead.iter().any(|path| path.has_conditions()) {
                    return Some(ChosenField::Whole);
                }
                if matches!(field.kind, Kind::List(_)) {
                    way.push(Along::Element(inner));
                }
                Self::of(inner, &way, paths).map(ChosenField::Within)
            })
            .collect();
        let mut own = Self { shape, fields };
        own.choose_leaves(way, paths);
        let any = own.fields.iter().any(Option::is_some);
        any.then_some(own)
    }

    /// Adds the values that paths may name; and where there is anything else to be named, those by which people
    /// and paths name the part.
    fn choose_leaves(&mut self, way: &[Along<'static>], paths: &[Path]) {
        let identity = self.shape.identity.iter().flat_map(|identity| identity.fields);
        let shape = self.shape;
        let naming: Vec<usize> =
            identity.chain(shape.place).chain(shape.names).chain(shape.called).copied().collect();
        for (index, field) in shape.fields.iter().enumerate() {
            if field.kind.inner().is_some() {
                continue;
            }
            let way: Vec<Along<'static>> =
                way.iter().copied().chain([Along::Field(field)]).collect();
            let named = paths.iter().any(|path| path.may_lead_along(&way));
            if let (true, Some(slot)) =
                (named || naming.contains(&index), self.fields.get_mut(index))
            {
                *slot = Some(ChosenField::Whole);
            }
        }
    }

    /// The fields that are chosen, each with what is in it, if not all is.
    pub fn chosen(&self) -> impl Iterator<Item = (&'static FieldShape, Option<&Self>)> {
        let fields = self.shape.fields.iter().enumerate();
        fields.filter_map(|(index, field)| Some((field, self.field(index)?)))
    }

    /// What is chosen of a field: nothing, all of it, or some fields in it.
    pub(super) fn field(&self, index: usize) -> Option<Option<&Self>> {
        match self.fields.get(index)?.as_ref()? {
            ChosenField::Whole => Some(None),
            ChosenField::Within(inner) => Some(Some(inner)),
        }
    }
}

impl Report {
    /// A report of the values of an inventory alone, from its text: of those fields that are chosen, or of all.
    /// What is passed over is not looked at, and stands in the report as if nobody had asked for it.
    ///
    /// # Errors
    /// A [`ReadError`] that says what is wrong and where.
    pub fn of_inventory(
        text: &[u8],
        taken: Taken,
        chosen: Option<&Chosen>,
    ) -> Result<Self, ReadError> {
        let mut json = serde_json::Deserializer::from_slice(text);
        let read = match chosen {
            Some(Chosen(fields)) => Reader(fields).deserialize(&mut json).and_then(|inventory| {
                json.end()?;
                Ok(inventory)
            }),
            None => serde_json::from_slice(text),
        };
        let inventory = match read {
            Ok(inventory) => inventory,
            // Read once more, with what it takes to say where it went wrong.
            Err(_) => Within::of(text).whole("/inventory")?,
        };
        let whole = Whole {
            format_version: REPORT.current,
            newer: false,
            taken,
            machine: Tree::NOTHING,
            inventory,
            readings: Tree::NOTHING,
            origins: Where::nowhere(),
            sources: Vec::new(),
            notes: Vec::new(),
        };
        let chosen = chosen.map(|Chosen(fields)| fields);
        Ok(filled(whole, PassedOver::new(), chosen)?.0)
    }
}

/// Reads of records what is chosen.
#[derive(Clone, Copy)]
struct Reader<'c>(&'c ChosenFields);

impl<'de> DeserializeSeed<'de> for Reader<'_> {
    type Value = Tree<'de>;

    fn deserialize<D: Deserializer<'de>>(self, deserializer: D) -> Result<Tree<'de>, D::Error> {
        deserializer.deserialize_any(self)
    }
}

impl<'de> Visitor<'de> for Reader<'_> {
    type Value = Tree<'de>;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("a record, a list of records, or nothing")
    }

    fn visit_unit<E: Error>(self) -> Result<Tree<'de>, E> {
        Ok(serde_json::Value::Null.into())
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut list: A) -> Result<Tree<'de>, A::Error> {
        let mut items = Vec::new();
        while let Some(item) = list.next_element_seed(self)? {
            items.push(item);
        }
        Ok(Tree::list(items))
    }

    fn visit_map<A: MapAccess<'de>>(self, mut object: A) -> Result<Tree<'de>, A::Error> {
        let mut members: Vec<(Cow<'de, str>, Tree<'de>)> = Vec::new();
        // They nearly always stand in the order of the fields.
        let mut next = 0;
        while let Some(Name(name)) = object.next_key()? {
            let shape = self.0.shape;
            let follows = shape.fields.get(next).is_some_and(|field| field.name == name);
            let index = if follows { Some(next) } else { shape.index_of(&name) };
            next = index.map_or(next, |index| index + 1);
            let value = match index.map(|index| self.0.field(index)) {
                // What nobody knows is told, and so it is read.
                None | Some(Some(None)) => object.next_value()?,
                Some(Some(Some(inner))) => object.next_value_seed(Reader(inner))?,
                Some(None) => {
                    object.next_value::<IgnoredAny>()?;
                    continue;
                }
            };
            members.push((name, value));
        }
        Ok(Tree::Record(members))
    }
}
