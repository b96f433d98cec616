//! A file of expectations written from a machine as it is: the order as delivered, to hold another against.

use std::{collections::BTreeSet, fmt::Write};

use serde_json::Value;

use crate::{
    declare::AnyFact,
    fact::Why,
    query::{HitValue, Path, find},
    report::Report,
};

/// Values that stand for themselves.
const VALUES: [&str; 15] = [
    "platform.system.manufacturer",
    "platform.system.product",
    "cpu.model_name",
    "cpu.packages",
    "cpu.cores",
    "cpu.threads",
    "memory.installed_bytes",
    "storage.total_bytes",
    "firmware.kind",
    "firmware.version",
    "firmware.secure_boot",
    "os.id",
    "os.version_id",
    "os.kernel_release",
    "os.architecture",
];

/// Parts of which there should be as many, and those of their values that should be the same.
const PARTS: [(&str, &[&str]); 6] = [
    ("memory.modules", &["size_bytes", "kind", "speed_mts", "part_number"]),
    ("storage.disks", &["model", "size_bytes", "firmware_revision"]),
    ("gpu.devices", &["vendor_id", "device_id"]),
    ("network.interfaces[physical=yes]", &["driver"]),
    ("platform.power_supplies", &["max_watts", "part_number"]),
    ("filesystems.fstab_entries", &["state"]),
];

/// What makes this machine itself and no other.
const IDENTITIES: [&str; 6] = [
    "platform.system.serial",
    "platform.system.uuid",
    "cpu.sockets.*.serial",
    "memory.modules.*.serial",
    "storage.disks.*.serial",
    "network.interfaces[physical=yes].mac",
];

/// A file that expects of a machine what this one is. What makes it itself is left out unless it is asked
/// for.
pub fn draft(report: &Report, identities: bool) -> String {
    let mut text = String::from(
        "# What is expected of a machine, written from one as it is. Strike out what may differ.\n",
    );
    for path in VALUES {
        values(report, path, &mut text);
    }
    for (parts, fields) in PARTS {
        count(report, parts, &mut text);
        for field in fields {
            let between = if parts.ends_with(']') { "" } else { ".*" };
            values(report, &format!("{parts}{between}.{field}"), &mut text);
        }
    }
    if identities {
        for path in IDENTITIES {
            values(report, path, &mut text);
        }
    }
    text
}

/// The values that a path names of the report, each once; or why there is none.
fn known(report: &Report, path: &str) -> (BTreeSet<String>, Option<Why>) {
    let Ok(path) = path.parse::<Path>() else { return Default::default() };
    let mut all = BTreeSet::new();
    let mut why = None;
    for hit in find(report, &path) {
        match hit.value {
            HitValue::Fact(fact) => match fact.missing() {
                Some(gap) => why = Some(gap.why),
                None => all.extend(written(fact)),
            },
            HitValue::MissingList(gap) => why = Some(gap.why),
            HitValue::EmptyList(_) => {}
        }
    }
    (all, why)
}

/// A value as TOML has it.
fn written(fact: &dyn AnyFact) -> Vec<String> {
    let one = |value: &Value| match value {
        Value::Number(number) => number.to_string(),
        Value::Bool(value) => value.to_string(),
        Value::String(text) => toml::Value::String(text.clone()).to_string(),
        other => toml::Value::String(other.to_string()).to_string(),
    };
    match fact.json() {
        Some(Value::Array(items)) => items.iter().map(one).collect(),
        Some(value) => vec![one(&value)],
        None => Vec::new(),
    }
}

/// A name for what is expected of a path.
fn name(path: &str) -> String {
    let plain: String = path
        .replace("[physical=yes]", "")
        .replace(".*", "")
        .chars()
        .map(|c| if c.is_ascii_alphanumeric() { c } else { '-' })
        .collect();
    let plain = plain.trim_end_matches("-bytes");
    plain.to_owned()
}

fn values(report: &Report, path: &str, text: &mut String) {
    let (all, why) = known(report, path);
    // Writing to a text cannot fail.
    if all.is_empty() {
        if let Some(why) = why {
            let _ = writeln!(text, "\n# {path} is not known here: {why}");
        }
        return;
    }
    let _ = writeln!(text, "\n[[expect]]\nname = \"{}\"\nselect = {:?}", name(path), path);
    let mut all: Vec<String> = all.into_iter().collect();
    let _ = match (all.pop(), all.is_empty()) {
        (Some(one), true) => writeln!(text, "equals = {one}"),
        (last, _) => {
            all.extend(last);
            writeln!(text, "one-of = [{}]", all.join(", "))
        }
    };
}

fn count(report: &Report, path: &str, text: &mut String) {
    let Ok(parsed) = path.parse::<Path>() else { return };
    let Some(count) = super::expected::count_of(&parsed, report) else { return };
    let _ = writeln!(
        text,
        "\n[[expect]]\nname = \"{}-count\"\nselect = {path:?}\ncount = {count}",
        name(path)
    );
}
