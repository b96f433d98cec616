//! Operating system: kernels, security, settings, software sources, running state.

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

use rstest::rstest;
use serde_json::{Value, json};
use support::{changed, demo, demo_with, json as of_report, look};
use tectum_demo::Tree;
use tectum_report::fact::Stance;

fn os(change: impl FnOnce(&mut Tree)) -> Value {
    changed(change)["inventory"]["os"].clone()
}

#[test]
fn which_kernel_runs_after_the_next_boot() {
    let os = os(|tree| {
        tree.line("usr/lib/modules/6.12.100-skerry/modules.builtin", "");
        tree.line("boot/vmlinuz-6.12.100-skerry", "");
        tree.line("boot/vmlinuz-0-rescue-7c1d90aa", "");
        tree.line("usr/lib/modules/6.13.0-rc1/modules.builtin", "");
    });
    let kernels = os["installed_kernels"].as_array().unwrap();
    let releases: Vec<&Value> = kernels.iter().map(|kernel| &kernel["release"]).collect();
    assert_eq!(releases, ["6.12.30-skerry", "6.12.31-skerry", "6.12.100-skerry", "6.13.0-rc1"]);
    assert_eq!((&kernels[1]["running"], &kernels[2]["running"]), (&json!(true), &json!(false)));
    assert_eq!(kernels[3]["boot_file"], false, "modules alone cannot be started");
    assert_eq!(os["newest_kernel"], "6.12.100-skerry");
    assert_eq!(os["newer_kernel_installed"], true);
}

/// What an image holds before its first start is no machine's.
#[rstest]
#[case::of_a_machine("0F5E1C77A1C04D8E9B3A6D2F4C8B1E90", Some("0f5e1c77a1c04d8e9b3a6d2f4c8b1e90"))]
#[case::not_there_yet("", None)]
#[case::before_the_first_start("uninitialized", None)]
#[case::zeros("00000000000000000000000000000000", None)]
#[case::too_short("0f5e1c77a1c04d8e9b3a6d2f4c8b1e9", None)]
fn an_installations_id(#[case] text: &str, #[case] told: Option<&str>) {
    let report = changed(|tree| tree.line("etc/machine-id", text));
    assert_eq!(report["machine"]["machine_id"].as_str(), told);
}

/// Whoever starts the machine anew because of these gets nothing newer.
#[rstest]
#[case::another_kind("6.13.0-cloud-skerry")]
#[case::with_numbers_of_its_own("6.12.31-1050-reef")]
#[case::for_debugging("6.12.31-skerry+debug")]
#[case::what_was_there_before("6.12.31-skerry.old")]
#[case::put_aside_by_a_package("6.14.0-skerry.dpkg-bak")]
fn a_kernel_of_another_kind_is_no_newer_one(#[case] release: &str) {
    let os = os(|tree| {
        tree.line(format!("boot/vmlinuz-{release}"), "");
        tree.line(format!("usr/lib/modules/{release}/modules.builtin"), "");
    });
    assert_eq!(os["newest_kernel"], "6.12.31-skerry");
    assert_eq!(os["newer_kernel_installed"], false);
}

#[test]
fn an_older_kernel_beside_the_running_one_is_no_news() {
    let os = os(|_| {});
    assert_eq!(os["newer_kernel_installed"], false);
    assert_eq!(os["kernel_built_by"], "builds@skerry.example");
    assert_eq!(os["kernel_compiler"], "cc (Skerry) 14.2, ld 2.43");
}

#[test]
fn a_machine_without_boot_files_is_judged_by_its_modules() {
    let os = os(|tree| {
        tree.remove("boot");
        tree.line("usr/lib/modules/7.0.0-skerry/modules.builtin", "");
    });
    assert_eq!(os["newest_kernel"], "7.0.0-skerry");
    assert!(os["installed_kernels"][0]["boot_file"].is_null());
}

#[test]
fn security_as_the_kernel_has_it() {
    let os = os(|tree| {
        tree.line("sys/fs/selinux/enforce", 0);
        tree.line("sys/kernel/security/lsm", "lockdown,selinux");
        tree.line("sys/kernel/livepatch/kp_7/enabled", 1);
    });
    assert_eq!(os["security_modules"], json!(["lockdown", "selinux"]));
    assert_eq!((&os["selinux_enforcing"], &os["lockdown"]), (&json!(false), &json!("integrity")));
    assert_eq!(os["live_patches"], json!([{ "name": "kp_7", "enabled": true }]));
}

