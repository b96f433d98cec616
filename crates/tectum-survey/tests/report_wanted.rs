//! What is wanted of a saved report is read as if all of it were, however the report is laid out.

#![allow(
    clippy::unwrap_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

mod support;

use rstest::rstest;
use serde::Serialize;
use serde_json::{Serializer, Value, ser::PrettyFormatter};
use support::{RECORDED, look, of_sections, recorded};
use tectum_report::{
    declare::Record,
    json::{
        chosen::Chosen,
        origins::Depth,
        wanted::Wanted,
        write::{Form, Plain},
    },
    query::{HitValue, Named, Path, every_path, find_all, standing},
    report::Report,
};

fn written(report: &Report) -> Vec<u8> {
    let mut text = Vec::new();
    report.write(&mut text, Form::Compact).unwrap();
    text
}

/// What a path names in a report, with where it is from.
fn named(report: &Report, path: &Path) -> Vec<String> {
    let found = find_all(report, path);
    let hits = found.hits.iter().map(|hit| {
        let value = match hit.value {
            HitValue::Fact(fact) => {
                format!("{:?} {:?} {:?}", fact.json(), fact.evidence(), fact.missing())
            }
            HitValue::MissingList(gap) => format!("{gap:?}"),
            HitValue::EmptyList(evidence) => format!("{evidence:?}"),
        };
        format!("{} {value}", hit.at)
    });
    let not_judged = found.not_judged.iter().map(|(at, gap)| format!("{at}: {gap:?}"));
    hits.chain(not_judged).collect()
}

/// The paths that lead to the lists of sections, and with a name of each of their elements behind.
fn paths_of(report: &Report) -> Vec<String> {
    let mut paths: Vec<String> = every_path();
    let json = serde_json::to_value(Plain(&report.inventory as &dyn Record)).unwrap();
    for (section, fields) in json.as_object().unwrap() {
        for (field, value) in fields.as_object().unwrap() {
            let elements = value.as_array().into_iter().flatten().filter_map(Value::as_object);
            for (number, element) in elements.enumerate() {
                let list = format!("{section}.{field}");
                paths.push(format!("{list}.{number}"));
                paths.push(format!("/inventory/{section}/{field}/{number}"));
                let texts = element.values().filter_map(Value::as_str);
                paths.extend(texts.take(4).map(|text| format!("inventory.{list}.{text}")));
                paths.push(format!("{list}[{}=x].{number}", element.keys().next().unwrap()));
            }
        }
    }
    paths.extend(["**.serial", "storage.**", "os", "storage.disks.*.name"].map(str::to_owned));
    paths
}

#[test]
fn what_a_path_names_is_read_as_of_the_whole_report() {
    // Every machine is asked for other ones: all of each would take minutes.
    for (name, begin) in RECORDED.into_iter().zip(0..) {
        let report = look(recorded(name).path());
        let text = written(&report);
        let mut values = 0;
        for path in paths_of(&report).into_iter().skip(begin).step_by(29) {
            // A text may hold signs that no path does.
            let Ok(path) = path.parse::<Path>() else { continue };
            let wanted = Wanted { paths: std::slice::from_ref(&path), ..Wanted::all(Depth::Whole) };
            let read = Report::wanted_from_json(&text, &wanted).unwrap();
            let expected = named(&report, &path);
            values += expected.len();
            assert_eq!(named(&read, &path), expected, "{name}: {path}");
        }
        assert!(values > 50, "{name}: {values}");
    }
}

/// What a path names in an inventory, and what the parts are called in which that stands.
fn named_in_values(report: &Report, path: &Path) -> (Vec<String>, Vec<String>) {
    let values = named(report, path);
    let mut called = Vec::new();
    let hits: Vec<String> = find_all(report, path).hits.into_iter().map(|hit| hit.at).collect();
    let leads = |at: &str| hits.iter().any(|hit| hit.starts_with(at));
    standing(report, "inventory", Named::ByIdentity, &leads, &mut |_| {}, &mut |one| {
        if hits.contains(&one.at) {
            called.push(one.path);
        }
    });
    (values, called)
}

