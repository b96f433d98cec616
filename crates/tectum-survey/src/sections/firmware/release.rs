//! Releases of the firmware and of its controller.

use crate::readers::dmi::Tables;
use tectum_report::{
    fact::{Fact, saying},
    leaf::Term,
};
use tectum_smbios::{Field, types::BiosInformation};

pub(super) fn release(tables: &Tables, bios: Option<&BiosInformation<'_>>) -> Fact<Term> {
    release_of(tables, bios.map(|bios| [bios.major_release(), bios.minor_release()]))
}

/// A release in two bytes; FFh in both says that there is none, and so do two zeros, which firmware
/// leaves where it has none to tell.
pub(super) fn release_of(
    tables: &Tables,
    fields: Option<[Option<Field<'_, u8>>; 2]>,
) -> Fact<Term> {
    let Some([major, minor]) = fields else {
        return Fact::gap(tables.no_structure(BiosInformation::TYPE));
    };
    let minor = minor.map(|field| field.value);
    tables.fact(
        major,
        saying!(
            "major-release-minor-release-next",
            "major release, with the minor release from the next byte",
        ),
        |major| {
            let minor = minor?;
            (major != 0xFF && minor != 0xFF && (major, minor) != (0, 0))
                .then(|| Term(format!("{major}.{minor}")))
        },
    )
}
