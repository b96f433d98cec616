//! Caches, and which CPUs share each (`Documentation/ABI/testing/sysfs-devices-system-cpu`, cache).

use crate::readers::sayings;
use std::collections::{BTreeMap, BTreeSet};

use super::{ROOT, topology::by_first_cpu};
use crate::{
    formats::number,
    readers::file::{File, list, watched},
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Why, saying},
    leaf::Bytes,
    model::CpuCache,
};

/// A cache's level, kind and size.
type Key = (u64, String, String);

/// The distinct groups of CPUs that share caches of a kind, a folder of one such cache, and why some CPU has none.
#[derive(Default)]
struct Gathered {
    instances: BTreeMap<Key, BTreeSet<String>>,
    examples: BTreeMap<Key, String>,
    missing: Option<Gap>,
}

fn gather(lease: &Lease, cpus: &[u64]) -> Gathered {
    let mut all = Gathered::default();
    for cpu in cpus {
        let folder = format!("{ROOT}/cpu{cpu}/cache");
        let names = match list(lease, &folder) {
            Ok(names) => names,
            Err(gap) => {
                all.missing = all.missing.or(Some(gap));
                continue;
            }
        };
        for index in names.iter().filter_map(|name| name.to_str()) {
            if !index.starts_with("index") {
                continue;
            }
            // What one does not say is empty; one that could not be read whole is none of these.
            let text = |name: &str| {
                let file = File::read(lease, format!("{folder}/{index}/{name}"));
                file.hidden().is_none().then(|| file.text().trim().to_owned())
            };
            let Some(level) = text("level").and_then(|text| number::decimal(&text)) else {
                continue;
            };
            let (Some(kind), Some(size)) = (text("type"), text("size")) else { continue };
            let Some(shared) = text("shared_cpu_list") else { continue };
            let key = (level, kind, size);
            all.instances.entry(key.clone()).or_default().insert(shared);
            all.examples.entry(key).or_insert_with(|| format!("{folder}/{index}"));
        }
    }
    all
}

/// Caches, those of one level, kind and size together.
pub(super) fn caches(lease: &Lease, cpus: &[u64]) -> Parts<CpuCache> {
    let (Gathered { instances, examples, missing }, hidden) =
        watched(lease, |lease| gather(lease, cpus));
    if instances.is_empty() {
        let gap = hidden.or(missing).unwrap_or_else(|| {
            Gap::new(Why::NotProvided).tried(
                format!("{ROOT}/cpu*/cache").into(),
                saying!("describes-no-cache", "describes no cache"),
            )
        });
        return Parts::missing(gap);
    }
    // Where some could not be seen, nobody knows how many there are.
    let counted = |fact| match &hidden {
        None => fact,
        Some(gap) => Fact::gap(gap.clone()),
    };
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
                total_bytes: counted(
                    size.clone()
                        .map(|bytes| bytes.saturating_mul(shared.len() as u64))
                        .by_rule(saying!(
                            "size-one-times-how-many",
                            "the size of one, times how many there are",
                        ))
                        .with_evidence_of(&Fact::known(0u64, sharing.clone())),
                )
                .map(Bytes),
                shared_by: match &hidden {
                    Some(gap) => Fact::gap(gap.clone()),
                    None => Fact::known(
                        by_first_cpu(shared.iter().map(String::as_str)),
                        Evidence {
                            rule: saying!(
                                "distinct-shared-cpu-list-such",
                                "the distinct shared_cpu_list of such caches",
                            ),
                            ..sharing.clone()
                        },
                    ),
                },
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
                instances: counted(Fact::known(shared.len() as u64, sharing)),
            })
        })
        .collect();
    let rule = saying!("those-one-level-kind-size", "those of one level, kind and size together");
    Parts::known(items, Evidence::new(format!("{ROOT}/cpu*/cache").into(), rule)).in_part(hidden)
}
