//! What runs, read from a made-up `/proc` and from that of the machine that tests.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

use std::{
    fs,
    net::TcpListener,
    path::Path,
    process::{Command, Stdio},
    sync::Arc,
    time::Duration,
};

use tectum_report::{
    declare::AnyFact,
    fact::Why,
    model::{Process, ProcessReadings, ProcessState},
};
use tectum_survey::{
    process::{ProcessError, look},
    sections::named,
    source::{Door, Tree},
    survey::{Plan, survey},
};

fn surveyed(door: Arc<Door>) -> ProcessReadings {
    let plan = Plan { sections: vec![named("processes").unwrap()], ..Plan::default() };
    survey(&door, &plan, &mut |_| {}).observed.readings.processes.unwrap()
}

fn readings(folder: &Path) -> ProcessReadings {
    surveyed(Door::new(Tree::folder(folder).unwrap()))
}

struct Proc(tempfile::TempDir);

impl Proc {
    fn new() -> Self {
        let own = Self(tempfile::tempdir().unwrap());
        own.write("proc/stat", "cpu 1 2 3\nbtime 1780000000\n");
        own.write("proc/self/mountinfo", "22 1 0:5 / /proc rw - proc proc rw,hidepid=invisible\n");
        own
    }

    fn write(&self, path: &str, text: &str) {
        let path = self.0.path().join(path);
        fs::create_dir_all(path.parent().unwrap()).unwrap();
        fs::write(path, text).unwrap();
    }

    /// A process: its number and name; state, parent and flags; memory in kibibytes, control group.
    fn process(
        &self,
        (pid, name): (u64, &str),
        (state, parent, flags): (char, u64, u64),
        (kib, group): (u64, &str),
    ) {
        let stat = format!(
            "{pid} ({name}) {state} {parent} {pid} {pid} 0 -1 {flags} 3 0 0 0 250 50 9 9 20 0 7 0 12345 99\n"
        );
        self.write(&format!("proc/{pid}/stat"), &stat);
        let memory =
            if kib > 0 { format!("VmRSS:\t  {kib} kB\nVmSwap:\t  12 kB\n") } else { String::new() };
        let status = format!("Name:\t{name}\nUid:\t1000\t1001\t1000\t1000\n{memory}Threads:\t7\n");
        self.write(&format!("proc/{pid}/status"), &status);
        self.write(&format!("proc/{pid}/io"), "rchar: 9\nread_bytes: 4096\nwrite_bytes: 8192\n");
        self.write(&format!("proc/{pid}/cgroup"), &format!("0::{group}\n"));
        let rollup =
            format!("5600-7fff ---p 0 00:00 0 [rollup]\nRss: {kib} kB\nPss: {} kB\n", kib / 2);
        self.write(&format!("proc/{pid}/smaps_rollup"), &rollup);
    }
}

fn machine() -> Proc {
    let made = Proc::new();
    let service = "/system.slice/collector.service";
    made.process((1, "init"), ('S', 0, 0x40_0100), (9_000, "/init.scope"));
    made.process((2, "kthreadd"), ('S', 0, 0x20_8040), (0, "/"));
    made.process((7, "kworker/0:1"), ('D', 2, 0x20_8040), (0, "/"));
    made.write("proc/7/wchan", "wait_on_page_bit");
    made.process((812, "tide (old) x"), ('R', 1, 0x40_0000), (64_000, service));
    made.process((813, "collector"), ('D', 812, 0x40_0000), (32_000, service));
    made.write("proc/813/wchan", "0");
    made.process((900, "gone"), ('Z', 812, 0x40_0000), (0, service));
    made.process((901, "held"), ('T', 1, 0x40_0000), (100, "/user.slice"));
    // One that ended after it was listed.
    fs::create_dir_all(made.0.path().join("proc/950")).unwrap();
    made
}

fn of(all: &ProcessReadings, pid: u64) -> &Process {
    all.list.iter().find(|one| one.pid.value() == Some(&pid)).unwrap()
}

