//! What runs.

use std::{cmp::Reverse, collections::BTreeMap, collections::HashMap};

use tectum_report::{
    fact::{Fact, Why},
    leaf::Bytes,
    model::{Process, ProcessReadings, ProcessState},
};

use super::{View, cell, known, why};
use crate::{
    page::{Cell, Page, Tone, UNKNOWN},
    views::quantity::{self, count, size},
};

/// So many processes and groups are shown of each kind.
const SHOWN: usize = 10;

pub(super) fn print(all: &ProcessReadings, view: &View<'_>, page: &mut Page) {
    let Some(number) = all.count.value() else {
        page.entry("processes").plain(all.count.missing().map_or_else(String::new, why));
        return;
    };
    let number_of = |fact: &Fact<u64>| fact.value().copied().unwrap_or(0);
    let words = |number: u64, one: &str, many: &str| {
        count(usize::try_from(number).unwrap_or(usize::MAX), one, many)
    };
    page.entry("processes")
        .strong(words(*number, "process", "processes"))
        .plain(format!(", {}", words(number_of(&all.threads), "thread", "threads")))
        .quiet(format!("; {} threads of the kernel's own", number_of(&all.kernel_threads)));
    let states = [
        (&all.running, "running"),
        (&all.sleeping, "sleeping"),
        (&all.waiting_for_device, "waiting for a device"),
        (&all.stopped, "stopped"),
        (&all.zombies, "zombies"),
    ];
    let told = states.into_iter().filter(|(fact, _)| number_of(fact) > 0);
    let told: Vec<String> =
        told.map(|(fact, word)| format!("{} {word}", number_of(fact))).collect();
    page.beside().plain(told.join(", "));
    not_all(all, view.report.taken.privileged, page);
    if !view.drawn {
        return;
    }
    tables(all, view, page);
    waiting(all, page);
    zombies(all, page);
    groups(all, view, page);
}

fn number_in(fact: &Fact<Bytes>) -> Option<u64> {
    fact.value().map(|bytes| bytes.0)
}

/// What hides processes, or what is in them.
fn not_all(all: &ProcessReadings, as_root: bool, page: &mut Page) {
    if !as_root && let Some(hides) = all.hidepid.value().filter(|it| !matches!(&*it.0, "off" | "0"))
    {
        page.beside().tone(
            Tone::Before,
            format!(
                "/proc is mounted with hidepid={hides}: others' processes are hidden but from root"
            ),
        );
    }
    let refused =
        |one: &&Process| one.read_bytes.missing().is_some_and(|it| it.why == Why::Permission);
    let number = all.list.iter().filter(refused).count();
    if number > 0 {
        page.beside().quiet(format!(
            "what {} read and wrote is refused to this user",
            count(number, "process", "processes")
        ));
    }
}

/// The processes of which there is most of something.
fn most(all: &ProcessReadings, amount: impl Fn(&Process) -> Option<u64>) -> Vec<&Process> {
    let own = all.list.iter().filter(|one| one.is_kernel_thread.value() != Some(&true));
    let mut chosen: Vec<(Reverse<u64>, &Process)> =
        own.filter_map(|one| Some((Reverse(amount(one).filter(|it| *it > 0)?), one))).collect();
    chosen.sort_by_key(|(amount, one)| (*amount, one.pid.value().copied()));
    chosen.truncate(SHOWN);
    chosen.into_iter().map(|(_, one)| one).collect()
}

