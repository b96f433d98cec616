//! Looking through an archive: what was altered, removed or slipped in, and what a stopped writer left.

use std::{
    collections::{BTreeMap, BTreeSet},
    path::{Path, PathBuf},
};

use super::{
    super::{Problem, StoreError, Verified},
    check, disk,
    disk::{PACKED, names},
    layout::{Last, MACHINES, Machine, observation_number},
    observation_in, optional, parsed,
};
use crate::{
    who::{Who, is_key},
    written::{Mark, Observation, Removed, State, digest},
};

/// Looks through the archive in a folder.
pub(super) fn verify(root: &Path, tell: &mut dyn FnMut(Problem)) -> Result<Verified, StoreError> {
    check(root)?;
    let mut sum = Verified::default();
    let mut whose: BTreeMap<(&'static str, String), BTreeSet<String>> = BTreeMap::new();
    for key in names(&root.join(MACHINES))? {
        if !is_key(&key) {
            tell(Problem {
                machine: None,
                what: root.join(MACHINES).join(&key).display().to_string(),
                said: "no machine's folder is called so".to_owned(),
                is_damage: false,
            });
            continue;
        }
        let mut looking =
            Looking { key: &key, machine: Machine::at(root, &key), tell, sum: &mut sum };
        let known = looking.look()?;
        for one in known {
            whose.entry(one).or_default().insert(key.clone());
        }
    }
    for ((what, text), machines) in whose.into_iter().filter(|(_, machines)| machines.len() > 1) {
        let machines: Vec<String> = machines.into_iter().collect();
        tell(Problem {
            machine: None,
            what: format!("{what} {text}"),
            said: format!("several machines have it: {}", machines.join(", ")),
            is_damage: false,
        });
    }
    Ok(sum)
}

struct Looking<'a> {
    key: &'a str,
    machine: Machine,
    tell: &'a mut dyn FnMut(Problem),
    sum: &'a mut Verified,
}

/// A link of the chain: an observation, or what is left of one that was removed.
struct Link {
    digest: String,
    before: Option<String>,
    path: Option<PathBuf>,
}

/// The digest of what a file holds.
type OwnDigest<'a> = &'a dyn Fn(&Path, &[u8]) -> Result<Option<String>, StoreError>;

