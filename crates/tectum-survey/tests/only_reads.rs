//! A survey only reads: run where the kernel forbids every other right, it finds the same.
//!
//! One test, in a process of its own, because confinement cannot be undone.

#![allow(clippy::unwrap_used, missing_docs, reason = "a test stops at the first thing that fails")]

use std::io::Write;

use landlock::{
    ABI, Access, AccessFs, PathBeneath, PathFd, Ruleset, RulesetAttr, RulesetCreatedAttr,
    RulesetStatus,
};
use tectum_survey::{
    source::{Door, Outcome, Tree},
    survey::{Plan, survey},
};

#[test]
fn a_survey_opens_nothing_for_writing() {
    let look = |confine: bool| {
        let door = Door::new(Tree::live().unwrap());
        let plan = Plan { confine, ..Plan::default() };
        (survey(&door, &plan, &mut |_| {}).observed.inventory, door.log())
    };
    let (free, free_log) = look(false);
    // By itself a survey gives up every right but that to read what it declares.
    let (confined, confined_log) = look(true);
    assert_eq!(confined, free);
    // Here the kernel refuses whatever is not reading, on every path, to this thread and those it
    // begins: an attempt to write would end as a refusal.
    let version = ABI::V3;
    let rules = Ruleset::default()
        .handle_access(AccessFs::from_all(version))
        .unwrap()
        .create()
        .unwrap()
        .add_rule(PathBeneath::new(
            PathFd::new("/").unwrap(),
            AccessFs::ReadFile | AccessFs::ReadDir,
        ))
        .unwrap();
    let status = rules.restrict_self().unwrap();
    if status.ruleset == RulesetStatus::NotEnforced {
        // Past the test runner, which would keep it to itself.
        writeln!(std::io::stderr(), "NOT SHOWN: this kernel has no Landlock").unwrap();
        return;
    }
    assert!(std::fs::write("/tmp/tectum-must-not-be", "x").is_err(), "writing is refused here");
    let (forbidden, forbidden_log) = look(false);
    assert_eq!(forbidden, free);
    let refused = |log: &[tectum_survey::source::Access]| {
        log.iter().filter(|access| access.outcome == Outcome::PermissionDenied).count()
    };
    assert_eq!(refused(&forbidden_log), refused(&free_log));
    assert_eq!(refused(&confined_log), refused(&free_log));
}
