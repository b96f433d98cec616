//! A file of expectations as it is written.

use std::{collections::BTreeSet, ops::Range, sync::Arc};

use globset::{GlobBuilder, GlobMatcher};
use toml::de::DeValue;

use super::{
    acceptance::Accept,
    expected::{Check, Expectation},
    hosts::{Groups, Hosts},
};
use crate::{
    compare::in_units,
    document::{About, File, FileError, Value},
    finding::{Finding, Severity, rules},
    leaf::Date,
    query::{Comparator, Path, Test, nearest_name},
    report::Report,
};

/// How many files may be read for one.
const MOST_FILES: usize = 64;

/// Gives a file's name, as it is to be told, and its text, from a name and the file that includes it; or why
/// it cannot be read.
pub type Reader<'a> = dyn FnMut(&str, Option<&str>) -> Result<(String, String), String> + 'a;

/// Everything that files say.
#[derive(Debug, Default, Clone)]
pub struct Expectations {
    /// What should be so, in the files' order.
    pub expect: Vec<Arc<Expectation>>,
    accept: Vec<Accept>,
    groups: Groups,
}

impl Expectations {
    /// Reads a file, and those that it includes.
    ///
    /// # Errors
    /// The first thing that is wrong, with its place.
    pub fn read(name: &str, read: &mut Reader<'_>) -> Result<Self, FileError> {
        let mut all = Self::default();
        all.read_more(name, read)?;
        Ok(all)
    }

    /// Nothing yet but groups that files may name.
    pub fn with(groups: Groups) -> Self {
        Self { groups, ..Self::default() }
    }

    /// Reads another file, and those that it includes.
    ///
    /// # Errors
    /// The first thing that is wrong, with its place.
    pub fn read_more(&mut self, name: &str, read: &mut Reader<'_>) -> Result<(), FileError> {
        let (name, text) = read(name, None).map_err(|said| FileError::new(name, "", None, said))?;
        let mut files = BTreeSet::new();
        self.add(&name, &text, read, &mut files)
    }

    fn add(
        &mut self,
        name: &str,
        text: &str,
        read: &mut Reader<'_>,
        files: &mut BTreeSet<String>,
    ) -> Result<(), FileError> {
        // A file that is included twice says nothing new.
        if !files.insert(name.to_owned()) {
            return Ok(());
        }
        if files.len() > MOST_FILES {
            let said = format!("more than {MOST_FILES} files are included");
            return Err(FileError::new(name, text, None, said));
        }
        let file = File { name, text };
        let table = file.parsed()?;
        let top = file.keys(table.get_ref(), &["include", "groups", "expect", "accept"])?;
        if let Some(include) = top.get("include") {
            for (other, span) in file.texts(include)? {
                let (own, text) =
                    read(&other, Some(name)).map_err(|said| file.wrong(span.clone(), said))?;
                self.add(&own, &text, read, files)?;
            }
        }
        if let Some(groups) = top.get("groups") {
            self.groups.read(&file, groups)?;
        }
        for value in file.tables(top.get("expect"))? {
            let expectation = self.expectation(&file, value)?;
            let name = expectation.name.clone();
            let doubled = self.expect.iter().any(|own| own.name == name);
            if doubled || rules().iter().any(|rule| rule.id == name) {
                let said = format!("another expectation or rule is called {name:?}");
                return Err(file.wrong(value.span(), said));
            }
            self.expect.push(Arc::new(expectation));
        }
        for value in file.tables(top.get("accept"))? {
            let accept = self.accept(&file, value)?;
            self.accept.push(accept);
        }
        Ok(())
    }

    fn expectation(&self, file: &File<'_>, value: &Value<'_>) -> Result<Expectation, FileError> {
        const OWN: [&str; 8] =
            ["name", "severity", "message", "action", "select", "hosts", "groups", "where"];
        let known: Vec<&str> = OWN.into_iter().chain(CHECKS).collect();
        let about = file.keys(file.table(value)?, &known)?;
        let text = |key: &str| about.get(key).map(|value| file.string(value)).transpose();
        let needed = |key: &str| {
            text(key)?.ok_or_else(|| file.wrong(value.span(), format!("it has no `{key}`")))
        };
        let name = needed("name")?;
        let plain = |c: char| c.is_ascii_alphanumeric() || matches!(c, '-' | '_' | '.');
        if name.is_empty() || !name.chars().all(plain) {
            let at = about.get("name").map_or(value.span(), |it| it.span());
            let said = "a name is of letters, digits, hyphens, points and underlines";
            return Err(file.wrong(at, said));
        }
        let select = needed("select")?;
        let span = about.get("select").map_or(value.span(), |it| it.span());
        let select = file.path(&select, span)?;
        let severity = match about.get("severity") {
            None => Severity::Warning,
            Some(value) => {
                let word = file.string(value)?;
                Severity::from_code(&word).ok_or_else(|| {
                    let said = format!("{word:?} is no severity: notice, warning or critical");
                    file.wrong(value.span(), said)
                })?
            }
        };
        let checks = file.checks(&about, &select, value.span())?;
        let hosts = file.hosts(&about, &self.groups)?;
        let (message, action) = (text("message")?, text("action")?);
        Ok(Expectation { name, severity, message, action, select, checks, hosts })
    }

