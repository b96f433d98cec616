//! Partitions and what is on a block device.

use super::sectors;
use crate::{
    formats::{assignment, number, partition_type, udev},
    readers::{
        block::{BlockDevice, Mounts, UdevRecord},
        file::{File, list, listing_evidence},
        sayings,
    },
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Why, saying},
    leaf::{Bytes, DeviceName, Label, PathName, Term, Uuid},
    model::Partition,
};

/// What lies on a whole disk or a partition.
pub(super) struct Content {
    pub(super) filesystem: Fact<Term>,
    pub(super) label: Fact<Label>,
    pub(super) uuid: Fact<Uuid>,
    pub(super) mount_points: Fact<Vec<Term>>,
    pub(super) swapped_to: Fact<bool>,
}

impl Content {
    pub(super) fn read(record: &UdevRecord, mounts: &Mounts, number: &str, name: &str) -> Self {
        let mounted = mounts.of(number.trim(), name);
        Self {
            filesystem: record.text("ID_FS_TYPE").or_from(|| mounts.filesystem(&mounted)),
            label: record
                .property(
                    "ID_FS_LABEL_ENC",
                    saying!("label-coded-bytes-put-back", "the label, its coded bytes put back",),
                    |value| Some(Label(udev::decode(value))),
                )
                .or_known(|| {
                    record.property("ID_FS_LABEL", sayings::AS_UDEV_RECORDED, |value| {
                        Some(Label::from(value))
                    })
                }),
            uuid: record
                .property("ID_FS_UUID", sayings::AS_UDEV_RECORDED, |value| Some(Uuid::from(value))),
            mount_points: match record.unknown() {
                Some(gap) => Fact::gap(gap.clone()),
                None => mounts.points(&mounted),
            },
            swapped_to: mounts.is_swapped_to(name),
        }
    }
}

pub(super) fn partitions(disk: &BlockDevice<'_>, mounts: &Mounts) -> Parts<Partition> {
    let names = match list(disk.lease, &disk.folder) {
        Ok(names) => names,
        Err(gap) => return Parts::missing(gap),
    };
    let mut found: Vec<Partition> = names
        .iter()
        .filter_map(|name| name.to_str())
        .filter(|name| name.starts_with(&disk.name))
        .filter_map(|name| partition(disk, name, mounts))
        .collect();
    found.sort_by_key(|partition| {
        (partition.start_bytes.value().copied(), partition.number.value().copied())
    });
    find_overlaps(&mut found);
    let rule = saying!(
        "folders-disk-folder-hold-file",
        "folders in the disk's folder that hold a file `partition`",
    );
    Parts::known(found, listing_evidence(&disk.folder, rule))
}

pub(super) fn partition(disk: &BlockDevice<'_>, name: &str, mounts: &Mounts) -> Option<Partition> {
    let file =
        |attribute: &str| File::read(disk.lease, format!("{}/{name}/{attribute}", disk.folder));
    let number = file("partition").fact(
        saying!("number-partition-table", "its number in the partition table"),
        number::decimal,
    );
    // Every other folder beneath a disk lacks the file.
    if number.missing().is_some_and(|gap| gap.why == Why::NotProvided) {
        return None;
    }
    let device_number = file("dev");
    let record = UdevRecord::of(disk.lease, &device_number);
    let device_number = device_number.text();
    let event = file("uevent");
    let text = event.text();
    let event_fields = assignment::plain(&text);
    let content = Content::read(&record, mounts, &device_number, name);
    let rule = saying!("kernel-announces-lower-case", "as the kernel announces it, lower case");
    let type_id = record.text("ID_PART_ENTRY_TYPE");
    Some(Partition {
        name: Fact::known(
            DeviceName(name.replace('!', "/")),
            listing_evidence(&disk.folder, sayings::FOLDER_NAME).raw(name),
        ),
        number,
        aligned: sectors(&file("start")).map(|start| start.is_multiple_of(1 << 20)).by_rule(
            saying!(
                "whether-start-multiple-1048576-bytes",
                "whether the start is a multiple of 1048576 bytes",
            ),
        ),
        holders: super::holders::holders(disk.lease, &format!("{}/{name}", disk.folder))
            .map(|all| all.into_iter().map(|text| DeviceName(text.0)).collect()),
        type_name: type_id.clone().and_then(|id| match partition_type::words(&id) {
            Some(words) => Ok(Term::from(words)),
            None => Err(Gap::new(Why::NotProvided)
                .hint(saying!("type-not-among-known", "Tectum knows no words for this type",))),
        }),
        size_bytes: match type_id.value().is_some_and(|id| partition_type::is_extended(id)) {
            true => record.property(
                "ID_PART_ENTRY_SIZE",
                saying!(
                    "sectors-512-bytes-partition-table",
                    "sectors of 512 bytes, by the partition table",
                ),
                |text| number::decimal(text)?.checked_mul(512).map(Bytes),
            ),
            false => sectors(&file("size")),
        },
        type_id,
        flags: flags(&record),
        overlaps: Fact::not_applicable(saying!(
            "begins-in-no-other-partition",
            "it begins in no other partition",
        )),
        start_bytes: sectors(&file("start")),
        partuuid: event
            .assigned(&event_fields, "PARTUUID", rule, |value| {
                Some(Uuid(value.to_ascii_lowercase()))
            })
            .or_from(|| {
                record.property(
                    "ID_PART_ENTRY_UUID",
                    saying!("udev-recorded-lower-case", "as udev recorded it, lower case"),
                    |value| Some(Uuid(value.to_ascii_lowercase())),
                )
            }),
        label: record
            .property(
                "ID_PART_ENTRY_NAME",
                saying!(
                    "udev-recorded-coded-bytes-put-back",
                    "as udev recorded it, coded bytes put back",
                ),
                |value| Some(Label(udev::decode(value))),
            )
            .or_known(|| {
                let rule = saying!("kernel-announces", "as the kernel announces it");
                event
                    .assigned(&event_fields, "PARTNAME", rule, |value| Some(Label::from(value)))
                    .and_then(whole)
            }),
        filesystem: content.filesystem,
        filesystem_label: content.label,
        filesystem_uuid: content.uuid,
        mount_points: content
            .mount_points
            .map(|all| all.into_iter().map(|text| PathName(text.0)).collect()),
        swapped_to: content.swapped_to,
    })
}

