//! What may stand in an argument, for a shell that completes it: from what is there. What cannot be found out is left
//! out in silence, for nobody reads what a shell asks for.

use std::{ffi::OsStr, path::Path};

use clap_complete::engine::{CompletionCandidate, PathCompleter, ValueCompleter};
#[cfg(feature = "demo")]
use tectum_demo::MACHINES;
use tectum_report::{
    export::{csv::BESIDE, tables},
    finding::rules,
    query::every_path,
};
use tectum_survey::sections::{ON_REQUEST, SECTIONS};

use crate::archive;

/// Names of sections.
pub(super) fn sections() -> Vec<CompletionCandidate> {
    SECTIONS
        .iter()
        .chain(ON_REQUEST)
        .map(|section| CompletionCandidate::new(section.name))
        .collect()
}

/// Names of findings.
pub(super) fn findings() -> Vec<CompletionCandidate> {
    let own =
        rules().iter().map(|rule| CompletionCandidate::new(rule.id).help(Some(rule.title.into())));
    own.collect()
}

/// Names of tables.
pub(super) fn table_names() -> Vec<CompletionCandidate> {
    let own = tables().iter().map(|table| table.name.as_str());
    own.chain(BESIDE.iter().map(|(name, _)| *name)).map(CompletionCandidate::new).collect()
}

/// Paths into a report, one name at a time.
pub(super) fn paths(current: &OsStr) -> Vec<CompletionCandidate> {
    let Some(current) = current.to_str() else { return Vec::new() };
    let mut found: Vec<String> = Vec::new();
    for path in every_path().into_iter().filter(|path| path.starts_with(current)) {
        let rest = path.get(current.len()..).unwrap_or_default();
        let end = rest
            .trim_start_matches('.')
            .find('.')
            .map(|at| at + rest.len() - rest.trim_start_matches('.').len());
        let own = match end {
            Some(end) => path.get(..current.len() + end).unwrap_or(&path).to_owned(),
            None => path,
        };
        if !found.contains(&own) {
            found.push(own);
        }
    }
    found.into_iter().map(CompletionCandidate::new).collect()
}

/// Machines of the archive.
pub(super) fn hosts(current: &OsStr) -> Vec<CompletionCandidate> {
    let Some(current) = current.to_str() else { return Vec::new() };
    known_hosts()
        .into_iter()
        .filter(|name| name.starts_with(current))
        .map(CompletionCandidate::new)
        .collect()
}

/// What a machine is read from: this one, those that ship with the program, files, machines of the archive and when.
pub(super) fn subjects(current: &OsStr) -> Vec<CompletionCandidate> {
    let mut found = Vec::new();
    if let Some(text) = current.to_str() {
        match text.split_once('@') {
            Some((host, when)) if !host.is_empty() => {
                let all = ["latest", "previous"].map(str::to_owned).into_iter().chain(marks(host));
                let own = all.filter(|one| one.starts_with(when));
                found.extend(own.map(|one| CompletionCandidate::new(format!("{host}@{one}"))));
            }
            _ => {
                let live = CompletionCandidate::new("live").help(Some("this machine".into()));
                let fits = |one: &CompletionCandidate| {
                    one.get_value().to_str().is_some_and(|own| own.starts_with(text))
                };
                found.extend(std::iter::once(live).chain(shipped()).filter(fits));
                found.extend(hosts(current));
            }
        }
    }
    found.extend(PathCompleter::any().complete(current));
    found
}

/// The machines that ship with the program.
#[cfg(feature = "demo")]
fn shipped() -> impl Iterator<Item = CompletionCandidate> {
    MACHINES.iter().map(|machine| {
        CompletionCandidate::new(format!("demo:{}", machine.name))
            .help(Some(machine.summary.into()))
    })
}

/// None ships with this one.
#[cfg(not(feature = "demo"))]
fn shipped() -> impl Iterator<Item = CompletionCandidate> {
    std::iter::empty()
}

fn known_hosts() -> Vec<String> {
    ready();
    let machines = archive::machines(&[]).unwrap_or_default();
    machines.into_iter().filter_map(|machine| machine.who.host).collect()
}

/// The marks of a machine.
fn marks(host: &str) -> Vec<String> {
    ready();
    let found = || {
        let store = archive::store().ok()?;
        let machine = archive::machines(&[host.to_owned()]).ok()?.into_iter().next()?;
        store.marks(&machine.machine).ok()
    };
    found().unwrap_or_default().into_iter().map(|mark| mark.name).collect()
}

/// Says which archive is meant, as a command would find it.
fn ready() {
    let settings = crate::settings::load(None::<&Path>, &mut |_| {}).unwrap_or_default();
    archive::is(None, &settings);
}