#[test]
fn processes_are_counted_by_what_they_do() {
    let made = machine();
    let all = readings(made.0.path());
    let number = |fact: &tectum_report::fact::Fact<u64>| *fact.value().unwrap();
    assert_eq!(number(&all.count), 5);
    assert_eq!(number(&all.threads), 35);
    assert_eq!(number(&all.kernel_threads), 2);
    assert_eq!(number(&all.running), 1);
    assert_eq!(number(&all.sleeping), 1);
    assert_eq!(number(&all.waiting_for_device), 2);
    assert_eq!((number(&all.stopped), number(&all.zombies)), (1, 1));
    assert_eq!(all.hidepid.text().unwrap(), "invisible");
}

#[test]
fn a_process_is_told_with_its_evidence() {
    let made = machine();
    let all = readings(made.0.path());
    let one = of(&all, 812);
    assert_eq!(one.name.text().unwrap(), "tide (old) x");
    assert_eq!(one.state.value(), Some(&ProcessState::Running));
    assert_eq!((one.parent.value(), one.user_id.value()), (Some(&1), Some(&1001)));
    assert_eq!(one.resident_bytes.value().unwrap().0, 64_000 << 10);
    assert_eq!(one.swapped_bytes.value().unwrap().0, 12 << 10);
    assert_eq!(one.processor_time_ms.value().unwrap().0, 3_000);
    assert_eq!(one.read_bytes.value().unwrap().0, 4096);
    assert_eq!(one.written_bytes.value().unwrap().0, 8192);
    assert_eq!(one.started_at.value().unwrap().0.as_second(), 1_780_000_123);
    assert_eq!(one.control_group.text().unwrap(), "/system.slice/collector.service");
    assert_eq!(one.waits_in.missing().unwrap().why, Why::NotApplicable);
    let evidence = &one.resident_bytes.evidence()[0];
    assert_eq!(
        (&*evidence.source, evidence.place.clone().unwrap().to_string()),
        ("/proc/812/status", "line 3".to_owned())
    );
}

#[test]
fn threads_of_the_kernel_are_told_where_they_wait_for_a_device() {
    let made = machine();
    let all = readings(made.0.path());
    let told: Vec<u64> = all.list.iter().map(|one| *one.pid.value().unwrap()).collect();
    assert_eq!(told, [1, 7, 812, 813, 900, 901]);
    assert_eq!(of(&all, 7).waits_in.text().unwrap(), "wait_on_page_bit");
    assert_eq!(of(&all, 7).resident_bytes.missing().unwrap().why, Why::NotApplicable);
    // The kernel says 0 to who may not know.
    assert_eq!(of(&all, 813).waits_in.missing().unwrap().why, Why::Permission);
}

#[test]
fn the_largest_and_the_groups_come_in_order() {
    let made = machine();
    let all = readings(made.0.path());
    let largest: Vec<u64> = all.largest.iter().map(|one| *one.pid.value().unwrap()).collect();
    assert_eq!(largest, [812, 813, 1, 901]);
    assert_eq!(all.largest[0].proportional_bytes.value().unwrap().0, 32_000 << 10);
    let groups: Vec<(String, u64, u64)> = all
        .groups
        .iter()
        .map(|one| {
            let of = |fact: &tectum_report::fact::Fact<u64>| *fact.value().unwrap();
            let group = one.control_group.text().unwrap();
            (group, of(&one.processes), one.resident_bytes.value().unwrap().0 >> 10)
        })
        .collect();
    assert_eq!(groups[0], ("/system.slice/collector.service".to_owned(), 3, 96_000));
    assert_eq!(groups.len(), 3);
}

