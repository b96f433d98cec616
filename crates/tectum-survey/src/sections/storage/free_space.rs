//! What partitions leave free.

use super::partition::is_extended;
use crate::readers::file::listing_evidence;
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Saying, Why, saying},
    leaf::Bytes,
    model::{FreeSpace, Partition},
};

/// Why it is not known where a partition lies.
fn unknown(partitions: &Parts<Partition>) -> Option<&Gap> {
    let places =
        partitions.iter().flat_map(|one| [one.start_bytes.missing(), one.size_bytes.missing()]);
    partitions.hidden().into_iter().chain(places.flatten()).find(|gap| gap.why.hides_a_value())
}

/// What no partition takes; an extended one takes nothing but what the logical ones in it do. Overlaps
/// are counted once.
pub(super) fn unpartitioned(size: &Fact<Bytes>, partitions: &Parts<Partition>) -> Fact<u64> {
    if partitions.gap().is_some() || partitions.is_empty() {
        return match partitions.gap().filter(|gap| gap.why.hides_a_value()) {
            Some(gap) => Fact::gap(gap.clone()),
            None => Fact::not_applicable(saying!("it-has-no-partitions", "it has no partitions")),
        };
    }
    if let Some(gap) = unknown(partitions) {
        return Fact::gap(gap.clone());
    }
    let mut taken = 0u64;
    let mut end = 0u64;
    // They stand in the order of their starts.
    for partition in partitions.iter().filter(|one| !is_extended(one)) {
        let (Some(start), Some(length)) =
            (partition.start_bytes.value(), partition.size_bytes.value())
        else {
            continue;
        };
        let last = start.saturating_add(length.0);
        taken = taken.saturating_add(last.saturating_sub(end.max(start.0)));
        end = end.max(last);
    }
    size.clone()
        .and_then(|size| {
            size.checked_sub(taken).ok_or_else(|| {
                Gap::new(Why::Invalid).hint(saying!(
                    "partitions-reach-beyond-disk",
                    "partitions reach beyond the disk",
                ))
            })
        })
        .by_rule(saying!(
            "disk-size-less-partitions-take",
            "the disk's size, less what its partitions take, overlaps once",
        ))
}

/// Where no partition lies. What lies before the first one, up to a mebibyte, holds the table.
pub(super) fn free_spaces(
    folder: &str,
    size: &Fact<Bytes>,
    partitions: &Parts<Partition>,
) -> Parts<FreeSpace> {
    const LEAST: u64 = 1 << 20;
    if let Some(gap) = partitions.gap() {
        return Parts::missing(gap.clone());
    }
    if partitions.is_empty() {
        let gap = Gap::new(Why::NotApplicable);
        return Parts::missing(
            gap.tried(folder.into(), saying!("no-partitions", "has no partitions")),
        );
    }
    let size_hidden = size.unseen();
    if let Some(gap) = size_hidden.or(unknown(partitions)) {
        return Parts::missing(gap.clone());
    }
    let mut spaces = Vec::new();
    let mut end = 0u64;
    let mut space = |from: u64, to: &Fact<Bytes>, until: u64| {
        let length = until.saturating_sub(from);
        if length < LEAST || (from == 0 && length == LEAST) {
            return;
        }
        let fact = |value: u64, rule: Saying| {
            Fact::known_from(value, to.evidence().to_vec()).by_rule(rule)
        };
        spaces.push(FreeSpace {
            start_bytes: fact(
                from,
                saying!("partitions-front-end", "where the partitions in front of it end"),
            )
            .map(Bytes),
            size_bytes: fact(
                length,
                saying!("next-partition-end", "from there to the next partition, or to the end",),
            )
            .map(Bytes),
        });
    };
    // They stand in the order of their starts.
    for partition in partitions.iter().filter(|one| !is_extended(one)) {
        let (Some(start), Some(length)) =
            (partition.start_bytes.value(), partition.size_bytes.value())
        else {
            continue;
        };
        space(end, &partition.start_bytes, start.0);
        end = end.max(start.saturating_add(length.0));
    }
    if let Some(whole) = size.value() {
        space(end, size, whole.0);
    }
    Parts::known(
        spaces,
        listing_evidence(folder, saying!("partitions-leave", "what its partitions leave")),
    )
}
