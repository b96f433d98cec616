//! What every store must do, whatever it is made of.

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

use std::collections::BTreeSet;

use jiff::Timestamp;
use rstest::rstest;
use support::{Hidden, Machine, night, plain, save, server::server, told};
use tectum_archive::{
    copy::copy,
    fleet::by_value,
    keep::Keep,
    named::{NameError, Named, matching, one_called},
    store::{
        Problem, Remark, Store, StoreError, folder::FolderStore, look, postgres::PostgresStore,
    },
    when::now,
    who::Who,
    written::Mark,
};
use tectum_report::{
    Report,
    expectation::Groups,
    fact::{Gap, Why},
    json::origins::Depth,
    query::every_path,
};

/// A store, and what it stands in.
struct Kept {
    store: Box<dyn Store>,
    _folder: tempfile::TempDir,
}

#[derive(Debug, Clone, Copy)]
enum Kind {
    Plain,
    Packed,
    Postgres,
}

impl Kind {
    /// A store of this kind; nothing where this machine cannot have one, which is said then.
    fn make(self) -> Option<Kept> {
        let folder = tempfile::tempdir().unwrap();
        let at = folder.path().join("archive");
        let store: Box<dyn Store> = match self {
            Self::Plain => Box::new(FolderStore::open_or_make(&at, false).unwrap()),
            Self::Packed => Box::new(FolderStore::open_or_make(&at, true).unwrap()),
            Self::Postgres => Box::new(PostgresStore::open_or_make(&server()?.database()).unwrap()),
        };
        Some(Kept { store, _folder: folder })
    }
}

fn problems(store: &dyn Store) -> Vec<Problem> {
    let mut problems = Vec::new();
    store.verify(&mut |problem| problems.push(problem)).unwrap();
    problems
}

#[rstest]
fn a_look_comes_back_as_it_was_saved(
    #[values(Kind::Plain, Kind::Packed, Kind::Postgres)] kind: Kind,
) {
    let Some(kept) = kind.make() else { return };
    let mut report = Machine::new(1).report(0);
    support::made::gap_at(
        &mut report,
        "/inventory/memory/modules/0/size_bytes",
        Gap::new(Why::Permission),
    );
    let saved = save(kept.store.as_ref(), &report).unwrap();
    assert!(saved.new_machine && saved.new_state && !saved.unchanged, "{saved:?}");
    let back = look(kept.store.as_ref(), &saved.machine, saved.number, Depth::Whole).unwrap();
    assert_eq!(back.inventory_digest(), report.inventory_digest());
    assert_eq!((&back.taken, &back.inventory), (&report.taken, &report.inventory));
    assert_eq!(
        serde_json::to_value(&back).unwrap()["readings"],
        serde_json::to_value(&report).unwrap()["readings"]
    );
    assert_eq!(back.gaps(), report.gaps());
    assert_eq!(problems(kept.store.as_ref()), []);
}

#[rstest]
fn a_state_is_kept_once_and_a_look_twice_is_one(
    #[values(Kind::Plain, Kind::Packed, Kind::Postgres)] kind: Kind,
) {
    let Some(kept) = kind.make() else { return };
    let store = kept.store.as_ref();
    let mut machine = Machine::new(1);
    for day in 0..5 {
        machine.memory_free += 1;
        let saved = save(store, &machine.report(day)).unwrap();
        assert_eq!((saved.number, saved.new_state), (u64::from(day) + 1, day == 0));
        assert_eq!(saved.unchanged, day > 0);
    }
    let mut again = machine.report(4);
    again.taken.subject = "tide-001".into();
    let again = save(store, &again).unwrap();
    assert!(again.stood_already && again.number == 5, "{again:?}");
    machine.kernel = "6.12.48".into();
    let changed = save(store, &machine.report(5)).unwrap();
    assert!(changed.new_state && !changed.unchanged);
    let latest = &store.machines().unwrap()[0];
    assert_eq!((latest.observations, latest.states), (6, 2));
    assert_eq!((latest.last_seen, latest.unchanged_since), (night(5), night(5)));
    assert_eq!(latest.overview.model.as_deref(), Some("Marram Systems Fathom 2240"));
    // Back again: the state is known, and is not the one before.
    machine.kernel = "6.12.31".into();
    let back = save(store, &machine.report(6)).unwrap();
    assert!(!back.new_state && !back.unchanged, "{back:?}");
}

