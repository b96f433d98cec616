//! Filesystems: one table with bars of use, what is declared beside what is mounted.

use crate::page::{Bar, Cell, Group, Page, Part, Piece, Tone, UNKNOWN};
use tectum_report::{
    fact::Fact,
    leaf::{Bytes, PathName, PercentHundredths},
    model::{
        DeclaredState, FilesystemReadings, FilesystemUse, Filesystems, FstabEntry, Mount,
        MountClass, Partition, Volume, VolumeKind,
    },
};

use super::{
    View,
    bars::{disk_bar, volume_bar, volume_part},
    cell, joined, known, size_cell,
    storage::stack,
    why,
};
use crate::views::quantity::{count, decimal, size};

pub(super) fn print(filesystems: &Filesystems, view: &View<'_>, page: &mut Page) {
    let readings = view.report.readings.filesystems.as_ref();
    let bytes = |fact: &Fact<Bytes>| fact.value().map(|bytes| size(*bytes, view.units));
    let said = page.entry("mounted");
    let local = filesystems
        .mounts
        .iter()
        .filter(|mount| mount.class.value() == Some(&MountClass::Local))
        .filter(|mount| !mount.first_mounted_at.is_known());
    let (datasets, local): (Vec<_>, Vec<_>) = local.partition(|mount| is_dataset(mount));
    let all = count(local.len(), "local filesystem", "local filesystems");
    // They share their pool's space, so none of them is in the sum.
    let beside = match datasets.len() {
        0 => String::new(),
        number => format!("; {} not counted", count(number, "dataset of ZFS", "datasets of ZFS")),
    };
    let total = readings.and_then(|all| {
        Some((bytes(&all.used_bytes)?, bytes(&all.total_bytes)?, bytes(&all.available_bytes)?))
    });
    match (filesystems.mounts.gap(), total) {
        (Some(gap), _) => said.plain(format!("filesystems: {}", why(gap))),
        (None, Some((used, total, left))) => {
            let behind = format!(" used on {all}, {left} left{beside}");
            said.strong(format!("{used} of {total}")).plain(behind)
        }
        (None, None) if local.is_empty() && !datasets.is_empty() => said.plain(format!(
            "{}, which share the space of their pools",
            count(datasets.len(), "dataset of ZFS", "datasets of ZFS")
        )),
        (None, None) => {
            // Why it cannot be told: a folder or capture has nobody to ask.
            let gap = readings.and_then(|all| all.total_bytes.missing());
            let reason =
                gap.map(|gap| gap.hint.as_ref().map_or_else(|| why(gap), ToString::to_string));
            let reason = reason.unwrap_or_default();
            said.plain(format!("{all}; how full: {reason}{beside}"))
        }
    };
    if readings.is_some_and(|all| all.total_bytes.hidden_part().is_some()) {
        for one in readings.iter().flat_map(|all| all.usage.iter()) {
            if let Some(gap) = one.size_bytes.missing().filter(|gap| gap.why.hides_a_value()) {
                let point = cell(&one.mount_point);
                page.beside().quiet("not counted: ").plain(format!("{point}, {}", why(gap)));
            }
        }
    }
    view.odd("filesystems", page);
    if !view.drawn {
        return;
    }
    page.gap();
    if let Some(readings) = readings {
        usage(filesystems, readings, view, page);
    }
    swap(filesystems, readings, view, page);
}

/// Whether it is one of those that share the space of a pool.
fn is_dataset(mount: &Mount) -> bool {
    mount.filesystem.value().is_some_and(|kind| kind.0 == "zfs")
}

/// What a line of fstab declares.
fn declared(one: &FstabEntry) -> String {
    known(&one.source)
        .or_else(|| known(&one.uuid))
        .or_else(|| known(&one.label))
        .or_else(|| known(&one.other_source))
        .unwrap_or_default()
}

fn percent(fact: &Fact<PercentHundredths>) -> String {
    fact.value().map_or_else(|| UNKNOWN.to_owned(), |used| format!("{} %", used.0 / 100))
}

