//! `tectum demo`: the whole round on made-up machines.

mod year;

use crate::page::Page;
use std::{
    io::{self, IsTerminal},
    ops::RangeInclusive,
    path::PathBuf,
};

use clap::Parser;
use tectum_demo::MACHINES;

use crate::{
    args::{Cli, DemoArgs},
    demo_folder,
    exit::{DONE, Failure, Status},
    subject::write_demo,
    views::Terminal,
};

/// Each command of the round, and what a newcomer should know before it.
const ROUND: &[(&str, &[&str])] = &[
    (
        "A server nobody has told you about. One sheet says who it is and what is in it.",
        &["survey", "--from", "gannet-before"],
    ),
    (
        "Name a section to see it drawn, with every part in a table.",
        &["survey", "memory", "--from", "gannet-before"],
    ),
    (
        "Disks with their partitions in proportion.",
        &["survey", "storage", "--from", "gannet-before"],
    ),
    (
        "What is odd, the gravest first: why it matters, and what to do.",
        &["check", "gannet-before"],
    ),
    (
        "Every value can say where it came from, and every missing one why.",
        &["why", "memory.modules.B1.serial", "os.build_id", "--from", "gannet-before"],
    ),
    (
        "Save what was seen. The file is written whole or not at all, for your eyes only.",
        &["survey", "--from", "gannet-before", "--out", "before.json"],
    ),
    (
        "After a maintenance visit, the same again.",
        &["survey", "--from", "gannet-after", "--out", "after.json"],
    ),
    (
        "What did the visit change? Disks sda and sdb traded names on the way: that is no change.",
        &["compare", "before.json", "after.json"],
    ),
    (
        "An archive keeps every look. This one has a year of them, as nightly looks would have filed them; here is one \
         more. What is unchanged takes a few kilobytes.",
        &["save", "petrel", "--archive", "archive"],
    ),
    (
        "Since when is it so? What was swapped, and when?",
        &["history", "memory.modules.*.serial", "gannet", "--archive", "archive"],
    ),
    (
        "A serial number's way through the fleet: where is that module now?",
        &["history", "--part", "LW-77F1004", "--archive", "archive"],
    ),
    (
        "What moves by itself is kept with each look: how a disk filled up.",
        &[
            "history",
            "readings.filesystems.usage./srv/gauges.used_bytes",
            "gannet",
            "petrel",
            "--archive",
            "archive",
        ],
    ),
    (
        "A look in the archive is a subject like any other: what became of the storage a quarter of a year ago?",
        &["compare", "cormorant@-110d", "cormorant@-99d", "--archive", "archive"],
    ),
    (
        "A row a machine; what is odd is counted, and who was not seen for long is told.",
        &["fleet", "--archive", "archive"],
    ),
    (
        "Two servers that should be alike: which of them missed the firmware?",
        &["fleet", "--by", "firmware.version", "--archive", "archive"],
    ),
    (
        "The machine as it was delivered, written down; and held against it after the visit.",
        &["expect", "--from", "before.json", "--out", "order.toml"],
    ),
    (
        "What is not as it was ordered?",
        &["check", "after.json", "--expect", "order.toml", "--without-rules"],
    ),
    (
        "One value for a script, or those of the parts that you mean, side by side.",
        &[
            "get",
            "storage.disks[rotating=yes, size>=4TB].{name,model,serial}",
            "--from",
            "before.json",
            "--from",
            "after.json",
        ],
    ),
    (
        "A serial number on a label: which part of which machine is it?",
        &["find", "LW-77A1003", "--from", "before.json", "--from", "after.json"],
    ),
    (
        "Keep the raw evidence itself: one file, to be surveyed anywhere, later.",
        &["capture", "--from", "gannet-after", "--out", "gannet.tar.zst"],
    ),
    (
        "A copy to hand to strangers: serial numbers and names replaced, still to be matched.",
        &["redact", "gannet.tar.zst", "--out", "to-share.tar.zst"],
    ),
    ("A capture is a subject like any other.", &["survey", "--from", "to-share.tar.zst"]),
    (
        "A page for somebody who was not there.",
        &["survey", "--from", "after.json", "--out", "gannet.html"],
    ),
    (
        "A database of all of them, for questions of your own.",
        &["survey", "--from", "*", "--out", "coast.sqlite", "--archive", "archive"],
    ),
];

/// The folder of the archive.
pub(super) const ARCHIVE: &str = "archive";

