//! Tables with a header (RFC 4180): a table a kind of part.
//!
//! The first columns are the same in each: the machine, when it was looked at, the row's path (`part`) and what makes the part
//! itself. A cell that begins like a formula of a spreadsheet and is no number has an apostrophe before it. A missing
//! value is an empty cell; why it is missing stands in the table `missing`, what is odd in the table `findings`.

use std::{
    collections::BTreeMap,
    io::{self, Write},
};

use csv::{Terminator, Writer, WriterBuilder};

use super::{
    Exported,
    part::{Part, parts, path_of},
    table_named,
};
use crate::{declare::AnyFact, json::print::is_harmful};

/// The columns before a table's own.
pub const FIRST: [&str; 4] = ["host", "taken_at", "part", "identity"];

/// The tables beside those of parts: their names and columns.
pub const BESIDE: [(&str, &[&str]); 2] = [
    ("findings", &["host", "taken_at", "rule", "severity", "part", "label", "says"]),
    ("missing", &["host", "taken_at", "path", "why", "hint"]),
];

/// Tables that reports are added to, one after the other.
pub struct Tables<'w> {
    /// Makes what a table is written to, when its first row comes.
    open: Box<dyn FnMut(&'static str) -> io::Result<Box<dyn Write + 'w>> + 'w>,
    /// The only table that is wanted.
    only: Option<&'static str>,
    written: BTreeMap<&'static str, Writer<Box<dyn Write + 'w>>>,
}

/// The name of a table that can be written: one of the declarations', or one of those beside them.
pub fn name_of(given: &str) -> Option<&'static str> {
    let beside = BESIDE.iter().map(|(name, _)| *name).find(|name| *name == given);
    beside.or_else(|| Some(table_named(given)?.name.as_str()))
}

impl<'w> Tables<'w> {
    /// Every table that has rows, each written to what `open` gives for it.
    pub fn all(
        open: impl FnMut(&'static str) -> io::Result<Box<dyn Write + 'w>> + 'w,
    ) -> io::Result<Self> {
        let mut own = Self { open: Box::new(open), only: None, written: BTreeMap::new() };
        for (name, columns) in BESIDE {
            own.begin(name, columns.iter().copied())?;
        }
        Ok(own)
    }

    /// One table alone, with its header even where it has no row.
    pub fn only(name: &'static str, to: impl Write + 'w) -> io::Result<Self> {
        let mut to: Option<Box<dyn Write + 'w>> = Some(Box::new(to));
        let open = move |_| to.take().ok_or_else(|| io::Error::other("one table was wanted"));
        let mut own = Self { open: Box::new(open), only: Some(name), written: BTreeMap::new() };
        match BESIDE.iter().find(|(beside, _)| *beside == name) {
            Some((_, columns)) => own.begin(name, columns.iter().copied())?,
            None => {
                let columns = table_named(name).map_or(&[][..], |table| &table.columns);
                own.begin(name, FIRST.into_iter().chain(columns.iter().map(|it| &*it.name)))?;
            }
        }
        Ok(own)
    }

    fn begin<'n>(
        &mut self,
        name: &'static str,
        columns: impl Iterator<Item = &'n str>,
    ) -> io::Result<()> {
        let to = (self.open)(name)?;
        let mut table = WriterBuilder::new().terminator(Terminator::CRLF).from_writer(to);
        table.write_record(columns)?;
        self.written.insert(name, table);
        Ok(())
    }

    /// Adds a report.
    ///
    /// # Errors
    /// What the writers say.
    pub fn add(&mut self, exported: Exported<'_>) -> io::Result<()> {
        let at = exported.report.taken.at.to_string();
        let wanted = |name: &str| self.only.is_none_or(|only| only == name);
        let (findings, missing) = (wanted("findings"), wanted("missing"));
        let parts = parts(exported.report);
        for part in &parts {
            self.row(&exported, &at, part)?;
            for (name, gap) in part.gaps().into_iter().filter(|_| missing) {
                let path = format!("{}.{name}", part.path);
                let hint = gap.hint.as_ref().map(|it| it.words().to_owned()).unwrap_or_default();
                self.record("missing", [exported.host, &at, &path, gap.why.code(), &hint])?;
            }
        }
        for one in exported.judgement.findings.iter().filter(|_| findings) {
            let (id, severity) = (one.by.id(), one.severity.code());
            let part = path_of(&parts, &one.part);
            let cells = [exported.host, &at, id, severity, &part, &one.label, &one.says];
            self.record("findings", cells)?;
        }
        Ok(())
    }

    fn row(&mut self, exported: &Exported<'_>, at: &str, part: &Part<'_>) -> io::Result<()> {
        let table = part.table();
        let name = table.name.as_str();
        if table.columns.is_empty() || self.only.is_some_and(|only| only != name) {
            return Ok(());
        }
        if !self.written.contains_key(name) {
            let columns = table.columns.iter().map(|column| column.name.as_str());
            self.begin(name, FIRST.into_iter().chain(columns))?;
        }
        let identity = part.identity_line().unwrap_or_default();
        let cells = part.values().map(|(_, fact)| fact.and_then(AnyFact::text).unwrap_or_default());
        let cells: Vec<String> = cells.collect();
        let first = [exported.host, at, &part.path, &identity];
        self.record(name, first.into_iter().chain(cells.iter().map(String::as_str)))
    }

    fn record<'c>(
        &mut self,
        name: &str,
        cells: impl IntoIterator<Item = &'c str>,
    ) -> io::Result<()> {
        let Some(table) = self.written.get_mut(name) else { return Ok(()) };
        Ok(table.write_record(cells.into_iter().map(harmless))?)
    }

    /// Writes what is left.
    ///
    /// # Errors
    /// What the writers say.
    pub fn finish(mut self) -> io::Result<()> {
        self.written.values_mut().try_for_each(|table| table.flush())
    }
}

/// A text that no spreadsheet takes for a formula and that steers no terminal: one that begins like a
/// formula and is no number has an apostrophe before it, and what steers is escaped, but for the ends
/// of lines, which quotes hold.
pub fn harmless(text: &str) -> String {
    let begins = text.starts_with(['=', '+', '-', '@', '\t', '\r']);
    let mut cell = String::with_capacity(text.len() + 1);
    if begins && text.parse::<f64>().is_err() {
        cell.push('\'');
    }
    for character in text.chars() {
        match character {
            '\n' | '\t' => cell.push(character),
            harmful if is_harmful(harmful) => cell.extend(harmful.escape_unicode()),
            plain => cell.push(plain),
        }
    }
    cell
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("=1+1", "'=1+1")]
    #[case("@cmd", "'@cmd")]
    #[case("-5", "-5")]
    #[case("-x", "'-x")]
    #[case("\t=1", "'\t=1")]
    #[case("plain", "plain")]
    #[case("a\nb", "a\nb")]
    #[case("\u{1b}[31mred", "\\u{1b}[31mred")]
    fn no_cell_is_a_formula_or_steers_a_terminal(#[case] text: &str, #[case] expected: &str) {
        assert_eq!(harmless(text), expected);
    }
}
