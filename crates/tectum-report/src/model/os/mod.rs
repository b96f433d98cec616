//! Operating system and kernel, what is installed, what runs.

mod running;
mod software;

pub use running::{OsRates, OsReadings, Pressure, RebootRequest};
pub use software::{InstalledKernel, LivePatch, PackageDatabase, Repository};

use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{Date, FreeText, HostName, Label, MachineId, ParameterName, Term, codes},
};

record! {
    /// Operating system and kernel.
    Os "operating system" {
        source "os-release(5); uname(2)";
        derived [newest_kernel, newer_kernel_installed];
        follows [kernel_version, kernel_built_by, kernel_compiler] from os.kernel_release;

        /// Name for people (`PRETTY_NAME` in os-release(5)).
        pretty_name: Fact<Term>,
        /// The system's name without its version (`NAME`).
        name: Fact<Term>,
        /// Identifier (`ID`).
        id: Fact<Term>,
        /// What it is compatible with (`ID_LIKE`), the closest first.
        compatible_with: Fact<Vec<Term>>,
        /// Version for people (`VERSION`).
        version: Fact<Term>,
        /// The version as a number, without a name (`VERSION_ID`).
        version_id: Fact<Term>,
        /// Code name (`VERSION_CODENAME`).
        codename: Fact<Term>,
        /// Edition for people (`VARIANT`).
        variant: Fact<Term>,
        /// Edition (`VARIANT_ID`).
        variant_id: Fact<Term>,
        /// Build of the image (`BUILD_ID`).
        build_id: Fact<Term>,
        /// The day support ends (`SUPPORT_END`).
        support_end_date: Fact<Date>,
        /// Home page (`HOME_URL`).
        home_url: Fact<Term>,
        /// Where to find help (`SUPPORT_URL`).
        support_url: Fact<Term>,
        /// Where to report defects (`BUG_REPORT_URL`).
        bug_report_url: Fact<Term>,
        /// Every other field of os-release.
        other_fields: Parts<ReleaseField>,
        /// The kernel's name.
        #[source = "uname(2)"]
        kernel_name: Fact<Term>,
        /// The kernel's release.
        #[source = "uname(2)"]
        kernel_release: Fact<Term>,
        /// The kernel's version: its build.
        #[source = "uname(2)"]
        kernel_version: Fact<Term>,
        /// Who built the kernel, and where.
        #[source = "proc_version(5)"]
        kernel_built_by: Fact<FreeText>,
        /// The compiler that built it, with its linker.
        #[source = "proc_version(5)"]
        kernel_compiler: Fact<Term>,
        /// Kernels that are installed.
        #[source = "the folders /lib/modules and /boot"]
        installed_kernels: Parts<InstalledKernel>,
        /// The newest of them of the running one's kind (`generic`, `cloud-amd64`), if any are of that.
        #[source = "the folders /lib/modules and /boot"]
        newest_kernel: Fact<Term>,
        /// Whether one of the running one's kind is newer than it: after the next boot another may run.
        #[source = "the folders /lib/modules and /boot"]
        newer_kernel_installed: Fact<bool>,
        /// Patches that were put into the running kernel.
        #[source = "Documentation/livepatch/livepatch.rst"]
        live_patches: Parts<LivePatch>,
        /// The clock that the kernel counts time by.
        #[source = "Documentation/ABI/testing/sysfs-devices-system-cpu; Documentation/timers"]
        clock_source: Fact<Term>,
        /// The clocks that it could count by.
        #[source = "Documentation/timers"]
        clock_sources: Fact<Vec<Term>>,
        /// Security modules, in the order they are asked.
        #[source = "Documentation/admin-guide/LSM/index.rst"]
        security_modules: Fact<Vec<Term>>,
        /// Whether SELinux enforces its policy.
        #[source = "Documentation/admin-guide/LSM/SELinux.rst"]
        selinux_enforcing: Fact<bool>,
        /// How far the kernel is closed even to root: none, integrity, confidentiality.
        #[source = "kernel_lockdown(7)"]
        lockdown: Fact<Term>,
        /// Version of control groups in use.
        #[source = "cgroups(7)"]
        control_groups: Fact<ControlGroups>,
        /// What starts and watches services.
        #[source = "proc_pid_comm(5)"]
        init_system: Fact<Term>,
        /// The time zone by the name of its file: `Atlantic/Faroe`.
        #[source = "localtime(5)"]
        time_zone: Fact<Label>,
        /// Language and character set.
        #[source = "locale.conf(5)"]
        locale: Fact<Term>,
        /// Where software comes from.
        #[source = "sources.list(5); dnf.conf(5); pacman.conf(5); apk-repositories(5)"]
        repositories: Parts<Repository>,
        /// Databases of installed packages.
        #[source = "the database of dpkg, apk, pacman or rpm"]
        package_databases: Parts<PackageDatabase>,
        /// The architecture that the kernel is built for.
        #[source = "uname(2)"]
        architecture: Fact<Term>,
        /// The host name that the kernel has; that of `/etc/hostname` where it gives none.
        #[source = "uname(2); hostname(5)"]
        hostname: Fact<HostName>,
        /// The domain that the kernel was given (NIS), no DNS domain.
        #[source = "Documentation/admin-guide/sysctl/kernel.rst"]
        domain: Fact<HostName>,
        /// The installation's id (machine-id(5)).
        #[source = "machine-id(5)"]
        machine_id: Fact<MachineId>,
    }
}

record! {
    /// A field of os-release(5) that has no place of its own in the model.
    ReleaseField "os-release field" {
        source "os-release(5)";
        place [key];

        /// The name of the variable, as it stands before the `=`.
        key: Fact<ParameterName>,
        /// What the variable says, without the quotes.
        value: Fact<FreeText>,
    }
}

codes! {
    /// Version of control groups (`Documentation/admin-guide/cgroup-v2`).
    ControlGroups {
        /// Version 1 alone.
        First = "1",
        /// Version 2 alone.
        Second = "2",
        /// Version 1, with version 2 beside it.
        Both = "1-and-2",
    }
}
