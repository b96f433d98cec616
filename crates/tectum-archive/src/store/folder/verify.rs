//! Looking through an archive: what was altered, removed or slipped in, and what a stopped writer left.

use std::{
    collections::{BTreeMap, BTreeSet},
    ffi::OsStr,
    path::{Path, PathBuf},
};

use super::{
    super::{
        Problem, StoreError, Verified,
        chain::{About, Link, follow},
        state_of, told_of_several,
    },
    called_in, check, disk,
    disk::names,
    last::Last,
    layout::{MACHINES, Machine, look_in, look_number, pieces_in},
    look_file::{Line, LookFile, Of, unreadable},
    observation_in, optional, parsed, pieces_of,
    reading::Reading,
    removing::kept_files,
};
use crate::{
    side_by_side::side_by_side,
    who::{Who, is_key},
    written::{Mark, Observation, Removed, digest},
};

/// Looks through the archive in a folder.
pub(super) fn verify(root: &Path, tell: &mut dyn FnMut(Problem)) -> Result<Verified, StoreError> {
    check(root)?;
    let mut sum = Verified::default();
    let mut whose: BTreeMap<(&'static str, String), BTreeSet<String>> = BTreeMap::new();
    let keys = names(&root.join(MACHINES))?;
    // Nearly all of it is hashing, and no machine needs another's files.
    let look = |key: &String| {
        let mut looking = Looking {
            key,
            machine: Machine::at(root, key),
            problems: Vec::new(),
            sum: Verified::default(),
        };
        let known = if is_key(key) { looking.look() } else { Ok(looking.no_machine(root)) };
        (looking.problems, looking.sum, known)
    };
    side_by_side(&keys, 1, look, |key, (problems, own, known)| {
        problems.into_iter().for_each(&mut *tell);
        sum.add(own);
        for one in known? {
            whose.entry(one).or_default().insert(key.clone());
        }
        Ok::<(), StoreError>(())
    })?;
    told_of_several(whose, tell);
    Ok(sum)
}

/// What looks at a machine say it is, which no other machine should be: by what that says it, the text.
type Known = BTreeSet<(&'static str, String)>;

struct Looking<'a> {
    key: &'a str,
    machine: Machine,
    problems: Vec<Problem>,
    sum: Verified,
}

/// A link of the chain, and where it stands, if it does.
struct Found {
    link: Link,
    path: Option<PathBuf>,
}

impl Looking<'_> {
    fn says(&mut self, what: impl AsRef<Path>, said: impl Into<String>, is_damage: bool) {
        self.problems.push(Problem {
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

    fn no_machine(&mut self, root: &Path) -> Known {
        self.problems.push(Problem {
            machine: None,
            what: root.join(MACHINES).join(self.key).display().to_string(),
            said: "no machine's folder is called so".to_owned(),
            is_damage: false,
        });
        Known::new()
    }

    fn look(&mut self) -> Result<Known, StoreError> {
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
        let mut needs = Vec::new();
        let mut known = BTreeSet::new();
        let mut saved_before: Option<Observation> = None;
        let folder = self.machine.looks();
        for name in names(&folder)? {
            let path = folder.join(&name);
            let number = look_in(&name).and_then(look_number);
            if number.is_none() && pieces_in(&name).is_none() {
                if !name.starts_with(".tectum-") {
                    self.says(&path, "no look is called so", false);
                }
                continue;
            }
            let text = self.file(&path);
            let Some(number) = number else { continue };
            let Some(text) = text else {
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
            needs.push((path.clone(), one.state.clone(), one.origins.clone()));
            saved_before = Some(one);
        }
        let there: BTreeSet<u64> =
            chain.iter().filter(|(_, one)| one.path.is_some()).map(|(number, _)| *number).collect();
        self.chain(chain);
        self.needed(&needs)?;
        self.marks(&there)?;
        Ok(known)
    }

    /// Looks through the file of a look; the text of its observation, if there is one.
    fn file(&mut self, path: &Path) -> Option<Vec<u8>> {
        self.sum.bytes += path.metadata().map_or(0, |stands| stands.len());
        let file = match LookFile::open(path) {
            Ok(file) => file,
            Err(error) => {
                self.says(path, reason(&error), true);
                return None;
            }
        };
        let content = file.content();
        if content.is_damaged {
            self.says(path, reason(&unreadable(path)), true);
        }
        let mut observation = None;
        for line in content.lines {
            match line {
                Line::Observation(text) => observation = Some(text),
                Line::Piece(_, piece) if digest(&piece.text) != piece.digest => {
                    let said = format!(
                        "{} in it was altered: its digest is another than it says",
                        piece.section
                    );
                    self.says(path, said, true);
                }
                _ => {}
            }
        }
        let is_look = path.file_name().and_then(OsStr::to_str).and_then(look_in).is_some();
        if is_look && observation.is_none() && !content.is_damaged {
            self.says(path, "no observation is in it", true);
        }
        observation
    }

    /// Whether what observations need is there and whole, and nothing else is kept.
    fn needed(&mut self, observations: &[(PathBuf, String, String)]) -> Result<(), StoreError> {
        let machine = self.machine.clone();
        let reading = Reading::of(&machine);
        let mut seen = BTreeMap::new();
        let mut needed = BTreeSet::new();
        for (path, state, origins) in observations {
            let look = called_in(path).unwrap_or_default();
            for (of, own) in [(Of::State, state), (Of::Origins, origins)] {
                let found = match reading.list(of, look, Some(own)) {
                    Ok(found) => found,
                    Err(error) => {
                        self.says(
                            path,
                            format!("{own} is missing, and it needs it: {error}"),
                            true,
                        );
                        continue;
                    }
                };
                needed.insert(found.look.clone());
                needed.extend(found.list.pieces.iter().map(|at| found.look_of(at).to_owned()));
                // Many observations share what they need.
                let whole = &*seen.entry((of, own.clone())).or_insert_with(|| match of {
                    Of::State => whole_state(&reading, look, own),
                    Of::Origins => found
                        .list
                        .pieces
                        .iter()
                        .try_for_each(|at| reading.piece(of, at, &found.look).map(drop))
                        .map_err(|error| lacks(&error)),
                });
                match whole {
                    Err(said) => self.says(path, said, true),
                    Ok(()) if !reading.stands(look, &found) => self.says(
                        path,
                        "what it needs is not where it should be, and was found elsewhere: a file was altered or removed",
                        true,
                    ),
                    Ok(()) => {}
                }
            }
        }
        self.sum.states += seen.keys().filter(|(of, _)| *of == Of::State).count() as u64;
        for path in kept_files(&machine)? {
            if !pieces_of(&path).is_some_and(|look| needed.contains(look)) {
                let said = "no look needs it any more: `archive prune` removes it";
                self.says(&path, said, false);
            }
        }
        Ok(())
    }

    /// Whether each observation is behind the one that was saved before it.
    fn chain(&mut self, found: BTreeMap<u64, Found>) {
        let path = self.machine.last();
        let last: Option<Last> = match Last::read(&self.machine) {
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

/// Whether a state is the one of its digest.
fn whole_state(reading: &Reading<'_>, look: &str, own: &str) -> Result<(), String> {
    let state = reading
        .whole_state(look, own)
        .and_then(|text| state_of(&|| format!("state {own}"), own, &text))
        .map_err(|error| lacks(&error))?;
    match state.is_whole() {
        true => Ok(()),
        false => Err(format!("state {own} was altered: its digest is another than it says")),
    }
}

/// What a look lacks, by the file that should hold it.
fn lacks(error: &StoreError) -> String {
    match error {
        StoreError::Damaged { what, said } => {
            let file = Path::new(what).file_name().and_then(OsStr::to_str).unwrap_or(what);
            format!("what it needs is not whole: {file}: {said}")
        }
        other => format!("what it needs is not whole: {other}"),
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
