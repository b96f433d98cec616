//! Generated maintenance on made-up machines: the comparison tells exactly what was done, and
//! nothing of what only looks otherwise.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

mod support;

use std::collections::BTreeSet;

use proptest::{prelude::*, sample::Index, test_runner::Config};
use support::look;
use tectum_demo::{DiskKind, Machine, Shipped, Tree};
use tectum_report::{
    Report,
    compare::{Change, Comparison, Sameness, Scope, What, compare},
};

/// Something that a person does to a machine. Indices pick among what there is.
#[derive(Debug, Clone)]
enum Act {
    RemoveModule(Index),
    AddModule(Index),
    ReplaceModule(Index),
    SwapModules(Index, Index),
    RemoveDisk(Index),
    ReplaceDisk(Index),
    SwapDisks(Index, Index),
    GrowPartition(Index),
    RenameHost,
    UpdateFirmware,
    MoveCard,
    ReplaceSupply(Index),
    InstallKernel,
}

/// Something that only looks otherwise.
#[derive(Debug, Clone)]
enum Noise {
    /// The kernel gives its names in another order.
    LetterDisks(Vec<usize>),
    RenamePorts,
    CommentInFstab,
    LineInSources,
    ReorderSupplies,
}

/// What a comparison must tell: what happened, to what kind of part, and which one.
type Told = BTreeSet<(&'static str, &'static str, String)>;

fn act() -> impl Strategy<Value = Act> {
    let one = any::<Index>;
    prop_oneof![
        one().prop_map(Act::RemoveModule),
        one().prop_map(Act::AddModule),
        one().prop_map(Act::ReplaceModule),
        (one(), one()).prop_map(|(a, b)| Act::SwapModules(a, b)),
        one().prop_map(Act::RemoveDisk),
        one().prop_map(Act::ReplaceDisk),
        (one(), one()).prop_map(|(a, b)| Act::SwapDisks(a, b)),
        one().prop_map(Act::GrowPartition),
        Just(Act::RenameHost),
        Just(Act::UpdateFirmware),
        Just(Act::MoveCard),
        one().prop_map(Act::ReplaceSupply),
        Just(Act::InstallKernel),
    ]
}

fn noise() -> impl Strategy<Value = Noise> {
    prop_oneof![
        Just((0..8).collect::<Vec<usize>>()).prop_shuffle().prop_map(Noise::LetterDisks),
        Just(Noise::RenamePorts),
        Just(Noise::CommentInFstab),
        Just(Noise::LineInSources),
        Just(Noise::ReorderSupplies),
    ]
}

/// A machine with more of everything than the one that ships.
fn base() -> Machine {
    let mut machine = Shipped::named("gannet-before").unwrap().machine().unwrap();
    let sata = machine.disks.iter().find(|disk| disk.kind == DiskKind::Sata).unwrap().clone();
    for number in 0..3u32 {
        let mut disk = sata.clone();
        disk.name = format!("sd{}", char::from(b'c' + u8::try_from(number).unwrap()));
        disk.port = 5 + number;
        disk.serial = format!("SKS4-77000{number}");
        disk.wwn = format!("naa.5000a1b2c3d4770{number}");
        for partition in &mut disk.partitions {
            partition.uuid = format!("0a6d1c70-3b52-4d6e-9c55-1f0e0000077{number}");
            partition.filesystem_uuid = format!("b0c8a1de-0d7a-4f3b-8f1e-6a110000077{number}");
            partition.mount = format!("/srv/more{number}");
            partition.label = format!("more{number}");
        }
        machine.disks.push(disk);
    }
    machine
}

