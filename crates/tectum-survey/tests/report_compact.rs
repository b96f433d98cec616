//! The compact form of a report: it says all that the expanded one says, and what is wrong with one is told.

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

use std::sync::{Arc, LazyLock};

use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Value, json};
use support::{RECORDED, demo, look, of_sections, recorded};
use tectum_report::{
    compare::{Scope, compare},
    fact::{Attempt, Evidence, Gap, Place, Saying, Stance, Why, saying},
    json::{
        origins::Depth,
        schema,
        wanted::Wanted,
        write::{Form, Plain},
    },
    report::{Operation, Outcome, Report, SourceAccess},
};

static GANNET: LazyLock<Report> = LazyLock::new(|| look(demo("gannet-before").path()));

/// The same, written: what is changed by hand is a copy of it.
static GANNET_JSON: LazyLock<Value> =
    LazyLock::new(|| serde_json::from_slice(&written(&GANNET, Form::Compact)).unwrap());

fn written(report: &Report, form: Form) -> Vec<u8> {
    let mut text = Vec::new();
    report.write(&mut text, form).unwrap();
    text
}

/// The recorded machines, each looked at once.
static RECORDED_LOOKS: LazyLock<Vec<(&str, Report)>> = LazyLock::new(|| {
    RECORDED.into_iter().map(|name| (name, look(recorded(name).path()))).collect()
});

#[test]
fn every_recorded_machine_is_read_back_whole() {
    let schema = schema::report();
    let validator = jsonschema::validator_for(&schema).unwrap();
    for (name, report) in &*RECORDED_LOOKS {
        let [compact, expanded] = [Form::Compact, Form::Expanded].map(|form| written(report, form));
        assert!(
            compact.len() * 2 < expanded.len(),
            "{name}: {} of {}",
            compact.len(),
            expanded.len()
        );
        let again = Report::from_json(&compact).unwrap();
        assert!(again == *report, "{name}");
        assert!(written(&again, Form::Expanded) == expanded, "{name}");
        assert!(written(&again, Form::Compact) == compact, "{name}");
        let json: Value = serde_json::from_slice(&compact).unwrap();
        let errors: Vec<String> =
            validator.iter_errors(&json).map(|error| error.to_string()).collect();
        assert!(errors.is_empty(), "{name}: {errors:?}");
    }
}

#[test]
fn values_and_sections_are_those_of_the_expanded_form() {
    for (name, report) in &*RECORDED_LOOKS {
        let [compact, expanded] = [Form::Compact, Form::Expanded].map(|form| written(report, form));
        let values = Report::values_from_json(&compact).unwrap();
        assert!(values == Report::values_from_json(&expanded).unwrap(), "{name}");
        for sections in [&["storage"][..], &["cpu", "drivers"], &[]] {
            for depth in [Depth::Gaps, Depth::Whole] {
                let read = |text| of_sections(text, sections, depth).unwrap();
                let some = read(&compact);
                assert!(some == read(&expanded), "{name}");
                assert_eq!(some.inventory.storage.is_some(), sections.contains(&"storage"));
                assert_eq!(some.sources.is_empty(), depth == Depth::Gaps, "{name}");
            }
            let mut kept = report.clone();
            kept.keep_sections(sections);
            let whole = of_sections(&compact, sections, Depth::Whole).unwrap();
            assert!(whole == kept, "{name}");
        }
    }
}

/// What a report says without where its values are from: the values, and why others are missing.
fn values(report: &Report) -> [Value; 3] {
    report.roots().map(|(_, root)| serde_json::to_value(Plain(root)).unwrap())
}

/// Holds what is read so deep against the whole report.
fn same_as_the_whole(text: &[u8], whole: &Report) {
    for depth in [Depth::Gaps, Depth::Reasons] {
        let read = Report::wanted_from_json(text, &Wanted::all(depth)).unwrap();
        assert_eq!(values(&read), values(whole), "{depth:?}");
        let (own, all) = (read.gaps(), whole.gaps());
        if depth == Depth::Gaps {
            assert_eq!(own, all);
        }
        let reasons = |gaps: &[(String, &Gap)]| -> Vec<(String, Why)> {
            gaps.iter().map(|(at, gap)| (at.clone(), gap.why)).collect()
        };
        assert_eq!(reasons(&own), reasons(&all), "{depth:?}");
    }
}

