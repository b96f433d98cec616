//! What fills a filesystem, asked of the built program.

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
    fs::{self, File},
    io::Write,
    os::unix::fs::{MetadataExt, PermissionsExt},
    path::Path,
    process::{Command, Stdio},
};

use nix::mount::MsFlags;
use rstest::rstest;
use serde_json::Value;
use support::{Place, not_shown, with_own_mounts};

fn write(path: &Path, length: usize) {
    fs::create_dir_all(path.parent().unwrap()).unwrap();
    File::create(path).unwrap().write_all(&vec![7; length]).unwrap();
}

fn tree() -> Place {
    let place = Place::new();
    write(&place.path("tree/gauges/north.log"), 400_000);
    write(&place.path("tree/gauges/south.log"), 300_000);
    write(&place.path("tree/charts/harbour.iso"), 900_000);
    write(&place.path("tree/readme"), 100);
    place
}

fn json(place: &Place, args: &[&str]) -> Value {
    let ran = place.run(&[&["space", "--deadline", "60s", "--format", "json"], args].concat());
    assert_eq!(ran.status, 0, "{}", ran.err);
    serde_json::from_str(&ran.out).unwrap()
}

#[test]
fn the_largest_folder_and_file_come_first() {
    let place = tree();
    let ran = place.run(&["space", "tree", "--plain", "--deadline", "60s"]);
    assert_eq!((ran.status, ran.err.as_str()), (0, ""));
    let at = |text: &str| ran.out.find(text).unwrap_or_else(|| panic!("{text}: {}", ran.out));
    assert!(at("/tree/charts") < at("/tree/gauges"));
    assert!(at("harbour.iso") < at("north.log") && at("north.log") < at("south.log"));
    // In a root that is no mount, as that of a chroot, nothing says which filesystem it is.
    let mounts = std::fs::read_to_string("/proc/self/mountinfo").unwrap();
    let mut points = mounts.lines().filter_map(|line| line.split(' ').nth(4));
    let said = match points.any(|point| place.root().starts_with(point)) {
        true => "the path is a part of it",
        false => "no mount that can be seen here holds the path",
    };
    assert!(ran.out.contains(said), "{}", ran.out);
}

#[test]
fn its_json_is_as_its_schema_says() {
    let place = tree();
    let schema = place.run(&["schema", "space"]);
    let schema: Value = serde_json::from_str(&schema.out).unwrap();
    let own = json(&place, &["tree", "--exclude", "*.iso", "--older-than", "1y"]);
    let validator = jsonschema::validator_for(&schema).unwrap();
    let wrong: Vec<String> = validator.iter_errors(&own).map(|error| error.to_string()).collect();
    assert_eq!(wrong, [""; 0]);
    assert_eq!((&own["format"], &own["format_version"]), (&"tectum-space".into(), &"1.0".into()));
    assert_eq!(own["paths"][0]["excluded"][0]["entries"], 1);
    assert_eq!(own["paths"][0]["sum"]["files"], 0);
}

#[test]
fn its_table_has_a_row_a_folder_and_a_file() {
    let place = tree();
    let ran = place.run(&["space", "tree", "--format", "csv", "--deadline", "60s"]);
    let lines: Vec<&str> = ran.out.split("\r\n").collect();
    assert!(lines[0].starts_with("kind,path,depth,allocated_bytes,apparent_bytes,files"));
    let kinds: Vec<&str> = lines[1..]
        .iter()
        .filter_map(|line| line.split(',').next())
        .filter(|it| !it.is_empty())
        .collect();
    assert_eq!(kinds, ["folder", "folder", "folder", "file", "file", "file", "file"]);
    let whole = fs::metadata(place.path("tree/charts/harbour.iso")).unwrap();
    assert!(lines[4].contains(&format!(",{},900000,", whole.blocks() * 512)), "{}", lines[4]);
}

#[test]
fn several_paths_are_told_one_after_the_other() {
    let place = tree();
    let own = json(&place, &["tree/gauges", "tree/charts"]);
    let paths = own["paths"].as_array().unwrap();
    assert_eq!(paths.len(), 2);
    assert_eq!((&paths[0]["sum"]["files"], &paths[1]["sum"]["files"]), (&2.into(), &1.into()));
}

#[rstest]
#[case(&["space", "nowhere"], 3, "not found")]
#[case(&["space", "tree/readme"], 3, "no folder")]
#[case(&["space", "tree", "--exclude", "["], 2, "no pattern")]
#[case(&["space", "tree", "--older-than", "soon"], 2, "no length of time")]
fn what_is_wrong_is_said(#[case] args: &[&str], #[case] status: i32, #[case] says: &str) {
    let ran = tree().run(args);
    assert_eq!((ran.status, ran.out.as_str()), (status, ""));
    assert!(ran.err.contains(says), "{}", ran.err);
}

#[test]
fn what_may_not_be_entered_is_a_gap_with_its_path() {
    if !rustix::process::geteuid().is_root() {
        return not_shown("reading as somebody else needs root");
    }
    let place = tree();
    let closed = place.path("tree/gauges");
    fs::set_permissions(&closed, PermissionsExt::from_mode(0o700)).unwrap();
    fs::set_permissions(place.root(), PermissionsExt::from_mode(0o755)).unwrap();
    let ran = Command::new("setpriv")
        .args(["--reuid=65534", "--regid=65534", "--clear-groups"])
        .arg(assert_cmd::cargo::cargo_bin("tectum"))
        .args(["space", "--deadline", "60s", "--format", "json"])
        .arg(place.path("tree"))
        .output()
        .unwrap();
    let said = String::from_utf8_lossy(&ran.stderr);
    if said.contains("Permission denied") {
        return not_shown("nobody may run the built program where it lies");
    }
    assert_eq!(ran.status.code(), Some(0), "{said}");
    let own: Value = serde_json::from_slice(&ran.stdout).unwrap();
    let gap = &own["paths"][0]["gaps"][0];
    assert_eq!(gap["why"], "permission-denied");
    assert!(gap["path"].as_str().unwrap().ends_with("/tree/gauges"), "{gap}");
    assert_eq!(own["paths"][0]["sum"]["files"], 2);
}

