//! Which observations are kept when an archive is cleared up.

use std::collections::BTreeSet;

use jiff::tz::TimeZone;

use crate::{store::Entry, written::Mark};

/// Which observations are kept. Each rule keeps what it keeps, whatever the others say; an observation that
/// no rule keeps goes.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Keep {
    /// Of each of the last so many days on which the machine was looked at, the last observation.
    pub daily: u64,
    /// Of each of the last so many weeks.
    pub weekly: u64,
    /// Of each of the last so many months.
    pub monthly: u64,
    /// Of every state, the first and the last observation: nothing that changed is lost.
    pub states: bool,
}

/// In which day, week or month a look was.
type Period<'a> = &'a dyn Fn(&Entry) -> String;

impl Keep {
    /// The numbers of the observations that no rule keeps. The last, the last that was saved, and those that
    /// have a mark are always kept.
    pub fn going(&self, entries: &[Entry], marks: &[Mark]) -> BTreeSet<u64> {
        let mut by_time: Vec<&Entry> = entries.iter().collect();
        by_time.sort_by_key(|one| (one.at, one.number));
        let mut kept: BTreeSet<u64> = marks.iter().map(|mark| mark.observation).collect();
        kept.extend(by_time.last().map(|one| one.number));
        kept.extend(entries.iter().map(|one| one.number).max());
        let date = |one: &Entry| one.at.to_zoned(TimeZone::UTC).date();
        let day = |one: &Entry| date(one).to_string();
        let week = |one: &Entry| {
            let week = date(one).iso_week_date();
            format!("{}-{}", week.year(), week.week())
        };
        let month = |one: &Entry| format!("{}-{}", date(one).year(), date(one).month());
        let periods: [(u64, Period<'_>); 3] =
            [(self.daily, &day), (self.weekly, &week), (self.monthly, &month)];
        for (most, period) in periods {
            let mut seen = BTreeSet::new();
            for one in by_time.iter().rev() {
                if seen.len() as u64 >= most && !seen.contains(&period(one)) {
                    break;
                }
                if seen.insert(period(one)) {
                    kept.insert(one.number);
                }
            }
        }
        if self.states {
            let runs = by_time.chunk_by(|a, b| a.state == b.state);
            kept.extend(
                runs.flat_map(|run| [run.first(), run.last()]).flatten().map(|one| one.number),
            );
        }
        entries.iter().map(|one| one.number).filter(|number| !kept.contains(number)).collect()
    }
}

#[cfg(test)]
mod tests {
    use jiff::Timestamp;
    use proptest::prelude::*;

    use super::*;
    use crate::{who::Who, written::FindingCounts};

    fn entries(looks: &[(i64, u8)]) -> Vec<Entry> {
        (1..)
            .zip(looks)
            .map(|(number, (day, state))| Entry {
                number,
                at: Timestamp::from_second(1_700_000_000 + day * 86_400).unwrap(),
                saved_at: Timestamp::UNIX_EPOCH,
                state: state.to_string(),
                who: Who::default(),
                privileged: true,
                findings: FindingCounts::default(),
            })
            .collect()
    }

    #[test]
    fn days_weeks_and_months_are_counted_where_something_was_seen() {
        let looks: Vec<(i64, u8)> = (0..100).map(|day| (day, 1)).collect();
        let all = entries(&looks);
        let left = |keep: Keep| all.len() - keep.going(&all, &[]).len();
        assert_eq!(left(Keep { daily: 7, ..Keep::default() }), 7);
        assert_eq!(left(Keep { weekly: 4, ..Keep::default() }), 4);
        assert_eq!(left(Keep { daily: 7, monthly: 2, ..Keep::default() }), 8);
        assert_eq!(left(Keep::default()), 1, "the last one stays, whatever the rules say");
    }

    proptest! {
        #[test]
        fn every_state_and_every_mark_is_still_there(
            looks in prop::collection::vec((0i64..400, 0u8..4), 1..60),
            marked in 0usize..60,
            daily in 0u64..5,
        ) {
            let all = entries(&looks);
            let mark = Mark {
                name: "accepted".into(),
                observation: (marked % looks.len()) as u64 + 1,
                marked_at: Timestamp::UNIX_EPOCH,
            };
            let keep = Keep { daily, states: true, ..Keep::default() };
            let going = keep.going(&all, std::slice::from_ref(&mark));
            prop_assert!(!going.contains(&mark.observation));
            // What is left tells the same states in the same order.
            let told = |skip: &BTreeSet<u64>| {
                let mut left: Vec<&Entry> =
                    all.iter().filter(|one| !skip.contains(&one.number)).collect();
                left.sort_by_key(|one| (one.at, one.number));
                let mut states: Vec<String> = left.iter().map(|one| one.state.clone()).collect();
                states.dedup();
                states
            };
            prop_assert_eq!(told(&going), told(&BTreeSet::new()));
        }
    }
}
