//! NUMA nodes and their distances (`Documentation/ABI/stable/sysfs-devices-node`).

use std::collections::BTreeSet;

use super::kernel::online_bytes;
use crate::{
    formats::{number, number_list},
    readers::{
        file::{File, list, listing_evidence, numbered},
        sayings,
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Saying, saying},
    leaf::{Bytes, MebibytesPerSecond, Nanoseconds, Series},
    model::{MemoryBlocks, NumaNode},
};

pub(super) const NODES: &str = "/sys/devices/system/node";

pub(super) fn numa_nodes(
    lease: &Lease,
    blocks: &MemoryBlocks,
    online: &Result<BTreeSet<u64>, Gap>,
) -> Parts<NumaNode> {
    let names = match list(lease, NODES) {
        Ok(names) => names,
        Err(gap) => {
            return Parts::missing(
                gap.hint(saying!("kernel-built-numa", "there where the kernel is built for NUMA",)),
            );
        }
    };
    let mut left = number_list::MOST;
    let nodes = numbered(&names, "node").into_iter().map(|number| {
        let folder = format!("{NODES}/node{number}");
        let file = |name: &str| File::read(lease, format!("{folder}/{name}"));
        let access = |name: &str| File::read(lease, format!("{folder}/access0/initiators/{name}"));
        NumaNode {
            best_initiators: best_initiators(lease, &folder),
            read_bandwidth_mib_per_second: access("read_bandwidth").fact(MEBIBYTES_A_SECOND, rate),
            write_bandwidth_mib_per_second: access("write_bandwidth")
                .fact(MEBIBYTES_A_SECOND, rate),
            read_latency_ns: access("read_latency").fact(NANOSECONDS, nanoseconds),
            write_latency_ns: access("write_latency").fact(NANOSECONDS, nanoseconds),
            number: Fact::known(
                number,
                listing_evidence(NODES, sayings::NUMBER_FOLDER_NAME).raw(&format!("node{number}")),
            ),
            cpus: cpus(&file("cpulist"), &mut left),
            online_bytes: match (list(lease, &folder), online) {
                (Err(gap), _) => Fact::gap(gap),
                (_, Err(gap)) => Fact::gap(gap.clone()),
                (Ok(names), Ok(online)) => {
                    let here = numbered(&names, "memory");
                    let count = here.iter().filter(|block| online.contains(block)).count();
                    online_bytes(&blocks.block_bytes, count as u64).map(Bytes)
                }
            },
            distances: file("distance").fact(
                saying!("order-nodes", "in the order of the nodes"),
                |text| {
                    text.split_whitespace().map(number::decimal).collect::<Option<_>>().map(Series)
                },
            ),
        }
    });
    Parts::known(nodes.collect(), listing_evidence(NODES, sayings::EVERY_FOLDER_NAMED_NODE_NUMBER))
}

const MEBIBYTES_A_SECOND: Saying = saying!("mib-a-second-0-unknown", "MiB a second; 0 is unknown");
const NANOSECONDS: Saying = saying!("nanoseconds-0-unknown", "nanoseconds; 0 is unknown");

fn rate(text: &str) -> Option<MebibytesPerSecond> {
    number::decimal(text).filter(|it| *it != 0).map(MebibytesPerSecond)
}

fn nanoseconds(text: &str) -> Option<Nanoseconds> {
    number::decimal(text).filter(|it| *it != 0).map(Nanoseconds)
}

/// The nodes that a node's folder of its fastest initiators links to.
fn best_initiators(lease: &Lease, folder: &str) -> Fact<Vec<u64>> {
    let initiators = format!("{folder}/access0/initiators");
    match list(lease, &initiators) {
        Err(gap) => Fact::gap(gap.hint(saying!(
            "firmware-tells-memory-performance",
            "there where the firmware tells how fast each memory is",
        ))),
        Ok(names) => {
            let nodes = numbered(&names, "node");
            let said: Vec<String> = nodes.iter().map(|node| format!("node{node}")).collect();
            let evidence = listing_evidence(&initiators, sayings::NUMBER_FOLDER_NAME);
            Fact::known(nodes, evidence.raw(&said.join(" ")))
        }
    }
}

/// The CPUs near a node; a node of memory alone has none, and its file is empty.
pub(super) fn cpus(file: &File, left: &mut usize) -> Fact<Vec<u64>> {
    match file.bytes() {
        Ok(bytes) if bytes.iter().all(u8::is_ascii_whitespace) => Fact::known(
            Vec::new(),
            file.evidence(saying!("empty-list-node-no-cpu", "an empty list: the node has no CPU",)),
        ),
        _ => file.fact(saying!("list-numbers-ranges", "a list of numbers and ranges"), |text| {
            number_list::parse_within(text, left)
        }),
    }
}