/// The bits beside the type; udev records none where none is set.
fn flags(record: &UdevRecord) -> Fact<Vec<Term>> {
    let scheme = record.text("ID_PART_ENTRY_SCHEME");
    let Some(known) = scheme.value().cloned() else {
        return scheme.map(|_| Vec::new());
    };
    let terms = |names: Vec<String>| names.into_iter().map(Term).collect();
    record
        .property(
            "ID_PART_ENTRY_FLAGS",
            saying!("names-of-bits-set", "the names of the bits that are set"),
            |number| partition_type::flags(&known, number).map(terms),
        )
        .or_none_where(
            |gap| gap.why == Why::NotProvided,
            || {
                scheme
                    .clone()
                    .map(|_| Vec::new())
                    .by_rule(saying!("udev-records-no-flags", "udev recorded no flags for it"))
            },
        )
}

/// Says of each partition into which one in front of it it begins. They stand in the order of their
/// starts.
fn find_overlaps(partitions: &mut [Partition]) {
    let mut furthest: Option<(Bytes, DeviceName)> = None;
    for partition in partitions {
        if is_extended(partition) {
            continue;
        }
        let (Some(start), Some(size), Some(name)) = (
            partition.start_bytes.value().copied(),
            partition.size_bytes.value().copied(),
            partition.name.value().cloned(),
        ) else {
            continue;
        };
        let end = Bytes(start.0.saturating_add(size.0));
        if let Some((until, other)) = &furthest
            && *until > start
        {
            partition.overlaps = partition
                .start_bytes
                .clone()
                .map(|_| other.clone())
                .by_rule(saying!("begins-before-other-ends", "it begins before that one ends"));
        }
        if furthest.as_ref().is_none_or(|(until, _)| *until < end) {
            furthest = Some((end, name));
        }
    }
}

/// Whether it only holds others.
pub(super) fn is_extended(partition: &Partition) -> bool {
    partition.type_id.value().is_some_and(|id| partition_type::is_extended(id))
}

/// A partition's name as the kernel announces it, where nothing of it can have been lost: the kernel
/// keeps the low byte of each character (`block/partitions/efi.c`), so that other scripts turn into
/// digits, signs and capital letters. Small letters it hardly makes of any.
fn whole(name: Label) -> Result<Label, Gap> {
    let plain =
        |byte: u8| byte.is_ascii_alphanumeric() || matches!(byte, b' ' | b'_' | b'.' | b'-');
    let small = name.0.bytes().any(|byte| byte.is_ascii_lowercase());
    match small && name.0.bytes().all(plain) {
        true => Ok(name),
        false => Err(Gap::new(Why::Invalid).raw(&name.0).hint(saying!(
            "kernel-keeps-half-of-each-character",
            "the kernel keeps only half of each character; udev's database has the name whole",
        ))),
    }
}
