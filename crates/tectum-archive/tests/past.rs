//! A fleet with a past that is known: what history, fleet and comparison say of it must be that past.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::print_stderr,
    clippy::indexing_slicing,
    clippy::cast_possible_truncation,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

mod support;

use std::collections::{BTreeMap, BTreeSet};

use jiff::Timestamp;
use proptest::prelude::*;
use support::{Hidden, Machine, night, plain, save};
use tectum_archive::{
    alike::{Held, Holding},
    fleet::by_value,
    history::{Span, history, way_of_a_part},
    store::{Store, folder::FolderStore},
};
use tectum_report::query::Path;

/// What happens to a fleet between two nights.
#[derive(Debug, Clone)]
enum Act {
    /// A module is replaced by a new one.
    ReplaceModule { machine: u32, slot: bool },
    /// Two machines' disks change places.
    SwapDisks { one: u32, other: u32, row: bool },
    /// A disk is taken out and kept in a drawer.
    PullDisk { machine: u32, row: bool },
    /// A machine gets another name.
    Rename { machine: u32 },
    /// All machines but one get new firmware.
    RollOut { missed: u32 },
    /// A machine gets another kernel, or goes back to the one before.
    Kernel { machine: u32 },
    /// Something of a machine is a byte larger, which no rounded number shows.
    Grow { machine: u32 },
    /// Something of a machine cannot be seen that night.
    Hide { machine: u32, what: Hidden },
    /// A machine is not looked at that night.
    Sleep { machine: u32 },
}

const MACHINES: u32 = 4;
const SLOTS: [&str; 2] = ["A1", "B1"];
const ADDRESSES: [&str; 2] = ["0000:01:00.0 port 0", "0000:01:00.0 port 1"];

const HIDDEN: [Hidden; 6] = [
    Hidden::Modules,
    Hidden::OtherModules,
    Hidden::OtherDisks,
    Hidden::Serials,
    Hidden::Storage,
    Hidden::Version,
];

fn act() -> impl Strategy<Value = Act> {
    let machine = || 0..MACHINES;
    prop_oneof![
        (machine(), any::<bool>()).prop_map(|(machine, slot)| Act::ReplaceModule { machine, slot }),
        (machine(), machine(), any::<bool>()).prop_map(|(one, other, row)| Act::SwapDisks {
            one,
            other,
            row
        }),
        (machine(), any::<bool>()).prop_map(|(machine, row)| Act::PullDisk { machine, row }),
        machine().prop_map(|machine| Act::Rename { machine }),
        machine().prop_map(|missed| Act::RollOut { missed }),
        machine().prop_map(|machine| Act::Kernel { machine }),
        machine().prop_map(|machine| Act::Grow { machine }),
        (machine(), prop::sample::select(HIDDEN.to_vec()))
            .prop_map(|(machine, what)| Act::Hide { machine, what }),
        machine().prop_map(|machine| Act::Sleep { machine }),
    ]
}

/// A night, and what something was then.
type Night = (u32, Option<String>);

/// What is known of the past: for each machine and thing, what it was on each night that was looked at.
#[derive(Default)]
struct Past {
    seen: BTreeMap<(u32, String), Vec<Night>>,
}

/// Whether a look at a machine does not say what is at a path.
fn hidden(machine: &Machine, path: &str) -> bool {
    let is = |what: Hidden| machine.hidden.contains(&what);
    match path {
        "firmware.version" => is(Hidden::Version),
        path if path.starts_with("memory.modules.") => {
            // The one that is seen says nothing of whether there are others.
            let others = is(Hidden::OtherModules) && !path.contains(SLOTS[0]);
            is(Hidden::Modules) || others
        }
        // Of a disk whose serial number is not told it is seen that one is there; of a drawer that none is.
        path => match path.strip_prefix("storage.disks.").and_then(|it| it.strip_suffix(".serial"))
        {
            Some(address) => {
                let first = machine.disks.keys().next().is_some_and(|first| first == address);
                is(Hidden::Storage)
                    || (is(Hidden::Serials) && machine.disks.contains_key(address))
                    || (is(Hidden::OtherDisks) && !first)
            }
            None => false,
        },
    }
}