#[rstest]
#[case("24 1 0:22 / /sys/fs/cgroup rw - cgroup2 c rw", "2")]
#[case("24 1 0:22 / /sys/fs/cgroup/cpu rw - cgroup c rw", "1")]
#[case("24 1 0:22 / /c rw - cgroup c rw\n25 1 0:23 / /u rw - cgroup2 c rw", "1-and-2")]
fn control_groups(#[case] mounts: &str, #[case] version: &str) {
    assert_eq!(os(|tree| tree.line("proc/self/mountinfo", mounts))["control_groups"], version);
}

#[rstest]
#[case::systemd(None, "systemd")]
#[case::openrc(Some("run/openrc/softlevel"), "OpenRC")]
#[case::another(Some("proc/1/comm"), "tidewatch")]
fn what_starts_services(#[case] file: Option<&str>, #[case] name: &str) {
    let os = os(|tree| {
        if let Some(path) = file {
            tree.remove("run/systemd");
            tree.line(path, "tidewatch");
        }
    });
    assert_eq!(os["init_system"], name);
}

#[test]
fn time_zone_and_locale() {
    let folder = demo_with("gannet-before", |tree| {
        tree.line("etc/timezone", "Europe/Oslo");
        tree.remove("etc/locale.conf");
        tree.line("etc/default/locale", "LANG=\"fo_FO.UTF-8\"");
    });
    let report = look(folder.path());
    let os = report.inventory.os.as_ref().unwrap();
    assert_eq!(&**os.time_zone.value().unwrap(), "Atlantic/Faroe");
    let other = os.time_zone.evidence().iter().find(|piece| piece.stance != Stance::Gives).unwrap();
    assert_eq!(other.stance, Stance::differs("Europe/Oslo"), "the other file is told");
    assert_eq!(&**os.locale.value().unwrap(), "fo_FO.UTF-8");
}

#[test]
fn software_sources_of_every_package_manager() {
    let os = os(|tree| {
        tree.file(
            "etc/yum.repos.d/reef.repo",
            "[reef]\nname=Reef\nbaseurl=http://r.example/\ngpgcheck=1\n[off]\nbaseurl=http://o.example/\nenabled=0\n",
        );
        tree.file("etc/zypp/repos.d/oss.repo", "[oss]\nbaseurl=http://z.example/\n");
        tree.file("etc/pacman.conf", "[options]\n[core]\nInclude = /etc/pacman.d/mirrorlist\n");
        tree.file("etc/pacman.d/mirrorlist", "Server = http://p.example/$repo\n");
        tree.file("etc/apk/repositories", "http://k.example/main\n");
        tree.file("etc/apt/sources.list.d/ignored.save", "deb http://old.example x y\n");
    });
    let all = os["repositories"].as_array().unwrap();
    let found: Vec<(&str, &str, bool)> = all
        .iter()
        .map(|one| {
            (
                one["manager"].as_str().unwrap(),
                one["uris"][0].as_str().unwrap(),
                one["enabled"].as_bool().unwrap(),
            )
        })
        .collect();
    assert_eq!(
        found,
        [
            ("apt", "http://mirror.scts.example/linux", true),
            ("apt", "http://packages.skerry.example/linux", true),
            ("dnf", "http://r.example/", true),
            ("dnf", "http://o.example/", false),
            ("zypper", "http://z.example/", true),
            ("pacman", "http://p.example/$repo", true),
            ("apk", "http://k.example/main", true),
        ]
    );
    assert_eq!(all[1]["signatures_checked"], true);
    assert_eq!(
        (&all[3]["file"], &all[3]["line"]),
        (&json!("/etc/yum.repos.d/reef.repo"), &json!(5))
    );
}

#[test]
fn a_file_that_a_repository_includes_cannot_lead_elsewhere() {
    let os = os(|tree| {
        tree.file("etc/secret", "Server = http://secret.example/\n");
        tree.file(
            "etc/pacman.conf",
            "[core]\nInclude = /etc/pacman.d/../secret\nInclude = /etc/secret\n",
        );
    });
    let all = os["repositories"].as_array().unwrap();
    let core = all.iter().find(|one| one["manager"] == "pacman").unwrap();
    assert!(core["uris"].is_null());
}

