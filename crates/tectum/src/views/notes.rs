//! Notes of a report, in words.

use tectum_report::report::Note;

/// Notes as sentences. What two sources say differently is told once, though several values are taken from them.
pub(crate) fn sentences(notes: &[Note]) -> Vec<String> {
    let mut all: Vec<(&Note, String)> = Vec::new();
    for note in notes {
        let of_the_same = |other: &Note| match (note, other) {
            (
                Note::SourcesDiffer { source, says, other_source, other_says, .. },
                Note::SourcesDiffer {
                    source: own,
                    says: own_says,
                    other_source: other,
                    other_says: its_says,
                    ..
                },
            ) => (source, says, other_source, other_says) == (own, own_says, other, its_says),
            _ => false,
        };
        match (all.iter_mut().find(|(other, _)| of_the_same(other)), note) {
            (Some((_, said)), Note::SourcesDiffer { at, .. }) => *said = format!("{at}, {said}"),
            _ => all.push((note, words(note))),
        }
    }
    all.into_iter().map(|(_, said)| said).collect()
}

/// A note as a sentence.
pub(crate) fn words(note: &Note) -> String {
    let passed_over = |all: &[String]| match all {
        [] => "nothing".to_owned(),
        some => some.join(", "),
    };
    match note {
        Note::SectionFailed { section, said } => {
            format!("section {section} failed by a defect of Tectum and is left out: {said}")
        }
        Note::SectionUnfinished { section } => format!(
            "section {section} was not whole when the survey's time was up and is left out; a longer \
             --time-limit may help"
        ),
        Note::SourcesDiffer { at, source, says, other_source, other_says } => format!(
            "{at}: {source} says {says:?}, {other_source} says {other_says:?}; the first is taken"
        ),
        Note::NewerFormat { version, passed_over: all } => format!(
            "the report's format_version {version} is newer than this Tectum's; passed over: {}",
            passed_over(all)
        ),
        Note::NotKnown { passed_over: all } => {
            format!("passed over, not known: {}", passed_over(all))
        }
        Note::TimeByOwnClock => {
            "when the machine was recorded is not said; the time is what its own clock said then: \
             when its kernel started, and how long it had run"
                .to_owned()
        }
        Note::Redacted { kept, raw_texts_left_out } => {
            let kept = match kept.as_slice() {
                [] => String::new(),
                some => format!(", but for {}", some.join(", ")),
            };
            format!(
                "what identifies the machine or its users is replaced by pseudonyms{kept}; \
                 {raw_texts_left_out} raw texts that hold more than their value are left out"
            )
        }
        Note::Other => "a newer Tectum added a note that this one does not know".to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn differ(at: &str, says: &str) -> Note {
        let text = str::to_owned;
        Note::SourcesDiffer {
            at: text(at),
            source: text("/proc/sys/kernel/hostname"),
            says: text(says),
            other_source: text("/etc/hostname"),
            other_says: text("vm"),
        }
    }

    /// One name that two sources say differently is told once, whatever is taken from them; two are told twice.
    #[rstest]
    #[case("gannet", "gannet", &["/os, /machine: /proc/sys/kernel/hostname says \"gannet\""])]
    #[case("gannet", "petrel", &["/machine: ", "/os: "])]
    fn what_two_sources_say_differently_is_told_once(
        #[case] one: &str,
        #[case] other: &str,
        #[case] said: &[&str],
    ) {
        let notes = [differ("/machine", one), Note::TimeByOwnClock, differ("/os", other)];
        let sentences = sentences(&notes);
        assert_eq!(sentences.len(), said.len() + 1);
        for begin in said {
            assert!(sentences.iter().any(|own| own.starts_with(begin)), "{sentences:?}");
        }
    }
}
