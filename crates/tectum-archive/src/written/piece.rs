//! Pieces: texts that are kept once, by their digest. A state is a list of its sections; where its values are
//! from is another.

use std::collections::BTreeMap;

use serde_json::Value;

use super::digest;

/// A text of a section that is kept once, by its digest.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Piece {
    /// The section.
    pub section: String,
    /// The digest.
    pub digest: String,
    /// The text: JSON in one line.
    pub text: Vec<u8>,
}

impl Piece {
    pub(crate) fn of(section: String, text: Vec<u8>) -> Self {
        Self { section, digest: digest(&text), text }
    }
}

/// The sections of an inventory, in their order.
///
/// # Errors
/// That one cannot be written as JSON.
pub(crate) fn sections(inventory: &Value) -> Result<Vec<Piece>, serde_json::Error> {
    let sections = inventory.as_object().into_iter().flatten();
    sections
        .map(|(name, section)| Ok(Piece::of(name.clone(), serde_json::to_vec(section)?)))
        .collect()
}

/// Which piece says where the values of each section are from.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct OriginsList(pub BTreeMap<String, String>);

impl OriginsList {
    /// The list of these pieces.
    pub fn of<'a>(pieces: impl IntoIterator<Item = &'a Piece>) -> Self {
        Self(pieces.into_iter().map(|one| (one.section.clone(), one.digest.clone())).collect())
    }

    /// Digest of the list's canonical JSON.
    pub fn digest(&self) -> String {
        digest(&serde_json::to_vec(&self.0).unwrap_or_default())
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;
    use serde_json::json;

    use super::*;

    #[rstest]
    fn an_inventory_is_its_sections_in_their_order() {
        let sections = sections(&json!({"os": {"name": "x"}, "cpu": null})).unwrap();
        let told: Vec<_> =
            sections.iter().map(|one| (one.section.as_str(), &one.text[..])).collect();
        assert_eq!(told, [("os", &b"{\"name\":\"x\"}"[..]), ("cpu", b"null")]);
        assert_eq!(sections[1].digest, digest(b"null"));
    }

    #[rstest]
    fn a_list_is_the_same_in_whatever_order_it_was_made() {
        let pieces = ["b", "a"].map(|name| Piece::of(name.to_owned(), b"1".to_vec()));
        let backwards: Vec<&Piece> = pieces.iter().rev().collect();
        assert_eq!(OriginsList::of(&pieces).digest(), OriginsList::of(backwards).digest());
        assert_ne!(OriginsList::of(&pieces).digest(), OriginsList::of(&pieces[1..]).digest());
    }
}
