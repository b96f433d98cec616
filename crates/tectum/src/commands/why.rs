//! `tectum why`: where a value came from, or why it is missing.

use std::io::Write;

use tectum_core::{
    query::{HitValue, PathPattern, find},
    report::Report,
};

use crate::{
    args::{Format, WhyArgs},
    exit::{DONE, Failure, Status},
    subject::{report, sections},
    views::{Sheet, Terminal, why},
};

pub(super) fn run(args: &WhyArgs, terminal: &mut Terminal) -> Result<Status, Failure> {
    let patterns: Vec<PathPattern> =
        args.paths.iter().map(|path| path.parse()).collect::<Result<_, _>>()?;
    let plan = args.patience.plan(sections(&[], &[])?);
    let report = report(&args.from, &plan, &mut |event| super::survey::say(&event, terminal))?;
    let mut page = Sheet::new(terminal.width());
    let mut json = serde_json::Map::new();
    for (pattern, path) in patterns.iter().zip(&args.paths) {
        let hits = find(&report, pattern);
        if hits.is_empty() {
            return Err(Failure::NothingAt { path: path.clone(), near: near(&report, path) });
        }
        for hit in &hits {
            match args.format {
                Format::Text => why::print(hit, &report, &mut page),
                Format::Json => {
                    let value = match hit.value {
                        HitValue::Fact(fact) => why::fact_json(fact),
                        HitValue::MissingList(gap) => why::gap_json(gap),
                        HitValue::EmptyList(evidence) => serde_json::json!({
                            "value": [], "evidence": evidence,
                        }),
                    };
                    json.insert(hit.at.clone(), value);
                }
            }
        }
    }
    match args.format {
        Format::Text => terminal.print(&page)?,
        Format::Json => {
            let out = terminal.out();
            serde_json::to_writer_pretty(&mut *out, &json).map_err(std::io::Error::from)?;
            writeln!(out)?;
        }
    }
    Ok(DONE)
}

/// Paths that begin as the given one does, for a user who mistyped.
fn near(report: &Report, path: &str) -> Vec<String> {
    let parts: Vec<&str> = path.split('.').collect();
    for length in (0..parts.len()).rev() {
        let start = parts.get(..length).unwrap_or_default().join(".");
        let pattern = if start.is_empty() { "**".to_owned() } else { format!("{start}.*") };
        let Ok(pattern) = pattern.parse() else { continue };
        let mut names: Vec<String> = find(report, &pattern)
            .iter()
            .filter_map(|hit| {
                let depth = length + if start.starts_with("inventory") { 1 } else { 2 };
                let name = hit.at.split('/').nth(depth)?;
                Some(if start.is_empty() { name.to_owned() } else { format!("{start}.{name}") })
            })
            .collect();
        let mut seen = std::collections::BTreeSet::new();
        names.retain(|name| seen.insert(name.clone()));
        if !names.is_empty() {
            return names;
        }
    }
    Vec::new()
}
