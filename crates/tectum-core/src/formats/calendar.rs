//! Dates as firmware writes them.

/// A firmware date `mm/dd/yyyy` or `mm/dd/yy` (DSP0134 clause 7.1, where two digits mean 19yy) as
/// `yyyy-mm-dd`; `None` where it is no such date.
pub fn firmware_date(text: &str) -> Option<String> {
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
    jiff::civil::Date::new(year, month, day).ok().map(|date| date.to_string())
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
        assert_eq!(firmware_date(text).as_deref(), date);
    }
}
