//! Open formats, held against a report in which every field of the model has a value, and against what others wrote
//! to read them: schemas, a parser, a database.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    dead_code,
    reason = "a test stops at the first thing that is not as it should be"
)]

#[path = "support/made.rs"]
mod made;
mod support;

use std::{
    collections::{BTreeMap, BTreeSet},
    io::{self, Write},
    sync::{Arc, Mutex},
};

use proptest::prelude::*;
use rstest::rstest;
use serde_json::{Value, json};
use support::{At, filled, hide, set};
use tectum_report::{
    Report,
    declare::Parts,
    export::{Exported, csv, cyclonedx, json_lines, json_patch, open_metrics, tables},
    fact::{Gap, Why},
    finding::{Judgement, Limits},
    json::write::{Form, Values},
    query::find,
    walk::Met,
};

fn judged(report: &Report) -> Judgement {
    Judgement::of(report, &Limits::default())
}

/// A report of some host as a form tells it.
fn exported(report: &Report, write: impl FnOnce(Exported<'_>)) {
    let judgement = judged(report);
    write(Exported { host: "tern", report, judgement: &judgement });
}

/// Every value of a report, by its pointer.
fn values(report: &Report) -> BTreeMap<String, Value> {
    let mut all = BTreeMap::new();
    report.walk(&mut |at, _, met| {
        if let Met::Leaf(fact) = met
            && let Some(json) = fact.json()
        {
            all.insert(at.as_str().to_owned(), json);
        }
    });
    all
}

fn lines(report: &Report) -> Vec<Value> {
    let mut text = Vec::new();
    exported(report, |one| json_lines::write(one, &mut text).unwrap());
    let text = String::from_utf8(text).unwrap();
    text.lines().map(|line| serde_json::from_str(line).unwrap()).collect()
}

#[test]
fn json_lines_hold_every_value_and_why_others_are_missing() {
    let (mut report, leaves, _) = filled();
    hide(&mut report, &leaves[40], Gap::new(Why::Permission));
    let all = lines(&report);
    let of_findings = |line: &&Value| line["kind"] == "finding";
    let told: usize = all
        .iter()
        .filter(|line| !of_findings(line))
        .map(|line| line["fields"].as_object().unwrap().len())
        .sum();
    assert_eq!(told, values(&report).len());
    let missing: Vec<&Value> = all.iter().filter_map(|line| line.get("missing")).collect();
    assert_eq!(missing.len(), 1);
    assert_eq!(missing[0].as_object().unwrap().values().collect::<Vec<_>>(), ["permission"]);
    assert_eq!(all.iter().filter(of_findings).count(), judged(&report).findings.len());
}

/// What a line calls a part is what other commands take for it.
#[test]
fn the_path_of_a_line_leads_to_its_part() {
    let (report, _, _) = filled();
    let all = values(&report);
    for line in lines(&report).iter().filter(|line| line["kind"] != "finding") {
        for (name, value) in line["fields"].as_object().unwrap() {
            let path = format!("{}.{name}", line["path"].as_str().unwrap());
            // What lies in a record of the part is named with a point between.
            let Ok(parsed) = path.parse() else { panic!("{path}") };
            let mut hits = find(&report, &parsed);
            // A path without a root means what a part is and how it is doing.
            hits.retain(|hit| path.starts_with("readings.") == hit.at.starts_with("/readings/"));
            if let [hit] = hits.as_slice() {
                assert_eq!(&all[&hit.at], value, "{path}");
            } else {
                assert!(name.contains('_') && hits.is_empty(), "{path}: {} hits", hits.len());
            }
        }
    }
}

/// What tables were written to.
#[derive(Clone, Default)]
struct Files(Arc<Mutex<BTreeMap<&'static str, Vec<u8>>>>);

struct To(Files, &'static str);

impl Write for To {
    fn write(&mut self, bytes: &[u8]) -> io::Result<usize> {
        self.0.0.lock().unwrap().entry(self.1).or_default().extend_from_slice(bytes);
        Ok(bytes.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }
}

fn sheets(reports: &[&Report]) -> BTreeMap<&'static str, Vec<Vec<String>>> {
    let files = Files::default();
    let own = files.clone();
    let mut all = csv::Tables::all(move |name| Ok(Box::new(To(own.clone(), name)))).unwrap();
    for report in reports {
        exported(report, |one| all.add(one).unwrap());
    }
    all.finish().unwrap();
    let files = files.0.lock().unwrap();
    let read = |bytes: &Vec<u8>| {
        let mut reader = ::csv::ReaderBuilder::new().has_headers(false).from_reader(&bytes[..]);
        let rows = reader.records().map(|row| row.unwrap().iter().map(str::to_owned).collect());
        rows.collect::<Vec<Vec<String>>>()
    };
    files.iter().map(|(name, bytes)| (*name, read(bytes))).collect()
}

#[test]
fn tables_hold_every_value_in_its_column() {
    let (report, _, _) = filled();
    let sheets = sheets(&[&report, &report]);
    let mut cells = 0;
    for table in tables().iter().filter(|table| !table.columns.is_empty()) {
        let rows = &sheets[table.name.as_str()];
        let head: Vec<&str> = rows[0].iter().map(String::as_str).collect();
        assert_eq!(head[..4], csv::FIRST);
        let own: Vec<&str> = table.columns.iter().map(|column| &*column.name).collect();
        assert_eq!(head[4..], own);
        assert_eq!(rows.len() % 2, 1, "two reports have as many rows each: {}", table.name);
        let full = rows[1..].iter().map(|row| row[4..].iter().filter(|it| !it.is_empty()).count());
        cells += full.sum::<usize>();
    }
    let known = values(&report);
    let empty = known.values().filter(|it| *it == "" || *it == &json!([])).count();
    assert_eq!(cells, 2 * (known.len() - empty));
}

#[test]
fn one_table_alone_has_its_header_though_it_has_no_row() {
    let report = made::empty();
    let files = Files::default();
    let mut table =
        csv::Tables::only(csv::name_of("storage.disks").unwrap(), To(files.clone(), "it")).unwrap();
    exported(&report, |one| table.add(one).unwrap());
    table.finish().unwrap();
    let text = String::from_utf8(files.0.lock().unwrap()["it"].clone()).unwrap();
    assert!(text.starts_with("host,taken_at,part,identity,name,") && text.lines().count() == 1);
}

fn metrics(reports: &[&Report]) -> String {
    let mut all = open_metrics::Text::default();
    for report in reports {
        exported(report, |one| all.add(one));
    }
    let mut text = Vec::new();
    all.finish(&mut text).unwrap();
    String::from_utf8(text).unwrap()
}

#[test]
fn metrics_are_valid_and_stand_once() {
    let (report, _, _) = filled();
    let text = metrics(&[&report, &report]);
    openmetrics_parser::openmetrics::parse_openmetrics(&text)
        .unwrap_or_else(|error| panic!("{error:?}"));
    let samples: Vec<&str> = text.lines().filter(|line| !line.starts_with('#')).collect();
    let series: BTreeSet<&str> =
        samples.iter().map(|line| line.rsplit_once(' ').unwrap().0).collect();
    assert_eq!(series.len(), samples.len());
    // Every metric that is documented is given by a report that has every field.
    let families: BTreeSet<&str> = text
        .lines()
        .filter_map(|line| line.strip_prefix("# TYPE "))
        .map(|line| line.split(' ').next().unwrap())
        .collect();
    for (name, _) in open_metrics::metrics() {
        let family = name.strip_suffix("_total").unwrap_or(&name);
        // What a sensor measures is named by its kind.
        if name != "tectum_sensors_channels_value" {
            assert!(families.contains(family), "{name}");
        }
    }
}

/// Whoever watches a number is not told one that nobody knows: none is not unknown, and some are not all.
#[rstest]
fn parts_are_counted_where_all_of_them_are_known() {
    let count = |report: &Report, kind: &str| {
        let label = format!("kind=\"{kind}\"");
        let text = metrics(&[report]);
        let line =
            text.lines().find(|line| line.starts_with("tectum_parts") && line.contains(&label));
        line.map(|line| line.rsplit_once(' ').unwrap().1.to_owned())
    };
    assert_eq!(count(&made::empty(), "storage_disks"), None);
    let (mut report, _, _) = filled();
    let disks = report.inventory.storage.as_ref().unwrap().disks.len().to_string();
    assert_eq!(count(&report, "storage_disks"), Some(disks));
    let partitions = count(&report, "storage_disks_partitions").unwrap();
    assert!(partitions.parse::<usize>().unwrap() > 0);
    // Another disk, whose partitions are missing for a reason.
    let with_another = |why| {
        let mut other = report.clone();
        let disks = &mut other.inventory.storage.as_mut().unwrap().disks;
        let mut all = disks.to_vec();
        let mut another = all[0].clone();
        another.partitions = Parts::missing(Gap::new(why));
        all.push(another);
        *disks = Parts::known(all, made::evidence());
        count(&other, "storage_disks_partitions")
    };
    assert_eq!(with_another(Why::NotApplicable), Some(partitions));
    assert_eq!(with_another(Why::Timeout), None);
    let disks = &mut report.inventory.storage.as_mut().unwrap().disks;
    *disks = Parts::known(Vec::new(), made::evidence());
    assert_eq!(count(&report, "storage_disks").as_deref(), Some("0"));
    let disks = &mut report.inventory.storage.as_mut().unwrap().disks;
    *disks = std::mem::take(disks).in_part(Some(Gap::new(Why::TooMany)));
    assert_eq!(count(&report, "storage_disks"), None);
}

#[rstest]
#[case("a\"b\\c", r#"host="a\"b\\c""#)]
#[case("two\nlines", r#"host="two\nlines""#)]
fn a_name_breaks_no_metric(#[case] host: &str, #[case] label: &str) {
    let report = made::empty();
    let judgement = judged(&report);
    let mut all = open_metrics::Text::default();
    all.add(Exported { host, report: &report, judgement: &judgement });
    let mut text = Vec::new();
    all.finish(&mut text).unwrap();
    let text = String::from_utf8(text).unwrap();
    assert!(text.contains(label), "{text}");
    openmetrics_parser::openmetrics::parse_openmetrics(&text).unwrap();
}

/// The schemas as CycloneDX publishes them (Apache License 2.0).
fn bill_validator() -> jsonschema::Validator {
    let read = |text: &str| serde_json::from_str::<Value>(text).unwrap();
    let bill = read(include_str!("schemas/bom-1.6.schema.json"));
    let base = "http://cyclonedx.org/schema/";
    let registry = jsonschema::Registry::new()
        .add(
            format!("{base}spdx.SNAPSHOT.schema.json"),
            read(include_str!("schemas/spdx.SNAPSHOT.schema.json")),
        )
        .unwrap()
        .add(
            format!("{base}jsf-0.82.SNAPSHOT.schema.json"),
            read(include_str!("schemas/jsf-0.82.SNAPSHOT.schema.json")),
        )
        .unwrap()
        .prepare()
        .unwrap();
    jsonschema::options().with_registry(&registry).build(&bill).unwrap()
}

#[test]
fn a_bill_of_materials_is_valid_and_its_references_lead_somewhere() {
    let validator = bill_validator();
    let (full, _, _) = filled();
    for report in [full, made::empty()] {
        exported(&report, |one| {
            let bill = cyclonedx::document(one, "tectum 0.1.0");
            let wrong: Vec<String> = validator
                .iter_errors(&bill)
                .map(|it| format!("{}: {it}", it.instance_path()))
                .collect();
            assert!(wrong.is_empty(), "{wrong:#?}");
            let mut names = vec!["machine"];
            for component in bill["components"].as_array().unwrap() {
                names.push(component["bom-ref"].as_str().unwrap());
            }
            let own: BTreeSet<&str> = names.iter().copied().collect();
            assert_eq!(own.len(), names.len());
            for dependency in bill["dependencies"].as_array().unwrap() {
                let on = dependency["dependsOn"].as_array().unwrap();
                for name in on.iter().chain([&dependency["ref"]]) {
                    assert!(own.contains(name.as_str().unwrap()), "{name}");
                }
            }
        });
    }
}

/// Whoever reads a bill of materials sees whether there may be parts that nobody could see.
#[test]
fn a_bill_of_materials_says_whether_it_is_whole() {
    let incomplete = |report: &Report| {
        let mut said = Value::Null;
        exported(report, |one| {
            said = cyclonedx::document(one, "tectum 0.1.0")["compositions"].clone();
        });
        said
    };
    let says = json!([{ "aggregate": "incomplete", "assemblies": ["machine"] }]);
    assert_eq!(incomplete(&made::empty()), says, "no list is known");
    let (mut full, _, _) = filled();
    assert_eq!(incomplete(&full), Value::Null);
    let memory = (full.inventory.memory.take(), full.readings.memory.take());
    assert_eq!(incomplete(&full), says, "a section is not there");
    (full.inventory.memory, full.readings.memory) = memory;
    let disks = &mut full.inventory.storage.as_mut().unwrap().disks;
    *disks = std::mem::take(disks).in_part(Some(Gap::new(Why::TooMany)));
    assert_eq!(incomplete(&full), says, "not all disks are known");
}

#[cfg(feature = "sqlite")]
mod database {
    use rusqlite::Connection;
    use tectum_report::export::sqlite::Database;

    use super::*;

    fn database(reports: &[&Report]) -> (tempfile::TempDir, Connection) {
        let mut database = Database::made_in(tempfile::tempdir().unwrap()).unwrap();
        for report in reports {
            exported(report, |one| database.add(one).unwrap());
        }
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("it.sqlite");
        database.finish(&mut std::fs::File::create(&path).unwrap()).unwrap();
        let connection = Connection::open(path).unwrap();
        (folder, connection)
    }

    fn count(connection: &Connection, query: &str) -> i64 {
        connection
            .query_row(query, [], |row| row.get(0))
            .unwrap_or_else(|error| panic!("{query}: {error}"))
    }

    #[test]
    fn a_database_holds_every_value() {
        let (report, leaves, _) = filled();
        let (_folder, connection) = database(&[&report, &report]);
        assert_eq!(count(&connection, "SELECT count(*) FROM pragma_foreign_key_check"), 0);
        let mut known = 0;
        for table in tables() {
            for column in &table.columns {
                let query = format!("SELECT count(\"{}\") FROM \"{}\"", column.name, table.name);
                known += count(&connection, &query);
            }
            let query = "SELECT strict FROM pragma_table_list WHERE schema = 'main' AND name = ";
            assert_eq!(count(&connection, &format!("{query}'{}'", table.name)), 1);
        }
        let known = usize::try_from(known).unwrap();
        let missing = count(&connection, "SELECT count(*) FROM missing WHERE why = 'too-many'");
        assert_eq!(missing, 0);
        assert_eq!(known, 2 * values(&report).len());
        assert!(known >= 2 * leaves.len());
    }

    #[test]
    fn its_views_tell_of_the_last_look() {
        let (mut report, leaves, _) = filled();
        let before = report.clone();
        report.taken.at = "2027-01-01T00:00:00Z".parse().unwrap();
        let serial =
            leaves.iter().position(|at| at.root == "machine" && at.name() == "serial").unwrap();
        set(&mut report, &leaves[serial], 7);
        let (_folder, connection) = database(&[&report, &before]);
        assert_eq!(count(&connection, "SELECT count(*) FROM machines"), 1);
        let serial: String =
            connection.query_row("SELECT serial FROM machines", [], |row| row.get(0)).unwrap();
        assert_eq!(json!(serial), values(&report)["/machine/serial"]);
        assert!(count(&connection, "SELECT count(*) FROM serials WHERE serial = ''") == 0);
        assert!(count(&connection, "SELECT count(*) FROM serials") > 10);
    }
}

/// What is missing may be told as `null`.
fn remove_nulls(value: &mut Value) {
    match value {
        Value::Object(members) => {
            members.retain(|_, value| !value.is_null());
            members.values_mut().for_each(remove_nulls);
        }
        Value::Array(items) => items.iter_mut().for_each(remove_nulls),
        _ => {}
    }
}

/// A report of which some values were changed, hidden or taken away.
fn varied(changes: &[(usize, u8)], leaves: &[At], report: &Report) -> Report {
    let mut report = report.clone();
    for (at, what) in changes {
        let at = &leaves[at % leaves.len()];
        match what % 4 {
            0 => hide(&mut report, at, Gap::new(Why::Blank)),
            1 => hide(&mut report, at, Gap::new(Why::NotProvided)),
            _ => set(&mut report, at, u64::from(*what)),
        }
    }
    // A section that was not surveyed.
    if changes.len() == 5 {
        report.inventory.storage = None;
    }
    report
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Of whichever form the report is to which it is applied.
    #[test]
    fn a_patch_makes_the_one_inventory_of_the_other(
        one in prop::collection::vec((any::<usize>(), any::<u8>()), 0..6),
        other in prop::collection::vec((any::<usize>(), any::<u8>()), 0..6),
        expanded: bool,
    ) {
        let (report, leaves, _) = filled();
        let (before, after) = (varied(&one, &leaves, &report), varied(&other, &leaves, &report));
        let patch = json_patch::of(&before, &after).unwrap();
        let form = if expanded { Form::Expanded } else { Form::Compact };
        let mut text = Vec::new();
        before.write(&mut text, form).unwrap();
        let mut patched: Value = serde_json::from_slice(&text).unwrap();
        let mut patched = patched["inventory"].take();
        let written: ::json_patch::Patch =
            serde_json::from_value(serde_json::to_value(&patch).unwrap()).unwrap();
        ::json_patch::patch(&mut patched, &written).unwrap();
        remove_nulls(&mut patched);
        prop_assert_eq!(patched, serde_json::to_value(Values(&after.inventory)).unwrap());
    }
}
