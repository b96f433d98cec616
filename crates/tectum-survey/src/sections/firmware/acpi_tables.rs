//! ACPI tables (ACPI 6.5, 5.2.6; `Documentation/ABI/testing/sysfs-firmware-acpi`).

use crate::{
    formats::acpi,
    readers::{
        file::{File, listing_evidence},
        sayings,
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Why, saying},
    leaf::{Bytes, Term},
    model::AcpiTable,
};

/// `Documentation/ABI/testing/sysfs-firmware-acpi`. Only headers are read: some tables hold licence
/// keys.
pub(super) fn acpi_tables(lease: &Lease) -> Parts<AcpiTable> {
    const TABLES: &str = "/sys/firmware/acpi/tables";
    let names = match crate::readers::file::list(lease, TABLES) {
        Ok(names) => names,
        Err(gap) => return Parts::missing(gap),
    };
    let tables = names
        .iter()
        .filter_map(|name| name.to_str())
        .filter(|name| !matches!(*name, "data" | "dynamic"))
        .map(|name| {
            let file = File::read_head(lease, format!("{TABLES}/{name}"), acpi::HEADER_LENGTH);
            let header = file.bytes().ok().and_then(|bytes| acpi::table_header(bytes));
            AcpiTable {
                name: Fact::known(
                    Term::from(name),
                    listing_evidence(TABLES, sayings::FILE_NAME).raw(name),
                ),
                length_bytes: of_header(&file, &header, |header| u64::from(header.length))
                    .map(Bytes),
                revision: of_header(&file, &header, |header| u64::from(header.revision)),
                oem_id: of_header(&file, &header, |header| Term(header.oem_id.clone())),
                oem_table_id: of_header(&file, &header, |header| Term(header.oem_table_id.clone())),
                oem_revision: of_header(&file, &header, |header| u64::from(header.oem_revision)),
            }
        })
        .collect();
    Parts::known(tables, listing_evidence(TABLES, sayings::EVERY_FILE_FOLDER))
}

pub(super) fn of_header<T: std::fmt::Display>(
    file: &File,
    header: &Option<acpi::TableHeader>,
    pick: impl FnOnce(&acpi::TableHeader) -> T,
) -> Fact<T> {
    match (file.bytes(), header) {
        (Err(gap), _) => Fact::gap(gap.clone()),
        (Ok(_), None) => Fact::gap(Gap::new(Why::NotApplicable).tried(
            file.path().clone(),
            saying!("no-header-usual-form", "has no header of the usual form"),
        )),
        (Ok(_), Some(header)) => {
            let value = pick(header);
            let evidence = Evidence::new(
                file.path().clone(),
                saying!("field-table-header", "a field of the table's header"),
            )
            .place("the first 36 bytes")
            .raw(&value.to_string());
            Fact::known(value, evidence)
        }
    }
}
