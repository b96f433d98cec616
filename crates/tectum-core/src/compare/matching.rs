//! Which part of one report is which part of the other.

use std::collections::HashMap;

use crate::report::record::{AnyList, Record, fact_named};

/// What became of a part.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Pairing {
    /// The same part.
    Same(usize, usize),
    /// Another part in the same place.
    Replaced(usize, usize),
    /// Only before.
    Removed(usize),
    /// Only after.
    Added(usize),
}

/// Pairs the parts of two lists: first by each set of identity fields, the surest first, then by
/// place, then by name. The result is in the order of the second list, with what was removed last.
pub(super) fn pair(old: &dyn AnyList, new: &dyn AnyList) -> Vec<Pairing> {
    let shape = new.item_shape();
    let mut before = vec![None; old.len()];
    let mut after = vec![None; new.len()];
    for set in shape.identity {
        // A key that stands for two parts on either side (a filler serial number) tells nothing.
        unique(old, &before, new, &after, |record| whole_key(record, set))
            .into_iter()
            .for_each(|(a, b)| settle(&mut before, &mut after, a, b, false));
    }
    for (a, b) in in_order(old, &before, new, &after, |record| some_key(record, shape.place)) {
        let replaced = old.get(a).zip(new.get(b)).is_some_and(|(a, b)| is_another(a, b));
        settle(&mut before, &mut after, a, b, replaced);
    }
    let nameless = |record: &dyn Record| {
        let known = |set: &&&[&str]| whole_key(record, set).is_some();
        !shape.identity.iter().any(|set| known(&set)) && some_key(record, shape.place).is_none()
    };
    let by_name = |record: &dyn Record| {
        // The first name is its own; the others name what else it has to do with.
        let own = shape.names.get(..1).unwrap_or_default();
        nameless(record).then(|| some_key(record, own).unwrap_or_default())
    };
    for (a, b) in in_order(old, &before, new, &after, by_name) {
        settle(&mut before, &mut after, a, b, false);
    }
    let news = after.iter().enumerate().map(|(b, found)| match found {
        Some((a, true)) => Pairing::Replaced(*a, b),
        Some((a, false)) => Pairing::Same(*a, b),
        None => Pairing::Added(b),
    });
    let gone = before
        .iter()
        .enumerate()
        .filter(|(_, found)| found.is_none())
        .map(|(a, _)| Pairing::Removed(a));
    news.chain(gone).collect()
}

type Found = Option<(usize, bool)>;

fn settle(before: &mut [Found], after: &mut [Found], a: usize, b: usize, replaced: bool) {
    if let (Some(old), Some(new)) = (before.get_mut(a), after.get_mut(b)) {
        *old = Some((b, replaced));
        *new = Some((a, replaced));
    }
}

type Key = Vec<Option<String>>;

/// The values of some fields, if all are known.
fn whole_key(record: &dyn Record, names: &[&str]) -> Option<Key> {
    names.iter().map(|name| fact_named(record, name)?.text().map(Some)).collect()
}

/// The values of some fields, if any is known.
fn some_key(record: &dyn Record, names: &[&str]) -> Option<Key> {
    let key: Key = names.iter().map(|name| fact_named(record, name)?.text()).collect();
    key.iter().any(Option::is_some).then_some(key)
}

/// Whether two parts in one place are surely two: an identity is known of both and differs.
fn is_another(old: &dyn Record, new: &dyn Record) -> bool {
    old.shape().identity.iter().any(
        |set| matches!((whole_key(old, set), whole_key(new, set)), (Some(a), Some(b)) if a != b),
    )
}

/// The indices of the parts that are not paired yet, by key.
fn by_key(
    list: &dyn AnyList,
    found: &[Found],
    key: &impl Fn(&dyn Record) -> Option<Key>,
) -> HashMap<Key, Vec<usize>> {
    let mut keys: HashMap<Key, Vec<usize>> = HashMap::new();
    for (index, _) in found.iter().enumerate().filter(|(_, found)| found.is_none()) {
        if let Some(key) = list.get(index).and_then(key) {
            keys.entry(key).or_default().push(index);
        }
    }
    keys
}

/// Parts whose key stands once on either side.
fn unique(
    old: &dyn AnyList,
    before: &[Found],
    new: &dyn AnyList,
    after: &[Found],
    key: impl Fn(&dyn Record) -> Option<Key>,
) -> Vec<(usize, usize)> {
    let news = by_key(new, after, &key);
    by_key(old, before, &key)
        .into_iter()
        .filter_map(|(key, a)| match (a.as_slice(), news.get(&key)?.as_slice()) {
            ([a], [b]) => Some((*a, *b)),
            _ => None,
        })
        .collect()
}

/// Parts with one key, those that share it in their order.
fn in_order(
    old: &dyn AnyList,
    before: &[Found],
    new: &dyn AnyList,
    after: &[Found],
    key: impl Fn(&dyn Record) -> Option<Key>,
) -> Vec<(usize, usize)> {
    let news = by_key(new, after, &key);
    by_key(old, before, &key)
        .into_iter()
        .filter_map(|(key, a)| Some(a.into_iter().zip(news.get(&key)?.iter().copied())))
        .flatten()
        .collect()
}
