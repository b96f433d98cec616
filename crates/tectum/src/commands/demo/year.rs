//! The archive of a made-up year: every look is a survey of the machine as it was, filed as it would have been.

use std::path::Path;

use jiff::{Timestamp, Zoned};
use tectum_archive::{
    store::{Store, folder::FolderStore},
    written::Prepared,
};
use tectum_demo::{Tree, year::looks};
use tectum_report::{
    Report,
    finding::{Judgement, Limits},
};
use tectum_survey::source::{Door, Tree as Folder};

use crate::{
    args::Patience,
    demo_folder,
    exit::Failure,
    subject::{Subject, sections, surveyed},
    views::Progress,
};

/// Files the looks of the year into an archive, which is made.
pub(super) fn file(archive: &Path) -> Result<(), Failure> {
    let told = |error: &dyn std::error::Error| Failure::DemoDescription {
        name: "year",
        cause: error.to_string(),
    };
    // It ended yesterday, so that nothing but what is meant to be is long ago.
    let yesterday = Zoned::now().date().yesterday().map_err(|error| told(&error))?;
    let looks = looks(yesterday).map_err(|error| told(&error))?;
    let plan = Patience::default().plan(sections(&[], &[])?);
    let store = FolderStore::open_or_make(archive, false)?;
    let place = demo_folder::folder_of_machines().map_err(Failure::Folder)?;
    let progress = Progress::new(looks.len());
    let mut written = Tree::default();
    for look in &looks {
        let tree = Tree::of(&look.machine);
        tree.write_over(&written, place.path())?;
        written = tree;
        let door = Door::new(Folder::folder(place.path())?);
        let mut report: Report =
            // As the machine's own nightly look would have named it.
            surveyed(&door, &Subject::Live, &plan, &mut |_| {});
        report.taken.at = Timestamp::from_second(look.at).map_err(|error| told(&error))?;
        store.save(&Prepared::of(&report, &Judgement::of(&report, &Limits::default()))?)?;
        progress.step();
    }
    progress.end();
    Ok(())
}