/// Where a mount comes from, a device by its name alone.
fn source(mount: &Mount) -> String {
    let whole = cell(&mount.source);
    whole.strip_prefix("/dev/").map_or(whole.clone(), str::to_owned)
}

/// What holds mounted filesystems: a disk, a volume, a group of volumes, a server.
struct Holder {
    title: Vec<Piece>,
    bar: Option<Bar>,
    /// Where what it holds is mounted.
    points: Vec<String>,
}

/// What holds mounted filesystems, in the order in which the machine tells of it.
fn holders(view: &View<'_>) -> Vec<Holder> {
    let mut holders: Vec<Holder> = Vec::new();
    let Some(storage) = view.storage else { return holders };
    let points = |fact: &Fact<Vec<PathName>>| -> Vec<String> {
        fact.value().into_iter().flatten().map(|point| point.0.clone()).collect()
    };
    let inner = |partitions: &[Partition]| -> Vec<String> {
        partitions.iter().flat_map(|part| points(&part.mount_points)).collect()
    };
    for disk in storage.disks.iter() {
        let mut own = points(&disk.mount_points);
        own.extend(inner(&disk.partitions));
        let more = joined([known(&disk.vendor), known(&disk.model)], " ");
        let more = if more.is_empty() { more } else { format!(", {more}") };
        let told = format!("  {}{more}", size_cell(&disk.size_bytes, decimal));
        let title =
            vec![Piece::Text(Tone::Strong, cell(&disk.name)), Piece::Text(Tone::Quiet, told)];
        holders.push(Holder { title, bar: Some(disk_bar(disk, view)), points: own });
    }
    let mut groups: Vec<(String, Vec<&Volume>)> = Vec::new();
    for volume in stack::made(storage) {
        let mut own = points(&volume.mount_points);
        own.extend(inner(&volume.partitions));
        if let Some(group) = known(&volume.group) {
            match groups.iter_mut().find(|(name, _)| *name == group) {
                Some((_, volumes)) => volumes.push(volume),
                None => groups.push((group, vec![volume])),
            }
            continue;
        }
        let size = size_cell(&volume.size_bytes, |bytes| size(bytes, view.units));
        let title = vec![
            Piece::Text(Tone::Strong, stack::called(volume)),
            Piece::Text(Tone::Quiet, format!("  {size}")),
        ];
        holders.push(Holder { title, bar: Some(volume_bar(volume, view)), points: own });
    }
    for (group, volumes) in groups {
        let own = volumes.iter().flat_map(|volume| points(&volume.mount_points)).collect();
        let parts: Vec<_> = volumes.iter().map(|volume| volume_part(volume, view)).collect();
        let whole = parts.iter().fold(0u64, |sum, part| sum.saturating_add(part.size));
        let told = count(volumes.len(), "volume", "volumes");
        // A thin volume takes what is written of it, and a snapshot what has changed since: only of
        // others do the sizes add up to something.
        let add_up = volumes.iter().all(|one| one.kind.value() == Some(&VolumeKind::Logical))
            && !storage.volumes.iter().any(|one| {
                one.kind.value() == Some(&VolumeKind::ThinPool)
                    && known(&one.group).as_ref() == Some(&group)
            });
        let told = match add_up {
            true => format!("  {} in {told}", size(Bytes(whole), view.units)),
            false => format!("  {told}"),
        };
        let title = vec![
            Piece::Text(Tone::Strong, format!("volume group {group}")),
            Piece::Text(Tone::Quiet, told),
        ];
        holders.push(Holder { title, bar: Some(Bar { whole, parts }), points: own });
    }
    holders.retain(|holder| !holder.points.is_empty());
    holders
}

/// Columns of numbers beside the drawings.
const HEADS: [&str; 6] = ["mount point", ">full", ">used", ">size", ">available", "filesystem"];

