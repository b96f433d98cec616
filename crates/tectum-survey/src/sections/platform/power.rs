//! Power and heat as the firmware describes them.

use crate::readers::sayings;
use std::collections::HashMap;

use tectum_smbios::{
    Field, Handle, Structure,
    types::{
        CoolingDevice as CoolingStructure, CurrentProbe as CurrentStructure, PortableBattery,
        SystemPowerSupply, TemperatureProbe as TemperatureStructure,
        VoltageProbe as VoltageStructure,
    },
};

use crate::formats::calendar;

use super::parts::label;
use crate::readers::dmi::{NAME, Tables, named};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Saying, Why, saying},
    leaf::{
        Date, Decicelsius, Millivolts, MilliwattHours, Percent, Rpm, SignedMilliamperes,
        SignedMillivolts, Term, Watts,
    },
    model::{
        Battery, CoolingDevice, CurrentProbe, PowerSupply, Probes, TemperatureProbe, VoltageProbe,
    },
};

/// A measure whose unknown value is 8000h.
fn measure(tables: &Tables, field: Option<Field<'_, u16>>, rule: Saying) -> Fact<i64> {
    tables.fact(field, rule, |raw| (raw != 0x8000).then_some(i64::from(raw as i16)))
}

pub(super) fn power_supplies(tables: &Tables) -> Parts<PowerSupply> {
    tables.parts(
        SystemPowerSupply::TYPE,
        SystemPowerSupply::from_structure,
        |supply: &SystemPowerSupply<'_>| {
            Some(PowerSupply {
                location: tables.text(supply.location()),
                name: tables.text(supply.device_name()),
                manufacturer: tables.text(supply.manufacturer()),
                part_number: tables.text(supply.model_part_number()),
                serial: tables.text(supply.serial_number()),
                asset_tag: tables.text(supply.asset_tag()),
                revision: tables.text(supply.revision_level()),
                kind: tables.fact(supply.supply_type(), saying!("bits-13-10", "bits 13:10"), named),
                input_switching: tables.fact(
                    supply.voltage_switching(),
                    saying!("bits-6-3", "bits 6:3"),
                    named,
                ),
                unit_group: tables.fact(
                    supply.power_unit_group(),
                    sayings::DECIMAL_NUMBER,
                    |group| Some(u64::from(group)),
                ),
                max_watts: tables
                    .fact(
                        supply.max_power_capacity_watts(),
                        saying!("watts-8000h-unknown", "watts; 8000h is unknown"),
                        |watts| (watts != 0x8000).then_some(u64::from(watts)),
                    )
                    .map(Watts),
                present: tables.fact(supply.is_present(), saying!("bit-1", "bit 1"), Some),
                plugged_in: tables.fact(
                    supply.is_unplugged(),
                    saying!("bit-2-unplugged", "bit 2 says that it is unplugged"),
                    |unplugged| Some(!unplugged),
                ),
                status: tables.fact(supply.status(), saying!("bits-9-7", "bits 9:7"), named),
                hot_swappable: tables.fact(
                    supply.is_hot_replaceable(),
                    saying!("bit-0", "bit 0"),
                    Some,
                ),
            })
        },
    )
}

