//! Looking through an archive: what was altered, removed or slipped in, and what a stopped writer left.

use std::{
    collections::{BTreeMap, BTreeSet},
    path::{Path, PathBuf},
};

use super::{
    super::{
        Problem, StoreError, Verified,
        chain::{About, Link, follow},
        known_form, told_of_several,
    },
    check, disk,
    disk::{PACKED, names},
    layout::{Last, MACHINES, Machine, observation_number},
    observation_in, optional, parsed,
};
use crate::{
    who::{Who, is_key},
    written::{Mark, Observation, Removed, STATE, State, digest},
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
    told_of_several(whose, tell);
    Ok(sum)
}

struct Looking<'a> {
    key: &'a str,
    machine: Machine,
    tell: &'a mut dyn FnMut(Problem),
    sum: &'a mut Verified,
}

/// A link of the chain, and where it stands, if it does.
struct Found {
    link: Link,
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
        let mut chain: BTreeMap<u64, Found> = removed
            .into_iter()
            .map(|one| {
                let link = Link { digest: one.digest, before: one.before };
                (one.number, Found { link, path: None })
            })
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
                let link = Link { digest: String::new(), before: None };
                chain.entry(number).or_insert(Found { link, path: Some(path) });
                continue;
            };
            self.sum.observations += 1;
            let link = |before| Found {
                link: Link { digest: digest(&text), before },
                path: Some(path.clone()),
            };
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
                Some(Found { path: Some(other), .. }) => {
                    let said = format!("{} is observation {number} too", other.display());
                    self.says(&path, said, true);
                }
                Some(Found { path: None, .. }) => {
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
        let there: BTreeSet<u64> =
            chain.iter().filter(|(_, one)| one.path.is_some()).map(|(number, _)| *number).collect();
        self.chain(chain);
        self.kept(&self.machine.states(), &states, &|path, text| {
            let state: State = parsed(path, text)?;
            known_form(
                &|| path.display().to_string(),
                &STATE,
                (&state.format, state.format_version),
            )?;
            Ok(state.is_whole().then_some(state.inventory_digest))
        })?;
        self.sum.states += states.len() as u64;
        self.kept(&self.machine.origins(), &origins, &|_, text| Ok(Some(digest(text))))?;
        self.marks(&there)?;
        Ok(known)
    }

    /// Whether each observation is behind the one that was saved before it.
    fn chain(&mut self, found: BTreeMap<u64, Found>) {
        let path = self.machine.last();
        let last: Option<Last> = match optional(&path) {
            Ok(said) => said,
            Err(error) => {
                self.says(&path, reason(&error), true);
                None
            }
        };
        let mut paths = BTreeMap::new();
        let mut links = BTreeMap::new();
        for (number, Found { link, path }) in found {
            paths.insert(number, path);
            links.insert(number, link);
        }
        let last = last.as_ref().map(|last| (last.number, last.digest.as_str()));
        follow(&links, last, &mut |about, said, is_damage| {
            let what = match about {
                About::Last => path.clone(),
                About::Observation(number) => {
                    let own = paths.get(&number).cloned().flatten();
                    own.unwrap_or_else(|| self.machine.removed())
                }
            };
            self.says(what, said, is_damage);
        });
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

    fn marks(&mut self, there: &BTreeSet<u64>) -> Result<(), StoreError> {
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
                    if !there.contains(&mark.observation) {
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
