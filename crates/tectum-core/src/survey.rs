//! A survey: sections read side by side, each access under a deadline.
//!
//! A section's thread reads directly, with nothing between it and the kernel. The one who waits
//! looks now and then at what each thread is waiting for. An access that takes longer than its
//! deadline is settled at the door as timed out, its thread is left to itself, and the section is
//! begun again: all it had read is remembered at the door, so the second run costs next to nothing
//! and meets a gap where the first one hung. A hung file costs one deadline, never the survey.

use std::{
    collections::VecDeque,
    panic::{AssertUnwindSafe, catch_unwind},
    path::PathBuf,
    sync::{
        Arc,
        mpsc::{self, RecvTimeoutError, Sender},
    },
    thread,
    time::{Duration, Instant},
};

use crate::{
    sections::{Findings, Found, IDENTITY, SECTIONS, Section},
    source::{Access, Door, Lease, Operation},
};

/// What to survey, and how long to wait.
#[derive(Clone)]
pub struct Plan {
    /// The sections, in the order they are begun.
    pub sections: Vec<&'static Section>,
    /// How long one access may take.
    pub access_deadline: Duration,
    /// How long the whole survey may take.
    pub survey_deadline: Duration,
    /// How many sections are read at a time.
    pub side_by_side: usize,
}

impl Default for Plan {
    fn default() -> Self {
        Self {
            sections: SECTIONS.iter().collect(),
            access_deadline: Duration::from_secs(2),
            survey_deadline: Duration::from_secs(60),
            side_by_side: thread::available_parallelism().map_or(1, usize::from).min(4),
        }
    }
}

/// What happens while a survey runs.
#[derive(Debug, Clone, PartialEq, Eq)]
#[non_exhaustive]
pub enum Event {
    /// A section was begun, for the first time or again.
    Began {
        /// The section's name.
        section: &'static str,
    },
    /// A section is whole.
    Ended {
        /// The section's name.
        section: &'static str,
        /// Time since it was begun.
        elapsed: Duration,
    },
    /// An access takes unusually long.
    Waiting {
        /// The section that waits.
        section: &'static str,
        /// What was asked.
        operation: Operation,
        /// The path.
        path: PathBuf,
    },
    /// An access has taken longer than its deadline and was given up.
    GaveUp {
        /// The section that waited.
        section: &'static str,
        /// What was asked.
        operation: Operation,
        /// The path.
        path: PathBuf,
    },
    /// The whole survey's time is up.
    OutOfTime,
}

/// What a survey gave.
#[derive(Debug, Clone)]
pub struct Survey {
    /// What was found.
    pub findings: Findings,
    /// Sections that failed by a defect of Tectum, with what it said.
    pub failures: Vec<(&'static str, String)>,
    /// Every access, in the order they ended.
    pub accesses: Vec<Access>,
    /// Time of each section, from its first beginning.
    pub timings: Vec<(&'static str, Duration)>,
    /// Time of the whole.
    pub elapsed: Duration,
}

/// After so long an access is worth a word.
const UNUSUAL: Duration = Duration::from_millis(250);

/// How often the threads are looked at.
const TICK: Duration = Duration::from_millis(25);

/// A section being read.
struct Running {
    attempt: u64,
    job: Job,
    lease: Lease,
    told: Option<Instant>,
}

#[derive(Clone, Copy)]
struct Job {
    section: &'static Section,
    begun: Option<Instant>,
}

type Answer = (u64, Result<Found, String>);

/// Surveys a machine.
pub fn survey(door: &Arc<Door>, plan: &Plan, tell: &mut dyn FnMut(Event)) -> Survey {
    let start = Instant::now();
    let mut waiting: VecDeque<Job> = std::iter::once(&IDENTITY)
        .chain(plan.sections.iter().copied())
        .map(|section| Job { section, begun: None })
        .collect();
    let mut running: Vec<Running> = Vec::new();
    let mut given: Vec<(&'static str, Found)> = Vec::new();
    let mut failures = Vec::new();
    let mut timings = Vec::new();
    let mut attempts = 0;
    let mut open = true;
    let (answer, answers) = mpsc::channel::<Answer>();
    while !(waiting.is_empty() && running.is_empty()) {
        while running.len() < plan.side_by_side.max(1)
            && let Some(mut job) = waiting.pop_front()
        {
            attempts += 1;
            job.begun = job.begun.or_else(|| Some(Instant::now()));
            tell(Event::Began { section: job.section.name });
            match begin(door, job, attempts, answer.clone()) {
                Ok(begun) => running.push(begun),
                Err(error) => failures.push((job.section.name, error)),
            }
        }
        match answers.recv_timeout(TICK) {
            Ok((attempt, result)) => {
                let Some(at) = running.iter().position(|one| one.attempt == attempt) else {
                    continue;
                };
                let job = running.swap_remove(at).job;
                let section = job.section.name;
                let elapsed = job.begun.map_or(Duration::ZERO, |begun| begun.elapsed());
                timings.push((section, elapsed));
                match result {
                    Ok(found) => {
                        given.push((section, found));
                        tell(Event::Ended { section, elapsed });
                    }
                    Err(error) => failures.push((section, error)),
                }
            }
            // `answer` lives on, so the channel cannot be without a sender.
            Err(RecvTimeoutError::Timeout | RecvTimeoutError::Disconnected) => {
                if open && start.elapsed() >= plan.survey_deadline {
                    open = false;
                    door.close();
                    tell(Event::OutOfTime);
                }
                let deadline = if open { plan.access_deadline } else { Duration::ZERO };
                watch(door, deadline, &mut running, &mut waiting, tell);
            }
        }
    }
    let mut findings = Findings::default();
    for (_, found) in given {
        found(&mut findings);
    }
    Survey { findings, failures, accesses: door.log(), timings, elapsed: start.elapsed() }
}

fn begin(
    door: &Arc<Door>,
    job: Job,
    attempt: u64,
    answer: Sender<Answer>,
) -> Result<Running, String> {
    let lease = door.lease();
    let desk = lease.clone();
    let read = job.section.survey;
    thread::Builder::new()
        .name(job.section.name.to_owned())
        .spawn(move || {
            let result = catch_unwind(AssertUnwindSafe(|| read(&desk))).map_err(|panic| {
                let said = panic.downcast_ref::<String>().map(String::as_str);
                said.or_else(|| panic.downcast_ref::<&str>().copied())
                    .unwrap_or("an unknown defect")
                    .to_owned()
            });
            // Nobody waits for a section that was given up.
            let _ = answer.send((attempt, result));
        })
        .map_err(|error| format!("no thread could be begun: {error}"))?;
    Ok(Running { attempt, job, lease, told: None })
}

/// Gives up accesses that are over their deadline, and begins their sections again.
fn watch(
    door: &Door,
    deadline: Duration,
    running: &mut Vec<Running>,
    waiting: &mut VecDeque<Job>,
    tell: &mut dyn FnMut(Event),
) {
    running.retain_mut(|one| {
        let Some(access) = one.lease.under_way() else { return true };
        let waited = access.since.elapsed();
        let section = one.job.section.name;
        if waited >= deadline {
            one.lease.withdraw();
            door.give_up(&access);
            waiting.push_front(one.job);
            tell(Event::GaveUp { section, operation: access.operation, path: access.path });
            return false;
        }
        if waited >= UNUSUAL && one.told != Some(access.since) {
            one.told = Some(access.since);
            tell(Event::Waiting { section, operation: access.operation, path: access.path });
        }
        true
    });
}
