//! Maps of what a machine or a report says. Their hashes are keyed anew in each process, as those of the standard library
//! are, so that nobody can make up entries that all fall together; for texts as long as paths they take less.

use std::collections::{HashMap, HashSet};

/// How hashes of them are made.
pub type Hashes = ahash::RandomState;

/// A map.
pub type Map<K, V> = HashMap<K, V, Hashes>;

/// A set.
pub type Set<T> = HashSet<T, Hashes>;
