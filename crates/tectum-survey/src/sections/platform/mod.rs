//! Who the machine is and what it is built of.

mod management;
mod parts;
mod power;
mod virtualization;
mod without_smbios;

pub(crate) use parts::is_other as is_other_structure;

use crate::readers::device_tree::DEVICE_TREE;
use crate::readers::sayings;
use std::{collections::HashMap, path::Path};

use tectum_smbios::{
    Handle, Structure, Version,
    types::{self, BaseboardInformation, ChassisInformation, ContainedKind, SystemInformation},
};

use super::{Found, Section, os};
use crate::readers::{
    dmi::{NAME, Origin, Tables, named, published},
    file::{File, listing_evidence, refused},
    limits::MOST_STRUCTURES,
};
use crate::source::Lease;
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Saying, Why, saying},
    leaf::{Bytes, RackUnits, Serial, Term, Uuid},
    model::{
        Board, Chassis, DeviceTree, FirmwareSource, FirmwareTables, Machine, Platform, System,
        TableOddity,
    },
};

pub(super) const SECTION: Section = Section {
    name: "platform",
    summary: "who the machine is: system, boards and chassis with makers and serial numbers",
    reads: &[
        "/.dockerenv",
        "/proc/1/cgroup",
        "/proc/1/comm",
        "/proc/1/mountinfo",
        "/proc/2/comm",
        "/proc/cpuinfo",
        "/proc/sysinfo",
        "/proc/xen/capabilities",
        "/run/.containerenv",
        "/run/systemd/container",
        "/sys/bus/pci/devices/*/driver",
        "/sys/bus/pci/devices/*/vendor",
        "/sys/bus/pci/devices/*/device",
        "/sys/class/dmi/id",
        "/sys/class/dmi/id/*",
        "/sys/devices/system/clocksource/clocksource0/available_clocksource",
        "/sys/firmware/acpi/tables/FACP",
        "/sys/firmware/devicetree/base",
        "/sys/firmware/devicetree/base/*",
        "/sys/bus/virtio/devices",
        "/sys/bus/virtio/devices/*",
        "/sys/firmware/devicetree/base/hypervisor/compatible",
        "/sys/firmware/devicetree/base/rtas/*",
        "/sys/firmware/dmi/entries",
        "/sys/firmware/dmi/entries/*/position",
        "/sys/firmware/dmi/entries/*/raw",
        "/sys/firmware/dmi/tables",
        "/sys/firmware/dmi/tables/*",
        "/sys/firmware/qemu_fw_cfg/rev",
        "/sys/hypervisor/properties/features",
        "/sys/hypervisor/start_flags/initdomain",
        "/sys/hypervisor/type",
    ],
    survey,
};

fn survey(lease: &Lease) -> Found {
    let tables = Tables::read(lease);
    let all = tables.by_handle();
    let platform = Platform {
        firmware_tables: firmware_tables(lease, &tables),
        virtualization: virtualization::virtualization(lease, &tables),
        smbios_version: tables.version().map(|version| Term(version.to_string())),
        system: system(lease, &tables),
        boards: boards(lease, &tables, &all),
        chassis: chassis(lease, &tables),
        slots: parts::slots(lease, &tables),
        onboard_devices: parts::onboard_devices(&tables),
        ports: parts::ports(&tables),
        power_supplies: power::power_supplies(&tables),
        oem_strings: parts::oem_strings(&tables),
        configuration_options: parts::configuration_options(&tables),
        batteries: power::batteries(&tables),
        probes: power::probes(&tables),
        cooling_devices: power::cooling_devices(&tables, &all),
        management: management::management(&tables, &all),
        security: management::security(&tables),
        tpms: management::tpms(&tables),
        boot_status: parts::boot_status(&tables),
        other_structures: parts::other_structures(&tables),
        device_tree: device_tree(lease),
    };
    Box::new(|observed| observed.inventory.platform = Some(platform))
}