pub(super) fn batteries(tables: &Tables) -> Parts<Battery> {
    tables.parts(
        PortableBattery::TYPE,
        PortableBattery::from_structure,
        |battery: &PortableBattery<'_>| {
            // The smart battery's fields are filled where the others are left to them.
            let date = || {
                tables.fact(
                    battery.sbds_date(),
                    saying!("years-1980-month-day", "years from 1980, month, day"),
                    |(y, m, d)| format!("{y:04}-{m:02}-{d:02}").parse::<Date>().ok(),
                )
            };
            let serial = || {
                tables.fact(
                    battery.sbds_serial_number(),
                    saying!("smart-battery-number", "the smart battery's number"),
                    |number| (number != 0).then(|| format!("0x{number:04X}").into()),
                )
            };
            let chemistry = tables.fact(battery.chemistry(), NAME, named);
            Some(Battery {
                location: tables.text(battery.location()),
                name: tables.text(battery.device_name()),
                manufacturer: tables.text(battery.manufacturer()),
                serial: tables.text(battery.serial_number()).or_known(serial),
                manufacture_date: tables
                    .text::<Term>(battery.manufacture_date())
                    .and_then(|text| calendar::date(&text).ok_or_else(|| not_a_date(&text)))
                    .or_known(date),
                chemistry: chemistry.or_known(|| tables.text(battery.sbds_chemistry())),
                max_error_percent: tables
                    .fact(
                        battery.maximum_error_percent(),
                        saying!("percent-ffh-unknown", "percent; FFh is unknown"),
                        |error| (error != 0xFF).then_some(u64::from(error)),
                    )
                    .map(Percent),
                sbds_version: tables.text(battery.sbds_version()),
                design_capacity_mwh: match battery.design_capacity_mwh() {
                    field @ Some(_) => tables
                        .fact(
                            field,
                            saying!("mwh-times-multiplier", "mWh, times the multiplier"),
                            |mwh| Some(u64::from(mwh)),
                        )
                        .map(MilliwattHours),
                    None => Fact::gap(tables.says(
                        Why::Blank,
                        saying!("capacity-0-not-known", "the capacity is 0: not known"),
                    )),
                },
                design_voltage_mv: tables
                    .fact(battery.design_voltage_mv(), sayings::MILLIVOLTS, |mv| {
                        (mv != 0).then_some(u64::from(mv))
                    })
                    .map(Millivolts),
            })
        },
    )
}

pub(super) fn probes(tables: &Tables) -> Probes {
    /// Probes differ in the names and units of what they measure alone.
    macro_rules! list {
        ($structure:ident, $part:ident, $minimum:ident, $maximum:ident, $nominal:ident, $quantity:ident, $unit:expr) => {
            tables.parts($structure::TYPE, $structure::from_structure, |probe: &$structure<'_>| {
                Some($part {
                    description: tables.text(probe.description()),
                    location: tables.fact(probe.location(), sayings::BITS_4_0, named),
                    status: tables.fact(probe.status(), sayings::BITS_7_5, named),
                    $minimum: measure(tables, probe.minimum(), $unit).map($quantity),
                    $maximum: measure(tables, probe.maximum(), $unit).map($quantity),
                    $nominal: measure(tables, probe.nominal(), $unit).map($quantity),
                })
            })
        };
    }
    Probes {
        voltage: list!(
            VoltageStructure,
            VoltageProbe,
            min_mv,
            max_mv,
            nominal_mv,
            SignedMillivolts,
            sayings::MILLIVOLTS
        ),
        temperature: list!(
            TemperatureStructure,
            TemperatureProbe,
            min_decicelsius,
            max_decicelsius,
            nominal_decicelsius,
            Decicelsius,
            saying!("tenths-degree-celsius", "tenths of a degree Celsius")
        ),
        current: list!(
            CurrentStructure,
            CurrentProbe,
            min_ma,
            max_ma,
            nominal_ma,
            SignedMilliamperes,
            sayings::MILLIAMPERES
        ),
    }
}

pub(super) fn cooling_devices(
    tables: &Tables,
    all: &HashMap<Handle, Structure<'_>>,
) -> Parts<CoolingDevice> {
    tables.parts(
        CoolingStructure::TYPE,
        CoolingStructure::from_structure,
        |device: &CoolingStructure<'_>| {
            Some(CoolingDevice {
                description: tables.text(device.description()),
                kind: tables.fact(device.device_type(), sayings::BITS_4_0, named),
                status: tables.fact(device.status(), sayings::BITS_7_5, named),
                nominal_rpm: tables
                    .fact(
                        device.nominal_speed_rpm(),
                        saying!(
                            "revolutions-minute-8000h-unknown",
                            "revolutions a minute; 8000h is unknown",
                        ),
                        |rpm| (rpm != 0x8000).then_some(u64::from(rpm)),
                    )
                    .map(Rpm),
                unit_group: tables.fact(
                    device.cooling_unit_group(),
                    saying!("0-is-none", "0 is none"),
                    |group| (group != 0).then_some(u64::from(group)),
                ),
                watched_by: tables.fact(
                    device.temperature_probe_handle(),
                    saying!(
                        "label-structure-handle-ffffh-none",
                        "the label of the structure with this handle; FFFFh is none",
                    ),
                    |handle| label(all, handle).map(Term),
                ),
            })
        },
    )
}

/// A date in a form that says no day.
fn not_a_date(text: &str) -> Gap {
    Gap::new(Why::Invalid).raw(text).hint(sayings::NO_FORM_DATE_KNOWN)
}
