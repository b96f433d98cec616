//! Memory modules and the slots they sit in, as the firmware describes them.

use crate::readers::{
    id_table::{self, Numbered},
    sayings,
};
use std::{cell::Cell, collections::HashMap};

use tectum_smbios::{
    Field, Handle, Structure,
    types::{
        MemoryChannel as ChannelStructure, MemoryDevice, MemoryError32, MemoryError64,
        MemoryModuleInformation, MemorySize, MemorySpeed, OldModuleSize, PhysicalMemoryArray,
    },
};

use super::arrays::{other_arrays, sits_in};
use crate::readers::dmi::{NAME, Tables, named};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Saying, Why, saying},
    leaf::{Bits, Bytes, Megatransfers, Millivolts, Term},
    model::{MemoryChannel, MemoryModule, MemorySlot, SlotState},
};

/// Each structure's number among those of its type, from 1, by its handle.
fn numbers(handles: impl Iterator<Item = Handle>) -> HashMap<Handle, u64> {
    let mut numbers = HashMap::new();
    for (number, handle) in (1u64..).zip(handles) {
        numbers.entry(handle).or_insert(number);
    }
    numbers
}

/// A fact that counts structures.
pub(super) fn counted(tables: &Tables, handle: Handle, number: u64) -> Fact<u64> {
    let place = format!("handle {handle}, the structure");
    let rule = saying!("counted-order-tables", "counted in the order of the tables");
    Fact::known(number, tables.at(handle, place, &number.to_string(), rule))
}

pub(super) fn free_slots(tables: &Tables, slots: &Parts<MemorySlot>) -> Fact<u64> {
    if let Some(gap) = slots.gap() {
        return Fact::gap(gap.clone());
    }
    if slots.is_empty() {
        return Fact::gap(tables.no_structure(MemoryDevice::TYPE));
    }
    let free = slots.iter().filter(|slot| slot.state.value() == Some(&SlotState::Empty)).count();
    let evidence = tables
        .whole(saying!("counted-slots-without-module", "counted: slots without a module"))
        .raw(&free.to_string());
    Fact::known(free as u64, evidence)
}

pub(super) fn channels(tables: &Tables) -> Parts<MemoryChannel> {
    let labels: HashMap<Handle, Term> = tables
        .all(MemoryDevice::from_structure)
        .filter_map(|device| {
            let label = device.device_locator()?.value.escaped()?.trim().to_owned();
            Some((device.structure().handle(), Term(label)))
        })
        .collect();
    let number = Cell::new(0u64);
    tables.parts(
        ChannelStructure::TYPE,
        ChannelStructure::from_structure,
        |channel: &ChannelStructure<'_>| {
            number.set(number.get() + 1);
            let handle = channel.structure().handle();
            let slots: Vec<Term> = channel
                .devices()
                .map(|device| {
                    let label = labels.get(&device.handle).cloned();
                    label.unwrap_or_else(|| Term(format!("structure {}", device.handle)))
                })
                .collect();
            let raw = channel.devices().map(|one| one.handle.to_string()).collect::<Vec<_>>();
            let place = format!("handle {handle}, from offset 0x07");
            let rule =
                saying!("labels-devices-handles", "the labels of the devices with these handles",);
            Some(MemoryChannel {
                number: counted(tables, handle, number.get()),
                kind: tables.fact(channel.channel_type(), NAME, named),
                max_load: tables.fact(
                    channel.maximum_load(),
                    saying!("stands", "as it stands"),
                    |load| Some(u64::from(load)),
                ),
                slots: Fact::known(slots, tables.at(handle, place, &raw.join(" "), rule)),
            })
        },
    )
}

/// Whether the tables describe slots the old way alone (types 5 and 6).
fn is_old(tables: &Tables) -> bool {
    tables.structures().all(|structure| structure.kind() != MemoryDevice::TYPE)
        && tables.structures().any(|structure| structure.kind() == MemoryModuleInformation::TYPE)
}