pub(super) fn run(args: &DemoArgs, terminal: &mut Terminal) -> Result<Status, Failure> {
    terminal.unpaged();
    if args.list {
        return list(terminal);
    }
    let steps = match args.step {
        Some(step) if !(1..=ROUND.len()).contains(&step) => {
            return Err(Failure::NoSuchStep { given: step, last: ROUND.len() });
        }
        Some(step) => step..=step,
        None => 1..=ROUND.len(),
    };
    // Kept until the round is over, and taken away with it.
    let mut temporary = None;
    let folder: PathBuf = match &args.keep {
        Some(folder) => {
            std::fs::create_dir_all(folder).map_err(Failure::Folder)?;
            folder.clone()
        }
        None => {
            let made = demo_folder::folder_of_machines().map_err(Failure::Folder)?;
            temporary.insert(made).path().to_owned()
        }
    };
    let mut page = Page::default();
    page.paragraph(
        "The Skerry Coast Tide Service computes tides on servers of its own. Here some of its machines are, as the \
         files that their kernels showed.",
    );
    for shipped in MACHINES {
        page.entry(shipped.name).plain(shipped.summary);
        let target = folder.join(shipped.name);
        if target.exists() {
            return Err(Failure::DemoStands(target));
        }
        write_demo(shipped, &target)?;
    }
    terminal.print(&page)?;
    if ROUND.iter().zip(1..).any(|((_, words), at)| steps.contains(&at) && words.contains(&ARCHIVE))
    {
        year::file(&folder.join(ARCHIVE))?;
    }
    command(&format!("cd {}", folder.display()), "", terminal)?;
    let home = std::env::current_dir().map_err(Failure::Folder)?;
    std::env::set_current_dir(&folder).map_err(Failure::Folder)?;
    let round = walk(steps, terminal);
    std::env::set_current_dir(home).map_err(Failure::Folder)?;
    round?;
    let mut page = Page::default();
    page.gap();
    page.paragraph(
        "The same machines are subjects of every command: tectum survey --from demo:gannet-after. \
         Without --from, the machine is this one.",
    );
    terminal.print(&page)?;
    Ok(DONE)
}

/// The steps, by their numbers.
fn list(terminal: &mut Terminal) -> Result<Status, Failure> {
    let mut page = Page::default();
    for (number, (why, words)) in (1..).zip(ROUND) {
        page.entry(&number.to_string()).strong(typed(words));
        page.beside().quiet(*why);
    }
    terminal.print(&page)?;
    Ok(DONE)
}

/// A command line as a shell takes it: words with signs of its own in quotes.
fn typed(words: &[&str]) -> String {
    let words = words.iter().map(|word| match word.contains(['[', '{', '*', ' ', '<', '>']) {
        true => format!("'{word}'"),
        false => (*word).to_owned(),
    });
    std::iter::once("tectum".to_owned()).chain(words).collect::<Vec<_>>().join(" ")
}

/// Does some steps, and silently what they build upon.
fn walk(steps: RangeInclusive<usize>, terminal: &mut Terminal) -> Result<(), Failure> {
    for (number, (why, words)) in (1..).zip(ROUND) {
        let shown = steps.contains(&number);
        // What a later step reads, an earlier one wrote.
        let writes =
            words.contains(&"--out") || matches!(words.first(), Some(&"save" | &"capture"));
        if !shown && (number > *steps.end() || !writes) {
            continue;
        }
        let hushed = !shown && words.first() != Some(&"expect") && words.first() != Some(&"redact");
        let line = std::iter::once("tectum").chain(words.iter().copied());
        let line = line.chain(hushed.then_some("--quiet"));
        let Ok(cli) = Cli::try_parse_from(line) else {
            return Err(Failure::DemoDescription {
                name: "round",
                cause: format!("{words:?} is no command line"),
            });
        };
        if shown {
            command(&typed(words), why, terminal)?;
        }
        let status = super::run(&cli, terminal)?;
        if shown && status != DONE {
            terminal.remark(&format!("exit status {status}: something differs or is odd"));
        }
        if shown && number < *steps.end() {
            pause(terminal)?;
        }
    }
    Ok(())
}

/// Waits for somebody who reads along.
fn pause(terminal: &mut Terminal) -> Result<(), Failure> {
    if !(io::stdin().is_terminal() && io::stdout().is_terminal()) {
        return Ok(());
    }
    terminal.remark("Enter goes on, Ctrl-C ends");
    io::stdin().read_line(&mut String::new())?;
    Ok(())
}

fn command(line: &str, why: &str, terminal: &mut Terminal) -> Result<(), Failure> {
    let mut page = Page::default();
    page.gap();
    if !why.is_empty() {
        page.paragraph(why);
    }
    page.command(line);
    page.gap();
    terminal.print(&page)?;
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_line_of_the_round_is_a_command_line() {
        for (_, words) in ROUND {
            let line = std::iter::once("tectum").chain(words.iter().copied());
            assert!(Cli::try_parse_from(line).is_ok(), "{words:?}");
        }
    }
}
