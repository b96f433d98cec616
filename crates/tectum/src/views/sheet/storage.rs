//! Storage: each disk as a bar with its partitions in proportion, a table under it.

pub(super) mod stack;

use crate::page::{Page, TOGETHER, UNKNOWN};
use tectum_report::{
    fact::{Fact, Why},
    leaf::{Bytes, DeviceName, Lanes, MegabitsPerSecond, PathName, Term, in_large_units},
    model::{Disk, DiskKind, Partition, Storage},
};

use super::{
    View,
    alike::{alike, names},
    bars::disk_bar,
    cell, joined, known, link_words, size_cell, why,
};
use crate::views::quantity::{count, decimal, disk_size, size};

pub(super) fn print(storage: &Storage, view: &View<'_>, page: &mut Page) {
    let said = page.entry("storage");
    if let Some(gap) = storage.disks.gap() {
        said.plain(format!("disks: {}", why(gap)));
        return;
    }
    let total = storage.total_bytes.value().copied().unwrap_or_default();
    let drives = storage.drives.value().and_then(|it| usize::try_from(*it).ok()).unwrap_or(0);
    let paths = storage.disks.iter().filter(|disk| disk.multipath_of.is_known()).count();
    let is_floppy = |disk: &&Disk| disk.kind.value() == Some(&DiskKind::Floppy);
    let floppies = storage.disks.iter().filter(is_floppy).count();
    let beside = [
        (floppies, "floppy drive", "floppy drives"),
        (storage.optical_drives.len(), "optical drive", "optical drives"),
    ];
    // Neither is among the disks that are counted.
    let others = beside
        .into_iter()
        .filter(|(number, ..)| *number > 0)
        .map(|(number, one, several)| format!(", {}", count(number, one, several)));
    let others: String = others.collect();
    match storage.disks.len() - floppies {
        0 => said.plain(format!("no disk{others}")),
        disks => said
            .strong(disk_size(Bytes(total.0), view.units))
            .plain(format!(" on {}{others}", count(drives.min(disks), "disk", "disks")))
            .quiet(match paths {
                0 => String::new(),
                paths => format!(", reached by {} more", count(paths, "path", "paths")),
            }),
    };
    if view.drawn {
        for disk in storage.disks.iter() {
            page.gap();
            drawn(disk, view, page);
        }
    } else {
        briefly(storage, view, page);
    }
    if view.drawn {
        for drive in storage.optical_drives.iter() {
            page.gap();
            page.beside()
                .strong(cell(&drive.name))
                .plain(format!(
                    "  optical drive, {}",
                    joined([known(&drive.vendor), known(&drive.model)], " ")
                ))
                .quiet(joined(
                    [known(&drive.serial).map(|serial| format!(", serial{TOGETHER}{serial}"))],
                    "",
                ));
            if let Some(bytes) = drive.disc_size_bytes.value() {
                page.beside().plain(joined(
                    [
                        Some(format!("disc of {}", size(*bytes, view.units))),
                        known(&drive.disc_filesystem),
                        known(&drive.disc_label).map(|label| format!("label {label}")),
                        known(&drive.disc_mount_points)
                            .filter(|points| !points.is_empty())
                            .map(|points| format!("mounted at {points}")),
                    ],
                    ", ",
                ));
            }
        }
        if !storage.volumes.is_empty() {
            stack::draw(storage, view, page);
        }
    } else if !storage.volumes.is_empty() {
        page.beside().quiet(count(
            stack::made(storage).len(),
            "volume made of them",
            "volumes made of them",
        ));
    }
}

/// Disks a line each; many that are alike in one line.
fn briefly(storage: &Storage, view: &View<'_>, page: &mut Page) {
    let widest = storage.disks.iter().map(|disk| cell(&disk.name).chars().count()).max();
    for group in alike(storage.disks.iter(), |disk| Some(likeness(disk))) {
        match group.as_slice() {
            [one] => brief(one, widest.unwrap_or(0), view, page),
            several => {
                let Some(first) = several.first() else { continue };
                let (each, model) = (size_cell(&first.size_bytes, decimal), model(first));
                page.beside()
                    .strong(format!("{} × ", several.len()))
                    .bar(disk_bar(first, view))
                    .plain(format!(" {each} each, {model}"))
                    .quiet(format!(": {}", names(several, |disk| cell(&disk.name))));
            }
        }
    }
}

