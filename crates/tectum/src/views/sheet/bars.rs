//! Disks and volumes as bars: their parts in proportion, each as full as the filesystem on it.

use tectum_report::{
    fact::Fact,
    leaf::{Bytes, PathName},
    model::{Disk, Partition, Volume},
};

use super::{View, cell, known};
use crate::{
    page::{Bar, Part},
    views::quantity::size,
};

/// A disk: its partitions, and the free space before, between and after them.
pub(super) fn disk_bar(disk: &Disk, view: &View<'_>) -> Bar {
    let whole = disk.size_bytes.value().map_or(0, |bytes| bytes.0);
    let mut parts = partitions(&disk.partitions, whole, view);
    if parts.is_empty() {
        let used = disk.filesystem.is_known().then(|| cell(&disk.name));
        let full = fullness(&disk.mount_points, view);
        parts.push(match used {
            Some(name) => {
                let says = says(&disk.size_bytes, &disk.filesystem, &disk.mount_points, view);
                Part { name: Some(name), says, size: whole, full }
            }
            None => Part::free(whole),
        });
    }
    Bar { whole, parts }
}

/// A volume that nothing divides.
pub(super) fn volume_bar(volume: &Volume, view: &View<'_>) -> Bar {
    let whole = volume.size_bytes.value().map_or(0, |bytes| bytes.0);
    let mut parts = partitions(&volume.partitions, whole, view);
    if parts.is_empty() {
        parts.push(volume_part(volume, view));
    }
    Bar { whole, parts }
}

/// A volume as a part of what holds several.
pub(super) fn volume_part(volume: &Volume, view: &View<'_>) -> Part {
    Part {
        name: known(&volume.volume)
            .or_else(|| known(&volume.title))
            .or_else(|| known(&volume.name)),
        says: says(&volume.size_bytes, &volume.filesystem, &volume.mount_points, view),
        size: volume.size_bytes.value().map_or(0, |bytes| bytes.0),
        full: fullness(&volume.mount_points, view),
    }
}

fn partitions(all: &[Partition], whole: u64, view: &View<'_>) -> Vec<Part> {
    let mut parts = Vec::new();
    let mut end = 0;
    for partition in all {
        let (Some(start), Some(length)) =
            (partition.start_bytes.value(), partition.size_bytes.value())
        else {
            continue;
        };
        // Up to a hundredth of the disk is alignment, not space to speak of.
        if start.saturating_sub(end) > whole / 100 {
            parts.push(Part::free(start.0 - end));
        }
        // An extended partition is but a frame around those inside it.
        if known(&partition.type_name).as_deref() != Some("extended") {
            parts.push(Part {
                name: Some(cell(&partition.name)),
                says: says(
                    &partition.size_bytes,
                    &partition.filesystem,
                    &partition.mount_points,
                    view,
                ),
                size: length.0,
                full: fullness(&partition.mount_points, view),
            });
            end = end.max(start.saturating_add(length.0));
        }
    }
    parts
}

/// A part in a few words: its size, what it holds, where it is mounted.
fn says<T: tectum_report::leaf::Leaf>(
    bytes: &Fact<Bytes>,
    filesystem: &Fact<T>,
    points: &Fact<Vec<PathName>>,
    view: &View<'_>,
) -> String {
    let size = bytes.value().map(|bytes| size(*bytes, view.units));
    let points = known(points).filter(|points| !points.is_empty());
    super::joined([size, known(filesystem), points], ", ")
}

/// How full what is mounted at one of some places is, in ten-thousandths.
fn fullness(points: &Fact<Vec<PathName>>, view: &View<'_>) -> Option<u64> {
    let points = points.value()?;
    let usage = view.report.readings.filesystems.as_ref()?;
    let own = usage.usage.iter().find(|one| {
        one.mount_point.value().is_some_and(|point| points.iter().any(|own| own.0 == point.0))
    });
    own?.used_percent_hundredths.value().map(|share| share.0)
}