const PLACE: &str = "TECTUM_TEST_SPACE_IN";

/// Not a test by itself: what the test below starts in a mount namespace of its own.
#[test]
#[ignore = "started by another test, in a mount namespace of its own"]
fn looks_at_a_filesystem_of_its_own() {
    let place = std::env::var(PLACE).expect("the test that starts this says where");
    let own = Path::new(&place).join("own");
    let mount = |path: &Path| {
        fs::create_dir(path).unwrap();
        let data = Some("size=64m");
        nix::mount::mount(Some("tide"), path, Some("tmpfs"), MsFlags::empty(), data)
    };
    if let Err(error) = mount(&own) {
        println!("cannot mount: {error}");
        return;
    }
    write(&own.join("gauges/north.log"), 3 << 20);
    // What a mount point held before something was mounted there.
    write(&own.join("charts/forgotten"), 5 << 20);
    fs::remove_dir_all(own.join("empty")).ok();
    let hidden = nix::mount::mount(
        Some("tide"),
        &own.join("charts"),
        Some("tmpfs"),
        MsFlags::empty(),
        Some("size=1m"),
    );
    hidden.unwrap();
    write(&own.join("charts/above"), 100_000);
    // What was deleted and is still written to.
    write(&own.join("gauges/rotated.log"), 7 << 20);
    let held = Stdio::from(File::open(own.join("gauges/rotated.log")).unwrap());
    let mut holder = Command::new("sleep").arg("600").stdin(held).spawn().unwrap();
    fs::remove_file(own.join("gauges/rotated.log")).unwrap();
    let program = assert_cmd::cargo::cargo_bin("tectum");
    for format in ["json", "text"] {
        let ran = Command::new(&program)
            .args(["space", "--deadline", "60s", "--format", format])
            .arg(&own)
            .output()
            .unwrap();
        print!("{}", String::from_utf8_lossy(&ran.stderr));
        fs::write(Path::new(&place).join(format), ran.stdout).unwrap();
    }
    println!("looked");
    holder.kill().unwrap();
    holder.wait().unwrap();
}

#[test]
fn a_system_without_devices_is_looked_at_all_the_same() {
    // Where temporary files lie in /dev itself they are not hidden with it.
    let place = tree();
    let program = assert_cmd::cargo::cargo_bin("tectum");
    let script = format!(
        "mount --bind {} /mnt && mount -t tmpfs none /dev || exit 9; \
            {} space /mnt --deadline 60s --plain",
        place.path("tree").display(),
        program.display(),
    );
    let Some(ran) = with_own_mounts(&script) else { return };
    let said = String::from_utf8_lossy(&ran.stderr);
    assert_eq!(ran.status.code(), Some(0), "{said}");
    assert!(String::from_utf8_lossy(&ran.stdout).contains("harbour.iso"));
}

/// The question "the disk is full and I find nothing".
#[test]
fn what_no_folder_holds_is_found() {
    if !rustix::process::geteuid().is_root() {
        return not_shown("a filesystem of its own needs root");
    }
    let place = Place::new();
    let ran = Command::new("unshare")
        .args(["--mount", "--propagation", "private", "--"])
        .arg(std::env::current_exe().unwrap())
        .args(["--exact", "looks_at_a_filesystem_of_its_own", "--ignored", "--nocapture"])
        .env(PLACE, place.root())
        .output();
    let Ok(ran) = ran else { return not_shown("a filesystem of its own needs unshare") };
    let said = String::from_utf8_lossy(&ran.stdout).into_owned();
    if !said.contains("looked") {
        return not_shown(&format!("a filesystem of its own cannot be mounted here: {said}"));
    }
    let text = fs::read(place.path("json")).unwrap();
    let own: Value = serde_json::from_slice(&text).unwrap();
    let own = &own["paths"][0];
    assert_eq!(own["filesystem"]["kind"], "tmpfs");
    assert_eq!(own["filesystem"]["whole"], true);
    let of = |name: &str| own["difference"][name].as_i64().unwrap();
    assert_eq!(of("found_bytes"), 3 << 20);
    assert_eq!(of("beneath_mounts_bytes"), 5 << 20);
    assert_eq!(of("deleted_open_bytes"), 7 << 20);
    assert_eq!(of("used_bytes"), 15 << 20);
    assert_eq!(of("left_bytes"), 0);
    assert_eq!(own["difference"]["beneath_mounts_seen"], true);
    let deleted = &own["deleted_open"][0];
    assert!(deleted["path"].as_str().unwrap().ends_with("/own/gauges/rotated.log"), "{deleted}");
    assert_eq!(deleted["held_by"][0]["name"], "sleep");
    assert!(own["mounts_passed_over"][0].as_str().unwrap().ends_with("/own/charts"));
    assert_eq!(own["beneath_mounts"][0]["files"], 1);
    let sheet = fs::read_to_string(place.path("text")).unwrap();
    for part in ["rotated.log", "sleep", "Hidden beneath what is mounted", "/own/charts"] {
        assert!(sheet.contains(part), "{part}: {sheet}");
    }
}