#[test]
fn who_does_not_ask_where_values_are_from_is_told_the_same_values_and_reasons() {
    let made_up = ["gannet-before", "gannet-after", "fulmar"].map(|name| look(demo(name).path()));
    for report in RECORDED_LOOKS.iter().map(|(_, report)| report).chain(&made_up) {
        for form in [Form::Compact, Form::Expanded] {
            same_as_the_whole(&written(report, form), report);
        }
        // As another program would lay it out.
        let tree: Value = serde_json::from_slice(&written(report, Form::Compact)).unwrap();
        same_as_the_whole(&serde_json::to_vec(&tree).unwrap(), report);
    }
}

#[test]
fn reports_are_compared_alike_however_much_of_them_was_read() {
    let whole = ["gannet-before", "gannet-after"].map(|name| look(demo(name).path()));
    let [before, after] = &whole;
    let told = compare(before, after, Scope::InventoryAndReadings);
    assert!(!told.changes.is_empty());
    for depth in [Depth::Gaps, Depth::Reasons] {
        let read = whole.each_ref().map(|report| {
            let text = written(report, Form::Compact);
            Report::wanted_from_json(&text, &Wanted::all(depth)).unwrap()
        });
        let [before, after] = &read;
        assert_eq!(compare(before, after, Scope::InventoryAndReadings), told, "{depth:?}");
    }
}

#[test]
fn what_parts_share_is_said_once() {
    let modules = &GANNET_JSON["origins"]["parts"]["/inventory/memory/modules/*"];
    let [recipes, alike @ ..] = &modules.as_array().unwrap()[..] else { panic!("{modules}") };
    // Eight modules by two recipes, and the two that are alike are told in one row.
    let told: u64 =
        recipes.as_array().unwrap().iter().map(|run| run[1].as_u64().unwrap_or(1)).sum();
    assert_eq!(told, GANNET.inventory.memory.as_ref().unwrap().modules.len() as u64);
    assert!((alike.len() as u64) < told, "{modules}");
    // The file is the same for all of them.
    assert!(alike.iter().all(|row| row[1][0].is_u64()), "{modules}");
}