#[test]
fn packages_are_counted_where_the_database_is_text_or_folders() {
    let os = os(|tree| {
        tree.file("lib/apk/db/installed", "P:a\nV:1\n\nP:b\nV:2\n");
        tree.line("var/lib/pacman/local/ALPM_DB_VERSION", 9);
        tree.line("var/lib/pacman/local/core-1-1/desc", "x");
        tree.line("var/lib/rpm/rpmdb.sqlite", "binary");
    });
    let all = os["package_databases"].as_array().unwrap();
    let counts: Vec<(&Value, &Value)> =
        all.iter().map(|one| (&one["manager"], &one["packages"])).collect();
    let expected = [
        (json!("dpkg"), json!(611)),
        (json!("apk"), json!(2)),
        (json!("pacman"), json!(1)),
        (json!("rpm"), Value::Null),
    ];
    assert_eq!(counts, expected.iter().map(|(a, b)| (a, b)).collect::<Vec<_>>());
}

#[test]
fn running_state() {
    let report = changed(|tree| {
        tree.file(
            "proc/stat",
            "cpu  1 2 3 4 5\nintr 160406 130 9\nctxt 49642\nbtime 1795417510\nprocesses 699\n\
             procs_running 3\nprocs_blocked 1\n",
        );
        tree.line("proc/sys/kernel/tainted", (1u64 << 12) | 1 | (1 << 40));
        tree.line("sys/kernel/oops_count", 2);
        tree.line("run/reboot-required", "*** System restart required ***");
        tree.line("run/reboot-required.pkgs", "libtide\nlinux-skerry");
    });
    let now = &report["readings"]["os"];
    assert_eq!((&now["interrupts"], &now["context_switches"]), (&json!(160_406), &json!(49_642)));
    assert_eq!((&now["forks"], &now["threads_running"]), (&json!(699), &json!(3)));
    assert_eq!((&now["load_1_minute_hundredths"], &now["threads"]), (&json!(140), &json!(611)));
    assert_eq!(now["taints"], json!(["proprietary module", "module built out of tree", "bit 40"]));
    assert_eq!(now["oopses"], 2);
    assert_eq!(now["reboot_required"][0]["message"], "libtide, linux-skerry");
    let io = now["pressure"].as_array().unwrap();
    let io = io.iter().find(|one| one["resource"] == "io" && one["whose"] == "full").unwrap();
    assert_eq!(
        (&io["avg10_percent_hundredths"], &io["total_us"]),
        (&json!(105), &json!(4_201_771))
    );
    assert!(now["rates"].is_null(), "rates need two looks");
}

#[test]
fn that_nothing_asks_for_a_new_start_is_not_known_where_no_mark_is_left() {
    let report = look(demo("gannet-before").path());
    let gaps = report.gaps();
    let (_, gap) = gaps.iter().find(|(at, _)| at == "/readings/os/reboot_required").unwrap();
    assert!(gap.hint.as_ref().unwrap().to_string().contains("not every system leaves a mark"));
}

/// What this machine's own programs say, asked beside the survey.
#[test]
fn this_machine_answers_as_its_kernel_and_library_do() {
    let report = of_report(&look(std::path::Path::new("/")));
    let os = &report["inventory"]["os"];
    let uname = rustix::system::uname();
    assert_eq!(os["kernel_release"], uname.release().to_string_lossy().as_ref());
    assert_eq!(os["architecture"], uname.machine().to_string_lossy().as_ref());
    let pages = rustix::system::sysinfo();
    let unit = u64::from(pages.mem_unit);
    let total = report["readings"]["memory"]["total_bytes"].as_u64().unwrap();
    #[allow(clippy::useless_conversion, reason = "the width differs from platform to platform")]
    let expected = u64::from(pages.totalram) * unit;
    assert_eq!(total, expected);
    let uptime = report["readings"]["os"]["uptime_seconds"].as_u64().unwrap();
    assert!(uptime.abs_diff(u64::try_from(pages.uptime).unwrap()) <= 5);
}

#[rstest]
#[case("btime 120", "/readings/os/booted_at", "invalid")]
#[case("btime -86400", "/readings/os/booted_at", "invalid")]
fn a_boot_before_there_was_a_kernel_is_a_clock_that_nobody_set(
    #[case] line: &str,
    #[case] pointer: &str,
    #[case] why: &str,
) {
    let report = changed(|tree| tree.file("proc/stat", format!("cpu  1 2 3 4\n{line}\n")));
    assert_eq!(report.pointer(pointer), Some(&Value::Null));
    let gaps = report["gaps"].as_array().unwrap();
    let gap = gaps.iter().find(|gap| gap["at"] == pointer).unwrap();
    assert_eq!(gap["why"], why);
}

#[test]
fn no_machine_has_run_for_thousands_of_years() {
    let report = changed(|tree| tree.line("proc/uptime", "100000000000000.00 1.00"));
    assert_eq!(report["readings"]["os"]["uptime_seconds"], Value::Null);
}
