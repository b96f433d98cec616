//! The platform's firmware.

use crate::readers::sayings;
use std::{collections::HashMap, path::Path};

use tectum_smbios::{
    Field,
    types::{BiosInformation, BiosLanguage, FirmwareInventory, RomSize},
};

use super::{Found, Section};
use crate::readers::device_tree::DEVICE_TREE;

use crate::readers::{
    dmi::{NAME, Tables, named, published},
    file::{File, listing_evidence, refused},
};
use crate::{
    formats::{acpi, calendar, kernel_parameters, number},
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Saying, Why},
    leaf::{Bytes, Date, ParameterName, ParameterValue, Term},
    model::{
        AcpiTable, BootParameter, Firmware, FirmwareItem, FirmwareKind, TpmChip, UpdatableFirmware,
    },
};

pub(super) const SECTION: Section = Section {
    name: "firmware",
    summary: "BIOS or UEFI, Secure Boot, how the kernel was started",
    reads: &[
        "/sys/class/dmi/id/bios_*",
        "/sys/firmware/devicetree/base/compatible",
        "/sys/firmware/dmi/entries",
        "/sys/firmware/dmi/entries/*/position",
        "/sys/firmware/dmi/entries/*/raw",
        "/sys/firmware/dmi/tables",
        "/sys/firmware/dmi/tables/*",
        "/proc/cmdline",
        "/proc/cpuinfo",
        "/sys/class/tpm",
        "/sys/class/tpm/*/tpm_version_major",
        "/sys/class/tpm/*/device/description",
        "/sys/class/tpm/*/device",
        "/sys/devices/system/cpu",
        "/sys/firmware/acpi/tables",
        "/sys/firmware/acpi/tables/*",
        "/sys/firmware/efi",
        "/sys/firmware/efi/efivars/SecureBoot-*",
        "/sys/firmware/efi/efivars/SetupMode-*",
        "/sys/firmware/efi/esrt/entries",
        "/sys/firmware/efi/esrt/entries/*/*",
    ],
    survey,
};

const EFI: &str = "/sys/firmware/efi";

fn survey(lease: &Lease) -> Found {
    let tables = Tables::read(lease);
    let bios = tables.all(BiosInformation::from_structure).next();
    macro_rules! text {
        ($field:ident, $file:literal) => {
            match &bios {
                Some(bios) => tables.text(bios.$field()),
                None => Fact::gap(tables.no_structure(BiosInformation::TYPE)),
            }
            .or_from(|| published::<Term>(lease, $file))
        };
    }
    let firmware = Firmware {
        kind: kind(lease),
        vendor: text!(vendor, "bios_vendor"),
        version: text!(version, "bios_version"),
        release_date: text!(release_date, "bios_date").and_then(|date: Term| {
            calendar::firmware_date(&date).map(Date::Day).ok_or_else(|| {
                Gap::new(Why::Invalid)
                    .raw(&date)
                    .hint(Saying::new("not-date-mm-dd-yyyy", "not a date mm/dd/yyyy"))
            })
        }),
        release: release(&tables, bios.as_ref())
            .or_from(|| published::<Term>(lease, "bios_release")),
        rom_size_bytes: match &bios {
            None => Fact::gap(tables.no_structure(BiosInformation::TYPE)),
            Some(bios) => tables
                .fact(
                    bios.rom_size(),
                    Saying::new(
                        "64-kib-n-1-extended",
                        "64 KiB × (n + 1), or the extended field's size and unit",
                    ),
                    |size| match size {
                        RomSize::Bytes(bytes) => Some(bytes),
                        RomSize::ReservedUnit(_) => None,
                    },
                )
                .map(Bytes),
        },
        secure_boot: efi_flag(lease, "SecureBoot"),
        setup_mode: efi_flag(lease, "SetupMode"),
        controller_release: release_of(
            &tables,
            bios.as_ref()
                .map(|bios| [bios.controller_major_release(), bios.controller_minor_release()]),
        ),
        characteristics: characteristics(&tables, bios.as_ref()),
        language: language(&tables),
        languages: languages(&tables),
        tpms: tpms(lease),
        kernel_command_line: File::read(lease, "/proc/cmdline").text_fact(),
        boot_parameters: boot_parameters(lease),
        acpi_tables: acpi_tables(lease),
        inventory: items(&tables),
        updatable: updatable(lease),
    };
    Box::new(|findings| findings.inventory.firmware = Some(firmware))
}

fn release(tables: &Tables, bios: Option<&BiosInformation<'_>>) -> Fact<Term> {
    release_of(tables, bios.map(|bios| [bios.major_release(), bios.minor_release()]))
}

