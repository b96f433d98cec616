//! What a rule is, and which there are.

use super::{judge::Judge, rules::RULES};
use crate::leaf::codes;

codes! {
    /// How much a finding matters.
    Severity {
        /// Worth knowing; nothing is wrong by itself.
        Notice = "notice",
        /// Something works worse than it should, or will fail: to be seen to at the next occasion.
        Warning = "warning",
        /// Data or service is at risk now.
        Critical = "critical",
    }
}

impl Severity {
    /// All of them, the gravest first.
    pub const BY_RANK: [Self; 3] = [Self::Critical, Self::Warning, Self::Notice];

    /// Whether somebody should see to it: what is merely worth knowing of one machine is too much of many.
    pub fn wants_attention(self) -> bool {
        self != Self::Notice
    }

    /// How grave it is, from 0.
    pub fn rank(self) -> u8 {
        match self {
            Self::Notice => 0,
            Self::Warning => 1,
            Self::Critical => 2,
        }
    }
}

/// One thing to look for in a report.
#[derive(Debug)]
pub struct Rule {
    /// Its name, which stays.
    pub id: &'static str,
    /// How much it matters where it fires.
    pub severity: Severity,
    /// What it looks for, in a few words.
    pub title: &'static str,
    /// The paths that it reads.
    pub reads: &'static [&'static str],
    /// Why it matters.
    pub matters: &'static str,
    /// What to do.
    pub action: &'static str,
    /// Where more stands: a standard with its clause, a kernel document.
    pub reference: &'static str,
    /// Looks for it.
    pub(super) judge: fn(&mut Judge<'_>),
}

/// Every rule, in the order of the sections.
pub fn rules() -> &'static [&'static Rule] {
    RULES
}

/// The rule of that name.
pub fn rule(id: &str) -> Option<&'static Rule> {
    RULES.iter().copied().find(|rule| rule.id == id)
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeSet;

    use super::*;
    use crate::query::Path;

    #[test]
    fn every_rule_has_a_name_of_its_own_and_reads_what_reports_can_have() {
        let mut names = BTreeSet::new();
        for rule in rules() {
            assert!(names.insert(rule.id), "{} stands twice", rule.id);
            let plain = |c: char| c.is_ascii_lowercase() || c.is_ascii_digit() || c == '-';
            assert!(rule.id.chars().all(plain), "{}", rule.id);
            for text in [rule.title, rule.matters, rule.action, rule.reference] {
                assert!(!text.trim().is_empty(), "{} leaves something unsaid", rule.id);
            }
            assert!(!rule.reads.is_empty(), "{}", rule.id);
            for path in rule.reads {
                let path: Path = path.parse().unwrap();
                assert!(path.check().is_ok(), "{}: {path}", rule.id);
            }
        }
    }

    #[test]
    fn severities_stand_in_their_order() {
        let ranks: Vec<u8> = Severity::BY_RANK.iter().map(|one| one.rank()).collect();
        assert_eq!(ranks, [2, 1, 0]);
    }
}
