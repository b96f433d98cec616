//! Values by a JSONPath (RFC 9535), for those who know it: the report's roots `machine`, `inventory` and
//! `readings` as one JSON value, in which a missing value is `null`.

use serde_json::{Map, Value};
use serde_json_path::JsonPath;

use super::PathError;
use crate::{json::write::Plain, report::Report};

/// The most descendant segments of a path: each multiplies what must be looked at.
const MOST_DESCENTS: usize = 2;

/// The longest path, in bytes.
const LONGEST: usize = 4096;

/// A JSONPath.
#[derive(Debug, Clone)]
pub struct JsonQuery {
    path: JsonPath,
    beginning: Vec<String>,
}

impl std::str::FromStr for JsonQuery {
    type Err = PathError;

    fn from_str(text: &str) -> Result<Self, PathError> {
        let wrong = |reason: String| PathError { path: text.to_owned(), reason };
        if text.len() > LONGEST {
            return Err(wrong(format!("it is longer than {LONGEST} bytes")));
        }
        if text.matches("..").count() > MOST_DESCENTS {
            return Err(wrong(format!("it descends (`..`) more than {MOST_DESCENTS} times")));
        }
        // The parser goes down as deep as what it reads.
        if text.matches(['(', '[']).count() > 32 {
            return Err(wrong("it has more than 32 opening brackets".to_owned()));
        }
        let path = JsonPath::parse(text).map_err(|error| wrong(error.to_string()))?;
        Ok(Self { path, beginning: beginning(text) })
    }
}

/// The roots of a report as one JSON value.
pub fn plain(report: &Report) -> Value {
    let roots = report.roots().map(|(name, root)| {
        let value = serde_json::to_value(Plain(root)).unwrap_or_default();
        (name.to_owned(), value)
    });
    Value::Object(roots.into_iter().collect::<Map<String, Value>>())
}

/// The plain names of members with which a path begins.
fn beginning(text: &str) -> Vec<String> {
    let mut names = Vec::new();
    let mut rest = text.strip_prefix('$').unwrap_or_default().trim_start();
    let plain = |sign: char| sign.is_ascii_alphanumeric() || sign == '_';
    loop {
        let (name, behind) = if let Some(behind) = rest.strip_prefix('[') {
            let Some((name, behind)) = behind.split_once(']') else { break };
            let name = name.trim();
            let bare = ['\'', '"']
                .iter()
                .find_map(|quote| name.strip_prefix(*quote)?.strip_suffix(*quote));
            (bare.unwrap_or_default(), behind)
        } else if let Some(behind) = rest.strip_prefix('.') {
            behind.split_at(behind.find(|sign| !plain(sign)).unwrap_or(behind.len()))
        } else {
            break;
        };
        if name.is_empty() || !name.chars().all(plain) {
            break;
        }
        names.push(name.to_owned());
        rest = behind.trim_start();
    }
    names
}

impl JsonQuery {
    /// The plain names of members with which it begins, whatever follows: `inventory`, `memory`, `modules` of
    /// `$.inventory.memory.modules[*].serial`.
    pub fn beginning(&self) -> &[String] {
        &self.beginning
    }

    /// The values that the path names, each with the JSON Pointer to it.
    pub fn find<'a>(&self, plain: &'a Value) -> Vec<(String, &'a Value)> {
        self.path
            .query_located(plain)
            .iter()
            .map(|node| (node.location().to_json_pointer(), node.node()))
            .collect()
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("$.a[?@.b > 1].c", true)]
    #[case("$..a..b..c", false)]
    #[case("$.a[", false)]
    fn what_is_a_path(#[case] text: &str, #[case] is: bool) {
        assert_eq!(text.parse::<JsonQuery>().is_ok(), is);
    }

    #[rstest]
    #[case("$.inventory.memory.modules[*].serial", &["inventory", "memory", "modules"])]
    #[case("$['inventory'][\"os\"].name", &["inventory", "os", "name"])]
    #[case("$[ 'os' ] .name", &["os", "name"])]
    #[case("$..serial", &[])]
    #[case("$.inventory..serial", &["inventory"])]
    #[case("$.a[0].b", &["a"])]
    #[case("$.a[?@.b == ']'].c", &["a"])]
    #[case("$['a','b'].c", &[])]
    #[case("$", &[])]
    fn the_names_that_it_begins_with(#[case] text: &str, #[case] names: &[&str]) {
        assert_eq!(text.parse::<JsonQuery>().unwrap().beginning(), names);
    }

    #[test]
    fn brackets_without_end_are_refused() {
        let deep = format!("$[?{}", "(".repeat(1000));
        assert!(deep.parse::<JsonQuery>().is_err());
    }
}
