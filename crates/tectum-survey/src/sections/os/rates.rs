//! Rates, from two looks at the kernel's counters.

use std::time::Duration;

use super::running::counter;
use crate::formats::number;
use tectum_report::{
    fact::{Evidence, Fact, Gap, Why, saying},
    leaf::{Milliseconds, PercentHundredths},
    model::OsRates,
};

const STAT: &str = "/proc/stat";

/// The rates between two texts of `/proc/stat`, taken so far apart.
pub(crate) fn between(before: &str, after: &str, apart: Duration) -> OsRates {
    let milliseconds = u64::try_from(apart.as_millis()).unwrap_or(u64::MAX).max(1);
    let evidence = |place: &'static str, raw: String| {
        let rule = saying!(
            "difference-between-two-looks-over",
            "the difference between two looks, over the time between them",
        );
        Evidence::new(STAT.into(), rule).place(place).raw(&raw)
    };
    let nothing = |key: &str| {
        Gap::new(Why::Invalid).tried(
            STAT.into(),
            saying!("gives-no-rising-two-looks", "gives no rising {} in two looks")
                .with(key.to_string()),
        )
    };
    let rate = |key: &'static str| {
        let count = |text: &str| number::decimal(counter(text, key)?.1);
        let (Some(first), Some(second)) = (count(before), count(after)) else {
            return Fact::gap(nothing(key));
        };
        match second.checked_sub(first).and_then(|rise| rise.checked_mul(1000)) {
            Some(rise) => {
                Fact::known(rise / milliseconds, evidence(key, format!("{first} → {second}")))
            }
            None => Fact::gap(nothing(key)),
        }
    };
    OsRates {
        over_ms: Fact::known(
            Milliseconds(milliseconds),
            evidence("time between the looks", milliseconds.to_string()),
        ),
        cpu_busy_percent_hundredths: match (cpu_times(before), cpu_times(after)) {
            (Some(first), Some(second)) => match busy(first, second) {
                Some(share) => {
                    let raw =
                        format!("idle {} → {}, all {} → {}", first.0, second.0, first.1, second.1);
                    Fact::known(PercentHundredths(share), evidence("cpu", raw))
                }
                None => Fact::gap(nothing("cpu")),
            },
            _ => Fact::gap(nothing("cpu")),
        },
        forks_per_second: rate("processes"),
        context_switches_per_second: rate("ctxt"),
        interrupts_per_second: rate("intr"),
    }
}

/// Ticks in which all CPUs were idle or waited for a disk, and all ticks.
fn cpu_times(text: &str) -> Option<(u64, u64)> {
    let line = text.lines().find(|line| line.starts_with("cpu "))?;
    let ticks: Vec<u64> =
        line.split_whitespace().skip(1).map(number::decimal).collect::<Option<_>>()?;
    // The time of guests stands within user and nice already: the first eight are all there is.
    let all = ticks.iter().take(8).try_fold(0u64, |sum, ticks| sum.checked_add(*ticks))?;
    Some((ticks.get(3)?.checked_add(*ticks.get(4)?)?, all))
}

/// The share of time that was not idle, in hundredths of a percent.
fn busy(first: (u64, u64), second: (u64, u64)) -> Option<u64> {
    let idle = second.0.checked_sub(first.0)?;
    let all = second.1.checked_sub(first.1).filter(|all| *all > 0)?;
    let busy = all.checked_sub(idle)?;
    busy.checked_mul(10_000)?.checked_div(all)
}

#[cfg(test)]
mod tests {
    use super::*;

    const BEFORE: &str =
        "cpu  100 0 100 700 100 0 0 0 50 0\nintr 1000 9 9\nctxt 5000\nprocesses 10\n";

    #[test]
    fn rates_are_differences_over_time() {
        let after = "cpu  150 0 150 780 120 0 0 0 90 0\nintr 4000 1\nctxt 9000\nprocesses 12\n";
        let rates = between(BEFORE, after, Duration::from_secs(2));
        assert_eq!(rates.interrupts_per_second.value(), Some(&1500));
        assert_eq!(rates.context_switches_per_second.value(), Some(&2000));
        assert_eq!(rates.forks_per_second.value(), Some(&1));
        assert_eq!(
            rates.cpu_busy_percent_hundredths.value(),
            Some(&PercentHundredths(5000)),
            "100 of 200 ticks"
        );
    }

    #[test]
    fn counters_that_fall_or_are_absurd_give_gaps() {
        for after in ["", "ctxt 1\nintr -1\ncpu x\n", "ctxt 18446744073709551615\ncpu  0 0 0 0 0\n"]
        {
            let rates = between(BEFORE, after, Duration::ZERO);
            assert!(!rates.context_switches_per_second.is_known());
            assert!(!rates.cpu_busy_percent_hundredths.is_known());
        }
    }
}