/// Each mistake by where it is made, what is put there, and what is said of it.
#[rstest]
#[case::fewer_parts("/origins/parts/~1inventory~1memory~1modules~1*", json!([[]]), "at /origins/parts/~1inventory~1memory~1modules~1*: it tells of fewer parts than there are")]
#[case::more_parts("/inventory/memory/modules", json!([]), "at /origins/parts/~1inventory~1memory~1modules~1*: it tells of more parts than there are")]
#[case::no_recipes("/origins/parts/~1machine", json!([]), "at /origins/parts/~1machine: no recipes stand there")]
#[case::recipes_without_end("/origins/parts/~1machine/0", json!(0), "at /origins/parts/~1machine: the recipes of parts are no list")]
#[case::a_recipe_that_is_none("/origins/parts/~1machine/0", json!(["x"]), "at /origins/parts/~1machine: a text stands where a number")]
#[case::a_recipe_of_nothing("/origins/parts/~1machine/0", json!([null]), "at /origins/parts/~1machine: nothing stands where a number")]
#[case::no_column("/origins/parts/~1machine/0", json!([[0]]), "at /origins/parts/~1machine: invalid length 1")]
#[case::a_recipe_of_no_parts("/origins/parts/~1machine/0", json!([99999]), "at /origins/parts/~1machine: no parts of recipe 99999 stand there")]
#[case::no_part("/origins/parts/~1machine/1", json!({}), "at /origins/parts/~1machine: invalid type")]
#[case::a_part_of_nothing("/origins/parts/~1machine/1", json!([]), "at /origins/parts/~1machine: invalid length 0")]
#[case::no_such_recipe("/origins/parts/~1machine", json!([[99999], [99999, []]]), "at /origins/parts/~1machine: there is no entry 99999 of recipes")]
#[case::a_recipe_twice("/origins/parts/~1machine", json!([[0], [0, []], [0, []]]), "at /origins/parts/~1machine: the parts of recipe 0 stand there twice")]
#[case::a_recipe_of_none("/origins/parts/~1inventory~1memory~1modules~1*/1/0", json!(99999), "at /origins/parts/~1inventory~1memory~1modules~1*: no parts of recipe")]
#[case::no_such_slot("/origins/parts/~1machine/1/1", json!([]), "at /origins/parts/~1machine: a part has fewer folders than its ways take")]
#[case::no_such_folder("/origins/parts/~1machine/1/1/0", json!(99999), "at /origins/parts/~1machine: there is no entry 99999 of folders")]
#[case::too_little("/origins/parts/~1machine/1", json!([0, [0, 1, 2, 3, 4]]), "at /origins/parts/~1machine: a part has less of its own")]
#[case::a_text_for_a_handle("/origins/parts/~1machine/1/2", json!("256"), "at /origins/parts/~1machine: a text stands where a number")]
#[case::a_wide_handle("/origins/parts/~1machine/1/2", json!(65536), "at /origins/parts/~1machine: a handle has 16 bits")]
#[case::a_column_that_ends("/origins/parts/~1machine/1/2", json!([]), "at /origins/parts/~1machine: a column ends before the parts do")]
#[case::a_column_that_goes_on("/origins/parts/~1machine/1/2", json!([[256, 2]]), "at /origins/parts/~1machine: a column goes on behind the last part")]
#[case::a_column_that_does_not_end("/origins/parts/~1inventory~1memory~1modules~1*/0", json!([[0, u64::MAX]]), "at /origins/parts/~1inventory~1memory~1modules~1*: ")]
#[case::no_such_way("/origins/recipes/0/0", json!(99999), "at /origins/parts/~1machine: there is no entry 99999 of ways")]
#[case::a_folder_in_itself("/origins/folders/2/0", json!([2]), "at /origins/folders/2: it is in no folder that stands before it")]
#[case::folders_in_all("/origins/folders/2/0", json!(0), "at /origins/folders/2: the folders that they are in are no list")]
#[case::very_many_folders("/origins/folders/2/0", json!([[0, u64::MAX]]), "it says more than a report may hold")]
#[case::no_folder("/origins/folders", json!(7), "at /origins/folders: invalid type")]
#[case::no_way("/origins/ways/0", json!(7), "at /origins/ways/0: invalid type")]
#[case::no_saying("/origins/sayings/0", json!(7), "at /origins/sayings/0: invalid type")]
#[case::no_recipe("/origins/recipes/0", json!("x"), "at /origins/recipes/0: invalid type")]
#[case::no_text("/origins/texts", json!([]), "of texts")]
#[case::no_access("/origins/accesses/0", json!([0]), "at /origins/accesses/0: invalid length 1")]
#[case::no_folders("/origins/accesses/0/1", json!(0), "at /origins/accesses: folders are no list")]
#[case::folders_that_are_none("/origins/accesses/0/1", json!(["x"]), "at /origins/accesses: a text stands where a number")]
#[case::folders_without_end("/origins/accesses/0/1", json!([[0, u64::MAX]]), "at /origins/")]
#[case::counts_that_end("/origins/accesses/0/2", json!([[]]), "at /origins/accesses: a column ends before the folders do")]
#[case::counts_that_go_on("/origins/accesses/0/2", json!([vec![1; 10_000]]), "at /origins/accesses: a column goes on behind the last folder")]
#[case::counts_of_text("/origins/accesses/0/2", json!(["x"]), "at /origins/accesses: a text stands where a number")]
#[case::a_column_like_none("/origins/parts/~1machine/1/2", json!({ "like": 0 }), "at /origins/parts/~1machine: a column is like none before it")]
#[case::a_column_like_one_behind("/origins/parts/~1machine/1/1/0", json!({ "like": 1 }), "at /origins/parts/~1machine: a column is like none before it")]
#[case::often_nothing("/origins/ways/0/1", json!([3]), "at /origins/ways/0: a number says how often nothing stands")]
#[case::often_once("/origins/ways/0/1", json!([[0, 0], 1]), "at /origins/ways/0: a number says how often nothing stands")]
#[case::no_visit("/origins/accesses/0/0", json!(99999), "there is no entry 99999 of visits")]
#[case::an_unknown_visit("/origins/visits/0/0/0", json!("smell"), "at /origins/visits/0: unknown variant")]
#[case::more_counts("/origins/accesses/0/2", json!(vec![1; 10_000]), "it counts more files than were asked for")]
#[case::no_tables("/origins", json!(null), "at /gaps: the report lacks this part")]
fn what_is_wrong_is_said(#[case] at: &str, #[case] put: Value, #[case] said: &str) {
    let mut json = GANNET_JSON.clone();
    *json.pointer_mut(at).unwrap() = put;
    let error =
        Report::from_json(&serde_json::to_vec(&json).unwrap()).map(drop).unwrap_err().to_string();
    assert!(error.contains(said), "{error}");
}

