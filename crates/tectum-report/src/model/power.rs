use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{
        DeviceName, Label, MicroampereHours, Microvolts, MicrowattHours, Microwatts, Percent,
        PercentHundredths, Serial, Term,
    },
};

record! {
    /// Mains, batteries and other supplies that the kernel knows.
    Power "power" {
        source "Documentation/ABI/testing/sysfs-class-power";

        /// Batteries, mains adapters and whatever else the kernel knows as a source of power.
        supplies: Parts<PowerSource>,
    }
}

record! {
    /// A supply (`Documentation/ABI/testing/sysfs-class-power`).
    PowerSource "power source" {
        source "Documentation/ABI/testing/sysfs-class-power";
        identity unique [manufacturer, model, serial], [model, serial];
        place [name];

        /// The kernel's name for it.
        name: Fact<DeviceName>,
        /// What it is: Mains, Battery, UPS, USB, Wireless.
        kind: Fact<Term>,
        /// What it supplies: the System, or a Device.
        scope: Fact<Term>,
        /// Who made it, as it tells the kernel.
        manufacturer: Fact<Term>,
        /// The model, as it tells the kernel.
        model: Fact<Term>,
        /// What the device that it is in calls itself, where its user may have named it.
        given_name: Fact<Label>,
        /// The serial number.
        serial: Fact<Serial>,
        /// What a battery is made of.
        technology: Fact<Term>,
        /// Energy that a battery was made to hold, in microwatt-hours.
        design_energy_microwatt_hours: Fact<MicrowattHours>,
        /// Charge that a battery was made to hold, in microampere-hours.
        design_charge_microampere_hours: Fact<MicroampereHours>,
    }
}

record! {
    /// How supplies are doing.
    PowerReadings "power readings" {
        source "Documentation/ABI/testing/sysfs-class-power";

        /// How each source of power is doing.
        supplies: Parts<PowerSourceReadings>,
    }
}

record! {
    /// How a supply is doing.
    PowerSourceReadings "power source" {
        source "Documentation/ABI/testing/sysfs-class-power";
        place [name];
        reading of power.supplies by name = name;

        /// The kernel's name for it.
        name: Fact<DeviceName>,
        /// Whether it supplies.
        online: Fact<bool>,
        /// Whether a battery is there.
        present: Fact<bool>,
        /// Charging, Discharging, Full, Not charging.
        state: Fact<Term>,
        /// How full it is, in percent.
        capacity_percent: Fact<Percent>,
        /// What it can still hold of what it was made to hold, in hundredths of a percent.
        health_percent_hundredths: Fact<PercentHundredths>,
        /// How often it was charged and discharged.
        cycles: Fact<u64>,
        /// The voltage at its poles now, in microvolts.
        voltage_microvolts: Fact<Microvolts>,
        /// What it gives or takes, in microwatts.
        power_microwatts: Fact<Microwatts>,
    }
}