#[rstest]
fn a_machine_is_itself_by_its_identity(
    #[values(Kind::Plain, Kind::Packed, Kind::Postgres)] kind: Kind,
) {
    let Some(kept) = kind.make() else { return };
    let store = kept.store.as_ref();
    let mut machine = Machine::new(1);
    let first = save(store, &machine.report(0)).unwrap();
    machine.host = "petrel".into();
    let renamed = save(store, &machine.report(1)).unwrap();
    assert_eq!(renamed.machine, first.machine);
    let other_name = Remark::OtherName { before: "tide-001".into(), now: "petrel".into() };
    assert_eq!(renamed.remarks, [other_name]);
    machine.host = "tide-001".into();
    let twice = save(store, &machine.report(2)).unwrap();
    assert!(matches!(&twice.remarks[..], [Remark::Alternates { .. }]), "{twice:?}");
    // Another machine of the same name is another.
    let mut other = Machine::new(2);
    other.host = "tide-001".into();
    let other = save(store, &other.report(0)).unwrap();
    assert_ne!(other.machine, first.machine);
    assert!(
        matches!(one_called(store, "tide-001"), Err(NameError::Several { machines, .. }) if machines.len() == 2)
    );
    // Without root its machine id says which it is.
    let mut seen = Machine::new(1).report(3);
    for field in ["system_uuid", "serial"] {
        support::made::gap_at(&mut seen, &format!("/machine/{field}"), Gap::new(Why::Permission));
    }
    assert_eq!(save(store, &seen).unwrap().machine, first.machine);
    let latest = store.machines().unwrap();
    let own = latest.iter().find(|one| one.machine == first.machine).unwrap();
    assert_eq!(own.who.serial.as_deref(), Some("MS-00001"), "what was known once is known");
}

#[rstest]
fn a_clone_is_told_and_a_look_that_fits_two_is_refused(
    #[values(Kind::Plain, Kind::Packed, Kind::Postgres)] kind: Kind,
) {
    let Some(kept) = kind.make() else { return };
    let store = kept.store.as_ref();
    let first = save(store, &Machine::new(1).report(0)).unwrap();
    let mut clone = Machine::new(2).report(0);
    support::made::set(&mut clone, "/machine/machine_id", &format!("{:032x}", 2).into());
    let clone = save(store, &clone).unwrap();
    assert_ne!(clone.machine, first.machine);
    assert!(
        matches!(&clone.remarks[..], [Remark::Shared { with, what, .. }]
        if *with == first.machine && what == "machine id"),
        "{clone:?}"
    );
    let mut unknown = Machine::new(1).report(1);
    for field in ["system_uuid", "serial"] {
        support::made::gap_at(
            &mut unknown,
            &format!("/machine/{field}"),
            Gap::new(Why::Permission),
        );
    }
    assert!(
        matches!(save(store, &unknown), Err(StoreError::Several { machines, .. }) if machines.len() == 2)
    );
    assert_eq!(problems(store).iter().filter(|one| one.is_damage).count(), 0);
    assert!(problems(store).iter().any(|one| one.said.contains("several machines")));
}

#[rstest]
fn looks_are_named_by_host_and_time(
    #[values(Kind::Plain, Kind::Packed, Kind::Postgres)] kind: Kind,
) {
    let Some(kept) = kind.make() else { return };
    let store = kept.store.as_ref();
    let mut machine = Machine::new(1);
    for day in 0..10 {
        if day == 4 {
            machine.firmware = "2.5".into();
        }
        save(store, &machine.report(day)).unwrap();
    }
    let key = store.machines().unwrap()[0].machine.clone();
    let mark = Mark { name: "accepted".into(), observation: 2, marked_at: Timestamp::UNIX_EPOCH };
    store.mark(&key, &mark).unwrap();
    let firmware = |name: &str| {
        let report = Named::read(name).report(store, &now(), Depth::Gaps)?;
        let at = report.taken.at;
        assert_eq!(report.taken.subject, name);
        Ok::<_, NameError>((
            report.inventory.firmware.unwrap().version.value().unwrap().0.clone(),
            at,
        ))
    };
    let is = |name: &str, version: &str, day: u32| {
        assert_eq!(firmware(name).unwrap(), (version.to_owned(), night(day)), "{name}");
    };
    is("tide-001", "2.5", 9);
    is("TIDE-001@latest", "2.5", 9);
    is("tide-001@previous", "2.4", 3);
    is("MS-00001@accepted", "2.4", 1);
    is("tide-001@2026-01-05T12:00Z", "2.5", 4);
    is(&format!("{key}@{}", night(3)), "2.4", 3);
    assert!(matches!(firmware("tide-001@2025-01-01"), Err(NameError::NoLook { .. })));
    assert!(matches!(firmware("tide-001@nobody"), Err(NameError::NoLook { .. })));
    assert!(matches!(firmware("tide-001@-x"), Err(NameError::When(_))));
    let missing = firmware("tide-01").unwrap_err().to_string();
    assert!(missing.contains("the nearest is \"tide-001\""), "{missing}");
    assert!(store.unmark(&key, "accepted").unwrap() && !store.unmark(&key, "accepted").unwrap());
    let all = matching(store, &["tide-*".into()], &Groups::default()).unwrap();
    assert_eq!(all.len(), 1);
    assert!(matches!(
        matching(store, &["gannet*".into()], &Groups::default()),
        Err(NameError::NoMachine { .. })
    ));
}