/// Who the machine is, known whichever sections are asked for.
pub(super) const IDENTITY: Section = Section {
    name: "machine",
    summary: "host name, ids and serial number",
    reads: &[
        "/etc/hostname",
        "/etc/machine-id",
        "/proc/sys/kernel/hostname",
        "/proc/sysinfo",
        "/sys/class/dmi/id/*",
        "/sys/firmware/devicetree/base",
        "/sys/firmware/devicetree/base/*",
        "/sys/firmware/dmi/entries",
        "/sys/firmware/dmi/entries/*/position",
        "/sys/firmware/dmi/entries/*/raw",
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
    Box::new(|observed| observed.machine = machine)
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
    let system = System {
        manufacturer: text!(manufacturer, "sys_vendor"),
        product: text!(product_name, "product_name"),
        version: text!(version, "product_version"),
        serial: text!(serial_number, "product_serial"),
        uuid: uuid(tables, found.as_ref()).or_from(|| {
            published::<Uuid>(lease, "product_uuid").and_then(|text| {
                let plain = text.to_ascii_lowercase();
                let own = tectum_smbios::Uuid::from_text(&plain);
                if own.is_some_and(|own| own.says_nothing()) {
                    return Err(Gap::new(Why::Blank).raw(&plain));
                }
                Ok(Uuid(plain))
            })
        }),
        sku: text!(sku_number, "product_sku"),
        family: text!(family, "product_family"),
        wake_up: match &found {
            Some(structure) => tables.fact(structure.wake_up_type(), NAME, named),
            None => Fact::gap(tables.no_structure(SystemInformation::TYPE)),
        },
        partition_name: no_partition(),
        partition_number: no_partition(),
        plant: no_partition(),
    };
    match found {
        Some(_) => system,
        // Where there are tables that may not be read, they are what would tell.
        None if tables.gap().is_some_and(|gap| gap.why.hides_a_value()) => system,
        None => without_smbios::complete(lease, system),
    }
}

fn no_partition<T>() -> Fact<T> {
    Fact::not_applicable(saying!(
        "platforms-without-smbios-only",
        "only platforms without SMBIOS tell of logical partitions",
    ))
}

fn uuid(tables: &Tables, system: Option<&SystemInformation<'_>>) -> Fact<Uuid> {
    let Some(system) = system else {
        return Fact::gap(tables.no_structure(SystemInformation::TYPE));
    };
    // Without an entry point the order that has been usual since 2007 is taken.
    let version = tables.version().value().copied().unwrap_or(Version { major: 2, minor: 6 });
    let rule = if version >= (Version { major: 2, minor: 6 }) {
        saying!(
            "uuid-fields-little-endian",
            "the first three fields little-endian, as from SMBIOS 2.6 on",
        )
    } else {
        saying!("uuid-network-order", "all bytes in network order, as before SMBIOS 2.6")
    };
    tables.fact(system.uuid(), rule, |uuid| {
        (!uuid.says_nothing()).then(|| Uuid(uuid.to_text(version)))
    })
}

/// Where what the firmware says comes from, and what is odd about it.
fn firmware_tables(lease: &Lease, tables: &Tables) -> FirmwareTables {
    const PUBLISHED: &str = "/sys/class/dmi/id";
    let Some(origin) = tables.origin() else {
        let gap = tables.gap().unwrap_or_else(|| Gap::new(Why::NotProvided));
        let published = lease.list(Path::new(PUBLISHED)).ok();
        let compatible = File::read(lease, format!("{DEVICE_TREE}/compatible"));
        let source = if published.is_some() {
            let rule = saying!(
                "tables-cannot-read-kernel-publishes",
                "the tables cannot be read, and the kernel publishes their first strings here",
            );
            Fact::known(
                FirmwareSource::PublishedStrings,
                listing_evidence(PUBLISHED, rule)
                    .raw("strings of the first system, board and chassis"),
            )
        } else if compatible.bytes().is_ok() {
            let rule = saying!(
                "no-tables-device-tree",
                "there are no tables, and there is a device tree",
            );
            Fact::known(FirmwareSource::DeviceTree, compatible.evidence(rule))
        } else {
            Fact::gap(gap.clone())
        };
        return FirmwareTables {
            source,
            length_bytes: Fact::gap(gap.clone()),
            structures: Fact::gap(gap.clone()),
            oddities: Parts::missing(gap),
        };
    };
    let whole = tables.inspection();
    let (source, rule) = match origin {
        Origin::WholeTable => (
            FirmwareSource::StructureTable,
            saying!("kernels-copy-of-table", "the kernel's copy of the table"),
        ),
        Origin::Entries => (
            FirmwareSource::StructureEntries,
            saying!(
                "one-file-a-structure",
                "there is no copy of the whole table; one file a structure, in the table's order",
            ),
        ),
    };
    let beyond = tables.beyond_limit();
    let too_many = beyond.iter().map(|(kind, count)| {
        format!("{count} structures of type {kind}, of which the first {MOST_STRUCTURES} are told")
    });
    let oddities = whole.oddities.iter().map(ToString::to_string).chain(too_many).map(|what| {
        let evidence = tables.whole(sayings::LOOKED_WHOLE_ENTRY_POINT).raw(&what);
        TableOddity { what: Fact::known(Term(what), evidence) }
    });
    let count = |count: usize, rule: Saying| {
        Fact::known(count as u64, tables.whole(rule).raw(&count.to_string()))
    };
    FirmwareTables {
        source: Fact::known(
            source,
            Evidence::new(tables.path(), rule).raw(&format!("{} bytes", tables.length())),
        ),
        length_bytes: count(tables.length(), sayings::COUNTED).map(Bytes),
        structures: count(
            whole.structures,
            saying!("counted-end-table-them", "counted, the end of the table with them"),
        ),
        oddities: Parts::known(oddities.collect(), tables.whole(sayings::LOOKED_WHOLE_ENTRY_POINT)),
    }
}

fn boards(lease: &Lease, tables: &Tables, all: &HashMap<Handle, Structure<'_>>) -> Parts<Board> {
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
                kind: tables.fact(board.board_type(), NAME, named),
                features: tables.flags(board.feature_flags(), |bits| bits.set()),
                contained_structures: board_holds(tables, board, all),
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
        features: Fact::gap(beyond()),
        contained_structures: Fact::gap(beyond()),
    };
    let some = board.manufacturer.is_known() || board.product.is_known();
    published_part(known, some, board)
}