/// A value, as long as it was seen: told by what was done.
#[derive(Debug, Clone, PartialEq, Eq)]
struct Seen {
    value: String,
    first_seen: Timestamp,
    last_seen: Timestamp,
    otherwise_since: Option<Timestamp>,
    observations: u64,
}

impl From<Span> for Seen {
    fn from(span: Span) -> Self {
        let Span { value, first_seen, last_seen, otherwise_since, observations } = span;
        let value = value.text().to_owned();
        Self { value, first_seen, last_seen, otherwise_since, observations }
    }
}

impl Past {
    fn see(&mut self, day: u32, machine: &Machine) {
        let mut now: BTreeMap<String, Option<String>> = BTreeMap::new();
        now.insert("firmware.version".into(), Some(machine.firmware.clone()));
        now.insert("os.kernel_release".into(), Some(machine.kernel.clone()));
        now.insert("firmware.rom_size_bytes".into(), Some(machine.rom_bytes.to_string()));
        for slot in SLOTS {
            let at = format!("memory.modules.{slot}.serial");
            now.insert(at, machine.modules.get(slot).cloned());
        }
        for address in ADDRESSES {
            let at = format!("storage.disks.{address}.serial");
            now.insert(at, machine.disks.get(address).cloned());
        }
        // What could not be seen says nothing.
        for (path, value) in now.into_iter().filter(|(path, _)| !hidden(machine, path)) {
            self.seen.entry((machine.number, path)).or_default().push((day, value));
        }
    }

    /// What was seen of something, as spans of nights.
    fn spans(&self, machine: u32, path: &str) -> Vec<Seen> {
        let mut spans: Vec<Seen> = Vec::new();
        for (day, value) in self.seen.get(&(machine, path.to_owned())).into_iter().flatten() {
            match (value, spans.last_mut()) {
                (Some(value), Some(last))
                    if last.value == *value && last.otherwise_since.is_none() =>
                {
                    last.last_seen = night(*day);
                    last.observations += 1;
                }
                (value, last) => {
                    if let Some(last) = last {
                        last.otherwise_since.get_or_insert(night(*day));
                    }
                    if let Some(value) = value {
                        spans.push(Seen {
                            value: value.clone(),
                            first_seen: night(*day),
                            last_seen: night(*day),
                            otherwise_since: None,
                            observations: 1,
                        });
                    }
                }
            }
        }
        spans
    }
}

fn live_through(nights: &[Vec<Act>], store: &dyn Store) -> (Vec<Machine>, Past) {
    let mut fleet: Vec<Machine> = (0..MACHINES).map(Machine::new).collect();
    let mut past = Past::default();
    let mut made = 0;
    for (day, acts) in (0..).zip(nights) {
        let mut asleep = BTreeSet::new();
        fleet.iter_mut().for_each(|machine| machine.hidden.clear());
        for act in acts {
            made += 1;
            match act {
                Act::ReplaceModule { machine, slot } => {
                    let slot = SLOTS[usize::from(*slot)].to_owned();
                    fleet[*machine as usize].modules.insert(slot, format!("LW-N{made:03}"));
                }
                Act::SwapDisks { one, other, row } => {
                    let address = ADDRESSES[usize::from(*row)];
                    let first = fleet[*one as usize].disks.remove(address);
                    let second = fleet[*other as usize].disks.remove(address);
                    if let Some(disk) = second.or_else(|| first.clone().filter(|_| one == other)) {
                        fleet[*one as usize].disks.insert(address.into(), disk);
                    }
                    if let (Some(disk), true) = (first, one != other) {
                        fleet[*other as usize].disks.insert(address.into(), disk);
                    }
                }
                Act::PullDisk { machine, row } => {
                    fleet[*machine as usize].disks.remove(ADDRESSES[usize::from(*row)]);
                }
                Act::Rename { machine } => {
                    fleet[*machine as usize].host = format!("reef-{made:03}")
                }
                Act::RollOut { missed } => {
                    for machine in fleet.iter_mut().filter(|one| one.number != *missed) {
                        machine.firmware = format!("2.{made}");
                    }
                }
                Act::Kernel { machine } => {
                    let machine = &mut fleet[*machine as usize];
                    let newer = machine.kernel == "6.12.31";
                    machine.kernel = if newer { "6.12.48" } else { "6.12.31" }.into();
                }
                Act::Hide { machine, what } => {
                    fleet[*machine as usize].hidden.insert(*what);
                }
                Act::Grow { machine } => fleet[*machine as usize].rom_bytes += 1,
                Act::Sleep { machine } => {
                    asleep.insert(*machine);
                }
            }
        }
        for machine in fleet.iter().filter(|one| day == 0 || !asleep.contains(&one.number)) {
            save(store, &machine.report(day)).unwrap();
            past.see(day, machine);
        }
    }
    (fleet, past)
}