/// A property that the old structures have no field for.
fn not_in_old<T>(tables: &Tables) -> Fact<T> {
    Fact::gap(tables.says(Why::NotProvided, sayings::TYPE_6_NO_SUCH_FIELD))
}

fn old_slots(tables: &Tables) -> Parts<MemorySlot> {
    tables.parts(
        MemoryModuleInformation::TYPE,
        MemoryModuleInformation::from_structure,
        |module: &MemoryModuleInformation<'_>| {
            Some(MemorySlot {
                locator: tables.text(module.socket_designation()),
                bank: not_in_old(tables),
                array: not_in_old(tables),
                channel: not_in_old(tables),
                set: not_in_old(tables),
                form_factor: not_in_old(tables),
                state: tables.fact(
                    module.installed_size(),
                    saying!("bits-6-0", "bits 6:0"),
                    |size| {
                        Some(match size {
                            OldModuleSize::NotInstalled => SlotState::Empty,
                            OldModuleSize::NotEnabled => SlotState::Disabled,
                            OldModuleSize::Bytes(_) | OldModuleSize::NotDeterminable => {
                                SlotState::Filled
                            }
                        })
                    },
                ),
            })
        },
    )
}

fn old_modules(tables: &Tables) -> Parts<MemoryModule> {
    tables.parts(
        MemoryModuleInformation::TYPE,
        MemoryModuleInformation::from_structure,
        |module: &MemoryModuleInformation<'_>| {
            if module.installed_size().is_some_and(|it| it.value == OldModuleSize::NotInstalled) {
                return None;
            }
            // Everything that is not set here has no field in the old structure.
            let mut part = MemoryModule {
                slot: tables.text(module.socket_designation()),
                size_bytes: tables
                    .fact(
                        module.installed_size(),
                        saying!("2-power-mib", "2 to the power of it, MiB"),
                        |it| match it {
                            OldModuleSize::Bytes(bytes) => Some(bytes),
                            _ => None,
                        },
                    )
                    .map(Bytes),
                detail: tables.flags(module.memory_types(), |bits| bits.set()),
                ..MemoryModule::default()
            };
            tables.no_field(&mut part, sayings::TYPE_6_NO_SUCH_FIELD);
            Some(part)
        },
    )
}

pub(super) fn slots(tables: &Tables) -> Parts<MemorySlot> {
    if is_old(tables) {
        return old_slots(tables);
    }
    let arrays = numbers(
        tables.all(PhysicalMemoryArray::from_structure).map(|array| array.structure().handle()),
    );
    let mut channels: HashMap<Handle, u64> = HashMap::new();
    for (number, channel) in (1u64..).zip(tables.all(ChannelStructure::from_structure)) {
        for device in channel.devices() {
            channels.entry(device.handle).or_insert(number);
        }
    }
    let other = other_arrays(tables);
    tables.parts(MemoryDevice::TYPE, MemoryDevice::from_structure, |device: &MemoryDevice<'_>| {
        if sits_in(device, &other) {
            return None;
        }
        Some(MemorySlot {
            locator: tables.text(device.device_locator()),
            bank: tables.text(device.bank_locator()),
            array: tables.fact(
                device.array_handle(),
                saying!("number-array-handle", "the number of the array with this handle"),
                |handle| arrays.get(&handle).copied(),
            ),
            channel: channel_of(tables, device, &channels),
            set: tables.fact(
                device.device_set(),
                saying!("0-none-ffh-unknown", "0 is none, FFh is unknown"),
                |set| (set != 0 && set != 0xFF).then_some(u64::from(set)),
            ),
            form_factor: tables.fact(device.form_factor(), NAME, named),
            state: match is_unused(tables, device) {
                true => tables.fact(
                    device.size(),
                    saying!(
                        "size-0-module-with-maker",
                        "size 0, and a module with a maker, a part number and a serial number",
                    ),
                    |_| Some(SlotState::Disabled),
                ),
                false => tables.fact(
                    device.size(),
                    saying!(
                        "size-0-no-module-installed",
                        "size 0 says that no module is installed"
                    ),
                    |size| match size {
                        MemorySize::NotInstalled => Some(SlotState::Empty),
                        MemorySize::Unknown | MemorySize::Bytes(_) => Some(SlotState::Filled),
                    },
                ),
            },
        })
    })
}

