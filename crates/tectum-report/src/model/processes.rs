//! What runs: readings alone, told only where they are asked for.

use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{Bytes, Label, Milliseconds, Moment, PathName, Term, codes},
};

codes! {
    /// What a process is doing: the letter in `/proc/PID/stat` (proc_pid_stat(5)).
    ProcessState {
        /// Runs, or could.
        Running = "running",
        /// Sleeps until something happens.
        Sleeping = "sleeping",
        /// Waits for a device, and nothing wakes it before.
        WaitingForDevice = "waiting-for-device",
        /// A thread of the kernel that has nothing to do.
        Idle = "idle",
        /// Stopped by a signal.
        Stopped = "stopped",
        /// Stopped by a debugger.
        Traced = "traced",
        /// Ended, and its parent has not asked how (a zombie).
        Zombie = "zombie",
        /// Going away.
        Dead = "dead",
    }
}

record! {
    /// What runs. Threads of the kernel's own are counted apart and not told one by one, unless they wait for a
    /// device.
    ProcessReadings "processes" {
        source "Documentation/filesystems/proc.rst";

        /// Processes, the kernel's own threads left out.
        count: Fact<u64>,
        /// Threads of those processes.
        threads: Fact<u64>,
        /// Threads of the kernel's own.
        kernel_threads: Fact<u64>,
        /// Processes that run, or could.
        running: Fact<u64>,
        /// Processes that sleep until something happens.
        sleeping: Fact<u64>,
        /// Processes and threads of the kernel that wait for a device and cannot be woken.
        waiting_for_device: Fact<u64>,
        /// Processes stopped by a signal or a debugger.
        stopped: Fact<u64>,
        /// Processes that ended and whose parents have not asked how.
        zombies: Fact<u64>,
        /// How `/proc` is mounted to hide others' processes: its option `hidepid`; `off` where it hides none.
        hidepid: Fact<Term>,
        /// Every process that could be seen.
        list: Parts<Process>,
        /// What memory the largest hold, as shared pages are shared out among those who share them.
        largest: Parts<ProcessMemory>,
        /// Control groups that hold processes, with what theirs use together.
        groups: Parts<ProcessGroup>,
    }
}

record! {
    /// A process.
    Process "process" {
        source "proc_pid_stat(5)";
        identity unique [pid, started_at];
        names [pid];
        called [name];

        /// The number by which the kernel and its tools mean it.
        pid: Fact<u64>,
        /// The number of its parent.
        parent: Fact<u64>,
        /// The name of its program, at the most fifteen bytes; a program may change its own.
        name: Fact<Label>,
        /// What it is doing.
        state: Fact<ProcessState>,
        /// Whether it is a thread of the kernel's own.
        is_kernel_thread: Fact<bool>,
        /// The number of the user whose rights it has.
        #[source = "proc_pid_status(5)"]
        user_id: Fact<u64>,
        /// When it was started, RFC 3339, UTC.
        started_at: Fact<Moment>,
        /// How many threads it has.
        threads: Fact<u64>,
        /// Memory that it holds, shared pages with it, in bytes.
        #[source = "proc_pid_status(5)"]
        resident_bytes: Fact<Bytes>,
        /// Memory of it that is swapped out, in bytes.
        #[source = "proc_pid_status(5)"]
        swapped_bytes: Fact<Bytes>,
        /// Time that processors spent on it, in milliseconds.
        processor_time_ms: Fact<Milliseconds>,
        /// Bytes that it had read from devices, with those of its children that it saw end.
        #[source = "proc_pid_io(5)"]
        read_bytes: Fact<Bytes>,
        /// Bytes that it had written to devices, with those of its children that it saw end.
        #[source = "proc_pid_io(5)"]
        written_bytes: Fact<Bytes>,
        /// Its control group (version 2).
        #[source = "cgroups(7)"]
        control_group: Fact<PathName>,
        /// Where in the kernel it waits, of those that wait for a device.
        #[source = "proc_pid_wchan(5)"]
        waits_in: Fact<Term>,
    }
}

record! {
    /// What memory a process holds.
    ProcessMemory "process memory" {
        source "proc_pid_smaps(5); Documentation/ABI/testing/procfs-smaps_rollup";
        identity unique [pid];
        names [pid];

        /// The number of the process.
        pid: Fact<u64>,
        /// Memory that it holds, each shared page shared out among those who share it, in bytes.
        proportional_bytes: Fact<Bytes>,
        /// Memory of it that is swapped out, shared out likewise, in bytes.
        swapped_proportional_bytes: Fact<Bytes>,
    }
}

record! {
    /// What the processes of a control group use together.
    ProcessGroup "process group" {
        source "cgroups(7)";
        identity unique [control_group];

        /// The control group's path, from the root of its hierarchy.
        control_group: Fact<PathName>,
        /// How many processes are in it.
        processes: Fact<u64>,
        /// Memory that they hold, pages shared among them counted for each, in bytes.
        resident_bytes: Fact<Bytes>,
        /// Time that processors spent on them, in milliseconds.
        processor_time_ms: Fact<Milliseconds>,
    }
}
