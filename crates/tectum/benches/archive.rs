//! An archive of a made-up fleet: what a look that was taken apart costs to save beside writing the same bytes, and
//! what questions cost to answer, as whole processes.
//!
//! `cargo bench -p tectum --bench archive` prints figures beside goals for 1,000 machines with three states
//! each, in a folder of packed files, so that it ends within two minutes; `TECTUM_FLEET` and `TECTUM_STATES`
//! set other numbers (10000, 30), `TECTUM_DATABASE` the URL of an empty database to be used instead. The machines
//! are one machine of the demo under many names and serial numbers, each of its states with another kernel.

#![allow(
    clippy::unwrap_used,
    clippy::print_stdout,
    clippy::cast_precision_loss,
    missing_docs,
    reason = "a benchmark"
)]

use std::{
    fs::File,
    io::Write,
    path::Path,
    process::Command,
    time::{Duration, Instant},
};

use jiff::{SignedDuration, Timestamp};
use serde_json::{Value, json};
use tectum_archive::{
    store::{Store, folder::FolderStore, postgres::PostgresStore},
    written::Prepared,
};
use tectum_report::{
    Report,
    finding::{Judgement, Limits},
};

#[path = "support/peak.rs"]
mod peak;

use peak::run;

const PROGRAM: &str = env!("CARGO_BIN_EXE_tectum");

fn number(name: &str, usual: usize) -> usize {
    std::env::var(name).ok().and_then(|text| text.parse().ok()).unwrap_or(usual)
}

fn main() {
    let (machines, states) = (number("TECTUM_FLEET", 1000), number("TECTUM_STATES", 3));
    let folder = tempfile::tempdir().unwrap();
    let files = folder.path().join("archive");
    let database = std::env::var("TECTUM_DATABASE").ok();
    let archive = database.clone().unwrap_or_else(|| files.display().to_string());
    let survey = ["survey", "--from", "demo:gannet-before", "--quiet", "--format", "json"];
    let told = Command::new(PROGRAM).args(survey).output().unwrap();
    let report = Report::from_json(&told.stdout).unwrap();
    let judgement = Judgement::of(&report, &Limits::default());
    // The demo's files were removed just now, and for five seconds ext4 looks for others' inodes than theirs.
    std::thread::sleep(Duration::from_secs(6));
    let store: Box<dyn Store> = match &database {
        Some(url) => Box::new(PostgresStore::open_or_make(url).unwrap()),
        None => Box::new(FolderStore::open_or_make(&files, true).unwrap()),
    };
    let mut saving = Duration::ZERO;
    let mut first_hundred = Duration::ZERO;
    for machine in 0..machines {
        for state in 0..states {
            let prepared = Prepared::of(&made(&report, machine, state), &judgement).unwrap();
            let begun = Instant::now();
            store.save(&prepared).unwrap();
            saving += begun.elapsed();
        }
        if machine == 99 {
            first_hundred = saving;
        }
    }
    let looks = machines * states;
    let kind = if database.is_some() { "in a database" } else { "in a folder of packed files" };
    println!("{machines} machines, {states} states each, {kind}");
    println!("{:<58} {:>12} {:>12}", "", "figure", "goal");
    let each = saving / u32::try_from(looks).unwrap();
    if database.is_none() {
        let bytes = size(&files).0 / looks as u64;
        let same = floor(folder.path(), bytes);
        ratio("saving a look beside writing and syncing its bytes", each, same, 2.0);
    }
    println!("{:<58} {:>9.1} ms", "saving a look", ms(each));
    if machines >= 100 {
        let early = first_hundred / u32::try_from(100 * states).unwrap();
        ratio("saving a look beside saving one of the first hundred", each, early, 1.0);
    }
    let before = disk_bytes(&files, database.as_deref());
    let again = again(store.as_ref(), &report, &judgement, machines.min(100));
    println!("{:<58} {:>9.1} ms", "saving a look in a state that is known", ms(again));
    let after = disk_bytes(&files, database.as_deref());
    let observation = after.saturating_sub(before) / machines.min(100) as u64;
    if database.is_none() {
        ratio(
            "the same beside writing and syncing its bytes",
            again,
            floor(folder.path(), observation),
            2.0,
        );
        println!("{:<58} {:>12}", "files", size(&files).1);
    }
    let state = (before as f64 / looks as f64 - observation as f64) / 1024.0;
    figure("KiB a state, with where its values are from", state, 40.0);
    figure("KiB an observation of a known state", observation as f64 / 1024.0, 4.0);
    let host = format!("tide-{:05}", machines / 2);
    let ask = |name: &str, words: &[&str], goal: Duration| {
        let words = [&["--archive", archive.as_str()], words].concat();
        let (taken, peak) = run(Command::new(PROGRAM).args(words));
        let peak = peak >> 10;
        let goal =
            if goal.is_zero() { "·".to_owned() } else { format!("{} ms", goal.as_millis()) };
        println!("{name:<58} {:>9.1} ms {goal:>12}  {peak} MiB", ms(taken));
    };
    ask("fleet, the first time", &["fleet"], Duration::ZERO);
    ask("fleet", &["fleet"], Duration::from_secs(1));
    ask(
        "history of one path of one host",
        &["history", "os.kernel_release", &host],
        Duration::from_millis(50),
    );
    ask(
        "one path over the whole fleet",
        &["fleet", "--by", "os.kernel_release"],
        Duration::from_secs(1),
    );
    ask(
        "get of one path from one host",
        &["get", "os.kernel_release", "--from", &host],
        Duration::ZERO,
    );
    let thousand = format!("tide-{}", if machines > 1000 { "00*" } else { "*" });
    ask("compare of a thousand alike", &["compare", &thousand], Duration::from_secs(5));
    ask(
        "the way of a part through the fleet",
        &["history", "--part", "SKS4-00007-1"],
        Duration::ZERO,
    );
}

