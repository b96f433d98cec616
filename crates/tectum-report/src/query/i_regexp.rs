//! The functions `match` and `search` of a JSONPath (RFC 9535 clauses 2.4.6 and 2.4.7), by patterns as RFC 9485 has
//! them: a pattern is made ready once for all values that are held against it, and no more of it than is bounded.

use std::cell::RefCell;

use regex::{Regex, RegexBuilder};
use serde_json::Value;
use serde_json_path::functions::{LogicalType, ValueType};

/// So much memory a pattern may take when it is made ready, in bytes.
const LARGEST: usize = 1 << 20;

/// The pattern that was asked for last; nothing for one that is none.
struct Last {
    pattern: String,
    whole: bool,
    ready: Option<Regex>,
}

thread_local! {
    static LAST: RefCell<Option<Last>> = const { RefCell::new(None) };
}

fn ready(pattern: &str, whole: bool) -> Option<Regex> {
    let build = |text: &str| RegexBuilder::new(text).crlf(true).size_limit(LARGEST).build().ok();
    let alone = build(pattern)?;
    // What is no pattern by itself does not become one between others.
    if whole { build(&format!(r"\A(?:{pattern})\z")) } else { Some(alone) }
}

fn is_like(text: &ValueType<'_>, pattern: &ValueType<'_>, whole: bool) -> LogicalType {
    let (Some(Value::String(text)), Some(Value::String(pattern))) =
        (text.as_value(), pattern.as_value())
    else {
        return LogicalType::False;
    };
    LAST.with_borrow_mut(|last| {
        let same = |last: &&mut Last| last.pattern == *pattern && last.whole == whole;
        let ready = match last.as_mut().filter(same) {
            Some(last) => &last.ready,
            None => {
                let ready = ready(pattern, whole);
                &last.insert(Last { pattern: pattern.clone(), whole, ready }).ready
            }
        };
        ready.as_ref().is_some_and(|ready| ready.is_match(text)).into()
    })
}

#[serde_json_path::function(name = "match")]
fn match_whole(text: ValueType<'_>, pattern: ValueType<'_>) -> LogicalType {
    is_like(&text, &pattern, true)
}

#[serde_json_path::function]
fn search(text: ValueType<'_>, pattern: ValueType<'_>) -> LogicalType {
    is_like(&text, &pattern, false)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;
    use serde_json::json;

    use super::super::JsonQuery;

    /// RFC 9485 clause 4 and RFC 9535 tables 15 and 16.
    #[rstest]
    #[case(r#"$[?match(@, "b[ab]?")]"#, &["b", "bb"])]
    #[case(r#"$[?search(@, "b[ab]?")]"#, &["b", "bb", "abc", "B b\nb"])]
    #[case(r#"$[?match(@, "a|b")]"#, &["a", "b"])]
    #[case(r#"$[?match(@, ".*b")]"#, &["b", "bb"])]
    #[case(r#"$[?match(@, "\\p{Lu}.*\\n?b")]"#, &["B b\nb"])]
    #[case(r#"$[?search(@, "\\p{Ll}é")]"#, &["aé"])]
    #[case(r#"$[?match(@, "a)|(b")]"#, &[])]
    #[case(r#"$[?search(@, "(a")]"#, &[])]
    #[case(r#"$[?search(@, "((a{900}){900}){900}")]"#, &[])]
    #[case("$[?search(@, 7)]", &[])]
    #[case(r#"$[?!match(@, "[^7]*") && match(@, "a")]"#, &[])]
    fn values_are_held_against_patterns(#[case] path: &str, #[case] expected: &[&str]) {
        let all = json!(["a", "b", "bb", "abc", "B b\nb", "aé", 7, null]);
        let query: JsonQuery = path.parse().unwrap();
        let found = query.find(&all);
        let found: Vec<_> = found.into_iter().map(|(_, value)| value.clone()).collect();
        assert_eq!(found, expected.iter().map(|text| json!(text)).collect::<Vec<_>>());
    }

    #[rstest]
    #[case(r#"$[?match(@)]"#)]
    #[case(r#"$[?search(@.*, "a")]"#)]
    #[case(r#"$[?like(@, "a")]"#)]
    fn other_calls_are_refused(#[case] path: &str) {
        assert!(path.parse::<JsonQuery>().is_err());
    }
}
