//! Every access to the machine: what was asked of files of a folder is said once for all folders that were asked the same.

use std::borrow::Cow;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::{
    Visit,
    column::{Cell, Cells, Column},
    folders::Gathered,
    parts::{number, number_of_entry},
    read::{Told, broken, told_at},
    write::Numbered,
};
use crate::{
    json::{
        cut::{Cut, Rows},
        read::ReadError,
    },
    keyed::Map,
    report::{Outcome, Report, SourceAccess},
};

/// Accesses to files of folders that were asked the same.
#[derive(Debug, Serialize, JsonSchema)]
pub(in crate::json) struct Accesses<'a>(
    /// The number of the visit.
    usize,
    /// The folders, as a column that counts; nothing where the questions have no path.
    Column<'a>,
    /// For each file of the visit how many bytes it gave, in each of the folders.
    Counts<'a>,
    /// And how many microseconds that took.
    Counts<'a>,
);

/// For each of some files a column of numbers; of those at the end that are 0 everywhere nothing is said. Nothing where
/// no file has any, as in a redacted report.
type Counts<'a> = Option<Vec<Column<'a>>>;

/// Accesses as they are read.
#[derive(Debug, Deserialize)]
struct Read<'a>(
    usize,
    #[serde(borrow)] Cut<'a>,
    #[serde(borrow)] Option<Vec<Cut<'a>>>,
    #[serde(borrow)] Option<Vec<Cut<'a>>>,
);

/// Files of a folder, by their names.
pub(super) struct Asked<'a> {
    folder: Option<usize>,
    files: Vec<(&'a str, &'a SourceAccess)>,
}

/// Folders of a visit, and what their files gave.
#[derive(Default)]
struct Visited<'a> {
    folders: Vec<Cell<'a>>,
    bytes: Vec<Vec<Cell<'a>>>,
    elapsed_us: Vec<Vec<Cell<'a>>>,
}

/// What was asked of files, folder by folder.
pub(super) fn asked<'a>(report: &'a Report, folders: &mut Gathered<'a>) -> Vec<Asked<'a>> {
    let mut all: Vec<Asked<'a>> = Vec::new();
    let mut at_folder = Map::default();
    for access in &report.sources {
        let split = access.path.rsplit_once('/');
        let folder = split.map(|(folder, _)| folders.place(folder));
        let name = split.map_or(&*access.path, |(_, name)| name);
        let at = *at_folder.entry(folder).or_insert(all.len());
        match all.get_mut(at) {
            Some(asked) => asked.files.push((name, access)),
            None => all.push(Asked { folder, files: vec![(name, access)] }),
        }
    }
    all
}

/// What was asked of folders, whose numbers are told by their places, and every access.
pub(super) fn tables(
    mut asked: Vec<Asked<'_>>,
    number_of_folder: impl Fn(usize) -> usize,
) -> (Vec<Vec<Visit<'_>>>, Vec<Accesses<'_>>) {
    for one in &mut asked {
        one.folder = one.folder.map(&number_of_folder);
    }
    // In the order of their numbers: these then count.
    asked.sort_by_key(|one| one.folder);
    let mut visits = Numbered::default();
    let mut visited: Vec<Visited<'_>> = Vec::new();
    for Asked { folder, mut files } in asked {
        // What gave nothing stands at the end, where it needs no number.
        files.sort_by_key(|(_, it)| (it.outcome != Outcome::Done, it.operation, it.outcome.code()));
        let alike =
            files.chunk_by(|(_, a), (_, b)| (a.operation, &a.outcome) == (b.operation, &b.outcome));
        let visit = alike.filter_map(|files| {
            let (_, first) = files.first()?;
            let names = files.iter().map(|(name, _)| Cow::Borrowed(*name)).collect();
            Some(Visit(first.operation, first.outcome.clone(), names))
        });
        let number = visits.number(visit.collect());
        if number == visited.len() {
            let columns = || vec![Vec::new(); files.len()];
            let (bytes, elapsed_us) = (columns(), columns());
            visited.push(Visited { folders: Vec::new(), bytes, elapsed_us });
        }
        let Some(visited) = visited.get_mut(number) else { continue };
        let cell = |number: Option<u64>| number.map_or(Cell::Nothing, Cell::Number);
        visited.folders.push(cell(folder.map(|folder| folder as u64)));
        let columns = visited.bytes.iter_mut().zip(&mut visited.elapsed_us);
        for ((bytes, elapsed_us), (_, it)) in columns.zip(files) {
            bytes.push(cell(it.bytes));
            elapsed_us.push(cell(it.elapsed_us));
        }
    }
    let accesses = visited.into_iter().enumerate().map(|(number, visited)| {
        let Visited { folders, bytes, elapsed_us } = visited;
        Accesses(number, Column::counted(folders), counts(bytes), counts(elapsed_us))
    });
    let accesses = accesses.collect();
    (visits.all, accesses)
}

