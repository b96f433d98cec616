//! Pressure stall information (`Documentation/accounting/psi.rst`).

use super::{Line, lines};

/// One line: `some avg10=0.00 avg60=0.12 avg300=0.05 total=1234`.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Stall<'a> {
    /// `some` or `full`.
    pub whose: &'a str,
    /// Averages over 10, 60 and 300 seconds, in hundredths of a percent.
    pub averages: [u64; 3],
    /// Since boot, in microseconds.
    pub total_us: u64,
    /// The line.
    pub line: Line<'a>,
}

/// The lines of a file; those of another form are passed over.
pub fn parse(text: &str) -> Vec<Stall<'_>> {
    lines(text)
        .filter_map(|line| {
            let mut words = line.raw.split_whitespace();
            let whose = words.next()?;
            let mut value = |key: &str| words.next()?.strip_prefix(key)?.strip_prefix('=');
            let averages = [value("avg10")?, value("avg60")?, value("avg300")?].map(hundredths);
            let total_us = value("total")?.parse().ok()?;
            let [ten, sixty, long] = averages;
            Some(Stall { whose, averages: [ten?, sixty?, long?], total_us, line })
        })
        .collect()
}

/// A decimal number with up to two places, in hundredths.
pub fn hundredths(text: &str) -> Option<u64> {
    let (whole, fraction) = text.split_once('.').unwrap_or((text, ""));
    if fraction.len() > 2 || !fraction.bytes().all(|byte| byte.is_ascii_digit()) {
        return None;
    }
    let whole: u64 = whole.parse().ok()?;
    let part: u64 = format!("{fraction:0<2}").parse().ok()?;
    whole.checked_mul(100)?.checked_add(part)
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    #[test]
    fn two_lines() {
        let text = "some avg10=0.00 avg60=1.05 avg300=12.5 total=99\nnoise\nfull avg10=0 avg60=0.1 avg300=0.00 total=7\n";
        let found = parse(text);
        assert_eq!(found.len(), 2);
        assert_eq!((found[0].averages, found[0].total_us), ([0, 105, 1250], 99));
        assert_eq!((found[1].whose, found[1].averages[1]), ("full", 10));
    }

    #[rstest]
    #[case("1.40", Some(140))]
    #[case("0.4", Some(40))]
    #[case("7", Some(700))]
    #[case("1.234", None)]
    #[case("-1.00", None)]
    #[case("184467440737095516.15", Some(u64::MAX))]
    #[case("184467440737095516.16", None)]
    fn hundredths_are_exact(#[case] text: &str, #[case] value: Option<u64>) {
        assert_eq!(hundredths(text), value);
    }

    proptest! {
        #[test]
        fn no_text_makes_it_panic(text in "(some|full| |avg10=|total=|[0-9.é]{0,3}|\\n){0,20}") {
            let _ = parse(&text);
            let _ = hundredths(&text);
        }
    }
}
