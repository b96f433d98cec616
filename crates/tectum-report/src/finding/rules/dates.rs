//! How long ago a date was. A date that is known to a month or a week is taken at its end, so that nothing
//! is called older than it is.

use jiff::{Timestamp, ToSpan, civil, tz::TimeZone};

use crate::leaf::Date;

/// The last day that a date may mean.
fn last_day(date: Date) -> Option<civil::Date> {
    match date {
        Date::Year(year) => civil::Date::new(year, 12, 31).ok(),
        Date::Month(year, month) => Some(civil::Date::new(year, month, 1).ok()?.last_of_month()),
        Date::Week(year, week) => {
            Some(civil::ISOWeekDate::new(year, week, civil::Weekday::Sunday).ok()?.date())
        }
        Date::Day(day) => Some(day),
    }
}

fn day_of(time: Timestamp) -> civil::Date {
    time.to_zoned(TimeZone::UTC).date()
}

/// How many whole years lie between a date and a time behind it.
pub(super) fn age_in_years(date: Date, at: Timestamp) -> Option<u64> {
    let (then, now) = (last_day(date)?, day_of(at));
    let span = then.until((jiff::Unit::Year, now)).ok()?;
    u64::try_from(span.get_years()).ok()
}

/// Whether a date lies wholly before a time.
pub(crate) fn is_past(date: Date, at: Timestamp) -> bool {
    last_day(date)
        .and_then(|day| day.checked_add(1.day()).ok())
        .is_some_and(|next| next <= day_of(at))
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("2020-06-15", Some(6))]
    #[case("2021-06-15", Some(5))]
    #[case("2021-06-16", Some(4))]
    #[case("2021-06", Some(4))]
    #[case("2020", Some(5))]
    #[case("2021", Some(4))]
    #[case("2030-01-01", None)]
    fn ages_are_never_told_too_great(#[case] date: &str, #[case] years: Option<u64>) {
        let at = "2026-06-15T12:00:00Z".parse().unwrap();
        assert_eq!(age_in_years(date.parse().unwrap(), at), years);
    }

    #[rstest]
    #[case("2026-06-14", true)]
    #[case("2026-06-15", false)]
    #[case("2026-05", true)]
    #[case("2026-06", false)]
    fn a_day_is_past_when_it_is_over(#[case] date: &str, #[case] past: bool) {
        let at = "2026-06-15T12:00:00Z".parse().unwrap();
        assert_eq!(is_past(date.parse().unwrap(), at), past);
    }
}
