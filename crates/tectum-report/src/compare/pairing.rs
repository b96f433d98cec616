//! Which part of one report is which part of the other.
//!
//! Lists are paired in an order in which what a list refers to is paired before it. First come the
//! parts that something unique in the world makes themselves, wherever they are; what such a part
//! is on (the PCI function of a network port) is paired with it. The rest is paired by place, then
//! by kind, then by the kernel's name, then by being alike in everything.

use std::collections::{HashMap, HashSet};

use serde_json::Value;

use crate::declare::{
    AnyFact, Identity, Record, Shape, Tells, fact_at,
    link::{ListId, PartId, Parts},
};

/// What became of each part.
pub(super) struct Pairs {
    /// For each part before: the part after, and whether it is another one in its place.
    before: Vec<Option<(PartId, bool)>>,
    /// For each part after: the part before.
    after: Vec<Option<PartId>>,
    /// Parts that may be one of several, because what would tell was not seen on a side.
    unsure: [HashSet<PartId>; 2],
}

impl Pairs {
    /// The part after that a part before has become, and whether it was replaced by it.
    pub(super) fn of_before(&self, part: PartId) -> Option<(PartId, bool)> {
        self.before.get(part).copied().flatten()
    }

    /// The part before that a part after was, or replaced.
    pub(super) fn of_after(&self, part: PartId) -> Option<PartId> {
        self.after.get(part).copied().flatten()
    }

    /// Whether a part without a pair may well have one, which could not be seen.
    pub(super) fn is_unsure(&self, side: SideOf, part: PartId) -> bool {
        let [before, after] = &self.unsure;
        if side == SideOf::Before { before.contains(&part) } else { after.contains(&part) }
    }

    fn settle(&mut self, old: PartId, new: PartId, replaced: bool) {
        if let (Some(before), Some(after)) = (self.before.get_mut(old), self.after.get_mut(new)) {
            *before = Some((new, replaced));
            *after = Some(old);
        }
    }

    /// A word for a part that is the same on both sides if and only if it is the same part.
    pub(super) fn word_before(&self, part: PartId) -> String {
        match self.of_before(part) {
            Some((_, false)) => format!("\0{part}"),
            _ => format!("\0before {part}"),
        }
    }

    /// The same for a part after.
    pub(super) fn word_after(&self, part: PartId) -> String {
        match self
            .of_after(part)
            .filter(|old| self.of_before(*old).is_some_and(|(_, replaced)| !replaced))
        {
            Some(old) => format!("\0{old}"),
            None => format!("\0after {part}"),
        }
    }
}

/// One of the two reports.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum SideOf {
    Before,
    After,
}

struct Pairer<'p, 'a> {
    old: &'p Parts<'a>,
    new: &'p Parts<'a>,
    pairs: Pairs,
    /// Lists of both sides, by their ways.
    lists: Vec<Both>,
    done: HashSet<usize>,
    /// Lists before, and after, of which the other side may hold parts that could not be seen there.
    unseen_beside: [HashSet<ListId>; 2],
}

/// A list on both sides.
struct Both {
    shape: &'static Shape,
    way: Vec<&'static str>,
    old: Option<ListId>,
    new: Option<ListId>,
}

type Key = Vec<Option<String>>;

/// What a part goes by in one step of the pairing.
type KeyOf<'k, Own> = &'k dyn Fn(&Own, SideOf, PartId, &dyn Record) -> Option<Key>;

