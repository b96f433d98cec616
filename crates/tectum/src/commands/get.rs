//! `tectum get`: bare values for scripts.

use crate::render::safe;
use std::{collections::BTreeSet, io::Write};

use serde_json::{Map, Value};
use tectum_archive::side_by_side::side_by_side;
use tectum_report::{
    export::csv::harmless,
    fact::{Gap, Why},
    json::print::to_writer,
    query::{Cell, JsonQuery, Path, Rows, paths, plain, rows, spoken},
    report::Report,
};
use tectum_survey::sections::{ON_REQUEST, SECTIONS, Section};

use crate::{
    args::{GetArgs, Units},
    exit::{DONE, FAILED, Failure, MISSING, Status},
    subject::{Depth, Subject, Want, name_of, report, subjects_in},
    views::{Terminal, gap_words, not_surveyed as words, quantity},
};

/// What was asked for.
enum Asked {
    Dotted(Vec<Path>),
    Json(JsonQuery),
}

/// The name of the column that says whose a row is.
const HOST: &str = "host";

/// The name of the column of values that a JSONPath names.
const VALUE: &str = "value";

pub(super) fn run(
    args: &GetArgs,
    units: Option<Units>,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    let asked: Vec<Asked> = args.paths.iter().map(|text| asked(text)).collect::<Result<_, _>>()?;
    let plan = args.patience.plan(needed(&asked));
    let mut printer = Printer::new(args, units, &asked);
    let mut status = DONE;
    let mut hosts = BTreeSet::new();
    let mut subjects = Vec::new();
    for given in &args.from {
        subjects.extend(subjects_in(given, &args.patience)?);
    }
    let several = subjects.len() > 1;
    printer.begin(several)?;
    let named = named(&asked);
    let read = |subject: &Subject| {
        let mut events = Vec::new();
        let want = Want::named(Depth::Gaps, &named);
        let report = report(subject, &plan, want, &mut |event| events.push(event));
        (events, report)
    };
    side_by_side(&subjects, 1, read, |subject, (events, report)| {
        events.iter().for_each(|event| super::survey::say(event, terminal));
        let report = match report {
            Ok(report) => report,
            // One of many that cannot be read hides none of the others.
            Err(failure) if several => {
                terminal.complain(&failure);
                status = FAILED;
                return Ok(());
            }
            Err(failure) => return Err(failure),
        };
        let host = name_of(&report, subject, &mut hosts);
        let host = several.then_some(host.as_str());
        for answer in answers(&asked, &report, args) {
            let printed = answer.print(host, &mut printer)?;
            if tell(&answer, printed, host, terminal) {
                status = status.max(MISSING);
            }
        }
        let out = terminal.out();
        out.write_all(&std::mem::take(&mut printer.text))?;
        Ok(())
    })?;
    let out = terminal.out();
    out.write_all(&printer.finish())?;
    out.flush()?;
    Ok(status)
}

/// What a report answers, in the order of what was asked. In a table paths that follow one another are
/// told side by side; in lines each stands for itself, as a JSONPath does everywhere.
fn answers<'a>(asked: &[Asked], report: &'a Report, args: &GetArgs) -> Vec<Answer<'a>> {
    let mut answers = Vec::new();
    let mut together: Vec<Path> = Vec::new();
    for one in asked {
        match one {
            Asked::Dotted(own) => {
                together.extend_from_slice(own);
                if !(args.csv || args.json) {
                    answers.extend(take(&mut together).map(|own| Answer::dotted(report, &own)));
                }
            }
            Asked::Json(query) => {
                answers.extend(take(&mut together).map(|own| Answer::dotted(report, &own)));
                answers.push(Answer::json(report, query));
            }
        }
    }
    answers.extend(take(&mut together).map(|own| Answer::dotted(report, &own)));
    answers
}

/// The paths that stand side by side, if there are any.
fn take(together: &mut Vec<Path>) -> impl Iterator<Item = Vec<Path>> + use<> {
    let own = std::mem::take(together);
    (!own.is_empty()).then_some(own).into_iter()
}

fn asked(text: &str) -> Result<Asked, Failure> {
    if text.starts_with('$') {
        return Ok(Asked::Json(text.parse()?));
    }
    let paths = paths(text)?;
    for path in &paths {
        path.check()?;
    }
    Ok(Asked::Dotted(paths))
}

/// The paths that say all that is asked for; none where a JSONPath may lead anywhere.
fn named(asked: &[Asked]) -> Vec<Path> {
    let paths = asked.iter().map(|one| match one {
        Asked::Dotted(paths) => Some(paths.as_slice()),
        Asked::Json(_) => None,
    });
    paths.collect::<Option<Vec<_>>>().unwrap_or_default().concat()
}