/// A release in two bytes; FFh in both says that there is none.
fn release_of(tables: &Tables, fields: Option<[Option<Field<'_, u8>>; 2]>) -> Fact<Term> {
    let Some([major, minor]) = fields else {
        return Fact::gap(tables.no_structure(BiosInformation::TYPE));
    };
    let minor = minor.map(|field| field.value);
    tables.fact(
        major,
        Saying::new(
            "major-release-minor-release-next",
            "major release, with the minor release from the next byte",
        ),
        |major| {
            let minor = minor?;
            (major != 0xFF && minor != 0xFF).then(|| Term(format!("{major}.{minor}")))
        },
    )
}

/// What the firmware can do: one list of the standard's three bit fields.
fn characteristics(tables: &Tables, bios: Option<&BiosInformation<'_>>) -> Fact<Vec<Term>> {
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

fn language(tables: &Tables) -> Fact<Term> {
    match tables.all(BiosLanguage::from_structure).next() {
        None => Fact::gap(tables.no_structure(BiosLanguage::TYPE)),
        Some(language) => tables.text(language.current()),
    }
}

fn languages(tables: &Tables) -> Fact<Vec<Term>> {
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
            Saying::new("strings-many-count", "the strings, as many as the count says"),
        ),
    )
}

/// `Documentation/ABI/stable/sysfs-class-tpm`.
fn tpms(lease: &Lease) -> Parts<TpmChip> {
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

fn boot_parameters(lease: &Lease) -> Parts<BootParameter> {
    let file = File::read(lease, "/proc/cmdline");
    if let Err(gap) = file.bytes() {
        return Parts::missing(gap.clone());
    }
    let text = file.text();
    let mut seen: HashMap<&str, u64> = HashMap::new();
    let parameters: Vec<BootParameter> = kernel_parameters::parse(&text)
        .into_iter()
        .map(|parameter| {
            let number = seen.entry(parameter.name).or_default();
            *number += 1;
            let at =
                |rule: Saying| Evidence::new(file.path().clone(), rule).line(1).raw(parameter.raw);
            let other = |hint: Saying| Gap::new(Why::NotApplicable).hint(hint);
            BootParameter {
                number: Fact::known(
                    *number,
                    at(Saying::new(
                        "counted-among-those-same-name",
                        "counted among those of the same name",
                    )),
                ),
                name: Fact::known(
                    ParameterName::from(parameter.name),
                    at(Saying::new("before-first", "before the first =")),
                ),
                value: match parameter.value {
                    None => Fact::gap(other(Saying::new(
                        "parameter-no-value",
                        "the parameter has no value",
                    ))),
                    Some(value) => Fact::known(
                        ParameterValue(value.to_owned()),
                        at(Saying::new("behind-first", "behind the first =")),
                    ),
                },
            }
        })
        .collect();
    Parts::known(
        parameters,
        file.evidence(Saying::new(
            "every-parameter-before-lone",
            "every parameter before a lone --",
        )),
    )
}

/// How the kernel was started: told only by what is there, never by what is not.
fn kind(lease: &Lease) -> Fact<FirmwareKind> {
    match lease.list(Path::new(EFI)) {
        Ok((names, _)) => {
            let rule = Saying::new(
                "kernel-makes-folder-only-uefi",
                "the kernel makes this folder only where UEFI firmware started it",
            );
            let evidence = listing_evidence(EFI, rule).raw(&joined(&names));
            return Fact::known(FirmwareKind::Uefi, evidence);
        }
        Err(error) if refused(&error).why.hides_a_value() => return Fact::gap(refused(&error)),
        Err(_) => {}
    }
    let entry = File::read(lease, "/sys/firmware/dmi/tables/smbios_entry_point");
    const TABLES: &str = "/sys/firmware/dmi/tables";
    if let Ok((names, _)) = lease.list(Path::new(TABLES)) {
        let rule = Saying::new(
            "smbios-tables-no-sys-firmware-efi-uefi",
            "there are SMBIOS tables and no /sys/firmware/efi, which UEFI firmware would have left",
        );
        let evidence = listing_evidence(TABLES, rule).raw(&joined(&names));
        return Fact::known(FirmwareKind::Bios, evidence);
    }
    let root = File::read(lease, format!("{DEVICE_TREE}/compatible"));
    if root.bytes().is_ok() {
        let rule = Saying::new(
            "device-tree-no-smbios-table",
            "there is a device tree, no SMBIOS table and no /sys/firmware/efi",
        );
        return Fact::known(FirmwareKind::DeviceTree, root.evidence(rule));
    }
    Fact::gap(
        Gap::new(Why::NotProvided)
            .tried(EFI.into(), sayings::NOT_FOUND)
            .tried(entry.path().clone(), sayings::NOT_FOUND)
            .tried(root.path().clone(), sayings::NOT_FOUND)
            .hint(Saying::new(
                "nothing-machine-how-kernel-was",
                "nothing on this machine says how its kernel was started",
            )),
    )
}

fn joined(names: &[std::ffi::OsString]) -> String {
    names.iter().map(|name| name.to_string_lossy()).collect::<Vec<_>>().join(" ")
}

/// The GUID of the variables that UEFI itself defines (UEFI Specification, clause 3.3).
const GLOBAL_VARIABLES: &str = "8be4df61-93ca-11d2-aa0d-00e098032b8c";

/// A UEFI variable of one byte; four bytes of attributes stand before it
/// (`Documentation/filesystems/efivarfs`).
fn efi_flag(lease: &Lease, name: &str) -> Fact<bool> {
    let path = format!("{EFI}/efivars/{name}-{GLOBAL_VARIABLES}");
    let file = File::read(lease, path);
    match file.bytes() {
        Err(gap) => Fact::gap(gap.clone().hint(Saying::new(
            "uefi-machines-whose-kernel-mounts",
            "there on UEFI machines whose kernel mounts efivarfs",
        ))),
        Ok(bytes) => match bytes.get(4..) {
            Some([flag @ (0 | 1)]) => {
                let raw = bytes.iter().map(|byte| format!("{byte:02x} ")).collect::<String>();
                let evidence = Evidence::new(
                    file.path().clone(),
                    Saying::new("byte-behind-attributes", "the byte behind the attributes"),
                )
                .raw(raw.trim_end());
                Fact::known(*flag == 1, evidence)
            }
            _ => Fact::gap(Gap::new(Why::Invalid).tried(
                file.path().clone(),
                Saying::new("no-variable-one-byte", "is no variable of one byte"),
            )),
        },
    }
}

/// `Documentation/ABI/testing/sysfs-firmware-acpi`. Only headers are read: some tables hold licence
/// keys.
fn acpi_tables(lease: &Lease) -> Parts<AcpiTable> {
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

fn of_header<T: std::fmt::Display>(
    file: &File,
    header: &Option<acpi::TableHeader>,
    pick: impl FnOnce(&acpi::TableHeader) -> T,
) -> Fact<T> {
    match (file.bytes(), header) {
        (Err(gap), _) => Fact::gap(gap.clone()),
        (Ok(_), None) => Fact::gap(Gap::new(Why::NotApplicable).tried(
            file.path().clone(),
            Saying::new("no-header-usual-form", "has no header of the usual form"),
        )),
        (Ok(_), Some(header)) => {
            let value = pick(header);
            let evidence = Evidence::new(
                file.path().clone(),
                Saying::new("field-table-header", "a field of the table's header"),
            )
            .place("the first 36 bytes")
            .raw(&value.to_string());
            Fact::known(value, evidence)
        }
    }
}

fn items(tables: &Tables) -> Parts<FirmwareItem> {
    tables.parts(
        FirmwareInventory::TYPE,
        FirmwareInventory::from_structure,
        |item: &FirmwareInventory<'_>| {
            Some(FirmwareItem {
                name: tables.text(item.component_name()),
                version: tables.text(item.version()),
                id: tables.text(item.firmware_id()),
                release_date: tables
                    .text::<Term>(item.release_date())
                    .and_then(|text| calendar::date(&text).ok_or_else(|| not_a_date(&text))),
                lowest_version: tables.text(item.lowest_supported_version()),
                image_bytes: tables
                    .fact(item.image_size_raw(), sayings::BYTES_ALL_ONES_UNKNOWN, |bytes| {
                        (bytes != u64::MAX).then_some(bytes)
                    })
                    .map(Bytes),
                characteristics: tables.flags(item.characteristics(), |bits| bits.set()),
                manufacturer: tables.text(item.manufacturer()),
                state: tables.fact(item.state(), NAME, named),
            })
        },
    )
}

fn updatable(lease: &Lease) -> Parts<UpdatableFirmware> {
    const ENTRIES: &str = "/sys/firmware/efi/esrt/entries";
    let names = match crate::readers::file::list(lease, ENTRIES) {
        Ok(names) => names,
        Err(gap) => return Parts::missing(gap),
    };
    let entries = names
        .iter()
        .filter_map(|name| name.to_str())
        .map(|name| {
            let file = |field: &str| File::read(lease, format!("{ENTRIES}/{name}/{field}"));
            let count = |field: &str| file(field).fact(sayings::DECIMAL_NUMBER, number::decimal);
            UpdatableFirmware {
                class: file("fw_class").text_fact(),
                kind: count("fw_type"),
                version: count("fw_version"),
                lowest_version: count("lowest_supported_fw_version"),
                last_attempt_status: count("last_attempt_status"),
            }
        })
        .collect();
    Parts::known(entries, listing_evidence(ENTRIES, sayings::EVERY_FOLDER_FOLDER))
}

/// A date in a form that says no day.
fn not_a_date(text: &str) -> Gap {
    Gap::new(Why::Invalid).raw(text).hint(sayings::NO_FORM_DATE_KNOWN)
}
