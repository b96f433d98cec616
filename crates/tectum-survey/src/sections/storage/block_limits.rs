//! What a SCSI disk's pages say of transfers, provisioning and characteristics.

use std::sync::Arc;

use crate::{
    formats::{
        number,
        vital_product_data::{
            self as vpd, BlockCharacteristics, Provisioning, block_characteristics,
        },
    },
    readers::{block::BlockDevice, sayings},
};
use tectum_report::{
    fact::{Evidence, Fact, Gap, Saying, Why, saying},
    leaf::Term,
};

pub(super) fn optimal_transfer(device: &BlockDevice<'_>, sector: Option<u64>) -> Fact<u64> {
    let queue = device
        .file("queue/optimal_io_size")
        .fact(saying!("bytes-0-nothing", "bytes; 0 says nothing"), number::decimal);
    let queue = queue.and_then(|bytes| match bytes {
        0 => Err(Gap::new(Why::Blank)),
        bytes => Ok(bytes),
    });
    queue.or_known(|| {
        let page = device.file("device/vpd_pgb0");
        let said = match page.bytes() {
            Err(gap) => return Fact::gap(gap.clone()),
            Ok(bytes) => vpd::block_limits(bytes).and_then(|limits| limits.optimal_transfer_blocks),
        };
        match said.zip(sector).and_then(|(blocks, sector)| blocks.checked_mul(sector)) {
            Some(bytes) => {
                let rule = saying!(
                    "blocks-block-limits-page-sbc",
                    "blocks of the block limits page (SBC-5 clause 6.6.4) by their size",
                );
                let evidence = Evidence::new(Arc::clone(page.path()), rule);
                Fact::known(bytes, evidence.raw(&format!("{said:?}")))
            }
            None => Fact::gap(
                Gap::new(Why::Blank).tried(Arc::clone(page.path()), sayings::DOES_NOT_SAY_IT),
            ),
        }
    })
}

pub(super) fn provisioning(device: &BlockDevice<'_>) -> Fact<Term> {
    let page = device.file("device/vpd_pgb2");
    let said = match page.bytes() {
        Err(gap) => return Fact::gap(gap.clone()),
        Ok(bytes) => vpd::provisioning(bytes),
    };
    let word = match said {
        Some(Provisioning::Thin) => "thin",
        Some(Provisioning::Resource) => "resource",
        Some(Provisioning::Unsaid) => {
            return Fact::gap(
                Gap::new(Why::Blank)
                    .tried(Arc::clone(page.path()), saying!("neither", "says neither")),
            );
        }
        None => {
            return Fact::gap(Gap::new(Why::Invalid).tried(
                Arc::clone(page.path()),
                saying!(
                    "no-logical-block-provisioning-page",
                    "is no logical block provisioning page",
                ),
            ));
        }
    };
    let rule = saying!(
        "provisioning-type-page-sbc-5",
        "the provisioning type of the page (SBC-5 clause 6.6.7)",
    );
    Fact::known(Term::from(word), Evidence::new(Arc::clone(page.path()), rule).raw(word))
}

/// What the drive says of itself in its characteristics page (SBC-5 clause 6.6.2).
pub(super) fn characteristic<T: std::fmt::Display>(
    device: &BlockDevice<'_>,
    pick: impl FnOnce(BlockCharacteristics) -> Option<T>,
) -> Fact<T> {
    let page = device.file("device/vpd_pgb1");
    let bytes = match page.bytes() {
        Ok(bytes) => bytes,
        Err(gap) => return Fact::gap(gap.clone()),
    };
    let gap = |why, answer: Saying| Fact::gap(Gap::new(why).tried(Arc::clone(page.path()), answer));
    match block_characteristics(bytes).map(pick) {
        None => gap(
            Why::Invalid,
            saying!(
                "no-block-device-characteristics-page",
                "is no block device characteristics page",
            ),
        ),
        Some(None) => gap(Why::Blank, sayings::DOES_NOT_SAY_IT),
        Some(Some(value)) => {
            let rule = saying!(
                "field-block-device-characteristics-page",
                "a field of the block device characteristics page",
            );
            let raw = value.to_string();
            Fact::known(value, Evidence::new(Arc::clone(page.path()), rule).raw(&raw))
        }
    }
}