/// A row of numbers of what is mounted.
fn row(one: &FilesystemUse, filesystems: &Filesystems, view: &View<'_>) -> Vec<Cell> {
    let bytes = |fact: &Fact<Bytes>| size_cell(fact, |bytes| size(bytes, view.units));
    let mount = filesystems
        .mounts
        .iter()
        .find(|mount| mount.mount_point.value() == one.mount_point.value());
    let told = mount.map(|mount| {
        let declared = match mount.in_fstab.value() {
            Some(false) => ", not declared",
            _ => "",
        };
        let read_only = if mount.read_only.value() == Some(&true) { ", read-only" } else { "" };
        let part = known(&mount.root).filter(|root| root != "/");
        let part = part.map(|root| format!(", {root} of it")).unwrap_or_default();
        let part = match known(&mount.first_mounted_at) {
            Some(first) => format!("{part}, the same as at {first}"),
            None => part,
        };
        format!("{} on {}{part}{read_only}{declared}", cell(&mount.filesystem), source(mount))
    });
    [
        cell(&one.mount_point),
        percent(&one.used_percent_hundredths),
        bytes(&one.used_bytes),
        bytes(&one.size_bytes),
        bytes(&one.available_bytes),
        told.unwrap_or_default(),
    ]
    .map(Cell::from)
    .into()
}

/// All local filesystems, each device once.
fn sum(readings: &FilesystemReadings, bytes: &impl Fn(&Fact<Bytes>) -> String) -> Vec<Cell> {
    let (used, left) = (readings.used_bytes.value(), readings.available_bytes.value());
    let share = used.zip(left).and_then(|(used, left)| {
        let whole = u128::from(used.0) + u128::from(left.0);
        u64::try_from((u128::from(used.0) * 100).checked_div(whole)?).ok()
    });
    let datasets =
        readings.usage.iter().any(|one| known(&one.filesystem).as_deref() == Some("zfs"));
    let label = if datasets { "all local ones but of ZFS" } else { "all local ones" };
    [
        label.to_owned(),
        share.map(|share| format!("{share} %")).unwrap_or_default(),
        bytes(&readings.used_bytes),
        bytes(&readings.total_bytes),
        bytes(&readings.available_bytes),
        String::new(),
    ]
    .map(Cell::from)
    .into()
}

/// What is mounted, each with what it stands on, as full as it is.
fn usage(
    filesystems: &Filesystems,
    readings: &FilesystemReadings,
    view: &View<'_>,
    page: &mut Page,
) {
    let bytes = |fact: &Fact<Bytes>| size_cell(fact, |bytes| size(bytes, view.units));
    let mut left: Vec<&FilesystemUse> = readings
        .usage
        .iter()
        .filter(|one| one.class.value() != Some(&MountClass::Memory))
        .collect();
    let counted = left.len();
    let mut groups = Vec::new();
    for holder in holders(view) {
        let is_on = |one: &&FilesystemUse| {
            one.mount_point.value().is_some_and(|point| holder.points.contains(&point.0))
        };
        // What lies on several devices is told with the first of them.
        let (own, others): (Vec<_>, Vec<_>) = left.into_iter().partition(is_on);
        left = others;
        if own.is_empty() {
            continue;
        }
        let rows = own.into_iter().map(|one| row(one, filesystems, view)).collect();
        groups.push(Group { title: holder.title, bar: holder.bar, rows });
    }
    // What is on no device of this machine, by its server; and what nothing is known to hold.
    let mut elsewhere: Vec<(String, Vec<&FilesystemUse>)> = Vec::new();
    for one in left {
        let is = match one.class.value() {
            Some(MountClass::Network) => remote(&cell(&one.source)),
            // What holds them was not looked at, or holds nothing that the machine tells of.
            _ if view.storage.is_none() => "local filesystems".to_owned(),
            _ => "on other devices".to_owned(),
        };
        match elsewhere.iter_mut().find(|(own, _)| *own == is) {
            Some((_, all)) => all.push(one),
            None => elsewhere.push((is, vec![one])),
        }
    }
    for (name, all) in elsewhere {
        let parts = all.iter().map(|one| Part {
            name: known(&one.mount_point),
            says: bytes(&one.size_bytes),
            size: one.size_bytes.value().map_or(0, |size| size.0),
            full: one.used_percent_hundredths.value().map(|share| share.0),
        });
        let parts: Vec<Part> = parts.filter(|part| part.size > 0).collect();
        let whole = parts.iter().fold(0u64, |sum, part| sum.saturating_add(part.size));
        let rows = all.into_iter().map(|one| row(one, filesystems, view)).collect();
        groups.push(Group {
            title: vec![Piece::Text(Tone::Strong, name)],
            bar: (whole > 0).then_some(Bar { whole, parts }),
            rows,
        });
    }
    // A sum of one is no sum.
    if counted > 1 && readings.total_bytes.is_known() {
        groups.push(Group { rows: vec![sum(readings, &bytes)], ..Group::default() });
    }
    if !groups.is_empty() {
        page.grouped(&HEADS, groups);
    }
    let memory: Vec<&FilesystemUse> = readings
        .usage
        .iter()
        .filter(|one| one.class.value() == Some(&MountClass::Memory))
        .filter(|one| one.used_bytes.value().is_some_and(|used| used.0 > 0))
        .collect();
    for one in memory {
        page.beside().quiet(format!(
            "in memory: {}, {} of {} used at {}",
            cell(&one.filesystem),
            bytes(&one.used_bytes),
            bytes(&one.size_bytes),
            cell(&one.mount_point)
        ));
    }
}