/// A few tables that say very much: as many parts as fit, each of which says all there is to say.
#[rstest]
#[case::of_many_ways(json!(["serial", []]), 100_000, false, false)]
#[case::of_many_sources(json!(["serial", vec![json!([0, 0]); 100_000]]), 1, false, false)]
#[case::of_many_ways_of_many_sources(
    json!(["serial", vec![json!([0, 0]); 10_000]]),
    100_000,
    true,
    false
)]
#[case::of_many_values_behind_names(
    json!(["serial", vec![json!([0, 0, { "behind": "x=" }]); 1000]]),
    1,
    false,
    false
)]
#[case::of_many_gaps(json!(["serial", [], { "why": "permission" }]), 100_000, true, true)]
#[case::of_a_source_told_very_often(
    json!(["serial", [[0, 0, "untold"], u64::MAX], { "why": "permission" }]),
    1,
    true,
    false
)]
#[case::of_a_source_told_often_in_many_parts(
    json!(["serial", [[0, 0, "untold"], 1_000_000, [0, 1], [0, 0], 1_000_000]]),
    1,
    false,
    false
)]
fn tables_that_say_more_than_a_report_may_hold_are_refused(
    #[case] way: Value,
    #[case] ways: usize,
    #[case] with_gaps: bool,
    #[case] with_reasons: bool,
) {
    let mut json = GANNET_JSON.clone();
    let parts = 2_000;
    json["inventory"]["memory"]["modules"] = vec![json!({}); parts].into();
    let number = json["origins"]["ways"].as_array().unwrap().len();
    json["origins"]["ways"].as_array_mut().unwrap().push(way);
    let recipe = json["origins"]["recipes"].as_array().unwrap().len();
    json["origins"]["recipes"].as_array_mut().unwrap().push(vec![number; ways].into());
    json["origins"]["parts"]["/inventory/memory/modules/*"] =
        json!([[[recipe, parts]], [recipe, [0]]]);
    let text = serde_json::to_vec(&json).unwrap();
    let whole = Report::from_json(&text).map(drop).unwrap_err().to_string();
    assert!(whole.contains("more than a report may hold"), "{whole}");
    // Who does not ask where values are from is told nothing of all that, and is refused what would take long to count;
    // for the reason alone only gaps are counted.
    for (depth, refused) in [(Depth::Gaps, with_gaps), (Depth::Reasons, with_reasons)] {
        let read = Report::wanted_from_json(&text, &Wanted::all(depth));
        assert_eq!(
            read.map(drop).map_err(|error| error.to_string()).err(),
            refused.then(|| whole.clone())
        );
    }
}

#[test]
fn a_name_that_is_no_text_is_told_by_its_line() {
    let text = String::from_utf8(written(&GANNET, Form::Compact)).unwrap();
    let line = text.lines().position(|line| line.contains("\"hostname\"")).unwrap() + 1;
    let broken = text.replacen("\"hostname\": \"", "\"hostname\": \"\\ud800", 1);
    let error = Report::from_json(broken.as_bytes()).unwrap_err().to_string();
    assert!(error.starts_with(&format!("line {line}, column ")), "{error}");
}

const RULES: [Saying; 2] = [saying!("a-rule", "as it stands"), saying!("another-rule", "by {}")];

fn any_path() -> impl Strategy<Value = Arc<str>> {
    prop_oneof![
        "(/[a-z]{0,2}[0-9]?){0,6}",
        "[/a-z0-9.~*\u{e9}\"]{0,12}",
        Just("uname(2)".to_owned()),
        Just("/".to_owned()),
        Just(String::new()),
        Just("/deep".repeat(300)),
    ]
    .prop_map(Into::into)
}

fn any_saying() -> impl Strategy<Value = Saying> {
    (0..2_usize, any::<Option<String>>()).prop_map(|(rule, detail)| match detail {
        Some(detail) => RULES[rule].clone().with(detail),
        None => RULES[rule].clone(),
    })
}

fn any_evidence() -> impl Strategy<Value = Evidence> {
    let place = prop_oneof![
        any::<u64>().prop_map(Place::Line),
        any::<(u32, u32)>().prop_map(|(offset, length)| Place::Bytes { offset, length }),
        any::<(u16, u32, u32)>().prop_map(|(handle, offset, length)| Place::Structure {
            handle,
            offset,
            length
        }),
        "[a-z0-9]{0,3}".prop_map(Place::from),
    ];
    let stance = prop_oneof![
        Just(Stance::Gives),
        Just(Stance::Agrees),
        any::<String>().prop_map(Stance::differs),
    ];
    // Raw texts that are the value itself, that stand often, and that stand once.
    let raw =
        prop_oneof![Just("SCTS-1".to_owned()), Just("a text of many".to_owned()), any::<String>()];
    (any_path(), prop::option::of(place), any_saying(), prop::option::of(raw), stance).prop_map(
        |(source, place, rule, raw, stance)| Evidence {
            source,
            place,
            rule,
            raw: raw.map(Into::into),
            stance,
        },
    )
}

