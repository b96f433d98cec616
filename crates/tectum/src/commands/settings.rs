//! `tectum settings`: what is set, what it means, and who set it.

use crate::page::{Page, Tone};
use tectum_report::settings::Settings;

use crate::{
    args::SettingsArgs,
    exit::{DONE, Failure, Status},
    views::Terminal,
};

pub(super) fn run(
    args: &SettingsArgs,
    settings: &Settings,
    terminal: &mut Terminal,
) -> Result<Status, Failure> {
    // What is wrong with them was told when they were read.
    if args.check {
        return Ok(DONE);
    }
    let mut page = Page::default();
    for setting in settings.all() {
        let unit = setting.unit.map(|unit| format!(" {unit}")).unwrap_or_default();
        let who = match &setting.set_by {
            Some(who) => format!("  set by {who}"),
            None => "  as built in".to_owned(),
        };
        page.paragraph_of(&setting.name, Tone::Label)
            .plain(" = ")
            .strong(format!("{}{unit}", setting.value))
            .quiet(who);
        page.beneath_paragraph().quiet(setting.meaning);
    }
    terminal.print(&page)?;
    Ok(DONE)
}
