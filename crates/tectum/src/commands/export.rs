//! What a survey is written to: each form with room for as many machines as it has.

use std::{
    fs::{File, OpenOptions},
    io::{self, BufWriter, Seek, Write},
    os::unix::fs::OpenOptionsExt,
    path::{Path, PathBuf},
};

#[cfg(feature = "sqlite")]
use tectum_report::export::sqlite::Database;
use tectum_report::{
    export::{Exported, csv, cyclonedx, json_lines, open_metrics::Text, tables},
    save::write_whole,
};
use tempfile::TempDir;

use crate::{
    args::{SurveyArgs, SurveyFormat},
    exit::Failure,
    subject::TOOL,
    temporary,
    views::Terminal,
};

/// The form that is asked for: by name, by the ending of the file's name, or the usual one.
pub(super) fn form(args: &SurveyArgs) -> SurveyFormat {
    let Some(path) = &args.out else { return args.format.unwrap_or(SurveyFormat::Text) };
    let name = path.file_name().and_then(|name| name.to_str()).unwrap_or_default();
    let ends = |ending: &str| name.len() > ending.len() && name.ends_with(ending);
    args.format.unwrap_or(match () {
        () if ends(".jsonl") || ends(".ndjson") => SurveyFormat::JsonLines,
        () if ends(".cdx.json") => SurveyFormat::Cyclonedx,
        () if ends(".prom") => SurveyFormat::Openmetrics,
        () if ends(".md") => SurveyFormat::Markdown,
        #[cfg(feature = "html")]
        () if ends(".html") => SurveyFormat::Html,
        #[cfg(feature = "sqlite")]
        () if ends(".sqlite") || ends(".db") => SurveyFormat::Sqlite,
        () => SurveyFormat::Json,
    })
}

/// The form's name as it is typed.
pub(super) fn name(form: SurveyFormat) -> &'static str {
    match form {
        SurveyFormat::Text => "text",
        SurveyFormat::Json => "json",
        SurveyFormat::JsonLines => "json-lines",
        SurveyFormat::Csv => "csv",
        SurveyFormat::Markdown => "markdown",
        #[cfg(feature = "html")]
        SurveyFormat::Html => "html",
        SurveyFormat::Cyclonedx => "cyclonedx",
        SurveyFormat::Openmetrics => "openmetrics",
        #[cfg(feature = "sqlite")]
        SurveyFormat::Sqlite => "sqlite",
    }
}

/// Whether a form holds several machines.
pub(super) fn holds_several(form: SurveyFormat) -> bool {
    !matches!(form, SurveyFormat::Json | SurveyFormat::Cyclonedx)
}

/// A file without a name, to be written whole under its own.
type Aside = BufWriter<File>;

/// What reports are added to, one after the other. Nothing stands where it goes before all of it is written.
pub(super) enum Export {
    Lines(Aside),
    Table(csv::Tables<'static>, Aside),
    Folder {
        tables: csv::Tables<'static>,
        aside: TempDir,
        to: PathBuf,
    },
    Bill(Aside),
    Metrics(Text),
    #[cfg(feature = "sqlite")]
    Database(Box<Database>),
}

impl Export {
    /// One of a form; nothing of those that a survey tells by itself.
    pub(super) fn of(form: SurveyFormat, args: &SurveyArgs) -> Result<Option<Self>, Failure> {
        let to_stdout = args.out.as_deref().is_none_or(|out| out == Path::new("-"));
        if args.table.is_some() && form != SurveyFormat::Csv {
            return Err(Failure::NoTables(name(form)));
        }
        Ok(Some(match form {
            SurveyFormat::Text | SurveyFormat::Json | SurveyFormat::Markdown => return Ok(None),
            #[cfg(feature = "html")]
            SurveyFormat::Html => return Ok(None),
            SurveyFormat::JsonLines => Self::Lines(aside()?),
            SurveyFormat::Csv => match (&args.table, &args.out) {
                (Some(given), _) => {
                    let table = csv::name_of(given).ok_or_else(|| Failure::NoSuchTable {
                        given: given.clone(),
                        known: table_names(),
                    })?;
                    let aside = aside()?;
                    let to = aside.get_ref().try_clone()?;
                    Self::Table(csv::Tables::only(table, to)?, aside)
                }
                (None, Some(out)) if !to_stdout => folder(out)?,
                (None, _) => {
                    let what = "a folder of tables (--table prints one of them)";
                    return Err(Failure::NeedsOut { form: "csv", what });
                }
            },
            SurveyFormat::Cyclonedx => Self::Bill(aside()?),
            SurveyFormat::Openmetrics => Self::Metrics(Text::default()),
            #[cfg(feature = "sqlite")]
            SurveyFormat::Sqlite => {
                if args.out.is_none() {
                    return Err(Failure::NeedsOut { form: "sqlite", what: "no text" });
                }
                Self::Database(Box::new(Database::made_in(temporary::folder(|own| {
                    own.tempdir()
                })?)?))
            }
        }))
    }

