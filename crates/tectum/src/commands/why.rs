//! `tectum why`: where a value came from, or why it is missing.

use std::mem::ManuallyDrop;

use crate::page::Page;
use tectum_report::query::{Found, HitValue, Path, find_all};

use crate::{
    args::{Format, Units, WhyArgs},
    exit::{DONE, Failure, Status},
    subject::{Depth, Want, path, report, sections_for},
    views::{Terminal, not_surveyed, sources, why},
};
use tectum_report::json::print::to_writer;

pub(super) fn run(
    args: &WhyArgs,
    units: Units,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    let patterns: Vec<Path> =
        args.paths.iter().map(|given| path(given)).collect::<Result<_, _>>()?;
    let plan = args.patience.plan(sections_for(&patterns));
    let want = Want::named(Depth::Whole, &patterns);
    let report =
        report(&args.from, &plan, want, &mut |event| super::survey::say(&event, terminal))?;
    // The program ends with it: to give it back piece by piece takes longer than to read it.
    let report = ManuallyDrop::new(report);
    let mut page = Page::default();
    let mut json = serde_json::Map::new();
    for (pattern, path) in patterns.iter().zip(&args.paths) {
        let Found { hits, hidden, .. } = find_all(&report, pattern);
        if hits.is_empty() && hidden.is_empty() {
            // A report can have such a field, and this one has nothing there.
            terminal.remark(&match pattern.not_surveyed(&report) {
                Some(section) => not_surveyed(section, &report),
                None => format!("nothing here: this machine's report has no {path}"),
            });
        }
        let by_source = !pattern.ends_at_a_value() && args.format == Format::Text;
        if by_source {
            sources::print(path, &hits, &hidden, &report, units, &mut page);
            continue;
        }
        for (at, gap) in &hidden {
            match args.format {
                Format::Text => why::print_hidden(at, gap, &report, &mut page),
                Format::Json => drop(json.insert(at.clone(), why::gap_json(gap))),
            }
        }
        for hit in &hits {
            match args.format {
                Format::Text => why::print(hit, &report, units, &mut page),
                Format::Json => {
                    let value = match hit.value {
                        HitValue::Fact(fact) => why::fact_json(fact),
                        HitValue::MissingList(gap) => why::gap_json(gap),
                        HitValue::EmptyList(evidence) => serde_json::json!({
                            "value": [],
                            "evidence": evidence.iter().map(why::evidence_json).collect::<Vec<_>>(),
                        }),
                    };
                    json.insert(hit.at.clone(), value);
                }
            }
        }
    }
    match args.format {
        Format::Text => terminal.print_paged(&page)?,
        Format::Json => {
            let out = terminal.out();
            to_writer(&mut *out, &json)?;
        }
    }
    Ok(DONE)
}
