//! How requests reach a disk, what its partitions leave free, what an optical drive can
//! (`Documentation/ABI/stable/sysfs-block`, `Documentation/cdrom`).

use crate::readers::sayings;
use std::sync::Arc;

use crate::{
    formats::{
        Line, lines, number,
        vital_product_data::{BlockCharacteristics, block_characteristics},
    },
    readers::{
        block::BlockDevice,
        file::{File, listing_evidence},
    },
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Saying, Why},
    leaf::{Bytes, Term},
    model::{DiskKind, FreeSpace, Partition},
};

/// The chosen one of `none [mq-deadline] kyber`; a single word is chosen.
pub(super) fn chosen(text: &str) -> Option<Term> {
    match text.split_once('[') {
        Some((_, rest)) => rest.split_once(']').map(|(word, _)| Term::from(word)),
        None => (!text.contains(' ')).then(|| Term::from(text)),
    }
}

pub(super) fn depth(device: &BlockDevice<'_>, kind: DiskKind) -> Fact<u64> {
    let file = match kind {
        DiskKind::Scsi | DiskKind::Ata | DiskKind::Usb => "device/queue_depth",
        _ => "queue/nr_requests",
    };
    device.file(file).fact(sayings::DECIMAL_NUMBER, number::decimal)
}

pub(super) fn numa_node(device: &BlockDevice<'_>) -> Fact<u64> {
    let of = |file: &str| device.file(file).numa_node();
    of("device/numa_node").or_known(|| of("device/device/numa_node"))
}

/// What the drive says of itself in its characteristics page (SBC-5 clause 6.6.2).
pub(super) fn characteristic<T: std::fmt::Display>(
    device: &BlockDevice<'_>,
    pick: impl FnOnce(BlockCharacteristics) -> Option<T>,
) -> Fact<T> {
    let page = device.file("device/vpd_pgb1");
    let bytes = match page.bytes() {
        Ok(bytes) => bytes,
        Err(gap) => return Fact::gap(gap.clone()),
    };
    let gap = |why, answer: Saying| Fact::gap(Gap::new(why).tried(Arc::clone(page.path()), answer));
    match block_characteristics(bytes).map(pick) {
        None => gap(
            Why::Invalid,
            Saying::new(
                "no-block-device-characteristics-page",
                "is no block device characteristics page",
            ),
        ),
        Some(None) => gap(Why::Blank, sayings::DOES_NOT_SAY_IT),
        Some(Some(value)) => {
            let rule = Saying::new(
                "field-block-device-characteristics-page",
                "a field of the block device characteristics page",
            );
            let raw = value.to_string();
            Fact::known(value, Evidence::new(Arc::clone(page.path()), rule).raw(&raw))
        }
    }
}

/// What no partition takes. Logical partitions lie within an extended one, so that overlaps are
/// counted once.
pub(super) fn unpartitioned(size: &Fact<Bytes>, partitions: &Parts<Partition>) -> Fact<u64> {
    if partitions.gap().is_some() || partitions.is_empty() {
        return Fact::not_applicable(Saying::new("it-has-no-partitions", "it has no partitions"));
    }
    let mut taken = 0u64;
    let mut end = 0u64;
    // They stand in the order of their starts.
    for partition in partitions.iter() {
        let (Some(start), Some(length)) =
            (partition.start_bytes.value(), partition.size_bytes.value())
        else {
            continue;
        };
        let last = start.saturating_add(length.0);
        taken = taken.saturating_add(last.saturating_sub(end.max(start.0)));
        end = end.max(last);
    }
    size.clone()
        .and_then(|size| {
            size.checked_sub(taken).ok_or_else(|| {
                Gap::new(Why::Invalid).hint(Saying::new(
                    "partitions-reach-beyond-disk",
                    "partitions reach beyond the disk",
                ))
            })
        })
        .by_rule(Saying::new(
            "disk-size-less-partitions-take",
            "the disk's size, less what its partitions take, overlaps once",
        ))
}