#[rstest]
fn what_no_rule_keeps_goes_and_the_chain_still_holds(
    #[values(Kind::Plain, Kind::Packed, Kind::Postgres)] kind: Kind,
) {
    let Some(kept) = kind.make() else { return };
    let store = kept.store.as_ref();
    let mut machine = Machine::new(1);
    for day in 0..40 {
        machine.kernel = format!("6.12.{}", day / 10);
        save(store, &machine.report(day)).unwrap();
    }
    let key = store.machines().unwrap()[0].machine.clone();
    let mark = Mark { name: "accepted".into(), observation: 14, marked_at: Timestamp::UNIX_EPOCH };
    store.mark(&key, &mark).unwrap();
    let keep = Keep { daily: 3, states: true, ..Keep::default() };
    let going = keep.going(&store.entries(&key).unwrap(), &store.marks(&key).unwrap());
    store.remove(&key, &going).unwrap();
    assert_eq!(problems(store), []);
    let left: Vec<u64> = store.entries(&key).unwrap().iter().map(|one| one.number).collect();
    assert_eq!(left, [1, 10, 11, 14, 20, 21, 30, 31, 38, 39, 40]);
    assert_eq!(store.removed(&key).unwrap().len(), 29);
    // What is left is whole, and what was removed is not there.
    look(store, &key, 14, Depth::Whole).unwrap();
    assert!(matches!(look(store, &key, 15, Depth::Whole), Err(StoreError::NoObservation { .. })));
    // States go with the last look at them.
    let all: BTreeSet<u64> = (1..40).collect();
    let old = store.observation(&key, 1).unwrap().state;
    store.remove(&key, &all).unwrap();
    look(store, &key, 14, Depth::Whole).unwrap();
    store.unmark(&key, "accepted").unwrap();
    store.remove(&key, &all).unwrap();
    assert!(store.state(&key, &old).is_err());
    assert_eq!(problems(store), []);
    assert_eq!(save(store, &machine.report(41)).unwrap().number, 41);
    assert_eq!(problems(store), []);
}

#[rstest]
fn a_copy_loses_nothing(
    #[values(Kind::Plain, Kind::Packed, Kind::Postgres)] from: Kind,
    #[values(Kind::Plain, Kind::Packed, Kind::Postgres)] to: Kind,
) {
    let (Some(from), Some(to)) = (from.make(), to.make()) else { return };
    for number in 0..3 {
        let mut machine = Machine::new(number);
        for day in 0..4 {
            machine.firmware = format!("2.{}", day / 2);
            save(from.store.as_ref(), &machine.report(day)).unwrap();
        }
    }
    let key = from.store.machines().unwrap()[1].machine.clone();
    let mark = Mark { name: "accepted".into(), observation: 3, marked_at: Timestamp::UNIX_EPOCH };
    from.store.mark(&key, &mark).unwrap();
    from.store.remove(&key, &BTreeSet::from([2])).unwrap();
    let copied = copy(from.store.as_ref(), to.store.as_ref(), &mut |_| {}).unwrap();
    assert_eq!((copied.machines, copied.observations, copied.stood_already), (3, 11, 0));
    assert_eq!(told(to.store.as_ref()), told(from.store.as_ref()));
    assert_eq!(problems(to.store.as_ref()), []);
    // Once more changes nothing; what was saved meanwhile in both is told, and nothing is overwritten.
    let again = copy(from.store.as_ref(), to.store.as_ref(), &mut |_| {}).unwrap();
    assert_eq!((again.observations, again.stood_already), (0, 11));
    save(from.store.as_ref(), &Machine::new(1).report(8)).unwrap();
    save(to.store.as_ref(), &Machine::new(1).report(9)).unwrap();
    let before = told(to.store.as_ref());
    let refused = copy(from.store.as_ref(), to.store.as_ref(), &mut |_| {});
    assert!(matches!(refused, Err(StoreError::Differs { number: 5, .. })), "{refused:?}");
    assert_eq!(told(to.store.as_ref()), before);
}

#[rstest]
fn old_looks_saved_late_stand_where_they_belong(
    #[values(Kind::Plain, Kind::Packed, Kind::Postgres)] kind: Kind,
) {
    let Some(kept) = kind.make() else { return };
    let store = kept.store.as_ref();
    let mut machine = Machine::new(1);
    machine.firmware = "2.5".into();
    save(store, &machine.report(9)).unwrap();
    machine.firmware = "2.4".into();
    save(store, &machine.report(3)).unwrap();
    let latest = &store.machines().unwrap()[0];
    assert_eq!(latest.last_seen, night(9));
    let report = Named::read("tide-001").report(store, &now(), Depth::Gaps).unwrap();
    assert_eq!(report.taken.at, night(9));
    let report: Report =
        Named::read("tide-001@previous").report(store, &now(), Depth::Gaps).unwrap();
    assert_eq!(report.taken.at, night(3));
    assert_eq!(problems(store), []);
}

