//! Caches, and which CPUs share each (`Documentation/ABI/testing/sysfs-devices-system-cpu`, cache).

use crate::readers::sayings;
use std::collections::{BTreeMap, BTreeSet};

use super::{ROOT, topology::by_first_cpu};
use crate::{
    formats::number,
    readers::file::{File, list},
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Why, saying},
    leaf::Bytes,
    model::CpuCache,
};

/// Caches, those of one level, kind and size together.
pub(super) fn caches(lease: &Lease, cpus: &[u64]) -> Parts<CpuCache> {
    type Key = (u64, String, String);
    let mut instances: BTreeMap<Key, BTreeSet<String>> = BTreeMap::new();
    let mut examples: BTreeMap<Key, String> = BTreeMap::new();
    let mut missing = None;
    for cpu in cpus {
        let folder = format!("{ROOT}/cpu{cpu}/cache");
        let names = match list(lease, &folder) {
            Ok(names) => names,
            Err(gap) => {
                missing = missing.or(Some(gap));
                continue;
            }
        };
        for index in names.iter().filter_map(|name| name.to_str()) {
            if !index.starts_with("index") {
                continue;
            }
            let text = |name: &str| {
                let file = File::read(lease, format!("{folder}/{index}/{name}"));
                file.text().trim().to_owned()
            };
            let Some(level) = number::decimal(&text("level")) else { continue };
            let key = (level, text("type"), text("size"));
            instances.entry(key.clone()).or_default().insert(text("shared_cpu_list"));
            examples.entry(key).or_insert_with(|| format!("{folder}/{index}"));
        }
    }
    if instances.is_empty() {
        let gap = missing.unwrap_or_else(|| {
            Gap::new(Why::NotProvided).tried(
                format!("{ROOT}/cpu*/cache").into(),
                saying!("describes-no-cache", "describes no cache"),
            )
        });
        return Parts::missing(gap);
    }
    let items = instances
        .iter()
        .filter_map(|(key, shared)| {
            let folder = examples.get(key)?;
            let file = |name: &str| File::read(lease, format!("{folder}/{name}"));
            let groups = shared.iter().map(String::as_str).collect::<Vec<_>>().join(" | ");
            let rule = saying!(
                "counted-distinct-shared-cpu-list",
                "counted: the distinct shared_cpu_list of such caches",
            );
            let size = file("size")
                .fact(saying!("k-1024-bytes", "K is 1024 bytes"), number::size_with_unit);
            let sharing =
                Evidence::new(format!("{ROOT}/cpu*/cache/index*/shared_cpu_list").into(), rule)
                    .raw(&groups);
            Some(CpuCache {
                total_bytes: size
                    .clone()
                    .map(|bytes| bytes.saturating_mul(shared.len() as u64))
                    .by_rule(saying!(
                        "size-one-times-how-many",
                        "the size of one, times how many there are",
                    ))
                    .with_evidence_of(&Fact::known(0u64, sharing.clone()))
                    .map(Bytes),
                shared_by: Fact::known(
                    by_first_cpu(shared.iter().map(String::as_str)),
                    Evidence {
                        rule: saying!(
                            "distinct-shared-cpu-list-such",
                            "the distinct shared_cpu_list of such caches",
                        ),
                        ..sharing.clone()
                    },
                ),
                size_bytes: size.map(Bytes),
                level: file("level").fact(sayings::DECIMAL_NUMBER, number::decimal),
                kind: file("type").text_fact(),
                ways: file("ways_of_associativity")
                    .fact(sayings::DECIMAL_NUMBER, number::decimal)
                    .and_then(|ways| match ways {
                        0 => Err(Gap::new(Why::Blank)
                            .hint(saying!("0-not-known", "0 says that it is not known"))),
                        known => Ok(known),
                    }),
                line_bytes: file("coherency_line_size")
                    .fact(sayings::BYTES, number::decimal)
                    .map(Bytes),
                instances: Fact::known(shared.len() as u64, sharing),
            })
        })
        .collect();
    let rule = saying!("those-one-level-kind-size", "those of one level, kind and size together");
    Parts::known(items, Evidence::new(format!("{ROOT}/cpu*/cache").into(), rule))
}
