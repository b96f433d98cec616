//! What runs (`Documentation/filesystems/proc.rst`): readings, and only where they are asked for.
//!
//! Neither command lines nor environments are read: they hold secrets.

use std::{
    cmp::Reverse,
    collections::{BTreeMap, HashMap},
    sync::Arc,
};

use super::{Found, Section};
use crate::{
    formats::{
        colon, lines, mountinfo, number,
        process::{self, Stat, TICKS},
    },
    readers::{
        file::{File, list, listing_evidence, numbered},
        limits::leave_first,
        sayings,
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Saying, Why, saying},
    leaf::{Bytes, Label, Milliseconds, Moment, PathName, Term},
    model::{Process, ProcessGroup, ProcessMemory, ProcessReadings, ProcessState},
};

pub(super) const SECTION: Section = Section {
    name: "processes",
    summary: "what runs: how many, what they wait for, which hold the most memory; only where it is named",
    reads: &[
        "/proc",
        "/proc/[0-9]*/cgroup",
        "/proc/[0-9]*/io",
        "/proc/[0-9]*/smaps_rollup",
        "/proc/[0-9]*/stat",
        "/proc/[0-9]*/status",
        "/proc/[0-9]*/wchan",
        "/proc/self/mountinfo",
        "/proc/stat",
    ],
    survey,
};

/// Of so many of the largest it is asked what they share.
const LARGEST: usize = 20;

fn survey(lease: &Lease) -> Found {
    let readings = look(lease);
    Box::new(|observed| observed.readings.processes = Some(readings))
}

fn look(lease: &Lease) -> ProcessReadings {
    let names = match list(lease, "/proc") {
        Ok(names) => names,
        Err(gap) => return missing(&gap),
    };
    let pids = numbered(&names, "");
    let booted = booted(&File::read(lease, "/proc/stat"));
    // One that ended meanwhile is no longer there: that is no gap.
    let mut all: Vec<Read> = pids.into_iter().filter_map(|pid| Read::of(lease, pid)).collect();
    if all.is_empty() {
        return missing(
            &Gap::new(Why::NotProvided)
                .tried("/proc".into(), saying!("lists-no-process", "lists no process")),
        );
    }
    let tally = Tally::of(&all);
    let largest = largest(lease, &all);
    let groups = groups(&all);
    all.retain(|one| !one.is_kernels() || one.state() == Some(ProcessState::WaitingForDevice));
    let mut told: Vec<Process> = all.iter().map(|one| one.told(lease, &booted)).collect();
    let too_many = all.first().and_then(|one| leave_first(&mut told, &one.stat));
    let list =
        Parts::known(told, listing_evidence("/proc", sayings::EVERY_NAME_FOLDER)).in_part(too_many);
    ProcessReadings {
        hidepid: hidepid(lease),
        list,
        largest: Parts::known(
            largest,
            listing_evidence(
                "/proc",
                saying!("largest-by-resident-memory", "the largest by the memory that they hold"),
            ),
        ),
        groups,
        ..tally.told()
    }
}

fn missing(gap: &Gap) -> ProcessReadings {
    let none = || Fact::gap(gap.clone());
    ProcessReadings {
        count: none(),
        threads: none(),
        kernel_threads: none(),
        running: none(),
        sleeping: none(),
        waiting_for_device: none(),
        stopped: none(),
        zombies: none(),
        hidepid: Fact::gap(gap.clone()),
        list: Parts::missing(gap.clone()),
        largest: Parts::missing(gap.clone()),
        groups: Parts::missing(gap.clone()),
    }
}

/// What was read of a process.
struct Read {
    pid: u64,
    stat: File,
    status: File,
    io: File,
    control_group: File,
}

impl Read {
    fn of(lease: &Lease, pid: u64) -> Option<Self> {
        let file = |name: &str| File::read(lease, format!("/proc/{pid}/{name}"));
        let stat = file("stat");
        let ended = stat.bytes().is_err_and(|gap| gap.why == Why::NotProvided);
        (!ended).then(|| Self {
            pid,
            stat,
            status: file("status"),
            io: file("io"),
            control_group: file("cgroup"),
        })
    }

