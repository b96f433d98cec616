//! A search held against a plain reading of every value: what a value says is found where it stands, and what is found
//! says what was searched for.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

mod support;

use std::{collections::BTreeMap, sync::LazyLock};

use proptest::prelude::*;
use rstest::rstest;
use support::{At, filled, set, with};
use tectum_report::{
    Report,
    compare::{label, shown},
    declare::NodeMut,
    query::{In, Search, SearchHit, Selection, search},
    walk::Met,
};

/// A report with every field, and of each value what it says: by its pointer the text, the text as people read it, the
/// field's name.
struct Whole {
    report: Report,
    values: BTreeMap<String, [String; 3]>,
}

static WHOLE: LazyLock<Whole> = LazyLock::new(|| {
    let (report, ..) = filled();
    let mut values = BTreeMap::new();
    report.walk(&mut |at, field, met| {
        if let Met::Leaf(fact) = met {
            let text = fact.text().unwrap();
            let read = shown(fact).unwrap_or_default();
            values.insert(at.as_str().to_owned(), [text, read, field.name.replace('_', " ")]);
        }
    });
    assert!(values.len() > 1000, "{}", values.len());
    Whole { report, values }
});

/// What a hit is of, as JSON Pointers are written: paths leave out the root of the inventory.
fn pointer(hit: &SearchHit<'_>) -> String {
    let path = hit.path.replace('.', "/");
    match path.split('/').next() {
        Some("machine" | "readings") => format!("/{path}"),
        _ => format!("/inventory/{path}"),
    }
}

fn found(wanted: &Search) -> Vec<(String, In, String)> {
    let all = search(&WHOLE.report, wanted, None);
    all.iter().map(|hit| (pointer(hit), hit.found_in, hit.label.clone())).collect()
}

#[test]
fn every_value_is_found_by_what_it_says() {
    for (at, [text, ..]) in WHOLE.values.iter().step_by(29) {
        let exact = format!("^{}$", regex_of(text));
        for wanted in [Search::words(text), Search::expression(&exact)] {
            let all = found(&wanted.unwrap());
            // What a part is called is told once, with the part.
            let own = all.iter().any(|(own, found_in, _)| match found_in {
                In::Label => at.starts_with(&format!("{own}/")),
                _ => own == at,
            });
            assert!(own, "{at} says {text:?}: {all:?}");
        }
    }
}

/// A text as an expression that it alone is like.
fn regex_of(text: &str) -> String {
    text.chars()
        .map(|sign| {
            if sign.is_alphanumeric() {
                sign.to_string()
            } else {
                format!("\\x{{{:x}}}", sign as u32)
            }
        })
        .collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// Words of one value, in any order and case: it is found, and whatever else is found says each of them.
    #[test]
    fn what_is_found_says_every_word(
        of in any::<prop::sample::Index>(),
        picks in prop::collection::vec(any::<prop::sample::Index>(), 1..3),
        upper: bool,
    ) {
        let (at, [text, _, name]) = WHOLE.values.iter().nth(of.index(WHOLE.values.len())).unwrap();
        let all = format!("{text} {name}");
        let words: Vec<&str> = all.split_whitespace().collect();
        let words: Vec<&str> = picks.iter().map(|pick| words[pick.index(words.len())]).collect();
        let asked = if upper { words.join(" ").to_uppercase() } else { words.join(" ") };
        let hits = found(&Search::words(&asked).unwrap());
        let is_in_label = |label: &str| {
            words.iter().all(|word| label.to_lowercase().contains(&word.to_lowercase()))
        };
        let own = hits.iter().any(|(own, _, label)| own == at || is_in_label(label));
        prop_assert!(own, "{} says {:?}, asked {:?}", at, all, asked);
        for (own, found_in, label) in hits {
            let says = match (found_in, WHOLE.values.get(&own)) {
                (In::Value | In::Name, Some(texts)) => format!("{} {label}", texts.join(" ")),
                (In::Label, _) => label,
                // Each value is said to be from one made-up file.
                (In::Evidence, _) => "/proc/x".to_owned(),
                (In::Value | In::Name, None) => panic!("{own} is no value"),
            };
            let says = says.to_lowercase();
            for word in &words {
                let is_amount = word.bytes().next().is_some_and(|sign| sign.is_ascii_digit());
                prop_assert!(
                    is_amount || says.contains(&word.to_lowercase()),
                    "{own} says {says:?}, and not {word:?}"
                );
            }
        }
    }

    /// What is marked is what was searched for, one mark behind the other.
    #[test]
    fn marks_are_of_the_words(text in "[aAbB1 é\u{130}]{0,20}", word in "[ab1é]{1,2}") {
        let wanted = Search::words(&word).unwrap();
        let marks = wanted.marks(&text);
        let mut end = 0;
        for mark in &marks {
            prop_assert!(mark.start >= end);
            end = mark.end;
            prop_assert_eq!(text[mark.clone()].to_lowercase(), word.to_lowercase());
        }
        if !text.contains('\u{130}') {
            prop_assert_eq!(wanted.is_in(&text), !marks.is_empty(), "{} in {}", word, text);
        }
    }
}