fn board_holds(
    tables: &Tables,
    board: &BaseboardInformation<'_>,
    all: &HashMap<Handle, Structure<'_>>,
) -> Fact<Vec<Term>> {
    let Some(count) = board.contained_count() else {
        return Fact::gap(tables.says(Why::NotProvided, sayings::STRUCTURE_ENDS_BEFORE_FIELD));
    };
    let names = board.contained_handles().map(|handle| {
        let name = parts::label(all, handle).unwrap_or_else(|| format!("structure {handle}"));
        let kind = all.get(&handle).and_then(|structure| types::title(structure.kind()));
        Term(match kind {
            Some(kind) if kind != name => format!("{name} ({kind})"),
            _ => name,
        })
    });
    let place = format!("handle {}, offset 0x0F, {} handles", count.handle, count.value);
    let raw = board.contained_handles().map(|it| it.to_string()).collect::<Vec<_>>().join(" ");
    let rule =
        saying!("labels-structures-handles", "the labels of the structures with these handles");
    Fact::known(names.collect(), tables.at(count.handle, place, &raw, rule))
}

/// What a chassis can hold.
fn chassis_can_hold(tables: &Tables, chassis: &ChassisInformation<'_>) -> Fact<Vec<Term>> {
    let Some(count) = chassis.contained_count() else {
        return Fact::gap(tables.says(Why::NotProvided, sayings::STRUCTURE_ENDS_BEFORE_FIELD));
    };
    let names: Vec<Term> = chassis
        .contained_elements()
        .map(|element| {
            let kind = match element.kind {
                ContainedKind::Board(kind) => kind.to_string(),
                ContainedKind::Structure(number) => types::title(number)
                    .map_or_else(|| format!("structures of type {number}"), str::to_owned),
            };
            Term(format!("{kind}: {} to {}", element.minimum, element.maximum))
        })
        .collect();
    let place = format!("handle {}, offset 0x15, {} records", count.handle, count.value);
    let raw = names.iter().map(|name| name.0.as_str()).collect::<Vec<_>>().join("; ");
    Fact::known(
        names,
        tables.at(
            count.handle,
            place,
            &raw,
            saying!("contained-element-records", "the contained element records"),
        ),
    )
}

