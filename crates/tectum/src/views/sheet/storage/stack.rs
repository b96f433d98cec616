//! What lies on what, from the mount down to the disks: one line a volume.

use crate::page::{Node, Page, Said, Sign, Tree};
use std::collections::{HashMap, HashSet};

use tectum_report::{
    leaf::DeviceName,
    model::{Storage, Volume, VolumeKind},
};

use super::super::{View, cell, known, size_cell};
use crate::views::quantity::size;

/// A loop in what rests on what is a contradiction; so deep no real stack is.
const DEEPEST: usize = 12;

/// Devices that are drawn under one volume, each as often as it is led to.
const MOST: usize = 200;

pub(super) fn draw(storage: &Storage, view: &View<'_>, page: &mut Page) {
    let mut under: HashMap<String, Vec<String>> = HashMap::new();
    let mut names: HashMap<String, String> = HashMap::new();
    for volume in storage.volumes.iter() {
        let Some(name) = known(&volume.name) else { continue };
        let rests = volume.backing_devices.value().map_or(&[][..], Vec::as_slice);
        // A spare stands by: nothing rests on it.
        let is_spare = |device: &str| {
            volume.members.iter().any(|member| {
                member.name.value().is_some_and(|name| name.0 == device)
                    && known(&member.state)
                        .is_some_and(|state| state.split(',').any(|it| it == "spare"))
            })
        };
        let rests = rests.iter().map(|it| it.0.clone()).filter(|name| !is_spare(name));
        under.insert(name.clone(), rests.collect());
        names.insert(name.clone(), called(volume));
    }
    let spares = spares(storage);
    let held: HashSet<&String> = under.values().flatten().collect();
    let held: HashSet<String> = held.into_iter().cloned().collect();
    let disks = storage.disks.iter().map(|disk| (&disk.name, &disk.partitions));
    let volumes = storage.volumes.iter().map(|volume| (&volume.name, &volume.partitions));
    for (whole, partitions) in disks.chain(volumes) {
        let Some(whole) = known(whole) else { continue };
        for part in partitions.iter().filter_map(|part| known(&part.name)) {
            under.insert(part, vec![whole.clone()]);
        }
    }
    page.gap();
    let mut roots = Vec::new();
    for volume in storage.volumes.iter() {
        let Some(name) = known(&volume.name) else { continue };
        let mounted = volume.mount_points.value().map_or(&[][..], Vec::as_slice);
        // What another volume is made of is told with that one.
        if mounted.is_empty() && held.contains(&name) {
            continue;
        }
        let points: Vec<&str> = mounted.iter().map(|point| point.0.as_str()).collect();
        let size = size_cell(&volume.size_bytes, |bytes| size(bytes, view.units));
        let below = below(&name, &under, &names, 0, &mut MOST.clone());
        let mut said = page.beside();
        if !points.is_empty() {
            said = said.strong(points.join(", ")).sign(Sign::RestsOn);
        }
        if let Some(kind) = known(&volume.filesystem) {
            said = said.plain(kind).sign(Sign::RestsOn);
        }
        let state = view.readings.volumes.of(&[volume]).and_then(|now| known(&now.state));
        let missing = volume.missing_members.value().is_some_and(|missing| *missing > 0);
        let state = match (volume.kind.value(), missing) {
            (Some(VolumeKind::Raid), true) => ", degraded".to_owned(),
            (Some(VolumeKind::Raid), false) => {
                state.map(|state| format!(", {state}")).unwrap_or_default()
            }
            _ => String::new(),
        };
        let own = format!("{} {size}{state}", called(volume));
        chain(said.plain(&own), &below);
        let mut node = Node { text: own, below };
        let filesystem = known(&volume.filesystem);
        for over in filesystem.into_iter().chain((!points.is_empty()).then(|| points.join(", "))) {
            node = Node { text: over, below: vec![node] };
        }
        roots.push(node);
    }
    for (spare, of) in spares {
        page.beside().quiet(format!("{spare} is a spare of {of}"));
    }
    page.tree(Tree { title: "from the mount down to the disks", roots });
}

/// Members that stand by, each with the array that they would join.
fn spares(storage: &Storage) -> Vec<(String, String)> {
    let of = |volume: &Volume| {
        let name = called(volume);
        let stand_by = volume.members.iter().filter(|member| {
            known(&member.state).is_some_and(|state| state.split(',').any(|it| it == "spare"))
        });
        stand_by.map(|member| (cell(&member.name), name.clone())).collect::<Vec<_>>()
    };
    storage.volumes.iter().flat_map(of).collect()
}

