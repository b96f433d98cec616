//! The order of release names such as `6.1.0-50-amd64` and `6.12.3`.

use std::cmp::Ordering;

/// Compares two releases: numbers as numbers, text as text, a number after text; a mark of something that comes before a
/// release (`rc`, `~`) sorts before none.
pub fn compare(a: &str, b: &str) -> Ordering {
    let (mut a, mut b) = (a, b);
    loop {
        let (first, second) = (piece(&mut a), piece(&mut b));
        let order = match (first, second) {
            (None, None) => return Ordering::Equal,
            (Some(more), None) => {
                if before_release(more) {
                    Ordering::Less
                } else {
                    Ordering::Greater
                }
            }
            (None, Some(more)) => {
                if before_release(more) {
                    Ordering::Greater
                } else {
                    Ordering::Less
                }
            }
            (Some(first), Some(second)) => match (number(first), number(second)) {
                (Some(x), Some(y)) => x.cmp(&y),
                // `427.13` is a later build of `427.el9`.
                (Some(_), None) => Ordering::Greater,
                (None, Some(_)) => Ordering::Less,
                (None, None) => {
                    before_release(second).cmp(&before_release(first)).then(first.cmp(second))
                }
            },
        };
        if order != Ordering::Equal {
            return order;
        }
    }
}

/// What kind of kernel a release is of: the letters behind its numbers, without marks of what comes before a release.
/// `6.1.0-50-cloud-amd64` is one of `cloud-amd64`, and no newer kind of `6.1.0-50-amd64`; `5.14.0-427.el9` and
/// `5.14.0-503.el9_5` are of one kind.
pub fn kind(release: &str) -> String {
    let mut rest = release;
    let mut kind = String::new();
    while let Some(piece) = piece(&mut rest) {
        if number(piece).is_none() && !before_release(piece) {
            if !kind.is_empty() {
                kind.push('-');
            }
            kind.push_str(piece);
        }
    }
    kind
}

/// The next run of digits, or of letters; what stands between them parts them and no more.
fn piece<'a>(text: &mut &'a str) -> Option<&'a str> {
    let rest = text.trim_start_matches(|c: char| !c.is_alphanumeric() && c != '~');
    let first = rest.chars().next()?;
    let end = match first {
        '~' => 1,
        c if c.is_ascii_digit() => rest.find(|c: char| !c.is_ascii_digit()).unwrap_or(rest.len()),
        _ => rest.find(|c: char| !c.is_alphabetic()).unwrap_or(rest.len()).max(first.len_utf8()),
    };
    let (piece, after) = rest.split_at_checked(end)?;
    *text = after;
    Some(piece)
}

/// A number of any length: without its leading zeros, the longer one is larger.
fn number(piece: &str) -> Option<(usize, &str)> {
    let digits = piece.bytes().all(|byte| byte.is_ascii_digit());
    digits.then(|| piece.trim_start_matches('0')).map(|digits| (digits.len(), digits))
}

fn before_release(piece: &str) -> bool {
    matches!(piece, "~" | "rc" | "alpha" | "beta" | "pre")
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("6.1.0-9-amd64", "6.1.0-10-amd64")]
    #[case("6.9.12", "6.12.3")]
    #[case("5.14.0-427.el9", "5.14.0-427.13.1.el9")]
    #[case("6.12.0-rc3", "6.12.0")]
    #[case("6.12.0-rc3", "6.12.0-1")]
    #[case("6.8.0-31-generic", "6.8.0-100-generic")]
    fn older_and_newer(#[case] older: &str, #[case] newer: &str) {
        assert_eq!(compare(older, newer), Ordering::Less);
        assert_eq!(compare(newer, older), Ordering::Greater);
        assert_eq!(compare(newer, newer), Ordering::Equal);
    }

    #[rstest]
    #[case("6.1.0-9-amd64", "6.1.0-10-amd64", true)]
    #[case("6.1.0-50-amd64", "6.1.0-50-cloud-amd64", false)]
    #[case("5.15.0-119-generic", "5.15.0-1050-aws", false)]
    #[case("6.8.0-31-generic", "6.8.0-31-lowlatency", false)]
    #[case("5.14.0-427.13.1.el9_4.x86_64", "5.14.0-503.el9.x86_64", true)]
    #[case("5.14.0-427.el9.x86_64", "5.14.0-427.el9.x86_64+debug", false)]
    #[case("6.5.6-300.fc39.x86_64", "6.6.2-101.fc40.x86_64", true)]
    #[case("6.6.10-arch1-1", "6.6.12-1-lts", false)]
    #[case("6.12.0-rc3", "6.12.0", true)]
    #[case("6.12.3", "6.12.3.old", false)]
    fn kernels_of_one_kind(#[case] one: &str, #[case] other: &str, #[case] same: bool) {
        assert_eq!(kind(one) == kind(other), same, "{} and {}", kind(one), kind(other));
    }

    proptest! {
        #[test]
        fn it_is_an_order(a in "[0-9a-c.~é-]{0,8}", b in "[0-9a-c.~é-]{0,8}", c in "[0-9a-c.~é-]{0,8}") {
            prop_assert_eq!(compare(&a, &b), compare(&b, &a).reverse());
            if compare(&a, &b) != Ordering::Greater && compare(&b, &c) != Ordering::Greater {
                prop_assert_ne!(compare(&a, &c), Ordering::Greater);
            }
        }
    }
}
