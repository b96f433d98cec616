//! The reference documentation is what the declarations say. It is written anew with
//! `TECTUM_REFERENCE=write cargo test -p tectum-report --test reference`.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

use std::{collections::BTreeMap, fmt::Write, fs, path::Path};

use tectum_report::query::{DescribedField, described_fields};

/// The page of a section: a row for each value.
fn page(section: &str, fields: &[DescribedField]) -> String {
    let mut text = format!(
        "# Values of `{section}`\n\nMade from the declarations; `tectum sections --fields {section}` says \
         the same, and which of them a machine has.\n\n| path | unit | meaning | source |\n\
         | --- | --- | --- | --- |\n"
    );
    let cell = |text: &str| text.replace('|', "\\|");
    for field in fields {
        writeln!(
            text,
            "| `{}` | {} | {} | {} |",
            field.path,
            field.unit.unwrap_or_default(),
            cell(&field.meaning),
            cell(field.source)
        )
        .unwrap();
    }
    text
}

fn pages() -> BTreeMap<String, String> {
    let mut sections: BTreeMap<String, Vec<DescribedField>> = BTreeMap::new();
    for field in described_fields() {
        let mut parts = field.path.split('.');
        let first = parts.next().unwrap();
        // Readings stand with the inventory of their section.
        let section = if first == "readings" { parts.next().unwrap() } else { first };
        sections.entry(section.to_owned()).or_default().push(field);
    }
    let page = |(section, fields): (String, Vec<DescribedField>)| {
        let text = page(&section, &fields);
        (format!("{section}.md"), text)
    };
    sections.into_iter().map(page).collect()
}

#[test]
fn the_reference_is_what_the_declarations_say() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/reference");
    let pages = pages();
    if std::env::var_os("TECTUM_REFERENCE").is_some_and(|what| what == "write") {
        for (name, text) in &pages {
            fs::write(folder.join(name), text).unwrap();
        }
    }
    for (name, text) in &pages {
        let stands = fs::read_to_string(folder.join(name)).unwrap_or_default();
        assert!(
            stands == *text,
            "docs/reference/{name} is stale; the head of this test says how to write it"
        );
    }
    let there = fs::read_dir(&folder).unwrap().count();
    assert_eq!(there, pages.len(), "a page of no section");
}

#[test]
fn every_value_says_what_it_means_and_where_it_is_from() {
    for field in described_fields() {
        assert!(field.meaning.len() > 3 && !field.source.is_empty(), "{}", field.path);
    }
}
