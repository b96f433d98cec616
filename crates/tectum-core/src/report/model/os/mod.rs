//! Operating system and kernel, what is installed, what runs.

mod running;
mod software;

pub use running::{OsRates, OsReadings, Pressure, RebootMark};
pub use software::{InstalledKernel, LivePatch, PackageDatabase, Repository};

use crate::report::{
    fact::Fact,
    kinds::{HostName, MachineId, Text, terms},
    record::{Parts, record},
};

record! {
    /// Operating system and kernel.
    Os "operating system" {
        /// Name for people (`PRETTY_NAME` in os-release(5)).
        pretty_name: Fact<Text>,
        /// Name (`NAME`).
        name: Fact<Text>,
        /// Identifier (`ID`).
        id: Fact<Text>,
        /// What it is compatible with (`ID_LIKE`), the closest first.
        compatible_with: Fact<Vec<Text>>,
        /// Version for people (`VERSION`).
        version: Fact<Text>,
        /// Version (`VERSION_ID`).
        version_id: Fact<Text>,
        /// Code name (`VERSION_CODENAME`).
        codename: Fact<Text>,
        /// Edition for people (`VARIANT`).
        variant: Fact<Text>,
        /// Edition (`VARIANT_ID`).
        variant_id: Fact<Text>,
        /// Build of the image (`BUILD_ID`).
        build_id: Fact<Text>,
        /// The day support ends (`SUPPORT_END`).
        support_end: Fact<Text>,
        /// Home page (`HOME_URL`).
        home_url: Fact<Text>,
        /// Where to find help (`SUPPORT_URL`).
        support_url: Fact<Text>,
        /// Where to report defects (`BUG_REPORT_URL`).
        bug_report_url: Fact<Text>,
        /// Every other field of os-release.
        other_fields: Parts<ReleaseField>,
        /// The kernel's name.
        kernel_name: Fact<Text>,
        /// The kernel's release.
        kernel_release: Fact<Text>,
        /// The kernel's version: its build.
        kernel_version: Fact<Text>,
        /// Who built the kernel, and where.
        kernel_built_by: Fact<Text>,
        /// The compiler that built it, with its linker.
        kernel_compiler: Fact<Text>,
        /// Kernels that are installed.
        installed_kernels: Parts<InstalledKernel>,
        /// The newest of them.
        newest_kernel: Fact<Text>,
        /// Whether the newest is newer than the one that runs: after the next boot another may run.
        newer_kernel_installed: Fact<bool>,
        /// Patches that were put into the running kernel.
        live_patches: Parts<LivePatch>,
        /// The clock that the kernel counts time by.
        clock_source: Fact<Text>,
        /// The clocks that it could count by.
        clock_sources: Fact<Vec<Text>>,
        /// Security modules, in the order they are asked.
        security_modules: Fact<Vec<Text>>,
        /// Whether SELinux enforces its policy.
        selinux_enforcing: Fact<bool>,
        /// How far the kernel is closed even to root: none, integrity, confidentiality.
        lockdown: Fact<Text>,
        /// Version of control groups in use.
        control_groups: Fact<ControlGroups>,
        /// What starts and watches services.
        init_system: Fact<Text>,
        /// Time zone.
        time_zone: Fact<Text>,
        /// Language and character set.
        locale: Fact<Text>,
        /// Where software comes from.
        repositories: Parts<Repository>,
        /// Databases of installed packages.
        package_databases: Parts<PackageDatabase>,
        /// The architecture that the kernel is built for.
        architecture: Fact<Text>,
        /// Host name.
        hostname: Fact<HostName>,
        /// The domain that the kernel was given (NIS), no DNS domain.
        domain: Fact<HostName>,
        /// The installation's id (machine-id(5)).
        machine_id: Fact<MachineId>,
    }
}

record! {
    /// A field of os-release(5) that has no place of its own in the model.
    ReleaseField "os-release field" {
        place [key];

        /// Its key.
        key: Fact<Text>,
        /// Its value.
        value: Fact<Text>,
    }
}

terms! {
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
