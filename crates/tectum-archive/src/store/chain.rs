//! The chain of a machine's observations: each holds the digest of the one that was saved before it.

use std::collections::BTreeMap;

/// A link of the chain: an observation, or what is left of one that was removed.
#[derive(Debug)]
pub(crate) struct Link {
    /// Digest of its text; empty where it cannot be read.
    pub(crate) digest: String,
    /// What it says is the digest of the one before it.
    pub(crate) before: Option<String>,
}

/// What a sentence about the chain is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum About {
    /// The observation of this number.
    Observation(u64),
    /// What says which observation was saved last.
    Last,
}

/// Follows the chain from its first link to the one that was saved last, and tells what does not hold, and
/// whether that is damage.
pub(crate) fn follow(
    chain: &BTreeMap<u64, Link>,
    last_saved: Option<(u64, &str)>,
    tell: &mut dyn FnMut(About, String, bool),
) {
    let mut last: Option<(u64, &Link)> = None;
    for (number, link) in chain {
        let about = About::Observation(*number);
        let expected = last.map_or(1, |(number, _)| number + 1);
        if *number != expected {
            let said = match number - expected {
                1 => format!("observation {expected} before it is missing"),
                _ => format!("observations {expected} to {} before it are missing", number - 1),
            };
            tell(about, said, true);
        } else if let Some((before, own)) = last
            && link.before.as_deref() != Some(own.digest.as_str())
            && !own.digest.is_empty()
            && !link.digest.is_empty()
        {
            let said = format!(
                "observation {before} is not the one that was saved before it: one of the two was altered or slipped in"
            );
            tell(about, said, true);
        } else if last.is_none() && link.before.is_some() {
            tell(about, "it is the first, and says that one was before it".to_owned(), true);
        }
        last = Some((*number, link));
    }
    let missing = |number: u64| format!("observation {number} is missing");
    match (last_saved, last) {
        (Some((said, _)), Some((number, _))) if said > number => {
            tell(About::Last, missing(said), true);
        }
        (Some((said, _)), Some((number, _))) if said < number => {
            let words = format!(
                "observation {number} is there, and who saved it was stopped before saying so"
            );
            tell(About::Last, words, false);
        }
        (Some((_, digest)), Some((number, link))) if digest != link.digest => {
            let said =
                format!("observation {number} is not the one that was saved: it was altered");
            tell(About::Last, said, true);
        }
        (Some((said, _)), None) => tell(About::Last, missing(said), true),
        (None, Some(_)) => {
            let said = "it is missing: whoever saved first was stopped, or it was removed";
            tell(About::Last, said.to_owned(), false);
        }
        _ => {}
    }
}