/// Pieces of evidence, of which some stand there several times, as those of a sum do.
fn any_pieces() -> impl Strategy<Value = Vec<Evidence>> {
    let runs = prop::collection::vec((any_evidence(), 1..5_usize), 1..4);
    runs.prop_map(|runs| {
        runs.into_iter().flat_map(|(piece, often)| std::iter::repeat_n(piece, often)).collect()
    })
}

fn any_gap() -> impl Strategy<Value = Gap> {
    let tried = prop::collection::vec(
        (any_path(), any_saying()).prop_map(|(source, answer)| Attempt { source, answer }),
        0..3,
    );
    let why = prop_oneof![
        Just(Why::Permission),
        Just(Why::Blank),
        Just(Why::TooMany),
        Just(Why::NotProvided),
        Just(Why::NotApplicable),
    ];
    let source = prop_oneof![Just(None), any_path().prop_map(Some)];
    (why, source, prop::option::of(any_saying()), any::<Option<String>>(), tried, any::<bool>())
        .prop_map(|(why, source, hint, raw, tried, last)| Gap {
            why,
            source: match tried.last() {
                Some(attempt) if last => Some(Arc::clone(&attempt.source)),
                _ => source,
            },
            hint: hint.map(Box::new),
            raw: raw.map(Into::into),
            tried,
        })
}

fn any_access() -> impl Strategy<Value = SourceAccess> {
    let operation = prop_oneof![Just(Operation::Read), Just(Operation::List)];
    let outcome = prop_oneof![
        Just(Outcome::Done),
        Just(Outcome::NotFound),
        Just(Outcome::Failed("EIO".into()))
    ];
    (any_path(), operation, outcome, any::<Option<u64>>(), any::<Option<u64>>()).prop_map(
        |(path, operation, outcome, bytes, elapsed_us)| SourceAccess {
            path: path.to_string(),
            operation,
            outcome,
            bytes,
            elapsed_us,
        },
    )
}

/// Facts of several kinds of parts: alone, of many, of a record within a part, and a list of parts.
const FIELDS: [&str; 7] = [
    "/machine/hostname",
    "/machine/serial",
    "/inventory/cpu/threads",
    "/inventory/memory/modules/0/serial",
    "/inventory/memory/modules/1/serial",
    "/inventory/memory/modules/3/size_bytes",
    "/readings/memory/available_bytes",
];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Whatever is said of values, in whatever words, is said by both forms.
    #[test]
    fn any_evidence_and_any_gap_comes_back(
        evidence in prop::collection::vec(any_pieces(), FIELDS.len()),
        gaps in prop::collection::vec(prop::option::weighted(0.4, any_gap()), FIELDS.len()),
        hidden in prop::option::of(any_gap()),
        mut sources in prop::collection::vec(any_access(), 0..20),
    ) {
        let mut report = GANNET.clone();
        report.keep_sections(&["cpu", "memory"]);
        for ((at, evidence), gap) in FIELDS.iter().zip(evidence).zip(gaps) {
            let fact = report.fact_mut(at).unwrap();
            let value = fact.json().unwrap();
            fact.set(&value, evidence).unwrap();
            match gap {
                Some(gap) => fact.set_missing(gap),
                None => fact.set_hidden_part(hidden.clone()),
            }
        }
        sources.sort_by(|a, b| a.order().cmp(&b.order()));
        report.sources = sources;
        let again = Report::from_json(&written(&report, Form::Compact)).unwrap();
        prop_assert_eq!(&again.sources, &report.sources);
        prop_assert!(again == report);
        prop_assert!(Report::from_json(&written(&report, Form::Expanded)).unwrap() == report);
        same_as_the_whole(&written(&report, Form::Compact), &report);
    }

    /// No table that was changed anywhere makes reading panic or go on for ever.
    #[test]
    fn a_changed_text_is_read_or_refused(at in any::<prop::sample::Index>(), byte: u8, cut: bool) {
        static TEXT: LazyLock<Vec<u8>> = LazyLock::new(|| written(&GANNET, Form::Compact));
        let mut text = TEXT.clone();
        let begin = text.windows(10).position(|window| window == b"\"origins\":").unwrap();
        let at = begin + at.index(text.len() - begin);
        text[at] = byte;
        if cut {
            text.truncate(at);
        }
        if let Ok(report) = Report::from_json(&text) {
            prop_assert!(Report::from_json(&written(&report, Form::Compact)).is_ok());
        }
    }
}
