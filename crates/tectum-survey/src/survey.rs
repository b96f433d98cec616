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
    path::{Path, PathBuf},
    sync::{
        Arc, Mutex, MutexGuard, OnceLock, PoisonError,
        mpsc::{self, RecvTimeoutError, Sender},
    },
    thread,
    time::{Duration, Instant},
};

use jiff::Timestamp;
use tectum_report::{
    Note, Observed, Report, SourceAccess, Taken, model::OsRates, redact::of_redacted_capture,
};

use crate::{
    own_time::{OwnTime, Still},
    sections::{Found, IDENTITY, SECTIONS, Section, own_clock, rates_between, reads},
    source::{Access, Confined, Confinement, Door, Lease, Operation, Tree, bytes_text},
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
    /// How many sections are read at a time; as many as there are cores for, if it is not said.
    pub side_by_side: Option<usize>,
    /// Whether the threads that read give up the right to do anything else, where the kernel lets
    /// them.
    pub confine: bool,
    /// How far apart to look twice at the running machine's counters, to tell rates.
    pub watch_for: Option<Duration>,
    /// Whether nobody asks at the door any more once the survey is over: what it remembers is then given back.
    pub forget: bool,
}

impl Default for Plan {
    fn default() -> Self {
        Self {
            sections: SECTIONS.iter().collect(),
            access_deadline: Duration::from_secs(2),
            survey_deadline: Duration::from_secs(60),
            side_by_side: None,
            confine: true,
            watch_for: None,
            forget: false,
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
        /// How long it had not answered: less than its deadline where the whole survey's time was up.
        waited: Duration,
    },
    /// Sections are still read: told again and again, for those who show it.
    Reading {
        /// The names of those that are read now.
        sections: Vec<&'static str>,
        /// How many are whole.
        whole: usize,
        /// How many there are to read.
        all: usize,
    },
    /// The whole survey's time is up.
    OutOfTime,
    /// A section was given up, because it was not whole when the survey's time was long up.
    LeftOut {
        /// The section's name.
        section: &'static str,
    },
    /// How far the threads that read are kept from doing more.
    Confined(Confined),
}

/// What a survey gave.
#[derive(Debug, Clone)]
pub struct Survey {
    /// What was found.
    pub observed: Observed,
    /// Sections that failed by a defect of Tectum, with what it said.
    pub failures: Vec<(&'static str, String)>,
    /// Sections that were not whole when the survey's time was up.
    pub unfinished: Vec<&'static str>,
    /// Every access, in the order they ended.
    pub accesses: Vec<Access>,
    /// Time of each section, from its first beginning.
    pub timings: Vec<(&'static str, Duration)>,
    /// Time of the whole.
    pub elapsed: Duration,
    /// The kinds of text that were kept, where what was surveyed is a redacted capture.
    pub redacted: Option<Vec<String>>,
    /// How far the threads that read were kept from doing more; `None` where they were not.
    pub confined: Option<Confined>,
}

/// A time in microseconds, to the nearest ten. The digit behind is chance, and differs for each of thousands of files
/// that took alike: it would be a twentieth of a report.
fn in_tens(time: Duration) -> u64 {
    let tens = (time.as_micros() + 5) / 10;
    u64::try_from(tens * 10).unwrap_or(u64::MAX)
}

impl Survey {
    /// The report of the survey.
    pub fn into_report(self, taken: Taken) -> Report {
        let sources = self.accesses.into_iter().map(|access| SourceAccess {
            path: match access.operation {
                Operation::Uname => "uname(2)".to_owned(),
                _ => access.path.to_string(),
            },
            operation: access.operation,
            outcome: access.outcome,
            bytes: Some(access.bytes),
            elapsed_us: Some(in_tens(access.elapsed)),
        });
        let notes = self
            .failures
            .into_iter()
            .map(|(section, said)| Note::SectionFailed { section: section.to_owned(), said });
        let unfinished = self
            .unfinished
            .into_iter()
            .map(|section| Note::SectionUnfinished { section: section.to_owned() });
        let notes = notes.chain(unfinished);
        let report = Report::new(self.observed, taken, sources.collect(), notes.collect());
        match self.redacted {
            Some(kept) => of_redacted_capture(&report, kept),
            None => report,
        }
    }
}

/// After so long an access is worth a word.
const UNUSUAL: Duration = Duration::from_millis(250);

/// How often the threads are looked at.
const TICK: Duration = Duration::from_millis(25);

/// How long after the survey's time a section may still be worked out from what was read.
const GRACE: Duration = Duration::from_millis(500);

/// A section to be read.
#[derive(Clone, Copy)]
struct Job {
    section: &'static Section,
    begun: Option<Instant>,
}

/// What the threads share: the sections still to be read.
type Queue = Arc<Mutex<VecDeque<Job>>>;

/// What a thread says.
enum Message {
    /// It begins a section, with this handle.
    Begins { thread: u64, job: Job, lease: Lease },
    /// It has read the section it began last.
    Ends { thread: u64, result: Result<Found, String> },
    /// There was nothing left to read.
    Idle { thread: u64 },
}

/// A thread, and the section it reads.
struct Worker {
    thread: u64,
    busy: Option<Busy>,
}

struct Busy {
    job: Job,
    lease: Lease,
    /// How long it has been at one access, which began then.
    still: Still<Instant>,
    told: Option<Instant>,
}

/// What the clock of a machine said when it was recorded, if its files say that; nothing for one that runs.
pub fn clock_of_recorded(door: &Arc<Door>) -> Option<Timestamp> {
    if door.is_running() { None } else { own_clock(&door.lease()) }
}

/// Surveys a machine.
pub fn survey(door: &Arc<Door>, plan: &Plan, tell: &mut dyn FnMut(Event)) -> Survey {
    let start = Instant::now();
    let mut clock = OwnTime::begin();
    let watch = plan.watch_for.map(Watch::begin);
    let jobs = std::iter::once(&IDENTITY).chain(plan.sections.iter().copied());
    let queue: Queue =
        Arc::new(Mutex::new(jobs.map(|section| Job { section, begun: None }).collect()));
    let (say, heard) = mpsc::channel::<Message>();
    let confinement =
        plan.confine.then(|| Confinement::to(door, &reads(&plan.sections))).flatten().map(Arc::new);
    let mut crew =
        Crew { queue, workers: Vec::new(), threads: 0, say, confinement, confined: Arc::default() };
    let mut unfinished: Vec<&'static str> = std::iter::once(IDENTITY.name)
        .chain(plan.sections.iter().map(|section| section.name))
        .collect();
    let mut observed = Observed::default();
    let mut failures = Vec::new();
    let mut timings = Vec::new();
    let mut open = true;
    let cores = || thread::available_parallelism().map_or(1, usize::from).min(4);
    let side_by_side = plan.side_by_side.unwrap_or_else(cores);
    while !unfinished.is_empty() {
        if let Err(error) = crew.fill(door, side_by_side.clamp(1, unfinished.len())) {
            failures.push(("every section", error));
            unfinished.clear();
            break;
        }
        let heard = heard.recv_timeout(TICK);
        let now = clock.look();
        match heard {
            Ok(Message::Begins { thread, job, lease }) => {
                tell(Event::Began { section: job.section.name });
                if let Some(worker) = crew.find(thread) {
                    worker.busy = Some(Busy { job, lease, still: Still::default(), told: None });
                }
            }
            Ok(Message::Ends { thread, result }) => {
                // A thread that was given up is not listened to any more.
                let Some(busy) = crew.find(thread).and_then(|worker| worker.busy.take()) else {
                    continue;
                };
                let section = busy.job.section.name;
                if let Some(at) = unfinished.iter().position(|name| *name == section) {
                    unfinished.swap_remove(at);
                }
                let elapsed = busy.job.begun.map_or(Duration::ZERO, |begun| begun.elapsed());
                timings.push((section, elapsed));
                match result {
                    Ok(found) => {
                        found(&mut observed);
                        tell(Event::Ended { section, elapsed });
                    }
                    Err(error) => failures.push((section, error)),
                }
            }
            Ok(Message::Idle { thread }) => {
                crew.workers.retain(|worker| worker.thread != thread);
            }
            // The crew holds a sender, so the channel cannot be without one.
            Err(RecvTimeoutError::Timeout | RecvTimeoutError::Disconnected) => {
                if open && now >= plan.survey_deadline {
                    open = false;
                    door.close();
                    tell(Event::OutOfTime);
                }
                // What is read is given up at its deadline; what is only worked out, here.
                if now >= plan.survey_deadline.saturating_add(GRACE) {
                    break;
                }
                let deadline = if open { plan.access_deadline } else { Duration::ZERO };
                crew.watch(door, (now, deadline), tell);
                let all = plan.sections.len() + 1;
                let whole = all.saturating_sub(unfinished.len());
                tell(Event::Reading { sections: crew.sections(), whole, all });
            }
        }
    }
    for section in &unfinished {
        tell(Event::LeftOut { section });
    }
    let confined = crew.confined.get().copied();
    if let Some(confined) = confined {
        tell(Event::Confined(confined));
    }
    if let (Some(watch), Some(os)) = (watch, &mut observed.readings.os) {
        os.rates = Some(watch.end());
    }
    Survey {
        observed,
        failures,
        accesses: if plan.forget { door.log_and_forget() } else { door.log() },
        timings,
        elapsed: start.elapsed(),
        redacted: door.redacted().map(<[String]>::to_vec),
        confined,
        unfinished,
    }
}

/// Two looks at the running machine's counters.
struct Watch {
    begun: Instant,
    time: Duration,
    before: String,
}

impl Watch {
    fn begin(time: Duration) -> Self {
        let before = counters();
        Self { begun: Instant::now(), time, before }
    }

    /// Waits until the time is over, and tells what rose how fast.
    fn end(self) -> OsRates {
        thread::sleep(self.time.saturating_sub(self.begun.elapsed()));
        rates_between(&self.before, &counters(), self.begun.elapsed())
    }
}

/// The counters now: a door remembers its first answer, so each look has its own. Where they cannot
/// be read, every rate says so.
fn counters() -> String {
    const MOST: usize = 4 << 20;
    let read = Tree::live()
        .ok()
        .and_then(|tree| Door::new(tree).lease().read(Path::new("/proc/stat"), MOST).ok());
    read.map(|content| bytes_text(&content.bytes).into_owned()).unwrap_or_default()
}

/// The threads that read sections.
struct Crew {
    queue: Queue,
    workers: Vec<Worker>,
    threads: u64,
    say: Sender<Message>,
    confinement: Option<Arc<Confinement>>,
    /// How far the first thread was confined; the others are alike.
    confined: Arc<OnceLock<Confined>>,
}

impl Crew {
    /// The sections that are read now.
    fn sections(&self) -> Vec<&'static str> {
        let busy = self.workers.iter().filter_map(|worker| worker.busy.as_ref());
        busy.map(|busy| busy.job.section.name).collect()
    }

    fn find(&mut self, thread: u64) -> Option<&mut Worker> {
        self.workers.iter_mut().find(|worker| worker.thread == thread)
    }

    /// Begins threads while there are sections for them.
    fn fill(&mut self, door: &Arc<Door>, size: usize) -> Result<(), String> {
        while self.workers.len() < size
            && (self.workers.is_empty() || !lock(&self.queue).is_empty())
        {
            self.threads += 1;
            let (door, queue, say) = (Arc::clone(door), Arc::clone(&self.queue), self.say.clone());
            let thread = self.threads;
            let confinement = self.confinement.clone();
            let confined = Arc::clone(&self.confined);
            let begun = thread::Builder::new().name("section".to_owned()).spawn(move || {
                if let Some(confinement) = confinement {
                    let _ = confined.set(confinement.enter());
                }
                read_sections(&door, thread, &queue, &say);
            });
            match begun {
                Ok(_) => self.workers.push(Worker { thread, busy: None }),
                // Fewer threads are slower, not wrong; without any nothing can be read.
                Err(_) if !self.workers.is_empty() => break,
                Err(error) => return Err(format!("no thread could be begun: {error}")),
            }
        }
        Ok(())
    }

    /// Gives up accesses that are over their deadline, and puts their sections back into the queue.
    fn watch(
        &mut self,
        door: &Door,
        (now, deadline): (Duration, Duration),
        tell: &mut dyn FnMut(Event),
    ) {
        let queue = &self.queue;
        self.workers.retain_mut(|worker| {
            let Some(busy) = &mut worker.busy else { return true };
            let Some(access) = busy.lease.under_way() else { return true };
            let waited = busy.still.at(access.since, now);
            let section = busy.job.section.name;
            if waited >= deadline {
                busy.lease.withdraw();
                door.give_up(&access);
                lock(queue).push_front(busy.job);
                let path = access.path.to_path_buf();
                tell(Event::GaveUp { section, operation: access.operation, path, waited });
                return false;
            }
            if waited >= UNUSUAL && busy.told != Some(access.since) {
                busy.told = Some(access.since);
                let path = access.path.to_path_buf();
                tell(Event::Waiting { section, operation: access.operation, path });
            }
            true
        });
    }
}

fn lock(queue: &Mutex<VecDeque<Job>>) -> MutexGuard<'_, VecDeque<Job>> {
    queue.lock().unwrap_or_else(PoisonError::into_inner)
}

/// Reads sections until none is left. When nobody listens any more, the survey is over.
fn read_sections(
    door: &Arc<Door>,
    thread: u64,
    queue: &Mutex<VecDeque<Job>>,
    say: &Sender<Message>,
) {
    loop {
        let next = lock(queue).pop_front();
        let Some(mut job) = next else { break };
        job.begun = job.begun.or_else(|| Some(Instant::now()));
        let lease = door.lease();
        if say.send(Message::Begins { thread, job, lease: lease.clone() }).is_err() {
            return;
        }
        let read = job.section.survey;
        let result = catch_unwind(AssertUnwindSafe(|| read(&lease))).map_err(|panic| {
            let said = panic.downcast_ref::<String>().map(String::as_str);
            said.or_else(|| panic.downcast_ref::<&str>().copied())
                .unwrap_or("an unknown defect")
                .to_owned()
        });
        // A thread that was given up has nothing more to do.
        if lease.is_withdrawn() || say.send(Message::Ends { thread, result }).is_err() {
            return;
        }
    }
    let _ = say.send(Message::Idle { thread });
}

#[cfg(test)]
mod tests {
    use std::path::Path;

