//! Since when values are what they are, and where parts have been.

use crate::page::{Page, Tone};
use tectum_archive::history::{Series, Sighting, Span, Told};

use super::{
    archive::day,
    quantity::{count, told_apart, value},
};
use crate::args::Units;

/// What values of a machine were.
pub(crate) fn values(host: &str, asked: &str, told: &[Told], units: Units, page: &mut Page) {
    page.title(host, asked);
    for one in told {
        page.paragraph_of(&one.path, Tone::Label);
        if let Some(series) = &one.series {
            numbers(series, units, page);
        }
        let last = one.spans.len();
        let values: Vec<_> = one.spans.iter().map(|span| &span.value).collect();
        for ((number, span), value) in (1..).zip(&one.spans).zip(told_apart(&values, units)) {
            let tone = if number == last { Tone::Strong } else { Tone::Plain };
            page.beneath_paragraph()
                .tone(tone, value)
                .quiet(format!("  {}", times(span, number == last)));
        }
    }
}

/// From when to when something was seen.
fn times(span: &Span, last: bool) -> String {
    let (first, end) = (day(span.first_seen), day(span.last_seen));
    let looks = count(usize::try_from(span.observations).unwrap_or(usize::MAX), "look", "looks");
    match span.otherwise_since {
        None => format!("since {first}, seen last {end}, {looks}"),
        Some(gone) if last => format!("{first} to {end}, not seen since {}, {looks}", day(gone)),
        Some(_) => format!("{first} to {end}, {looks}"),
    }
}

/// Numbers in a line of small columns, with what they reach.
fn numbers(series: &Series, units: Units, page: &mut Page) {
    let values: Vec<i64> = series.points.iter().map(|(_, value)| *value).collect();
    let (Some(least), Some(most)) = (values.iter().min(), values.iter().max()) else { return };
    let (Some((first, _)), Some((last, now))) = (series.points.first(), series.points.last())
    else {
        return;
    };
    let shown = |number: i64| value(&number.into(), series.of, units);
    let told = format!("  {}", shown(*now));
    page.beneath_paragraph().series(values.clone()).plain(told);
    page.beneath_paragraph().quiet(format!(
        "{} to {}, from {} to {}, {}",
        shown(*least),
        shown(*most),
        day(*first),
        day(*last),
        count(values.len(), "look", "looks")
    ));
}

/// Where a part has been.
pub(crate) fn part(asked: &str, sightings: &[Sighting], page: &mut Page) {
    let kind = sightings.first().map(|one| one.part.as_str()).unwrap_or_default();
    page.title(asked, kind);
    for one in sightings {
        let place = one.place.as_ref().map(|place| format!(" {place}")).unwrap_or_default();
        let said = page.entry(&one.host).strong(format!("{}{place}", one.part));
        let first = day(one.first_seen);
        match one.gone_since {
            None => said.quiet(format!("  since {first}, seen last {}", day(one.last_seen))),
            Some(gone) => said.quiet(format!(
                "  {first} to {}, not there since {}",
                day(one.last_seen),
                day(gone)
            )),
        };
    }
    if sightings.iter().all(|one| one.gone_since.is_some()) {
        let last = sightings.iter().filter_map(|one| one.gone_since).max();
        if let Some(last) = last {
            page.entry("now").plain(format!("seen nowhere since {}", day(last)));
        }
    }
}
