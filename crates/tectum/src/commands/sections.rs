//! `tectum sections`: what can be surveyed.

use crate::page::Page;
use std::io::Write;

use tectum_report::query::{DescribedField, Found, HitValue, Path, described_fields, find_all};
use tectum_survey::sections::{ON_REQUEST, SECTIONS, reads};

use crate::{
    args::SectionsArgs,
    exit::{DONE, Failure, Status},
    subject::{Depth, path, report},
    views::{Terminal, fields as view},
};

pub(super) fn run(args: &SectionsArgs, terminal: &mut Terminal) -> Result<Status, Failure> {
    if args.paths {
        let all: Vec<_> = SECTIONS.iter().chain(ON_REQUEST).collect();
        let out = terminal.out();
        for pattern in reads(&all) {
            writeln!(out, "{pattern}")?;
        }
        return Ok(DONE);
    }
    if let Some(below) = &args.fields {
        return fields(args, below.as_deref(), terminal);
    }
    let mut page = Page::default();
    for section in SECTIONS.iter().chain(ON_REQUEST) {
        page.entry(section.name).plain(section.summary);
    }
    terminal.print(&page)?;
    Ok(DONE)
}

/// The values there are to ask for, beneath a path if one is given.
fn fields(
    args: &SectionsArgs,
    below: Option<&str>,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    let wanted = below.map(path).transpose()?;
    let of = |field: &DescribedField| match (&wanted, field.path.parse::<Path>()) {
        (Some(wanted), Ok(_)) => wanted.holds(&field.path),
        (None, _) => true,
        (_, Err(_)) => false,
    };
    let fields: Vec<DescribedField> = described_fields().into_iter().filter(of).collect();
    let of_one = SECTIONS
        .iter()
        .chain(ON_REQUEST)
        .find(|section| wanted.as_ref().is_some_and(|wanted| wanted.begins_with(section.name)));
    let sections = of_one.map_or_else(|| SECTIONS.iter().collect(), |section| vec![section]);
    let plan = args.patience.plan(sections);
    let report =
        report(&args.from, &plan, Depth::Gaps, &mut |event| super::survey::say(&event, terminal))?;
    let mut page = Page::default();
    for field in &fields {
        let path: Path = field.path.parse()?;
        let Found { hits, hidden, .. } = find_all(&report, &path);
        let known = |hit: &&tectum_report::query::Hit<'_>| match hit.value {
            HitValue::Fact(fact) => fact.json().is_some(),
            _ => false,
        };
        let gap = hits.iter().find_map(|hit| match hit.value {
            HitValue::Fact(fact) => fact.missing(),
            HitValue::MissingList(gap) => Some(gap),
            HitValue::EmptyList(_) => None,
        });
        let gap = gap.or_else(|| hidden.first().map(|(_, gap)| *gap));
        view::print(field, hits.iter().filter(known).count(), gap, &mut page);
    }
    terminal.print(&page)?;
    Ok(DONE)
}