#[test]
fn what_a_path_names_is_chosen_of_an_inventory() {
    for (name, begin) in RECORDED.into_iter().zip(3..) {
        let report = look(recorded(name).path());
        let text = serde_json::to_vec(&Plain(&report.inventory as &dyn Record)).unwrap();
        let of = |chosen: Option<&Chosen>| {
            Report::of_inventory(&text, report.taken.clone(), chosen).unwrap()
        };
        let whole = of(None);
        let mut values = 0;
        for path in paths_of(&report).into_iter().skip(begin).step_by(29) {
            let Ok(path) = path.parse::<Path>() else { continue };
            let chosen = of(Some(&Chosen::by(std::slice::from_ref(&path))));
            let expected = named_in_values(&whole, &path);
            values += expected.0.len();
            assert_eq!(named_in_values(&chosen, &path), expected, "{name}: {path}");
        }
        assert!(values > 50, "{name}: {values}");
        let os = of(Some(&Chosen::sections(&["os"])));
        assert_eq!(os.inventory.os, whole.inventory.os);
        assert!(os.inventory.storage.is_none());
    }
}

#[rstest]
#[case("[]", "/inventory")]
#[case(r#"{"storage": 5}"#, "/inventory/storage")]
#[case(r#"{"storage": {"disks": [{"serial": []}]}}"#, "/inventory/storage/disks/0/serial")]
#[case(r#"{"storage": {"disks": [{"serial": "a", "serial": "b"}]}}"#, "/inventory/storage/disks/0")]
#[case(r#"{"storage": {"disks": [{"model": }]}}"#, "line 1, column 34")]
fn what_is_no_inventory_is_told_with_its_place(#[case] text: &str, #[case] place: &str) {
    let paths = ["storage.disks.*.serial".parse().unwrap()];
    let taken = look(recorded("big-iron").path()).taken;
    let error = Report::of_inventory(text.as_bytes(), taken, Some(&Chosen::by(&paths)));
    let said = error.unwrap_err().to_string();
    assert!(said.contains(place), "{said}");
}

#[test]
fn how_a_file_was_read_is_told_of_what_is_named() {
    let report = look(recorded("big-iron").path());
    let path: Path = "/inventory/storage/disks/0".parse().unwrap();
    let wanted = Wanted { paths: std::slice::from_ref(&path), ..Wanted::all(Depth::Whole) };
    let read = Report::wanted_from_json(&written(&report), &wanted).unwrap();
    assert!(read.sources.len() < report.sources.len() / 2);
    // Another disk was passed over, and a list in the same section.
    let names = |report: &Report| {
        let storage = report.inventory.storage.as_ref().unwrap();
        storage.disks.iter().filter(|disk| disk.name.value().is_some()).count()
    };
    assert!(names(&report) > 2);
    assert_eq!(names(&read), 1);
    let mut sources = 0;
    for hit in find_all(&report, &path).hits {
        let HitValue::Fact(fact) = hit.value else { continue };
        for piece in fact.evidence() {
            let of = |report: &Report| -> Vec<String> {
                let own = report.sources.iter().filter(|one| *one.path == *piece.source);
                own.map(|one| format!("{one:?}")).collect()
            };
            sources += of(&report).len();
            assert_eq!(of(&read), of(&report), "{}", piece.source);
        }
    }
    assert!(sources > 10, "{sources}");
}

