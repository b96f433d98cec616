//! What there is to ask for.

use crate::page::{Page, Tone};
use tectum_report::{fact::Gap, query::DescribedField};

use super::{gap_words, quantity::count};

/// A field: its path, its unit, what it means, where it is from, and whether the machine has it.
pub(crate) fn print(field: &DescribedField, known: usize, gap: Option<&Gap>, page: &mut Page) {
    let said = page.paragraph_of(&field.path, Tone::Strong);
    if let Some(unit) = field.unit {
        said.quiet(format!(" in {unit}"));
    }
    page.beneath_paragraph().plain(&field.meaning).quiet(format!(" ({})", field.source));
    let here = page.beneath_paragraph();
    match (known, gap) {
        (0, Some(gap)) => here.tone(Tone::Before, "missing here: ").quiet(gap_words(gap)),
        (0, None) => here.quiet("nothing here has it"),
        (known, _) => here.tone(Tone::After, count(known, "value here", "values here")),
    };
}
