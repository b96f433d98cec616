//! The model's leaves: a value that knows where it is from, or a gap that knows why.

use std::sync::Arc;

mod evidence;
mod gap;
mod saying;

pub use evidence::{Evidence, Place, Stance};
pub use gap::{Attempt, Gap, Why};
pub use saying::{Saying, Sentence, saying};

/// A value with its evidence, or a gap with its reason.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Fact<T> {
    state: State<T>,
}

#[derive(Debug, Clone, PartialEq, Eq)]
enum State<T> {
    /// A value, what says so, and why more of it may exist than could be seen.
    Known(T, Box<[Evidence]>, Option<Arc<Gap>>),
    Missing(Arc<Gap>),
}

/// The most raw text that one piece of evidence keeps, in bytes.
pub const RAW_LIMIT: usize = 1024;

const HOLDS_NO_VALUE: Saying = saying!("holds-no-value", "holds {}, which is no value");
const NO_USABLE_VALUE: Saying = saying!("no-usable-value", "holds no usable value");

/// The first [`RAW_LIMIT`] bytes of a text, cut between characters.
pub fn clip(raw: &str) -> &str {
    if raw.len() <= RAW_LIMIT {
        return raw;
    }
    let end = (0..=RAW_LIMIT).rev().find(|at| raw.is_char_boundary(*at)).unwrap_or(0);
    raw.get(..end).unwrap_or_default()
}

impl<T> Default for Fact<T> {
    /// A leaf that no section has filled in. It stands out in a report: it is never what a section
    /// means to say.
    fn default() -> Self {
        Self::gap(Gap::new(Why::NotProvided))
    }
}

impl<T> From<Gap> for Fact<T> {
    fn from(gap: Gap) -> Self {
        Self::gap(gap)
    }
}

impl<T> Fact<T> {
    /// A value with the evidence it was taken from.
    pub fn known(value: T, evidence: Evidence) -> Self {
        Self { state: State::Known(value, Box::new([evidence]), None) }
    }

    /// A value that follows from several places.
    pub fn known_from(value: T, evidence: Vec<Evidence>) -> Self {
        Self { state: State::Known(value, evidence.into(), None) }
    }

    /// A missing value. A gap that many values have is passed as a shared one.
    pub fn gap(gap: impl Into<Arc<Gap>>) -> Self {
        Self { state: State::Missing(gap.into()) }
    }

    /// A property that such a part does not have.
    pub fn not_applicable(reason: impl Into<Saying>) -> Self {
        Self::gap(Gap::new(Why::NotApplicable).hint(reason))
    }

    /// The value, if it is known.
    pub fn value(&self) -> Option<&T> {
        match &self.state {
            State::Known(value, ..) => Some(value),
            State::Missing(_) => None,
        }
    }

    /// The evidence; empty for a gap.
    pub fn evidence(&self) -> &[Evidence] {
        match &self.state {
            State::Known(_, evidence, _) => evidence,
            State::Missing(_) => &[],
        }
    }

    /// The gap, if the value is missing.
    pub fn missing(&self) -> Option<&Gap> {
        match &self.state {
            State::Known(..) => None,
            State::Missing(gap) => Some(gap),
        }
    }

    /// The gap, if the value is missing though it may well be there.
    pub fn unseen(&self) -> Option<&Gap> {
        self.missing().filter(|gap| gap.why.hides_a_value())
    }

    /// The same fact, of whose value more may exist that could not be seen: a list of which some
    /// entries are hidden.
    pub fn in_part(mut self, hidden: Option<Gap>) -> Self {
        if let State::Known(_, _, part) = &mut self.state {
            *part = hidden.map(Arc::new);
        }
        self
    }

    /// Why more of a known value may exist than could be seen.
    pub fn hidden_part(&self) -> Option<&Gap> {
        match &self.state {
            State::Known(_, _, part) => part.as_deref(),
            State::Missing(_) => None,
        }
    }

    /// Whether the value is known.
    pub fn is_known(&self) -> bool {
        matches!(self.state, State::Known(..))
    }

    /// The same fact, with what stands in its source said in fewer words.
    pub fn with_raw<R: Into<std::sync::Arc<str>>>(mut self, raw: impl FnOnce(&T) -> R) -> Self {
        if let State::Known(value, evidence, _) = &mut self.state
            && let Some(first) = evidence.first_mut()
        {
            first.raw = Some(raw(value).into());
        }
        self
    }