#[rstest]
#[case("7", "17", false)]
#[case("7", "7", true)]
#[case("7", "a7b", true)]
#[case("7a", "17a", false)]
#[case("a7", "a72", false)]
#[case("a7", "a7-2", true)]
#[case("1.5", "11.5", false)]
#[case("SDA", "sda1", true)]
#[case("sda1", "sda12", false)]
#[case("É", "café", true)]
fn a_number_is_not_found_within_a_longer_one(
    #[case] word: &str,
    #[case] text: &str,
    #[case] is: bool,
) {
    assert_eq!(Search::words(word).unwrap().is_in(text), is);
}

#[rstest]
#[case("SKS4-*", "sks4-220417", true)]
#[case("SKS4", "sks4-220417", false)]
#[case("sks?-22041[78]", "SKS4-220417", true)]
#[case("{sks4,sk7n}-*", "SK7N-0011902", true)]
fn a_pattern_is_of_a_whole_text(#[case] pattern: &str, #[case] text: &str, #[case] is: bool) {
    assert_eq!(Search::pattern(pattern).unwrap().is_in(text), is);
}

#[rstest]
#[case("")]
#[case(" \t\n")]
fn no_words_are_refused(#[case] text: &str) {
    assert!(Search::words(text).unwrap_err().to_string().contains("no word"));
}

/// What would take more than it is worth to make ready is refused, and what is made ready takes linear time.
#[rstest]
#[case("(((a{100}){100}){100}){100}")]
#[case("\\p{L}{5000}{5000}")]
fn an_expression_that_is_too_large_is_refused(#[case] expression: &str) {
    assert!(Search::expression(expression).is_err());
    let repeated = Search::expression("(a*)*(a*)*(a*)*b").unwrap();
    assert!(!repeated.is_in(&"a".repeat(100_000)));
}

/// Why an expression is none stands in a line.
#[rstest]
#[case("(a", "unclosed group")]
#[case("a{2,1}", "invalid repetition count range, the start must be <= the end")]
#[case("\\p{Wholly}", "Unicode property not found")]
#[case("a{1000000}{1000000}", "size limit")]
fn why_an_expression_is_none_is_told(#[case] expression: &str, #[case] reason: &str) {
    let error = Search::expression(expression).unwrap_err();
    assert!(error.reason.contains(reason) && !error.reason.contains('\n'), "{error}");
}

/// Of a path's parts alone is told what they say.
#[rstest]
#[case("memory.modules")]
#[case("storage.disks.*.serial")]
#[case("storage")]
#[case("readings.memory")]
fn only_what_a_path_names_is_looked_through(#[case] path: &str) {
    let wanted = Search::expression("text [0-9]+|-?[0-9]{4}").unwrap();
    let only = Selection::of(&WHOLE.report, &[path.parse().unwrap()]);
    let pointer_of = |hit: &SearchHit<'_>| (pointer(hit), hit.found_in.word());
    let some: Vec<_> = search(&WHOLE.report, &wanted, Some(&only)).iter().map(pointer_of).collect();
    let all: Vec<_> = search(&WHOLE.report, &wanted, None).iter().map(pointer_of).collect();
    assert!(!some.is_empty() && some.len() < all.len(), "{} of {}", some.len(), all.len());
    assert!(some.iter().all(|hit| all.contains(hit)));
    let names: Vec<&str> = path.split('.').filter(|name| *name != "*").collect();
    for (at, _) in some.iter().filter(|(_, found_in)| *found_in != In::Label.word()) {
        assert!(names.iter().all(|name| at.split('/').any(|member| member == *name)), "{at}");
    }
}

/// A value that another took the place of is not found any more, and the other is.
#[test]
fn what_is_there_now_is_found() {
    let (mut report, leaves, _) = filled();
    let at: &At = leaves.iter().find(|at| at.path == "inventory.memory.modules.serial").unwrap();
    let before = with(&mut report, at, |node| {
        let NodeMut::Leaf(fact) = node else { panic!("no leaf") };
        fact.text().unwrap()
    });
    let hits = |report: &Report, text: &str| {
        let wanted = Search::expression(&format!("^{}$", regex_of(text))).unwrap();
        search(report, &wanted, None).len()
    };
    assert!(hits(&report, &before) > 0);
    set(&mut report, at, 900_000);
    let after =
        report.inventory.memory.as_ref().unwrap().modules[0].serial.value().unwrap().0.clone();
    assert_eq!(hits(&report, &before), 0);
    let module = &report.inventory.memory.as_ref().unwrap().modules[0];
    assert!(hits(&report, &after) > 0, "{}", label(module));
}
