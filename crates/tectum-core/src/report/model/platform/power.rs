//! Power and heat as the firmware describes them: what sensors read now is for the sensors.

use crate::report::{
    fact::Fact,
    kinds::{AssetTag, Serial, Text},
    record::{Parts, record},
};

record! {
    /// One power supply (SMBIOS type 39, DSP0134 clause 7.40).
    PowerSupply "power supply" {
        identity [part_number, serial];
        place [location];

        /// Where it sits.
        location: Fact<Text>,
        /// What it is called.
        name: Fact<Text>,
        /// The maker.
        manufacturer: Fact<Text>,
        /// The part number.
        part_number: Fact<Text>,
        /// The serial number.
        serial: Fact<Serial>,
        /// The owner's inventory number.
        asset_tag: Fact<AssetTag>,
        /// The revision.
        revision: Fact<Text>,
        /// What kind it is, in the standard's words.
        kind: Fact<Text>,
        /// How it switches between input voltages, in the standard's words.
        input_switching: Fact<Text>,
        /// Largest sustained output in watts.
        maximum_watts: Fact<u64>,
        /// Whether it is there.
        present: Fact<bool>,
        /// Whether it is plugged in.
        plugged_in: Fact<bool>,
        /// Its state as the firmware saw it, in the standard's words.
        status: Fact<Text>,
        /// Whether it can be swapped while the machine runs.
        hot_swappable: Fact<bool>,
    }
}

record! {
    /// A battery (SMBIOS type 22, DSP0134 clause 7.23).
    Battery "battery" {
        identity [manufacturer, serial];
        place [location];

        /// Where it sits.
        location: Fact<Text>,
        /// What it is called.
        name: Fact<Text>,
        /// The maker.
        manufacturer: Fact<Text>,
        /// The serial number.
        serial: Fact<Serial>,
        /// The day it was made, as the firmware writes it, or as year-month-day from the smart
        /// battery's own date.
        manufactured: Fact<Text>,
        /// What it is made of, in the standard's words.
        chemistry: Fact<Text>,
        /// Capacity it was designed for in milliwatt-hours.
        design_capacity_mwh: Fact<u64>,
        /// Voltage it was designed for in millivolts.
        design_voltage_mv: Fact<u64>,
    }
}

record! {
    /// Probes for voltage, temperature and current as the firmware describes them.
    Probes "probes" {
        /// Voltage probes (SMBIOS type 26, DSP0134 clause 7.27).
        voltage: Parts<VoltageProbe>,
        /// Temperature probes (SMBIOS type 28, DSP0134 clause 7.29).
        temperature: Parts<TemperatureProbe>,
        /// Electrical current probes (SMBIOS type 29, DSP0134 clause 7.30).
        current: Parts<CurrentProbe>,
    }
}

record! {
    /// A voltage probe.
    VoltageProbe "voltage probe" {
        place [description, location];

        /// What it measures.
        description: Fact<Text>,
        /// Where it sits, in the standard's words.
        location: Fact<Text>,
        /// Its status at boot, in the standard's words.
        status: Fact<Text>,
        /// Smallest value in millivolts.
        minimum_mv: Fact<i64>,
        /// Largest value in millivolts.
        maximum_mv: Fact<i64>,
        /// Nominal value in millivolts.
        nominal_mv: Fact<i64>,
    }
}

record! {
    /// A temperature probe.
    TemperatureProbe "temperature probe" {
        place [description, location];

        /// What it measures.
        description: Fact<Text>,
        /// Where it sits, in the standard's words.
        location: Fact<Text>,
        /// Its status at boot, in the standard's words.
        status: Fact<Text>,
        /// Smallest value in tenths of a degree Celsius.
        minimum_decicelsius: Fact<i64>,
        /// Largest value in tenths of a degree Celsius.
        maximum_decicelsius: Fact<i64>,
        /// Nominal value in tenths of a degree Celsius.
        nominal_decicelsius: Fact<i64>,
    }
}

record! {
    /// An electrical current probe.
    CurrentProbe "current probe" {
        place [description, location];

        /// What it measures.
        description: Fact<Text>,
        /// Where it sits, in the standard's words.
        location: Fact<Text>,
        /// Its status at boot, in the standard's words.
        status: Fact<Text>,
        /// Smallest value in milliamperes.
        minimum_ma: Fact<i64>,
        /// Largest value in milliamperes.
        maximum_ma: Fact<i64>,
        /// Nominal value in milliamperes.
        nominal_ma: Fact<i64>,
    }
}

record! {
    /// A fan or another cooling device (SMBIOS type 27, DSP0134 clause 7.28).
    CoolingDevice "cooling device" {
        place [description, kind];

        /// What it is.
        description: Fact<Text>,
        /// What kind it is, in the standard's words.
        kind: Fact<Text>,
        /// Its status at boot, in the standard's words.
        status: Fact<Text>,
        /// Nominal speed in revolutions a minute.
        nominal_rpm: Fact<u64>,
        /// The cooling unit group it belongs to.
        unit_group: Fact<u64>,
        /// What the temperature probe that watches it is called.
        watched_by: Fact<Text>,
    }
}