/// The sections that hold what was asked for: where a path begins with the name of one, it alone.
fn needed(asked: &[Asked]) -> Vec<&'static Section> {
    let mut names = BTreeSet::new();
    for one in asked {
        let Asked::Dotted(paths) = one else { return SECTIONS.iter().collect() };
        for path in paths {
            let mut all = SECTIONS.iter().chain(ON_REQUEST);
            match all.find(|section| path.begins_with(section.name)) {
                Some(section) => names.insert(section.name),
                None => return SECTIONS.iter().collect(),
            };
        }
    }
    SECTIONS.iter().chain(ON_REQUEST).filter(|section| names.contains(section.name)).collect()
}

/// What stands in a line.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Lines {
    /// A value.
    Values,
    /// The values of one part, with tabs between.
    Rows,
    /// The path to a value, and the value.
    Named,
}

/// What one report answers, and what it says of sections that were asked for and of which it knows nothing.
enum Answer<'a> {
    Rows(Rows<'a>, Lines, BTreeSet<String>),
    Values(Vec<Value>, Vec<(String, &'a Gap)>, BTreeSet<String>),
}

impl<'a> Answer<'a> {
    fn dotted(report: &'a Report, paths: &[Path]) -> Self {
        // A path that ends above the values names each of them, and so each line says which it is.
        let above = paths.iter().any(|path| !path.ends_at_a_value());
        let lines = match (above, paths) {
            (true, _) => Lines::Named,
            (false, [_]) => Lines::Values,
            (false, _) => Lines::Rows,
        };
        let not_surveyed = paths.iter().filter_map(|path| path.not_surveyed(report));
        Self::Rows(
            rows(report, paths),
            lines,
            not_surveyed.map(|section| words(section, report)).collect(),
        )
    }

    fn json(report: &'a Report, query: &JsonQuery) -> Self {
        let whole = plain(report);
        let mut gaps = Vec::new();
        let mut values = Vec::new();
        let all = report.gaps();
        for (at, value) in query.find(&whole) {
            if value.is_null()
                && let Some((_, gap)) = all.iter().find(|(pointer, _)| *pointer == at)
            {
                gaps.push((spoken(&at), *gap));
            }
            values.push(value.clone());
        }
        let not_surveyed = match query.beginning() {
            [root, section, ..] if root == "inventory" || root == "readings" => {
                let path: Option<Path> = section.parse().ok();
                path.and_then(|path| {
                    path.not_surveyed(report).map(|section| words(section, report))
                })
            }
            _ => None,
        };
        // What is missing on the way to what it names: nobody knows what would be there.
        let mut at = String::new();
        for name in query.beginning() {
            at = format!("{at}/{name}");
            let missing = whole.pointer(&at).is_some_and(Value::is_null) && values.is_empty();
            let gap = all.iter().find(|(pointer, _)| missing && *pointer == at);
            gaps.extend(gap.map(|(_, gap)| (spoken(&at), *gap)));
        }
        Self::Values(values, gaps, not_surveyed.into_iter().collect())
    }

    fn gaps(&self) -> &[(String, &'a Gap)] {
        match self {
            Self::Rows(rows, ..) => &rows.gaps,
            Self::Values(_, gaps, _) => gaps,
        }
    }

    /// Prints it; whether there was anything to print.
    fn print(&self, host: Option<&str>, printer: &mut Printer<'_>) -> Result<bool, Failure> {
        match self {
            Self::Rows(rows, lines, _) => printer.rows(host, rows, *lines),
            Self::Values(values, ..) => printer.values(host, values),
        }
    }
}

/// The most missing values whose reasons are told one by one.
const MOST_REASONS: usize = 20;

/// Says what is missing; whether anything is that was asked for.
fn tell(answer: &Answer<'_>, printed: bool, host: Option<&str>, terminal: &mut Terminal) -> bool {
    if let (Answer::Rows(rows, Lines::Named, _), true) = (answer, printed) {
        // Of whole parts much is missing on every machine.
        if !rows.gaps.is_empty() {
            let count = quantity::count(rows.gaps.len(), "value is", "values are");
            terminal.remark(&format!("{count} missing; `tectum why` tells the reasons"));
        }
        return false;
    }
    let whose = host.map(|host| format!("{host}: ")).unwrap_or_default();
    let (sections, in_part) = match answer {
        Answer::Rows(rows, _, sections) => (sections, rows.in_part.as_slice()),
        Answer::Values(_, _, sections) => (sections, [].as_slice()),
    };
    for section in sections {
        terminal.remark(&format!("{whose}{section}"));
    }
    for (path, gap) in in_part {
        terminal.remark(&format!("{whose}{path}: known in part: {}", gap_words(gap)));
    }
    let any = !sections.is_empty() || !in_part.is_empty();
    let mut told = BTreeSet::new();
    for (path, gap) in answer.gaps() {
        // What such a part cannot have is missing only where nothing else was found.
        let has_none = gap.why == Why::NotApplicable && printed;
        if !has_none && told.insert(path) && told.len() <= MOST_REASONS {
            terminal.remark(&format!("{whose}{path}: {}", gap_words(gap)));
        }
    }
    if told.len() > MOST_REASONS {
        let count = quantity::count(told.len() - MOST_REASONS, "more value is", "more values are");
        terminal.remark(&format!("{whose}{count} missing; `tectum why` tells the reasons"));
    }
    any || !told.is_empty()
}

/// Where the answers are put together, to be printed after each report.
struct Printer<'a> {
    args: &'a GetArgs,
    units: Option<Units>,
    /// The columns of a table: all that the paths can have, so that the header stands before the rows.
    columns: Vec<String>,
    /// What is to be printed next.
    text: Vec<u8>,
    /// Objects printed so far.
    objects: usize,
}

impl<'a> Printer<'a> {
    fn new(args: &'a GetArgs, units: Option<Units>, asked: &[Asked]) -> Self {
        let mut columns: Vec<String> = Vec::new();
        for one in asked {
            let own = match one {
                Asked::Dotted(paths) => paths.iter().flat_map(Path::columns).collect(),
                Asked::Json(_) => vec![VALUE.to_owned()],
            };
            for column in own {
                if !columns.contains(&column) {
                    columns.push(column);
                }
            }
        }
        Self { args, units, columns, text: Vec::new(), objects: 0 }
    }

    /// What stands before all answers.
    fn begin(&mut self, several: bool) -> Result<(), Failure> {
        if self.args.csv {
            let host = several.then_some(HOST).into_iter();
            let header: Vec<String> =
                host.chain(self.columns.iter().map(String::as_str)).map(str::to_owned).collect();
            self.record(&header)?;
        }
        Ok(())
    }

    fn rows(&mut self, host: Option<&str>, rows: &Rows<'_>, lines: Lines) -> Result<bool, Failure> {
        let mut printed = false;
        for row in &rows.rows {
            let known = row.cells.iter().flatten().any(|cell| cell.fact.json().is_some());
            printed |= known;
            if self.args.json {
                self.object(host, &rows.columns, &row.cells)?;
            } else if self.args.csv {
                let cells = row.cells.iter().map(|cell| self.cell(cell.as_ref(), ",")).collect();
                self.table_row(host, &rows.columns, cells)?;
            } else if lines == Lines::Named {
                let columns = rows.columns.iter().zip(&row.cells);
                for (column, cell) in columns.filter(|(_, cell)| cell.is_some()) {
                    let part = spoken(&row.part);
                    let whole =
                        if part.is_empty() { column.clone() } else { format!("{part}.{column}") };
                    if let Some(text) = self.cell(cell.as_ref(), ",") {
                        self.line(host, &[whole, text]);
                    }
                }
            } else if lines == Lines::Values {
                for cell in row.cells.iter().flatten() {
                    self.single(host, cell);
                }
            } else if known || self.args.null.is_some() {
                let cells: Vec<String> = row
                    .cells
                    .iter()
                    .map(|cell| self.cell(cell.as_ref(), ",").unwrap_or_default())
                    .collect();
                self.line(host, &cells);
            }
        }
        Ok(printed)
    }

    /// A value in a line of its own; each item of a list in one.
    fn single(&mut self, host: Option<&str>, cell: &Cell<'_>) {
        if let Some(Value::Array(items)) = cell.fact.json() {
            for item in &items {
                let text = self.value(cell, item);
                self.line(host, &[text]);
            }
        } else if let Some(text) = self.cell(Some(cell), ",") {
            self.line(host, &[text]);
        }
    }

    fn values(&mut self, host: Option<&str>, values: &[Value]) -> Result<bool, Failure> {
        let null = self.args.null.clone();
        for value in values {
            let text = match value {
                Value::Null => null.clone(),
                Value::String(text) => Some(text.clone()),
                other => Some(other.to_string()),
            };
            if self.args.json {
                let mut object = Map::new();
                object.extend(host.map(|host| (HOST.to_owned(), host.into())));
                object.insert(VALUE.to_owned(), value.clone());
                self.element(&object.into())?;
            } else if self.args.csv {
                self.table_row(host, &[VALUE.to_owned()], vec![text])?;
            } else if let Some(text) = text {
                self.line(host, &[text]);
            }
        }
        Ok(values.iter().any(|value| !value.is_null()))
    }

    /// A value as it is printed; the text for missing ones, if the user gave one.
    fn cell(&self, cell: Option<&Cell<'_>>, between: &str) -> Option<String> {
        let known = cell.and_then(|cell| Some((cell, cell.fact.json()?)));
        match known {
            None => self.args.null.clone(),
            Some((cell, Value::Array(items))) => {
                let items: Vec<String> = items.iter().map(|item| self.value(cell, item)).collect();
                Some(items.join(between))
            }
            Some((cell, value)) => Some(match self.units {
                Some(units) => quantity::fact(cell.record, cell.fact, units).unwrap_or_default(),
                None => self.value(cell, &value),
            }),
        }
    }

    /// A single value: exact, or with its unit where the user asked for one.
    fn value(&self, cell: &Cell<'_>, value: &Value) -> String {
        match (self.units, value) {
            (Some(units), value) => quantity::value(value, cell.fact.leaf_shape().unit, units),
            (None, Value::String(text)) => text.clone(),
            (None, Value::Bool(true)) => "yes".to_owned(),
            (None, Value::Bool(false)) => "no".to_owned(),
            (None, other) => other.to_string(),
        }
    }

    fn object(
        &mut self,
        host: Option<&str>,
        columns: &[String],
        cells: &[Option<Cell<'_>>],
    ) -> Result<(), Failure> {
        let mut object = Map::new();
        object.extend(host.map(|host| (HOST.to_owned(), host.into())));
        for (column, cell) in columns.iter().zip(cells) {
            let Some(cell) = cell else { continue };
            let value = match (cell.fact.json(), self.units) {
                (None, _) => self.args.null.clone().map_or(Value::Null, Value::from),
                (Some(value), None) => value,
                (Some(_), Some(_)) => self.cell(Some(cell), ",").map_or(Value::Null, Value::from),
            };
            object.insert(column.clone(), value);
        }
        self.element(&object.into())
    }

    /// An element of the array that all objects stand in.
    fn element(&mut self, object: &Value) -> Result<(), Failure> {
        let mut text = Vec::new();
        to_writer(&mut text, object)?;
        self.text.extend_from_slice(if self.objects == 0 { b"[\n" } else { b",\n" });
        self.objects += 1;
        self.text.extend_from_slice(text.trim_ascii_end());
        Ok(())
    }

    /// A row of the table; what a row does not have is empty.
    fn table_row(
        &mut self,
        host: Option<&str>,
        columns: &[String],
        cells: Vec<Option<String>>,
    ) -> Result<(), Failure> {
        if let Some(lost) = columns.iter().find(|own| !self.columns.contains(own)) {
            let told = format!("a part is named like a field, and its {lost} has no column");
            return Err(Failure::Output(std::io::Error::other(told)));
        }
        let mut row: Vec<String> = host.map(harmless).into_iter().collect();
        row.extend(self.columns.iter().map(|column| {
            let at = columns.iter().position(|own| own == column);
            let cell = at.and_then(|at| cells.get(at)?.as_deref());
            cell.map(harmless).unwrap_or_default()
        }));
        self.record(&row)
    }

    /// A line of a table (RFC 4180).
    fn record(&mut self, cells: &[String]) -> Result<(), Failure> {
        let mut table =
            csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
        table.write_record(cells).map_err(|error| Failure::Output(error.into()))?;
        let line = table.into_inner().map_err(|error| Failure::Output(error.into_error()))?;
        self.text.extend_from_slice(&line);
        Ok(())
    }

    /// A line of values with tabs between, whose it is before them.
    fn line(&mut self, host: Option<&str>, cells: &[String]) {
        let all: Vec<String> = host
            .into_iter()
            .chain(cells.iter().map(String::as_str))
            .map(|text| safe(text).into_owned())
            .collect();
        self.text.extend_from_slice(all.join("\t").as_bytes());
        self.text.push(b'\n');
    }

    /// What stands behind all answers.
    fn finish(self) -> Vec<u8> {
        let mut text = self.text;
        if self.args.json {
            text.extend_from_slice(if self.objects == 0 { b"[]\n" } else { b"\n]\n" });
        }
        text
    }
}
