//! What was read before, up to a size.

use std::{
    borrow::Borrow,
    collections::HashMap,
    hash::Hash,
    sync::{Mutex, MutexGuard, PoisonError},
};

/// What was read before, by a key, up to so many bytes; where more is kept, all else is forgotten.
#[derive(Debug)]
pub(super) struct Bounded<K, V> {
    all: Mutex<All<K, V>>,
    most_bytes: usize,
}

#[derive(Debug)]
struct All<K, V> {
    by_key: HashMap<K, V>,
    bytes: usize,
}

impl<K: Hash + Eq, V: Clone> Bounded<K, V> {
    pub(super) fn new(most_bytes: usize) -> Self {
        Self { all: Mutex::new(All { by_key: HashMap::new(), bytes: 0 }), most_bytes }
    }

    fn all(&self) -> MutexGuard<'_, All<K, V>> {
        self.all.lock().unwrap_or_else(PoisonError::into_inner)
    }

    pub(super) fn get<Q: Hash + Eq + ?Sized>(&self, key: &Q) -> Option<V>
    where
        K: Borrow<Q>,
    {
        self.all().by_key.get(key).cloned()
    }

    /// Keeps what was read of so many bytes.
    pub(super) fn keep(&self, key: K, value: V, bytes: usize) {
        if bytes > self.most_bytes {
            return;
        }
        let mut all = self.all();
        if all.bytes + bytes > self.most_bytes {
            *all = All { by_key: HashMap::new(), bytes: 0 };
        }
        all.bytes += bytes;
        all.by_key.insert(key, value);
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    fn what_is_too_much_is_forgotten() {
        let known: Bounded<String, u8> = Bounded::new(100);
        known.keep("a".to_owned(), 1, 50);
        assert_eq!(known.get("a"), Some(1));
        known.keep("b".to_owned(), 2, 51);
        assert_eq!((known.get("a"), known.get("b")), (None, Some(2)));
        known.keep("c".to_owned(), 3, 101);
        assert_eq!((known.get("b"), known.get("c")), (Some(2), None));
    }
}
