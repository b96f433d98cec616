//! Which sections of states hold a text: of a fleet's states most sections are the same as others', and each is
//! looked through once.

use super::{StoreError, bounded::Bounded};

/// The most bytes of digests whose sections are remembered.
const MOST_BYTES: usize = 8 << 20;

/// Looks for a text in sections, whatever its case.
#[derive(Debug)]
pub struct Holding {
    wanted: String,
    known: Bounded<String, bool>,
}

impl Holding {
    /// Looks for a text as it stands between quotes in JSON.
    pub fn new(text: &str) -> Self {
        let quoted = serde_json::Value::from(text).to_string().to_ascii_lowercase();
        let wanted = quoted.trim_matches('"').to_owned();
        Self { wanted, known: Bounded::new(MOST_BYTES) }
    }

    /// Whether it stands anywhere in a text: most can be passed over by that alone.
    pub fn is_in(&self, text: &[u8]) -> bool {
        let text = text.to_ascii_lowercase();
        memchr::memmem::find(&text, self.wanted.as_bytes()).is_some()
    }

    /// Whether it stands in the section of this digest.
    ///
    /// # Errors
    /// What stands in the way of reading the section.
    pub fn is_in_section(
        &self,
        digest: &str,
        text: impl FnOnce() -> Result<Vec<u8>, StoreError>,
    ) -> Result<bool, StoreError> {
        if let Some(known) = self.known.get(digest) {
            return Ok(known);
        }
        let is = self.is_in(&text()?);
        self.known.keep(digest.to_owned(), is, digest.len());
        Ok(is)
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("sks4-1", true)]
    #[case("SKS4-1", true)]
    #[case("a\"b", true)]
    #[case("SKS4-2", false)]
    fn a_text_is_found_as_it_stands_in_json(#[case] wanted: &str, #[case] is: bool) {
        assert_eq!(Holding::new(wanted).is_in(br#"{"serial":"SKS4-1","label":"a\"b"}"#), is);
    }

    #[rstest]
    fn a_section_is_looked_through_once() {
        let holding = Holding::new("x");
        let mut asked = 0;
        for _ in 0..2 {
            let text = || {
                asked += 1;
                Ok(b"\"X\"".to_vec())
            };
            assert!(holding.is_in_section("sha256:00", text).unwrap());
        }
        assert_eq!(asked, 1);
    }
}
