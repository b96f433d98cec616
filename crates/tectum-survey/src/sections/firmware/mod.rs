//! The platform's firmware.

mod acpi_tables;
mod bios;
mod boot_parameters;
mod components;
mod efi_variables;
mod release;
mod tpm;
mod updatable;

use std::path::Path;

use self::{
    bios::{characteristics, language, languages},
    components::items,
    efi_variables::efi_flag,
    release::release_of,
    tpm::tpms,
};
use super::{Found, Section};
use crate::{
    formats::calendar,
    readers::{
        device_tree::DEVICE_TREE,
        dmi::{Tables, published},
        file::{File, listing_evidence, refused},
        sayings,
    },
    source::Lease,
};
use tectum_report::{
    fact::{Fact, Gap, Why, saying},
    leaf::{Bytes, Date, Term},
    model::{Firmware, FirmwareKind},
};
use tectum_smbios::types::{BiosInformation, RomSize};

pub(super) const SECTION: Section = Section {
    name: "firmware",
    summary: "BIOS or UEFI, Secure Boot, how the kernel was started",
    reads: &[
        "/sys/class/dmi/id/bios_*",
        "/sys/firmware/devicetree/base/compatible",
        "/sys/firmware/devicetree/base/openprom/model",
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
        version: match &bios {
            Some(_) => text!(version, "bios_version"),
            None => text!(version, "bios_version").or_known(|| {
                File::read(lease, format!("{DEVICE_TREE}/openprom/model")).text_fact()
            }),
        },
        release_date: text!(release_date, "bios_date").and_then(|date: Term| {
            calendar::firmware_date(&date).map(Date::Day).ok_or_else(|| {
                Gap::new(Why::Invalid)
                    .raw(&date)
                    .hint(saying!("not-date-mm-dd-yyyy", "not a date mm/dd/yyyy"))
            })
        }),
        release: release::release(&tables, bios.as_ref())
            .or_from(|| published::<Term>(lease, "bios_release")),
        rom_size_bytes: match &bios {
            None => Fact::gap(tables.no_structure(BiosInformation::TYPE)),
            Some(bios) => tables
                .fact(
                    bios.rom_size(),
                    saying!(
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
        boot_parameters: boot_parameters::boot_parameters(lease),
        acpi_tables: acpi_tables::acpi_tables(lease),
        inventory: items(&tables),
        updatable: updatable::updatable(lease),
    };
    Box::new(|observed| observed.inventory.firmware = Some(firmware))
}

/// How the kernel was started: told only by what is there, never by what is not.
fn kind(lease: &Lease) -> Fact<FirmwareKind> {
    match lease.list(Path::new(EFI)) {
        Ok((names, _)) => {
            let rule = saying!(
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
        let rule = saying!(
            "smbios-tables-no-sys-firmware-efi-uefi",
            "there are SMBIOS tables and no /sys/firmware/efi, which UEFI firmware would have left",
        );
        let evidence = listing_evidence(TABLES, rule).raw(&joined(&names));
        return Fact::known(FirmwareKind::Bios, evidence);
    }
    let open = File::read(lease, format!("{DEVICE_TREE}/openprom/model"));
    if open.bytes().is_ok() {
        let rule = saying!(
            "open-firmware-tells-of-itself",
            "the node in which Open Firmware tells of itself (IEEE 1275 clause 3.6.1)",
        );
        return Fact::known(FirmwareKind::OpenFirmware, open.evidence(rule));
    }
    let root = File::read(lease, format!("{DEVICE_TREE}/compatible"));
    if root.bytes().is_ok() {
        let rule = saying!(
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
            .hint(saying!(
                "nothing-machine-how-kernel-was",
                "nothing on this machine says how its kernel was started",
            )),
    )
}

fn joined(names: &[std::ffi::OsString]) -> String {
    names.iter().map(|name| name.to_string_lossy()).collect::<Vec<_>>().join(" ")
}