/// Does something, if the machine has what it takes and nothing was done to that part yet, and says
/// what must be told of it.
fn perform(act: &Act, machine: &mut Machine, touched: &mut BTreeSet<String>, told: &mut Told) {
    let filled: Vec<usize> = (0..machine.slots.len())
        .filter(|at| machine.slots[*at].module.is_some() && !touched.contains(&format!("slot{at}")))
        .collect();
    let sata: Vec<usize> = (0..machine.disks.len())
        .filter(|at| {
            machine.disks[*at].kind == DiskKind::Sata && !touched.contains(&format!("disk{at}"))
        })
        .collect();
    match act {
        Act::RemoveModule(which) if filled.len() > 1 => {
            let at = *which.get(&filled);
            let module = machine.slots[at].module.take().unwrap();
            touched.insert(format!("slot{at}"));
            told.insert(("removed", "memory module", module.serial));
        }
        Act::AddModule(which) if !filled.is_empty() => {
            let empty: Vec<usize> = (0..machine.slots.len())
                .filter(|at| {
                    machine.slots[*at].module.is_none() && !touched.contains(&format!("slot{at}"))
                })
                .collect();
            if empty.is_empty() {
                return;
            }
            let mut module = machine.slots[filled[0]].module.clone().unwrap();
            let at = *which.get(&empty);
            module.serial = format!("LW-ADD{at:03}");
            told.insert(("added", "memory module", module.serial.clone()));
            machine.slots[at].module = Some(module);
            touched.insert(format!("slot{at}"));
        }
        Act::ReplaceModule(which) if !filled.is_empty() => {
            let at = *which.get(&filled);
            let module = machine.slots[at].module.as_mut().unwrap();
            module.serial = format!("LW-NEW{at:03}");
            told.insert(("replaced", "memory module", module.serial.clone()));
            touched.insert(format!("slot{at}"));
        }
        Act::SwapModules(a, b) if filled.len() > 1 => {
            let (a, b) = (*a.get(&filled), *b.get(&filled));
            if a == b {
                return;
            }
            for at in [a, b] {
                let serial = machine.slots[at].module.as_ref().unwrap().serial.clone();
                told.insert(("moved", "memory module", serial));
                touched.insert(format!("slot{at}"));
            }
            let module = machine.slots[a].module.take();
            machine.slots[a].module = machine.slots[b].module.take();
            machine.slots[b].module = module;
        }
        Act::RemoveDisk(which) if sata.len() > 2 => {
            let at = *which.get(&sata);
            told.insert(("removed", "disk", machine.disks[at].serial.clone()));
            touched.insert(format!("disk{at}"));
            // It leaves at the end, so that the numbers of the others stay.
            machine.disks[at].serial = "GONE".into();
        }
        Act::ReplaceDisk(which) if !sata.is_empty() => {
            let at = *which.get(&sata);
            let disk = &mut machine.disks[at];
            disk.serial = format!("SKS8-NEW{at}");
            disk.wwn = format!("naa.5000a1b2c3d8999{at}");
            for partition in &mut disk.partitions {
                partition.uuid = format!("0a6d1c70-3b52-4d6e-9c55-1f0e0000099{at}");
                partition.filesystem_uuid = format!("b0c8a1de-0d7a-4f3b-8f1e-6a110000099{at}");
            }
            told.insert(("replaced", "disk", disk.serial.clone()));
            touched.insert(format!("disk{at}"));
        }
        Act::SwapDisks(a, b) if sata.len() > 1 => {
            let (a, b) = (*a.get(&sata), *b.get(&sata));
            if a == b {
                return;
            }
            let (first, second) = (machine.disks[a].port, machine.disks[b].port);
            machine.disks[a].port = second;
            machine.disks[b].port = first;
            for at in [a, b] {
                told.insert(("moved", "disk", machine.disks[at].serial.clone()));
                touched.insert(format!("disk{at}"));
            }
        }
        Act::GrowPartition(which) if !sata.is_empty() => {
            let at = *which.get(&sata);
            let Some(partition) = machine.disks[at].partitions.first_mut() else { return };
            partition.mib -= 1024;
            told.insert(("changed", "partition", partition.uuid.clone()));
            touched.insert(format!("disk{at}"));
        }
        Act::RenameHost => {
            machine.hostname = "petrel".into();
            told.insert(("changed", "operating system", String::new()));
        }
        Act::UpdateFirmware => {
            machine.bios.version = "MF 9.9.9".into();
            told.insert(("changed", "firmware", String::new()));
        }
        Act::MoveCard if touched.insert("card".into()) => {
            let old = machine.ports[0].function.clone();
            let new = "0000:d8:00.0".to_owned();
            for function in machine.functions.iter_mut().filter(|one| one.address == old) {
                function.address.clone_from(&new);
            }
            for port in machine.ports.iter_mut().filter(|one| one.function == old) {
                port.function.clone_from(&new);
            }
            for slot in machine.card_slots.iter_mut().filter(|one| one.address == old) {
                slot.address.clear();
            }
            told.insert(("moved", "PCI function", new));
        }
        Act::ReplaceSupply(which) if !machine.power_supplies.is_empty() => {
            let all: Vec<usize> = (0..machine.power_supplies.len()).collect();
            let at = *which.get(&all);
            if touched.insert(format!("supply{at}")) {
                machine.power_supplies[at].serial = format!("PS-NEW{at}");
                let serial = machine.power_supplies[at].serial.clone();
                told.insert(("replaced", "power supply", serial));
            }
        }
        Act::InstallKernel if touched.insert("kernel".into()) => {
            machine.other_kernels.push("6.99.1-skerry".into());
            told.insert(("added", "installed kernel", "6.99.1-skerry".into()));
        }
        _ => {}
    }
}