/// Where no partition lies. What lies before the first one, up to a mebibyte, holds the table.
pub(super) fn free_spaces(
    folder: &str,
    size: &Fact<Bytes>,
    partitions: &Parts<Partition>,
) -> Parts<FreeSpace> {
    const LEAST: u64 = 1 << 20;
    if let Some(gap) = partitions.gap() {
        return Parts::missing(gap.clone());
    }
    if partitions.is_empty() {
        let gap = Gap::new(Why::NotApplicable);
        return Parts::missing(
            gap.tried(folder.into(), Saying::new("no-partitions", "has no partitions")),
        );
    }
    let mut spaces = Vec::new();
    let mut end = 0u64;
    let mut space = |from: u64, to: &Fact<Bytes>, until: u64| {
        let length = until.saturating_sub(from);
        if length < LEAST || (from == 0 && length == LEAST) {
            return;
        }
        let fact = |value: u64, rule: Saying| {
            Fact::known_from(value, to.evidence().to_vec()).by_rule(rule)
        };
        spaces.push(FreeSpace {
            start_bytes: fact(
                from,
                Saying::new("partitions-front-end", "where the partitions in front of it end"),
            )
            .map(Bytes),
            size_bytes: fact(
                length,
                Saying::new(
                    "next-partition-end",
                    "from there to the next partition, or to the end",
                ),
            )
            .map(Bytes),
        });
    };
    // They stand in the order of their starts.
    for partition in partitions.iter() {
        let (Some(start), Some(length)) =
            (partition.start_bytes.value(), partition.size_bytes.value())
        else {
            continue;
        };
        space(end, &partition.start_bytes, start.0);
        end = end.max(start.saturating_add(length.0));
    }
    if let Some(whole) = size.value() {
        space(end, size, whole.0);
    }
    Parts::known(
        spaces,
        listing_evidence(folder, Saying::new("partitions-leave", "what its partitions leave")),
    )
}

/// A row of `/proc/sys/dev/cdrom/info`: the words before the colon, and the value in the column of a
/// drive.
fn row<'a>(text: &'a str, drive: &str, name: &str) -> Option<(Line<'a>, &'a str)> {
    let rows = || {
        lines(text).filter_map(|line| {
            let (name, values) = line.raw.split_once(':')?;
            Some((line, name.trim(), values))
        })
    };
    let (_, _, names) = rows().find(|(_, name, _)| *name == "drive name")?;
    let column = names.split_whitespace().position(|name| name == drive)?;
    let (line, _, values) = rows().find(|(_, row, _)| *row == name)?;
    Some((line, values.split_whitespace().nth(column)?))
}

fn info(device: &BlockDevice<'_>) -> File {
    File::read(device.lease, "/proc/sys/dev/cdrom/info")
}

pub(super) fn optical_speed(device: &BlockDevice<'_>) -> Fact<u64> {
    let file = info(device);
    let text = file.text();
    match row(&text, &device.name, "drive speed") {
        Some((line, value)) => match number::decimal(value) {
            Some(speed) => Fact::known(
                speed,
                file.at_line(line, Saying::new("drive-column", "the drive's column")),
            ),
            None => Fact::gap(Gap::new(Why::Invalid).raw(line.raw)),
        },
        None => Fact::gap(file.lacks("the drive's speed")),
    }
}

/// The rows that say `Can …` and hold 1 for the drive.
pub(super) fn optical_abilities(device: &BlockDevice<'_>) -> Fact<Vec<Term>> {
    let file = info(device);
    let text = file.text();
    if row(&text, &device.name, "drive name").is_none() {
        return Fact::gap(file.lacks("the drive"));
    }
    let mut names = Vec::new();
    let mut evidence = Vec::new();
    for line in lines(&text) {
        let Some((name, _)) = line.raw.split_once(':') else { continue };
        let Some(ability) = name.trim().strip_prefix("Can ") else { continue };
        if let Some((line, "1")) = row(&text, &device.name, name.trim()) {
            names.push(Term::from(ability));
            evidence
                .push(file.at_line(line, Saying::new("1-drive-column", "1 in the drive's column")));
        }
    }
    if evidence.is_empty() {
        let whole =
            Evidence::new(Arc::clone(file.path()), Saying::new("no-row-holds-1", "no row holds 1"));
        return Fact::known(names, whole.raw(&device.name));
    }
    Fact::known_from(names, evidence)
}