/// Pairs all parts of two roots.
pub(super) fn pair(old: &Parts<'_>, new: &Parts<'_>) -> Pairs {
    let mut lists: Vec<Both> = Vec::new();
    for (id, list) in old.lists.iter().enumerate() {
        lists.push(Both { shape: list.shape, way: list.way.clone(), old: Some(id), new: None });
    }
    let mut known: HashMap<Vec<&'static str>, usize> =
        lists.iter().enumerate().map(|(index, both)| (both.way.clone(), index)).collect();
    for (id, list) in new.lists.iter().enumerate() {
        let index = *known.entry(list.way.clone()).or_insert_with(|| {
            lists.push(Both { shape: list.shape, way: list.way.clone(), old: None, new: None });
            lists.len() - 1
        });
        if let Some(both) = lists.get_mut(index) {
            both.new = Some(id);
        }
    }
    let pairs = Pairs {
        before: vec![None; old.parts.len()],
        after: vec![None; new.parts.len()],
        unsure: [HashSet::new(), HashSet::new()],
    };
    let unseen = |parts: &Parts<'_>, list: Option<ListId>| {
        list.is_none_or(|list| parts.lists.get(list).is_none_or(|list| list.hides_parts))
    };
    let unseen_beside = [
        lists.iter().filter(|both| unseen(new, both.new)).filter_map(|both| both.old).collect(),
        lists.iter().filter(|both| unseen(old, both.old)).filter_map(|both| both.new).collect(),
    ];
    let mut pairer = Pairer { old, new, pairs, lists, done: HashSet::new(), unseen_beside };
    let members = pairer.members();
    for index in 0..pairer.lists.len() {
        pairer.unique_in_the_world(index, &members);
    }
    pairer.hints();
    for index in 0..pairer.lists.len() {
        pairer.ensure(index, &known, &members, &mut HashSet::new());
    }
    pairer.pairs
}

/// The parts of each list, on both sides.
struct Members {
    old: Vec<Vec<PartId>>,
    new: Vec<Vec<PartId>>,
}

