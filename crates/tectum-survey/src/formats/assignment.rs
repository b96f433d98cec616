//! `KEY=value` lines with shell quoting (os-release(5), uevent files).

use std::{borrow::Cow, collections::HashMap};

use super::{Line, line_by_line, lines};

/// One assignment.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Assignment<'a> {
    /// The key.
    pub key: &'a str,
    /// The value without its quotes.
    pub value: Cow<'a, str>,
    /// The line.
    pub line: Line<'a>,
}

/// The assignments of a text whose values are quoted as a shell would (os-release(5)).
///
/// Comments and lines that are no assignment are passed over. Where a key stands twice the last
/// one counts, as it would in a shell, and the earlier is left out.
pub fn shell(text: &str) -> Vec<Assignment<'_>> {
    let mut found: Vec<Assignment<'_>> = Vec::new();
    let (mut last, mut overruled) = (HashMap::new(), Vec::new());
    for line in lines(text) {
        let body = line.raw.trim();
        if body.starts_with('#') {
            continue;
        }
        let Some((key, value)) = body.split_once('=') else { continue };
        if !is_name(key) {
            continue;
        }
        if let Some(earlier) = last.insert(key, found.len()) {
            overruled.push(earlier);
        }
        found.push(Assignment { key, value: unquote(value), line });
    }
    overruled.sort_unstable();
    let mut index = 0;
    found.retain(|_| {
        let kept = overruled.binary_search(&index).is_err();
        index += 1;
        kept
    });
    found
}

/// The assignments of a text whose values stand as they are (kernel `uevent` files).
pub fn plain(text: &str) -> Vec<Assignment<'_>> {
    lines(text)
        .filter_map(|line| {
            let (key, value) = line.raw.split_once('=')?;
            Some(Assignment { key, value: Cow::Borrowed(value), line })
        })
        .collect()
}

/// The assignment to a key.
pub fn find<'a, 'b>(all: &'b [Assignment<'a>], key: &str) -> Option<&'b Assignment<'a>> {
    all.iter().find(|assignment| assignment.key == key)
}

fn is_name(key: &str) -> bool {
    !key.is_empty()
        && !key.starts_with(|first: char| first.is_ascii_digit())
        && key.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'_')
}

/// Takes off the quotes and the backslashes that they allow.
fn unquote(value: &str) -> Cow<'_, str> {
    let single = value.strip_prefix('\'').and_then(|rest| rest.strip_suffix('\''));
    if let Some(inner) = single {
        return Cow::Borrowed(inner);
    }
    let double = value.strip_prefix('"').and_then(|rest| rest.strip_suffix('"'));
    let body = double.unwrap_or(value);
    if !body.contains('\\') {
        return Cow::Borrowed(body);
    }
    let mut plain = String::with_capacity(body.len());
    let mut characters = body.chars().peekable();
    while let Some(character) = characters.next() {
        if character != '\\' {
            plain.push(character);
            continue;
        }
        match characters.peek() {
            // Within double quotes a backslash is itself unless one of these follows.
            Some('"' | '\\' | '$' | '`') => plain.extend(characters.next()),
            Some(_) if double.is_none() => plain.extend(characters.next()),
            _ => plain.push('\\'),
        }
    }
    Cow::Owned(plain)
}

/// Assignments quoted as a shell would, fit to share: key and value stand as `new` has them, and an
/// assignment for which it has nothing is left out, as are comments.
pub(crate) fn shell_redacted(
    text: &str,
    new: impl Fn(&str, &str) -> Option<(String, String)>,
) -> String {
    line_by_line(text, |raw| {
        let one = shell(raw).pop();
        let written = one.and_then(|one| {
            let (key, value) = new(one.key, &one.value)?;
            let mut quoted = String::with_capacity(value.len());
            for character in value.chars() {
                if matches!(character, '"' | '\\' | '$' | '`') {
                    quoted.push('\\');
                }
                quoted.push(character);
            }
            Some(format!("{key}=\"{quoted}\""))
        });
        written.unwrap_or_default()
    })
}

/// Assignments whose values stand as they are, fit to share in the same way.
pub(crate) fn plain_redacted(text: &str, new: impl Fn(&str, &str) -> Option<String>) -> String {
    line_by_line(text, |raw| {
        let one = raw.split_once('=');
        let written = one.and_then(|(key, value)| Some(format!("{key}={}", new(key, value)?)));
        written.unwrap_or_default()
    })
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("NAME=plain", "plain")]
    #[case("NAME=\"two words\"", "two words")]
    #[case("NAME='as $it stands\\'", "as $it stands\\")]
    #[case("NAME=\"a \\\"b\\\" \\$c \\n\"", "a \"b\" $c \\n")]
    #[case("NAME=back\\ slash", "back slash")]
    #[case("NAME=", "")]
    #[case("NAME=\"", "\"")]
    #[case("NAME=old\nNAME=new", "new")]
    #[case("# NAME=no\n  NAME=yes  ", "yes")]
    fn shell_values_lose_their_quotes(#[case] text: &str, #[case] value: &str) {
        assert_eq!(find(&shell(text), "NAME").unwrap().value, value);
    }

    #[test]
    fn what_is_no_assignment_is_passed_over() {
        assert!(shell("no equals\n=value\n1A=x\nexport B=x\n").is_empty());
    }

    proptest! {
        #[test]
        fn no_text_makes_it_panic(text in "[A-Z=\"'\\\\\\n a\u{e9}$]{0,100}") {
            let _ = shell(&text);
            let _ = plain(&text);
        }
    }
}
