//! What runs, and how it is doing.

use crate::report::{
    fact::Fact,
    kinds::{MachineId, Text},
    record::{Parts, record},
};

record! {
    /// How the system is doing.
    OsReadings "operating system readings" {
        /// When the kernel started, RFC 3339, UTC.
        booted_at: Fact<Text>,
        /// Seconds since the kernel started.
        uptime_seconds: Fact<u64>,
        /// The id of this boot.
        boot_id: Fact<MachineId>,
        /// Load average over one minute, in hundredths: threads that run or wait for a CPU or disk.
        load_1_minute_hundredths: Fact<u64>,
        /// Load average over five minutes, in hundredths.
        load_5_minutes_hundredths: Fact<u64>,
        /// Load average over fifteen minutes, in hundredths.
        load_15_minutes_hundredths: Fact<u64>,
        /// Threads of all processes, the kernel's own with them.
        threads: Fact<u64>,
        /// Threads that run or could.
        threads_running: Fact<u64>,
        /// Threads that wait for a disk or another device.
        threads_blocked: Fact<u64>,
        /// Processes and threads started since boot.
        forks: Fact<u64>,
        /// Changes from one thread to another since boot.
        context_switches: Fact<u64>,
        /// Interrupts since boot.
        interrupts: Fact<u64>,
        /// Times that the kernel failed and went on, since boot.
        oopses: Fact<u64>,
        /// Warnings of the kernel about itself, since boot.
        warnings: Fact<u64>,
        /// Marks by which the kernel says that something may have spoilt it, spelled out.
        taints: Fact<Vec<Text>>,
        /// Randomness that is at hand, in bits.
        entropy_bits: Fact<u64>,
        /// Marks that the system wants to be started anew.
        reboot_marks: Parts<RebootMark>,
        /// How much work had to wait (`Documentation/accounting/psi.rst`).
        pressure: Parts<Pressure>,
        /// Rates between two looks, where they were asked for.
        rates: Option<OsRates>,
    }
}

record! {
    /// A mark that the system wants to be started anew.
    RebootMark "reboot mark" {
        place [file];

        /// The file that is the mark.
        file: Fact<Text>,
        /// What it says.
        says: Fact<Text>,
    }
}

record! {
    /// How much of the time work had to wait for something, in hundredths of a percent.
    Pressure "pressure" {
        place [resource, whose];

        /// What was waited for: cpu, memory, io, irq.
        resource: Fact<Text>,
        /// Whether some of the work waited, or all of it at once: some, full.
        whose: Fact<Text>,
        /// Over the last 10 seconds.
        last_10_seconds: Fact<u64>,
        /// Over the last 60 seconds.
        last_60_seconds: Fact<u64>,
        /// Over the last 300 seconds.
        last_300_seconds: Fact<u64>,
        /// Since boot, in microseconds.
        total_us: Fact<u64>,
    }
}

record! {
    /// Rates between two looks at the kernel's counters.
    OsRates "rates" {
        /// Time between the looks in milliseconds.
        over_ms: Fact<u64>,
        /// Time that CPUs were busy, in hundredths of a percent of all CPUs.
        cpu_busy_hundredths: Fact<u64>,
        /// Processes and threads started a second.
        forks_per_second: Fact<u64>,
        /// Changes from one thread to another a second.
        context_switches_per_second: Fact<u64>,
        /// Interrupts a second.
        interrupts_per_second: Fact<u64>,
    }
}