#[rstest]
fn many_who_save_at_once_lose_nothing(
    #[values(Kind::Plain, Kind::Packed, Kind::Postgres)] kind: Kind,
) {
    let Some(kept) = kind.make() else { return };
    let store = kept.store.as_ref();
    std::thread::scope(|scope| {
        for number in 0..4 {
            for part in 0..5 {
                scope.spawn(move || {
                    let machine = Machine::new(number);
                    for day in 0..4 {
                        save(store, &machine.report(part * 10 + day)).unwrap();
                    }
                });
            }
        }
    });
    assert_eq!(problems(store), []);
    let machines = store.machines().unwrap();
    assert_eq!(machines.iter().map(|one| one.observations).collect::<Vec<_>>(), [20; 4]);
}

#[test]
fn what_says_nothing_of_itself_is_not_saved() {
    let mut report = Machine::new(1).report(0);
    for field in ["system_uuid", "serial", "machine_id"] {
        support::made::gap_at(
            &mut report,
            &format!("/machine/{field}"),
            Gap::new(Why::NotProvided),
        );
    }
    assert_eq!(Who::of(&report.machine).identity().map(|(_, text)| text), [None; 3]);
    let judged = tectum_report::finding::Judgement::of(&report, &Default::default());
    let refused = tectum_archive::written::Prepared::of(&report, &judged).unwrap_err();
    assert!(refused.to_string().contains("nothing says which machine it is"), "{refused}");
    let mut part = Machine::new(1).report(0);
    part.taken.sections.retain(|name| name != "cpu");
    let refused = tectum_archive::written::Prepared::of(&part, &judged).unwrap_err();
    assert!(refused.to_string().contains("only some sections"), "{refused}");
}

/// Machines of one state, others that share a section, and one of its own: a path is answered for each.
#[rstest]
fn what_machines_share_is_told_of_each_of_them(
    #[values(Kind::Plain, Kind::Packed, Kind::Postgres)] kind: Kind,
) {
    let Some(kept) = kind.make() else { return };
    let store = kept.store.as_ref();
    for number in 1..=6 {
        let mut machine = Machine::new(number);
        if number == 6 {
            machine.hidden = [Hidden::Modules, Hidden::Serials].into();
        }
        machine.kernel = if number == 5 { "6.12.40".into() } else { "6.12.31".into() };
        let mut report = machine.report(0);
        // The first two say nothing of themselves in their inventories: they are in one state.
        for place in ["memory/modules", "storage/disks"].iter().filter(|_| number < 3) {
            for row in 0..2 {
                let at = format!("/inventory/{place}/{row}/serial");
                report.fact_mut(&at).unwrap().set(&"none".into(), Vec::new()).unwrap();
            }
        }
        save(store, &report).unwrap();
    }
    let machines = store.machines().unwrap();
    assert_eq!(machines[0].state, machines[1].state);
    let having = |path: &str| by_value(store, &machines, &path.parse().unwrap()).unwrap();
    let told = |path: &str| -> Vec<(Option<String>, usize)> {
        let having = having(path).into_iter();
        having.map(|one| (plain(&one.values), one.machines.len())).collect()
    };
    let some = |text: &str| Some(text.to_owned());
    assert_eq!(told("os.kernel_release"), [(some("6.12.31"), 5), (some("6.12.40"), 1)]);
    assert_eq!(told("memory.modules.A1.serial").len(), 5);
    let hidden = having("memory.modules.A1.serial").into_iter().find(|one| one.values.is_empty());
    assert_eq!(hidden.map(|one| one.not_told), Some(1));
    assert_eq!(told("memory.modules.A1.serial")[0], (some("none"), 2));
    assert_eq!(told("*.*.A1.serial"), told("memory.modules.A1.serial"), "every section is read");
    // Of a section fields are chosen; where a pattern names it, all of it is read.
    let mut known = 0;
    let within = ["os.", "storage.disks.", "memory.modules.", "platform.d"];
    for path in every_path() {
        let Some((section, rest)) = path.split_once('.') else { continue };
        if !within.iter().any(|within| path.starts_with(within)) {
            continue;
        }
        // What they do not tell is the same, too.
        let answer = having(&path);
        assert_eq!(answer, having(&format!("{{{section}}}.{rest}")), "{path}");
        known += usize::from(answer.iter().any(|one| !one.values.is_empty()));
    }
    assert!(known > 5, "{known}");
}
