//! OpenMetrics 1.0 text for monitoring: readings, counts and findings.
//!
//! A metric is called `tectum_`, the table's name without `readings_`, the field's name without its unit, and the
//! base unit (`tectum_storage_disks_temperature_celsius`); what only rises is a counter and ends in `_total`. Every
//! sample has the label `host`; that of a part has the fields that say which part it is, and of the part it is a
//! reading of those that make it itself, so that a disk that was changed is another series. Only gauges and counters
//! are used, which older readers of metrics understand too.

use std::{
    collections::{BTreeMap, BTreeSet, HashMap},
    io::{self, Write},
};

use super::{
    Column, Exported, Table,
    part::{Part, parts},
    tables,
};
use crate::{
    declare::{AnyFact, Record, fact_at, fact_named},
    finding::Severity,
    leaf::{JsonForm, LeafShape, Scale},
    model::SensorKind,
};

/// A family of samples.
struct Family {
    name: String,
    kind: &'static str,
    unit: &'static str,
    help: String,
    /// The names of labels that samples have, in the order in which they were met.
    names: Vec<&'static str>,
    samples: Vec<(Labels, String)>,
}

/// Labels with their values.
type Labels = Vec<(&'static str, String)>;

/// A text that reports are added to: their families, in the order in which they were met first.
#[derive(Default)]
pub struct Text {
    all: Vec<Family>,
    by_name: HashMap<String, usize>,
    seen: BTreeSet<(usize, String)>,
}

impl Text {
    /// Adds a report.
    pub fn add(&mut self, exported: Exported<'_>) {
        machine(&exported, self);
        findings(&exported, self);
        let parts = parts(exported.report);
        counts(&exported, &parts, self);
        let whose = Whose::of(&parts);
        for part in &parts {
            values(&exported, part, &whose, self);
        }
    }

    /// Writes it.
    ///
    /// # Errors
    /// What the writer says.
    pub fn finish(self, to: &mut dyn Write) -> io::Result<()> {
        for Family { name, kind, unit, help, names, samples } in &self.all {
            writeln!(to, "# TYPE {name} {kind}")?;
            if !unit.is_empty() {
                writeln!(to, "# UNIT {name} {unit}")?;
            }
            writeln!(to, "# HELP {name} {}", escaped(help))?;
            let end = if *kind == "counter" { "_total" } else { "" };
            for (labels, value) in samples {
                // All samples of a family have the same labels: one that says nothing is empty.
                let all = names.iter().map(|name| {
                    let own = labels.iter().find(|(own, _)| own == name);
                    (*name, own.map_or("", |(_, text)| text.as_str()))
                });
                writeln!(to, "{name}{end}{{{}}} {value}", written(all))?;
            }
        }
        to.write_all(b"# EOF\n")
    }

    fn sample(
        &mut self,
        name: &str,
        kind: &'static str,
        unit: &'static str,
        help: &str,
        labels: &Labels,
        value: String,
    ) {
        let index = *self.by_name.entry(name.to_owned()).or_insert_with(|| {
            let (name, help) = (name.to_owned(), help.to_owned());
            let (names, samples) = (Vec::new(), Vec::new());
            self.all.push(Family { name, kind, unit, help, names, samples });
            self.all.len() - 1
        });
        let mut labels = labels.clone();
        // Two parts that nothing tells apart are two series all the same.
        let mut row = 1;
        while !self.seen.insert((index, written(texts(&labels)))) {
            row += 1;
            labels.retain(|(name, _)| *name != "row");
            labels.push(("row", row.to_string()));
        }
        if let Some(family) = self.all.get_mut(index) {
            for (name, _) in &labels {
                if !family.names.contains(name) {
                    family.names.push(name);
                }
            }
            family.samples.push((labels, value));
        }
    }
}

/// Which machine it is, and when it was looked at.
fn machine(one: &Exported<'_>, families: &mut Text) {
    let host = || vec![("host", one.host.to_owned())];
    let mut labels = host();
    let machine: &dyn Record = &one.report.machine;
    for (index, field) in machine.shape().fields.iter().enumerate() {
        if let Some(text) = fact_at(machine, index).and_then(AnyFact::text) {
            labels.push((field.name, text));
        }
    }
    let platform = one.report.inventory.platform.as_ref();
    for (name, fact) in platform
        .iter()
        .flat_map(|it| [("manufacturer", &it.system.manufacturer), ("product", &it.system.product)])
    {
        labels.extend(fact.value().map(|text| (name, text.to_string())));
    }
    families.sample(
        "tectum_machine",
        "gauge",
        "",
        "Always 1: its labels say which machine it is.",
        &labels,
        "1".to_owned(),
    );
    let taken = &one.report.taken;
    let at = decimal(taken.at.as_millisecond().into(), 1, 1000);
    let help = "When the machine was looked at.";
    families.sample("tectum_taken_timestamp_seconds", "gauge", "seconds", help, &host(), at);
    let took = decimal(taken.elapsed_ms.into(), 1, 1000);
    let help = "How long the look took.";
    families.sample("tectum_survey_duration_seconds", "gauge", "seconds", help, &host(), took);
}

fn findings(one: &Exported<'_>, families: &mut Text) {
    for severity in Severity::BY_RANK {
        let labels = vec![("host", one.host.to_owned()), ("severity", severity.code().to_owned())];
        let number = one.judgement.count(severity).to_string();
        let help = "Findings that nobody accepted.";
        families.sample("tectum_findings", "gauge", "", help, &labels, number);
    }
    let mut by_rule: BTreeMap<(&str, Severity), usize> = BTreeMap::new();
    for finding in one.judgement.findings.iter().filter(|it| it.accepted.is_none()) {
        *by_rule.entry((finding.by.id(), finding.severity)).or_default() += 1;
    }
    for ((rule, severity), number) in by_rule {
        let labels = vec![
            ("host", one.host.to_owned()),
            ("rule", rule.to_owned()),
            ("severity", severity.code().to_owned()),
        ];
        let help = "Findings of a rule that nobody accepted.";
        families.sample("tectum_findings_of_rule", "gauge", "", help, &labels, number.to_string());
    }
}

/// How many parts of each kind there are, and how many values are missing.
fn counts(one: &Exported<'_>, parts: &[Part<'_>], families: &mut Text) {
    // What is not known whole is no number.
    let mut of: BTreeMap<usize, Option<usize>> = BTreeMap::new();
    let mut missing: BTreeMap<&str, usize> = BTreeMap::new();
    for part in parts {
        for (table, list) in part.lists().filter(|_| !part.table().readings) {
            let gap = list.missing().or(list.hidden_part());
            match gap {
                Some(gap) if gap.why.says_there_is_none() => {}
                Some(_) => drop(of.insert(table, None)),
                None => {
                    let number = of.entry(table).or_insert(Some(0));
                    *number = number.map(|number| number + list.len());
                }
            }
        }
        for (_, gap) in part.gaps() {
            *missing.entry(gap.why.code()).or_default() += 1;
        }
    }
    for (table, number) in of.into_iter().filter_map(|(table, number)| Some((table, number?))) {
        let kind = tables().get(table).map(|table| table.name.clone()).unwrap_or_default();
        let labels = vec![("host", one.host.to_owned()), ("kind", kind)];
        let help = "Parts of a kind, where all are known.";
        families.sample("tectum_parts", "gauge", "", help, &labels, number.to_string());
    }
    for (why, number) in missing {
        let labels = vec![("host", one.host.to_owned()), ("why", why.to_owned())];
        let help = "Values that are missing, by reason.";
        families.sample("tectum_missing_values", "gauge", "", help, &labels, number.to_string());
    }
}