fn counts(columns: Vec<Vec<Cell<'_>>>) -> Counts<'_> {
    let mut columns: Vec<_> = columns.into_iter().map(Column::of).collect();
    if columns.iter().all(|column| *column == Column::All(Cell::Nothing)) {
        return None;
    }
    while columns.last() == Some(&Column::All(Cell::Number(0))) {
        columns.pop();
    }
    Some(columns)
}

/// Columns of numbers of files, as they are read.
struct Numbers<'a>(Option<Vec<Cells<'a>>>);

impl<'a> Numbers<'a> {
    fn of(columns: Option<Vec<Cut<'a>>>) -> Result<Self, serde_json::Error> {
        let columns = columns.map(|all| all.into_iter().map(Cells::of).collect());
        columns.transpose().map(Self)
    }

    fn len(&self) -> usize {
        self.0.as_ref().map_or(0, Vec::len)
    }

    /// That of a file in a folder.
    fn get(&mut self, file: usize, folder: u64) -> Result<Option<u64>, ReadError> {
        let Some(columns) = &mut self.0 else { return Ok(None) };
        let Some(column) = columns.get_mut(file) else { return Ok(Some(0)) };
        let cell = column.get(folder).map_err(|error| broken_accesses(error.to_string()))?;
        match cell {
            Some((Cell::Nothing, _)) => Ok(None),
            Some((cell, _)) => number(&cell).map(Some).map_err(|error| told_at(error, ACCESSES)),
            None => Err(broken_accesses("a column ends before the folders do")),
        }
    }

    /// Whether any of them says more than there are folders.
    fn goes_beyond(&mut self, folders: u64) -> Result<bool, serde_json::Error> {
        for column in self.0.iter_mut().flatten().filter(|column| column.counts()) {
            if column.get(folders)?.is_some() {
                return Ok(true);
            }
        }
        Ok(false)
    }
}

/// The name of the table.
const ACCESSES: &str = "accesses";

fn broken_accesses(said: impl Into<String>) -> ReadError {
    broken(ACCESSES, said)
}

impl<'a> Told<'a> {
    /// Accesses to the machine, in their order; of folders that something read is from, where no others are wanted.
    ///
    /// # Errors
    /// What is wrong with the table.
    pub(in crate::json) fn accesses(
        &mut self,
        table: Cut<'a>,
        of_met: bool,
    ) -> Result<Vec<SourceAccess>, ReadError> {
        let wrong = |error: serde_json::Error| broken_accesses(error.to_string());
        let mut all = Vec::new();
        for (entry, row) in Rows::of(table).map_err(wrong)?.apart().into_iter().enumerate() {
            let Read(visit, folders, bytes, elapsed_us) = serde_json::from_slice(row.0)
                .map_err(|error| broken(&format!("accesses/{entry}"), error.to_string()))?;
            let mut folders = Cells::of(folders).map_err(wrong)?;
            if !folders.counts() {
                return Err(broken_accesses("folders are no list"));
            }
            let visit = self.visits.get(visit)?;
            let files: usize = visit.iter().map(|Visit(_, _, names)| names.len()).sum();
            let columns = [&bytes, &elapsed_us].map(|columns| columns.as_ref().map_or(0, Vec::len));
            self.spend(columns.iter().sum::<usize>() * size_of::<Cells<'_>>())?;
            let mut bytes = Numbers::of(bytes).map_err(wrong)?;
            let mut elapsed_us = Numbers::of(elapsed_us).map_err(wrong)?;
            if bytes.len().max(elapsed_us.len()) > files {
                return Err(broken_accesses("it counts more files than were asked for"));
            }
            let mut place = 0;
            while let Some((folder, _)) = folders.get(place).map_err(wrong)? {
                // A column may claim to be very long.
                self.spend(size_of::<SourceAccess>())?;
                let folder = match folder {
                    Cell::Nothing => None,
                    cell => Some(number_of_entry(&cell).map_err(|error| told_at(error, ACCESSES))?),
                };
                if !of_met || folder.is_none_or(|folder| self.has_met(folder)) {
                    let within = folder.map(|folder| self.path(folder)).transpose()?;
                    let asked = visit.iter().flat_map(|Visit(operation, outcome, names)| {
                        names.iter().map(move |name| (*operation, outcome, name))
                    });
                    for (file, (operation, outcome, name)) in asked.enumerate() {
                        let path = match &within {
                            Some(folder) => format!("{folder}/{name}"),
                            None => name.clone().into_owned(),
                        };
                        self.spend(path.len() + size_of::<SourceAccess>())?;
                        let bytes = bytes.get(file, place)?;
                        let elapsed_us = elapsed_us.get(file, place)?;
                        let outcome = outcome.clone();
                        all.push(SourceAccess { path, operation, outcome, bytes, elapsed_us });
                    }
                }
                place += 1;
            }
            if !of_met
                && (bytes.goes_beyond(place).map_err(wrong)?
                    || elapsed_us.goes_beyond(place).map_err(wrong)?)
            {
                return Err(broken_accesses("a column goes on behind the last folder"));
            }
        }
        all.sort_by(|a, b| a.order().cmp(&b.order()));
        Ok(all)
    }
}