fn key_of(store: &dyn Store, machine: u32) -> String {
    let serial = format!("MS-{machine:05}");
    let machines = store.machines().unwrap();
    machines.into_iter().find(|one| one.who.serial.as_ref() == Some(&serial)).unwrap().machine
}

fn path(text: &str) -> Path {
    text.parse().unwrap()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, ..ProptestConfig::default() })]

    #[test]
    fn history_tells_the_past_as_it_was(
        nights in prop::collection::vec(prop::collection::vec(act(), 0..3), 1..14),
    ) {
        let folder = tempfile::tempdir().unwrap();
        let store = FolderStore::open_or_make(folder.path(), true).unwrap();
        let (_, past) = live_through(&nights, &store);
        prop_assert_eq!(store.machines().unwrap().len(), MACHINES as usize);
        let asked = ["firmware.version", "firmware.rom_size", "os.kernel_release", "memory.modules.*.serial", "storage.disks.*.serial"];
        let asked: Vec<Path> = asked.iter().map(|text| path(text)).collect();
        for machine in 0..MACHINES {
            let told = history(&store, &key_of(&store, machine), &asked).unwrap();
            let told: BTreeMap<String, Vec<Seen>> = told
                .into_iter()
                .map(|one| (one.path, one.spans.into_iter().map(Seen::from).collect()))
                .collect();
            for ((_, at), _) in past.seen.iter().filter(|((number, _), _)| *number == machine) {
                let expected = past.spans(machine, at);
                let spans = told.get(at).cloned().unwrap_or_default();
                prop_assert_eq!(spans, expected, "{} of {}", at, machine);
            }
        }
    }

    #[test]
    fn a_part_is_followed_through_the_fleet(
        nights in prop::collection::vec(prop::collection::vec(act(), 0..3), 1..14),
        row in any::<bool>(),
        of in 0..MACHINES,
    ) {
        let folder = tempfile::tempdir().unwrap();
        let store = FolderStore::open_or_make(folder.path(), true).unwrap();
        let (_, past) = live_through(&nights, &store);
        let disk = format!("SKS4-{of:03}-{}", usize::from(row));
        let machines = store.machines().unwrap();
        let told: BTreeSet<(String, String, String, Option<String>)> =
            way_of_a_part(&store, &machines, &disk)
                .unwrap()
                .into_iter()
                .map(|one| (
                    one.machine,
                    one.place.unwrap(),
                    format!("{} {}", one.first_seen, one.last_seen),
                    one.gone_since.map(|gone| gone.to_string()),
                ))
                .collect();
        let mut expected = BTreeSet::new();
        for machine in 0..MACHINES {
            for address in ADDRESSES {
                let at = format!("storage.disks.{address}.serial");
                for span in past.spans(machine, &at).into_iter().filter(|span| span.value == disk) {
                    expected.insert((
                        key_of(&store, machine),
                        address.to_owned(),
                        format!("{} {}", span.first_seen, span.last_seen),
                        span.otherwise_since.map(|gone| gone.to_string()),
                    ));
                }
            }
        }
        prop_assert_eq!(told, expected);
    }

    #[test]
    fn who_has_which_value_is_counted(
        nights in prop::collection::vec(prop::collection::vec(act(), 0..3), 1..8),
    ) {
        let folder = tempfile::tempdir().unwrap();
        let store = FolderStore::open_or_make(folder.path(), false).unwrap();
        let (_, past) = live_through(&nights, &store);
        let machines = store.machines().unwrap();
        let told = by_value(&store, &machines, &path("firmware.rom_size_bytes")).unwrap();
        let mut expected: BTreeMap<Option<String>, usize> = BTreeMap::new();
        for machine in 0..MACHINES {
            let last = past.spans(machine, "firmware.rom_size_bytes").pop().map(|span| span.value);
            *expected.entry(last).or_default() += 1;
        }
        let told: BTreeMap<Option<String>, usize> =
            told.into_iter().map(|one| (plain(&one.values), one.machines.len())).collect();
        prop_assert_eq!(told, expected);
    }

    #[test]
    fn the_odd_ones_are_found_whatever_their_order(
        odd in prop::collection::btree_map(0u32..20, 0usize..3, 0..6),
        other_model in prop::collection::btree_set(0u32..20, 0..4),
        rotate in 0usize..20,
    ) {
        // Each odd one is odd in one of three values; some machines are simply of another model.
        let fields = ["firmware.version", "os.kernel_release", "memory.modules.A1.part_number"];
        let mut fleet: Vec<Machine> = (0..20).map(Machine::new).collect();
        for (machine, field) in &odd {
            let machine = &mut fleet[*machine as usize];
            match field {
                0 => machine.firmware = "2.1".into(),
                1 => machine.kernel = "5.4.0".into(),
                _ => {}
            }
        }
        for machine in &other_model {
            fleet[*machine as usize].product = "Lugworm 9";
        }
        fleet.rotate_left(rotate);
        let mut holding = Holding::default();
        for machine in &fleet {
            let mut report = machine.report(0);
            if odd.get(&machine.number) == Some(&2) {
                let at = "/inventory/memory/modules/0/part_number";
                support::made::set(&mut report, at, &"LW64G".into());
            }
            holding.add(&machine.host, Held::of(&report, &path("platform.system.product")));
        }
        let groups = holding.end();
        let expected_groups = usize::from(other_model.len() < 20) + usize::from(!other_model.is_empty());
        prop_assert_eq!(groups.len(), expected_groups);
        let main = groups.iter().find(|group| plain(&group.group).as_deref() == Some("Fathom 2240")).unwrap();
        let mut expected: BTreeMap<&str, BTreeSet<String>> = BTreeMap::new();
        for (machine, field) in odd.iter().filter(|(machine, _)| !other_model.contains(machine)) {
            expected.entry(fields[*field]).or_default().insert(format!("tide-{machine:03}"));
        }
        let mut told: BTreeMap<&str, BTreeSet<String>> = BTreeMap::new();
        for value in main.odd.iter().flat_map(|odd| &odd.values) {
            prop_assert_eq!(value.of, main.machines.len());
            let who: BTreeSet<String> =
                value.odd.iter().flat_map(|(_, who)| who.iter().cloned()).collect();
            prop_assert_eq!(value.share + who.len(), value.of);
            told.insert(&value.path, who);
        }
        prop_assert_eq!(told, expected);
        prop_assert_eq!(&main.mixed, &[]);
        // The oddest stand first.
        let shares: Vec<usize> =
            main.odd.iter().map(|odd| odd.values[0].share * 1_000_000 / odd.values[0].of).collect();
        prop_assert!(shares.is_sorted_by(|a, b| a >= b), "{:?}", shares);
    }
}

