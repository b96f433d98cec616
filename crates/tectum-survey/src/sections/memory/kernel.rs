//! Memory as the kernel sees it: NUMA nodes, blocks, huge pages.

use crate::readers::sayings;
use std::collections::BTreeSet;

use crate::{
    formats::{number, number_list},
    readers::file::{File, list, listing_evidence, numbered},
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Saying, Why},
    leaf::{Bytes, Series},
    model::{Hugepages, MemoryBlocks, NumaNode},
};

const BLOCKS: &str = "/sys/devices/system/memory";
pub(super) const NODES: &str = "/sys/devices/system/node";
pub(super) const HUGEPAGES: &str = "/sys/kernel/mm/hugepages";

/// The blocks, and the numbers of those that are online.
pub(super) fn blocks(lease: &Lease) -> (MemoryBlocks, BTreeSet<u64>) {
    let block_bytes = File::read(lease, format!("{BLOCKS}/block_size_bytes"))
        .fact(sayings::HEXADECIMAL_BYTES, number::hexadecimal);
    let mut online = BTreeSet::new();
    let names = match list(lease, BLOCKS) {
        Ok(names) => names,
        Err(gap) => {
            let gap = gap.hint(Saying::new(
                "kernel-can-take-memory-out",
                "there where the kernel can take memory in and out of use",
            ));
            let blocks = MemoryBlocks {
                block_bytes: block_bytes.map(Bytes),
                online: Fact::gap(gap.clone()),
                offline: Fact::gap(gap.clone()),
                online_bytes: Fact::gap(gap),
            };
            return (blocks, online);
        }
    };
    let mut offline = 0u64;
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
    let counted = |count: u64, rule: Saying| {
        let evidence = Evidence::new(format!("{BLOCKS}/memory*/state").into(), rule);
        Fact::known(count, evidence.raw(&count.to_string()))
    };
    let count = online.len() as u64;
    let block_bytes = block_bytes.map(Bytes);
    let online_bytes = online_bytes(&block_bytes, count);
    let blocks = MemoryBlocks {
        online: counted(
            count,
            Saying::new("counted-those-online", "counted: those that say online"),
        ),
        offline: counted(
            offline,
            Saying::new("counted-those-offline", "counted: those that say offline"),
        ),
        online_bytes: online_bytes.map(Bytes),
        block_bytes,
    };
    (blocks, online)
}

fn online_bytes(block_bytes: &Fact<Bytes>, blocks: u64) -> Fact<u64> {
    block_bytes
        .clone()
        .and_then(|bytes| {
            let gap = || {
                Gap::new(Why::Invalid)
                    .hint(Saying::new("more-than-can-counted", "more than can be counted"))
            };
            bytes.checked_mul(blocks).ok_or_else(gap)
        })
        .by_rule(Saying::new(
            "size-block-times-blocks-online",
            "the size of a block, times the blocks that are online",
        ))
}

pub(super) fn numa_nodes(
    lease: &Lease,
    blocks: &MemoryBlocks,
    online: &BTreeSet<u64>,
) -> Parts<NumaNode> {
    let names = match list(lease, NODES) {
        Ok(names) => names,
        Err(gap) => {
            return Parts::missing(gap.hint(Saying::new(
                "kernel-built-numa",
                "there where the kernel is built for NUMA",
            )));
        }
    };
    let nodes = numbered(&names, "node").into_iter().map(|number| {
        let folder = format!("{NODES}/node{number}");
        let file = |name: &str| File::read(lease, format!("{folder}/{name}"));
        NumaNode {
            number: Fact::known(
                number,
                listing_evidence(NODES, sayings::NUMBER_FOLDER_NAME).raw(&format!("node{number}")),
            ),
            cpus: cpus(&file("cpulist")),
            online_bytes: match list(lease, &folder) {
                Err(gap) => Fact::gap(gap),
                Ok(names) => {
                    let here = numbered(&names, "memory");
                    let count = here.iter().filter(|block| online.contains(block)).count();
                    online_bytes(&blocks.block_bytes, count as u64).map(Bytes)
                }
            },
            distances: file("distance").fact(
                Saying::new("order-nodes", "in the order of the nodes"),
                |text| {
                    text.split_whitespace().map(number::decimal).collect::<Option<_>>().map(Series)
                },
            ),
        }
    });
    Parts::known(nodes.collect(), listing_evidence(NODES, sayings::EVERY_FOLDER_NAMED_NODE_NUMBER))
}

/// The CPUs near a node; a node of memory alone has none, and its file is empty.
fn cpus(file: &File) -> Fact<Vec<u64>> {
    match file.bytes() {
        Ok(bytes) if bytes.iter().all(u8::is_ascii_whitespace) => Fact::known(
            Vec::new(),
            file.evidence(Saying::new(
                "empty-list-node-no-cpu",
                "an empty list: the node has no CPU",
            )),
        ),
        _ => file.fact(
            Saying::new("list-numbers-ranges", "a list of numbers and ranges"),
            number_list::parse,
        ),
    }
}

/// Each size of huge pages with its folder, the smallest first.
pub(super) fn hugepage_sizes(lease: &Lease) -> Result<Vec<(u64, String)>, Gap> {
    let names = list(lease, HUGEPAGES).map_err(|gap| {
        gap.hint(Saying::new(
            "kernel-built-huge-pages",
            "there where the kernel is built for huge pages",
        ))
    })?;
    let mut sizes: Vec<(u64, String)> = names
        .iter()
        .filter_map(|name| {
            let name = name.to_str()?;
            let kibibytes = name.strip_prefix("hugepages-")?.strip_suffix("kB")?;
            Some((number::decimal(kibibytes)?.checked_mul(1024)?, format!("{HUGEPAGES}/{name}")))
        })
        .collect();
    sizes.sort();
    Ok(sizes)
}

/// The size of a page, from the name of its folder.
pub(super) fn page_bytes(bytes: u64, folder: &str) -> Fact<u64> {
    let rule = Saying::new(
        "kibibytes-folder-name-times-1024",
        "kibibytes in the folder's name, times 1024",
    );
    Fact::known(bytes, listing_evidence(HUGEPAGES, rule).raw(folder))
}

pub(super) fn hugepages(lease: &Lease) -> Parts<Hugepages> {
    let sizes = match hugepage_sizes(lease) {
        Ok(sizes) => sizes,
        Err(gap) => return Parts::missing(gap),
    };
    let pools = sizes.into_iter().map(|(bytes, folder)| {
        let count = |name: &str| {
            File::read(lease, format!("{folder}/{name}")).fact(sayings::PAGES, number::decimal)
        };
        Hugepages {
            page_bytes: page_bytes(bytes, &folder).map(Bytes),
            pages: count("nr_hugepages"),
            overcommit_pages: count("nr_overcommit_hugepages"),
        }
    });
    Parts::known(pools.collect(), listing_evidence(HUGEPAGES, sayings::EVERY_FOLDER_FOLDER))
}
