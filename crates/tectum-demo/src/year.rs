//! A made-up year: what each machine was, from when until when, and the looks at it.

use std::{collections::BTreeMap, str::FromStr};

use jiff::{ToSpan, civil::Date, tz::TimeZone};
use serde::Deserialize;

use crate::{Machine, Module, Shipped, described};

const YEAR: &str = include_str!("../../../demo/year.toml");

/// A look at a machine.
#[derive(Debug, Clone)]
pub struct Look {
    /// When, in seconds since 1970.
    pub at: i64,
    /// The machine as it was then.
    pub machine: Machine,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Year {
    /// The day of each month on which every machine is looked at.
    day_of_month: i8,
    span: Vec<Span>,
}

/// What a machine was for a time.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Span {
    /// The shipped machine that it was much like.
    base: String,
    /// Of a machine that is told as another, the one whose words are put for the other's.
    #[serde(default)]
    like: Option<String>,
    /// The day from which on it was so.
    from: String,
    /// The day on which it was not so any more, where no later span says it.
    #[serde(default)]
    until: Option<String>,
    /// The day on which it was started, where that is not the first of the span.
    #[serde(default)]
    booted: Option<String>,
    /// Words that were other ones.
    #[serde(default)]
    replace: Vec<(String, String)>,
    /// PCI functions and disks that it had not, by address and name.
    #[serde(default)]
    without: Vec<String>,
    /// Memory slots that were empty.
    #[serde(default)]
    empty: Vec<String>,
    /// Modules that were in memory slots.
    #[serde(default)]
    modules: BTreeMap<String, Module>,
    /// How full filesystems were in percent, by mount point: at the beginning and at the end.
    #[serde(default)]
    fills: BTreeMap<String, (u64, u64)>,
}