#[test]
fn what_moves_is_told_in_numbers() {
    let folder = tempfile::tempdir().unwrap();
    let store = FolderStore::open_or_make(folder.path(), false).unwrap();
    let mut machine = Machine::new(1);
    for day in 0..6 {
        machine.memory_free = 1000 - u64::from(day) * 10;
        save(&store, &machine.report(day)).unwrap();
    }
    let key = key_of(&store, 1);
    for asked in ["readings.memory.available_bytes", "memory.available"] {
        let told = history(&store, &key, &[path(asked)]).unwrap();
        assert_eq!(told.len(), 1, "{asked}");
        assert_eq!(told[0].path, "readings.memory.available_bytes");
        let series = told[0].series.as_ref().unwrap();
        assert_eq!(series.unit, Some("bytes"));
        let numbers: Vec<i64> = series.points.iter().map(|(_, number)| *number).collect();
        assert_eq!(numbers, [1000, 990, 980, 970, 960, 950]);
        assert_eq!(series.points[3].0, night(3));
    }
}

#[test]
fn what_stands_behind_the_part_of_a_list_that_was_seen_is_not_gone() {
    let folder = tempfile::tempdir().unwrap();
    let store = FolderStore::open_or_make(folder.path(), true).unwrap();
    let mut machine = Machine::new(0);
    // The same state twice: once of a list that was not seen whole, and then of one that was.
    let nights = [(false, true), (true, true), (false, true), (true, true), (false, false)];
    for (day, (in_part, there)) in (0..).zip(nights) {
        machine.hidden = in_part.then_some(Hidden::OtherDisks).into_iter().collect();
        if !there {
            machine.disks.remove(ADDRESSES[1]);
        }
        save(&store, &machine.report(day)).unwrap();
    }
    let told = history(&store, &key_of(&store, 0), &[path("storage.disks.*.serial")]).unwrap();
    let other = told.iter().find(|one| one.path.contains(ADDRESSES[1])).unwrap();
    assert_eq!(other.spans.len(), 1, "{other:?}");
    assert_eq!(other.spans[0].otherwise_since, Some(night(4)));
    assert_eq!((other.spans[0].last_seen, other.spans[0].observations), (night(2), 2));
    let way = way_of_a_part(&store, &store.machines().unwrap(), "SKS4-000-1").unwrap();
    let gone: Vec<_> =
        way.iter().map(|one| (one.first_seen, one.last_seen, one.gone_since)).collect();
    assert_eq!(gone, [(night(0), night(2), Some(night(4)))]);
}