/// The numbers of a part of the readings, or of a section of the inventory.
fn values(one: &Exported<'_>, part: &Part<'_>, whose: &Whose<'_>, families: &mut Text) {
    let table = part.table();
    if table.name == "machine" || (table.listed && !table.readings) {
        return;
    }
    let mut labels: Option<Labels> = None;
    for (column, fact) in part.values() {
        let Some(json) = fact.and_then(AnyFact::json) else { continue };
        let number = match json {
            serde_json::Value::Bool(yes) => i128::from(yes),
            serde_json::Value::Number(number) => match number.as_i128() {
                Some(number) => number,
                None => continue,
            },
            _ => continue,
        };
        let labels = labels.get_or_insert_with(|| labels_of(one.host, part, whose));
        // Which one it is of several is no measure of it.
        if labels.iter().any(|(name, _)| *name == column.name) {
            continue;
        }
        let sensor = column.leaf.unit.is_some_and(|unit| unit.scale == Scale::BySensorKind);
        let (name, (unit, times, of)) = match sensor {
            false => (column.short.as_str(), base(column.leaf)),
            true => {
                let code = fact_named(part.record, "kind").and_then(AnyFact::text);
                let Some(kind) = code.as_deref().and_then(SensorKind::from_code) else { continue };
                (kind.code(), kind.base())
            }
        };
        families.sample(
            &metric(table, name, unit),
            if column.counts { "counter" } else { "gauge" },
            unit,
            &if sensor { format!("What sensors of the kind {name} give.") } else { help(column) },
            labels,
            decimal(number, times, of),
        );
    }
}

