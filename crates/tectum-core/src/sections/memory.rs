//! Memory: what the firmware says is installed, and how much of it is in use.

use tectum_smbios::types::{MemoryDevice, MemorySize, MemorySpeed, PhysicalMemoryArray};

use super::{
    Found, Section,
    dmi::{NAME, Tables, named},
    file::File,
};
use crate::{
    formats::{colon, number},
    report::{
        fact::{Fact, Gap, Why},
        model::{Memory, MemoryArray, MemoryModule, MemoryReadings, MemorySlot, SlotState},
        record::Parts,
    },
    source::Lease,
};

pub(super) const SECTION: Section = Section {
    name: "memory",
    summary: "memory modules with the slots they sit in, and how much memory is in use",
    reads: &["/proc/meminfo", "/sys/firmware/dmi/tables", "/sys/firmware/dmi/tables/*"],
    survey,
};

fn survey(lease: &Lease) -> Found {
    let tables = Tables::read(lease);
    let modules = modules(&tables);
    let memory = Memory {
        installed_bytes: installed(&tables, &modules),
        arrays: arrays(&tables),
        slots: slots(&tables),
        modules,
    };
    let in_use = in_use(lease);
    Box::new(|findings| {
        findings.inventory.memory = Some(memory);
        findings.readings.memory = Some(in_use);
    })
}

fn arrays(tables: &Tables) -> Parts<MemoryArray> {
    tables.parts(
        PhysicalMemoryArray::TYPE,
        PhysicalMemoryArray::from_structure,
        |array: &PhysicalMemoryArray<'_>| {
            Some(MemoryArray {
                location: tables.fact(array.location(), NAME, named),
                usage: tables.fact(array.usage(), NAME, named),
                error_correction: tables.fact(array.error_correction(), NAME, named),
                maximum_capacity_bytes: tables.fact(
                    array.maximum_capacity_bytes(),
                    "KiB, or bytes in the extended field",
                    |bytes| (bytes != 0).then_some(bytes),
                ),
                slots: tables.fact(array.device_count(), "number of sockets", |count| {
                    Some(u64::from(count))
                }),
            })
        },
    )
}

fn slots(tables: &Tables) -> Parts<MemorySlot> {
    tables.parts(MemoryDevice::TYPE, MemoryDevice::from_structure, |device: &MemoryDevice<'_>| {
        Some(MemorySlot {
            locator: tables.text(device.device_locator()),
            bank: tables.text(device.bank_locator()),
            state: tables.fact(device.size(), "size 0 says that no module is installed", |size| {
                match size {
                    MemorySize::NotInstalled => Some(SlotState::Empty),
                    MemorySize::Unknown | MemorySize::Bytes(_) => Some(SlotState::Filled),
                }
            }),
        })
    })
}

fn modules(tables: &Tables) -> Parts<MemoryModule> {
    tables.parts(MemoryDevice::TYPE, MemoryDevice::from_structure, |device: &MemoryDevice<'_>| {
        if device.size().is_some_and(|size| size.value == MemorySize::NotInstalled) {
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
            size_bytes: tables.fact(
                device.size(),
                "size with its unit, or the extended field in MiB",
                |size| match size {
                    MemorySize::Bytes(bytes) => Some(bytes),
                    MemorySize::Unknown | MemorySize::NotInstalled => None,
                },
            ),
            form_factor: tables.fact(device.form_factor(), NAME, named),
            kind: tables.fact(device.memory_type(), NAME, named),
            speed_mts: tables.fact(device.speed(), "MT/s", speed),
            configured_speed_mts: tables.fact(device.configured_speed(), "MT/s", speed),
            configured_voltage_mv: tables.fact(
                device.configured_voltage_mv(),
                "millivolts",
                |mv| (mv != 0).then_some(u64::from(mv)),
            ),
            ranks: match device.attributes() {
                field @ Some(_) => tables.fact(field, "bits 3:0", |raw| {
                    (raw & 0x0F != 0).then_some(u64::from(raw & 0x0F))
                }),
                None => tables.fact(device.attributes(), "bits 3:0", |_| None::<u64>),
            },
            data_width_bits: tables.fact(device.data_width_bits(), "bits", width),
            total_width_bits: tables.fact(device.total_width_bits(), "bits", width),
            manufacturer: tables.text(device.manufacturer()),
            part_number: tables.text(device.part_number()),
            serial: tables.text(device.serial_number()),
            asset_tag: tables.text(device.asset_tag()),
        })
    })
}

fn installed(tables: &Tables, modules: &Parts<MemoryModule>) -> Fact<u64> {
    if let Some(gap) = modules.gap() {
        return Fact::gap(gap.clone());
    }
    if modules.is_empty() {
        return Fact::gap(tables.no_structure(MemoryDevice::TYPE));
    }
    let mut sum = 0u64;
    let mut sizes = Vec::new();
    for module in modules.iter() {
        match module.size_bytes.value() {
            Some(bytes) => {
                sum = sum.saturating_add(*bytes);
                sizes.push(bytes.to_string());
            }
            None => {
                return Fact::gap(
                    Gap::new(Why::NotProvided)
                        .hint("a module's size is not known, so the sum is not either"),
                );
            }
        }
    }
    let raw = format!("{} = {sum}", sizes.join(" + "));
    Fact::known(sum, tables.whole("the sum of the modules' sizes").raw(&raw))
}

fn in_use(lease: &Lease) -> MemoryReadings {
    let file = File::read(lease, "/proc/meminfo");
    let text = file.text();
    let blocks = colon::blocks(&text);
    let lines = blocks.first().map_or(&[][..], Vec::as_slice);
    let fact = |key: &str| {
        file.entry_fact(colon::find(lines, key), key, "kibibytes times 1024", number::kibibytes)
    };
    MemoryReadings {
        total_bytes: fact("MemTotal"),
        free_bytes: fact("MemFree"),
        available_bytes: fact("MemAvailable"),
        buffers_bytes: fact("Buffers"),
        cached_bytes: fact("Cached"),
        swap_total_bytes: fact("SwapTotal"),
        swap_free_bytes: fact("SwapFree"),
    }
}
