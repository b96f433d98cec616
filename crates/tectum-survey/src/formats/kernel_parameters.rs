//! The kernel's command line (`/proc/cmdline`, `Documentation/admin-guide/kernel-parameters.rst`).

/// One parameter.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Parameter<'a> {
    /// The name, as it is written.
    pub name: &'a str,
    /// What stands behind the first `=`, quotes around it taken off; `None` where there is none.
    pub value: Option<&'a str>,
    /// The parameter as it stands.
    pub raw: &'a str,
}

/// The parameters in their order. Blanks part them, but not within double quotes. What stands
/// behind a lone `--` is for the first process and is not among them.
pub fn parse(line: &str) -> Vec<Parameter<'_>> {
    let mut parameters = Vec::new();
    let mut rest = line.trim();
    while !rest.is_empty() {
        let mut quoted = false;
        let end = rest
            .char_indices()
            .find(|(_, character)| {
                quoted ^= *character == '"';
                character.is_whitespace() && !quoted
            })
            .map_or(rest.len(), |(at, _)| at);
        let (raw, after) = rest.split_at(end);
        rest = after.trim_start();
        if raw == "--" {
            break;
        }
        let whole = unquoted(raw);
        let (name, value) = match whole.split_once('=') {
            Some((name, value)) => (name, Some(unquoted(value))),
            None => (whole, None),
        };
        parameters.push(Parameter { name, value, raw });
    }
    parameters
}

fn unquoted(text: &str) -> &str {
    text.strip_prefix('"').map_or(text, |rest| rest.strip_suffix('"').unwrap_or(rest))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("ro quiet", &[("ro", None), ("quiet", None)])]
    #[case("root=UUID=7 a= b", &[("root", Some("UUID=7")), ("a", Some("")), ("b", None)])]
    #[case("x=\"a b\" y", &[("x", Some("a b")), ("y", None)])]
    #[case("\"x=a b\" y", &[("x", Some("a b")), ("y", None)])]
    #[case("a -- single", &[("a", None)])]
    #[case("a=\"never closed b", &[("a", Some("never closed b"))])]
    #[case("  \n", &[])]
    fn parameters(#[case] line: &str, #[case] expected: &[(&str, Option<&str>)]) {
        let found: Vec<_> = parse(line).iter().map(|one| (one.name, one.value)).collect();
        assert_eq!(found, expected);
    }

    proptest! {
        #[test]
        fn every_parameter_stands_in_the_line(line in "[a-z= \"\u{e9}\\-]{0,60}") {
            for parameter in parse(&line) {
                prop_assert!(line.contains(parameter.raw) && !parameter.raw.is_empty());
            }
        }
    }
}