/// Makes something look otherwise that is not.
fn disturb(noise: &Noise, machine: &mut Machine) {
    match noise {
        Noise::LetterDisks(order) => {
            let letters: Vec<usize> =
                order.iter().copied().filter(|letter| *letter < machine.disks.len()).collect();
            let mut letters = letters.into_iter();
            for disk in machine.disks.iter_mut().filter(|disk| disk.kind == DiskKind::Sata) {
                let letter = u8::try_from(letters.next().unwrap()).unwrap();
                disk.name = format!("sd{}", char::from(b'a' + letter));
            }
        }
        Noise::RenamePorts => {
            for (old, new) in [("enp23s0f0", "lan0"), ("enp23s0f1", "lan1")] {
                for port in &mut machine.ports {
                    if port.name == old {
                        port.name = new.into();
                    }
                    for member in port.members.iter_mut().filter(|member| *member == old) {
                        *member = new.into();
                    }
                }
            }
        }
        Noise::ReorderSupplies => machine.power_supplies.reverse(),
        Noise::CommentInFstab | Noise::LineInSources => {}
    }
}

fn survey(machine: &Machine, noise: &[Noise]) -> Report {
    let mut machine = machine.clone();
    machine.disks.retain(|disk| disk.serial != "GONE");
    let mut fstab = String::from(
        "/dev/nvme0n1p2 / ext4 defaults 0 1\nLABEL=models /srv/tide\\040models xfs defaults 0 2\n",
    );
    let mut sources = String::from("deb http://mirror.scts.example/linux tide main\n");
    for one in noise {
        disturb(one, &mut machine);
        match one {
            Noise::CommentInFstab => fstab.insert_str(0, "# looked after by the harbour office\n"),
            Noise::LineInSources => sources.insert_str(0, "\n# the mirror in the hut\n\n"),
            _ => {}
        }
    }
    let mut tree = Tree::of(&machine);
    tree.file("etc/fstab", fstab);
    tree.file("etc/apt/sources.list", sources);
    // How large what is mounted is, as the kernel would answer.
    let mut answers = Vec::new();
    for partition in machine.disks.iter().flat_map(|disk| &disk.partitions) {
        answers.push(serde_json::json!({
            "mount_point": partition.mount, "f_frsize": 1 << 20, "f_blocks": partition.mib,
            "f_bfree": 1, "f_bavail": 1, "f_files": 1, "f_ffree": 1,
        }));
    }
    tree.file("statvfs.json", serde_json::to_vec(&answers).unwrap());
    let folder = tempfile::tempdir().unwrap();
    tree.write(folder.path()).unwrap();
    look(folder.path())
}