/// What disks that are told together have in common.
fn likeness(disk: &Disk) -> String {
    // Members of one array are alike, whichever it is; what is mounted is told apart.
    let content = |filesystem: &Fact<Term>, points: &Fact<Vec<PathName>>| {
        format!("{}/{}", cell(filesystem), known(points).unwrap_or_default())
    };
    let whole = content(&disk.filesystem, &disk.mount_points);
    let parts = disk.partitions.iter().map(|part| {
        let within = content(&part.filesystem, &part.mount_points);
        format!("{}/{within}", cell(&part.size_bytes))
    });
    let parts: Vec<String> = parts.collect();
    let (size, multipath) = (cell(&disk.size_bytes), disk.multipath_of.is_known());
    format!("{}|{size}|{}|{multipath}|{whole}|{}", model(disk), kind(disk), parts.join(";"))
}

fn brief(disk: &Disk, name_width: usize, view: &View<'_>, page: &mut Page) {
    let said = page.beside().strong(format!("{:<name_width$}", cell(&disk.name))).plain(" ");
    if is_without_medium(disk) {
        said.plain(format!("no medium, {}", model(disk))).serial(&disk.serial);
        return;
    }
    said.bar(disk_bar(disk, view))
        .plain(format!(" {}, {}", size_cell(&disk.size_bytes, decimal), model(disk)))
        .serial(&disk.serial);
}

/// Whether a drive holds nothing now: a reader without its card, a floppy drive without a disk.
fn is_without_medium(disk: &Disk) -> bool {
    disk.removable.value() == Some(&true) && disk.size_bytes.value().is_some_and(|it| it.0 == 0)
}

fn model(disk: &Disk) -> String {
    let (vendor, model) = (known(&disk.vendor), known(&disk.model));
    // Some models begin with their maker's name.
    let vendor = vendor.filter(|vendor| !model.as_ref().is_some_and(|it| it.starts_with(vendor)));
    let name = joined([vendor, model], " ");
    if name.is_empty() { format!("{} disk", cell(&disk.kind)) } else { name }
}

/// The kind of drive, with what carries its commands where that may be one of several; one on ATA that has a serial link
/// is SATA.
fn kind(disk: &Disk) -> String {
    let serial = disk.link_speed_mbps.is_known() || disk.max_link_speed_mbps.is_known();
    match (disk.kind.value(), known(&disk.transport)) {
        (Some(DiskKind::Ata), _) if serial => "sata".to_owned(),
        (Some(DiskKind::Scsi), Some(transport)) => format!("scsi by {transport}"),
        (Some(DiskKind::Nvme), Some(transport)) if transport != "pcie" => {
            format!("nvme by {transport}")
        }
        _ => cell(&disk.kind),
    }
}

/// Whether what lies behind a disk is another machine's, which passes on what it likes.
fn is_passed_on(disk: &Disk) -> bool {
    let by = disk.transport.value().map(|transport| transport.0.as_str());
    matches!(
        disk.kind.value(),
        Some(DiskKind::Virtio | DiskKind::Usb | DiskKind::Xen | DiskKind::Network)
    ) || matches!(by, Some("iscsi" | "fc" | "tcp" | "rdma" | "loop"))
}

/// The link's speed, and the best there could be where that is another.
fn link(disk: &Disk) -> Option<String> {
    let rate = |rate: &Fact<MegabitsPerSecond>, lanes: &Fact<Lanes>| {
        let rate = in_large_units(i128::from(rate.value()?.0), 1000);
        Some(match lanes.value().filter(|lanes| lanes.0 > 1) {
            Some(lanes) => format!("{rate} Gb/s x{lanes}"),
            None => format!("{rate} Gb/s"),
        })
    };
    let now = rate(&disk.link_speed_mbps, &disk.link_lanes)
        .or_else(|| link_words(&disk.link_speed_mts, &disk.link_lanes))?;
    let best = rate(&disk.max_link_speed_mbps, &disk.max_link_lanes)
        .or_else(|| link_words(&disk.max_link_speed_mts, &disk.max_link_lanes));
    match best.filter(|best| *best != now) {
        Some(best) => Some(format!("link {now} of {best}")),
        None => Some(format!("link {now}")),
    }
}

/// How warm it was, in whole degrees.
fn temperature(disk: &Disk, view: &View<'_>) -> Option<String> {
    let own = view.readings.disks.of(&[disk])?;
    let degrees = own.temperature_millicelsius.value()?.0.checked_div(1000)?;
    Some(format!("{degrees} °C"))
}