    fn accept(&self, file: &File<'_>, value: &Value<'_>) -> Result<Accept, FileError> {
        let known = ["finding", "part", "hosts", "groups", "where", "until", "reason"];
        let about = file.keys(file.table(value)?, &known)?;
        let needed = |key: &str| match about.get(key) {
            Some(value) => file.string(value),
            None => Err(file.wrong(value.span(), format!("it has no `{key}`"))),
        };
        let finding = needed("finding")?;
        let own = self.expect.iter().map(|one| one.name.as_str());
        let names: Vec<&str> = rules().iter().map(|rule| rule.id).chain(own).collect();
        if !names.contains(&finding.as_str()) {
            let near = nearest_name(&finding, names.iter().copied())
                .map(|near| format!("; did you mean {near:?}?"));
            let said = format!("there is no finding {finding:?}{}", near.unwrap_or_default());
            let at = about.get("finding").map_or(value.span(), |it| it.span());
            return Err(file.wrong(at, said));
        }
        let reason = needed("reason")?;
        if reason.trim().is_empty() {
            return Err(file.wrong(value.span(), "its `reason` is empty"));
        }
        let until = match about.get("until") {
            None => None,
            Some(value) => {
                let text = match value.get_ref() {
                    DeValue::Datetime(date) => date.to_string(),
                    _ => file.string(value)?,
                };
                let date = text.parse::<Date>().ok().filter(|date| matches!(date, Date::Day(_)));
                let said = || file.wrong(value.span(), format!("{text:?} is no date: 2026-12-31"));
                Some(date.ok_or_else(said)?)
            }
        };
        let part = match about.get("part") {
            None => None,
            Some(value) => Some(file.glob(&file.string(value)?, value.span())?),
        };
        let hosts = file.hosts(&about, &self.groups)?;
        Ok(Accept { finding, part, hosts, until, reason })
    }

    /// Says of each finding whether it is accepted.
    pub(crate) fn accept_known(&self, findings: &mut [Finding], report: &Report) {
        for finding in findings {
            for accept in &self.accept {
                if !accept.is_of(finding, report) {
                    continue;
                }
                let over = accept
                    .until
                    .is_some_and(|until| crate::finding::is_past(until, report.taken.at));
                let slot = match over {
                    true => &mut finding.was_accepted,
                    false => &mut finding.accepted,
                };
                slot.get_or_insert_with(|| accept.acceptance());
            }
        }
    }
}

/// The keys that say what should be so.
const CHECKS: [&str; 13] = [
    "equals",
    "one-of",
    "not",
    "at-least",
    "at-most",
    "between",
    "matches",
    "newer-than",
    "count",
    "unique",
    "present",
    "absent",
    "same-as",
];