/// A number's base unit, and how many of it one is.
fn base(leaf: LeafShape) -> (&'static str, u64, u64) {
    match leaf.form {
        JsonForm::Boolean => ("", 1, 1),
        _ => leaf.unit.map_or(("", 1, 1), |unit| unit.base),
    }
}

/// A metric's name, which ends in its unit.
fn metric(table: &Table, name: &str, unit: &str) -> String {
    let table = table.name.strip_prefix("readings_").unwrap_or(&table.name);
    let own = name.trim_end_matches("_total");
    match unit {
        "" => format!("tectum_{table}_{own}"),
        unit if own == unit => format!("tectum_{table}_{unit}"),
        unit => format!("tectum_{table}_{own}_{unit}"),
    }
}

/// What says which part it is.
fn labels_of(host: &str, part: &Part<'_>, whose: &Whose<'_>) -> Labels {
    let mut labels = vec![("host", host.to_owned())];
    let shape = part.record.shape();
    if !part.table().listed {
        return labels;
    }
    let mut add = |name: &'static str, text: Option<String>| {
        if let Some(text) = text.filter(|_| !labels.iter().any(|(own, _)| *own == name)) {
            labels.push((name, text));
        }
    };
    let own = shape.reading_of.iter().flat_map(|of| of.steps).map(|step| &step.own);
    for field in own.chain(shape.place).chain(shape.names) {
        let text = fact_at(part.record, *field).and_then(AnyFact::text);
        add(shape.field_name(*field), text);
    }
    if let Some(of) = whose.part(part.record) {
        for (name, text) in of.identity() {
            add(name, Some(text));
        }
    }
    for (name, text) in part.identity() {
        add(name, Some(text));
    }
    labels
}

/// The parts of the inventory, by what readings name them by.
struct Whose<'a> {
    parts: &'a [Part<'a>],
    /// By the list, the part that holds it, and the key.
    by_key: HashMap<(&'a str, Option<usize>, String), usize>,
}

impl<'a> Whose<'a> {
    fn of(parts: &'a [Part<'a>]) -> Self {
        // The keys that readings name parts by, of each list.
        let mut keys: HashMap<String, &'static str> = HashMap::new();
        for shape in tables().iter().filter_map(|table| table.shape.reading_of) {
            let mut way = String::new();
            for step in shape.steps {
                for name in step.list {
                    way.push_str(if way.is_empty() { "" } else { "." });
                    way.push_str(name);
                }
                keys.insert(way.clone(), step.key);
            }
        }
        let mut by_key = HashMap::new();
        for (index, part) in parts.iter().enumerate() {
            let path = part.table().path.as_str();
            let Some(key) = keys.get(path) else { continue };
            let Some(text) = fact_named(part.record, key).and_then(AnyFact::text) else { continue };
            // A section is no part, and holds the outermost lists.
            let within =
                part.within.filter(|it| parts.get(*it).is_some_and(|it| it.table().listed));
            by_key.insert((path, within, text), index);
        }
        Self { parts, by_key }
    }

    /// The part that something is a reading of.
    fn part(&self, reading: &dyn Record) -> Option<&'a Part<'a>> {
        let mut found = None;
        let mut way = String::new();
        for step in reading.shape().reading_of?.steps {
            for name in step.list {
                way.push_str(if way.is_empty() { "" } else { "." });
                way.push_str(name);
            }
            let text = fact_at(reading, step.own)?.text()?;
            found = Some(*self.by_key.get(&(way.as_str(), found, text))?);
        }
        self.parts.get(found?)
    }
}

fn texts(labels: &Labels) -> impl Iterator<Item = (&str, &str)> {
    labels.iter().map(|(name, text)| (*name, text.as_str()))
}

