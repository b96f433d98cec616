//! What was found as JUnit XML: a suite for each machine, a case for each rule. One that found something
//! failed; one that could not judge something, and found nothing, was skipped.

use std::{
    collections::{BTreeMap, BTreeSet},
    io,
};

use quick_xml::{
    Writer,
    events::{BytesDecl, BytesText, Event},
};

use crate::finding::{Checked, Severity};

/// Writes what was found; findings below a severity, or all where none is given, let their case pass.
///
/// # Errors
/// When it cannot be written.
pub fn write(checked: &Checked, failing: Option<Severity>, to: impl io::Write) -> io::Result<()> {
    let mut xml = Writer::new_with_indent(to, b' ', 2);
    xml.write_event(Event::Decl(BytesDecl::new("1.0", Some("UTF-8"), None)))?;
    let suites: Vec<Suite<'_>> =
        (0..checked.machines.len()).map(|at| Suite::of(checked, at, failing)).collect();
    xml.create_element("testsuites")
        .write_inner_content(|xml| suites.iter().try_for_each(|suite| suite.write(xml)))?;
    xml.into_inner().write_all(b"\n")
}

/// What a case came to.
enum Outcome {
    Passed,
    Failed(&'static str, Vec<String>),
    Skipped(String),
}

struct Suite<'a> {
    name: &'a str,
    taken_at: &'a str,
    cases: Vec<(&'a str, Outcome)>,
}

impl<'a> Suite<'a> {
    fn of(checked: &'a Checked, machine: usize, failing: Option<Severity>) -> Self {
        let mut found: BTreeMap<&str, (&'static str, Vec<String>)> = BTreeMap::new();
        for told in checked.told() {
            let finding = &told.finding;
            let grave = failing.is_some_and(|least| finding.severity.rank() >= least.rank());
            let counts = grave && finding.accepted.is_none();
            if counts && told.machines.binary_search(&machine).is_ok() {
                let slot = found.entry(told.by.id()).or_default();
                slot.0 = finding.severity.code();
                slot.1.push(format!("{}: {}", finding.label, finding.says));
            }
        }
        let not_judged: BTreeSet<(&str, &str)> = checked
            .unjudged()
            .filter(|one| one.machines.binary_search(&machine).is_ok())
            .map(|one| (one.by.id(), one.says.as_str()))
            .collect();
        let cases = checked.asked().iter().map(|asked| {
            let id = asked.id();
            let outcome = match found.remove(id) {
                Some((severity, says)) => Outcome::Failed(severity, says),
                None => match not_judged.iter().find(|(own, _)| *own == id) {
                    Some((_, why)) => Outcome::Skipped((*why).to_owned()),
                    None => Outcome::Passed,
                },
            };
            (id, outcome)
        });
        let cases = cases.collect();
        let about = checked.machines.get(machine);
        let (name, taken_at) = about.map_or(("", ""), |it| (&it.name, &it.taken_at));
        Self { name, taken_at, cases }
    }

    fn write<W: io::Write>(&self, xml: &mut Writer<W>) -> io::Result<()> {
        let count = |is: fn(&Outcome) -> bool| {
            self.cases.iter().filter(|(_, outcome)| is(outcome)).count().to_string()
        };
        // The schema that most readers hold to wants a time without zone or fraction.
        let time = self.taken_at.get(..19).unwrap_or(self.taken_at);
        xml.create_element("testsuite")
            .with_attribute(("name", &*clean(self.name)))
            .with_attribute(("timestamp", time))
            .with_attribute(("tests", &*self.cases.len().to_string()))
            .with_attribute(("failures", &*count(|it| matches!(it, Outcome::Failed(..)))))
            .with_attribute(("skipped", &*count(|it| matches!(it, Outcome::Skipped(_)))))
            .with_attribute(("errors", "0"))
            .with_attribute(("time", "0"))
            .write_inner_content(|xml| {
                self.cases
                    .iter()
                    .try_for_each(|(name, outcome)| case(&clean(self.name), name, outcome, xml))
            })?;
        Ok(())
    }
}

fn case<W: io::Write>(
    suite: &str,
    name: &str,
    outcome: &Outcome,
    xml: &mut Writer<W>,
) -> io::Result<()> {
    let case = xml
        .create_element("testcase")
        .with_attribute(("name", name))
        .with_attribute(("classname", suite))
        .with_attribute(("time", "0"));
    match outcome {
        Outcome::Passed => case.write_empty()?,
        Outcome::Failed(severity, says) => case.write_inner_content(|xml| {
            let text = clean(&says.join("\n"));
            xml.create_element("failure")
                .with_attribute(("type", *severity))
                .with_attribute(("message", &*clean(says.first().map_or("", |it| it))))
                .write_text_content(BytesText::new(&text))?;
            Ok(())
        })?,
        Outcome::Skipped(why) => case.write_inner_content(|xml| {
            // The text stands within: some readers' schema knows no attribute of it.
            xml.create_element("skipped").write_text_content(BytesText::new(&clean(why)))?;
            Ok(())
        })?,
    };
    Ok(())
}

/// A text without the characters that no XML document may hold (XML 1.0 clause 2.2), and without those
/// that steer what shows it.
fn clean(text: &str) -> String {
    let may = |c: char| {
        matches!(c, '\n' | '\t')
            || (!crate::json::print::is_harmful(c) && !matches!(c, '\u{FFFE}' | '\u{FFFF}'))
    };
    text.chars().map(|c| if may(c) { c } else { '\u{FFFD}' }).collect()
}