/// What a network filesystem is on: the server, which stands before its path, or where none is named, as by a hypervisor
/// that shares a folder, the tag.
fn remote(source: &str) -> String {
    let bare = source.trim_start_matches('/');
    if !source.starts_with("//") && !bare.contains(':') {
        return format!("share {source}");
    }
    let end = match source.starts_with("//") {
        true => bare.find('/'),
        // An IPv6 address stands in brackets.
        false if bare.starts_with('[') => bare.find(']').map(|at| at + 1),
        false => bare.find(':'),
    };
    format!("server {}", bare.get(..end.unwrap_or(bare.len())).unwrap_or(bare))
}

fn swap(
    filesystems: &Filesystems,
    readings: Option<&FilesystemReadings>,
    view: &View<'_>,
    page: &mut Page,
) {
    let rows: Vec<Vec<String>> = filesystems
        .swap_spaces
        .iter()
        .map(|space| {
            let used = readings.into_iter().flat_map(|all| all.swap.iter());
            let used = used
                .filter(|one| one.path.value() == space.path.value())
                .find_map(|one| one.used_bytes.value());
            vec![
                cell(&space.path),
                cell(&space.kind),
                size_cell(&space.size_bytes, |bytes| size(bytes, view.units)),
                used.map_or_else(|| UNKNOWN.to_owned(), |bytes| size(*bytes, view.units)),
                cell(&space.priority),
            ]
        })
        .collect();
    if !rows.is_empty() {
        page.gap();
        page.table(&["swap", "type", ">size", ">used", ">priority"], rows);
    }
    let waiting = filesystems
        .fstab_entries
        .iter()
        .filter(|one| one.state.value() == Some(&DeclaredState::OnRequest));
    for one in waiting {
        page.beside().quiet(format!(
            "mounted on request only: {} at {}",
            declared(one),
            cell(&one.mount_point)
        ));
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("petrel:/export/tides", "server petrel")]
    #[case("//petrel/share/deep", "server petrel")]
    #[case("[fd00::1]:/export", "server [fd00::1]")]
    #[case("tides", "share tides")]
    #[case("tides/deep", "share tides/deep")]
    fn what_stands_before_the_path_is_the_server(#[case] source: &str, #[case] name: &str) {
        assert_eq!(remote(source), name);
    }
}
