//! What a part of a path names: a name as it stands, or a pattern of names.

use globset::{GlobBuilder, GlobMatcher};

/// What a part of a path names.
#[derive(Debug, Clone)]
pub(super) enum Naming {
    /// Any name: `*`.
    Any,
    /// This name alone. Nearly every part is one, and comparing texts costs far less than a pattern.
    Name(String),
    /// Names of this form.
    Form(GlobMatcher),
}

/// What makes a text a pattern, or stands before one of these to take its meaning away.
const SIGNS: [char; 7] = ['*', '?', '[', ']', '{', '}', '\\'];

/// What names any.
const ANY: &str = "*";

impl Naming {
    /// Reads the text of a part.
    ///
    /// # Errors
    /// What is wrong with it as a pattern.
    pub(super) fn read(text: &str) -> Result<Self, globset::Error> {
        if text == ANY {
            return Ok(Self::Any);
        }
        if !text.contains(SIGNS) {
            return Ok(Self::Name(text.to_owned()));
        }
        Ok(Self::Form(GlobBuilder::new(text).build()?.compile_matcher()))
    }

    /// Whether it names this.
    pub(super) fn is_match(&self, name: &str) -> bool {
        match self {
            Self::Any => true,
            Self::Name(own) => own == name,
            Self::Form(form) => form.is_match(name),
        }
    }

    /// The text that it was read from.
    pub(super) fn text(&self) -> &str {
        match self {
            Self::Any => ANY,
            Self::Name(own) => own,
            Self::Form(form) => form.glob().glob(),
        }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    proptest! {
        #[test]
        fn names_are_what_the_pattern_would_name(
            text in "[a-c.:_/ ]{0,6}|\\*", name in "[a-c.:_/ ]{0,6}",
        ) {
            let naming = Naming::read(&text).unwrap();
            prop_assert!(!matches!(naming, Naming::Form(_)), "{text:?} needs no pattern");
            let form = GlobBuilder::new(&text).build().unwrap().compile_matcher();
            prop_assert_eq!(naming.is_match(&name), form.is_match(&name));
            prop_assert_eq!(naming.is_match(&text), form.is_match(&text));
        }
    }
}