fn chassis(lease: &Lease, tables: &Tables) -> Parts<Chassis> {
    let name = |kind: tectum_smbios::types::ChassisType| Some(Term(kind.to_string()));
    let known = tables.parts(
        ChassisInformation::TYPE,
        ChassisInformation::from_structure,
        |chassis: &ChassisInformation<'_>| {
            Some(Chassis {
                manufacturer: tables.text(chassis.manufacturer()),
                kind: tables.fact(
                    chassis.chassis_type(),
                    saying!(
                        "standard-name-code-bits-6",
                        "the standard's name for the code in bits 6:0",
                    ),
                    name,
                ),
                version: tables.text(chassis.version()),
                serial: tables.text(chassis.serial_number()),
                asset_tag: tables.text(chassis.asset_tag()),
                sku: tables.text(chassis.sku_number()),
                height_rack_units: tables
                    .fact(chassis.height_units(), saying!("rack-units", "rack units"), |units| {
                        (units != 0).then_some(u64::from(units))
                    })
                    .map(RackUnits),
                has_lock: tables.fact(chassis.has_lock(), sayings::BIT_7, Some),
                power_cords: tables.fact(
                    chassis.power_cords(),
                    saying!("0-unspecified", "0 is unspecified"),
                    |cords| (cords != 0).then_some(u64::from(cords)),
                ),
                bootup_state: tables.fact(chassis.bootup_state(), NAME, named),
                power_supply_state: tables.fact(chassis.power_supply_state(), NAME, named),
                thermal_state: tables.fact(chassis.thermal_state(), NAME, named),
                security_status: tables.fact(chassis.security_status(), NAME, named),
                contained_elements: chassis_can_hold(tables, chassis),
            })
        },
    );
    let Some(gap) = known.gap() else { return known };
    let beyond = || gap.clone();
    let kind = File::read(lease, "/sys/class/dmi/id/chassis_type").fact(
        sayings::STANDARD_NAME_CODE,
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
        height_rack_units: Fact::gap(beyond()),
        has_lock: Fact::gap(beyond()),
        power_cords: Fact::gap(beyond()),
        bootup_state: Fact::gap(beyond()),
        power_supply_state: Fact::gap(beyond()),
        thermal_state: Fact::gap(beyond()),
        security_status: Fact::gap(beyond()),
        contained_elements: Fact::gap(beyond()),
    };
    let some = chassis.manufacturer.is_known() || chassis.kind.is_known();
    published_part(known, some, chassis)
}

/// The one part that is known without the tables, if anything of it is.
fn published_part<R: tectum_report::declare::Described>(
    missing: Parts<R>,
    some: bool,
    part: R,
) -> Parts<R> {
    if !some {
        return missing;
    }
    // What root would read of the tables may hold more of them.
    let hidden = missing.gap().filter(|gap| gap.why.hides_a_value()).cloned();
    let rule = saying!(
        "kernel-publishes-first-one-strings",
        "the kernel publishes the first one's strings; whether there are more only the tables say",
    );
    let evidence = crate::readers::file::listing_evidence("/sys/class/dmi/id", rule);
    Parts::known(vec![part], evidence).in_part(hidden)
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
        compatible: file("compatible").fact(
            saying!("strings-each-ended-zero-byte", "strings, each ended by a zero byte"),
            |text| {
                let names: Vec<Term> =
                    text.split('\0').filter(|name| !name.is_empty()).map(Term::from).collect();
                (!names.is_empty()).then_some(names)
            },
        ),
        serial: file("serial-number").text_fact::<Serial>(),
    };
    // ACPI machines have the folder, empty.
    (tree.model.is_known() || tree.compatible.is_known() || tree.serial.is_known()).then_some(tree)
}
