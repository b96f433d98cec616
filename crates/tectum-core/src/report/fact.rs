//! The model's leaves: a value that knows where it is from, or a gap that knows why.

use std::{borrow::Cow, sync::Arc};

/// A value with its evidence, or a gap with its reason.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Fact<T> {
    state: State<T>,
}

#[derive(Debug, Clone, PartialEq, Eq)]
enum State<T> {
    Known(T, Vec<Evidence>),
    Missing(Box<Gap>),
}

/// Where a value came from.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Evidence {
    /// The file's path on the machine, or the system call (`uname(2)`).
    pub source: Arc<str>,
    /// Where in the source: `line 7`, or `handle 0x0011, offset 0x0C, 2 bytes`.
    pub place: Option<Cow<'static, str>>,
    /// How the value follows from what stands there.
    pub rule: Cow<'static, str>,
    /// What stands there, raw, at the most [`RAW_LIMIT`] bytes of it.
    pub raw: Option<Arc<str>>,
    /// Whether the value was taken from here, or what else this source says of it.
    pub stance: Stance,
}

/// What a source says of a value.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Stance {
    /// The value was taken from here.
    Gives,
    /// Another source, which says the same.
    Agrees,
    /// Another source, which says something else: this.
    Differs(String),
}

/// The most raw text that one piece of evidence keeps, in bytes.
pub const RAW_LIMIT: usize = 1024;

/// Why a value is missing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Why {
    /// Nothing on this machine gives it.
    NotProvided,
    /// The kernel gives it to root only.
    Permission,
    /// The source left it empty, or holds a filler text.
    Blank,
    /// What stands in the source cannot be the value.
    Invalid,
    /// The source did not answer in time.
    Timeout,
    /// Such a part has no such property.
    NotApplicable,
}

impl Why {
    /// All reasons.
    pub const ALL: [Self; 6] = [
        Self::NotProvided,
        Self::Permission,
        Self::Blank,
        Self::Invalid,
        Self::Timeout,
        Self::NotApplicable,
    ];

    /// The word used in reports.
    pub fn word(self) -> &'static str {
        match self {
            Self::NotProvided => "not-provided",
            Self::Permission => "permission",
            Self::Blank => "blank",
            Self::Invalid => "invalid",
            Self::Timeout => "timeout",
            Self::NotApplicable => "not-applicable",
        }
    }

    /// The reason that a word names.
    pub fn from_word(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|why| why.word() == word)
    }

    /// Whether a value may well exist that this survey could not see: comparing it with another
    /// survey's value would tell of the surveys, not of the machine.
    pub fn hides_a_value(self) -> bool {
        matches!(self, Self::Permission | Self::Timeout)
    }
}

/// A missing value: why, what was asked, what would help.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Gap {
    /// The reason.
    pub why: Why,
    /// The source that was asked last, or the one that would hold the value.
    pub source: Option<Arc<str>>,
    /// What would help, if anything.
    pub hint: Option<Cow<'static, str>>,
    /// What the source holds instead of a value.
    pub raw: Option<Arc<str>>,
    /// Each source that was asked, with its answer.
    pub tried: Vec<Attempt>,
}

/// One source that was asked for a value it did not give.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Attempt {
    /// The source.
    pub source: Arc<str>,
    /// Its answer in words.
    pub answer: Cow<'static, str>,
}

impl Gap {
    /// A gap with a reason alone.
    pub fn new(why: Why) -> Self {
        Self { why, source: None, hint: None, raw: None, tried: Vec::new() }
    }

    /// The same gap, with the source that was asked and what it answered.
    pub fn tried(mut self, source: Arc<str>, answer: impl Into<Cow<'static, str>>) -> Self {
        self.source = Some(Arc::clone(&source));
        self.tried.push(Attempt { source, answer: answer.into() });
        self
    }

    /// Two attempts at one value, both without it.
    fn join(mut self, second: Self) -> Self {
        // What hides a value says more than that a source has none.
        if second.why.hides_a_value() && !self.why.hides_a_value() {
            self.why = second.why;
            self.hint = second.hint.clone();
            self.source = second.source.clone();
        }
        self.hint = self.hint.or(second.hint);
        self.raw = self.raw.or(second.raw);
        self.tried.extend(second.tried);
        self
    }

    /// The same gap with what would help.
    pub fn hint(mut self, hint: impl Into<Cow<'static, str>>) -> Self {
        self.hint = Some(hint.into());
        self
    }

    /// The same gap with what stands in the source.
    pub fn raw(mut self, raw: &str) -> Self {
        self.raw = Some(clip(raw).into());
        self
    }
}

impl Evidence {
    /// A value read from `source` by `rule`.
    pub fn new(source: Arc<str>, rule: impl Into<Cow<'static, str>>) -> Self {
        Self { source, place: None, rule: rule.into(), raw: None, stance: Stance::Gives }
    }

