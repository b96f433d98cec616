//! Work that ends: dead mounts, subjects that never answer, copies with rights of their own.

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

use std::{
    fs::File,
    io::{Read, Write},
    os::{
        fd::AsRawFd,
        unix::fs::{OpenOptionsExt, PermissionsExt},
    },
    path::Path,
    process::{Command, Stdio},
    thread,
    time::{Duration, Instant},
};

use nix::mount::MsFlags;
use serde_json::Value;
use support::{Place, not_shown};

const PLACE: &str = "TECTUM_TEST_HANGING_IN";

/// A user-space filesystem that answers that it is there, and nothing else: the server of a mount that
/// died.
fn serve_and_hang(mut device: File) {
    let mut request = vec![0u8; 1 << 20];
    let mut held = 0;
    // Requests that are not answered are held by the kernel until the device is closed.
    while let Ok(length) = device.read(&mut request) {
        let operation = u32::from_le_bytes(request[4..8].try_into().unwrap());
        if operation != 26 || length < 40 {
            held += 1;
            assert!(held < 10_000, "nobody asks so often");
            continue;
        }
        // FUSE_INIT (`include/uapi/linux/fuse.h`): length, error, id; version 7.31, and limits.
        let mut answer = Vec::new();
        answer.extend(80u32.to_le_bytes());
        answer.extend(0i32.to_le_bytes());
        answer.extend(&request[8..16]);
        answer.extend(7u32.to_le_bytes());
        answer.extend(31u32.to_le_bytes());
        answer.resize(80, 0);
        answer[36..40].copy_from_slice(&4096u32.to_le_bytes());
        device.write_all(&answer).unwrap();
    }
}

/// Not a test by itself: what the test below starts in a mount namespace of its own.
#[test]
#[ignore = "started by another test, in a mount namespace of its own"]
fn hangs_where_another_test_says() {
    let place = std::env::var(PLACE).expect("the test that starts this says where");
    let place = Path::new(&place);
    let mount = place.join("dead");
    std::fs::create_dir(&mount).unwrap();
    let device = File::options().read(true).write(true).open("/dev/fuse").unwrap();
    let options =
        format!("fd={},rootmode=40000,user_id=0,group_id=0,allow_other", device.as_raw_fd());
    let mounted = nix::mount::mount(
        Some("tide"),
        &mount,
        Some("fuse.tide"),
        MsFlags::MS_NOSUID | MsFlags::MS_NODEV,
        Some(options.as_str()),
    );
    if let Err(error) = mounted {
        println!("cannot mount: {error}");
        return;
    }
    thread::spawn(|| serve_and_hang(device));
    let begun = Instant::now();
    let program = assert_cmd::cargo::cargo_bin("tectum");
    let ran = Command::new(program)
        .args(["survey", "filesystems", "--deadline", "1s", "--evidence", "expanded", "--out"])
        .arg(place.join("report.json"))
        .stdin(Stdio::null())
        .output()
        .unwrap();
    println!("ended with {:?} after {} ms", ran.status.code(), begun.elapsed().as_millis());
    println!("{}", String::from_utf8_lossy(&ran.stderr));
    // A subject that a link leads there.
    std::os::unix::fs::symlink(mount.join("report.json"), place.join("link.json")).unwrap();
    for word in ["survey", "check", "get", "find"] {
        let begun = Instant::now();
        let program = assert_cmd::cargo::cargo_bin("tectum");
        let mut command = Command::new(program);
        command.args([word, "--deadline", "1s", "--from"]).arg(place.join("link.json"));
        if matches!(word, "get" | "find") {
            command.arg("cpu.cores");
        }
        let ran = command.stdin(Stdio::null()).output().unwrap();
        let said = String::from_utf8_lossy(&ran.stderr);
        let time = begun.elapsed().as_secs();
        println!("{word} {:?} within {time} s: {said}", ran.status.code());
    }
    for (name, path, more) in [("space", &*mount, "--plain"), ("across", place, "--across-mounts")]
    {
        let begun = Instant::now();
        let program = assert_cmd::cargo::cargo_bin("tectum");
        let mut command = Command::new(program);
        command.args(["space", "--deadline", "1s", more]).arg(path);
        let ran = command.stdin(Stdio::null()).output().unwrap();
        let said = String::from_utf8_lossy(&ran.stderr).into_owned();
        let told = String::from_utf8_lossy(&ran.stdout).into_owned();
        let time = begun.elapsed().as_secs();
        println!("{name} {:?} within {time} s: {said}{told}", ran.status.code());
    }
    // What hangs is let go, or this process would not end either.
    let _ = nix::mount::umount2(&mount, nix::mount::MntFlags::MNT_DETACH);
}