fn channel_of(
    tables: &Tables,
    device: &MemoryDevice<'_>,
    channels: &HashMap<Handle, u64>,
) -> Fact<u64> {
    let handle = device.structure().handle();
    match channels.get(&handle) {
        Some(number) => {
            let rule = saying!(
                "number-channel-type-37-names",
                "the number of the channel (type 37) that names this device's handle",
            );
            Fact::known(*number, tables.whole(rule).raw(&handle.to_string()))
        }
        None => Fact::gap(
            tables.says(
                Why::NotProvided,
                saying!("no-channel-names", "no channel (type 37) names the handle {}")
                    .with(handle.to_string()),
            ),
        ),
    }
}

pub(super) fn modules(tables: &Tables) -> Parts<MemoryModule> {
    if is_old(tables) {
        return old_modules(tables);
    }
    let all = tables.by_handle();
    let other = other_arrays(tables);
    tables.parts(MemoryDevice::TYPE, MemoryDevice::from_structure, |device: &MemoryDevice<'_>| {
        if sits_in(device, &other) {
            return None;
        }
        let unused = is_unused(tables, device);
        if !unused && device.size().is_some_and(|size| size.value == MemorySize::NotInstalled) {
            return None;
        }
        let speed = |speed| match speed {
            MemorySpeed::Unknown => None,
            MemorySpeed::MegaTransfers(mts) => Some(u64::from(mts)),
        };
        let width = |bits| (bits != 0xFFFF && bits != 0).then_some(u64::from(bits));
        Some(MemoryModule {
            slot: tables.text(device.device_locator()),
            bank: tables.text(device.bank_locator()),
            size_bytes: tables
                .fact(
                    device.size(),
                    saying!(
                        "size-unit-extended-field-mib",
                        "size with its unit, or the extended field in MiB",
                    ),
                    |size| match size {
                        MemorySize::Bytes(bytes) => Some(bytes),
                        MemorySize::Unknown | MemorySize::NotInstalled => None,
                    },
                )
                .or_none_where(|_| unused, || Fact::gap(tables.says(Why::Invalid, UNUSED)))
                .map(Bytes),
            form_factor: tables.fact(device.form_factor(), NAME, named),
            kind: tables.fact(device.memory_type(), NAME, named),
            detail: tables.flags(device.type_detail(), |bits| bits.set()),
            technology: tables.fact(device.technology(), NAME, named),
            modes: tables.flags(device.operating_modes(), |bits| bits.set()),
            speed_mts: tables.fact(device.speed(), sayings::MT_S, speed).map(Megatransfers),
            configured_speed_mts: tables
                .fact(device.configured_speed(), sayings::MT_S, speed)
                .map(Megatransfers),
            min_voltage_mv: millivolts(tables, device.minimum_voltage_mv()).map(Millivolts),
            max_voltage_mv: millivolts(tables, device.maximum_voltage_mv()).map(Millivolts),
            configured_voltage_mv: millivolts(tables, device.configured_voltage_mv())
                .map(Millivolts),
            ranks: match device.attributes() {
                field @ Some(_) => tables.fact(field, sayings::BITS_3_0, |raw| {
                    (raw & 0x0F != 0).then_some(u64::from(raw & 0x0F))
                }),
                None => tables.fact(device.attributes(), sayings::BITS_3_0, |_| None::<u64>),
            },
            data_width_bits: tables.fact(device.data_width_bits(), sayings::BITS, width).map(Bits),
            total_width_bits: tables
                .fact(device.total_width_bits(), sayings::BITS, width)
                .map(Bits),
            check_bits: check_bits(tables, device).map(Bits),
            power_circuit_maker: by_id(tables, device.pmic0_manufacturer_id()),
            clock_driver_maker: by_id(tables, device.rcd_manufacturer_id()),
            error: error(tables, device.error_information_handle(), &all),
            volatile_bytes: part_bytes(tables, device.volatile_size()).map(Bytes),
            non_volatile_bytes: part_bytes(tables, device.non_volatile_size()).map(Bytes),
            cache_bytes: part_bytes(tables, device.cache_size()).map(Bytes),
            firmware_version: tables.text(device.firmware_version()),
            manufacturer: tables.text(device.manufacturer()),
            manufacturer_by_id: by_id(tables, device.module_manufacturer_id())
                .or_known(|| by_text(tables, device)),
            controller_manufacturer_by_id: by_id(tables, device.controller_manufacturer_id()),
            part_number: tables.text(device.part_number()),
            serial: tables.text(device.serial_number()),
            asset_tag: tables.text(device.asset_tag()),
        })
    })
}

