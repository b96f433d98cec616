//! The platform's firmware.

use std::path::Path;

use tectum_smbios::types::{BiosInformation, RomSize};

use super::{
    Found, Section,
    dmi::{Tables, published},
    file::{File, listing_evidence, refused},
    platform::DEVICE_TREE,
};
use crate::{
    formats::calendar,
    report::{
        fact::{Fact, Gap, Why},
        kinds::Text,
        model::{Firmware, FirmwareKind},
    },
    source::Lease,
};

pub(super) const SECTION: Section = Section {
    name: "firmware",
    summary: "BIOS or UEFI: vendor, version, date, size",
    reads: &[
        "/sys/class/dmi/id/bios_*",
        "/sys/firmware/devicetree/base/compatible",
        "/sys/firmware/dmi/tables",
        "/sys/firmware/dmi/tables/*",
        "/sys/firmware/efi",
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
            .or_from(|| published::<Text>(lease, $file))
        };
    }
    let firmware = Firmware {
        kind: kind(lease),
        vendor: text!(vendor, "bios_vendor"),
        version: text!(version, "bios_version"),
        date: text!(release_date, "bios_date").and_then(|date: Text| {
            calendar::firmware_date(&date)
                .map(Text)
                .ok_or_else(|| Gap::new(Why::Invalid).raw(&date).hint("not a date mm/dd/yyyy"))
        }),
        release: release(&tables, bios.as_ref())
            .or_from(|| published::<Text>(lease, "bios_release")),
        rom_size_bytes: match &bios {
            None => Fact::gap(tables.no_structure(BiosInformation::TYPE)),
            Some(bios) => tables.fact(
                bios.rom_size(),
                "64 KiB × (n + 1), or the extended field's size and unit",
                |size| match size {
                    RomSize::Bytes(bytes) => Some(bytes),
                    RomSize::ReservedUnit(_) => None,
                },
            ),
        },
    };
    Box::new(|findings| findings.inventory.firmware = Some(firmware))
}

fn release(tables: &Tables, bios: Option<&BiosInformation<'_>>) -> Fact<Text> {
    let Some(bios) = bios else { return Fact::gap(tables.no_structure(BiosInformation::TYPE)) };
    let major = bios.major_release();
    let minor = bios.minor_release().map(|field| field.value);
    tables.fact(major, "major release, with the minor release from the next byte", |major| {
        let minor = minor?;
        (major != 0xFF && minor != 0xFF).then(|| Text(format!("{major}.{minor}")))
    })
}

/// How the kernel was started: told only by what is there, never by what is not.
fn kind(lease: &Lease) -> Fact<FirmwareKind> {
    match lease.list(Path::new(EFI)) {
        Ok((names, _)) => {
            let rule = "the kernel makes this folder only where UEFI firmware started it";
            let evidence = listing_evidence(EFI, rule).raw(&joined(&names));
            return Fact::known(FirmwareKind::Uefi, evidence);
        }
        Err(error) if refused(&error).why.hides_a_value() => return Fact::gap(refused(&error)),
        Err(_) => {}
    }
    let entry = File::read(lease, "/sys/firmware/dmi/tables/smbios_entry_point");
    const TABLES: &str = "/sys/firmware/dmi/tables";
    if let Ok((names, _)) = lease.list(Path::new(TABLES)) {
        let rule =
            "there are SMBIOS tables and no /sys/firmware/efi, which UEFI firmware would have left";
        let evidence = listing_evidence(TABLES, rule).raw(&joined(&names));
        return Fact::known(FirmwareKind::Bios, evidence);
    }
    let root = File::read(lease, format!("{DEVICE_TREE}/compatible"));
    if root.bytes().is_ok() {
        let rule = "there is a device tree, no SMBIOS table and no /sys/firmware/efi";
        return Fact::known(FirmwareKind::DeviceTree, root.evidence(rule));
    }
    Fact::gap(
        Gap::new(Why::NotProvided)
            .tried(EFI.into(), "not found")
            .tried(entry.path().clone(), "not found")
            .tried(root.path().clone(), "not found")
            .hint("nothing on this machine says how its kernel was started"),
    )
}

fn joined(names: &[std::ffi::OsString]) -> String {
    names.iter().map(|name| name.to_string_lossy()).collect::<Vec<_>>().join(" ")
}