/// A server that is gone costs one gap: the report is saved, the status returned, the terminal free.
#[test]
fn a_dead_mount_costs_one_gap_and_the_program_ends() {
    if !Path::new("/dev/fuse").exists() || !rustix::process::geteuid().is_root() {
        return not_shown("a dead mount needs /dev/fuse and root");
    }
    let place = Place::new();
    let ran = Command::new("unshare")
        .args(["--mount", "--propagation", "private", "--"])
        .arg(std::env::current_exe().unwrap())
        .args(["--exact", "hangs_where_another_test_says", "--ignored", "--nocapture"])
        .env(PLACE, place.root())
        .output();
    let Ok(ran) = ran else { return not_shown("a dead mount needs unshare") };
    let said = String::from_utf8_lossy(&ran.stdout).into_owned();
    if said.contains("cannot mount") || !ran.status.success() && !said.contains("ended with") {
        return not_shown(&format!("a dead mount cannot be mounted here: {said}"));
    }
    assert!(said.contains("ended with Some(0)"), "{said}");
    let time = said.split("after ").nth(1).and_then(|rest| rest.split(' ').next()).unwrap();
    let time: u64 = time.parse().unwrap();
    // Its deadline is a second, and a second more is allowed for; debug builds and busy machines get
    // some on top, but nothing near to what a hang would take.
    assert!(time < 8_000, "{time} ms");
    for word in ["survey", "check"] {
        assert!(said.contains(&format!("{word} Some(3) within")), "{said}");
    }
    // What fills it cannot be told; of the folder that it is mounted in, all the rest.
    assert!(said.contains("space Some(3) within"), "{said}");
    let across = said.split("across Some(0)").nth(1).unwrap_or_else(|| panic!("{said}"));
    assert!(across.contains("no answer within the deadline"), "{across}");
    assert!(across.contains("report.json"), "{across}");
    assert!(said.contains("get Some(") && said.contains("find Some("), "{said}");
    assert!(said.contains("did not answer in time"), "{said}");
    let text = std::fs::read(place.path("report.json")).unwrap();
    let report: Value = serde_json::from_slice(&text).unwrap();
    let usage = report["readings"]["filesystems"]["usage"].as_array().unwrap();
    let dead = usage
        .iter()
        .position(|one| one["mount_point"].as_str().is_some_and(|it| it.ends_with("/dead")));
    let dead = dead.expect("the mount is told");
    let at = format!("/readings/filesystems/usage/{dead}/size_bytes");
    let gaps = report["gaps"].as_array().unwrap();
    let gap = gaps.iter().find(|gap| gap["at"] == at.as_str()).expect("its size is a gap");
    assert_eq!(gap["why"], "timeout");
}

#[test]
fn a_subject_that_never_answers_is_given_up() {
    let place = Place::new();
    let path = place.path("fifo");
    nix::unistd::mkfifo(&path, nix::sys::stat::Mode::from_bits_truncate(0o600)).unwrap();
    // Somebody has it open to write, and does not.
    let held = File::options()
        .read(true)
        .write(true)
        .custom_flags(nix::fcntl::OFlag::O_NONBLOCK.bits())
        .open(&path)
        .unwrap();
    let begun = Instant::now();
    let ran = place.run(&["survey", "--from", "fifo", "--time-limit", "1s"]);
    assert_eq!(ran.status, 3, "{}", ran.err);
    assert!(ran.err.contains("did not answer"), "{}", ran.err);
    assert!(begun.elapsed() < Duration::from_secs(20));
    drop(held);
}

/// A report that comes through a pipe, slowly but steadily, is read.
#[test]
fn a_subject_through_a_pipe_is_read() {
    let place = Place::new();
    let saved = place.run(&["survey", "os", "--from", "demo:gannet-before", "--out", "r.json"]);
    assert_eq!(saved.status, 0);
    let program = assert_cmd::cargo::cargo_bin("tectum");
    let mut child = Command::new(program)
        .args(["why", "os.kernel_release", "--from", "/dev/stdin"])
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn()
        .unwrap();
    let text = std::fs::read(place.path("r.json")).unwrap();
    let mut to = child.stdin.take().unwrap();
    for part in text.chunks(text.len() / 3 + 1) {
        thread::sleep(Duration::from_millis(300));
        to.write_all(part).unwrap();
    }
    drop(to);
    let ran = child.wait_with_output().unwrap();
    assert!(String::from_utf8_lossy(&ran.stdout).contains("6.12.31-skerry"));
}

#[test]
fn a_copy_with_rights_of_its_own_refuses_to_run() {
    if !rustix::process::geteuid().is_root() {
        return not_shown("set-user-ID copies need root");
    }
    let place = Place::new();
    let copy = place.path("tectum");
    std::fs::copy(assert_cmd::cargo::cargo_bin("tectum"), &copy).unwrap();
    std::fs::set_permissions(place.root(), PermissionsExt::from_mode(0o755)).unwrap();
    std::fs::set_permissions(&copy, PermissionsExt::from_mode(0o4755)).unwrap();
    let ran = Command::new("setpriv")
        .args(["--reuid=65534", "--regid=65534", "--clear-groups"])
        .arg(&copy)
        .args(["sections"])
        .output()
        .unwrap();
    let said = String::from_utf8_lossy(&ran.stderr).into_owned();
    if said.is_empty() && ran.status.success() {
        return not_shown("this filesystem honours no set-user-ID bits");
    }
    assert_eq!(ran.status.code(), Some(3), "{said}");
    assert!(said.contains("refuses to run so"), "{said}");
    assert!(ran.stdout.is_empty());
}
