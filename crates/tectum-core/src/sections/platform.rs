//! Who the machine is: system, boards, chassis.

use std::path::Path;

use tectum_smbios::{
    Version,
    types::{BaseboardInformation, ChassisInformation, SystemInformation},
};

use super::{
    Found, Section,
    dmi::{Tables, published},
    file::{File, refused},
    firmware_parts, os,
};
use crate::{
    report::{
        fact::{Fact, Gap, Why},
        kinds::{Serial, Text, Uuid},
        model::{Board, Chassis, DeviceTree, Machine, Platform, System},
        record::Parts,
    },
    source::Lease,
};

pub(super) const SECTION: Section = Section {
    name: "platform",
    summary: "who the machine is: system, boards and chassis with makers and serial numbers",
    reads: &[
        "/sys/bus/pci/devices/*/driver",
        "/sys/class/dmi/id/*",
        "/sys/firmware/devicetree/base",
        "/sys/firmware/devicetree/base/*",
        "/sys/firmware/dmi/tables",
        "/sys/firmware/dmi/tables/*",
    ],
    survey,
};

/// The device tree's root node, where the kernel publishes it
/// (`Documentation/ABI/testing/sysfs-firmware-ofw`).
pub(super) const DEVICE_TREE: &str = "/sys/firmware/devicetree/base";

fn survey(lease: &Lease) -> Found {
    let tables = Tables::read(lease);
    let platform = Platform {
        smbios_version: tables.version().map(|version| Text(version.to_string())),
        system: system(lease, &tables),
        boards: boards(lease, &tables),
        chassis: chassis(lease, &tables),
        slots: firmware_parts::slots(lease, &tables),
        onboard_devices: firmware_parts::onboard_devices(&tables),
        ports: firmware_parts::ports(&tables),
        power_supplies: firmware_parts::power_supplies(&tables),
        oem_strings: firmware_parts::oem_strings(&tables),
        management_controllers: firmware_parts::management_controllers(&tables),
        tpms: firmware_parts::tpms(&tables),
        boot_status: firmware_parts::boot_status(&tables),
        device_tree: device_tree(lease),
    };
    Box::new(|findings| findings.inventory.platform = Some(platform))
}

/// Who the machine is, known whichever sections are asked for.
pub(super) const IDENTITY: Section = Section {
    name: "machine",
    summary: "host name, ids and serial number",
    reads: &[
        "/etc/hostname",
        "/etc/machine-id",
        "/proc/sys/kernel/hostname",
        "/sys/class/dmi/id/*",
        "/sys/firmware/devicetree/base",
        "/sys/firmware/devicetree/base/*",
        "/sys/firmware/dmi/tables",
        "/sys/firmware/dmi/tables/*",
    ],
    survey: identity,
};

fn identity(lease: &Lease) -> Found {
    let system = system(lease, &Tables::read(lease));
    let board = || device_tree(lease).map_or_else(Fact::default, |tree| tree.serial);
    let machine = Machine {
        hostname: os::hostname(lease),
        machine_id: os::machine_id(lease),
        system_uuid: system.uuid,
        serial: system.serial.or_known(board),
    };
    Box::new(|findings| findings.machine = machine)
}

fn system(lease: &Lease, tables: &Tables) -> System {
    let found = tables.all(SystemInformation::from_structure).next();
    macro_rules! text {
        ($field:ident, $file:literal) => {
            match &found {
                Some(structure) => tables.text(structure.$field()),
                None => Fact::gap(tables.no_structure(SystemInformation::TYPE)),
            }
            .or_from(|| published(lease, $file))
        };
    }
    System {
        manufacturer: text!(manufacturer, "sys_vendor"),
        product: text!(product_name, "product_name"),
        version: text!(version, "product_version"),
        serial: text!(serial_number, "product_serial"),
        uuid: uuid(tables, found.as_ref()).or_from(|| {
            published::<Uuid>(lease, "product_uuid").and_then(|text| {
                let plain = text.to_ascii_lowercase();
                if plain.chars().all(|c| matches!(c, '0' | '-'))
                    || plain.chars().all(|c| matches!(c, 'f' | '-'))
                {
                    return Err(Gap::new(Why::Blank).raw(&plain));
                }
                Ok(Uuid(plain))
            })
        }),
        sku: text!(sku_number, "product_sku"),
        family: text!(family, "product_family"),
    }
}

fn uuid(tables: &Tables, system: Option<&SystemInformation<'_>>) -> Fact<Uuid> {
    let Some(system) = system else {
        return Fact::gap(tables.no_structure(SystemInformation::TYPE));
    };
    // Without an entry point the order that has been usual since 2007 is taken.
    let version = tables.version().value().copied().unwrap_or(Version { major: 2, minor: 6 });
    let rule = if version >= (Version { major: 2, minor: 6 }) {
        "the first three fields little-endian, as from SMBIOS 2.6 on"
    } else {
        "all bytes in network order, as before SMBIOS 2.6"
    };
    tables.fact(system.uuid(), rule, |uuid| {
        (!uuid.is_all_ones() && !uuid.is_all_zeros()).then(|| Uuid(uuid.to_text(version)))
    })
}

