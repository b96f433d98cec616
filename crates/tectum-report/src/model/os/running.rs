//! What runs, and how it is doing.

use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{
        Bits, FreeText, Hundredths, MachineId, Microseconds, Milliseconds, Moment, PathName,
        PercentHundredths, Seconds, Term,
    },
};

record! {
    /// How the system is doing.
    OsReadings "operating system" {
        source "proc_stat(5); proc_uptime(5); proc_loadavg(5)";
        counts [forks, context_switches, interrupts, oopses, warnings];

        /// When the kernel started, RFC 3339, UTC.
        booted_at: Fact<Moment>,
        /// Seconds since the kernel started.
        uptime_seconds: Fact<Seconds>,
        /// The id of this boot.
        boot_id: Fact<MachineId>,
        /// Load average over one minute, in hundredths: threads that run or wait for a CPU or disk.
        load_1_minute_hundredths: Fact<Hundredths>,
        /// Load average over five minutes, in hundredths.
        load_5_minutes_hundredths: Fact<Hundredths>,
        /// Load average over fifteen minutes, in hundredths.
        load_15_minutes_hundredths: Fact<Hundredths>,
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
        taints: Fact<Vec<Term>>,
        /// Randomness that is at hand, in bits.
        entropy_bits: Fact<Bits>,
        /// Marks that the system wants to be started anew.
        reboot_required: Parts<RebootRequest>,
        /// How much work had to wait (`Documentation/accounting/psi.rst`).
        pressure: Parts<Pressure>,
        /// Rates between two looks, where they were asked for.
        rates: Option<OsRates>,
    }
}

record! {
    /// A mark that the system wants to be started anew.
    RebootRequest "reboot request" {
        source "the file that the package manager leaves";
        place [file];

        /// The file that is the mark.
        file: Fact<PathName>,
        /// What the mark's file says, if anything.
        message: Fact<FreeText>,
    }
}

record! {
    /// How much of the time work had to wait for something, in hundredths of a percent.
    Pressure "pressure" {
        source "Documentation/accounting/psi.rst";
        place [resource, whose];
        counts [total_us];

        /// What was waited for: cpu, memory, io, irq.
        resource: Fact<Term>,
        /// Whether some of the work waited, or all of it at once: some, full.
        whose: Fact<Term>,
        /// Over the last 10 seconds.
        avg10_percent_hundredths: Fact<PercentHundredths>,
        /// Over the last 60 seconds.
        avg60_percent_hundredths: Fact<PercentHundredths>,
        /// Over the last 300 seconds.
        avg300_percent_hundredths: Fact<PercentHundredths>,
        /// Since boot, in microseconds.
        total_us: Fact<Microseconds>,
    }
}

record! {
    /// Rates between two looks at the kernel's counters.
    OsRates "rates" {
        source "proc_stat(5)";

        /// Time between the looks in milliseconds.
        over_ms: Fact<Milliseconds>,
        /// Time that CPUs were busy, in hundredths of a percent of all CPUs.
        cpu_busy_percent_hundredths: Fact<PercentHundredths>,
        /// Processes and threads started a second.
        forks_per_second: Fact<u64>,
        /// Changes from one thread to another a second.
        context_switches_per_second: Fact<u64>,
        /// Interrupts served a second, of all CPUs together.
        interrupts_per_second: Fact<u64>,
    }
}
