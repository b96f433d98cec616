use crate::report::{
    fact::Fact,
    kinds::{HostName, MachineId, Text},
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
        /// The architecture that the kernel is built for.
        architecture: Fact<Text>,
        /// Host name.
        hostname: Fact<HostName>,
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

record! {
    /// Times.
    OsReadings "operating system readings" {
        /// When the kernel started, RFC 3339, UTC.
        booted_at: Fact<Text>,
        /// Seconds since the kernel started.
        uptime_seconds: Fact<u64>,
    }
}
