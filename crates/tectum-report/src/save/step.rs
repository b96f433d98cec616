//! The system calls of saving, each by a name: tests let one fail, or end the process before it.
//!
//! What saves several files that belong together calls [`step`] before its own system calls too. Without the
//! feature `planned-faults`, which only tests ask for, nothing happens in it.

#[cfg(not(any(test, feature = "planned-faults")))]
use std::io;

/// A system call, or a few that belong together.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Step {
    /// A file is opened.
    Open,
    /// A file is locked.
    Lock,
    /// A file is written.
    Write,
    /// A file is brought onto the disk.
    Sync,
    /// A folder is held against others.
    Hold,
    /// A name is removed.
    Remove,
    /// A file is given a name that nothing has.
    Link,
    /// A file is given a name on the way to its own.
    LinkBeside,
    /// A file takes the place of another.
    Rename,
    /// A folder is brought onto the disk.
    SyncFolder,
    /// A folder is made.
    MakeFolder,
}

/// What comes before a system call: nothing, but in tests.
///
/// # Errors
/// What a test planned.
#[cfg(not(any(test, feature = "planned-faults")))]
#[allow(clippy::unnecessary_wraps, reason = "in tests it fails")]
pub fn step(_: Step) -> io::Result<()> {
    Ok(())
}

#[cfg(any(test, feature = "planned-faults"))]
pub use planned::step;

/// What tests plan.
#[cfg(any(test, feature = "planned-faults"))]
pub mod planned {
    use std::{cell::Cell, io};

    use super::Step;

    /// What happens at a step.
    #[derive(Debug, Clone, Copy, PartialEq, Eq)]
    pub enum Plan {
        /// Nothing happens.
        Nothing,
        /// The step of that number fails.
        Fail(usize),
        /// The process ends before it, and nothing is cleared up.
        Kill(usize),
    }

    thread_local! {
        static PLAN: Cell<Plan> = const { Cell::new(Plan::Nothing) };
        static TAKEN: Cell<usize> = const { Cell::new(0) };
    }

    /// Plans, and begins to count anew.
    pub fn plan(plan: Plan) {
        PLAN.set(plan);
        TAKEN.set(0);
    }

    /// How many steps were taken since.
    pub fn taken() -> usize {
        TAKEN.get()
    }

    /// What comes before a system call: what was planned.
    ///
    /// # Errors
    /// That it was planned to fail.
    pub fn step(_: Step) -> io::Result<()> {
        let number = TAKEN.get();
        TAKEN.set(number + 1);
        match PLAN.get() {
            Plan::Fail(at) if at == number => Err(io::Error::other("planned to fail")),
            Plan::Kill(at) if at == number => std::process::abort(),
            _ => Ok(()),
        }
    }
}
