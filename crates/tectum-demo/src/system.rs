//! What an installed and running system adds: kernels, software, security, load.

use std::fmt::Write;

use crate::{Machine, Tree};

pub(crate) fn put(machine: &Machine, tree: &mut Tree) {
    let release = &machine.kernel_release;
    for kernel in
        [release.as_str()].into_iter().chain(machine.other_kernels.iter().map(String::as_str))
    {
        tree.line(format!("usr/lib/modules/{kernel}/modules.builtin"), "");
        tree.line(format!("boot/vmlinuz-{kernel}"), "");
    }
    tree.line(
        "proc/version",
        format!(
            "Linux version {release} (builds@skerry.example) (cc (Skerry) 14.2, ld 2.43) {}",
            machine.kernel_version
        ),
    );
    tree.line("proc/1/comm", "systemd");
    tree.folder("run/systemd/system");
    tree.line("proc/loadavg", "1.40 1.12 0.98 2/611 20417");
    tree.line("proc/sys/kernel/tainted", 0);
    tree.line("proc/sys/kernel/random/boot_id", "2b7d1f60-4c1e-4f1a-9d55-0c0000000717");
    tree.line("proc/sys/kernel/random/entropy_avail", 256);
    for (resource, average) in [("cpu", "0.42"), ("memory", "0.00"), ("io", "1.05")] {
        let line = |whose: &str| {
            format!("{whose} avg10={average} avg60={average} avg300={average} total=4201771\n")
        };
        tree.file(format!("proc/pressure/{resource}"), line("some") + &line("full"));
    }
    let clocks = "sys/devices/system/clocksource/clocksource0";
    tree.line(format!("{clocks}/current_clocksource"), "tsc");
    tree.line(format!("{clocks}/available_clocksource"), "tsc hpet acpi_pm");
    tree.line("sys/kernel/security/lsm", "lockdown,capability,landlock,yama,apparmor");
    tree.line("sys/kernel/security/lockdown", "none [integrity] confidentiality");
    tree.line("usr/share/zoneinfo/Atlantic/Faroe", "TZif");
    tree.link("etc/localtime", "/usr/share/zoneinfo/Atlantic/Faroe");
    tree.line("etc/locale.conf", "LANG=en_GB.UTF-8");
    tree.file(
        "etc/apt/sources.list.d/skerry.sources",
        "Types: deb\nURIs: http://packages.skerry.example/linux\nSuites: guillemot guillemot-updates\n\
         Components: main tide\nSigned-By: /usr/share/keyrings/skerry.gpg\n",
    );
    tree.file(
        "etc/apt/sources.list",
        "deb http://mirror.scts.example/linux guillemot main\n\
         # deb-src http://mirror.scts.example/linux guillemot main\n",
    );
    let mut packages = String::new();
    for number in 0..machine.packages {
        // Writing to a string cannot fail.
        let _ = write!(packages, "Package: part-{number}\nStatus: install ok installed\n\n");
    }
    tree.file("var/lib/dpkg/status", packages);
}
