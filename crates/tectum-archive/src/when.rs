//! Which of a machine's observations is meant: the last, the state before, a time, a mark.

use jiff::{SignedDuration, Timestamp, Zoned, civil, tz::TimeZone};

use crate::{store::Entry, written::Mark};

/// Which of a machine's observations is meant.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum When {
    /// The last.
    Latest,
    /// The last that saw another state than the last one.
    Previous,
    /// The last at this time or before it.
    At(Timestamp),
    /// The one that has this mark.
    Mark(String),
}

/// Why a text says no time.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error(
    "{given:?} is no time: write `latest`, `previous`, a date (2026-05-12), a date with a time (2026-05-12T14:30), how long ago (-7d, -36h), or a mark (lower-case letters, digits and hyphens)"
)]
pub struct NoTime {
    /// The text.
    pub given: String,
}

impl When {
    /// Reads what a user wrote; a date or time without a zone is local.
    ///
    /// # Errors
    /// [`NoTime`], if it is none of the forms.
    pub fn read(text: &str, now: &Zoned) -> Result<Self, NoTime> {
        let no = || NoTime { given: text.to_owned() };
        Ok(match text {
            "latest" => Self::Latest,
            "previous" => Self::Previous,
            _ => match time(text, now) {
                Some(at) => Self::At(at),
                None if is_mark(text) => Self::Mark(text.to_owned()),
                None => return Err(no()),
            },
        })
    }

    /// The observation that is meant, of those of one machine.
    pub fn choose<'a>(&self, entries: &'a [Entry], marks: &[Mark]) -> Option<&'a Entry> {
        let latest = entries.iter().max_by_key(|one| (one.at, one.number))?;
        let before = |test: &dyn Fn(&Entry) -> bool| {
            entries.iter().filter(|one| test(one)).max_by_key(|one| (one.at, one.number))
        };
        match self {
            Self::Latest => Some(latest),
            Self::Previous => before(&|one| {
                one.state != latest.state && (one.at, one.number) < (latest.at, latest.number)
            }),
            Self::At(at) => before(&|one| one.at <= *at),
            Self::Mark(name) => {
                let mark = marks.iter().find(|mark| mark.name == *name)?;
                entries.iter().find(|one| one.number == mark.observation)
            }
        }
    }
}

impl std::fmt::Display for When {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Latest => f.write_str("latest"),
            Self::Previous => f.write_str("previous"),
            Self::At(at) => at.fmt(f),
            Self::Mark(name) => f.write_str(name),
        }
    }
}

/// Whether a text can be a mark: a plain word that is no time.
pub fn is_mark(text: &str) -> bool {
    let plain = |c: u8| c.is_ascii_lowercase() || c.is_ascii_digit() || c == b'-';
    let begins = text.bytes().next().is_some_and(|first| first.is_ascii_lowercase());
    begins && text.len() <= 64 && text.bytes().all(plain) && !matches!(text, "latest" | "previous")
}

/// A time as people write it: a date (its end), a date with a time, or how long ago.
pub fn time(text: &str, now: &Zoned) -> Option<Timestamp> {
    if let Some(ago) = text.strip_prefix('-') {
        return now.timestamp().checked_sub(age(ago)?).ok();
    }
    let zone = now.time_zone().clone();
    if let Ok(date) = text.parse::<civil::Date>()
        && text.len() == 10
    {
        // A day's last look is meant.
        let end = date.tomorrow().ok()?.to_zoned(zone).ok()?.timestamp();
        return end.checked_sub(SignedDuration::from_nanos(1)).ok();
    }
    if let Ok(at) = text.parse::<Timestamp>() {
        return Some(at);
    }
    let local = text.parse::<civil::DateTime>().ok()?;
    Some(local.to_zoned(zone).ok()?.timestamp())
}

/// How long: a whole number and its unit, minutes to years.
pub fn age(text: &str) -> Option<SignedDuration> {
    let split = text.find(|c: char| !c.is_ascii_digit())?;
    let (number, unit) = text.split_at(split);
    let hours = match unit {
        "m" | "min" => {
            return Some(SignedDuration::from_mins(i64::from(number.parse::<u32>().ok()?)));
        }
        "h" => 1,
        "d" => 24,
        "w" => 7 * 24,
        "y" => 8_766,
        _ => return None,
    };
    Some(SignedDuration::from_hours(i64::from(number.parse::<u32>().ok()?).checked_mul(hours)?))
}

/// Now, as archives keep it: finer than a thousandth of a second means nothing, and not every store holds it.
pub fn moment() -> Timestamp {
    let now = Timestamp::now();
    Timestamp::from_millisecond(now.as_millisecond()).unwrap_or(now)
}

/// Now, where the user is.
pub fn now() -> Zoned {
    Timestamp::now().to_zoned(TimeZone::system())
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn noon() -> Zoned {
        "2026-11-26T12:00:00Z".parse::<Timestamp>().unwrap().to_zoned(TimeZone::UTC)
    }

    #[rstest]
    #[case("latest", When::Latest)]
    #[case("previous", When::Previous)]
    #[case("accepted", When::Mark("accepted".into()))]
    #[case("-7d", When::At("2026-11-19T12:00:00Z".parse().unwrap()))]
    #[case("-36h", When::At("2026-11-25T00:00:00Z".parse().unwrap()))]
    #[case("2026-05-12", When::At("2026-05-12T23:59:59.999999999Z".parse().unwrap()))]
    #[case("2026-05-12T14:30", When::At("2026-05-12T14:30:00Z".parse().unwrap()))]
    #[case("2026-05-12T14:30:00+02:00", When::At("2026-05-12T12:30:00Z".parse().unwrap()))]
    fn times_are_read_as_people_write_them(#[case] text: &str, #[case] expected: When) {
        assert_eq!(When::read(text, &noon()), Ok(expected));
    }

    #[rstest]
    #[case("")]
    #[case("-7")]
    #[case("-99999999999d")]
    #[case("Accepted")]
    #[case("../x")]
    #[case("2026-13-01")]
    fn what_is_no_time_is_told(#[case] text: &str) {
        assert!(When::read(text, &noon()).is_err());
    }
}
