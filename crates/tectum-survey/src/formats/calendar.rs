//! Dates as firmware writes them.

use tectum_report::leaf::Date;

/// A firmware date `mm/dd/yyyy` or `mm/dd/yy` (DSP0134 clause 7.1, where two digits mean 19yy) as
/// a day; `None` where it is no such date.
pub fn firmware_date(text: &str) -> Option<jiff::civil::Date> {
    let mut parts = text.trim().split('/');
    let (month, day, year) = (parts.next()?, parts.next()?, parts.next()?);
    if parts.next().is_some() {
        return None;
    }
    let number = |part: &str| {
        part.bytes().all(|byte| byte.is_ascii_digit()).then(|| part.parse::<i16>().ok())?
    };
    let year = match year.len() {
        2 => 1900 + number(year)?,
        4 => number(year)?,
        _ => return None,
    };
    let month = i8::try_from(number(month)?).ok()?;
    let day = i8::try_from(number(day)?).ok()?;
    jiff::civil::Date::new(year, month, day).ok()
}

/// A date in a form that the standard leaves open: ISO 8601, with or without a time behind it, or as
/// firmware's own date is written (DSP0134 clauses 7.23 and 7.46).
pub fn date(text: &str) -> Option<Date> {
    let text = text.trim();
    let day = text.split_once('T').map_or(text, |(day, _)| day);
    day.parse().ok().or_else(|| firmware_date(text).map(Date::Day))
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("03/17/2025", Some("2025-03-17"))]
    #[case("12/01/99", Some("1999-12-01"))]
    #[case("02/30/2024", None)]
    #[case("17.03.2025", None)]
    #[case("03/17/2025/1", None)]
    #[case("", None)]
    fn firmware_dates_become_iso_dates(#[case] text: &str, #[case] date: Option<&str>) {
        assert_eq!(firmware_date(text).map(|date| date.to_string()).as_deref(), date);
    }
}