    /// The same, with where in the source.
    pub fn place(mut self, place: impl Into<Cow<'static, str>>) -> Self {
        self.place = Some(place.into());
        self
    }

    /// The same, with what stands there.
    pub fn raw(mut self, raw: &str) -> Self {
        self.raw = Some(clip(raw).into());
        self
    }
}

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
        Self { state: State::Known(value, vec![evidence]) }
    }

    /// A value that follows from several places.
    pub fn known_from(value: T, evidence: Vec<Evidence>) -> Self {
        Self { state: State::Known(value, evidence) }
    }

    /// A missing value.
    pub fn gap(gap: Gap) -> Self {
        Self { state: State::Missing(Box::new(gap)) }
    }

    /// A property that such a part does not have.
    pub fn not_applicable(reason: impl Into<Cow<'static, str>>) -> Self {
        Self::gap(Gap::new(Why::NotApplicable).hint(reason))
    }

    /// The value, if it is known.
    pub fn value(&self) -> Option<&T> {
        match &self.state {
            State::Known(value, _) => Some(value),
            State::Missing(_) => None,
        }
    }

    /// The evidence; empty for a gap.
    pub fn evidence(&self) -> &[Evidence] {
        match &self.state {
            State::Known(_, evidence) => evidence,
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

    /// Whether the value is known.
    pub fn is_known(&self) -> bool {
        matches!(self.state, State::Known(..))
    }

    /// The same fact, with what stands in its source said in fewer words.
    pub(crate) fn with_raw(mut self, raw: impl FnOnce(&T) -> &'static str) -> Self {
        if let State::Known(value, evidence) = &mut self.state
            && let Some(first) = evidence.first_mut()
        {
            first.raw = Some(raw(value).into());
        }
        self
    }

    /// The same fact, whose value follows from its evidence by this rule.
    pub(crate) fn by_rule(mut self, rule: &'static str) -> Self {
        if let State::Known(_, evidence) = &mut self.state {
            for piece in evidence {
                piece.rule = rule.into();
            }
        }
        self
    }

    /// The same fact, whose value follows from another fact's evidence too.
    pub(crate) fn with_evidence_of<U>(mut self, other: &Fact<U>) -> Self {
        if let State::Known(_, evidence) = &mut self.state {
            evidence.extend_from_slice(other.evidence());
        }
        self
    }

    /// This fact, or, where its value is missing, another; a gap remembers both attempts.
    pub fn or_known(self, other: impl FnOnce() -> Self) -> Self {
        let State::Missing(first) = self.state else { return self };
        match other().state {
            known @ State::Known(..) => Self { state: known },
            State::Missing(second) => Self::gap(first.join(*second)),
        }
    }

    /// Replaces the evidence of a known value.
    pub(crate) fn set_evidence(&mut self, new: Vec<Evidence>) {
        if let State::Known(_, evidence) = &mut self.state {
            *evidence = new;
        }
    }

    /// The same fact with its value turned into another form; the evidence stays.
    pub fn map<U>(self, form: impl FnOnce(T) -> U) -> Fact<U> {
        let state = match self.state {
            State::Known(value, evidence) => State::Known(form(value), evidence),
            State::Missing(gap) => State::Missing(gap),
        };
        Fact { state }
    }

    /// The same fact with its value turned into another form, or a gap where it has none.
    pub fn and_then<U>(self, form: impl FnOnce(T) -> Result<U, Gap>) -> Fact<U> {
        let state = match self.state {
            State::Known(value, evidence) => match form(value) {
                Ok(value) => State::Known(value, evidence),
                Err(mut gap) => {
                    // The gap keeps what was read and where.
                    if let Some(first) = evidence.into_iter().next() {
                        gap.raw = gap.raw.or_else(|| first.raw.clone());
                        let answer = match &first.raw {
                            Some(raw) => format!("holds {raw:?}, which is no value").into(),
                            None => Cow::Borrowed("holds no usable value"),
                        };
                        gap = gap.tried(first.source, answer);
                    }
                    State::Missing(Box::new(gap))
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
            (State::Known(value, evidence), State::Known(second, more)) => {
                let same = *value == second;
                evidence.extend(more.into_iter().map(|piece| Evidence {
                    stance: match (&piece.stance, same) {
                        (Stance::Gives, true) => Stance::Agrees,
                        (Stance::Gives, false) => Stance::Differs(second.to_string()),
                        (kept, _) => kept.clone(),
                    },
                    ..piece
                }));
                self
            }
            (State::Known(..), State::Missing(_)) => self,
            (State::Missing(_), known @ State::Known(..)) => Self { state: known },
            (State::Missing(first), State::Missing(second)) => {
                Self::gap(first.as_ref().clone().join(*second))
            }
        }
    }
}