/// A machine of the fleet in one of its states.
fn made(report: &Report, machine: usize, state: usize) -> Report {
    let mut report = report.clone();
    let first: Timestamp = "2026-01-01T03:00:00Z".parse().unwrap();
    report.taken.at = first + SignedDuration::from_hours(24 * i64::try_from(state).unwrap());
    let mut set = |pointer: &str, value: Value| {
        report.fact_mut(pointer).unwrap().set(&value, Vec::new()).unwrap();
    };
    set("/machine/hostname", json!(format!("tide-{machine:05}")));
    set("/machine/system_uuid", json!(format!("5b8f3c02-91de-4a67-b7c4-{machine:012x}")));
    set("/machine/serial", json!(format!("MS-{machine:05}")));
    set("/machine/machine_id", json!(format!("{machine:032x}")));
    set("/inventory/os/kernel_release", json!(format!("6.12.{}-skerry", 31 + state)));
    for disk in 0..2 {
        let at = format!("/inventory/storage/disks/{disk}/serial");
        set(&at, json!(format!("SKS4-{machine:05}-{disk}")));
    }
    report
}

/// Saving another look in the state that is known.
fn again(store: &dyn Store, report: &Report, judgement: &Judgement, machines: usize) -> Duration {
    let mut saving = Duration::ZERO;
    for machine in 0..machines {
        let mut report = made(report, machine, 0);
        report.taken.at += SignedDuration::from_hours(9000);
        let prepared = Prepared::of(&report, judgement).unwrap();
        let begun = Instant::now();
        store.save(&prepared).unwrap();
        saving += begun.elapsed();
    }
    saving / u32::try_from(machines.max(1)).unwrap()
}

/// What writing so many bytes into a file and bringing it and its name onto the disk takes.
fn floor(folder: &Path, bytes: u64) -> Duration {
    const TIMES: u32 = 200;
    let content = vec![b'x'; usize::try_from(bytes).unwrap()];
    let within = tempfile::tempdir_in(folder).unwrap();
    let name = File::open(within.path()).unwrap();
    let begun = Instant::now();
    for number in 0..TIMES {
        let mut file = File::create(within.path().join(number.to_string())).unwrap();
        file.write_all(&content).unwrap();
        file.sync_all().unwrap();
        name.sync_all().unwrap();
    }
    begun.elapsed() / TIMES
}

/// Bytes that an archive takes: of a folder those of its files but the index, of a database what the server says of its
/// tables and indexes.
fn disk_bytes(folder: &Path, database: Option<&str>) -> u64 {
    let Some(url) = database else { return size(&folder.join("machines")).0 };
    let mut client = postgres::Client::connect(url, postgres::NoTls).unwrap();
    client.batch_execute("VACUUM").unwrap();
    let all = "SELECT sum(pg_total_relation_size(c.oid))::bigint FROM pg_class c \
               JOIN pg_namespace n ON n.oid = c.relnamespace WHERE n.nspname = 'tectum' AND c.relkind = 'r'";
    let row = client.query_one(all, &[]).unwrap();
    u64::try_from(row.get::<_, i64>(0)).unwrap()
}

fn size(folder: &Path) -> (u64, u64) {
    let mut sum = (0, 0);
    for entry in std::fs::read_dir(folder).unwrap() {
        let entry = entry.unwrap();
        let own = match entry.file_type().unwrap().is_dir() {
            true => size(&entry.path()),
            false => (entry.metadata().unwrap().len(), 1),
        };
        sum = (sum.0 + own.0, sum.1 + own.1);
    }
    sum
}

fn ms(time: Duration) -> f64 {
    time.as_secs_f64() * 1e3
}

fn ratio(name: &str, own: Duration, floor: Duration, goal: f64) {
    let ratio = own.as_secs_f64() / floor.as_secs_f64();
    println!("{name:<58} {ratio:>12.2} {goal:>12.1}  {:.1} ms", ms(own));
}

fn figure(name: &str, figure: f64, goal: f64) {
    println!("{name:<58} {figure:>12.1} {goal:>12.1}");
}