    /// The same fact, whose value follows from its evidence by this rule.
    pub fn by_rule(mut self, rule: impl Into<Saying>) -> Self {
        let rule = rule.into();
        if let State::Known(_, evidence, _) = &mut self.state {
            for piece in evidence {
                piece.rule = rule.clone();
            }
        }
        self
    }

    /// The same fact, whose value follows from another fact's evidence too.
    pub fn with_evidence_of<U>(mut self, other: &Fact<U>) -> Self {
        if let State::Known(_, evidence, _) = &mut self.state {
            *evidence = evidence.iter().chain(other.evidence()).cloned().collect();
        }
        self
    }

    /// This fact, or, where its value is missing, another; a gap remembers both attempts.
    pub fn or_known(self, other: impl FnOnce() -> Self) -> Self {
        let State::Missing(first) = self.state else { return self };
        match other().state {
            known @ State::Known(..) => Self { state: known },
            State::Missing(second) => Self::gap(Arc::unwrap_or_clone(first).join(&second)),
        }
    }

    /// This fact, or another where its value is missing for a reason that says that there is none.
    pub fn or_none_where(
        self,
        says_none: impl FnOnce(&Gap) -> bool,
        none: impl FnOnce() -> Self,
    ) -> Self {
        match self.missing() {
            Some(gap) if says_none(gap) => none(),
            _ => self,
        }
    }

    /// Replaces a known value; its evidence stays.
    pub fn replace_value(&mut self, form: impl FnOnce(&T) -> T) {
        if let State::Known(value, ..) = &mut self.state {
            *value = form(value);
        }
    }

    /// The gap, to be changed.
    pub fn gap_mut(&mut self) -> Option<&mut Gap> {
        match &mut self.state {
            State::Known(..) => None,
            State::Missing(gap) => Some(Arc::make_mut(gap)),
        }
    }

    /// The evidence of a known value, to be changed.
    pub fn evidence_mut(&mut self) -> &mut [Evidence] {
        match &mut self.state {
            State::Known(_, evidence, _) => evidence,
            State::Missing(_) => &mut [],
        }
    }

    /// The same fact with its value turned into another form; the evidence stays.
    pub fn map<U>(self, form: impl FnOnce(T) -> U) -> Fact<U> {
        let state = match self.state {
            State::Known(value, evidence, part) => State::Known(form(value), evidence, part),
            State::Missing(gap) => State::Missing(gap),
        };
        Fact { state }
    }

    /// The same fact with its value turned into another form, or a gap where it has none.
    pub fn and_then<U>(self, form: impl FnOnce(T) -> Result<U, Gap>) -> Fact<U> {
        let state = match self.state {
            State::Known(value, evidence, part) => match form(value) {
                Ok(value) => State::Known(value, evidence, part),
                Err(mut gap) => {
                    // The gap keeps what was read and where.
                    if let Some(first) = evidence.into_iter().next() {
                        gap.raw = gap.raw.or_else(|| first.raw.clone());
                        let answer = match &first.raw {
                            Some(raw) => HOLDS_NO_VALUE.with(format!("{raw:?}")),
                            None => NO_USABLE_VALUE,
                        };
                        gap = gap.tried(first.source, answer);
                    }
                    State::Missing(Arc::new(gap))
                }
            },
            State::Missing(gap) => State::Missing(gap),
        };
        Fact { state }
    }
}

impl<T: PartialEq + std::fmt::Display> Fact<T> {
    /// This fact, backed by another source for the same thing.
    ///
    /// A missing value is taken from the other source, and a gap remembers both attempts. Where
    /// both know it, this one's value stands, and the other is kept beside it as agreeing or
    /// differing.
    pub fn or_from(mut self, other: impl FnOnce() -> Self) -> Self {
        let other = other();
        match (&mut self.state, other.state) {
            (State::Known(value, evidence, _), State::Known(second, more, _)) => {
                let same = *value == second;
                let more = more.into_iter().map(|piece| Evidence {
                    stance: match (&piece.stance, same) {
                        (Stance::Gives, true) => Stance::Agrees,
                        (Stance::Gives, false) => Stance::differs(second.to_string()),
                        (kept, _) => kept.clone(),
                    },
                    ..piece
                });
                *evidence = std::mem::take(evidence).into_iter().chain(more).collect();
                self
            }
            (State::Known(..), State::Missing(_)) => self,
            (State::Missing(_), known @ State::Known(..)) => Self { state: known },
            (State::Missing(first), State::Missing(second)) => {
                Self::gap(first.as_ref().clone().join(&second))
            }
        }
    }
}
