//! `tectum manual`: manual pages, made of what the command line declares.

use std::{io::Write, path::Path};

use clap::{CommandFactory, ValueEnum};
use clap_mangen::{
    Man,
    roff::{Roff, bold, roman},
};
use tectum_report::{query::nearest_name, save::write_whole, settings::Settings};

use crate::{
    args::{Cli, ManualArgs, SurveyFormat},
    exit::{DONE, Failure, Status},
    views::Terminal,
};

/// A page: its name with the chapter, and its text.
type PageOf = (String, Vec<u8>);

pub(super) fn run(args: &ManualArgs, terminal: &mut Terminal) -> Result<Status, Failure> {
    let pages = pages()?;
    if let Some(folder) = &args.out {
        std::fs::create_dir_all(folder)
            .map_err(|cause| Failure::Unwritable { path: folder.clone(), cause })?;
        for (name, text) in &pages {
            write_whole(&folder.join(name), |to| to.write_all(text))?;
        }
        terminal.remark(&format!("saved {} pages in {}", pages.len(), folder.display()));
        return Ok(DONE);
    }
    let wanted = args.page.as_deref().unwrap_or_default();
    let whole = if wanted.is_empty() { "tectum".to_owned() } else { format!("tectum-{wanted}") };
    let stem = |name: &str| Path::new(name).with_extension("").display().to_string();
    let found = pages.iter().find(|(name, _)| stem(name) == whole || stem(name) == wanted);
    let (_, text) = found.ok_or_else(|| {
        let known: Vec<String> = pages
            .iter()
            .map(|(name, _)| stem(name))
            .map(|stem| stem.strip_prefix("tectum-").unwrap_or(&stem).to_owned())
            .collect();
        let nearest = nearest_name(wanted, known.iter().map(String::as_str));
        Failure::NoSuchPage { given: wanted.to_owned(), nearest: nearest.map(str::to_owned) }
    })?;
    let mut out = terminal.out_raw();
    out.write_all(text)?;
    out.flush()?;
    Ok(DONE)
}

fn pages() -> Result<Vec<PageOf>, Failure> {
    let mut command = Cli::command();
    command.build();
    let mut pages = Vec::new();
    add(&command, "tectum", &mut pages)?;
    pages.push(("tectum.toml.5".to_owned(), settings()?));
    pages.push(("tectum-formats.5".to_owned(), formats()?));
    Ok(pages)
}

/// The page of a command, and those of the commands in it.
fn add(command: &clap::Command, name: &str, pages: &mut Vec<PageOf>) -> Result<(), Failure> {
    let own = command.clone().name(name.to_owned()).display_name(name.to_owned());
    let mut text = Vec::new();
    Man::new(own).manual("Tectum").render(&mut text)?;
    pages.push((format!("{name}.1"), text));
    for inner in command.get_subcommands().filter(|it| !it.is_hide_set() && it.get_name() != "help")
    {
        add(inner, &format!("{name}-{}", inner.get_name()), pages)?;
    }
    Ok(())
}

/// What can be set.
fn settings() -> Result<Vec<u8>, Failure> {
    let mut page = head("tectum.toml", "what is set, and where");
    page.control("SH", ["FILES"]);
    page.text([roman(
        "/etc/tectum/tectum.toml is the machine's, ~/.config/tectum/tectum.toml the user's; environment variables \
         that begin with TECTUM_ come after both, and options after these. A name that nothing has is an error.",
    )]);
    page.control("SH", ["SETTINGS"]);
    for setting in Settings::default().all() {
        let unit = setting.unit.map(|unit| format!(" ({unit})")).unwrap_or_default();
        page.control("TP", []);
        page.text([bold(&*setting.name), roman(format!(" = {}{unit}", setting.value))]);
        page.text([roman(setting.meaning)]);
    }
    written(&page)
}

/// The forms of a survey.
fn formats() -> Result<Vec<u8>, Failure> {
    let mut page = head("tectum-formats", "forms in which a survey is told");
    page.control("SH", ["FORMS"]);
    for form in SurveyFormat::value_variants() {
        let Some(value) = form.to_possible_value() else { continue };
        page.control("TP", []);
        page.text([bold(value.get_name())]);
        let help = value.get_help().map(ToString::to_string).unwrap_or_default();
        page.text([roman(help)]);
    }
    page.control("SH", ["SEE ALSO"]);
    page.text([roman("tectum schema tells what each of them holds.")]);
    written(&page)
}

fn head(name: &str, about: &str) -> Roff {
    let mut page = Roff::new();
    page.control("TH", [name, "5", "", concat!("Tectum ", env!("CARGO_PKG_VERSION")), "Tectum"]);
    page.control("SH", ["NAME"]);
    page.text([roman(format!("{name} - {about}"))]);
    page
}

fn written(page: &Roff) -> Result<Vec<u8>, Failure> {
    let mut text = Vec::new();
    page.to_writer(&mut text)?;
    Ok(text)
}
