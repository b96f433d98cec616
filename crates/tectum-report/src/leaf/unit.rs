//! Units: what a quantity's number counts, how the names of its fields end, and how people read it.

/// A unit.
#[derive(Debug, PartialEq, Eq)]
pub struct Unit {
    /// Its name in schemas and exports.
    pub name: &'static str,
    /// What the names of its fields end in.
    pub suffix: &'static str,
    /// How people read it.
    pub scale: Scale,
    /// The unit that systems of measurement start from, and how many of it one is, as a fraction.
    pub base: (&'static str, u64, u64),
}

/// How people read a quantity.
#[derive(Debug, PartialEq, Eq)]
pub enum Scale {
    /// As an amount of data, in the steps that the user chose.
    Data,
    /// With a symbol, after division by a number.
    Symbol(&'static str, u64),
    /// As a length of time.
    Time,
    /// In the unit of the kind of sensor that stands beside it.
    BySensorKind,
}

impl Unit {
    /// Whether a field's name ends as those of the unit's fields must.
    pub const fn fits(&self, name: &str) -> bool {
        ends_with(name.as_bytes(), self.suffix.as_bytes())
    }
}

/// Whether a name is the suffix without the stroke before it, or ends in it.
pub(crate) const fn ends_with(name: &[u8], suffix: &[u8]) -> bool {
    let bare = suffix.len().saturating_sub(1);
    if name.len() < bare {
        return false;
    }
    let wanted = if name.len() == bare { bare } else { suffix.len() };
    let mut back = 1;
    while back <= wanted {
        let (Some(own), Some(other)) = (from_end(name, back), from_end(suffix, back)) else {
            return false;
        };
        if own != other {
            return false;
        }
        back += 1;
    }
    true
}

const fn from_end(text: &[u8], back: usize) -> Option<u8> {
    if back > text.len() {
        return None;
    }
    match text.split_at(text.len() - back).1 {
        [byte, ..] => Some(*byte),
        [] => None,
    }
}

/// A number of small units as one of large units, with two digits behind the point at the most.
pub fn in_large_units(value: i128, of: u64) -> String {
    let hundredths = value * 100 / i128::from(of.max(1));
    let sign = if hundredths < 0 { "-" } else { "" };
    let (whole, part) = (hundredths.abs() / 100, hundredths.abs() % 100);
    let text = format!("{sign}{whole}.{part:02}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("size_bytes", "_bytes", true)]
    #[case("bytes", "_bytes", true)]
    #[case("megabytes", "_bytes", false)]
    #[case("date", "_date", true)]
    #[case("update", "_date", false)]
    #[case("e", "_date", false)]
    fn suffixes(#[case] name: &str, #[case] suffix: &str, #[case] fits: bool) {
        assert_eq!(ends_with(name.as_bytes(), suffix.as_bytes()), fits);
    }

    #[rstest]
    #[case(38_850, 1000, "38.85")]
    #[case(-500, 1000, "-0.5")]
    #[case(9000, 100, "90")]
    #[case(7, 0, "7")]
    fn large_units(#[case] value: i128, #[case] of: u64, #[case] text: &str) {
        assert_eq!(in_large_units(value, of), text);
    }
}