    fn parsed<T>(&self, get: impl FnOnce(&Stat<'_>) -> T) -> Option<T> {
        process::stat(&self.stat.text()).as_ref().map(get)
    }

    fn is_kernels(&self) -> bool {
        self.parsed(|stat| stat.is_kernel_thread()) == Some(true)
    }

    fn state(&self) -> Option<ProcessState> {
        self.parsed(|stat| state(stat.state)).flatten()
    }

    /// The amount of a line of `status`, in bytes.
    fn amount(&self, key: &str) -> Option<u64> {
        let text = self.status.text();
        let blocks = colon::blocks(&text);
        number::kibibytes(colon::find_first(&blocks, key)?.value)
    }

    fn ticks(&self) -> Option<u64> {
        self.parsed(|stat| stat.user_ticks.saturating_add(stat.system_ticks))
    }

    fn told(&self, lease: &Lease, booted: &Fact<Moment>) -> Process {
        let status_text = self.status.text();
        let blocks = colon::blocks(&status_text);
        let line = |key: &str| colon::find_first(&blocks, key);
        let field = |rule: Saying| Field { read: self, rule };
        let counted = |key: &str| {
            let text = self.io.text();
            let blocks = colon::blocks(&text);
            let entry = colon::find_first(&blocks, key);
            self.io.entry_fact(entry, key, sayings::DECIMAL_NUMBER, number::decimal).map(Bytes)
        };
        let memory = |key: &str| {
            // The kernel's own threads have no memory of their own.
            if self.is_kernels() {
                return Fact::gap(Gap::new(Why::NotApplicable));
            }
            self.status
                .entry_fact(
                    line(key),
                    key,
                    saying!("kibibytes-number", "kibibytes"),
                    number::kibibytes,
                )
                .map(Bytes)
        };
        let waits = self.state() == Some(ProcessState::WaitingForDevice);
        Process {
            pid: field(saying!("stat-number", "its number, before its name"))
                .of(|stat| Some(stat.pid)),
            parent: field(saying!("stat-parent", "the fourth field")).of(|stat| Some(stat.parent)),
            name: field(saying!("stat-name", "what stands in brackets"))
                .of(|stat| Some(Label(stat.name.to_owned()))),
            state: field(saying!("stat-state", "the letter behind the name"))
                .of(|stat| state(stat.state)),
            is_kernel_thread: field(saying!(
                "stat-kernel-mark",
                "the kernel's mark among its flags"
            ))
            .of(|stat| Some(stat.is_kernel_thread())),
            user_id: self.status.entry_fact(
                line("Uid"),
                "Uid",
                saying!("second-number-effective", "the second number: whose rights it has"),
                |value| number::decimal(value.split_ascii_whitespace().nth(1)?),
            ),
            started_at: self.started(booted),
            threads: field(saying!("stat-threads", "the 20th field")).of(|stat| Some(stat.threads)),
            resident_bytes: memory("VmRSS"),
            swapped_bytes: memory("VmSwap"),
            processor_time_ms: field(saying!(
                "stat-ticks",
                "the 14th and 15th field, in hundredths of a second, together"
            ))
            .of(|stat| {
                let ticks = stat.user_ticks.checked_add(stat.system_ticks)?;
                ticks.checked_mul(1000 / TICKS).map(Milliseconds)
            }),
            read_bytes: counted("read_bytes"),
            written_bytes: counted("write_bytes"),
            control_group: self.group(),
            waits_in: match waits {
                false => Fact::gap(Gap::new(Why::NotApplicable)),
                true => File::read(lease, format!("/proc/{}/wchan", self.pid))
                    .text_fact::<Term>()
                    .and_then(|place| match &*place.0 {
                        // So it says to whom it does not tell.
                        "0" => Err(Gap::new(Why::Permission)),
                        _ => Ok(place),
                    }),
            },
        }
    }

    fn group(&self) -> Fact<PathName> {
        let text = self.control_group.text();
        let found = lines(&text).find(|line| line.raw.starts_with("0::"));
        match (found, process::control_group(&text)) {
            (Some(line), Some(path)) => Fact::known(
                PathName(path.to_owned()),
                self.control_group.at_line(
                    line,
                    saying!("behind-two-colons", "what stands behind the two colons"),
                ),
            ),
            _ => Fact::gap(self.control_group.lacks("a control group of version 2")),
        }
    }

    fn started(&self, booted: &Fact<Moment>) -> Fact<Moment> {
        let since = Field {
            read: self,
            rule: saying!(
                "stat-started",
                "the 22nd field, in hundredths of a second since the start"
            ),
        };
        since.of(|stat| {
            let after = i64::try_from(stat.started_ticks / TICKS).ok()?;
            let booted = booted.value()?.0;
            booted.checked_add(jiff::SignedDuration::from_secs(after)).ok().map(Moment)
        })
    }
}

/// A field of `stat`.
struct Field<'a> {
    read: &'a Read,
    rule: Saying,
}

