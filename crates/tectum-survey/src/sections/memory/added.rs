//! Memory that a driver gave to the kernel beside what the firmware did (virtio-mem, or a CXL or
//! persistent device that is used as memory): the ranges of `/proc/iomem` that bear a driver's name.

use std::collections::BTreeMap;

use super::numa::NODES;
use crate::{
    formats::memory_ranges::{self, Range},
    readers::file::{File, list, numbered},
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Why, saying},
    leaf::{Bytes, Term},
    model::{AddedMemory, MemoryBlocks},
};

pub(super) fn added(lease: &Lease, blocks: &MemoryBlocks) -> Parts<AddedMemory> {
    let file = File::read(lease, "/proc/iomem");
    if let Err(gap) = file.bytes() {
        return Parts::missing(gap.clone());
    }
    let text = file.text();
    let ranges = memory_ranges::of_drivers(&text);
    let evidence =
        file.evidence(saying!("system-ram-of-a-driver", "the ranges named System RAM (driver)"));
    // To those without the right, the kernel writes every address as 0.
    if memory_ranges::are_withheld(&text) {
        return Parts::missing(Gap::new(Why::Permission).tried(
            file.path().clone(),
            saying!("every-address-is-zero", "shows every address as 0"),
        ));
    }
    let nodes = nodes_of_blocks(lease, ranges.is_empty());
    let mut groups: BTreeMap<(&str, Option<u64>), Vec<&Range<'_>>> = BTreeMap::new();
    for range in &ranges {
        let block = blocks.block_bytes.value().and_then(|size| range.start.checked_div(size.0));
        let node = block.and_then(|block| nodes.get(&block).copied());
        groups.entry((range.driver, node)).or_default().push(range);
    }
    let parts = groups.into_iter().map(|((driver, node), all)| {
        let sum = all.iter().fold(0u64, |sum, range| sum.saturating_add(range.bytes));
        let lines: Vec<&str> = all.iter().map(|range| range.line).collect();
        let said = |rule| -> Evidence { file.evidence(rule).raw(&lines.join("; ")) };
        AddedMemory {
            driver: Fact::known(
                Term::from(driver),
                said(saying!("driver-behind-system-ram", "the name in brackets")),
            ),
            size_bytes: Fact::known(
                Bytes(sum),
                said(saying!("sum-of-the-ranges", "the sum of the ranges")),
            ),
            numa_node: match node {
                Some(node) => Fact::known(
                    node,
                    said(saying!("node-of-the-block", "the node of the block that starts there")),
                ),
                None => Fact::gap(Gap::new(Why::NotProvided).tried(
                    NODES.into(),
                    saying!("no-node-lists-the-block", "no node lists the block that starts there"),
                )),
            },
        }
    });
    Parts::known(parts.collect(), evidence)
}

/// Each block of memory with its node.
fn nodes_of_blocks(lease: &Lease, unasked: bool) -> BTreeMap<u64, u64> {
    let mut nodes = BTreeMap::new();
    if unasked {
        return nodes;
    }
    for node in list(lease, NODES).map(|names| numbered(&names, "node")).unwrap_or_default() {
        let blocks = list(lease, format!("{NODES}/node{node}")).unwrap_or_default();
        nodes.extend(numbered(&blocks, "memory").into_iter().map(|block| (block, node)));
    }
    nodes
}