fn boards(lease: &Lease, tables: &Tables) -> Parts<Board> {
    let known = tables.parts(
        BaseboardInformation::TYPE,
        BaseboardInformation::from_structure,
        |board: &BaseboardInformation<'_>| {
            Some(Board {
                manufacturer: tables.text(board.manufacturer()),
                product: tables.text(board.product()),
                version: tables.text(board.version()),
                serial: tables.text(board.serial_number()),
                asset_tag: tables.text(board.asset_tag()),
                location: tables.text(board.location_in_chassis()),
                kind: tables.fact(board.board_type(), "the standard's name for the code", |kind| {
                    Some(Text(kind.to_string()))
                }),
            })
        },
    );
    let Some(gap) = known.gap() else { return known };
    // Without the tables there is still what the kernel publishes of the first board.
    let beyond = || gap.clone();
    let board = Board {
        manufacturer: published(lease, "board_vendor"),
        product: published(lease, "board_name"),
        version: published(lease, "board_version"),
        serial: published(lease, "board_serial"),
        asset_tag: published(lease, "board_asset_tag"),
        location: Fact::gap(beyond()),
        kind: Fact::gap(beyond()),
    };
    let some = board.manufacturer.is_known() || board.product.is_known();
    published_part(known, some, board)
}

fn chassis(lease: &Lease, tables: &Tables) -> Parts<Chassis> {
    let name = |kind: tectum_smbios::types::ChassisType| Some(Text(kind.to_string()));
    let known = tables.parts(
        ChassisInformation::TYPE,
        ChassisInformation::from_structure,
        |chassis: &ChassisInformation<'_>| {
            Some(Chassis {
                manufacturer: tables.text(chassis.manufacturer()),
                kind: tables.fact(
                    chassis.chassis_type(),
                    "the standard's name for the code in bits 6:0",
                    name,
                ),
                version: tables.text(chassis.version()),
                serial: tables.text(chassis.serial_number()),
                asset_tag: tables.text(chassis.asset_tag()),
                sku: tables.text(chassis.sku_number()),
                height_units: tables.fact(chassis.height_units(), "rack units", |units| {
                    (units != 0).then_some(u64::from(units))
                }),
            })
        },
    );
    let Some(gap) = known.gap() else { return known };
    let beyond = || gap.clone();
    let kind = File::read(lease, "/sys/class/dmi/id/chassis_type").fact(
        "the standard's name for the code",
        |text| {
            let code = u8::try_from(crate::formats::number::decimal(text)?).ok()?;
            name(tectum_smbios::types::ChassisType(code & 0x7F))
        },
    );
    let chassis = Chassis {
        manufacturer: published(lease, "chassis_vendor"),
        kind,
        version: published(lease, "chassis_version"),
        serial: published(lease, "chassis_serial"),
        asset_tag: published(lease, "chassis_asset_tag"),
        sku: Fact::gap(beyond()),
        height_units: Fact::gap(beyond()),
    };
    let some = chassis.manufacturer.is_known() || chassis.kind.is_known();
    published_part(known, some, chassis)
}

/// The one part that is known without the tables, if anything of it is.
fn published_part<R: crate::report::record::Described>(
    missing: Parts<R>,
    some: bool,
    part: R,
) -> Parts<R> {
    if !some {
        return missing;
    }
    let rule =
        "the kernel publishes the first one's strings; whether there are more only the tables say";
    Parts::known(vec![part], super::file::listing_evidence("/sys/class/dmi/id", rule))
}

fn device_tree(lease: &Lease) -> Option<DeviceTree> {
    if let Err(error) = lease.list(Path::new(DEVICE_TREE)) {
        // A folder that is there and may not be read is a gap to tell; none at all is no device
        // tree.
        let gap = refused(&error);
        return gap.why.hides_a_value().then(|| DeviceTree {
            model: Fact::gap(gap.clone()),
            compatible: Fact::gap(gap.clone()),
            serial: Fact::gap(gap),
        });
    }
    let file = |name: &str| File::read(lease, format!("{DEVICE_TREE}/{name}"));
    let tree = DeviceTree {
        model: file("model").text_fact(),
        compatible: file("compatible").fact("strings, each ended by a zero byte", |text| {
            let names: Vec<Text> =
                text.split('\0').filter(|name| !name.is_empty()).map(Text::from).collect();
            (!names.is_empty()).then_some(names)
        }),
        serial: file("serial-number").text_fact::<Serial>(),
    };
    // ACPI machines have the folder, empty.
    (tree.model.is_known() || tree.compatible.is_known() || tree.serial.is_known()).then_some(tree)
}
