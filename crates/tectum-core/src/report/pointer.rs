//! JSON Pointers (RFC 6901), by which a report names its values.

/// A pointer that grows and shrinks as a walk goes down and up.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Pointer {
    text: String,
}

impl Pointer {
    /// The pointer to the whole document.
    pub fn root() -> Self {
        Self::default()
    }

    /// Goes down to a member; returns where to come back to.
    pub fn push(&mut self, member: &str) -> usize {
        let mark = self.text.len();
        self.text.push('/');
        for character in member.chars() {
            match character {
                '~' => self.text.push_str("~0"),
                '/' => self.text.push_str("~1"),
                plain => self.text.push(plain),
            }
        }
        mark
    }

    /// Goes down to an element; returns where to come back to.
    pub fn push_index(&mut self, index: usize) -> usize {
        let mark = self.text.len();
        self.text.push('/');
        self.text.push_str(&index.to_string());
        mark
    }

    /// Comes back to a mark that `push` gave.
    pub fn back(&mut self, mark: usize) {
        self.text.truncate(mark);
    }

    /// The pointer as text.
    pub fn as_str(&self) -> &str {
        &self.text
    }
}

impl Pointer {
    /// A pointer below another, given as text.
    pub fn under(base: &str, tail: &Self) -> Self {
        Self { text: format!("{base}{}", tail.text) }
    }
}
