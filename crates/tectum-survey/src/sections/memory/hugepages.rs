//! Huge pages (`Documentation/admin-guide/mm/hugetlbpage.rst`).

use crate::{
    formats::number,
    readers::{
        file::{File, list, listing_evidence},
        sayings,
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, saying},
    leaf::Bytes,
    model::Hugepages,
};

pub(super) const HUGEPAGES: &str = "/sys/kernel/mm/hugepages";

/// Each size of huge pages with its folder, the smallest first.
pub(super) fn hugepage_sizes(lease: &Lease) -> Result<Vec<(u64, String)>, Gap> {
    let names = list(lease, HUGEPAGES).map_err(|gap| {
        gap.hint(saying!(
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
    let rule =
        saying!("kibibytes-folder-name-times-1024", "kibibytes in the folder's name, times 1024",);
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