#[test]
fn a_part_of_a_section_that_was_not_seen_is_not_gone() {
    let folder = tempfile::tempdir().unwrap();
    let store = FolderStore::open_or_make(folder.path(), true).unwrap();
    let mut machine = Machine::new(0);
    save(&store, &machine.report(0)).unwrap();
    machine.hidden.insert(Hidden::Storage);
    save(&store, &machine.report(1)).unwrap();
    let way = way_of_a_part(&store, &store.machines().unwrap(), "SKS4-000-0").unwrap();
    assert_eq!(way.len(), 1, "{way:?}");
    assert_eq!(way[0].gone_since, None);
}

#[test]
fn a_machine_that_lacks_a_part_is_the_odd_one() {
    let mut holding = Holding::default();
    for number in 0..5 {
        let mut machine = Machine::new(number);
        if number == 3 {
            machine.modules.remove("B1");
        }
        holding.add(&machine.host, Held::of(&machine.report(0), &path("platform.system.product")));
    }
    let groups = holding.end();
    let odd = &groups[0].odd;
    assert_eq!(odd.len(), 1, "{odd:?}");
    assert_eq!(odd[0].machines, ["tide-003"]);
    let told: Vec<(&str, &str)> =
        odd[0].values.iter().map(|one| (one.path.as_str(), one.common.text())).collect();
    assert_eq!(told, [("memory.modules.B1", "there")]);
}