/// Why a module that is there has no size.
const UNUSED: Saying = saying!(
    "module-is-there-and-not-used",
    "says size 0 and names a module: it failed, or it is disabled",
);

/// Whether a module sits in a slot whose size the firmware says to be 0: it failed, or somebody
/// disabled it. Its maker, its part number and its serial number tell it from an empty slot.
fn is_unused(tables: &Tables, device: &MemoryDevice<'_>) -> bool {
    let says = |field| tables.text::<Term>(field).is_known();
    device.size().is_some_and(|size| size.value == MemorySize::NotInstalled)
        && says(device.manufacturer())
        && says(device.part_number())
        && says(device.serial_number())
}

/// The kind of the error that a record (type 18 or 33) tells of a memory device or an array.
pub(super) fn error(
    tables: &Tables,
    names: Option<Field<'_, Handle>>,
    all: &HashMap<Handle, Structure<'_>>,
) -> Fact<Term> {
    let Some(handle) = names else {
        return tables.fact(names, NAME, |_| None::<Term>);
    };
    let no_record = |rule| tables.fact(Some(handle), rule, |_| Some(Term::from("none")));
    match handle.value.0 {
        0xFFFF => return no_record(saying!("handle-no-error", "handle FFFFh says no error")),
        0xFFFE => {
            return Fact::gap(tables.says(
                Why::NotProvided,
                saying!("keeps-no-error-records", "says that it keeps no record of errors"),
            ));
        }
        _ => {}
    }
    let record = all.get(&handle.value).copied();
    let kind = record.and_then(|record| {
        let short = MemoryError32::from_structure(record).and_then(|one| one.error_type());
        short.or_else(|| MemoryError64::from_structure(record).and_then(|one| one.error_type()))
    });
    match kind {
        Some(kind) => tables.fact(Some(kind), NAME, named),
        None => Fact::gap(
            tables.says(
                Why::Invalid,
                saying!("names-no-error-record", "names {}, which is no record of an error")
                    .with(handle.value.to_string()),
            ),
        ),
    }
}

fn millivolts(tables: &Tables, field: Option<Field<'_, u16>>) -> Fact<u64> {
    tables.fact(field, sayings::MILLIVOLTS, |mv| (mv != 0).then_some(u64::from(mv)))
}

fn part_bytes(tables: &Tables, field: Option<Field<'_, u64>>) -> Fact<u64> {
    tables
        .fact(field, sayings::BYTES_ALL_ONES_UNKNOWN, |bytes| (bytes != u64::MAX).then_some(bytes))
}

/// Total width less data width; some firmware gives a total width of 0 or smaller than the data's.
fn check_bits(tables: &Tables, device: &MemoryDevice<'_>) -> Fact<u64> {
    let data = device.data_width_bits().map(|field| field.value);
    tables.fact(
        device.total_width_bits(),
        saying!("total-width-less-data-width", "total width less data width"),
        |total| {
            let data = data.filter(|data| *data != 0xFFFF && *data != 0)?;
            let total = (total != 0xFFFF).then_some(total)?;
            total.checked_sub(data).map(u64::from)
        },
    )
}