impl Looking<'_> {
    fn says(&mut self, what: impl AsRef<Path>, said: impl Into<String>, is_damage: bool) {
        (self.tell)(Problem {
            machine: Some(self.key.to_owned()),
            what: what.as_ref().display().to_string(),
            said: said.into(),
            is_damage,
        });
    }

    /// A file's text; what cannot be read is told.
    fn read(&mut self, path: &Path) -> Option<Vec<u8>> {
        self.sum.bytes += path.metadata().map_or(0, |stands| stands.len());
        match disk::read(path) {
            Ok(text) => Some(text),
            Err(error) => {
                self.says(path, reason(&error), true);
                None
            }
        }
    }

    fn look(&mut self) -> Result<BTreeSet<(&'static str, String)>, StoreError> {
        self.sum.machines += 1;
        let removed: Vec<Removed> = match optional(&self.machine.removed()) {
            Ok(removed) => removed.unwrap_or_default(),
            Err(error) => {
                self.says(self.machine.removed(), reason(&error), true);
                Vec::new()
            }
        };
        let mut chain: BTreeMap<u64, Link> = removed
            .into_iter()
            .map(|one| (one.number, Link { digest: one.digest, before: one.before, path: None }))
            .collect();
        let (mut states, mut origins) = (BTreeSet::new(), BTreeSet::new());
        let mut known = BTreeSet::new();
        let mut saved_before: Option<Observation> = None;
        let folder = self.machine.observations();
        for name in names(&folder)? {
            let path = folder.join(&name);
            let Some(number) = observation_number(&name) else {
                self.says(&path, "no observation is called so", false);
                continue;
            };
            let Some(text) = self.read(&path) else {
                chain.entry(number).or_insert(Link {
                    digest: String::new(),
                    before: None,
                    path: Some(path),
                });
                continue;
            };
            self.sum.observations += 1;
            let link = |before| Link { digest: digest(&text), before, path: Some(path.clone()) };
            let one = match observation_in(&path, &text) {
                Ok(one) => one,
                Err(error) => {
                    self.says(&path, reason(&error), true);
                    chain.insert(number, link(None));
                    continue;
                }
            };
            if one.number != number {
                let said = format!("it holds observation {}", one.number);
                self.says(&path, said, true);
            }
            match chain.get(&number) {
                Some(Link { path: Some(other), .. }) => {
                    let said = format!("{} is observation {number} too", other.display());
                    self.says(&path, said, true);
                }
                Some(Link { path: None, .. }) => {
                    self.says(&path, "it was removed, and is still there or again", false);
                }
                None => {}
            }
            chain.insert(number, link(one.before.clone()));
            if let Some(before) =
                saved_before.as_ref().filter(|one_before| one_before.saved_at > one.saved_at)
            {
                let said = format!(
                    "it was saved at {}, and observation {} before it at {}: the clock went back",
                    one.saved_at, before.number, before.saved_at
                );
                self.says(&path, said, false);
            }
            if let Ok(who) = serde_json::from_value::<Who>(one.machine.clone()) {
                let own = who.identity().map(|(what, text)| (what, text.map(str::to_owned)));
                known.extend(own.into_iter().filter_map(|(what, text)| Some((what, text?))));
            }
            states.insert(one.state.clone());
            origins.extend(one.origins.values().cloned());
            saved_before = Some(one);
        }
        self.chain(&chain);
        self.kept(&self.machine.states(), &states, &|path, text| {
            let state: State = parsed(path, text)?;
            Ok(state.is_whole().then_some(state.inventory_digest))
        })?;
        self.sum.states += states.len() as u64;
        self.kept(&self.machine.origins(), &origins, &|_, text| Ok(Some(digest(text))))?;
        self.marks(&chain)?;
        Ok(known)
    }

    /// Whether each observation is behind the one that was saved before it.
    fn chain(&mut self, chain: &BTreeMap<u64, Link>) {
        let mut last: Option<(u64, &Link)> = None;
        for (number, link) in chain {
            let expected = last.map_or(1, |(number, _)| number + 1);
            let path = link.path.clone().unwrap_or_else(|| self.machine.removed());
            if *number != expected {
                let said = match number - expected {
                    1 => format!("observation {expected} before it is missing"),
                    _ => format!("observations {expected} to {} before it are missing", number - 1),
                };
                self.says(&path, said, true);
            } else if let Some((before, own)) = last
                && link.before.as_deref() != Some(own.digest.as_str())
                && !own.digest.is_empty()
                && !link.digest.is_empty()
            {
                let said = format!(
                    "observation {before} is not the one that was saved before it: one of the two was altered or slipped in"
                );
                self.says(&path, said, true);
            } else if last.is_none() && link.before.is_some() {
                self.says(&path, "it is the first, and says that one was before it", true);
            }
            last = Some((*number, link));
        }
        let path = self.machine.last();
        let said: Option<Last> = match optional(&path) {
            Ok(said) => said,
            Err(error) => {
                self.says(&path, reason(&error), true);
                return;
            }
        };
        match (said, last) {
            (Some(said), Some((number, _))) if said.number > number => {
                self.says(&path, format!("observation {} is missing", said.number), true);
            }
            (Some(said), Some((number, _))) if said.number < number => self.says(
                &path,
                format!(
                    "observation {number} is there, and who saved it was stopped before saying so"
                ),
                false,
            ),
            (Some(said), Some((number, link))) if said.digest != link.digest => {
                self.says(
                    &path,
                    format!("observation {number} is not the one that was saved: it was altered"),
                    true,
                );
            }
            (Some(said), None) => {
                self.says(&path, format!("observation {} is missing", said.number), true);
            }
            (None, Some(_)) => self.says(
                &path,
                "it is missing: whoever saved first was stopped, or it was removed",
                false,
            ),
            _ => {}
        }
    }

    /// Whether what observations need is there and whole, and nothing else.
    fn kept(
        &mut self,
        folder: &Path,
        needed: &BTreeSet<String>,
        own: OwnDigest<'_>,
    ) -> Result<(), StoreError> {
        let mut missing = needed.clone();
        for name in names(folder)? {
            let path = folder.join(&name);
            let digits = name.strip_suffix(PACKED).unwrap_or(&name).strip_suffix(".json");
            let Some(digits) = digits else {
                if !name.starts_with(".tectum-") {
                    self.says(&path, "nothing of an archive is called so", false);
                }
                continue;
            };
            let called = format!("sha256:{digits}");
            let Some(text) = self.read(&path) else {
                missing.remove(&called);
                continue;
            };
            match own(&path, &text) {
                Err(error) => self.says(&path, reason(&error), true),
                Ok(own) if own.as_ref() != Some(&called) => {
                    self.says(
                        &path,
                        "it was altered: its digest is another than its name says",
                        true,
                    );
                }
                Ok(_) if !needed.contains(&called) => self.says(
                    &path,
                    "no observation needs it: a writer was stopped; `archive prune` removes it",
                    false,
                ),
                Ok(_) => {}
            }
            missing.remove(&called);
        }
        for own in missing {
            self.says(folder.join(own), "it is missing, and an observation needs it", true);
        }
        Ok(())
    }

    fn marks(&mut self, chain: &BTreeMap<u64, Link>) -> Result<(), StoreError> {
        let folder = self.machine.marks();
        for name in names(&folder)? {
            let path = folder.join(&name);
            let Some(text) = self.read(&path) else { continue };
            match parsed::<Mark>(&path, &text) {
                Err(error) => self.says(&path, reason(&error), true),
                Ok(mark) if name != format!("{}.json", mark.name) => {
                    self.says(&path, "it holds another mark than its name says", true);
                }
                Ok(mark) => {
                    let there =
                        chain.get(&mark.observation).is_some_and(|link| link.path.is_some());
                    if !there {
                        let said = format!(
                            "it marks observation {}, which is not there",
                            mark.observation
                        );
                        self.says(&path, said, true);
                    }
                }
            }
        }
        Ok(())
    }
}

/// An error as it is told of a file that is named already.
fn reason(error: &StoreError) -> String {
    match error {
        StoreError::Damaged { said, .. } => said.clone(),
        StoreError::Io { cause, .. } => cause.to_string(),
        other => other.to_string(),
    }
}
