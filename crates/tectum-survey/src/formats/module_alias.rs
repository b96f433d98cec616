//! Which kernel module would drive which device: `modules.alias` (modules.alias lines are
//! `alias PATTERN MODULE`; patterns are those of fnmatch(3) without flags).
//!
//! A distribution's kernel has some 20,000 patterns, so they are not tried one by one: they stand
//! under what they begin with up to the first sign that is not plain, and a device is only held
//! against those that begin as it does.

use std::collections::{BTreeSet, HashMap};

use super::lines;

/// The patterns of a `modules.alias`.
#[derive(Debug, Default)]
pub struct Aliases<'a> {
    /// Patterns by their plain beginning, each with its module and the number of its line.
    by_beginning: HashMap<&'a str, Vec<Alias<'a>>>,
    /// Lengths of those beginnings.
    lengths: BTreeSet<usize>,
}

/// Longer patterns and devices are none that a kernel has: they would only cost time.
const LONGEST: usize = 512;

/// The most patterns that are tried for one device. Of a distribution's kernel, some hundred begin as
/// a device does.
const TRIALS: usize = 4096;

/// One pattern.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Alias<'a> {
    /// The pattern.
    pub pattern: &'a str,
    /// The module.
    pub module: &'a str,
    /// The number of the line, from 1.
    pub line: usize,
}

impl<'a> Aliases<'a> {
    /// Reads the lines that are aliases.
    pub fn parse(text: &'a str) -> Self {
        let mut all = Self::default();
        for line in lines(text) {
            let mut words = line.raw.split_ascii_whitespace();
            let (Some("alias"), Some(pattern), Some(module), None) =
                (words.next(), words.next(), words.next(), words.next())
            else {
                continue;
            };
            if pattern.len() > LONGEST {
                continue;
            }
            let plain = pattern.find(['*', '?', '[', '\\']).unwrap_or(pattern.len());
            let beginning = pattern.get(..plain).unwrap_or_default();
            all.lengths.insert(plain);
            let alias = Alias { pattern, module, line: line.number };
            all.by_beginning.entry(beginning).or_default().push(alias);
        }
        all
    }

    /// How many patterns there are.
    pub fn len(&self) -> usize {
        self.by_beginning.values().map(Vec::len).sum()
    }

    /// Whether there is none.
    pub fn is_empty(&self) -> bool {
        self.by_beginning.is_empty()
    }

    /// The patterns that a device's `modalias` matches, in the order of their lines; of more than
    /// 4,096 that begin as it does, the first are tried.
    pub fn matching(&self, modalias: &str) -> Vec<Alias<'a>> {
        if modalias.len() > LONGEST {
            return Vec::new();
        }
        let mut found: Vec<Alias<'a>> = self
            .lengths
            .iter()
            .filter_map(|length| self.by_beginning.get(modalias.get(..*length)?))
            .flatten()
            .take(TRIALS)
            .filter(|alias| matches(alias.pattern.as_bytes(), modalias.as_bytes()))
            .copied()
            .collect();
        found.sort_unstable_by_key(|alias| alias.line);
        found
    }
}

/// Whether a text matches a pattern of fnmatch(3). The cost is at most their lengths multiplied:
/// only the last star is ever gone back to.
pub fn matches(pattern: &[u8], text: &[u8]) -> bool {
    let (mut at, mut position) = (0, 0);
    let mut star: Option<(usize, usize)> = None;
    loop {
        match (pattern.get(at), text.get(position)) {
            (Some(b'*'), _) => {
                star = Some((at + 1, position));
                at += 1;
                continue;
            }
            (None, None) => return true,
            (Some(_), Some(byte)) => {
                if let Some(next) = one(pattern, at, *byte) {
                    at = next;
                    position += 1;
                    continue;
                }
            }
            _ => {}
        }
        match star {
            Some((behind, from)) if from < text.len() => {
                star = Some((behind, from + 1));
                (at, position) = (behind, from + 1);
            }
            _ => return false,
        }
    }
}

/// Where the pattern goes on if its next sign takes the byte.
fn one(pattern: &[u8], at: usize, byte: u8) -> Option<usize> {
    match *pattern.get(at)? {
        b'?' => Some(at + 1),
        b'\\' => (*pattern.get(at + 1)? == byte).then_some(at + 2),
        b'[' => set(pattern, at, byte),
        plain => (plain == byte).then_some(at + 1),
    }
}