impl<'p, 'a> Pairer<'p, 'a> {
    fn members(&self) -> Members {
        let of = |parts: &Parts<'_>| {
            let mut members = vec![Vec::new(); parts.lists.len()];
            for (id, part) in parts.parts.iter().enumerate() {
                if let Some(list) = members.get_mut(part.list) {
                    list.push(id);
                }
            }
            members
        };
        Members { old: of(self.old), new: of(self.new) }
    }

    fn record(&self, side: SideOf, part: PartId) -> Option<&'a dyn Record> {
        let parts = if side == SideOf::Before { self.old } else { self.new };
        parts.parts.get(part).map(|part| part.record)
    }

    /// A field's value as a word: what it refers to, or its text.
    fn word(&self, side: SideOf, record: &dyn Record, field: usize) -> Option<String> {
        let parts = if side == SideOf::Before { self.old } else { self.new };
        if let Some(references) = parts.references(record, field) {
            let mut words: Vec<String> = references
                .into_iter()
                .map(|(text, part)| match (part, side) {
                    // What the other side could not see is by its name alone what it is here.
                    (Some(part), side) if self.may_be_unseen_beside(side, part) => text,
                    (Some(part), SideOf::Before) => self.pairs.word_before(part),
                    (Some(part), SideOf::After) => self.pairs.word_after(part),
                    (None, _) => text,
                })
                .collect();
            words.sort_unstable();
            return Some(words.join(" "));
        }
        fact_at(record, field)?.text()
    }

    /// Whether a part has no pair and may have one in a list that the other side could not see whole, or did not ask for.
    fn may_be_unseen_beside(&self, side: SideOf, part: PartId) -> bool {
        let parts = if side == SideOf::Before { self.old } else { self.new };
        let [of_before, of_after] = &self.unseen_beside;
        let unseen = if side == SideOf::Before { of_before } else { of_after };
        // What stands in a part that may be unseen may be itself.
        let list = parts.parts.get(part).map(|part| part.list);
        let mut within =
            std::iter::successors(list, |list| parts.lists.get(*list).and_then(|own| own.parent));
        !self.is_paired(side, part) && within.any(|list| unseen.contains(&list))
    }

    fn whole(&self, side: SideOf, record: &dyn Record, fields: &[usize]) -> Option<Key> {
        fields.iter().map(|field| self.word(side, record, *field).map(Some)).collect()
    }

    fn some(&self, side: SideOf, record: &dyn Record, fields: &[usize]) -> Option<Key> {
        let key: Key = fields.iter().map(|field| self.word(side, record, *field)).collect();
        key.iter().any(Option::is_some).then_some(key)
    }

    /// Pairs what is the same by itself, in lists that lie in no part.
    fn unique_in_the_world(&mut self, index: usize, members: &Members) {
        let Some(both) = self.lists.get(index) else { return };
        let (Some(old), Some(new)) = (both.old, both.new) else { return };
        let top = |parts: &Parts<'_>, list: ListId| {
            parts.lists.get(list).is_some_and(|list| list.parent.is_none())
        };
        if !top(self.old, old) || !top(self.new, new) {
            return;
        }
        let shape = both.shape;
        let (Some(olds), Some(news)) = (members.old.get(old), members.new.get(new)) else { return };
        for identity in which(shape) {
            if identity.fields.iter().any(|field| shape.reference(*field).is_some()) {
                continue;
            }
            self.unique(olds, news, &|own, side, _, record| {
                own.whole(side, record, identity.fields)
            });
        }
    }

    /// Pairs parts whose key stands once on either side.
    fn unique(&mut self, olds: &[PartId], news: &[PartId], key: KeyOf<'_, Self>) {
        let after = self.by_key(SideOf::After, news, key);
        let mut found = Vec::new();
        for (key, before) in self.by_key(SideOf::Before, olds, key) {
            if let ([old], Some([new])) = (&*before, after.get(&key).map(Vec::as_slice))
                && self.is_free(*old, *new)
            {
                found.push((*old, *new));
            }
        }
        for (old, new) in found {
            self.pairs.settle(old, new, false);
        }
    }

    fn is_free(&self, old: PartId, new: PartId) -> bool {
        self.pairs.of_before(old).is_none() && self.pairs.of_after(new).is_none()
    }

    /// Parts by key, those that are paired already among them: a key of theirs is taken.
    fn by_key(
        &self,
        side: SideOf,
        parts: &[PartId],
        key: KeyOf<'_, Self>,
    ) -> HashMap<Key, Vec<PartId>> {
        let mut keys: HashMap<Key, Vec<PartId>> = HashMap::new();
        for part in parts {
            if let Some(key) =
                self.record(side, *part).and_then(|record| key(self, side, *part, record))
            {
                keys.entry(key).or_default().push(*part);
            }
        }
        keys
    }

    /// What a part that is surely the same sits on, is the same too.
    fn hints(&mut self) {
        let mut found = Vec::new();
        for (old_id, part) in self.old.parts.iter().enumerate() {
            let Some((new_id, _)) = self.pairs.of_before(old_id) else { continue };
            let Some(record) = self.record(SideOf::After, new_id) else { continue };
            let shape = part.record.shape();
            // A part's controller is not the part: only what its place is, is itself.
            for field in shape.place.iter().filter(|field| shape.reference(**field).is_some()) {
                let one = |parts: &Parts<'_>, record: &dyn Record| match parts
                    .references(record, *field)?
                    .as_slice()
                {
                    [(_, part)] => *part,
                    _ => None,
                };
                if let (Some(old), Some(new)) = (one(self.old, part.record), one(self.new, record))
                {
                    found.push((old, new));
                }
            }
        }
        for (old, new) in found {
            let shapes = (self.record(SideOf::Before, old), self.record(SideOf::After, new));
            if let (Some(a), Some(b)) = shapes
                && std::ptr::eq(a.shape(), b.shape())
                // A slot is a place; a card in it is something.
                && !a.shape().identity.is_empty()
                && self.is_free(old, new)
                && !self.differ(a, b, Tells::Kind)
            {
                self.pairs.settle(old, new, false);
            }
        }
    }

    /// Pairs a list, after what it refers to.
    fn ensure(
        &mut self,
        index: usize,
        known: &HashMap<Vec<&'static str>, usize>,
        members: &Members,
        visiting: &mut HashSet<usize>,
    ) {
        if self.done.contains(&index) || !visiting.insert(index) {
            return;
        }
        let Some(both) = self.lists.get(index) else { return };
        let shape = both.shape;
        let (old, new) = (both.old, both.new);
        let mut before: Vec<Vec<&'static str>> = Vec::new();
        let way = both.way.clone();
        // The list that the part which holds this one stands in.
        before.extend((1..way.len()).filter_map(|end| way.get(..end).map(<[_]>::to_vec)));
        let keys = shape.place.iter().chain(shape.identity.iter().flat_map(|one| one.fields));
        for reference in keys.filter_map(|field| shape.reference(*field)) {
            for target in reference.targets {
                if let [way @ .., _] = target {
                    before.push(way.to_vec());
                }
            }
        }
        for way in before {
            if let Some(other) = known.get(&way) {
                self.ensure(*other, known, members, visiting);
            }
        }
        let (Some(old), Some(new)) = (old, new) else { return };
        let (Some(olds), Some(news)) = (members.old.get(old), members.new.get(new)) else { return };
        // Parts that lie in parts are paired where those are the same.
        let mut groups: HashMap<Option<PartId>, (Vec<PartId>, Vec<PartId>)> = HashMap::new();
        for part in news {
            let parent = self.new.parts.get(*part).and_then(|part| part.parent);
            let parent = match parent {
                None => None,
                Some(parent) => match self.pairs.of_after(parent) {
                    Some(old) if self.pairs.of_before(old).is_some_and(|(_, other)| !other) => {
                        Some(old)
                    }
                    _ => continue,
                },
            };
            groups.entry(parent).or_default().1.push(*part);
        }
        for part in olds {
            let parent = self.old.parts.get(*part).and_then(|part| part.parent);
            if let Some((before, _)) = groups.get_mut(&parent) {
                before.push(*part);
            }
        }
        for (before, after) in groups.into_values() {
            self.group(shape, &before, &after);
        }
        self.done.insert(index);
    }

    fn group(&mut self, shape: &'static Shape, olds: &[PartId], news: &[PartId]) {
        for identity in which(shape) {
            self.unique(olds, news, &|own, side, _, record| {
                own.whole(side, record, identity.fields)
            });
        }
        let place = |own: &Self, side: SideOf, _: PartId, record: &dyn Record| {
            own.some(side, record, shape.place)
        };
        let doubled = self.doubled(shape, olds, news);
        self.in_order(olds, news, &place, &doubled);
        for identity in shape.identity.iter().filter(|one| one.tells == Tells::Kind) {
            self.unique(olds, news, &|own, side, part, record| {
                (!own.is_paired(side, part)).then_some(())?;
                own.whole(side, record, identity.fields)
            });
        }
        // What has neither identity nor place is known by its name, and last by being alike.
        let by_name = |own: &Self, side: SideOf, _: PartId, record: &dyn Record| {
            own.is_nameless(shape, side, record).then_some(())?;
            own.some(side, record, shape.names.get(..1).unwrap_or_default())
        };
        self.in_order(olds, news, &by_name, &doubled);
        let alike = |own: &Self, side: SideOf, _: PartId, record: &dyn Record| {
            own.some(side, record, shape.place).is_none().then(|| vec![content(record)])
        };
        self.in_order(olds, news, &alike, &doubled);
        for identity in which(shape) {
            let same = |own: &Self, side: SideOf, _: PartId, record: &dyn Record| {
                own.some(side, record, shape.place).is_none().then_some(())?;
                own.whole(side, record, identity.fields)
            };
            self.in_order(olds, news, &same, &doubled);
        }
        if which(shape).next().is_none() && shape.place.is_empty() && shape.names.is_empty() {
            // Nothing tells them apart: their order is all there is.
            self.in_order(olds, news, &|_, _, _, _| Some(Vec::new()), &doubled);
        }
        self.as_far_as_seen(shape, olds, news);
    }

    /// Pairs what is left by what both sides could see of it, where that leaves one choice; where it
    /// leaves several, nothing is sure of these parts.
    fn as_far_as_seen(&mut self, shape: &'static Shape, olds: &[PartId], news: &[PartId]) {
        let keys: Vec<usize> = (0..shape.fields.len())
            .filter(|field| {
                // A name of this boot says something only where nothing else does.
                let by_name = shape.identity.is_empty() && shape.place.is_empty();
                shape.place.contains(field)
                    || (by_name && shape.names.contains(field))
                    || shape.identity.iter().any(|identity| identity.fields.contains(field))
            })
            .collect();
        let seen = |side: SideOf, parts: &[PartId]| -> Vec<(PartId, Vec<Seen>)> {
            let free = parts.iter().filter(|part| !self.is_paired(side, **part));
            free.filter_map(|part| {
                let record = self.record(side, *part)?;
                Some((*part, keys.iter().map(|field| self.seen(side, record, *field)).collect()))
            })
            .collect()
        };
        let (olds, news) = (seen(SideOf::Before, olds), seen(SideOf::After, news));
        let hides = |parts: &[(PartId, Vec<Seen>)]| {
            parts.iter().any(|(_, words)| words.contains(&Seen::Hidden))
        };
        if !hides(&olds) && !hides(&news) {
            return;
        }
        if olds.len().saturating_mul(news.len()) > MOST_CHOICES {
            for (side, parts) in self.pairs.unsure.iter_mut().zip([&olds, &news]) {
                side.extend(parts.iter().map(|(part, _)| *part));
            }
            return;
        }
        let mut choices: Vec<(PartId, PartId)> = Vec::new();
        for (old, words) in &olds {
            let fits = news.iter().filter(|(_, others)| may_be_one(words, others));
            choices.extend(fits.map(|(new, _)| (*old, *new)));
        }
        for (old, new) in &choices {
            let rivals = choices.iter().filter(|(one, other)| one == old || other == new);
            if rivals.count() == 1 {
                self.pairs.settle(*old, *new, false);
            } else {
                let [before, after] = &mut self.pairs.unsure;
                before.insert(*old);
                after.insert(*new);
            }
        }
    }

    fn seen(&self, side: SideOf, record: &dyn Record, field: usize) -> Seen {
        let gap = fact_at(record, field).and_then(AnyFact::missing);
        match self.word(side, record, field) {
            Some(word) => Seen::Word(word),
            None if gap.is_some_and(|gap| gap.why.hides_a_value()) => Seen::Hidden,
            None => Seen::None,
        }
    }

    fn is_paired(&self, side: SideOf, part: PartId) -> bool {
        match side {
            SideOf::Before => self.pairs.of_before(part).is_some(),
            SideOf::After => self.pairs.of_after(part).is_some(),
        }
    }

    fn is_nameless(&self, shape: &'static Shape, side: SideOf, record: &dyn Record) -> bool {
        !which(shape).any(|identity| self.whole(side, record, identity.fields).is_some())
            && self.some(side, record, shape.place).is_none()
    }

    /// Identities that stand for several parts on a side, as fillers do: they tell nothing.
    fn doubled(&self, shape: &'static Shape, olds: &[PartId], news: &[PartId]) -> HashSet<Key> {
        let mut doubled = HashSet::new();
        for identity in which(shape) {
            let key = |own: &Self, side: SideOf, _: PartId, record: &dyn Record| {
                own.whole(side, record, identity.fields)
            };
            for (side, parts) in [(SideOf::Before, olds), (SideOf::After, news)] {
                let keys = self.by_key(side, parts, &key);
                doubled
                    .extend(keys.into_iter().filter(|(_, parts)| parts.len() > 1).map(|it| it.0));
            }
        }
        doubled
    }

    /// Pairs free parts with one key: those that are alike in everything first, then in order.
    fn in_order(
        &mut self,
        olds: &[PartId],
        news: &[PartId],
        key: KeyOf<'_, Self>,
        doubled: &HashSet<Key>,
    ) {
        let free = |parts: &[PartId], taken: &dyn Fn(PartId) -> bool| -> Vec<PartId> {
            parts.iter().copied().filter(|part| !taken(*part)).collect()
        };
        let olds = free(olds, &|part| self.pairs.of_before(part).is_some());
        let news = free(news, &|part| self.pairs.of_after(part).is_some());
        let mut after = self.by_key(SideOf::After, &news, key);
        let mut before: Vec<(Key, Vec<PartId>)> =
            self.by_key(SideOf::Before, &olds, key).into_iter().collect();
        before.sort_unstable();
        for (key, mut old) in before {
            let Some(mut new) = after.remove(&key) else { continue };
            if old.len() > 1 || new.len() > 1 {
                let mut contents: HashMap<String, Vec<PartId>> = HashMap::new();
                for part in new.iter().rev() {
                    if let Some(record) = self.record(SideOf::After, *part) {
                        contents
                            .entry(content(record).unwrap_or_default())
                            .or_default()
                            .push(*part);
                    }
                }
                old.retain(|part| {
                    let record = self.record(SideOf::Before, *part);
                    let content = record.and_then(content).unwrap_or_default();
                    match contents.get_mut(&content).and_then(Vec::pop) {
                        Some(same) => {
                            self.pairs.settle(*part, same, false);
                            false
                        }
                        None => true,
                    }
                });
                new.retain(|part| self.pairs.of_after(*part).is_none());
            }
            for (old, new) in old.into_iter().zip(new) {
                let records = self.record(SideOf::Before, old).zip(self.record(SideOf::After, new));
                let another = records.is_some_and(|(a, b)| self.is_another(a, b, doubled));
                self.pairs.settle(old, new, another);
            }
        }
    }

    /// Whether an identity of some strength is known of both parts and differs.
    fn differ(&self, old: &dyn Record, new: &dyn Record, tells: Tells) -> bool {
        old.shape().identity.iter().filter(|one| one.tells == tells).any(|identity| {
            let keys = (
                self.whole(SideOf::Before, old, identity.fields),
                self.whole(SideOf::After, new, identity.fields),
            );
            matches!(keys, (Some(a), Some(b)) if a != b)
        })
    }

    /// Whether two parts in one place are surely two.
    fn is_another(&self, old: &dyn Record, new: &dyn Record, doubled: &HashSet<Key>) -> bool {
        let surely = which(old.shape()).any(|identity| {
            let keys = (
                self.whole(SideOf::Before, old, identity.fields),
                self.whole(SideOf::After, new, identity.fields),
            );
            matches!(keys, (Some(a), Some(b)) if a != b && !(doubled.contains(&a) && doubled.contains(&b)))
        });
        surely || self.differ(old, new, Tells::Kind)
    }
}