    use super::*;
    use crate::source::Tree;
    use rstest::rstest;
    use tectum_report::fact::Why;

    /// A file whose read never ends costs one deadline and one value, in every section that asks
    /// for it; the rest of each section is there.
    #[test]
    fn a_hung_file_costs_one_gap_and_one_deadline() {
        let folder = tempfile::tempdir().unwrap();
        let shipped = tectum_demo::Shipped::named("gannet-before").unwrap();
        tectum_demo::Tree::of(&shipped.machine().unwrap()).write(folder.path()).unwrap();
        let tree = Tree::folder(folder.path()).unwrap();
        let door = Door::hanging(tree, Path::new("/etc/machine-id"));
        let deadline = Duration::from_millis(300);
        let plan = Plan { access_deadline: deadline, confine: false, ..Plan::default() };
        let mut events = Vec::new();
        let found = survey(&door, &plan, &mut |event| events.push(event));
        let given_up: Vec<_> = events
            .iter()
            .filter_map(|event| match event {
                Event::GaveUp { path, .. } => Some(path.as_path()),
                _ => None,
            })
            .collect();
        // Two sections may be waiting for it at once; each is begun again.
        assert!(!given_up.is_empty() && given_up.len() <= 2, "{given_up:?}");
        assert!(given_up.iter().all(|path| *path == Path::new("/etc/machine-id")));
        let waiting = |event: &Event| matches!(event, Event::Waiting { .. });
        assert!(events.iter().any(waiting), "a stuck read is named while it is stuck");
        let machine = &found.observed.machine;
        assert_eq!(machine.machine_id.missing().unwrap().why, Why::Timeout);
        assert_eq!(&**machine.hostname.value().unwrap(), "gannet");
        let os = found.observed.inventory.os.as_ref().unwrap();
        assert!(os.pretty_name.is_known() && !os.machine_id.is_known());
        assert!(found.observed.inventory.cpu.is_some());
        assert!(found.failures.is_empty());
    }