/// Why the year cannot be told, which a test rules out.
#[derive(Debug, thiserror::Error)]
pub enum YearError {
    /// It is not described as it should be.
    #[error(transparent)]
    Description(#[from] toml::de::Error),
    /// A machine that is changed cannot be written again.
    #[error(transparent)]
    Written(#[from] toml::ser::Error),
    /// A day is none.
    #[error(transparent)]
    Day(#[from] jiff::Error),
}

/// The looks of the year, machine by machine, each in order of time. All days are so long before or after those of the
/// description that the last one is the given one.
///
/// # Errors
/// When the year that ships is not described as it should be, which a test rules out.
pub fn looks(last: Date) -> Result<Vec<Look>, YearError> {
    let year: Year = toml::from_str(YEAR)?;
    let later = seconds(last, 0)? - seconds(year.last()?, 0)?;
    let mut looks = Vec::new();
    let machines: Vec<Machine> = year.span.iter().map(Span::machine).collect::<Result<_, _>>()?;
    for (at, (span, machine)) in year.span.iter().zip(&machines).enumerate() {
        let from = Date::from_str(&span.from)?;
        let next = year.span.get(at + 1).zip(machines.get(at + 1));
        let next = next.filter(|(_, other)| other.hostname == machine.hostname);
        let next = next.map(|(next, _)| &next.from);
        let (until, last) = match span.until.as_ref().or(next) {
            Some(until) => (Date::from_str(until)?, None),
            // It is so still: the last day of all is the last at which it is looked at.
            None => (year.last()?.checked_add(1.day())?, Some(year.last()?)),
        };
        let booted = seconds(span.booted.as_deref().map_or(Ok(from), Date::from_str)?, 6)?;
        let (begins, ends) = (seconds(from, 0)?, seconds(until, 0)?);
        let days = days(from, until, year.day_of_month)?;
        let last = last.filter(|last| *last > from).map(|last| (last, 2));
        for (day, hour) in days.into_iter().chain(last) {
            let at = seconds(day, hour)?;
            let mut machine = machine.clone();
            machine.boot_time = u64::try_from(booted + later).unwrap_or(0);
            machine.uptime = u64::try_from(at - booted).unwrap_or(0);
            let part = |of: i64| u64::try_from(of).unwrap_or(0);
            let (passed, all) = (part(at - begins), part(ends - begins).max(1));
            let so_far = |from: u64, to: u64| from + (to - from) * passed / all;
            for (point, (from, to)) in &span.fills {
                set_used(&mut machine, point, so_far(*from, *to));
            }
            season(&mut machine, day);
            looks.push(Look { at: at + later, machine });
        }
    }
    Ok(looks)
}

impl Year {
    fn last(&self) -> Result<Date, jiff::Error> {
        let days = self.span.iter().map(|span| Date::from_str(&span.from));
        days.reduce(|one, other| Ok(one?.max(other?))).unwrap_or(Ok(Date::MIN))
    }
}

/// The days on which a machine is looked at, with the hour: when something is new about it, and in the night of a day
/// of each month.
fn days(from: Date, until: Date, day_of_month: i8) -> Result<Vec<(Date, i8)>, jiff::Error> {
    let mut days = vec![(from, 10)];
    let mut month = Date::new(from.year(), from.month(), day_of_month)?;
    while month < until {
        if month > from {
            days.push((month, 2));
        }
        month = month.checked_add(1.month())?;
    }
    Ok(days)
}

fn seconds(day: Date, hour: i8) -> Result<i64, jiff::Error> {
    Ok(day.at(hour, 40, 0, 0).to_zoned(TimeZone::UTC)?.timestamp().as_second())
}

impl Span {
    fn machine(&self) -> Result<Machine, YearError> {
        let shipped = |name: &str| Shipped::named(name).map_or("", |shipped| shipped.description);
        let mut text = toml::to_string(&described(shipped(&self.base))?)?;
        let mut words = self.replace.clone();
        if let Some(like) = &self.like {
            let other: toml::Table = toml::from_str(shipped(like))?;
            if let Some(replace) = other.get("replace") {
                let likeness: Vec<(String, String)> = replace.clone().try_into()?;
                words.splice(0..0, likeness);
            }
        }
        for (before, after) in &words {
            text = text.replace(before, after);
        }
        let mut machine: Machine = toml::from_str(&text)?;
        let gone = |name: &str| self.without.iter().any(|own| own == name);
        machine.functions.retain(|function| !gone(&function.address));
        machine.disks.retain(|disk| !gone(&disk.name));
        for slot in &mut machine.slots {
            if self.empty.contains(&slot.locator) {
                slot.module = None;
            }
            if let Some(module) = self.modules.get(&slot.locator) {
                slot.module = Some(module.clone());
            }
        }
        Ok(machine)
    }
}

fn set_used(machine: &mut Machine, point: &str, percent: u64) {
    let partitions = machine.disks.iter_mut().flat_map(|disk| &mut disk.partitions);
    for partition in partitions.filter(|partition| partition.mount == point) {
        partition.used = percent;
    }
    let contents = machine.volumes.iter_mut().filter_map(|volume| volume.content.as_mut());
    for content in contents.filter(|content| content.mount == point) {
        content.used = percent;
    }
}

/// It is warmer in summer.
fn season(machine: &mut Machine, day: Date) {
    const MILLIDEGREES: [i64; 12] =
        [-3000, -3000, -2000, -1000, 500, 2000, 3500, 3000, 1500, 0, -1500, -2500];
    let month = usize::try_from(day.month()).unwrap_or(1).saturating_sub(1);
    let warmer = MILLIDEGREES.get(month).copied().unwrap_or(0);
    for chip in &mut machine.chips {
        for (channel, _, value, _) in &mut chip.channels {
            if channel.starts_with("temp") {
                *value += warmer;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::MACHINES;

    #[test]
    fn the_year_is_in_order_and_ends_with_the_machines_as_they_ship() {
        let last = jiff::civil::date(2031, 3, 9);
        let looks = looks(last).unwrap();
        let day = seconds(last, 0).unwrap()..=seconds(last, 23).unwrap();
        assert!(looks.iter().all(|look| look.at <= *day.end()));
        assert!(looks.iter().any(|look| day.contains(&look.at)));
        let order = |pair: &[Look]| {
            let [one, other] = pair else { return true };
            one.machine.hostname != other.machine.hostname || one.at < other.at
        };
        assert!(looks.windows(2).all(order));
        for shipped in MACHINES.iter().filter(|shipped| shipped.name != "gannet-before") {
            let machine = shipped.machine().unwrap();
            let last = looks.iter().rfind(|look| look.machine.hostname == machine.hostname);
            let last = &last.unwrap().machine;
            let parts = |machine: &Machine| {
                let slots: Vec<String> = machine
                    .slots
                    .iter()
                    .map(|slot| slot.module.as_ref().map_or(String::new(), |it| it.serial.clone()))
                    .collect();
                let disks: Vec<String> =
                    machine.disks.iter().map(|disk| disk.serial.clone()).collect();
                (machine.kernel_release.clone(), machine.bios.version.clone(), slots, disks)
            };
            assert_eq!(parts(last), parts(&machine), "{}", shipped.name);
        }
    }

    /// A word that is to be another one, and stands nowhere, changes nothing without a word.
    #[test]
    fn every_word_that_is_replaced_stands_somewhere() {
        let year: Year = toml::from_str(YEAR).unwrap();
        for span in &year.span {
            let base = Shipped::named(&span.base).unwrap().description;
            let text = toml::to_string(&described(base).unwrap()).unwrap();
            for (before, _) in span.replace.iter().filter(|_| span.like.is_none()) {
                assert!(text.contains(before), "{before:?} in {} from {}", span.base, span.from);
            }
            for name in &span.without {
                assert!(text.contains(&format!("\"{name}\"")), "{name} in {}", span.base);
            }
        }
    }
}
