//! `/proc/modules` and `/proc/devices` (`Documentation/filesystems/proc.rst`).

use super::{Line, lines, number};

/// A loaded module.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Module<'a> {
    /// Its name.
    pub name: &'a str,
    /// Its size in memory, in bytes.
    pub size_bytes: u64,
    /// How often it is in use; `None` where it cannot be taken out.
    pub users: Option<u64>,
    /// Modules that use it.
    pub used_by: Vec<&'a str>,
    /// Its state: `Live`, `Loading`, `Unloading`.
    pub state: &'a str,
    /// The line.
    pub line: Line<'a>,
}

/// The lines of `/proc/modules`; what cannot be read is passed over.
pub fn modules(text: &str) -> Vec<Module<'_>> {
    lines(text)
        .filter_map(|line| {
            let fields: Vec<&str> = line.raw.split_ascii_whitespace().collect();
            let [name, size, users, used_by, state, ..] = *fields else { return None };
            Some(Module {
                name,
                size_bytes: number::decimal(size)?,
                users: number::decimal(users),
                used_by: used_by
                    .split(',')
                    .filter(|user| !matches!(*user, "" | "-" | "[permanent]"))
                    .collect(),
                state,
                line,
            })
        })
        .collect()
}

/// A major device number and who has it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Major<'a> {
    /// Whether it is one of block devices; else of character devices.
    pub block: bool,
    /// The number.
    pub number: u64,
    /// Who has it.
    pub name: &'a str,
    /// The line.
    pub line: Line<'a>,
}

/// The lines of `/proc/devices`.
pub fn majors(text: &str) -> Vec<Major<'_>> {
    let mut block = false;
    lines(text)
        .filter_map(|line| {
            let body = line.raw.trim();
            match body {
                "Character devices:" => block = false,
                "Block devices:" => block = true,
                _ => {}
            }
            let (digits, name) = body.split_once(' ')?;
            Some(Major { block, number: number::decimal(digits)?, name: name.trim(), line })
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn modules_and_their_users() {
        let text = "dm_mod 184320 9 dm_crypt,dm_raid, Live 0x0000000000000000\n\
                    fixed 16384 - [permanent], Live 0x0000000000000000 (OE)\n\
                    short 1\n";
        let all = modules(text);
        assert_eq!(all.len(), 2);
        assert_eq!(
            (all[0].users, all[0].used_by.as_slice()),
            (Some(9), &["dm_crypt", "dm_raid"][..])
        );
        assert_eq!((all[1].users, all[1].used_by.len()), (None, 0));
    }

    #[test]
    fn majors_of_both_kinds() {
        let all =
            majors("Character devices:\n  1 mem\n  4 /dev/vc/0\n\nBlock devices:\n259 blkext\n");
        assert_eq!(all.len(), 3);
        assert_eq!((all[1].name, all[1].block), ("/dev/vc/0", false));
        assert_eq!((all[2].number, all[2].block), (259, true));
    }

    proptest! {
        #[test]
        fn no_text_makes_it_panic(text in "\\PC{0,200}") {
            let _ = (modules(&text), majors(&text));
        }
    }
}
