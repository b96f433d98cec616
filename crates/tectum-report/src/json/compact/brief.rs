//! The tables of a report, read by who does not ask where values are from: only why they are missing, or of that the
//! reason alone. Most of the tables is then passed over.

use std::{cmp::Ordering, collections::VecDeque, rc::Rc};

use serde::{Deserialize, Deserializer, de};

use super::{
    Way,
    parts::Turn,
    read::{LESS_OF_ITS_OWN, MORE_OF_ITS_OWN, Named, Origin, Table, Taking, Told, Unit, broken},
};
use crate::{
    fact::{Attempt, Evidence, Gap, Why},
    json::{cut::Rows, origins::Depth, read::ReadError},
    keyed::Map,
};

/// What of ways and recipes was read.
pub(super) struct InBrief<'a> {
    ways: Table<'a, Brief<'static>>,
    /// The same, by who only asks for what reason values are missing.
    reasons: Table<'a, Option<Missing>>,
    /// What of recipes that were met is read.
    gists: Map<usize, Rc<Gist>>,
    /// And by who only asks for reasons.
    missing: Map<usize, Rc<[Missing]>>,
}

impl<'a> InBrief<'a> {
    /// Nothing was read yet of ways, which are these.
    pub(super) fn new(ways: Rows<'a>, depth: Depth) -> Self {
        let none = Rows::Apart(Vec::new());
        let (ways, reasons) = if depth == Depth::Reasons { (none, ways) } else { (ways, none) };
        Self {
            ways: Table::new("ways", ways),
            reasons: Table::new("ways", reasons),
            gists: Map::default(),
            missing: Map::default(),
        }
    }
}

/// A way as it is read by who does not ask where values are from.
pub(super) type Brief<'a> = Way<'a, de::IgnoredAny>;

/// A way as it is read by who only asks for what reason a value is missing.
#[derive(Debug, Deserialize)]
struct Reason(String, SomeOrNone, #[serde(default)] Option<WhyAlone>);

/// Why a value is missing, without what else is said of that.
#[derive(Debug, Deserialize)]
struct WhyAlone {
    why: Why,
}

/// Whether a list has any entry, whatever they are.
#[derive(Debug)]
struct SomeOrNone(bool);

impl<'de> Deserialize<'de> for SomeOrNone {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        struct Reader;
        impl<'de> de::Visitor<'de> for Reader {
            type Value = SomeOrNone;

            fn expecting(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str("a list")
            }

            fn visit_seq<A: de::SeqAccess<'de>>(self, mut list: A) -> Result<SomeOrNone, A::Error> {
                let mut any = false;
                while list.next_element::<de::IgnoredAny>()?.is_some() {
                    any = true;
                }
                Ok(SomeOrNone(any))
            }
        }
        deserializer.deserialize_seq(Reader)
    }
}

/// Why a value is missing, by a way as it stands in its table; nothing where the way does not say that.
///
/// # Errors
/// That it is no way, where it may say it.
fn reason(way: &[u8]) -> Result<Option<Reason>, serde_json::Error> {
    // Most ways tell where a value is from. A name is in quotation marks, unless a sign of it is escaped.
    if memchr::memmem::find(way, b"\"why\"").is_none() && memchr::memchr(b'\\', way).is_none() {
        return Ok(None);
    }
    serde_json::from_slice(way).map(|reason: Reason| reason.2.is_some().then_some(reason))
}

