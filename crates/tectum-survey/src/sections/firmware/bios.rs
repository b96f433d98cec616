//! BIOS characteristics and languages (SMBIOS types 0 and 13).

use crate::readers::dmi::Tables;
use tectum_report::{
    fact::{Fact, saying},
    leaf::Term,
};
use tectum_smbios::types::{BiosInformation, BiosLanguage};

/// What the firmware can do: one list of the standard's three bit fields.
pub(super) fn characteristics(
    tables: &Tables,
    bios: Option<&BiosInformation<'_>>,
) -> Fact<Vec<Term>> {
    let Some(bios) = bios else { return Fact::gap(tables.no_structure(BiosInformation::TYPE)) };
    let mut all = tables.flags(bios.characteristics(), |bits| bits.set());
    let more = [
        tables.flags(bios.extension_1(), |bits| bits.set()),
        tables.flags(bios.extension_2(), |bits| bits.set()),
    ];
    for fact in more {
        // Old tables end before the extensions.
        let Some(names) = fact.value().cloned() else { continue };
        all = match all.is_known() {
            false => fact,
            true => all
                .map(|mut list| {
                    list.extend(names);
                    list
                })
                .with_evidence_of(&fact),
        };
    }
    all
}

pub(super) fn language(tables: &Tables) -> Fact<Term> {
    match tables.all(BiosLanguage::from_structure).next() {
        None => Fact::gap(tables.no_structure(BiosLanguage::TYPE)),
        Some(language) => tables.text(language.current()),
    }
}

pub(super) fn languages(tables: &Tables) -> Fact<Vec<Term>> {
    let Some(language) = tables.all(BiosLanguage::from_structure).next() else {
        return Fact::gap(tables.no_structure(BiosLanguage::TYPE));
    };
    let names: Vec<Term> = language
        .languages()
        .filter_map(|text| text.escaped().map(|text| Term(text.trim().to_owned())))
        .collect();
    let handle = language.structure().handle();
    let raw = names.iter().map(|name| name.0.as_str()).collect::<Vec<_>>().join(", ");
    let place = format!("handle {handle}, string set");
    Fact::known(
        names,
        tables.at(
            handle,
            place,
            &raw,
            saying!("strings-many-count", "the strings, as many as the count says"),
        ),
    )
}