/// `[a-f0]`, `[!x]`; without its end it is a plain bracket.
fn set(pattern: &[u8], at: usize, byte: u8) -> Option<usize> {
    let mut index = at + 1;
    let negated = matches!(pattern.get(index), Some(b'!' | b'^'));
    index += usize::from(negated);
    let first = index;
    let mut found = false;
    loop {
        match (pattern.get(index), pattern.get(index + 1), pattern.get(index + 2)) {
            (None, ..) => return (byte == b'[').then_some(at + 1),
            (Some(b']'), ..) if index > first => {
                return (found != negated).then_some(index + 1);
            }
            (Some(low), Some(b'-'), Some(high)) if *high != b']' => {
                found |= (*low..=*high).contains(&byte);
                index += 3;
            }
            (Some(member), ..) => {
                found |= *member == byte;
                index += 1;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(
        "pci:v00008086d000010D3sv*sd*bc*sc*i*",
        "pci:v00008086d000010D3sv00001sd2bc02sc00i00",
        true
    )]
    #[case("pci:v*d*sv*sd*bc0Csc03i30*", "pci:v1d2sv3sd4bc0Csc03i30", true)]
    #[case("pci:v*d*sv*sd*bc0Csc03i30*", "pci:v1d2sv3sd4bc0Csc03i20", false)]
    #[case("usb:v046DpC5[0-2]?d*", "usb:v046DpC517d1", true)]
    #[case("usb:v046DpC5[!0-2]?d*", "usb:v046DpC517d1", false)]
    #[case("a[]]b", "a]b", true)]
    #[case("a[b", "a[b", true)]
    #[case("a\\*", "a*", true)]
    #[case("a\\*", "ab", false)]
    #[case("", "", true)]
    #[case("*", "", true)]
    fn patterns(#[case] pattern: &str, #[case] text: &str, #[case] is: bool) {
        assert_eq!(matches(pattern.as_bytes(), text.as_bytes()), is);
    }

    #[test]
    fn a_device_finds_every_module_that_would_drive_it() {
        let text = "# Aliases extracted from modules themselves.\n\
            alias pci:v00001AF4d*sv*sd*bc*sc*i* virtio_pci\n\
            alias fs-ext4 ext4\n\
            alias pci:v*d*sv*sd*bc01sc08i02* nvme\n\
            alias broken\n";
        let aliases = Aliases::parse(text);
        assert_eq!(aliases.len(), 3);
        let found = aliases.matching("pci:v00001AF4d00001001sv00001AF4sd00000002bc01sc08i02");
        let modules: Vec<&str> = found.iter().map(|alias| alias.module).collect();
        assert_eq!(modules, ["virtio_pci", "nvme"]);
        assert!(aliases.matching("pci").is_empty());
    }

    #[test]
    fn a_list_made_to_cost_time_costs_little() {
        let pattern = format!("alias {}b m\n", "*a".repeat(200));
        let aliases = Aliases::parse(&pattern);
        assert!(aliases.matching(&"a".repeat(500)).is_empty());
        let long = format!("alias {} m\n", "*".repeat(600));
        assert!(Aliases::parse(&long).is_empty());
        let many = "alias a* m\n".repeat(10_000);
        assert_eq!(Aliases::parse(&many).matching("ab").len(), TRIALS);
    }

    proptest! {
        #[test]
        fn stars_that_lead_nowhere_end(pattern in "[*a?\\[\\]\\\\-]{0,30}", text in "[ab]{0,60}") {
            let _ = matches(pattern.as_bytes(), text.as_bytes());
        }

        #[test]
        fn the_index_finds_what_trying_each_finds(
            patterns in proptest::collection::vec("[ab*?]{1,5}", 0..20), text in "[ab]{0,6}",
        ) {
            let file: String = patterns
                .iter()
                .enumerate()
                .map(|(number, pattern)| format!("alias {pattern} m{number}\n"))
                .collect();
            let aliases = Aliases::parse(&file);
            let found: Vec<usize> = aliases.matching(&text).iter().map(|a| a.line - 1).collect();
            let each: Vec<usize> = (0..patterns.len())
                .filter(|at| matches(patterns[*at].as_bytes(), text.as_bytes()))
                .collect();
            prop_assert_eq!(found, each);
        }
    }
}
