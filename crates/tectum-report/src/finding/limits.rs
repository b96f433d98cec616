//! What an owner may set: which rules are off, and the limits that some of them judge by.

use std::collections::BTreeSet;

use super::rule::{Rule, rule, rules};
use crate::query::nearest_name;

/// A limit that can be set.
#[derive(Debug)]
pub struct Limit {
    /// Its name.
    pub name: &'static str,
    /// What it means.
    pub meaning: &'static str,
    /// The unit in which it counts.
    pub unit: &'static str,
    /// The smallest and the largest that it can be.
    pub between: (u64, u64),
    /// What it is where nobody sets it.
    pub usual: u64,
    get: fn(&Limits) -> u64,
    set: fn(&mut Limits, u64),
}

impl Limit {
    /// What some limits have it at.
    pub fn of(&self, limits: &Limits) -> u64 {
        (self.get)(limits)
    }
}

/// Why something cannot be set.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum LimitError {
    /// There is no such limit.
    #[error("there is no limit {name:?}{}", near(.nearest))]
    NoSuchLimit {
        /// The name given.
        name: String,
        /// The nearest that there is.
        nearest: Option<&'static str>,
    },
    /// There is no such rule.
    #[error("there is no rule {id:?}{}", near(.nearest))]
    NoSuchRule {
        /// The name given.
        id: String,
        /// The nearest that there is.
        nearest: Option<&'static str>,
    },
    /// It cannot be so small or so large.
    #[error("{} is between {} and {} {unit}, not {given}", as_set(name), between.0, between.1)]
    Outside {
        /// The limit.
        name: &'static str,
        /// What was given.
        given: u64,
        /// What it can be.
        between: (u64, u64),
        /// Its unit.
        unit: &'static str,
    },
}

/// The name of a limit as it stands in settings, behind that of their table.
pub(crate) fn as_set(name: &str) -> String {
    name.replace('_', "-")
}

fn near(nearest: &Option<&'static str>) -> String {
    nearest.map(|name| format!("; did you mean {name}?")).unwrap_or_default()
}

macro_rules! limits {
    ($(
        $(#[doc = $doc:literal])+
        $name:ident: $usual:literal $unit:literal ($least:literal to $most:literal);
    )+) => {
        /// What rules judge by.
        #[derive(Debug, Clone, PartialEq, Eq)]
        pub struct Limits {
            $($(#[doc = $doc])+ pub $name: u64,)+
            /// The time zone that every machine should have.
            pub time_zone: Option<String>,
            off: BTreeSet<&'static str>,
        }

        impl Default for Limits {
            fn default() -> Self {
                Self { $($name: $usual,)+ time_zone: None, off: BTreeSet::new() }
            }
        }

        /// Every limit that can be set.
        pub static LIMITS: &[Limit] = &[$(Limit {
            name: stringify!($name),
            meaning: concat!($($doc,)+),
            unit: $unit,
            between: ($least, $most),
            usual: $usual,
            get: |limits| limits.$name,
            set: |limits, value| limits.$name = value,
        },)+];
    };
}

limits! {
    /// How full a filesystem may be.
    filesystem_full_percent: 90 "percent" (1 to 100);
    /// How many of a filesystem's inodes may be in use.
    inodes_full_percent: 90 "percent" (1 to 100);
    /// The age at which firmware is called old.
    firmware_age_years: 5 "years" (1 to 50);
    /// How warm a disk may be.
    disk_warm_celsius: 60 "degrees Celsius" (20 to 120);
    /// The least that a battery must still hold of what it was made to hold.
    battery_health_percent: 80 "percent" (1 to 100);
    /// The least space outside of all partitions that is told, of a disk's size.
    unpartitioned_percent: 5 "percent" (0 to 100);
    /// The fewest errors in a million packets of a network port that are told.
    network_errors_per_million: 1 "errors" (0 to 1_000_000);
    /// The least corrected errors of a memory module that are told.
    corrected_errors: 1 "errors" (1 to 1_000_000_000);
    /// The fewest requests of a disk that ended with an error that are told: every disk has a few.
    disk_errors: 100 "errors" (1 to 1_000_000_000);
}

impl Limits {
    /// Sets a limit by its name.
    ///
    /// # Errors
    /// [`LimitError`] where there is no such limit, or it cannot be so.
    pub fn set(&mut self, name: &str, value: u64) -> Result<(), LimitError> {
        let limit = LIMITS.iter().find(|limit| limit.name == name).ok_or_else(|| {
            LimitError::NoSuchLimit {
                name: name.to_owned(),
                nearest: nearest_name(name, LIMITS.iter().map(|limit| limit.name)),
            }
        })?;
        let (least, most) = limit.between;
        if !(least..=most).contains(&value) {
            return Err(LimitError::Outside {
                name: limit.name,
                given: value,
                between: limit.between,
                unit: limit.unit,
            });
        }
        (limit.set)(self, value);
        Ok(())
    }

    /// Turns a rule off.
    ///
    /// # Errors
    /// [`LimitError`] where there is no such rule.
    pub fn turn_off(&mut self, id: &str) -> Result<(), LimitError> {
        let found = rule(id).ok_or_else(|| LimitError::NoSuchRule {
            id: id.to_owned(),
            nearest: nearest_name(id, rules().iter().map(|rule| rule.id)),
        })?;
        self.off.insert(found.id);
        Ok(())
    }

    /// Whether a rule is turned off.
    pub fn is_off(&self, rule: &Rule) -> bool {
        self.off.contains(rule.id)
    }

    /// The rules that are turned off.
    pub fn off(&self) -> impl Iterator<Item = &'static str> + '_ {
        self.off.iter().copied()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_cannot_be_set_is_told_with_the_nearest() {
        let mut limits = Limits::default();
        let wrong = limits.set("filesystem_full_percnt", 80).unwrap_err().to_string();
        assert!(wrong.contains("did you mean filesystem_full_percent?"), "{wrong}");
        let outside = limits.set("filesystem_full_percent", 101).unwrap_err().to_string();
        assert_eq!(outside, "filesystem-full-percent is between 1 and 100 percent, not 101");
        let off = limits.turn_off("filesystem-nearly-ful").unwrap_err().to_string();
        assert!(off.contains("did you mean filesystem-nearly-full?"), "{off}");
        assert_eq!(limits, Limits::default());
    }

    #[test]
    fn each_limit_sets_its_own_field() {
        for limit in LIMITS {
            let mut limits = Limits::default();
            assert_eq!(limit.of(&limits), limit.usual, "{}", limit.name);
            limits.set(limit.name, limit.between.1).unwrap();
            assert_eq!(limit.of(&limits), limit.between.1, "{}", limit.name);
            let others = LIMITS.iter().filter(|other| other.name != limit.name);
            assert!(others.clone().all(|other| other.of(&limits) == other.usual));
        }
    }
}
