//! What all rules together say of a report.

use std::{collections::BTreeSet, sync::Arc};

use schemars::JsonSchema;
use serde::{Serialize, Serializer, ser::SerializeStruct};

use super::{
    asked::Asked,
    judge::{Judge, Seen},
    limits::Limits,
    rule::{Severity, rules},
    rules::IDENTITY_DOUBLED,
};
use crate::{
    expectation::{Acceptance, Expectations},
    fact::{Gap, Saying, Why},
    report::Report,
};

/// Something odd.
#[derive(Debug, Clone, PartialEq, JsonSchema)]
pub struct Finding {
    /// What found it, by its name.
    #[schemars(rename = "rule", with = "String")]
    pub by: Asked,
    /// How much it matters.
    pub severity: Severity,
    /// JSON Pointer to the part that it was found of.
    pub part: String,
    /// What a person calls the part.
    pub label: String,
    /// What was found.
    pub says: String,
    /// The values by which it was found.
    pub seen: Vec<Seen>,
    /// Why the owner accepts it.
    #[schemars(skip_serializing_if = "Option::is_none")]
    pub accepted: Option<Acceptance>,
    /// Why the owner accepted it for a time that is over.
    #[schemars(skip_serializing_if = "Option::is_none")]
    pub was_accepted: Option<Acceptance>,
}

impl Serialize for Finding {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        let Self { by, severity, part, label, says, seen, accepted, was_accepted } = self;
        let more = usize::from(accepted.is_some()) + usize::from(was_accepted.is_some());
        let mut all = serializer.serialize_struct("Finding", 6 + more)?;
        all.serialize_field("rule", by.id())?;
        all.serialize_field("severity", severity)?;
        all.serialize_field("part", part)?;
        all.serialize_field("label", label)?;
        all.serialize_field("says", says)?;
        all.serialize_field("seen", seen)?;
        if let Some(accepted) = accepted {
            all.serialize_field("accepted", accepted)?;
        }
        if let Some(accepted) = was_accepted {
            all.serialize_field("was_accepted", accepted)?;
        }
        all.end()
    }
}

/// Why something could not be judged.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Reason {
    /// The section was not surveyed.
    NotSurveyed,
    /// A value is missing.
    Missing {
        /// Why.
        why: Why,
        /// What would help, if that is known.
        hint: Option<Saying>,
    },
}

impl Reason {
    pub(crate) fn of(gap: &Gap) -> Self {
        Self::Missing { why: gap.why, hint: gap.hint.as_deref().cloned() }
    }

    /// The reason's code.
    pub fn code(&self) -> String {
        match self {
            Self::NotSurveyed => "not-surveyed".to_owned(),
            Self::Missing { why, .. } => why.to_string(),
        }
    }

    /// The reason in words.
    pub fn words(&self) -> String {
        match self {
            Self::NotSurveyed => "the section was not surveyed".to_owned(),
            Self::Missing { hint: Some(hint), why } => format!("{}: {hint}", plain(*why)),
            Self::Missing { hint: None, why } => plain(*why),
        }
    }
}

fn plain(why: Why) -> String {
    why.meaning().trim_end_matches('.').to_owned()
}

/// What could not be judged for one reason.
#[derive(Debug, Clone, PartialEq)]
pub struct NotJudged {
    /// Who could not.
    pub by: Asked,
    /// JSON Pointer to the first value that is missing.
    pub at: String,
    /// Why it is missing.
    pub reason: Reason,
    /// How many values are missing for this reason.
    pub values: usize,
}

/// What all that was asked says of a report.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Judgement {
    /// What was found: what is accepted last, the gravest first, then in the order of the rules and of the
    /// report.
    pub findings: Vec<Finding>,
    /// What could not be judged.
    pub not_judged: Vec<NotJudged>,
    /// Who was asked.
    pub asked: Vec<Asked>,
}

impl Judgement {
    /// Judges a report by every rule that the limits do not turn off.
    pub fn of(report: &Report, limits: &Limits) -> Self {
        Self::by(&|_| true, report, limits, &Expectations::default())
    }

    /// Judges a report by the rules and expectations that are wanted by their names; what the limits turn
    /// off is left out.
    pub fn by(
        wanted: &dyn Fn(&str) -> bool,
        report: &Report,
        limits: &Limits,
        expectations: &Expectations,
    ) -> Self {
        let mut judgement = Self::default();
        for rule in rules().iter().copied() {
            if limits.is_off(rule) || !wanted(rule.id) || rule.id == IDENTITY_DOUBLED {
                continue;
            }
            let mut judge = Judge::new(rule, report, limits);
            (rule.judge)(&mut judge);
            let (mut found, mut not_judged) = judge.outcome();
            judgement.findings.append(&mut found);
            judgement.not_judged.append(&mut not_judged);
            judgement.asked.push(Asked::Rule(rule));
        }
        for own in expectations.expect.iter().filter(|own| wanted(&own.name)) {
            let Some((mut found, mut not_judged)) = own.judge(report) else { continue };
            judgement.findings.append(&mut found);
            judgement.not_judged.append(&mut not_judged);
            judgement.asked.push(Asked::Expectation(Arc::clone(own)));
        }
        expectations.accept_known(&mut judgement.findings, report);
        judgement.findings.sort_by_key(|found| {
            (found.accepted.is_some(), std::cmp::Reverse(found.severity.rank()))
        });
        judgement
    }

    /// The findings that nobody accepted.
    pub fn open(&self) -> impl Iterator<Item = &Finding> {
        self.findings.iter().filter(|found| found.accepted.is_none())
    }

    /// How many findings of a severity nobody accepted.
    pub fn count(&self, severity: Severity) -> usize {
        self.open().filter(|found| found.severity == severity).count()
    }

    /// Those that found nothing and judged all that they read.
    pub fn fine(&self) -> impl Iterator<Item = &Asked> {
        let odd: BTreeSet<&str> = self
            .findings
            .iter()
            .map(|found| found.by.id())
            .chain(self.not_judged.iter().map(|one| one.by.id()))
            .collect();
        self.asked.iter().filter(move |asked| !odd.contains(asked.id()))
    }
}
