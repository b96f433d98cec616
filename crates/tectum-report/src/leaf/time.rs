//! Points in time.

use jiff::{Timestamp, civil};
use serde_json::Value;

use super::{JsonForm, Leaf, LeafShape, Scale, Unit, Whose};

/// A point in time, to the second, RFC 3339 in UTC.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Moment(pub Timestamp);

static MOMENT: Unit =
    Unit { name: "time (RFC 3339)", suffix: "_at", scale: Scale::Symbol("", 1), base: ("", 1, 1) };

impl Leaf for Moment {
    const SHAPE: LeafShape = LeafShape {
        form: JsonForm::Formatted("date-time"),
        whose: Whose::Nobodys,
        unit: Some(&MOMENT),
    };

    fn to_json(&self) -> Value {
        Value::from(self.0.to_string())
    }

    fn from_json(json: &Value) -> Option<Self> {
        json.as_str()?.parse().ok().map(Self)
    }
}

impl std::fmt::Display for Moment {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        self.0.fmt(f)
    }
}

/// A date as far as it is known, as ISO 8601 writes it: a year, a year and a month, a year and a
/// week, or a day.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Date {
    /// `2019`
    Year(i16),
    /// `2019-04`
    Month(i16, i8),
    /// `2019-W12`
    Week(i16, i8),
    /// `2019-04-30`
    Day(civil::Date),
}

static DATE: Unit = Unit {
    name: "date (ISO 8601)",
    suffix: "_date",
    scale: Scale::Symbol("", 1),
    base: ("", 1, 1),
};

impl std::str::FromStr for Date {
    type Err = ();

    fn from_str(text: &str) -> Result<Self, ()> {
        let number = |text: &str| match text.bytes().all(|byte| byte.is_ascii_digit()) {
            true => text.parse::<i16>().map_err(|_| ()),
            false => Err(()),
        };
        let small = |text: &str, most: i8| match number(text)
            .and_then(|n| i8::try_from(n).map_err(|_| ()))
        {
            Ok(found) if text.len() == 2 && (1..=most).contains(&found) => Ok(found),
            _ => Err(()),
        };
        let Some((year, rest)) = text.split_once('-') else {
            return if text.len() == 4 { Ok(Self::Year(number(text)?)) } else { Err(()) };
        };
        if year.len() != 4 {
            return Err(());
        }
        if let Some(week) = rest.strip_prefix('W') {
            return Ok(Self::Week(number(year)?, small(week, 53)?));
        }
        if !rest.contains('-') {
            return Ok(Self::Month(number(year)?, small(rest, 12)?));
        }
        text.parse().map(Self::Day).map_err(|_| ())
    }
}

impl std::fmt::Display for Date {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Year(year) => write!(f, "{year:04}"),
            Self::Month(year, month) => write!(f, "{year:04}-{month:02}"),
            Self::Week(year, week) => write!(f, "{year:04}-W{week:02}"),
            Self::Day(date) => write!(f, "{date}"),
        }
    }
}

impl Leaf for Date {
    const SHAPE: LeafShape = LeafShape {
        form: JsonForm::Pattern("^[0-9]{4}(-W[0-9]{2}|-[0-9]{2}(-[0-9]{2})?)?$"),
        whose: Whose::Nobodys,
        unit: Some(&DATE),
    };

    fn to_json(&self) -> Value {
        Value::from(self.to_string())
    }

    fn from_json(json: &Value) -> Option<Self> {
        json.as_str()?.parse().ok()
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("2019", true)]
    #[case("2019-04", true)]
    #[case("2019-W53", true)]
    #[case("2024-02-29", true)]
    #[case("2023-02-29", false)]
    #[case("2019-13", false)]
    #[case("2019-W54", false)]
    #[case("19", false)]
    #[case("2019-4", false)]
    #[case("+2019", false)]
    #[case("", false)]
    fn dates_as_far_as_they_are_known(#[case] text: &str, #[case] good: bool) {
        let read = text.parse::<Date>();
        assert_eq!(read.is_ok(), good, "{text}");
        if let Ok(date) = read {
            assert_eq!(date.to_string(), text);
        }
    }
}