impl Field<'_> {
    fn of<T>(self, get: impl FnOnce(&Stat<'_>) -> Option<T>) -> Fact<T> {
        self.read.stat.fact(self.rule, |text| get(&process::stat(text)?))
    }
}

/// What a process is doing, by the letter that the kernel says it with.
pub(crate) fn state(letter: char) -> Option<ProcessState> {
    Some(match letter {
        'R' => ProcessState::Running,
        'S' => ProcessState::Sleeping,
        'D' => ProcessState::WaitingForDevice,
        'I' => ProcessState::Idle,
        'T' => ProcessState::Stopped,
        't' => ProcessState::Traced,
        'Z' => ProcessState::Zombie,
        'X' | 'x' => ProcessState::Dead,
        _ => return None,
    })
}

/// When the kernel started.
fn booted(stat: &File) -> Fact<Moment> {
    let text = stat.text();
    let line = lines(&text).find(|line| line.raw.starts_with("btime "));
    let moment = line.and_then(|line| {
        let seconds = line.raw.strip_prefix("btime ")?.trim().parse().ok()?;
        Some((line, jiff::Timestamp::from_second(seconds).ok()?))
    });
    match moment {
        Some((line, at)) => Fact::known(
            Moment(at),
            stat.at_line(
                line,
                saying!("seconds-since-1970-01-01", "seconds since 1970-01-01 UTC, as a date"),
            ),
        ),
        None => Fact::gap(stat.lacks("btime")),
    }
}

/// How many processes do what.
#[derive(Default)]
struct Tally {
    count: u64,
    threads: u64,
    kernel_threads: u64,
    states: BTreeMap<ProcessState, u64>,
}

impl Tally {
    fn of(all: &[Read]) -> Self {
        let mut tally = Self::default();
        for one in all {
            let state = one.state();
            if one.is_kernels() {
                tally.kernel_threads += 1;
                if state != Some(ProcessState::WaitingForDevice) {
                    continue;
                }
            } else {
                tally.count += 1;
                tally.threads += one.parsed(|stat| stat.threads).unwrap_or(0);
            }
            if let Some(state) = state {
                *tally.states.entry(state).or_default() += 1;
            }
        }
        tally
    }

    fn told(&self) -> ProcessReadings {
        let known = |number: u64| {
            Fact::known(
                number,
                Evidence::new(
                    "/proc".into(),
                    saying!("counted-over-processes", "counted over every process that is shown"),
                ),
            )
        };
        let of = |states: &[ProcessState]| {
            known(states.iter().filter_map(|state| self.states.get(state)).sum())
        };
        ProcessReadings {
            count: known(self.count),
            threads: known(self.threads),
            kernel_threads: known(self.kernel_threads),
            running: of(&[ProcessState::Running]),
            sleeping: of(&[ProcessState::Sleeping, ProcessState::Idle]),
            waiting_for_device: of(&[ProcessState::WaitingForDevice]),
            stopped: of(&[ProcessState::Stopped, ProcessState::Traced]),
            zombies: of(&[ProcessState::Zombie]),
            ..missing(&Gap::new(Why::NotProvided))
        }
    }
}