/// A volume in a word or two.
pub(in super::super) fn called(volume: &Volume) -> String {
    let title = match (known(&volume.title), by_group(volume)) {
        (Some(title), true) => group_and_name(&title),
        (title, _) => title.or_else(|| known(&volume.name)).unwrap_or_default(),
    };
    let kind = match volume.kind.value() {
        Some(VolumeKind::Raid) => cell(&volume.level),
        Some(VolumeKind::Logical) => "volume".to_owned(),
        Some(VolumeKind::Encrypted) => "encrypted".to_owned(),
        Some(kind) => kind.code().replace('-', " "),
        None => String::new(),
    };
    format!("{kind} {title}")
}

/// Whether a volume is of a group, or is a layer of one that is.
fn by_group(volume: &Volume) -> bool {
    matches!(
        volume.kind.value(),
        Some(
            VolumeKind::Logical
                | VolumeKind::Snapshot
                | VolumeKind::ThinPool
                | VolumeKind::Component
        )
    )
}

/// A logical volume's group and name: the hyphen that stands alone parts them.
fn group_and_name(title: &str) -> String {
    let alone = title.replace("--", "\0");
    let parted = alone.replacen('-', "/", 1);
    parted.replace('\0', "-")
}

/// The volumes that somebody made, without the layers that one of them consists of: a mirror's halves,
/// what a snapshot keeps, the data of a pool, and the pool once more below itself.
pub(in super::super) fn made(storage: &Storage) -> Vec<&Volume> {
    let mut pools = HashSet::new();
    let is_made = |volume: &&Volume| match volume.kind.value() {
        Some(VolumeKind::Component) => false,
        Some(VolumeKind::ThinPool) => match (known(&volume.group), known(&volume.volume)) {
            (Some(group), Some(pool)) => pools.insert((group, pool)),
            _ => true,
        },
        _ => true,
    };
    storage.volumes.iter().filter(is_made).collect()
}

/// What is made of a disk or a partition: a volume by its name, several of one group by the group's.
pub(super) fn made_of_it(holders: &[DeviceName], storage: Option<&Storage>) -> String {
    let volumes = storage.map_or(&[][..], |storage| &storage.volumes);
    let of = |holder: &DeviceName| volumes.iter().find(|one| one.name.value() == Some(holder));
    let held: Vec<&Volume> = holders.iter().filter_map(of).collect();
    let mut groups = held.iter().map(|volume| known(&volume.group));
    match (groups.next().flatten(), &held[..]) {
        (Some(group), all)
            if all.len() == holders.len() && groups.all(|it| it.as_ref() == Some(&group)) =>
        {
            format!("volume group {group}")
        }
        (_, [volume]) if holders.len() == 1 => called(volume),
        _ => holders.iter().map(|holder| holder.0.as_str()).collect::<Vec<_>>().join(", "),
    }
}

/// What lies under a device, down to the disks.
fn below(
    name: &str,
    under: &HashMap<String, Vec<String>>,
    names: &HashMap<String, String>,
    depth: usize,
    left: &mut usize,
) -> Vec<Node> {
    let Some(all) = under.get(name).filter(|_| depth < DEEPEST) else { return Vec::new() };
    let mut nodes = Vec::new();
    for one in all {
        if *left == 0 {
            break;
        }
        *left -= 1;
        if *left == 0 {
            nodes.push(Node { text: "and more".to_owned(), below: Vec::new() });
            break;
        }
        let text = names.get(one).cloned().unwrap_or_else(|| one.clone());
        nodes.push(Node { text, below: below(one, under, names, depth + 1, left) });
    }
    nodes
}

/// What lies under a device, in a line.
fn chain<'a>(said: Said<'a>, below: &[Node]) -> Said<'a> {
    match below {
        [] => said,
        [one] => chain(said.sign(Sign::RestsOn).quiet(&one.text), &one.below),
        several => {
            let mut said = said.sign(Sign::RestsOn);
            for (at, one) in several.iter().enumerate() {
                said = said.quiet(if at == 0 { "(" } else { " + (" }).quiet(&one.text);
                said = chain(said, &one.below).quiet(")");
            }
            said
        }
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[test]
    fn devices_that_rest_on_one_another_are_drawn_in_the_end() {
        let all: Vec<String> = (0..20).map(|number| format!("dm-{number}")).collect();
        let under = all.iter().map(|name| (name.clone(), all.clone())).collect();
        fn count(nodes: &[Node]) -> usize {
            nodes.iter().map(|node| 1 + count(&node.below)).sum()
        }
        let drawn = below("dm-0", &under, &HashMap::new(), 0, &mut MOST.clone());
        assert_eq!(count(&drawn), MOST);
    }

    #[rstest]
    #[case("nest-cold--store", "nest/cold-store")]
    #[case("a--b-c", "a-b/c")]
    #[case("alone", "alone")]
    fn a_hyphen_that_stands_alone_parts_group_and_name(#[case] title: &str, #[case] shown: &str) {
        assert_eq!(group_and_name(title), shown);
    }
}
