//! Partitions and what is on a block device.

use super::sectors;
use crate::{
    formats::{assignment, number, udev},
    readers::{
        block::{BlockDevice, Mounts, UdevRecord},
        file::{File, list, listing_evidence},
        sayings,
    },
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Saying, Why},
    leaf::{DeviceName, Label, PathName, Term, Uuid},
    model::Partition,
};

/// What lies on a whole disk or a partition.
pub(super) struct Content {
    pub(super) filesystem: Fact<Term>,
    pub(super) label: Fact<Label>,
    pub(super) uuid: Fact<Uuid>,
    pub(super) mount_points: Fact<Vec<Term>>,
}

impl Content {
    pub(super) fn read(record: &UdevRecord, mounts: &Mounts, number: &str, name: &str) -> Self {
        let mounted = mounts.of(number.trim(), name);
        Self {
            filesystem: record.text("ID_FS_TYPE").or_from(|| mounts.filesystem(&mounted)),
            label: record
                .property(
                    "ID_FS_LABEL_ENC",
                    Saying::new(
                        "label-coded-bytes-put-back",
                        "the label, its coded bytes put back",
                    ),
                    |value| Some(Label(udev::decode(value))),
                )
                .or_known(|| {
                    record.property("ID_FS_LABEL", sayings::AS_UDEV_RECORDED, |value| {
                        Some(Label::from(value))
                    })
                }),
            uuid: record
                .property("ID_FS_UUID", sayings::AS_UDEV_RECORDED, |value| Some(Uuid::from(value))),
            mount_points: mounts.points(&mounted),
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
    let rule = Saying::new(
        "folders-disk-folder-hold-file",
        "folders in the disk's folder that hold a file `partition`",
    );
    Parts::known(found, listing_evidence(&disk.folder, rule))
}

pub(super) fn partition(disk: &BlockDevice<'_>, name: &str, mounts: &Mounts) -> Option<Partition> {
    let file =
        |attribute: &str| File::read(disk.lease, format!("{}/{name}/{attribute}", disk.folder));
    let number = file("partition").fact(
        Saying::new("number-partition-table", "its number in the partition table"),
        number::decimal,
    );
    // Every other folder beneath a disk lacks the file.
    if number.missing().is_some_and(|gap| gap.why == Why::NotProvided) {
        return None;
    }
    let device_number = file("dev");
    let device_number = device_number.text();
    let record = UdevRecord::read(disk.lease, device_number.trim());
    let event = file("uevent");
    let text = event.text();
    let event_fields = assignment::plain(&text);
    let content = Content::read(&record, mounts, &device_number, name);
    let rule = Saying::new("kernel-announces-lower-case", "as the kernel announces it, lower case");
    Some(Partition {
        name: Fact::known(
            DeviceName(name.replace('!', "/")),
            listing_evidence(&disk.folder, sayings::FOLDER_NAME).raw(name),
        ),
        number,
        aligned: sectors(&file("start")).map(|start| start.is_multiple_of(1 << 20)).by_rule(
            Saying::new(
                "whether-start-multiple-1048576-bytes",
                "whether the start is a multiple of 1048576 bytes",
            ),
        ),
        holders: super::holders::holders(disk.lease, &format!("{}/{name}", disk.folder))
            .map(|all| all.into_iter().map(|text| DeviceName(text.0)).collect()),
        type_id: record.text("ID_PART_ENTRY_TYPE"),
        start_bytes: sectors(&file("start")),
        size_bytes: sectors(&file("size")),
        partuuid: event
            .assigned(&event_fields, "PARTUUID", rule, |value| {
                Some(Uuid(value.to_ascii_lowercase()))
            })
            .or_from(|| {
                record.property(
                    "ID_PART_ENTRY_UUID",
                    Saying::new("udev-recorded-lower-case", "as udev recorded it, lower case"),
                    |value| Some(Uuid(value.to_ascii_lowercase())),
                )
            }),
        label: record
            .property(
                "ID_PART_ENTRY_NAME",
                Saying::new(
                    "udev-recorded-coded-bytes-put-back",
                    "as udev recorded it, coded bytes put back",
                ),
                |value| Some(Label(udev::decode(value))),
            )
            .or_known(|| {
                let rule = Saying::new("kernel-announces", "as the kernel announces it");
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
    })
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
        false => Err(Gap::new(Why::Invalid).raw(&name.0).hint(Saying::new(
            "kernel-keeps-half-of-each-character",
            "the kernel keeps only half of each character; udev's database has the name whole",
        ))),
    }
}
