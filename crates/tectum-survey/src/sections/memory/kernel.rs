//! Memory as the kernel sees it: NUMA nodes, blocks, huge pages.

use std::collections::BTreeSet;

use crate::{
    formats::number,
    readers::{
        file::{File, list, numbered, watched},
        sayings,
    },
    source::Lease,
};
use tectum_report::{
    fact::{Evidence, Fact, Gap, Saying, Why, saying},
    leaf::Bytes,
    model::MemoryBlocks,
};

const BLOCKS: &str = "/sys/devices/system/memory";
/// The blocks, and the numbers of those that are online.
pub(super) fn blocks(lease: &Lease) -> (MemoryBlocks, Result<BTreeSet<u64>, Gap>) {
    let block_bytes = File::read(lease, format!("{BLOCKS}/block_size_bytes"))
        .fact(sayings::HEXADECIMAL_BYTES, number::hexadecimal);
    let unknown = |block_bytes: Fact<u64>, gap: Gap| {
        let blocks = MemoryBlocks {
            block_bytes: block_bytes.map(Bytes),
            online: Fact::gap(gap.clone()),
            offline: Fact::gap(gap.clone()),
            online_bytes: Fact::gap(gap.clone()),
        };
        (blocks, Err(gap))
    };
    let names = match list(lease, BLOCKS) {
        Ok(names) => names,
        Err(gap) => {
            let gap = gap.hint(saying!(
                "kernel-can-take-memory-out",
                "there where the kernel can take memory in and out of use",
            ));
            return unknown(block_bytes, gap);
        }
    };
    let mut online = BTreeSet::new();
    let mut offline = 0u64;
    let ((), unseen) = watched(lease, |lease| {
        for number in numbered(&names, "memory") {
            // "going-offline" is on the way: it counts as neither.
            match File::read(lease, format!("{BLOCKS}/memory{number}/state")).text().trim() {
                "online" => {
                    online.insert(number);
                }
                "offline" => offline += 1,
                _ => {}
            }
        }
    });
    // How many there are of each nobody knows who could not ask all.
    if let Some(gap) = unseen {
        return unknown(block_bytes, gap);
    }
    let counted = |count: u64, rule: Saying| {
        let evidence = Evidence::new(format!("{BLOCKS}/memory*/state").into(), rule);
        Fact::known(count, evidence.raw(&count.to_string()))
    };
    let count = online.len() as u64;
    let block_bytes = block_bytes.map(Bytes);
    let online_bytes = online_bytes(&block_bytes, count);
    let blocks = MemoryBlocks {
        online: counted(count, saying!("counted-those-online", "counted: those that say online")),
        offline: counted(
            offline,
            saying!("counted-those-offline", "counted: those that say offline"),
        ),
        online_bytes: online_bytes.map(Bytes),
        block_bytes,
    };
    (blocks, Ok(online))
}

pub(super) fn online_bytes(block_bytes: &Fact<Bytes>, blocks: u64) -> Fact<u64> {
    block_bytes
        .clone()
        .and_then(|bytes| {
            let gap = || {
                Gap::new(Why::Invalid)
                    .hint(saying!("more-than-can-counted", "more than can be counted"))
            };
            bytes.checked_mul(blocks).ok_or_else(gap)
        })
        .by_rule(saying!(
            "size-block-times-blocks-online",
            "the size of a block, times the blocks that are online",
        ))
}
