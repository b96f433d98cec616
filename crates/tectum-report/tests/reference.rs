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

use tectum_report::{
    finding::{LIMITS, Severity, rules},
    query::{DescribedField, described_fields},
};

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
    let mut pages: BTreeMap<String, String> = sections.into_iter().map(page).collect();
    pages.insert("findings.md".to_owned(), findings());
    pages
}

/// The page of the findings: what each is, why it matters, what to do.
fn findings() -> String {
    let mut text = String::from(
        "# Findings\n\nMade from the rules; `tectum check --list` and `tectum check --explain NAME` say the \
         same. How they are judged stands in [findings](../findings.md).\n",
    );
    for severity in Severity::BY_RANK {
        writeln!(text, "\n## {severity}\n\n{}", severity.meaning()).unwrap();
        for rule in rules().iter().filter(|rule| rule.severity == severity) {
            let reads: Vec<String> = rule.reads.iter().map(|path| format!("`{path}`")).collect();
            write!(
                text,
                "\n### `{}`\n\n{}.\n\n{}\n\nWhat to do: {}\n\nReads {}. More in {}.\n",
                rule.id,
                upper(rule.title),
                rule.matters,
                rule.action,
                reads.join(", "),
                rule.reference
            )
            .unwrap();
        }
    }
    text.push_str("\n## Limits\n\n| limit | usual | unit | meaning |\n| --- | --- | --- | --- |\n");
    for limit in LIMITS {
        let meaning = limit.meaning.trim();
        // As they are written in settings.
        let name = limit.name.replace('_', "-");
        writeln!(text, "| `{name}` | {} | {} | {meaning} |", limit.usual, limit.unit).unwrap();
    }
    text
}

/// A text with its first letter as at the beginning of a sentence.
fn upper(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map(char::to_uppercase).into_iter().flatten().chain(letters).collect()
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