const JEP_106: Saying =
    saying!("jep-106-name", "the number's name in the JEP-106 list that Tectum carries");

/// The JEP-106 name of a manufacturer: the number of continuation codes, and the code itself, each
/// with a parity bit at the top (clause 7.18.8).
fn jep_106(continuations: u8, code: u8) -> Option<&'static str> {
    let numbers = [continuations, code].map(|number| u16::from(number & 0x7F));
    id_table::name(Numbered::Jep106, &numbers)
}

fn by_id(tables: &Tables, field: Option<Field<'_, u16>>) -> Fact<Term> {
    let unknown = field.is_some_and(|field| field.value != 0);
    let fact = tables.fact(field, JEP_106, |id| {
        let [continuations, code] = id.to_le_bytes();
        (id != 0).then(|| jep_106(continuations, code).map(Term::from)).flatten()
    });
    match fact.missing() {
        // A number that is there and not in the list is no blank.
        Some(gap) if unknown => {
            let hint = saying!(
                "not-in-jep-106",
                "the number is not in the JEP-106 list that Tectum carries",
            );
            Fact::gap(Gap { why: Why::NotProvided, ..gap.clone() }.hint(hint))
        }
        _ => fact,
    }
}

/// Firmware that does not know the name writes the number as hexadecimal text instead:
/// `80AD`, `802C0000802C`.
fn by_text(tables: &Tables, device: &MemoryDevice<'_>) -> Fact<Term> {
    tables
        .text::<Term>(device.manufacturer())
        .and_then(|text| {
            let digits = text.strip_prefix("0x").unwrap_or(&text);
            let is_number = matches!(digits.len(), 4 | 8 | 12 | 16)
                && digits.bytes().all(|byte| byte.is_ascii_hexdigit());
            let byte = |range| u8::from_str_radix(digits.get(range)?, 16).ok();
            let name = match (byte(0..2), byte(2..4)) {
                (Some(continuations), Some(code)) if is_number => jep_106(continuations, code),
                _ => None,
            };
            name.map(Term::from).ok_or_else(|| {
                Gap::new(Why::NotProvided)
                    .hint(
                        saying!("maker-text-no-jep-106", "the maker's text is no JEP-106 number",),
                    )
            })
        })
        .by_rule(JEP_106)
}

pub(super) fn installed(tables: &Tables, modules: &Parts<MemoryModule>) -> Fact<u64> {
    if let Some(gap) = modules.gap() {
        return Fact::gap(gap.clone());
    }
    if modules.is_empty() {
        return Fact::gap(tables.no_structure(MemoryDevice::TYPE));
    }
    let mut sum = 0u64;
    let mut sizes = Vec::new();
    for module in modules.iter() {
        match given(module) {
            Ok(bytes) => {
                sum = sum.saturating_add(bytes.0);
                sizes.push(bytes.to_string());
            }
            // What is not used adds nothing.
            Err(gap) if gap.is_some_and(|gap| gap.why == Why::Invalid) => {}
            Err(_) => {
                return Fact::gap(Gap::new(Why::NotProvided).hint(saying!(
                    "module-size-not-known-so",
                    "a module's size is not known, so the sum is not either",
                )));
            }
        }
    }
    let raw = format!("{} = {sum}", sizes.join(" + "));
    let rule = saying!(
        "sum-modules-sizes",
        "the sum of the modules' sizes, of one that is persistent or a cache in part its volatile part",
    );
    Fact::known(sum, tables.whole(rule).raw(&raw))
}

/// What a module gives to be used as memory: all of it, unless part of it keeps its content without power, or is a cache
/// for another.
fn given(module: &MemoryModule) -> Result<Bytes, Option<&Gap>> {
    let any = |part: &Fact<Bytes>| part.value().is_some_and(|bytes| bytes.0 > 0);
    let whole = match any(&module.non_volatile_bytes) || any(&module.cache_bytes) {
        true => &module.volatile_bytes,
        false => &module.size_bytes,
    };
    whole.value().copied().ok_or_else(|| whole.missing())
}