    #[test]
    fn the_whole_survey_has_a_deadline_too() {
        let folder = tempfile::tempdir().unwrap();
        let shipped = tectum_demo::Shipped::named("gannet-before").unwrap();
        tectum_demo::Tree::of(&shipped.machine().unwrap()).write(folder.path()).unwrap();
        let tree = Tree::folder(folder.path()).unwrap();
        let door = Door::hanging(tree, Path::new("/proc/cpuinfo"));
        let plan = Plan {
            access_deadline: Duration::from_secs(3600),
            survey_deadline: Duration::from_millis(100),
            confine: false,
            ..Plan::default()
        };
        let mut told = false;
        let found = survey(&door, &plan, &mut |event| told |= event == Event::OutOfTime);
        assert!(told);
        let cpu = found.observed.inventory.cpu.unwrap();
        assert_eq!(cpu.family.missing().unwrap().why, Why::Timeout);
    }

    #[test]
    fn a_section_that_fails_is_left_out_and_named() {
        const BROKEN: Section = Section {
            name: "broken",
            summary: "",
            reads: &[],
            survey: |_| panic!("a defect for this test"),
        };
        static SECTION: Section = BROKEN;
        let folder = tempfile::tempdir().unwrap();
        let door = Door::new(Tree::folder(folder.path()).unwrap());
        let plan = Plan { sections: vec![&SECTION], ..Plan::default() };
        let found = survey(&door, &plan, &mut |_| {});
        assert_eq!(found.failures, [("broken", "a defect for this test".to_owned())]);
    }

    #[rstest]
    #[case(Duration::ZERO, 0)]
    #[case(Duration::from_nanos(4_999), 0)]
    #[case(Duration::from_micros(5), 10)]
    #[case(Duration::from_micros(14), 10)]
    #[case(Duration::from_millis(2_000), 2_000_000)]
    #[case(Duration::MAX, u64::MAX)]
    fn times_are_in_tens_of_microseconds(#[case] time: Duration, #[case] expected: u64) {
        assert_eq!(in_tens(time), expected);
    }
}
