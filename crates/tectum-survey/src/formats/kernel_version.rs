//! `/proc/version`: the kernel's release, who built it, by which compiler.

use tectum_report::leaf::{Identifies, Redact};

/// What the line says of how the kernel was built.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Built<'a> {
    /// Who built it, and where: `user@host`.
    pub by: &'a str,
    /// The compiler and linker.
    pub compiler: &'a str,
}

/// Takes `Linux version RELEASE (BY) (COMPILER) VERSION` apart; parentheses nest.
pub fn parse(line: &str) -> Option<Built<'_>> {
    let rest = line.trim().strip_prefix("Linux version ")?;
    let (by, rest) = in_parentheses(rest.split_once(' ')?.1)?;
    let (compiler, _) = in_parentheses(rest)?;
    Some(Built { by, compiler })
}

fn in_parentheses(text: &str) -> Option<(&str, &str)> {
    let inner = text.trim_start().strip_prefix('(')?;
    let mut depth = 1u32;
    for (at, character) in inner.char_indices() {
        match character {
            '(' => depth = depth.checked_add(1)?,
            ')' => depth -= 1,
            _ => {}
        }
        if depth == 0 {
            return Some((inner.get(..at)?, inner.get(at + 1..)?));
        }
    }
    None
}

/// The line, fit to share: who built the kernel is made anew.
pub(crate) fn redacted(text: &str, by: &dyn Redact) -> String {
    match parse(text) {
        Some(built) => {
            let new = by.text(Identifies::FreeText, built.by);
            text.replacen(&format!("({})", built.by), &format!("({new})"), 1)
        }
        // Of another form: nobody can say what in it is whose.
        None if text.trim().is_empty() => text.to_owned(),
        None => "left out\n".to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn parentheses_nest() {
        let line =
            "Linux version 6.1.0 (b@c.example) (gcc-12 (Reef 12.2) 12.2, GNU ld (x) 2) #1 SMP\n";
        let built = parse(line).unwrap();
        assert_eq!(built.by, "b@c.example");
        assert_eq!(built.compiler, "gcc-12 (Reef 12.2) 12.2, GNU ld (x) 2");
        assert_eq!(parse("Linux version 6.1.0 (never closed"), None);
    }

    proptest! {
        #[test]
        fn no_line_makes_it_panic(line in "(Linux version )?[a-z() é]{0,40}") {
            let _ = parse(&line);
        }
    }
}