/// What a comparison tells, in the words of [`Told`]; `whole` holds all that was to be told.
fn as_told(result: &Comparison, expected: &Told) -> Told {
    let key = |change: &Change| {
        let after = change.after.as_ref().or(change.before.as_ref()).unwrap();
        let text = format!("{after:?} {:?}", change.before);
        let known = expected.iter().find(|(what, part, which)| {
            *what == change.what.code() && *part == change.part && text.contains(which.as_str())
        });
        match known {
            Some(known) => known.clone(),
            None => (change.what.code(), change.part, after.label.clone()),
        }
    };
    result.changes.iter().map(key).collect()
}

/// Changes as a set that does not depend on order, with before and after exchanged if asked.
fn shape(changes: &[Change], exchanged: bool) -> BTreeSet<String> {
    changes
        .iter()
        .map(|change| {
            let what = match (change.what, exchanged) {
                (What::Added, true) => What::Removed,
                (What::Removed, true) => What::Added,
                (what, _) => what,
            };
            let (before, after) = match exchanged {
                true => (&change.after, &change.before),
                false => (&change.before, &change.after),
            };
            let fields: Vec<String> = change
                .fields
                .iter()
                .map(|field| match exchanged {
                    true => format!("{} {} {}", field.field, field.after, field.before),
                    false => format!("{} {} {}", field.field, field.before, field.after),
                })
                .collect();
            format!("{what} {} {before:?} {after:?} {fields:?}", change.part)
        })
        .collect()
}

/// Every change, with what follows from it.
fn all(changes: &[Change]) -> Vec<Change> {
    changes.iter().flat_map(|one| [vec![one.clone()], all(&one.follows)].concat()).collect()
}

proptest! {
    #![proptest_config(Config { cases: 24, max_shrink_iters: 40, ..Config::default() })]

    #[test]
    fn a_visit_is_told_exactly_as_it_was(
        acts in proptest::collection::vec(act(), 0..8),
        noises in proptest::collection::vec(noise(), 0..4),
    ) {
        let mut machine = base();
        let before = survey(&machine, &[]);
        let (mut touched, mut told) = (BTreeSet::new(), Told::new());
        for act in &acts {
            perform(act, &mut machine, &mut touched, &mut told);
        }
        let after = survey(&machine, &noises);
        let result = compare(&before, &after, Scope::Inventory);
        prop_assert_eq!(result.machines.same, Sameness::Same);
        prop_assert_eq!(as_told(&result, &told), told, "{:#?}", result.changes);
        // The other way round, the same is told with the sides exchanged.
        let back = compare(&after, &before, Scope::Inventory);
        prop_assert_eq!(shape(&all(&back.changes), true), shape(&all(&result.changes), false));
        prop_assert_eq!(shape(&back.changes, true), shape(&result.changes, false));
        // From what was saved no more is read than has to be, and the same is told.
        let (by_texts, sections) = support::compared_by_texts(&before, &after).unwrap();
        prop_assert_eq!(by_texts.changes, result.changes, "of {:?}", sections);
        prop_assert_eq!(by_texts.not_compared, result.not_compared, "of {:?}", sections);
    }
}

#[test]
fn a_reboot_that_shuffles_every_name_is_no_change() {
    let machine = base();
    let noises = [
        Noise::LetterDisks((0..8).rev().collect()),
        Noise::RenamePorts,
        Noise::CommentInFstab,
        Noise::LineInSources,
        Noise::ReorderSupplies,
    ];
    let (before, after) = (survey(&machine, &[]), survey(&machine, &noises));
    let result = compare(&before, &after, Scope::Inventory);
    assert_eq!(result.changes, [], "{:#?}", result.changes);
}
