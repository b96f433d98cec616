//! Looks by name: `HOST[@WHEN]`.

use std::{
    collections::{BTreeMap, BTreeSet},
    sync::{Mutex, PoisonError},
};

use globset::GlobBuilder;
use jiff::Zoned;
use tectum_report::{
    Report,
    expectation::{Groups, Hosts, NoSuchGroup},
    json::origins::Depth,
    query::nearest_name,
};

use crate::{
    store::{Asked, Entry, Latest, Store, StoreError, look},
    when::{NoTime, When},
};

/// A look by its name: which machine, and when.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Named {
    /// A host name, serial number, asset tag, machine id, system UUID or key.
    pub machine: String,
    /// When, as the user wrote it.
    pub when: Option<String>,
}

/// Why a name leads to no look.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum NameError {
    /// No machine is called so.
    #[error(
        "the archive at {location} holds no machine {given:?}{}; `tectum archive list` names them all",
        nearest.as_ref().map(|name| format!("; the nearest is {name:?}")).unwrap_or_default()
    )]
    NoMachine {
        /// Where the archive is.
        location: String,
        /// The name.
        given: String,
        /// The nearest name.
        nearest: Option<String>,
    },
    /// Several machines are called so.
    #[error("{given:?} could be any of {}; name it by one of these", machines.join(", "))]
    Several {
        /// The name.
        given: String,
        /// The keys of the machines.
        machines: Vec<String>,
    },
    /// The machine was not looked at then.
    #[error("the archive holds no look at {machine} for {when}: {}", match when {
        When::Previous => "it was seen in one state only",
        When::At(_) => "it was looked at later only",
        When::Mark(_) => "it has no such mark; `tectum archive list HOST` tells those it has",
        When::Latest => "there is none",
    })]
    NoLook {
        /// The machine.
        machine: String,
        /// When.
        when: When,
    },
    /// A text that says no time.
    #[error(transparent)]
    When(#[from] NoTime),
    /// A group that is none.
    #[error("{0}; groups of machines are set under [groups.NAME]")]
    Group(#[from] NoSuchGroup),
    /// A pattern that is none.
    #[error("{given:?} is no pattern: {said}")]
    Pattern {
        /// The pattern.
        given: String,
        /// What is wrong with it.
        said: String,
    },
    /// The archive cannot be read.
    #[error(transparent)]
    Store(#[from] StoreError),
}

impl Named {
    /// Takes a name apart: what stands behind the last `@` says when.
    pub fn read(text: &str) -> Self {
        match text.rsplit_once('@') {
            Some((machine, when)) if !machine.is_empty() => {
                Self { machine: machine.to_owned(), when: Some(when.to_owned()) }
            }
            _ => Self { machine: text.to_owned(), when: None },
        }
    }

    /// The look's report, put together from what the archive holds.
    ///
    /// # Errors
    /// [`NameError`], if the name leads to none.
    pub fn report(
        &self,
        store: &dyn Store,
        now: &Zoned,
        depth: Depth,
    ) -> Result<Report, NameError> {
        let machine = one_called(store, &self.machine)?;
        let entry = entry(store, &machine.machine, self.when.as_deref(), now)?;
        let mut report = look(store, &machine.machine, entry.number, depth)?;
        report.taken.subject = match &self.when {
            Some(when) => format!("{}@{when}", self.machine),
            None => self.machine.clone(),
        };
        Ok(report)
    }
}

/// The observation of a machine that is meant.
///
/// # Errors
/// [`NameError`], if there is none.
pub fn entry(
    store: &dyn Store,
    machine: &str,
    when: Option<&str>,
    now: &Zoned,
) -> Result<Entry, NameError> {
    let when = when.map_or(Ok(When::Latest), |when| When::read(when, now))?;
    let entries = store.entries(machine)?;
    let marks = match when {
        When::Mark(_) => store.marks(machine)?,
        _ => Vec::new(),
    };
    let chosen = when.choose(&entries, &marks).cloned();
    chosen.ok_or_else(|| NameError::NoLook { machine: machine.to_owned(), when })
}

/// The one machine that is called so.
///
/// # Errors
/// [`NameError`], if there is none, or several.
pub fn one_called(store: &dyn Store, given: &str) -> Result<Latest, NameError> {
    let mut found = store.called(given)?;
    match (found.pop(), found.is_empty()) {
        (Some(one), true) => Ok(one),
        (Some(last), false) => {
            let mut machines: Vec<String> = found.iter().map(|one| one.machine.clone()).collect();
            machines.push(last.machine.clone());
            machines.sort();
            Err(NameError::Several { given: given.to_owned(), machines })
        }
        (None, _) => Err(no_machine(store, &store.machines()?, given)),
    }
}

fn no_machine(store: &dyn Store, all: &[Latest], given: &str) -> NameError {
    let names: Vec<String> = all.iter().map(Latest::name).collect();
    NameError::NoMachine {
        location: store.location(),
        given: given.to_owned(),
        nearest: nearest_name(given, names.iter().map(String::as_str)).map(str::to_owned),
    }
}

/// The machines that are called so: by the first kind of name that any has.
pub(crate) fn called(all: &[Latest], given: &str) -> Vec<Latest> {
    let is =
        |text: &Option<String>| text.as_ref().is_some_and(|text| text.eq_ignore_ascii_case(given));
    let short = |one: &&Latest| {
        let host = one.who.host.as_deref().unwrap_or_default();
        host.split_once('.').is_some_and(|(first, _)| first.eq_ignore_ascii_case(given))
    };
    let tests: [&dyn Fn(&&Latest) -> bool; 6] = [
        &|one| one.machine == given,
        &|one| is(&one.who.host),
        &short,
        &|one| is(&one.who.serial) || is(&one.who.system_uuid) || is(&one.who.machine_id),
        &|one| one.overview.asset_tags.iter().any(|tag| tag.eq_ignore_ascii_case(given)),
        &|one| given.len() >= 4 && one.machine.starts_with(given),
    ];
    tests
        .iter()
        .map(|test| all.iter().filter(test).cloned().collect::<Vec<_>>())
        .find(|found| !found.is_empty())
        .unwrap_or_default()
}

/// The machines whose host names or keys fit one of the patterns, that are called so, or that are in a group
/// (`@tide`); all, if there is no pattern.
///
/// # Errors
/// [`NameError`], if a pattern is none, there is no such group, or no machine fits.
pub fn matching(
    store: &dyn Store,
    patterns: &[String],
    groups: &Groups,
) -> Result<Vec<Latest>, NameError> {
    // Who is named one by one is found without looking at all.
    if !patterns.is_empty() && !patterns.iter().any(|name| stands_for_several(name)) {
        let mut found: BTreeMap<String, Latest> = BTreeMap::new();
        for name in patterns {
            let own = store.called(name)?;
            if own.is_empty() {
                return Err(no_machine(store, &store.machines()?, name));
            }
            found.extend(own.into_iter().map(|one| (one.machine.clone(), one)));
        }
        return Ok(found.into_values().collect());
    }
    let all = store.machines()?;
    if patterns.is_empty() {
        return Ok(all);
    }
    let mut wanted = vec![false; all.len()];
    for pattern in patterns {
        if let Some(name) = pattern.strip_prefix('@') {
            let members = members(store, &all, groups.named(name)?)?;
            if members.is_empty() {
                return Err(no_machine(store, &all, pattern));
            }
            for (one, wanted) in all.iter().zip(&mut wanted) {
                *wanted |= members.contains(&one.machine);
            }
            continue;
        }
        let glob = GlobBuilder::new(pattern).case_insensitive(true).build();
        let glob = glob.map_err(|error| NameError::Pattern {
            given: pattern.clone(),
            said: error.kind().to_string(),
        })?;
        let glob = glob.compile_matcher();
        let named: Vec<String> = called(&all, pattern).into_iter().map(|one| one.machine).collect();
        let mut any = false;
        for (one, wanted) in all.iter().zip(&mut wanted) {
            let fits = glob.is_match(one.name()) || glob.is_match(&one.machine);
            if fits || named.contains(&one.machine) {
                *wanted = true;
                any = true;
            }
        }
        if !any {
            return Err(no_machine(store, &all, pattern));
        }
    }
    let wanted = all.into_iter().zip(wanted).filter(|(_, wanted)| *wanted);
    Ok(wanted.map(|(one, _)| one).collect())
}

/// Whether a name is a pattern or a group's.
pub fn stands_for_several(name: &str) -> bool {
    name.starts_with('@') || name.contains(['*', '?', '[', '{'])
}

/// The keys of the machines in a group.
fn members(
    store: &dyn Store,
    all: &[Latest],
    group: &Hosts,
) -> Result<BTreeSet<String>, StoreError> {
    let named: Vec<Latest> = all.iter().filter(|one| group.fit(&one.name())).cloned().collect();
    let mut members = BTreeSet::new();
    if !group.ask_for_facts() {
        members.extend(named.into_iter().map(|one| one.machine));
        return Ok(members);
    }
    let rows = Mutex::new(BTreeSet::new());
    store.latest_values(&named, &Asked::all(), &|row, report| {
        if group.are_of(report) {
            rows.lock().unwrap_or_else(PoisonError::into_inner).insert(row);
        }
    })?;
    let rows = rows.into_inner().unwrap_or_else(PoisonError::into_inner);
    let within = named.into_iter().enumerate().filter(|(row, _)| rows.contains(row));
    members.extend(within.map(|(_, one)| one.machine));
    Ok(members)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("gannet", "gannet", None)]
    #[case("gannet@previous", "gannet", Some("previous"))]
    #[case("root@gannet@-7d", "root@gannet", Some("-7d"))]
    #[case("@x", "@x", None)]
    fn a_name_has_a_machine_and_a_time(
        #[case] text: &str,
        #[case] machine: &str,
        #[case] when: Option<&str>,
    ) {
        let named = Named { machine: machine.into(), when: when.map(str::to_owned) };
        assert_eq!(Named::read(text), named);
    }
}
