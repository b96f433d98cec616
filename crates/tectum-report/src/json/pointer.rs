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
        // Nearly no name holds a sign that would have to be written otherwise.
        if !member.contains(['~', '/']) {
            self.text.push_str(member);
            return mark;
        }
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

    /// Goes down by a whole pointer; returns where to come back to.
    pub fn push_pointer(&mut self, pointer: &str) -> usize {
        let mark = self.text.len();
        self.text.push_str(pointer);
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

/// The members that a pointer names, one after the other.
pub fn members(pointer: &str) -> impl Iterator<Item = String> + '_ {
    pointer
        .strip_prefix('/')
        .into_iter()
        .flat_map(|rest| rest.split('/'))
        .map(|member| member.replace("~1", "/").replace("~0", "~"))
}