impl File<'_> {
    /// The machines that something is meant for.
    pub(super) fn hosts(&self, about: &About<'_>, groups: &Groups) -> Result<Hosts, FileError> {
        let mut hosts = Hosts::default();
        if let Some(value) = about.get("hosts") {
            for (pattern, span) in self.texts(value)? {
                hosts.names.push(self.glob(&pattern, span)?);
            }
        }
        if let Some(value) = about.get("groups") {
            for (name, span) in self.texts(value)? {
                let group =
                    groups.named(&name).map_err(|error| self.wrong(span, error.to_string()))?;
                hosts.groups.push(group.clone());
            }
        }
        if let Some(value) = about.get("where") {
            let all: Vec<&Value<'_>> = match value.get_ref() {
                DeValue::Array(all) => all.iter().collect(),
                _ => vec![*value],
            };
            for value in all {
                let known: Vec<&str> = std::iter::once("path").chain(CHECKS).collect();
                let own = self.keys(self.table(value)?, &known)?;
                let path =
                    own.get("path").ok_or_else(|| self.wrong(value.span(), "it has no `path`"))?;
                let path = self.path(&self.string(path)?, path.span())?;
                let checks = self.checks(&own, &path, value.span())?;
                hosts.facts.push((path, checks));
            }
        }
        Ok(hosts)
    }

    fn glob(&self, pattern: &str, span: Range<usize>) -> Result<GlobMatcher, FileError> {
        let glob = GlobBuilder::new(pattern).case_insensitive(true).build();
        let glob = glob.map_err(|error| self.wrong(span, error.kind().to_string()))?;
        Ok(glob.compile_matcher())
    }

    fn path(&self, text: &str, span: Range<usize>) -> Result<Path, FileError> {
        let path: Path = text.parse().map_err(|error: crate::query::PathError| {
            self.wrong(span.clone(), error.to_string())
        })?;
        path.check().map_err(|error| self.wrong(span, error.to_string()))?;
        Ok(path)
    }

    fn checks(
        &self,
        about: &About<'_>,
        path: &Path,
        whole: Range<usize>,
    ) -> Result<Vec<Check>, FileError> {
        let mut checks = Vec::new();
        for (key, value) in about {
            match *key {
                "count" => checks.push(self.count(value)?),
                "unique" => {
                    self.flag(value)?;
                    checks.push(Check::Unique);
                }
                "present" => {
                    self.flag(value)?;
                    checks.push(Check::Present);
                }
                "absent" => {
                    self.flag(value)?;
                    checks.push(Check::Absent);
                }
                "same-as" => {
                    checks.push(Check::SameAs(self.path(&self.string(value)?, value.span())?));
                }
                "between" => {
                    let DeValue::Array(all) = value.get_ref() else {
                        return Err(self.wrong(value.span(), "it is [least, most]"));
                    };
                    let [least, most] = all.iter().collect::<Vec<_>>()[..] else {
                        return Err(self.wrong(value.span(), "it is [least, most]"));
                    };
                    checks.push(self.one(Comparator::AtLeast, least, path, "at least")?);
                    checks.push(self.one(Comparator::AtMost, most, path, "at most")?);
                }
                "equals" => checks.push(self.one(Comparator::Equal, value, path, "")?),
                "at-least" => {
                    checks.push(self.one(Comparator::AtLeast, value, path, "at least")?);
                }
                "at-most" => checks.push(self.one(Comparator::AtMost, value, path, "at most")?),
                "newer-than" => {
                    checks.push(self.one(Comparator::More, value, path, "newer than")?);
                }
                "matches" => checks.push(self.one(Comparator::Like, value, path, "like")?),
                "one-of" => {
                    let (tests, words) = self.several(value, path)?;
                    checks.push(Check::OneOf(tests, words.join(" or ")));
                }
                "not" => {
                    let (tests, words) = self.several(value, path)?;
                    checks.push(Check::NoneOf(tests, format!("not {}", words.join(" nor "))));
                }
                _ => {}
            }
        }
        let about_values = |check: &Check| {
            matches!(check, Check::OneOf(..) | Check::NoneOf(..) | Check::Unique | Check::SameAs(_))
        };
        if checks.iter().any(about_values) && !path.ends_at_a_value() {
            let said = format!("{path} names parts; name a value of them, as in {path}.serial");
            return Err(self.wrong(about.get("select").map_or(whole, |it| it.span()), said));
        }
        if checks.is_empty() {
            let all = CHECKS.join(", ");
            return Err(self.wrong(whole, format!("it says nothing that should be so: {all}")));
        }
        Ok(checks)
    }

    /// A check against one value.
    fn one(
        &self,
        by: Comparator,
        value: &Value<'_>,
        path: &Path,
        before: &str,
    ) -> Result<Check, FileError> {
        let test = self.test(by, value, path)?;
        let words = format!("{before} {}", told(&test, path)).trim_start().to_owned();
        Ok(Check::OneOf(vec![test], words))
    }

    fn several(
        &self,
        value: &Value<'_>,
        path: &Path,
    ) -> Result<(Vec<Test>, Vec<String>), FileError> {
        let all: Vec<&Value<'_>> = match value.get_ref() {
            DeValue::Array(all) => all.iter().collect(),
            _ => vec![value],
        };
        if all.is_empty() {
            return Err(self.wrong(value.span(), "it names no value"));
        }
        let tests = all.into_iter().map(|one| self.test(Comparator::Equal, one, path));
        let tests: Vec<Test> = tests.collect::<Result<_, _>>()?;
        let words = tests.iter().map(|test| told(test, path)).collect();
        Ok((tests, words))
    }

    /// A test that every value which the path can name may be held against.
    fn test(&self, by: Comparator, value: &Value<'_>, path: &Path) -> Result<Test, FileError> {
        let wrong = |said: String| self.wrong(value.span(), said);
        let test = Test::new(by, self.scalar(value)?).map_err(wrong)?;
        let mut first = None;
        let mut fits = false;
        for (name, leaf) in path.leaves() {
            match test.check(name, leaf) {
                Ok(()) => fits = true,
                Err(said) => {
                    first.get_or_insert(said);
                }
            }
        }
        match first {
            Some(said) if !fits => Err(wrong(said)),
            _ => Ok(test),
        }
    }

    fn count(&self, value: &Value<'_>) -> Result<Check, FileError> {
        let DeValue::Table(table) = value.get_ref() else {
            let number = self.number(value)?;
            return Ok(Check::Count { least: number, most: Some(number) });
        };
        let about = self.keys(table, &["at-least", "at-most"])?;
        let of = |key: &str| about.get(key).map(|value| self.number(value)).transpose();
        let (least, most) = (of("at-least")?, of("at-most")?);
        if least.is_none() && most.is_none() {
            return Err(self.wrong(value.span(), "it is a number, or says at-least or at-most"));
        }
        Ok(Check::Count { least: least.unwrap_or(0), most })
    }
}

/// What values are held against, as it is told: a bare number with the unit of the values.
fn told(test: &Test, path: &Path) -> String {
    let number = test.value().parse().ok();
    let units = path.leaves().into_iter().find_map(|(_, leaf)| in_units(number?, leaf.unit));
    units.unwrap_or_else(|| test.value().to_owned())
}