/// Of a recipe what is read by who does not ask where values are from.
struct Gist {
    /// How much of a part's own its ways take.
    takes: usize,
    /// The ways that say why something is missing, each with how much those before it take, and their sources.
    lacks: Vec<(usize, Rc<Brief<'static>>)>,
}

/// A field that has no value, or may have more, and why.
type Missing = (Rc<str>, Why);

impl<'a> Told<'a> {
    /// What is said of a part of a kind without where its values are from; so much its ways may take.
    pub(super) fn unit_in_brief(
        &mut self,
        kind: usize,
        turn: Turn,
        takes: usize,
    ) -> Result<Unit, ReadError> {
        let gist = self.gist(turn.recipe)?;
        self.spend(gist.lacks.len() * (size_of::<(Named, Origin)>() + size_of::<Gap>()))?;
        match takes.cmp(&gist.takes) {
            Ordering::Less => return Err(broken("", LESS_OF_ITS_OWN)),
            Ordering::Greater => return Err(broken("", MORE_OF_ITS_OWN)),
            Ordering::Equal => {}
        }
        let lacks = gist.lacks.iter().filter_map(|(before, way)| Some((*before, way.2.as_ref()?)));
        let taken = lacks.flat_map(|(before, lack)| (before..).take(lack.takes()));
        let Some((_, opened)) = self.opened.get_mut(kind) else { return Ok(Unit::default()) };
        let part = opened.part(turn, taken)?;
        let mut own = Taking { folders: part.folders, values: part.values.into_iter() };
        let mut fields = VecDeque::with_capacity(gist.lacks.len());
        for (_, way) in &gist.lacks {
            let Some(lack) = &way.2 else { continue };
            let gap = self.gap(lack, &mut own)?;
            fields.push_back((Named::Brief(Rc::clone(way)), Origin::new(Vec::new(), Some(gap))));
        }
        Ok(Unit { fields })
    }

    /// Of a part what is missing and for what reason.
    pub(super) fn unit_of_reasons(&mut self, recipe: usize) -> Result<Unit, ReadError> {
        let missing = match self.brief.missing.get(&recipe) {
            Some(missing) => Rc::clone(missing),
            None => {
                let ways = self.recipes.get(recipe)?;
                let mut missing = Vec::new();
                for number in ways.iter() {
                    let own = self.brief.reasons.get_by(*number, |way| {
                        let told = reason(way)?;
                        Ok(told.and_then(|Reason(field, _, why)| Some((field.into(), why?.why))))
                    })?;
                    if let Some(own) = &*own {
                        self.spend(size_of::<Missing>())?;
                        missing.push(own.clone());
                    }
                }
                let missing: Rc<[Missing]> = missing.into();
                self.brief.missing.insert(recipe, Rc::clone(&missing));
                missing
            }
        };
        self.spend(missing.len() * (size_of::<(Named, Origin)>() + size_of::<Gap>()))?;
        let unit = missing.iter().map(|(field, why)| {
            (Named::Alone(Rc::clone(field)), Origin::new(Vec::new(), Some(Gap::new(*why))))
        });
        Ok(Unit { fields: unit.collect() })
    }

    fn gist(&mut self, recipe: usize) -> Result<Rc<Gist>, ReadError> {
        if let Some(gist) = self.brief.gists.get(&recipe) {
            return Ok(Rc::clone(gist));
        }
        let ways = self.recipes.get(recipe)?;
        self.spend(ways.len() * size_of::<(usize, Rc<Brief<'_>>)>())?;
        let mut gist = Gist { takes: 0, lacks: Vec::new() };
        for number in ways.iter() {
            let way = self.brief.ways.get(*number)?;
            // Few recipes can name a way very often, and each time it is counted what that takes.
            self.spend(way.1.count().saturating_mul(size_of::<Evidence>()))?;
            let taken = way.1.runs().map(|(piece, times)| {
                piece.takes().saturating_mul(usize::try_from(times).unwrap_or(usize::MAX))
            });
            gist.takes += taken.sum::<usize>();
            if let Some(lack) = &way.2 {
                self.spend(lack.tried.len() * size_of::<Attempt>())?;
                gist.lacks.push((gist.takes, Rc::clone(&way)));
                gist.takes += lack.takes();
            }
        }
        let gist = Rc::new(gist);
        self.brief.gists.insert(recipe, Rc::clone(&gist));
        Ok(gist)
    }
}

/// Whether a way, as it stands in its table, leaves open that there is more than could be seen: the value that is
/// missing, or parts beside those that are told.
///
/// # Errors
/// That it is no way.
pub(in crate::json) fn leaves_open(way: &[u8]) -> Result<bool, serde_json::Error> {
    let Some(Reason(_, SomeOrNone(has_a_value), lack)) = reason(way)? else { return Ok(false) };
    let settled = |why| matches!(why, Why::NotProvided | Why::NotApplicable | Why::Blank);
    Ok(lack.is_some_and(|lack| has_a_value || !settled(lack.why)))
}
