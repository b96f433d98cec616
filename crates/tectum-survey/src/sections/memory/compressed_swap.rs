//! Swap that is held compressed in memory.

use crate::readers::sayings;
use crate::{
    formats::number,
    readers::file::{File, list, listing_evidence, numbered},
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, saying},
    leaf::{Bytes, DeviceName, Percent, Term},
    model::{CompressedSwap, ZramDevice},
};

pub(super) fn compressed_swap(lease: &Lease) -> CompressedSwap {
    let zswap = |name: &str| File::read(lease, format!("/sys/module/zswap/parameters/{name}"));
    CompressedSwap {
        zswap_enabled: zswap("enabled").fact(saying!("y-yes-n-no", "Y is yes, N is no"), |text| {
            match text {
                "Y" | "1" => Some(true),
                "N" | "0" => Some(false),
                _ => None,
            }
        }),
        zswap_compressor: zswap("compressor").text_fact(),
        zswap_max_percent: zswap("max_pool_percent")
            .fact(sayings::PERCENT, number::decimal)
            .map(Percent),
        zram: zram(lease),
    }
}

/// `Documentation/ABI/testing/sysfs-block-zram`.
fn zram(lease: &Lease) -> Parts<ZramDevice> {
    const BLOCK: &str = "/sys/block";
    let names = match list(lease, BLOCK) {
        Ok(names) => names,
        Err(gap) => return Parts::missing(gap),
    };
    let disks = numbered(&names, "zram").into_iter().map(|number| {
        let name = format!("zram{number}");
        let file = |field: &str| File::read(lease, format!("{BLOCK}/{name}/{field}"));
        ZramDevice {
            name: Fact::known(
                DeviceName(name.clone()),
                listing_evidence(
                    BLOCK,
                    saying!("disk-name-folder", "the disk's name in the folder"),
                )
                .raw(&name),
            ),
            size_bytes: file("disksize").fact(sayings::BYTES, number::decimal).map(Bytes),
            compressor: file("comp_algorithm").fact(sayings::ONE_BRACKETS, in_brackets),
            // The file that sets the limit cannot be read.
            limit_bytes: file("mm_stat")
                .fact(
                    saying!("fourth-number-bytes-0-no", "the fourth number, bytes; 0 is no limit",),
                    |text| number::decimal(text.split_whitespace().nth(3)?),
                )
                .map(Bytes),
        }
    });
    Parts::known(
        disks.collect(),
        listing_evidence(
            BLOCK,
            saying!("every-disk-named-zram-number", "every disk named zram and a number"),
        ),
    )
}

/// The chosen one of a list of words, as the kernel marks it.
fn in_brackets(text: &str) -> Option<Term> {
    let (_, rest) = text.split_once('[')?;
    rest.split_once(']').map(|(word, _)| Term::from(word))
}
