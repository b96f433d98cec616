//! Trusted Platform Modules (`Documentation/ABI/stable/sysfs-class-tpm`).

use crate::{
    formats::number,
    readers::{
        file::{File, listing_evidence},
        sayings,
    },
    source::Lease,
};
use tectum_report::{declare::Parts, fact::Fact, leaf::Term, model::TpmChip};

/// `Documentation/ABI/stable/sysfs-class-tpm`.
pub(super) fn tpms(lease: &Lease) -> Parts<TpmChip> {
    const CLASS: &str = "/sys/class/tpm";
    let names = match crate::readers::file::list(lease, CLASS) {
        Ok(names) => names,
        Err(gap) => return Parts::missing(gap),
    };
    let chips = names.iter().filter_map(|name| name.to_str()).map(|name| TpmChip {
        name: Fact::known(
            Term::from(name),
            listing_evidence(CLASS, sayings::NAME_OF_THE_FOLDER).raw(name),
        ),
        major_version: File::read(lease, format!("{CLASS}/{name}/tpm_version_major"))
            .fact(sayings::DECIMAL_NUMBER, number::decimal),
        description: File::read(lease, format!("{CLASS}/{name}/device/description")).text_fact(),
    });
    Parts::known(chips.collect(), listing_evidence(CLASS, sayings::EVERY_FOLDER_FOLDER))
}
