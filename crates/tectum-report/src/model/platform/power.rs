//! Power and heat as the firmware describes them: what sensors read now is for the sensors.

use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{
        AssetTag, Date, Decicelsius, Millivolts, MilliwattHours, Percent, Rpm, Serial,
        SignedMilliamperes, SignedMillivolts, Term, Watts,
    },
};

record! {
    /// One power supply (SMBIOS type 39, DSP0134 clause 7.40).
    PowerSupply "power supply" {
        source "DSP0134 clause 7.40";
        identity unique [part_number, serial];
        place [location];

        /// Where it sits.
        location: Fact<Term>,
        /// What it is called.
        name: Fact<Term>,
        /// Who made the power supply.
        manufacturer: Fact<Term>,
        /// The maker's part number, by which another one like it is bought.
        part_number: Fact<Term>,
        /// The serial number.
        serial: Fact<Serial>,
        /// The owner's inventory number.
        asset_tag: Fact<AssetTag>,
        /// The revision of the power supply, as its maker writes it.
        revision: Fact<Term>,
        /// What kind it is, in the standard's words.
        kind: Fact<Term>,
        /// How it switches between input voltages, in the standard's words.
        input_switching: Fact<Term>,
        /// The group of supplies that share the load with it; 0 where it belongs to none.
        unit_group: Fact<u64>,
        /// Largest sustained output in watts.
        max_watts: Fact<Watts>,
        /// Whether it is there.
        present: Fact<bool>,
        /// Whether it is plugged in.
        plugged_in: Fact<bool>,
        /// Its state as the firmware saw it, in the standard's words.
        status: Fact<Term>,
        /// Whether it can be swapped while the machine runs.
        hot_swappable: Fact<bool>,
    }
}

record! {
    /// A battery (SMBIOS type 22, DSP0134 clause 7.23).
    Battery "battery" {
        source "DSP0134 clause 7.23";
        identity unique [manufacturer, serial];
        place [location];

        /// Where it sits.
        location: Fact<Term>,
        /// What it is called.
        name: Fact<Term>,
        /// Who made the battery.
        manufacturer: Fact<Term>,
        /// The serial number.
        serial: Fact<Serial>,
        /// The day it was made, as the firmware writes it, or as year-month-day from the smart
        /// battery's own date.
        manufacture_date: Fact<Date>,
        /// What it is made of, in the standard's words.
        chemistry: Fact<Term>,
        /// How far its own word on what is left in it may be off, in percent.
        max_error_percent: Fact<Percent>,
        /// The version of the smart battery data specification that it follows.
        sbds_version: Fact<Term>,
        /// Capacity it was designed for in milliwatt-hours.
        design_capacity_mwh: Fact<MilliwattHours>,
        /// Voltage it was designed for in millivolts.
        design_voltage_mv: Fact<Millivolts>,
    }
}

record! {
    /// Probes for voltage, temperature and current as the firmware describes them.
    Probes "probes" {
        source "DSP0134 clauses 7.27, 7.29 and 7.30";

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
        source "DSP0134 clause 7.27";
        place [description, location];

        /// What it measures.
        description: Fact<Term>,
        /// Where it sits, in the standard's words.
        location: Fact<Term>,
        /// Its status at boot, in the standard's words.
        status: Fact<Term>,
        /// Smallest value in millivolts.
        min_mv: Fact<SignedMillivolts>,
        /// Largest value in millivolts.
        max_mv: Fact<SignedMillivolts>,
        /// Nominal value in millivolts.
        nominal_mv: Fact<SignedMillivolts>,
    }
}

record! {
    /// A temperature probe.
    TemperatureProbe "temperature probe" {
        source "DSP0134 clause 7.29";
        place [description, location];

        /// What it measures.
        description: Fact<Term>,
        /// Where it sits, in the standard's words.
        location: Fact<Term>,
        /// Its status at boot, in the standard's words.
        status: Fact<Term>,
        /// Smallest value in tenths of a degree Celsius.
        min_decicelsius: Fact<Decicelsius>,
        /// Largest value in tenths of a degree Celsius.
        max_decicelsius: Fact<Decicelsius>,
        /// Nominal value in tenths of a degree Celsius.
        nominal_decicelsius: Fact<Decicelsius>,
    }
}

record! {
    /// An electrical current probe.
    CurrentProbe "current probe" {
        source "DSP0134 clause 7.30";
        place [description, location];

        /// What it measures.
        description: Fact<Term>,
        /// Where it sits, in the standard's words.
        location: Fact<Term>,
        /// Its status at boot, in the standard's words.
        status: Fact<Term>,
        /// Smallest value in milliamperes.
        min_ma: Fact<SignedMilliamperes>,
        /// Largest value in milliamperes.
        max_ma: Fact<SignedMilliamperes>,
        /// Nominal value in milliamperes.
        nominal_ma: Fact<SignedMilliamperes>,
    }
}

record! {
    /// A fan or another cooling device (SMBIOS type 27, DSP0134 clause 7.28).
    CoolingDevice "cooling device" {
        source "DSP0134 clause 7.28";
        place [description, kind];

        /// What the firmware calls it, in words.
        description: Fact<Term>,
        /// What kind it is, in the standard's words.
        kind: Fact<Term>,
        /// Its status at boot, in the standard's words.
        status: Fact<Term>,
        /// Nominal speed in revolutions a minute.
        nominal_rpm: Fact<Rpm>,
        /// The cooling unit group it belongs to.
        unit_group: Fact<u64>,
        /// What the temperature probe that watches it is called.
        watched_by: Fact<Term>,
    }
}
