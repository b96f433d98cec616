//! The system calls of saving, each by a name: tests let one fail, or end the process before it.

#[cfg(not(test))]
use std::io;

/// A system call, or a few that belong together.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Step {
    Open,
    Lock,
    Write,
    Sync,
    Hold,
    Remove,
    Link,
    LinkBeside,
    Rename,
    SyncFolder,
}

/// What comes before a system call: nothing, but in tests.
#[cfg(not(test))]
#[expect(clippy::unnecessary_wraps, reason = "in tests it fails")]
pub(super) fn step(_: Step) -> io::Result<()> {
    Ok(())
}

#[cfg(test)]
pub(super) use planned::step;

/// What tests plan.
#[cfg(test)]
pub(super) mod planned {
    use std::{cell::Cell, io};

    use super::Step;

    /// What happens at a step.
    #[derive(Debug, Clone, Copy, PartialEq, Eq)]
    pub(in super::super) enum Plan {
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
    pub(in super::super) fn plan(plan: Plan) {
        PLAN.set(plan);
        TAKEN.set(0);
    }

    /// How many steps were taken since.
    pub(in super::super) fn taken() -> usize {
        TAKEN.get()
    }

    pub(in super::super) fn step(_: Step) -> io::Result<()> {
        let number = TAKEN.get();
        TAKEN.set(number + 1);
        match PLAN.get() {
            Plan::Fail(at) if at == number => Err(io::Error::other("planned to fail")),
            Plan::Kill(at) if at == number => std::process::abort(),
            _ => Ok(()),
        }
    }
}