    /// Adds a report.
    pub(super) fn add(&mut self, exported: Exported<'_>) -> Result<(), Failure> {
        match self {
            Self::Lines(to) => json_lines::write(exported, to)?,
            Self::Table(tables, _) => tables.add(exported)?,
            Self::Folder { tables, .. } => tables.add(exported)?,
            Self::Bill(to) => cyclonedx::write(exported, TOOL, to)?,
            Self::Metrics(text) => text.add(exported),
            #[cfg(feature = "sqlite")]
            Self::Database(database) => database.add(exported)?,
        }
        Ok(())
    }

    /// Writes it where it goes: all of it or nothing.
    pub(super) fn finish(self, out: Option<&Path>, terminal: &mut Terminal) -> Result<(), Failure> {
        let out = out.filter(|out| *out != Path::new("-"));
        match self {
            Self::Lines(aside) | Self::Bill(aside) => whole(aside, out, terminal),
            Self::Table(tables, aside) => {
                tables.finish()?;
                whole(aside, out, terminal)
            }
            Self::Folder { tables, aside, to } => {
                tables.finish()?;
                publish(aside, &to)
            }
            Self::Metrics(text) => written(out, terminal, |to| text.finish(to)),
            #[cfg(feature = "sqlite")]
            Self::Database(database) => written(out, terminal, |to| database.finish(to)),
        }
    }
}

/// The names of all tables.
fn table_names() -> Vec<&'static str> {
    let own = tables().iter().map(|table| table.name.as_str());
    own.chain(csv::BESIDE.iter().map(|(name, _)| *name)).collect()
}

fn aside() -> Result<Aside, Failure> {
    Ok(BufWriter::new(tempfile::tempfile()?))
}

fn whole(aside: Aside, out: Option<&Path>, terminal: &mut Terminal) -> Result<(), Failure> {
    let mut file = aside.into_inner().map_err(io::IntoInnerError::into_error)?;
    file.rewind()?;
    written(out, terminal, |to| io::copy(&mut file, to).map(drop))
}

fn written(
    out: Option<&Path>,
    terminal: &mut Terminal,
    write: impl FnOnce(&mut dyn Write) -> io::Result<()>,
) -> Result<(), Failure> {
    match out {
        Some(path) => drop(write_whole(path, write)?),
        None => {
            let mut out = terminal.out_raw();
            write(&mut out)?;
            out.flush()?;
        }
    }
    Ok(())
}

/// A folder of tables, made beside where it goes.
fn folder(to: &Path) -> Result<Export, Failure> {
    let failed = |cause| Failure::Unwritable { path: to.to_owned(), cause };
    if to.symlink_metadata().is_ok() && !is_empty_folder(to) {
        return Err(Failure::FolderStands(to.to_owned()));
    }
    let parent = to.parent().filter(|parent| !parent.as_os_str().is_empty());
    let parent = parent.unwrap_or(Path::new("."));
    let aside = temporary::folder(|own| own.tempdir_in(parent)).map_err(failed)?;
    let within = aside.path().to_owned();
    let tables = csv::Tables::all(move |name| {
        let path = within.join(format!("{name}.csv"));
        let file = OpenOptions::new().write(true).create_new(true).mode(0o600).open(path)?;
        Ok(Box::new(file))
    })?;
    Ok(Export::Folder { tables, aside, to: to.to_owned() })
}

fn is_empty_folder(path: &Path) -> bool {
    std::fs::read_dir(path).is_ok_and(|mut entries| entries.next().is_none())
}

/// Gives a folder that is whole its name.
fn publish(aside: TempDir, to: &Path) -> Result<(), Failure> {
    let failed = |cause| Failure::Unwritable { path: to.to_owned(), cause };
    for entry in std::fs::read_dir(aside.path()).map_err(failed)? {
        let path = entry.map_err(failed)?.path();
        File::open(path).and_then(|file| file.sync_all()).map_err(failed)?;
    }
    std::fs::rename(aside.path(), to).map_err(failed)?;
    // It has another name now: there is nothing left to take away.
    let _ = aside.keep();
    Ok(())
}
