//! Looking through an archive in a database: what was altered, removed or slipped in.

use std::collections::{BTreeMap, BTreeSet};

use postgres::Row;

use super::{
    PostgresStore,
    rows::{digest_if_any, number, observation_text},
};
use crate::{
    store::{
        PieceAt, Problem, Store, StoreError, Verified,
        chain::{About, Link, follow},
        observation_of, told_of_several,
    },
    who::Who,
    written::{Observation, OriginsList, digest},
};

/// What no two machines should share, with the keys of those that have it.
type Whose = BTreeMap<(&'static str, String), BTreeSet<String>>;

/// What was seen so far.
struct Looking<'a> {
    store: &'a PostgresStore,
    tell: &'a mut dyn FnMut(Problem),
    sum: Verified,
    whose: Whose,
    /// Digests of states and origins that were looked at: many observations share them.
    seen: BTreeSet<String>,
}

/// Looks through the archive.
pub(super) fn verify(
    store: &PostgresStore,
    tell: &mut dyn FnMut(Problem),
) -> Result<Verified, StoreError> {
    let machines = store.read(|client| {
        client.query("SELECT key, last_number, last_digest FROM tectum.machine ORDER BY key", &[])
    })?;
    let mut looking = Looking {
        store,
        tell,
        sum: Verified::default(),
        whose: Whose::new(),
        seen: BTreeSet::new(),
    };
    for row in &machines {
        looking.machine(row)?;
    }
    let Looking { tell, sum, whose, .. } = looking;
    told_of_several(whose, tell);
    Ok(sum)
}

impl Looking<'_> {
    fn says(&mut self, key: &str, what: String, said: impl Into<String>, is_damage: bool) {
        (self.tell)(Problem { machine: Some(key.to_owned()), what, said: said.into(), is_damage });
    }

    fn machine(&mut self, row: &Row) -> Result<(), StoreError> {
        let key: String = row.get("key");
        self.sum.machines += 1;
        let removed = self.store.removed(&key)?.into_iter();
        let mut chain: BTreeMap<u64, Link> = removed
            .map(|one| (one.number, Link { digest: one.digest, before: one.before }))
            .collect();
        let observations = self.store.read(|client| {
            let query = "SELECT o.number, o.packed, d.content AS names FROM tectum.observation o \
                 JOIN tectum.dictionary d ON d.number = o.dictionary \
                 WHERE o.machine = $1 ORDER BY o.number";
            client.query(query, &[&key])
        })?;
        for row in &observations {
            let link = self.observation(&key, row);
            chain.insert(number(row, "number"), link);
        }
        let last = digest_if_any(row, "last_digest");
        let last = last.as_deref().map(|digest| (number(row, "last_number"), digest));
        follow(&chain, last, &mut |about, said, is_damage| {
            let what = match about {
                About::Last => format!("machine {key}"),
                About::Observation(number) => format!("observation {number} of {key}"),
            };
            self.says(&key, what, said, is_damage);
        });
        Ok(())
    }

    /// Looks at an observation and what it needs.
    fn observation(&mut self, key: &str, row: &Row) -> Link {
        let own = number(row, "number");
        let what = || format!("observation {own} of {key}");
        let packed: &[u8] = row.get("packed");
        self.sum.observations += 1;
        self.sum.bytes += packed.len() as u64;
        let read = observation_text(&what, row)
            .and_then(|text| Ok((digest(&text), observation_of(&what, &text)?)));
        let (digest, observation) = match read {
            Ok(read) => read,
            Err(error) => {
                self.says(key, what(), error.to_string(), true);
                return Link { digest: String::new(), before: None };
            }
        };
        if observation.number != own {
            self.says(key, what(), format!("it holds observation {}", observation.number), true);
        }
        self.needed(key, &observation);
        if let Ok(who) = serde_json::from_value::<Who>(observation.machine) {
            for (kind, text) in who.identity() {
                let Some(text) = text else { continue };
                self.whose.entry((kind, text.to_owned())).or_default().insert(key.to_owned());
            }
        }
        Link { digest, before: observation.before }
    }

    /// Looks at the state and the origins that an observation needs, each once.
    fn needed(&mut self, key: &str, observation: &Observation) {
        let state = &observation.state;
        if self.seen.insert(state.clone()) {
            self.sum.states += 1;
            let whole = self.store.state(key, state).map(|state| state.is_whole());
            self.kept(key, format!("state {state}"), whole);
        }
        if !self.seen.insert(observation.origins.clone()) {
            return;
        }
        let list = self.store.origins_list(key, observation.number);
        let own = |list: &[PieceAt]| {
            let all = list.iter().map(|at| (at.section.clone(), at.digest.clone()));
            OriginsList(all.collect()).digest()
        };
        let whole = list.as_ref().map(|list| own(list) == observation.origins);
        match whole {
            Ok(is) => {
                self.kept(key, format!("origins of observation {}", observation.number), Ok(is))
            }
            Err(error) => self.says(key, observation.origins.clone(), error.to_string(), true),
        }
        for at in list.iter().flatten() {
            if self.seen.insert(at.digest.clone()) {
                let whole = self.store.origins_text(key, at).map(|_| true);
                self.kept(key, format!("origins {}", at.digest), whole);
            }
        }
    }

    fn kept(&mut self, key: &str, what: String, whole: Result<bool, StoreError>) {
        match whole {
            Ok(true) => {}
            Ok(false) => self.says(key, what, "it was altered", true),
            Err(error) => self.says(key, what, error.to_string(), true),
        }
    }
}