fn tables(all: &ProcessReadings, view: &View<'_>, page: &mut Page) {
    let units = view.units;
    // What is held, shared pages shared out, by number.
    let proportional: HashMap<u64, Bytes> = all
        .largest
        .iter()
        .filter_map(|one| Some((*one.pid.value()?, *one.proportional_bytes.value()?)))
        .collect();
    let bytes = |fact: &Fact<Bytes>| Cell::from(fact.value().map(|bytes| size(*bytes, units)));
    let who = |one: &Process| {
        vec![known(&one.pid).into(), cell(&one.name).into(), known(&one.user_id).into()]
    };
    let mut table = |heading: &str,
                     heads: [&str; 3],
                     chosen: Vec<&Process>,
                     own: &dyn Fn(&Process) -> [Cell; 3]| {
        if chosen.is_empty() {
            return;
        }
        page.heading(heading);
        let heads = [&[">pid", "name", ">user"], &heads[..]].concat();
        page.table(&heads, chosen.into_iter().map(|one| [who(one), own(one).to_vec()].concat()));
    };
    table(
        "The largest by memory",
        [">resident", ">proportional", ">swapped"],
        most(all, |one| number_in(&one.resident_bytes)),
        &|one| {
            let shared = one.pid.value().and_then(|pid| proportional.get(pid));
            let shared = Cell::from(shared.map(|bytes| size(*bytes, units)));
            [bytes(&one.resident_bytes), shared, bytes(&one.swapped_bytes)]
        },
    );
    let time = |one: &Process| Cell::from(quantity::fact(one, &one.processor_time_ms, units));
    let threads = |one: &Process| Cell::from(known(&one.threads));
    table(
        "The longest on the processors",
        [">processor time", ">threads", "started"],
        most(all, |one| one.processor_time_ms.value().map(|time| time.0)),
        &|one| [time(one), threads(one), started(one)],
    );
    table(
        "The most read and written",
        [">read", ">written", "started"],
        most(all, |one| {
            Some(number_in(&one.read_bytes)?.saturating_add(number_in(&one.written_bytes)?))
        }),
        &|one| [bytes(&one.read_bytes), bytes(&one.written_bytes), started(one)],
    );
    table(
        "Started last",
        ["started", ">parent", ">threads"],
        most(all, |one| u64::try_from(one.started_at.value()?.0.as_second()).ok()),
        &|one| [started(one), known(&one.parent).into(), threads(one)],
    );
}

fn started(one: &Process) -> Cell {
    let at = one.started_at.value();
    at.map(|at| at.0.strftime("%Y-%m-%d %H:%M:%S").to_string()).into()
}

fn waiting(all: &ProcessReadings, page: &mut Page) {
    let waits = |one: &&Process| one.state.value() == Some(&ProcessState::WaitingForDevice);
    let rows: Vec<Vec<Cell>> = all
        .list
        .iter()
        .filter(waits)
        .map(|one| {
            vec![
                known(&one.pid).into(),
                cell(&one.name).into(),
                match one.waits_in.missing().map(|gap| gap.why) {
                    Some(Why::Permission) => "refused to this user".to_owned(),
                    _ => cell(&one.waits_in),
                }
                .into(),
            ]
        })
        .collect();
    if !rows.is_empty() {
        page.heading("Waiting for a device");
        page.table(&[">pid", "name", "in the kernel at"], rows);
    }
}

/// Those that ended, by the parents that have not asked how.
fn zombies(all: &ProcessReadings, page: &mut Page) {
    let mut by_parent: BTreeMap<u64, usize> = BTreeMap::new();
    for one in all.list.iter().filter(|one| one.state.value() == Some(&ProcessState::Zombie)) {
        *by_parent.entry(one.parent.value().copied().unwrap_or(0)).or_default() += 1;
    }
    if by_parent.is_empty() {
        return;
    }
    let name = |pid: u64| {
        let parent = all.list.iter().find(|one| one.pid.value() == Some(&pid));
        parent.map_or_else(|| UNKNOWN.to_owned(), |parent| cell(&parent.name))
    };
    page.heading("Zombies, by the parent that has not asked how they ended");
    let rows = by_parent.into_iter().map(|(pid, number)| {
        vec![Cell::from(pid.to_string()), name(pid).into(), number.to_string().into()]
    });
    page.table(&[">parent", "name", ">zombies"], rows);
}

fn groups(all: &ProcessReadings, view: &View<'_>, page: &mut Page) {
    if all.groups.is_empty() {
        return;
    }
    page.heading("By control group");
    let rows = all.groups.iter().take(SHOWN).map(|one| {
        vec![
            Cell::from(one.resident_bytes.value().map(|bytes| size(*bytes, view.units))),
            known(&one.processes).into(),
            quantity::fact(one, &one.processor_time_ms, view.units).into(),
            cell(&one.control_group).into(),
        ]
    });
    page.table(&[">resident", ">processes", ">processor time", "control group"], rows);
    let more = all.groups.len().saturating_sub(SHOWN);
    if more > 0 {
        page.beside().quiet(format!("and {} more", count(more, "group", "groups")));
    }
}
