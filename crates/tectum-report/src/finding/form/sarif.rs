//! What was found as SARIF 2.1.0 (OASIS Standard, Static Analysis Results Interchange Format), with paths into
//! the report as logical locations.

use serde_json::{Value, json};

use crate::{
    finding::{Asked, Checked, Severity, Told, Unjudged},
    query::spoken,
};

/// Where the standard's schema is (clause 3.13.3).
const SCHEMA: &str =
    "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json";

/// The standard's word for a severity (clause 3.27.10).
fn level(severity: Severity) -> &'static str {
    match severity {
        Severity::Critical => "error",
        Severity::Warning => "warning",
        Severity::Notice => "note",
    }
}

/// What was found.
pub fn document(checked: &Checked, version: &str) -> Value {
    let rules: Vec<Value> = checked.asked().iter().map(rule).collect();
    let found = checked.told().into_iter().map(|told| result(checked, told));
    let results: Vec<Value> = found.chain(checked.unjudged().map(open)).collect();
    json!({
        "$schema": SCHEMA,
        "version": "2.1.0",
        "runs": [{
            "tool": { "driver": {
                "name": "Tectum",
                "version": version,
                "rules": rules,
            } },
            "results": results,
        }],
    })
}

fn rule(asked: &Asked) -> Value {
    let mut rule = json!({
        "id": asked.id(),
        "shortDescription": { "text": asked.title() },
        "defaultConfiguration": { "level": level(asked.severity()) },
    });
    if let Some(members) = rule.as_object_mut() {
        if let Some(matters) = asked.matters() {
            members.insert("fullDescription".to_owned(), json!({ "text": matters }));
        }
        if let Some(action) = asked.action() {
            members.insert("help".to_owned(), json!({ "text": action }));
        }
    }
    rule
}

fn result(checked: &Checked, told: &Told) -> Value {
    let finding = &told.finding;
    let locations: Vec<Value> = checked
        .names(told)
        .map(|machine| {
            json!({ "logicalLocations": [{
                "name": finding.label,
                "fullyQualifiedName": format!("{machine}:{}", spoken(&finding.part)),
                "kind": "resource",
            }] })
        })
        .collect();
    let mut result = json!({
        "ruleId": finding.by.id(),
        "level": level(finding.severity),
        "message": { "text": format!("{}: {}", finding.label, finding.says) },
        "locations": locations,
    });
    if let (Some(accepted), Some(members)) = (&finding.accepted, result.as_object_mut()) {
        let said = match &accepted.until {
            Some(until) => format!("{} (until {until})", accepted.reason),
            None => accepted.reason.clone(),
        };
        let suppression = json!([{ "kind": "external", "justification": said }]);
        members.insert("suppressions".to_owned(), suppression);
    }
    result
}

/// What could not be judged: the standard calls that open (clause 3.27.9).
fn open(one: &Unjudged) -> Value {
    json!({
        "ruleId": one.by.id(),
        "kind": "open",
        "level": "none",
        "message": { "text": format!("could not be judged: {}", one.says) },
        "locations": [{ "logicalLocations": [{
            "fullyQualifiedName": spoken(&one.at),
            "kind": "resource",
        }] }],
    })
}
