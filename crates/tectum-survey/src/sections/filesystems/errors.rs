//! Errors that filesystems recorded in themselves (`Documentation/ABI/testing/sysfs-fs-ext4`).

use jiff::Timestamp;

use crate::{
    formats::number,
    readers::{
        file::{File, hidden, list, listing_evidence, numbered},
        sayings,
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Why, saying},
    leaf::{DeviceName, Moment, Term, Uuid},
    model::{FilesystemErrors, MemberErrors},
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

/// A folder for each mounted btrfs filesystem, beside one for what all of them can.
const SPREAD_ROOT: &str = "/sys/fs/btrfs";

/// What a filesystem counts on each of its devices (`fs/btrfs/sysfs.c`, `devinfo`).
pub(super) fn of_members(lease: &Lease) -> Parts<MemberErrors> {
    let names = match list(lease, SPREAD_ROOT) {
        Ok(names) => names,
        Err(gap) => return Parts::missing(gap),
    };
    let mut parts = Vec::new();
    let mut unseen = None;
    for uuid in names.iter().filter_map(|name| name.to_str()) {
        let folder = format!("{SPREAD_ROOT}/{uuid}/devinfo");
        let members = list(lease, &folder);
        unseen = unseen.or(hidden(&members).cloned());
        let Ok(members) = members else { continue };
        for number in numbered(&members, "") {
            let file = |name: &str| File::read(lease, format!("{folder}/{number}/{name}"));
            let counts = file("error_stats");
            let count = |name: &str| {
                counts.fact(
                    saying!("number-behind-its-name", "the number behind its name"),
                    |text| {
                        let mut lines = text.lines().filter_map(|line| line.split_once(' '));
                        number::decimal(lines.find(|(key, _)| *key == name)?.1)
                    },
                )
            };
            parts.push(MemberErrors {
                filesystem_uuid: Fact::known(
                    Uuid(uuid.to_owned()),
                    listing_evidence(SPREAD_ROOT, sayings::NAME_OF_THE_FOLDER).raw(uuid),
                ),
                number: Fact::known(
                    number,
                    listing_evidence(&folder, sayings::NUMBER_FOLDER_NAME).raw(&number.to_string()),
                ),
                missing: file("missing").fact(sayings::ONE_IS_YES, number::flag),
                write_errors: count("write_errs"),
                read_errors: count("read_errs"),
                flush_errors: count("flush_errs"),
                corruption_errors: count("corruption_errs"),
                generation_errors: count("generation_errs"),
            });
        }
    }
    let rule = saying!("every-device-of-btrfs", "every device of every mounted btrfs filesystem");
    Parts::known(parts, listing_evidence(SPREAD_ROOT, rule)).in_part(unseen)
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
