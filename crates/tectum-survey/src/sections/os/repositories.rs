//! Where packages come from, by the files of the common package managers.

use std::sync::Arc;

use crate::{
    formats::repositories::{self, Repository as Read},
    readers::{
        file::{File, hidden, list},
        limits::{MOST_LINES, leave},
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Saying, Why, saying},
    leaf::{FreeText, Label, PathName, SuiteName, Term},
    model::Repository,
};

pub(super) fn repositories(lease: &Lease) -> Parts<Repository> {
    let mut found = Vec::new();
    let mut asked: Vec<Gap> = Vec::new();
    let mut read = |file: &File, manager: &'static str, parse: &dyn Fn(&str) -> Vec<Read>| {
        match file.bytes() {
            Ok(_) => {
                let mut listed = parse(&file.text());
                let room = MOST_LINES.saturating_sub(found.len());
                asked.extend(leave(&mut listed, room, file));
                found.extend(listed.into_iter().map(|one| part(file, manager, one)));
            }
            Err(gap) => asked.push(gap.clone()),
        }
    };
    read(&File::read(lease, "/etc/apt/sources.list"), "apt", &repositories::apt_lines);
    let mut unlisted = None;
    for (path, name) in files(lease, "/etc/apt/sources.list.d", &mut unlisted) {
        match name.rsplit_once('.') {
            Some((_, "list")) => read(&File::read(lease, path), "apt", &repositories::apt_lines),
            Some((_, "sources")) => {
                read(&File::read(lease, path), "apt", &repositories::apt_stanzas);
            }
            _ => {}
        }
    }
    for (folder, manager) in [("/etc/yum.repos.d", "dnf"), ("/etc/zypp/repos.d", "zypper")] {
        for (path, name) in files(lease, folder, &mut unlisted) {
            if name.ends_with(".repo") {
                read(&File::read(lease, path), manager, &repositories::repo_sections);
            }
        }
    }
    read(&File::read(lease, "/etc/pacman.conf"), "pacman", &|text| {
        repositories::pacman_sections(text, |path| {
            // Only the folder for it is read: a file may name any path.
            let name = path.strip_prefix("/etc/pacman.d/").filter(|name| !name.contains(".."));
            let file = name.map(|name| File::read(lease, format!("/etc/pacman.d/{name}")));
            file.map_or_else(String::new, |file| file.text().into_owned())
        })
    });
    read(&File::read(lease, "/etc/apk/repositories"), "apk", &repositories::apk_lines);
    asked.extend(unlisted);
    let hidden = asked.iter().find(|gap| gap.why.hides_a_value()).cloned();
    if let (true, Some(gap)) = (found.is_empty(), asked.into_iter().reduce(both)) {
        let hint = saying!(
            "no-file-package-manager-tectum",
            "no file of a package manager that Tectum knows was found",
        );
        return Parts::missing(gap.hint(hint));
    }
    let rule = saying!(
        "every-repository-files-apt-dnf",
        "every repository in the files of apt, dnf, zypper, pacman and apk",
    );
    // Files that only root may read may name more.
    Parts::known(found, Evidence::new("/etc".into(), rule)).in_part(hidden)
}

fn both(first: Gap, second: Gap) -> Gap {
    // What hides a value says more than that there is none.
    let (mut main, other) = match second.why.hides_a_value() && !first.why.hides_a_value() {
        true => (second, first),
        false => (first, second),
    };
    main.tried.extend(other.tried);
    main
}

/// The files of a folder, in the order of their names.
/// The files of a folder; why they may be others, where it could not be listed.
fn files(lease: &Lease, folder: &str, unlisted: &mut Option<Gap>) -> Vec<(String, String)> {
    let names = list(lease, folder);
    *unlisted = unlisted.take().or(hidden(&names).cloned());
    let mut files: Vec<(String, String)> = names
        .iter()
        .flat_map(|names| names.iter())
        .filter_map(|name| name.to_str())
        .map(|name| (format!("{folder}/{name}"), name.to_owned()))
        .collect();
    files.sort();
    files
}

fn part(file: &File, manager: &'static str, read: Read) -> Repository {
    let raw: Arc<str> = read.raw.as_str().into();
    let at = |rule: Saying| {
        Evidence::new(Arc::clone(file.path()), rule).line(read.line).raw_shared(&raw)
    };
    let lacks = |what: &str| {
        Gap::new(Why::NotApplicable).tried(
            Arc::clone(file.path()),
            saying!("gives-no", "gives no {}").with(format!("{what} at line {}", read.line)),
        )
    };
    let texts = |list: &[String], what: &str, rule: Saying| match list.is_empty() {
        true => Fact::gap(lacks(what)),
        false => {
            Fact::known(list.iter().map(|text| SuiteName::from(text.as_str())).collect(), at(rule))
        }
    };
    let text = |text: &Option<String>, what: &str| match text {
        Some(text) => {
            Fact::known(Term(text.clone()), at(saying!("as-the-file-has-it", "as the file has it")))
        }
        None => Fact::gap(lacks(what)),
    };
    Repository {
        manager: Fact::known(
            Term::from(manager),
            at(saying!("form-file", "by the form of the file")),
        ),
        name: text(&read.name, "name").map(|text| Label(text.0)),
        enabled: Fact::known(
            read.enabled,
            at(saying!("used-unless-switched-off", "used, unless it is switched off")),
        ),
        kind: text(&read.kind, "kind"),
        uris: match read.uris.is_empty() {
            true => Fact::gap(lacks("address")),
            false => Fact::known(
                read.uris.iter().map(|uri| FreeText::from(uri.as_str())).collect(),
                at(saying!("addresses", "its addresses")),
            ),
        },
        suites: texts(&read.suites, "suite", saying!("suites", "its suites")),
        components: texts(&read.components, "component", saying!("components", "its components")),
        signatures_checked: match read.checked {
            Some(checked) => Fact::known(checked, at(saying!("options", "by its options"))),
            None => Fact::gap(lacks("option on signatures")),
        },
        file: Fact::known(PathName(file.path().to_string()), at(saying!("the-file", "the file"))),
        line: Fact::known(
            read.line as u64,
            at(saying!("line-begins", "the line at which it begins")),
        ),
    }
}