fn written<'a>(labels: impl Iterator<Item = (&'a str, &'a str)>) -> String {
    let own = labels.map(|(name, text)| format!("{name}=\"{}\"", escaped(text)));
    own.collect::<Vec<_>>().join(",")
}

/// A text as the standard escapes it; what steers a terminal is shown as its number.
fn escaped(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for character in text.chars() {
        match character {
            '\\' => out.push_str("\\\\"),
            '"' => out.push_str("\\\""),
            '\n' => out.push_str("\\n"),
            // A stroke of its own would be taken for an escape.
            harmful if crate::json::print::is_harmful(harmful) => {
                out.push_str(&format!("<U+{:04X}>", u32::from(harmful)));
            }
            plain => out.push(plain),
        }
    }
    out
}

/// A number times a fraction, exactly: the fractions of units are decimal ones.
fn decimal(number: i128, times: u64, of: u64) -> String {
    let of = i128::from(of.max(1));
    let whole = number * i128::from(times);
    let (sign, whole) = if whole < 0 { ("-", -whole) } else { ("", whole) };
    let mut text = format!("{sign}{}", whole / of);
    let mut rest = whole % of;
    if rest > 0 {
        text.push('.');
        // No unit has more digits behind the point.
        for _ in 0..12 {
            rest *= 10;
            text.push_str(&(rest / of).to_string());
            rest %= of;
            if rest == 0 {
                break;
            }
        }
    }
    text
}

/// What a column means, without the unit that the report counts in: a metric has the base unit.
fn help(column: &Column) -> String {
    let mut text = column.meaning_in_a_line();
    let Some(unit) = column.leaf.unit else { return text };
    for words in [unit.name, "MHz", "revolutions a minute", "megabits a second"] {
        for before in [", in ", " in "] {
            text = text.replace(&format!("{before}{words}"), "");
        }
    }
    text
}

impl Column {
    /// Whether it is among what says which part a row is, and so a label.
    fn tells_which(&self, table: &Table) -> bool {
        let shape = table.shape;
        let own = shape.reading_of.iter().flat_map(|of| of.steps).map(|step| step.own);
        let own = own.chain(shape.place.iter().copied()).chain(shape.names.iter().copied());
        table.listed && own.map(|field| shape.field_name(field)).any(|name| name == self.name)
    }

    /// The name of its metric in a table, its unit and what it means; nothing where it has none.
    pub(super) fn metric(&self, table: &Table) -> Option<String> {
        let number =
            matches!(self.leaf.form, JsonForm::Unsigned | JsonForm::Signed | JsonForm::Boolean);
        let measured = (!table.listed || table.readings) && !self.tells_which(table);
        (number && measured).then(|| metric(table, &self.short, base(self.leaf).0))
    }
}

/// The names of all metrics that fields give, with what they mean; those of a sensor's value follow from its kind.
pub fn metrics() -> Vec<(String, String)> {
    let own = tables().iter().filter(|table| table.name != "machine").flat_map(|table| {
        table.columns.iter().filter_map(|column| {
            let end = if column.counts { "_total" } else { "" };
            Some((format!("{}{end}", column.metric(table)?), help(column)))
        })
    });
    own.collect()
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(38_850, 1, 1000, "38.85")]
    #[case(-500, 1, 1000, "-0.5")]
    #[case(9, 36, 10_000, "0.0324")]
    #[case(7, 1_000_000, 1, "7000000")]
    #[case(1, 1, 1_000_000_000, "0.000000001")]
    #[case(0, 1, 100, "0")]
    fn numbers_are_exact(
        #[case] number: i128,
        #[case] times: u64,
        #[case] of: u64,
        #[case] text: &str,
    ) {
        assert_eq!(decimal(number, times, of), text);
    }

    #[test]
    fn a_label_holds_any_text() {
        let labels = vec![("host", "a\"b\\c\nd\u{1b}".to_owned())];
        assert_eq!(written(texts(&labels)), "host=\"a\\\"b\\\\c\\nd<U+001B>\"");
    }

    /// Two fields that gave one metric would be told as one thing.
    #[test]
    fn every_metric_has_one_meaning() {
        let mut names: Vec<String> = metrics().into_iter().map(|(name, _)| name).collect();
        let all = names.len();
        names.sort();
        names.dedup();
        assert_eq!(names.len(), all);
    }
}
