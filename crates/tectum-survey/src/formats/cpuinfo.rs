//! `/proc/cpuinfo`, whose layout each architecture chooses for itself.
//!
//! Most have a block of `key : value` lines for each CPU, which has a `processor` line; some have
//! lines of their own before or behind the blocks, some within the first one. IBM Z writes a line
//! `processor 0: version = …` for each CPU instead. A CPU that fits neither is still counted where
//! it has any such line.

use super::{
    colon::{self, Block, Entry},
    number,
};

/// The text taken apart.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct CpuInfo<'a> {
    /// Every block, in order.
    pub blocks: Vec<Block<'a>>,
    /// Each CPU: its number, and the index of its block.
    pub cpus: Vec<(u64, usize)>,
}

/// Takes the text apart.
pub fn parse(text: &str) -> CpuInfo<'_> {
    let blocks = colon::blocks(text);
    let mut cpus = Vec::new();
    for (index, block) in blocks.iter().enumerate() {
        for entry in block {
            if let Some(number) = cpu_number(entry) {
                cpus.push((number, index));
            }
        }
    }
    cpus.sort_unstable();
    // The lines of IBM Z stand twice, once each for identity and for clock.
    cpus.dedup_by_key(|(number, _)| *number);
    CpuInfo { blocks, cpus }
}

/// The number that a line gives a CPU.
fn cpu_number(entry: &Entry<'_>) -> Option<u64> {
    match entry.key {
        "processor" => number::decimal(entry.value),
        key => number::decimal(key.strip_prefix("processor ")?),
    }
}

impl<'a> CpuInfo<'a> {
    /// The first entry with one of some keys: architectures name one thing differently.
    pub fn first(&self, keys: &[&str]) -> Option<&Entry<'a>> {
        keys.iter().find_map(|key| colon::find_first(&self.blocks, key))
    }

    /// Each entry with one of some keys, in the order of the CPUs' blocks.
    pub fn each<'b>(&'b self, keys: &'b [&'b str]) -> impl Iterator<Item = &'b Entry<'a>> {
        self.blocks.iter().filter_map(|block| keys.iter().find_map(|key| colon::find(block, key)))
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn numbers(text: &str) -> Vec<u64> {
        parse(text).cpus.into_iter().map(|(number, _)| number).collect()
    }

    #[test]
    fn cpus_are_counted_in_every_layout() {
        assert_eq!(numbers("processor\t: 0\nflags : a\n\nprocessor\t: 1\n"), [0, 1]);
        // An old kernel for Arm: the name of the processor stands under the same key.
        assert_eq!(numbers("Processor : ARMv7 rev 10\nprocessor : 0\n\nprocessor : 3\n"), [0, 3]);
        // IBM Z, each line twice.
        let text = "vendor_id : IBM/S390\n# processors : 2\nprocessor 0: version = FF\n\
                    processor 1: version = FF\n\ncpu number : 0\n";
        assert_eq!(numbers(text), [0, 1]);
        assert_eq!(numbers("processor : x\n"), [0u64; 0]);
    }

    proptest! {
        #[test]
        fn no_text_makes_it_panic(text in "(processor [0-9]{0,3}|[a-z :\t]{0,8}|: |\n){0,30}") {
            let info = parse(&text);
            prop_assert!(info.cpus.iter().all(|(_, block)| *block < info.blocks.len()));
            let _ = info.first(&["processor"]);
            let _ = info.each(&["processor"]).count();
        }
    }
}
