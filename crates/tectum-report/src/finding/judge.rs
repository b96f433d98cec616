//! What a rule is given: the report, its limits, and the ways to read it that forget no gap.

use schemars::JsonSchema;
use serde::Serialize;
use serde_json::Value;

use super::{
    asked::Asked,
    judgement::{Finding, NotJudged, Reason},
    limits::Limits,
    rule::Rule,
};
use crate::{
    compare::{label, shown},
    declare::{AnyFact, Parts, Record, fact_named},
    fact::{Fact, Gap, Place, Why},
    model::RunsOn,
    report::Report,
};

/// A value by which something was found, with where it is from.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Seen {
    /// JSON Pointer to it in the report.
    pub at: String,
    /// The value.
    pub value: Value,
    /// Where it is from.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub source: Option<String>,
    /// Where in its source it stands.
    #[serde(rename = "where", skip_serializing_if = "Option::is_none")]
    pub place: Option<Place>,
}

/// One rule's look at one report.
pub(crate) struct Judge<'a> {
    rule: &'static Rule,
    report: &'a Report,
    limits: &'a Limits,
    pub(super) found: Vec<Finding>,
    pub(super) not_judged: Vec<NotJudged>,
    /// How many findings there are beyond those that are kept.
    more: usize,
}

/// The most findings of one rule that are kept one by one.
const MOST_FINDINGS: usize = 500;

impl<'a> Judge<'a> {
    pub(super) fn new(rule: &'static Rule, report: &'a Report, limits: &'a Limits) -> Self {
        Self { rule, report, limits, found: Vec::new(), not_judged: Vec::new(), more: 0 }
    }

    /// What was found, and what could not be judged.
    pub(super) fn outcome(mut self) -> (Vec<Finding>, Vec<NotJudged>) {
        if let (Some(last), true) = (self.found.last().cloned(), self.more > 0) {
            let list = last.part.rsplit_once('/').map_or("", |(list, _)| list).to_owned();
            let says = format!("{} more of this kind are not told one by one", self.more);
            let label = self.rule.title.to_owned();
            self.found.push(Finding { part: list, label, says, seen: Vec::new(), ..last });
        }
        (self.found, self.not_judged)
    }

    pub(super) fn report(&self) -> &'a Report {
        self.report
    }

    pub(super) fn limits(&self) -> &'a Limits {
        self.limits
    }

    /// Whether there is a sign that a hypervisor runs this machine: what it shows is what that makes up.
    pub(super) fn is_virtual(&self) -> bool {
        let runs_in = self.report.inventory.platform.as_ref();
        let runs_in = runs_in.and_then(|it| it.virtualization.runs_in.value());
        let runs_on = self.report.inventory.cpu.as_ref().and_then(|cpu| cpu.runs_on.value());
        runs_in.is_some_and(|runs_in| runs_in.lies_on_a_hypervisor())
            || runs_on == Some(&RunsOn::Hypervisor)
    }

    /// A section; the rule cannot judge one that was not surveyed.
    pub(super) fn section<S>(&mut self, section: &'a Option<S>, at: &str) -> Option<&'a S> {
        if section.is_none() {
            self.cannot(Reason::NotSurveyed, || at.to_owned());
        }
        section.as_ref()
    }

    /// The parts of a list, each with its pointer. Where the list is missing, or more of it may exist, that
    /// is not judged.
    pub(super) fn parts<R>(&mut self, list: &'a Parts<R>, at: &str) -> Vec<(String, &'a R)> {
        if let Some(gap) = list.gap().or_else(|| list.hidden()) {
            self.gap(at, "", gap);
        }
        list.iter().enumerate().map(|(index, part)| (format!("{at}/{index}"), part)).collect()
    }

    /// A value; one that is missing is not judged, but where the part can have none.
    pub(super) fn known<T>(&mut self, fact: &'a Fact<T>, at: &str, field: &str) -> Option<&'a T> {
        if let Some(gap) = fact.missing().or_else(|| fact.hidden_part()) {
            self.gap(at, field, gap);
        }
        fact.value()
    }

    /// Says that the rule could not judge a field of a part, or the part itself.
    pub(super) fn gap(&mut self, at: &str, field: &str, gap: &Gap) {
        if gap.why != Why::NotApplicable {
            let between = if field.is_empty() { "" } else { "/" };
            self.cannot(Reason::of(gap), || format!("{at}{between}{field}"));
        }
    }

    /// Counts what cannot be judged, by its reason: of thousands of parts the first is named.
    fn cannot(&mut self, reason: Reason, at: impl FnOnce() -> String) {
        match self.not_judged.iter_mut().find(|one| one.reason == reason) {
            Some(one) => one.values += 1,
            None => {
                let by = Asked::Rule(self.rule);
                self.not_judged.push(NotJudged { by, at: at(), reason, values: 1 });
            }
        }
    }

    /// A value of a part by the name of its field, to be shown.
    pub(super) fn seen(&self, part: &dyn Record, at: &str, field: &str) -> Option<Seen> {
        let fact = fact_named(part, field)?;
        Some(Seen::of(fact, format!("{at}/{field}")))
    }

    /// Says that something was found of a part, by some of its fields.
    pub(super) fn finds(
        &mut self,
        part: &dyn Record,
        at: &str,
        fields: &[&str],
        says: impl Into<String>,
    ) {
        let seen = fields.iter().filter_map(|field| self.seen(part, at, field)).collect();
        self.finds_by(part, at, seen, says);
    }

    /// Says that something was found of a part, by values that stand elsewhere.
    pub(super) fn finds_by(
        &mut self,
        part: &dyn Record,
        at: &str,
        seen: Vec<Seen>,
        says: impl Into<String>,
    ) {
        if self.found.len() >= MOST_FINDINGS {
            self.more += 1;
            return;
        }
        self.found.push(Finding {
            by: Asked::Rule(self.rule),
            severity: self.rule.severity,
            part: at.to_owned(),
            label: label(part),
            says: says.into(),
            seen,
            accepted: None,
            was_accepted: None,
        });
    }
}

impl Seen {
    /// A value with where it is from.
    pub(crate) fn of(fact: &dyn AnyFact, at: String) -> Self {
        let piece = fact.evidence().first();
        Self {
            at,
            value: fact.json().unwrap_or(Value::Null),
            source: piece.map(|piece| piece.source.to_string()),
            place: piece.and_then(|piece| piece.place.clone()),
        }
    }
}

/// A value as people read it; nothing where it is missing.
pub(super) fn text(fact: &dyn AnyFact) -> String {
    shown(fact).unwrap_or_default()
}

/// A part's field by its name, which the compiler follows.
macro_rules! see {
    ($it:ident, $at:expr, $part:ident.$field:ident) => {
        $it.known(&$part.$field, $at, stringify!($field))
    };
}

pub(super) use see;