#[test]
fn what_is_passed_over_may_be_deep() {
    let text = String::from_utf8(written(&look(recorded("big-iron").path()))).unwrap();
    let levels = 2000;
    let blanks = |count: usize| " ".repeat(count);
    let mut deep = String::new();
    for level in 0..levels {
        let at = 5 + 2 * level;
        deep += &format!("\n{}\"a\": [\n{}{{", blanks(at), blanks(at + 1));
    }
    for level in (0..levels).rev() {
        let at = 5 + 2 * level;
        deep += &format!("\n{}}}\n{}]", blanks(at + 1), blanks(at));
    }
    let disks = "\n   \"disks\": [\n    {";
    assert!(text.contains(disks));
    let text = text.replacen(disks, &format!("{disks}{deep},"), 1);
    // Of a thread as small as that little may be held for each level.
    let small = std::thread::Builder::new().stack_size(1 << 20);
    let read = small.spawn(move || {
        let path: Path = "/inventory/storage/disks/1".parse().unwrap();
        let wanted = Wanted { paths: std::slice::from_ref(&path), ..Wanted::all(Depth::Gaps) };
        Report::wanted_from_json(text.as_bytes(), &wanted).unwrap_err().to_string()
    });
    let said = read.unwrap().join().unwrap();
    assert!(said.contains("recursion limit"), "{said}");
}

/// As programs lay JSON out that change reports: what is cut by lines must not be cut wrongly.
#[rstest]
fn a_report_may_be_laid_out_otherwise(#[values("", " ", "  ")] indent: &str) {
    let lay_out = |json: &Value| match indent {
        "" => serde_json::to_vec(json).unwrap(),
        _ => {
            let mut text = Vec::new();
            let formatter = PrettyFormatter::with_indent(indent.as_bytes());
            json.serialize(&mut Serializer::with_formatter(&mut text, formatter)).unwrap();
            text.push(b'\n');
            text
        }
    };
    let report = look(recorded("big-iron").path());
    let other = lay_out(&serde_json::from_slice(&written(&report)).unwrap());
    assert!(Report::from_json(&other).unwrap() == report);
    for path in ["memory.modules.0.serial", "storage.disks.sda", "os.kernel_release"] {
        let path: Path = path.parse().unwrap();
        let wanted = Wanted { paths: std::slice::from_ref(&path), ..Wanted::all(Depth::Whole) };
        let read = Report::wanted_from_json(&other, &wanted).unwrap();
        assert_eq!(named(&read, &path), named(&report, &path), "{path}");
    }
    let cpu = |text: &[u8]| of_sections(text, &["cpu"], Depth::Whole).unwrap();
    assert!(cpu(&other) == cpu(&written(&report)));
}

/// A report that is laid out as it is printed and says other things at the places where it is cut.
#[rstest]
#[case::a_member_of_a_newer_form("\n \"notes\": ", "\n \"more\": {\n  \"a\": 1\n },\n \"notes\": ")]
#[case::a_member_twice("\n \"notes\": ", "\n \"notes\": [],\n \"notes\": ")]
#[case::a_text_like_a_line(
    "\"elapsed_ms\": ",
    "\"tool\": \"\\n \\\"inventory\\\": {\", \"elapsed_ms\": "
)]
#[case::a_section_of_another_name("\n  \"cpu\": ", "\n  \"c\\u0070u\": ")]
fn what_stands_where_it_is_cut_changes_nothing(#[case] at: &str, #[case] put: &str) {
    let text = String::from_utf8(written(&look(recorded("big-iron").path()))).unwrap();
    assert!(text.contains(at), "{at}");
    let changed = text.replace(at, put);
    // What a reader says that knows nothing of lines.
    let in_a_line = serde_json::from_str::<Value>(&changed).unwrap();
    let twice = put.matches("\"notes\"").count() > 1 || put.contains("\"tool\"");
    let (by_lines, whole) = (
        Report::from_json(changed.as_bytes()),
        Report::from_json(&serde_json::to_vec(&in_a_line).unwrap()),
    );
    match twice {
        // A tree holds one of two members: here the text itself must be refused.
        true => assert!(by_lines.is_err(), "{by_lines:?}"),
        false => assert!(by_lines.unwrap() == whole.unwrap()),
    }
}
