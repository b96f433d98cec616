//! Where a field stands in the code: what CONTRIBUTING says that a new one touches is counted here.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

use std::{
    collections::{BTreeMap, BTreeSet},
    fs,
    path::{Path, PathBuf},
};

use tectum_report::{
    declare::{Described, Kind, Shape},
    model::{Inventory, Machine, Readings},
};
use tectum_survey::sections::SECTIONS;

/// Every file of a crate's own code, without its unit tests and comments.
fn sources(crates: &[&str]) -> Vec<(PathBuf, String)> {
    fn go(folder: &Path, found: &mut Vec<(PathBuf, String)>) {
        for entry in fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            if path.is_dir() {
                go(&path, found);
            } else if path.extension().is_some_and(|kind| kind == "rs") {
                let text = fs::read_to_string(&path).unwrap();
                let own = text.split("#[cfg(test)]").next().unwrap_or_default();
                let code = own.lines().filter(|line| !line.trim_start().starts_with("//"));
                let code = code.collect::<Vec<_>>().join("\n");
                found.push((path, code));
            }
        }
    }
    let mut found = Vec::new();
    for name in crates {
        let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("..").join(name).join("src");
        go(&folder, &mut found);
    }
    found
}

/// The names of all fields of leaves and lists.
fn fields(shape: &'static Shape, names: &mut BTreeSet<&'static str>) {
    for field in shape.fields {
        names.insert(field.name);
        if let Kind::Record(inner) | Kind::Optional(inner) | Kind::List(inner) = field.kind {
            fields(inner, names);
        }
    }
}

fn all_fields() -> BTreeSet<&'static str> {
    let mut names = BTreeSet::new();
    for shape in [Inventory::SHAPE, Machine::SHAPE, Readings::SHAPE] {
        fields(shape, &mut names);
    }
    names
}

/// A field's name as a word of its own.
fn stands(text: &str, name: &str) -> bool {
    let word = |c: Option<char>| c.is_some_and(|c| c.is_alphanumeric() || c == '_');
    text.match_indices(name).any(|(at, _)| {
        !word(text[..at].chars().next_back()) && !word(text[at + name.len()..].chars().next())
    })
}

/// A field is named by the model that declares it, by the section that reads it, and by a view that
/// gives it a place: by nothing that treats all fields alike.
#[test]
fn what_treats_all_fields_alike_names_none_of_them() {
    let generic = ["compare", "declare", "fact", "json", "leaf", "query", "redact", "save"];
    let files = sources(&["tectum-report"]);
    // Short names and ordinary words stand everywhere.
    let telling: Vec<&str> =
        all_fields().into_iter().filter(|name| name.len() >= 12 && name.contains('_')).collect();
    assert!(telling.len() > 200, "{}", telling.len());
    let mut named: BTreeMap<&str, Vec<String>> = BTreeMap::new();
    for (path, text) in &files {
        let of = path
            .components()
            .any(|part| part.as_os_str().to_str().is_some_and(|part| generic.contains(&part)));
        for name in telling.iter().filter(|name| of && stands(text, name)) {
            named.entry(name).or_default().push(path.display().to_string());
        }
    }
    assert!(named.is_empty(), "{named:#?}");
}

/// Each field is filled in by the sections of one folder, or by what several sections share.
#[test]
fn a_field_has_one_section() {
    let files = sources(&["tectum-survey"]);
    let section_of = |path: &Path| -> Option<String> {
        let text = path.display().to_string();
        let rest = text.split("/sections/").nth(1)?;
        Some(rest.split(['/', '.']).next()?.to_owned())
    };
    let mut nowhere = Vec::new();
    for name in all_fields() {
        let sections: BTreeSet<String> = files
            .iter()
            .filter(|(_, text)| stands(text, name))
            .filter_map(|(path, _)| section_of(path).or_else(|| Some("shared".to_owned())))
            .collect();
        if sections.is_empty() {
            nowhere.push(name);
        }
    }
    assert_eq!(nowhere, [""; 0], "fields that nothing fills in");
}

/// A section is a file or folder, a line of the registry, a record with a field of the inventory, and a
/// view.
#[test]
fn a_section_has_its_file_its_record_its_line_and_its_view() {
    let read = |path: &str| {
        fs::read_to_string(Path::new(env!("CARGO_MANIFEST_DIR")).join("..").join(path)).unwrap()
    };
    let (registry, sheet) =
        (read("tectum-survey/src/sections/mod.rs"), read("tectum/src/views/sheet.rs"));
    let stands_as = |folder: &str, name: &str| {
        let at = Path::new(env!("CARGO_MANIFEST_DIR")).join("..").join(folder);
        at.join(format!("{name}.rs")).is_file() || at.join(name).is_dir()
    };
    for section in SECTIONS {
        let name = section.name;
        assert!(stands_as("tectum-survey/src/sections", name), "{name} has no file");
        assert!(stands_as("tectum-report/src/model", name), "{name} has no record");
        assert!(stands_as("tectum/src/views/sheet", name), "{name} has no view");
        let lines = |text: &str, line: &str| {
            text.lines().filter(|own| own.trim().trim_end_matches(',') == line).count()
        };
        assert_eq!(lines(&registry, &format!("mod {name};")), 1, "{name}");
        assert_eq!(lines(&registry, &format!("{name}::SECTION")), 1, "{name}");
        assert_eq!(lines(&sheet, &format!("section!({name}, {name}::print);")), 1, "{name}");
        assert!(Inventory::SHAPE.index_of(name).is_some(), "{name}");
    }
}