#[test]
fn a_proc_without_processes_is_a_gap_and_a_broken_one_too() {
    let made = Proc::new();
    let all = readings(made.0.path());
    assert_eq!(all.count.missing().unwrap().why, Why::NotProvided);
    assert!(all.list.gap().is_some());
    made.write("proc/5/stat", "5 (broken");
    let all = readings(made.0.path());
    let one = &all.list[0];
    assert_eq!(one.pid.missing().unwrap().why, Why::Invalid);
    assert_eq!(one.user_id.missing().unwrap().why, Why::NotProvided);
}

#[test]
fn nothing_is_told_of_a_survey_that_did_not_ask() {
    let made = machine();
    let door = Door::new(Tree::folder(made.0.path()).unwrap());
    let survey = survey(&door, &Plan::default(), &mut |_| {});
    assert!(survey.observed.readings.processes.is_none());
    let asked = |access: &tectum_survey::source::Access| access.path.starts_with("/proc/812");
    assert!(!survey.accesses.iter().any(asked));
}

#[test]
fn neither_words_nor_environment_are_read() {
    let reads = named("processes").unwrap().reads;
    for pattern in reads {
        assert!(!pattern.contains("cmdline") && !pattern.contains("environ"), "{pattern}");
    }
}

#[test]
fn this_machine_tells_of_the_process_that_asks() {
    let all = surveyed(Door::new(Tree::live().unwrap()));
    let own = of(&all, u64::from(std::process::id()));
    let status = fs::read_to_string("/proc/self/status").unwrap();
    let uid = status.lines().find_map(|line| line.strip_prefix("Uid:")).unwrap();
    let uid: u64 = uid.split_whitespace().nth(1).unwrap().parse().unwrap();
    assert_eq!(own.user_id.value(), Some(&uid));
    assert!(own.resident_bytes.value().unwrap().0 > 1 << 20);
    // Its own reads and writes are told to everybody.
    assert!(own.read_bytes.value().is_some(), "{:?}", own.read_bytes.missing());
    assert!(all.count.value().unwrap() >= &1);
}

#[test]
fn one_process_is_told_with_what_it_holds() {
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let held = tempfile::NamedTempFile::new().unwrap();
    let card = look(std::process::id().into(), false, Duration::from_secs(10)).unwrap();
    let port = listener.local_addr().unwrap().port();
    assert!(card.open_files.listens.contains(&format!("tcp 127.0.0.1:{port}")), "{card:?}");
    let of = |kind: &str| {
        card.open_files.kinds.iter().find(|one| one.kind == kind).map_or(0, |one| one.count)
    };
    assert!(of("file") >= 1 && of("socket") >= 1, "{card:?}");
    assert_eq!(
        card.open_files.count.unwrap(),
        card.open_files.kinds.iter().map(|one| one.count).sum::<u64>()
    );
    assert_eq!(card.program.as_deref(), std::env::current_exe().unwrap().to_str());
    assert!(card.memory.resident_bytes.unwrap() <= card.memory.peak_bytes.unwrap());
    assert!(card.started.is_some() && card.command_line.is_none());
    drop(held);
}

#[test]
fn words_are_told_only_to_who_asks_for_them() {
    let mut child = Command::new("sleep").arg("600").stdin(Stdio::null()).spawn().unwrap();
    let ask = |words| look(child.id().into(), words, Duration::from_secs(10)).unwrap();
    // It may not have begun to run what it will.
    let mut told = ask(true);
    for _ in 0..200 {
        if told.name == "sleep" {
            break;
        }
        std::thread::sleep(Duration::from_millis(10));
        told = ask(true);
    }
    let parent = told.parents[0].pid;
    let silent = ask(false);
    child.kill().unwrap();
    child.wait().unwrap();
    assert_eq!(told.command_line.unwrap(), ["sleep", "600"]);
    assert!(silent.command_line.is_none());
    assert_eq!(parent, u64::from(std::process::id()));
    let gone = look(child.id().into(), false, Duration::from_secs(10));
    assert!(matches!(gone, Err(ProcessError::None { .. })), "{gone:?}");
}
