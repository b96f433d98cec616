//! Arrays of slots, and what they are for.

use std::{
    cell::Cell,
    collections::{HashMap, HashSet},
};

use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Why, saying},
    leaf::{Bytes, Term},
    model::{MemoryArray, MemoryModule},
};
use tectum_smbios::{
    Handle,
    types::{ArrayUse, MemoryDevice, MemorySize, PhysicalMemoryArray},
};

use super::modules::{counted, error};
use crate::readers::dmi::{NAME, Tables, named};

/// The arrays that are for something else than system memory: for video memory, or the chips that firmware stands in.
pub(super) fn other_arrays(tables: &Tables) -> HashSet<Handle> {
    let other = |array: &PhysicalMemoryArray<'_>| {
        array.usage().is_some_and(|usage| matches!(usage.value, ArrayUse(4..=7)))
    };
    let arrays = tables.all(PhysicalMemoryArray::from_structure).filter(other);
    arrays.map(|array| array.structure().handle()).collect()
}

/// Whether a device sits in one of these arrays.
pub(super) fn sits_in(device: &MemoryDevice<'_>, arrays: &HashSet<Handle>) -> bool {
    device.array_handle().is_some_and(|array| arrays.contains(&array.value))
}

/// What sits in arrays that are for something else: each with its label, kind and size, and the handles of all.
fn held(tables: &Tables, other: &HashSet<Handle>) -> HashMap<Handle, (Vec<Term>, Vec<String>)> {
    let mut held: HashMap<Handle, (Vec<Term>, Vec<String>)> = HashMap::new();
    for device in tables.all(MemoryDevice::from_structure) {
        let Some(array) = device.array_handle().filter(|array| other.contains(&array.value)) else {
            continue;
        };
        let label = device.device_locator().and_then(|label| label.value.escaped());
        let label = label.map(|label| label.trim().to_owned());
        let kind = device.memory_type().map(|kind| kind.value.to_string());
        let size = device.size().map(|size| match size.value {
            MemorySize::Bytes(bytes) => format!("{bytes} bytes"),
            MemorySize::NotInstalled => "empty".to_owned(),
            MemorySize::Unknown => "of unknown size".to_owned(),
        });
        let told: Vec<String> = [label, kind, size].into_iter().flatten().collect();
        let (all, handles) = held.entry(array.value).or_default();
        all.push(Term(told.join(", ")));
        handles.push(device.structure().handle().to_string());
    }
    held
}

pub(super) fn arrays(tables: &Tables, modules: &Parts<MemoryModule>) -> Parts<MemoryArray> {
    // How many of an array's slots are empty.
    let mut empty: HashMap<Handle, u64> = HashMap::new();
    for device in tables.all(MemoryDevice::from_structure) {
        if let Some(array) = device.array_handle() {
            let none = device.size().is_some_and(|size| size.value == MemorySize::NotInstalled);
            *empty.entry(array.value).or_default() += u64::from(none);
        }
    }
    let number = Cell::new(0u64);
    let all = tables.by_handle();
    let other = other_arrays(tables);
    let held = held(tables, &other);
    tables.parts(
        PhysicalMemoryArray::TYPE,
        PhysicalMemoryArray::from_structure,
        |array: &PhysicalMemoryArray<'_>| {
            number.set(number.get() + 1);
            let handle = array.structure().handle();
            let maximum = tables.fact(
                array.maximum_capacity_bytes(),
                saying!("kib-bytes-extended-field", "KiB, or bytes in the extended field"),
                |bytes| (bytes != 0).then_some(bytes),
            );
            let slots = tables.fact(
                array.device_count(),
                saying!("number-sockets", "number of sockets"),
                |count| Some(u64::from(count)),
            );
            Some(MemoryArray {
                number: counted(tables, handle, number.get()),
                location: tables.fact(array.location(), NAME, named),
                usage: tables.fact(array.usage(), NAME, named),
                error_correction: tables.fact(array.error_correction(), NAME, named),
                error: error(tables, array.error_information_handle(), &all),
                free_slots: match empty.get(&handle) {
                    Some(count) => Fact::known(
                        *count,
                        tables
                            .whole(saying!(
                                "counted-array-devices-type-17",
                                "counted: the array's devices (type 17) whose size is 0",
                            ))
                            .raw(&count.to_string()),
                    ),
                    None => Fact::gap(
                        tables.says(
                            Why::NotProvided,
                            saying!(
                                "array-without-device",
                                "holds no memory device (type 17) of the array {}",
                            )
                            .with(handle.to_string()),
                        ),
                    ),
                },
                largest_module_bytes: match other.contains(&handle) {
                    false => largest_module(&maximum, &slots, modules).map(Bytes),
                    true => Fact::not_applicable(saying!(
                        "takes-no-memory-modules",
                        "it is not for system memory, and takes no modules",
                    )),
                },
                holds: match other.contains(&handle) {
                    true => {
                        let (all, handles) = held.get(&handle).cloned().unwrap_or_default();
                        let rule = saying!(
                            "devices-of-another-array",
                            "the devices (type 17) of an array that is for something else than system memory",
                        );
                        Fact::known(all, tables.whole(rule).raw(&handles.join(" ")))
                    }
                    false => Fact::not_applicable(saying!(
                        "modules-and-slots-stand-in-lists",
                        "modules and slots for system memory stand in lists of their own",
                    )),
                },
                max_capacity_bytes: maximum.map(Bytes),
                slots,
            })
        },
    )
}

/// Derived: the most that an array takes, shared alike by its slots.
fn largest_module(
    maximum: &Fact<u64>,
    slots: &Fact<u64>,
    modules: &Parts<MemoryModule>,
) -> Fact<u64> {
    let count = slots.value().copied().unwrap_or(0);
    let largest = modules.iter().filter_map(|module| module.size_bytes.value()).max().copied();
    maximum
        .clone()
        .and_then(|bytes| {
            let each = bytes.checked_div(count).ok_or_else(|| {
                Gap::new(Why::NotProvided).hint(saying!("array-does-not-how-many", "the array does not say how many slots it has"))
            })?;
            match largest {
                Some(largest) if largest > Bytes(each) => Err(Gap::new(Why::Invalid).hint(
                    saying!("larger-module-installed-than-capacity", "a larger module is installed than that capacity, shared by the slots, allows"),
                )),
                _ => Ok(each),
            }
        })
        .by_rule(saying!("derived-most-array-takes-shared", "derived: the most that the array takes, shared alike by its slots"))
        .with_evidence_of(slots)
}

/// The sum over the arrays for system memory.
pub(super) fn maximum_capacity(tables: &Tables, arrays: &Parts<MemoryArray>) -> Fact<u64> {
    if let Some(gap) = arrays.gap() {
        return Fact::gap(gap.clone());
    }
    let system = ArrayUse(3).to_string();
    let mut sum = 0u64;
    let mut evidence: Vec<Evidence> = Vec::new();
    for array in arrays.iter() {
        if array.usage.value().is_some_and(|usage| **usage != *system) {
            continue;
        }
        let most = &array.max_capacity_bytes;
        let Some(bytes) = most.value() else {
            return Fact::gap(most.missing().cloned().unwrap_or_else(|| Gap::new(Why::Blank)));
        };
        sum = sum.saturating_add(bytes.0);
        evidence.extend(most.evidence().iter().cloned());
    }
    if evidence.is_empty() {
        return Fact::gap(tables.no_structure(PhysicalMemoryArray::TYPE));
    }
    Fact::known_from(sum, evidence).by_rule(saying!(
        "sum-over-arrays-system-memory",
        "the sum over the arrays for system memory",
    ))
}