/// What the largest hold of what they share with others.
fn largest(lease: &Lease, all: &[Read]) -> Vec<ProcessMemory> {
    let mut sizes: Vec<(Reverse<u64>, u64, &Read)> =
        all.iter().filter_map(|one| Some((Reverse(one.amount("VmRSS")?), one.pid, one))).collect();
    sizes.sort_by_key(|(size, pid, _)| (*size, *pid));
    sizes.truncate(LARGEST);
    sizes
        .into_iter()
        .map(|(_, _, one)| {
            let file = File::read(lease, format!("/proc/{}/smaps_rollup", one.pid));
            let text = file.text();
            let blocks = colon::blocks(&text);
            let amount = |key: &str| {
                let entry = colon::find_first(&blocks, key);
                let rule = saying!("kibibytes-number", "kibibytes");
                file.entry_fact(entry, key, rule, number::kibibytes).map(Bytes)
            };
            let number =
                Field { read: one, rule: saying!("stat-number", "its number, before its name") };
            ProcessMemory {
                pid: number.of(|stat| Some(stat.pid)),
                proportional_bytes: amount("Pss"),
                swapped_proportional_bytes: amount("SwapPss"),
            }
        })
        .collect()
}

/// What the processes of each control group use together.
fn groups(all: &[Read]) -> Parts<ProcessGroup> {
    let mut groups: HashMap<Arc<str>, (u64, u64, u64)> = HashMap::new();
    for one in all.iter().filter(|one| !one.is_kernels()) {
        let text = one.control_group.text();
        let Some(path) = process::control_group(&text) else { continue };
        let (processes, resident, ticks) = groups.entry(path.into()).or_default();
        *processes += 1;
        *resident = resident.saturating_add(one.amount("VmRSS").unwrap_or(0));
        *ticks = ticks.saturating_add(one.ticks().unwrap_or(0));
    }
    let Some(first) = all.first() else { return Parts::missing(Gap::new(Why::NotProvided)) };
    if groups.is_empty() {
        return Parts::missing(first.control_group.lacks("a control group of version 2"));
    }
    let mut groups: Vec<(Arc<str>, (u64, u64, u64))> = groups.into_iter().collect();
    groups.sort_by(|(one, own), (other, others)| others.1.cmp(&own.1).then_with(|| one.cmp(other)));
    let evidence = || {
        Evidence::new(
            "/proc".into(),
            saying!("summed-over-group", "summed up over the processes of the group"),
        )
    };
    let of = |(path, (processes, resident, ticks)): (Arc<str>, (u64, u64, u64))| ProcessGroup {
        control_group: Fact::known(PathName(path.to_string()), evidence()),
        processes: Fact::known(processes, evidence()),
        resident_bytes: Fact::known(Bytes(resident), evidence()),
        processor_time_ms: Fact::known(
            Milliseconds(ticks.saturating_mul(1000 / TICKS)),
            evidence(),
        ),
    };
    Parts::known(groups.into_iter().map(of).collect(), evidence())
}

/// How `/proc` is mounted to hide others' processes.
fn hidepid(lease: &Lease) -> Fact<Term> {
    let file = File::read(lease, "/proc/self/mountinfo");
    let text = file.text();
    let mounts = mountinfo::parse(&text);
    let Some(mount) =
        mounts.iter().rfind(|mount| mount.mount_point == "/proc" && mount.filesystem == "proc")
    else {
        return Fact::gap(file.lacks("a mount of /proc"));
    };
    let option = mount.super_options.split(',').find_map(|option| option.strip_prefix("hidepid="));
    let rule = saying!(
        "option-hidepid",
        "the option `hidepid` of the mount, which is off where it is not said"
    );
    Fact::known(Term::from(option.unwrap_or("off")), file.at_line(mount.line, rule))
}
