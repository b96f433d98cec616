//! Errors that filesystems recorded in themselves (`Documentation/ABI/testing/sysfs-fs-ext4`).

use jiff::Timestamp;

use crate::{
    formats::number,
    readers::{
        file::{File, list, listing_evidence},
        sayings,
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Why, saying},
    leaf::{DeviceName, Moment, Term},
    model::FilesystemErrors,
};

/// A folder for each mounted ext4 filesystem, beside one for what all of them can.
const ROOT: &str = "/sys/fs/ext4";

pub(super) fn errors(lease: &Lease) -> Parts<FilesystemErrors> {
    let names = match list(lease, ROOT) {
        Ok(names) => names,
        Err(gap) => return Parts::missing(gap),
    };
    let mut names: Vec<&str> =
        names.iter().filter_map(|name| name.to_str()).filter(|name| *name != "features").collect();
    names.sort_unstable();
    let parts = names.into_iter().map(|name| {
        let file = |attribute: &str| File::read(lease, format!("{ROOT}/{name}/{attribute}"));
        let evidence = listing_evidence(ROOT, sayings::FOLDER_NAME).raw(name);
        FilesystemErrors {
            device: Fact::known(DeviceName(name.replace('!', "/")), evidence),
            errors: file("errors_count").fact(sayings::DECIMAL_NUMBER, number::decimal),
            first_at: moment(&file("first_error_time")),
            first_function: function(&file("first_error_func")),
            last_at: moment(&file("last_error_time")),
            last_function: function(&file("last_error_func")),
        }
    });
    let rule = saying!("every-mounted-ext4", "every mounted ext4 filesystem");
    Parts::known(parts.collect(), listing_evidence(ROOT, rule))
}

fn none() -> Gap {
    Gap::new(Why::NotApplicable).hint(saying!("no-error-recorded", "it recorded no error"))
}

/// Seconds since 1970; 0 where there was no error.
fn moment(file: &File) -> Fact<Moment> {
    let seconds = file.fact(
        saying!("seconds-since-1970-01-01", "seconds since 1970-01-01 UTC, as a date"),
        number::signed,
    );
    seconds.and_then(|seconds| match Timestamp::from_second(seconds) {
        Ok(_) if seconds == 0 => Err(none()),
        Ok(time) => Ok(Moment(time)),
        Err(_) => Err(Gap::new(Why::Invalid)),
    })
}

fn function(file: &File) -> Fact<Term> {
    // The file is empty where there was no error.
    match file.bytes().is_ok_and(|bytes| bytes.iter().all(u8::is_ascii_whitespace)) {
        true => Fact::gap(none()),
        false => file.text_fact(),
    }
}
