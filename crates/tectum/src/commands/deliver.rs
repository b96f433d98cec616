//! Where what was made goes: to standard output, or into a file, whole or not at all.

use std::{io::Write, path::Path};

use tectum_report::{report::Report, save::write_whole};

use crate::{
    args::TableFormat,
    exit::Failure,
    page::Page,
    render::{markdown, plain},
    views::Terminal,
};

/// A form of a page.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Form {
    Text,
    Markdown,
    #[cfg(feature = "html")]
    Html,
}

impl Form {
    /// The form of a page that a format of rows is.
    pub(super) fn of_table(format: TableFormat) -> Self {
        match format {
            #[cfg(feature = "html")]
            TableFormat::Html => Self::Html,
            TableFormat::Markdown => Self::Markdown,
            TableFormat::Text | TableFormat::Json | TableFormat::Csv => Self::Text,
        }
    }
}

/// Gives a page, with all values of the reports where the form has room for them.
pub(super) fn page(
    page: &Page,
    form: Form,
    reports: &[&Report],
    out: Option<&Path>,
    terminal: &mut Terminal,
) -> Result<(), Failure> {
    let text = match (form, out) {
        (Form::Text, None) => return Ok(terminal.print_paged(page)?),
        (Form::Text, Some(_)) => match terminal.is_plain() {
            true => plain::page(page),
            false => terminal.uncoloured(page),
        },
        (Form::Markdown, _) => markdown::page(page),
        #[cfg(feature = "html")]
        (Form::Html, _) => crate::render::html::page(page, reports),
    };
    let _ = reports;
    bytes(text.as_bytes(), out, terminal)
}

/// Gives some bytes.
pub(super) fn bytes(
    bytes: &[u8],
    out: Option<&Path>,
    terminal: &mut Terminal,
) -> Result<(), Failure> {
    match out.filter(|path| *path != Path::new("-")) {
        Some(path) => {
            write_whole(path, |to| to.write_all(bytes))?;
        }
        None => {
            let mut out = terminal.out_raw();
            out.write_all(bytes)?;
            out.flush()?;
        }
    }
    Ok(())
}
