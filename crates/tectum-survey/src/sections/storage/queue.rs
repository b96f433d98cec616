//! How requests reach a disk, what its partitions leave free, what an optical drive can
//! (`Documentation/ABI/stable/sysfs-block`, `Documentation/cdrom`).

use crate::{
    formats::number,
    readers::{block::BlockDevice, sayings},
};
use tectum_report::{fact::Fact, leaf::Term, model::DiskKind};

/// The chosen one of `none [mq-deadline] kyber`; a single word is chosen.
pub(super) fn chosen(text: &str) -> Option<Term> {
    match text.split_once('[') {
        Some((_, rest)) => rest.split_once(']').map(|(word, _)| Term::from(word)),
        None => (!text.contains(' ')).then(|| Term::from(text)),
    }
}

pub(super) fn depth(device: &BlockDevice<'_>, kind: DiskKind) -> Fact<u64> {
    let file = match kind {
        DiskKind::Scsi | DiskKind::Ata | DiskKind::Usb => "device/queue_depth",
        _ => "queue/nr_requests",
    };
    device.file(file).fact(sayings::DECIMAL_NUMBER, number::decimal)
}

pub(super) fn numa_node(device: &BlockDevice<'_>) -> Fact<u64> {
    let of = |file: &str| device.file(file).numa_node();
    of("device/numa_node").or_known(|| of("device/device/numa_node"))
}
