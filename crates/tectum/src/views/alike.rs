//! Machines that should be alike: what most have, and which are odd.

use crate::page::{Page, Tone};
use crate::render::safe;
use std::iter;
use tectum_archive::{
    alike::{Alike, Mixed, Odd},
    exact::Exact,
};

use super::{
    fleet::values,
    quantity::{count, told_apart},
};
use crate::args::{Detail, Units};

/// So many values of machines that are odd together are told one by one.
const MOST_VALUES: usize = 8;
/// So many machines are named.
const MOST_NAMES: usize = 8;
/// So many values that no more than half share are told.
const MOST_MIXED: usize = 12;

/// Prints groups of machines.
pub(crate) fn print(groups: &[Alike], by: &str, detail: Detail, units: Units, page: &mut Page) {
    let all: usize = groups.iter().map(|group| group.machines.len()).sum();
    let aside = format!(
        "{} in {}, by {by}",
        count(all, "machine", "machines"),
        count(groups.len(), "group", "groups")
    );
    page.title("which is the odd one", &aside);
    let mut values = values(groups.iter().map(|group| &group.group), units).into_iter();
    for group in groups {
        let by = values.next().filter(|by| !by.is_empty());
        one(group, by.as_deref().unwrap_or("not known"), detail, units, page);
    }
}

fn one(group: &Alike, by: &str, detail: Detail, units: Units, page: &mut Page) {
    page.gap();
    let machines = group.machines.len();
    page.heading(&safe(by));
    if machines == 1 {
        page.entry("alone").plain(names(&group.machines)).quiet(": nothing to hold it against");
        return;
    }
    page.entry("machines").plain(format!("{machines}: {}", names(&group.machines)));
    page.entry("alike").plain(format!(
        "{} that all of them tell are the same in all",
        count(group.in_common, "value", "values")
    ));
    if group.odd.is_empty() && group.mixed.is_empty() {
        page.entry("odd").plain("none: nothing that was held against each other differs");
    }
    let most = if detail == Detail::Full { usize::MAX } else { MOST_VALUES };
    for odd in &group.odd {
        odd_ones(odd, most, units, page);
    }
    let most = if detail == Detail::Full { usize::MAX } else { MOST_MIXED };
    mixed(&group.mixed, most, units, page);
}

fn odd_ones(odd: &Odd, most: usize, units: Units, page: &mut Page) {
    page.entry("odd")
        .tone(Tone::Strong, names(&odd.machines))
        .quiet(format!("  in {}", count(odd.values.len(), "value", "values")));
    for value in odd.values.iter().take(most) {
        let all: Vec<&Exact> =
            iter::once(&value.common).chain(value.odd.iter().map(|(own, _)| own)).collect();
        let mut told = told_apart(&all, units).into_iter();
        let common = told.next().unwrap_or_default();
        let others: Vec<String> = told
            .zip(&value.odd)
            .map(|(own, (_, who))| match odd.machines.len() {
                1 => own,
                _ => format!("{own} ({})", names(who)),
            })
            .collect();
        let share = format!("{} of {} have", value.share, value.of);
        page.beneath(
            &format!("{}:", value.path),
            [
                (Tone::Quiet, share.as_str()),
                (Tone::Before, common.as_str()),
                (Tone::Quiet, if odd.machines.len() == 1 { "and it has" } else { "and they have" }),
                (Tone::After, others.join("; ").as_str()),
            ],
        );
    }
    let more = odd.values.len().saturating_sub(most);
    if more > 0 {
        page.beside().quiet(format!(
            "and in {}: --detail full tells them, `tectum compare A B` two machines whole",
            count(more, "more value", "more values")
        ));
    }
}

fn mixed(all: &[Mixed], most: usize, units: Units, page: &mut Page) {
    for (number, one) in all.iter().take(most).enumerate() {
        let values: Vec<&Exact> = one.values.iter().map(|(value, _)| value).collect();
        let told = told_apart(&values, units).into_iter().zip(&one.values);
        let told: Vec<String> =
            told.map(|(value, (_, who))| format!("{value} ({})", names(who))).collect();
        if number == 0 {
            page.entry("mixed").plain("no more than half have the same of these");
        }
        page.beneath(&format!("{}:", one.path), [(Tone::Plain, told.join("; ").as_str())]);
    }
    let more = all.len().saturating_sub(most);
    if more > 0 {
        page.beside().quiet(format!("and {} more", count(more, "such value", "such values")));
    }
}

fn names(machines: &[String]) -> String {
    let shown = machines.get(..machines.len().min(MOST_NAMES)).unwrap_or_default().join(", ");
    match machines.len().saturating_sub(MOST_NAMES) {
        0 => shown,
        more => format!("{shown} and {more} more"),
    }
}
