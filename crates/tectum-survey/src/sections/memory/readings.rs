//! How much memory is in use.

use super::{errors, hugepages, numa};
use crate::readers::sayings;
use crate::{
    formats::{colon, number},
    readers::file::{File, list, listing_evidence, numbered},
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Why, saying},
    leaf::Bytes,
    model::{HugepagesInUse, Memory, MemoryReadings, NumaNodeReadings, Unmanaged},
};

/// `/proc/meminfo` (`Documentation/filesystems/proc.rst`).
pub(super) fn readings(lease: &Lease, memory: &Memory) -> MemoryReadings {
    let file = File::read(lease, "/proc/meminfo");
    let text = file.text();
    let blocks = colon::blocks(&text);
    let lines = blocks.first().map_or(&[][..], Vec::as_slice);
    let fact = |key: &str| {
        file.entry_fact(
            colon::find(lines, key),
            key,
            sayings::KIBIBYTES_TIMES_1024,
            number::kibibytes,
        )
    };
    let total_bytes = fact("MemTotal").map(Bytes);
    let installed = memory.installed_bytes.clone().or_known(|| memory.device_tree_bytes.clone());
    MemoryReadings {
        unmanaged_bytes: unmanaged(&installed, &total_bytes).map(Bytes),
        unmanaged_is: unmanaged_is(&installed, &total_bytes),
        total_bytes,
        free_bytes: fact("MemFree").map(Bytes),
        available_bytes: fact("MemAvailable").map(Bytes),
        buffers_bytes: fact("Buffers").map(Bytes),
        cached_bytes: fact("Cached").map(Bytes),
        swap_total_bytes: fact("SwapTotal").map(Bytes),
        swap_free_bytes: fact("SwapFree").map(Bytes),
        slab_bytes: fact("Slab").map(Bytes),
        slab_reclaimable_bytes: fact("SReclaimable").map(Bytes),
        shared_bytes: fact("Shmem").map(Bytes),
        committed_bytes: fact("Committed_AS").map(Bytes),
        commit_limit_bytes: fact("CommitLimit").map(Bytes),
        hugepages: hugepages(lease),
        numa_nodes: numa_nodes(lease),
        ecc_counts: errors::counts(lease, &memory.slots),
    }
}

fn unmanaged(installed: &Fact<Bytes>, managed: &Fact<Bytes>) -> Fact<u64> {
    if let Some(gap) = managed.missing() {
        return Fact::gap(gap.clone());
    }
    let managed_bytes = managed.value().copied();
    installed
        .clone()
        .and_then(|installed| {
            let managed = managed_bytes.ok_or_else(|| Gap::new(Why::NotProvided))?;
            installed.checked_sub(managed.0).ok_or_else(|| {
                Gap::new(Why::Invalid).hint(saying!(
                    "kernel-manages-more-than-said",
                    "the kernel manages more than is said to be installed",
                ))
            })
        })
        .by_rule(saying!(
            "installed-less-kernel-manages",
            "what is installed, less what the kernel manages",
        ))
        .with_evidence_of(managed)
}

/// What firmware and a kernel of any size keep to themselves: the kernel's own image, the first
/// memory disk, a crash kernel, the firmware's tables.
const FIXED: u64 = 256 << 20;

/// The part of all memory that the kernel takes for its records of it: 64 bytes for each page of
/// 4096 are one part in 64; the rest is for firmware, which takes more on larger machines.
const SHARE: u64 = 32;

fn unmanaged_is(installed: &Fact<Bytes>, managed: &Fact<Bytes>) -> Fact<Unmanaged> {
    if let Some(gap) = managed.missing() {
        return Fact::gap(gap.clone());
    }
    let managed_bytes = managed.value().copied();
    installed
        .clone()
        .and_then(|installed| {
            let managed = managed_bytes.ok_or_else(|| Gap::new(Why::NotProvided))?;
            Ok(match installed.checked_sub(managed.0) {
                None => Unmanaged::Negative,
                Some(rest) if rest <= FIXED + installed.0 / SHARE => Unmanaged::Expected,
                Some(_) => Unmanaged::Much,
            })
        })
        .by_rule(saying!(
            "kernel-firmware-keep-up-256",
            "kernel and firmware keep up to 256 MiB and a thirty-second part: the kernel's records \
             of memory, its image, a crash kernel, the firmware's tables",
        ))
        .with_evidence_of(managed)
}

fn hugepages(lease: &Lease) -> Parts<HugepagesInUse> {
    let sizes = match hugepages::hugepage_sizes(lease) {
        Ok(sizes) => sizes,
        Err(gap) => return Parts::missing(gap),
    };
    let pools = sizes.into_iter().map(|(bytes, folder)| {
        let count = |name: &str| {
            File::read(lease, format!("{folder}/{name}")).fact(sayings::PAGES, number::decimal)
        };
        HugepagesInUse {
            page_bytes: hugepages::page_bytes(bytes, &folder).map(Bytes),
            free: count("free_hugepages"),
            reserved: count("resv_hugepages"),
            surplus: count("surplus_hugepages"),
        }
    });
    Parts::known(
        pools.collect(),
        listing_evidence(hugepages::HUGEPAGES, sayings::EVERY_FOLDER_FOLDER),
    )
}

fn numa_nodes(lease: &Lease) -> Parts<NumaNodeReadings> {
    let names = match list(lease, numa::NODES) {
        Ok(names) => names,
        Err(gap) => return Parts::missing(gap),
    };
    let nodes = numbered(&names, "node").into_iter().map(|number| {
        let file = File::read(lease, format!("{}/node{number}/meminfo", numa::NODES));
        let text = file.text();
        let blocks = colon::blocks(&text);
        let lines = blocks.first().map_or(&[][..], Vec::as_slice);
        let fact = |key: &str| {
            let key = format!("Node {number} {key}");
            let entry = colon::find(lines, &key);
            file.entry_fact(entry, &key, sayings::KIBIBYTES_TIMES_1024, number::kibibytes)
        };
        NumaNodeReadings {
            number: Fact::known(
                number,
                listing_evidence(numa::NODES, sayings::NUMBER_FOLDER_NAME)
                    .raw(&format!("node{number}")),
            ),
            total_bytes: fact("MemTotal").map(Bytes),
            free_bytes: fact("MemFree").map(Bytes),
        }
    });
    let rule = sayings::EVERY_FOLDER_NAMED_NODE_NUMBER;
    Parts::known(nodes.collect(), listing_evidence(numa::NODES, rule))
}