fn drawn(disk: &Disk, view: &View<'_>, page: &mut Page) {
    let holds = match is_without_medium(disk) {
        true => "no medium".to_owned(),
        false => size_cell(&disk.size_bytes, |bytes| disk_size(bytes, view.units)),
    };
    page.beside().strong(cell(&disk.name)).plain(format!("  {holds}, {}", model(disk)));
    // Of a disk that only passes on what lies behind it, and of a SCSI one that does not say, the kernel takes a rotating
    // one until it is told otherwise: that says nothing of what turns.
    let silent = disk.rotation_rpm.missing().is_some_and(|gap| gap.why == Why::Blank);
    let taken_for = disk.kind.value() == Some(&DiskKind::Scsi) && silent;
    let rotates = match disk.rotating.value().filter(|_| !is_passed_on(disk)) {
        // The drive's own word says more than what the kernel takes it for.
        _ if disk.rotation_rpm.value().is_some_and(|rpm| rpm.0 > 0) => {
            known(&disk.rotation_rpm).map(|rpm| format!("{rpm} rpm"))
        }
        Some(true) if taken_for => None,
        Some(true) => Some("rotating".to_owned()),
        Some(false) => Some("not rotating".to_owned()),
        None => None,
    };
    page.beside().quiet(joined(
        [
            Some(match known(&disk.address) {
                Some(address) => format!("{} at {address}", kind(disk)),
                None => kind(disk),
            }),
            known(&disk.multipath_of).map(|other| format!("another path to {other}")),
            // What holds a drive on PCI is a slot, by the number that its hot-plug port gives.
            known(&disk.bay).map(|bay| match disk.kind.value() {
                Some(DiskKind::Nvme) => format!("PCI slot {bay}"),
                // Some enclosures say the word themselves.
                _ if bay.to_ascii_lowercase().starts_with("bay") => bay,
                _ => format!("bay {bay}"),
            }),
            known(&disk.serial).map(|serial| format!("serial {serial}")),
            known(&disk.firmware_revision).map(|revision| format!("firmware {revision}")),
            rotates,
            link(disk),
            (disk.removable.value() == Some(&true)).then(|| "removable".to_owned()),
            (disk.read_only.value() == Some(&true)).then(|| "read-only".to_owned()),
            temperature(disk, view),
        ],
        ", ",
    ));
    let Some(whole) = disk.size_bytes.value().filter(|size| size.0 > 0) else { return };
    page.bar(disk_bar(disk, view));
    if let Some(free) = disk.unpartitioned_bytes.value().filter(|free| free.0 >= 1 << 20) {
        page.beside().quiet(format!("{} in no partition", size(*free, view.units)));
    }
    let crooked = disk.partitions.iter().filter(|one| one.aligned.value() == Some(&false)).count();
    if crooked > 0 {
        page.beside().quiet(format!(
            "{} not at a multiple of 1 MiB",
            count(crooked, "partition begins", "partitions begin")
        ));
    }
    let mut rows: Vec<Vec<String>> = Vec::new();
    if let Some(filesystem) = known(&disk.filesystem) {
        rows.push(vec![
            cell(&disk.name),
            size(*whole, view.units),
            UNKNOWN.to_owned(),
            filesystem,
            cell(&disk.filesystem_label),
            used_at(&disk.mount_points, &disk.holders, &disk.swapped_to, view),
        ]);
    }
    rows.extend(disk.partitions.iter().map(|partition| row(partition, view)));
    if !rows.is_empty() {
        page.table(&["partition", ">size", "type", "filesystem", "label", "mount point"], rows);
    }
}

fn row(partition: &Partition, view: &View<'_>) -> Vec<String> {
    let label = known(&partition.filesystem_label).or_else(|| known(&partition.label));
    let kind = joined(
        [
            known(&partition.type_name).or_else(|| known(&partition.type_id)),
            known(&partition.flags).filter(|flags| !flags.is_empty()),
            known(&partition.overlaps).map(|other| format!("overlaps {other}")),
        ],
        ", ",
    );
    vec![
        cell(&partition.name),
        size_cell(&partition.size_bytes, |bytes| size(bytes, view.units)),
        if kind.is_empty() { UNKNOWN.to_owned() } else { kind },
        cell(&partition.filesystem),
        label.unwrap_or_else(|| UNKNOWN.to_owned()),
        used_at(&partition.mount_points, &partition.holders, &partition.swapped_to, view),
    ]
}

/// Where it is mounted, what is made of it, or that it is swapped to.
fn used_at(
    points: &Fact<Vec<PathName>>,
    holders: &Fact<Vec<DeviceName>>,
    swapped_to: &Fact<bool>,
    view: &View<'_>,
) -> String {
    let points = known(points).filter(|text| !text.is_empty());
    let holders = holders.value().filter(|holders| !holders.is_empty());
    match (points, holders) {
        (Some(points), _) => points,
        (None, Some(holders)) => format!("part of {}", stack::made_of_it(holders, view.storage)),
        (None, None) if swapped_to.value() == Some(&true) => "swap".to_owned(),
        (None, None) => UNKNOWN.to_owned(),
    }
}