/// What was seen of a field that says which part it is.
#[derive(PartialEq, Eq)]
enum Seen {
    /// This.
    Word(String),
    /// There is none.
    None,
    /// It could not be seen.
    Hidden,
}

/// So many pairs are weighed of parts that were seen in part; more are not compared.
const MOST_CHOICES: usize = 10_000;

/// Whether two parts may be one: something could not be seen, and nothing that was differs.
fn may_be_one(old: &[Seen], new: &[Seen]) -> bool {
    let is_hidden = |pair: &(&Seen, &Seen)| *pair.0 == Seen::Hidden || *pair.1 == Seen::Hidden;
    let mut pairs = old.iter().zip(new);
    pairs.clone().any(|pair| is_hidden(&pair))
        && pairs.all(|pair| is_hidden(&pair) || pair.0 == pair.1)
}

/// The identities that say which part it is.
fn which(shape: &'static Shape) -> impl Iterator<Item = &'static Identity> {
    shape.identity.iter().filter(|one| one.tells == Tells::Which)
}

/// Everything that a part says of itself but its names and its line, as one text.
fn content(record: &dyn Record) -> Option<String> {
    let shape = record.shape();
    let told: Vec<Value> = (0..shape.fields.len())
        .filter(|field| !shape.names.contains(field) && !shape.incidental.contains(field))
        .map(|field| fact_at(record, field).and_then(AnyFact::json).unwrap_or(Value::Null))
        .collect();
    serde_json::to_string(&told).ok()
}
