//! Renderers: how a page looks, a module a form.

#[cfg(feature = "html")]
pub(crate) mod html;
pub(crate) mod markdown;
pub(crate) mod plain;
pub(crate) mod text;

use std::borrow::Cow;

use tectum_report::json::print::is_harmful;

/// Text that does nothing to a terminal: control characters, and those that turn the direction of
/// writing, are shown as `\u{…}`.
pub(crate) fn safe(text: &str) -> Cow<'_, str> {
    if !text.contains(is_harmful) {
        return Cow::Borrowed(text);
    }
    let mut shown = String::with_capacity(text.len() + 16);
    for character in text.chars() {
        if is_harmful(character) {
            shown.extend(character.escape_unicode());
        } else {
            shown.push(character);
        }
    }
    Cow::Owned(shown)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("plain é ▇", "plain é ▇")]
    #[case("\u{1b}[31mred\u{7}", "\\u{1b}[31mred\\u{7}")]
    #[case("a\nb\tc", "a\\u{a}b\\u{9}c")]
    #[case("\u{9b}0m", "\\u{9b}0m")]
    #[case("user\u{202e}txt", "user\\u{202e}txt")]
    fn nothing_that_steers_a_terminal_passes(#[case] text: &str, #[case] shown: &str) {
        assert_eq!(safe(text), shown);
    }
}
