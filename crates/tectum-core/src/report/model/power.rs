use crate::report::{
    fact::Fact,
    kinds::{Serial, Text},
    record::{Parts, record},
};

record! {
    /// Mains, batteries and other supplies that the kernel knows.
    Power "power" {
        /// Each supply.
        supplies: Parts<PowerSource>,
    }
}

record! {
    /// A supply (`Documentation/ABI/testing/sysfs-class-power`).
    PowerSource "power source" {
        identity [manufacturer, model, serial], [model, serial];
        place [name];

        /// The kernel's name for it.
        name: Fact<Text>,
        /// What it is: Mains, Battery, UPS, USB, Wireless.
        kind: Fact<Text>,
        /// What it supplies: the System, or a Device.
        scope: Fact<Text>,
        /// The maker.
        manufacturer: Fact<Text>,
        /// The model.
        model: Fact<Text>,
        /// The serial number.
        serial: Fact<Serial>,
        /// What a battery is made of.
        technology: Fact<Text>,
        /// Energy that a battery was made to hold, in microwatt-hours.
        design_energy_microwatt_hours: Fact<u64>,
        /// Charge that a battery was made to hold, in microampere-hours.
        design_charge_microampere_hours: Fact<u64>,
    }
}

record! {
    /// How supplies are doing.
    PowerReadings "power readings" {
        /// Each supply.
        supplies: Parts<PowerSourceReadings>,
    }
}

record! {
    /// How a supply is doing.
    PowerSourceReadings "power source" {
        place [name];

        /// The kernel's name for it.
        name: Fact<Text>,
        /// Whether it supplies.
        online: Fact<bool>,
        /// Whether a battery is there.
        present: Fact<bool>,
        /// Charging, Discharging, Full, Not charging.
        state: Fact<Text>,
        /// How full it is, in percent.
        capacity_percent: Fact<u64>,
        /// What it can still hold of what it was made to hold, in hundredths of a percent.
        health_hundredths: Fact<u64>,
        /// How often it was charged and discharged.
        cycles: Fact<u64>,
        /// Its voltage in microvolts.
        voltage_microvolts: Fact<u64>,
        /// What it gives or takes, in microwatts.
        power_microwatts: Fact<u64>,
    }
}
