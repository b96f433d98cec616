use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{DeviceName, Microjoules, Microwatts, Millicelsius, SensorValue, Term, codes},
};

record! {
    /// What measures temperatures, fans, voltages, currents and power.
    Sensors "sensors" {
        source "Documentation/hwmon/sysfs-interface.rst";

        /// Monitoring chips and devices.
        chips: Parts<SensorChip>,
        /// Thermal zones of the firmware or the board.
        zones: Parts<ThermalZone>,
        /// Zones whose power is capped.
        power_zones: Parts<PowerZone>,
    }
}

record! {
    /// A monitoring chip or device (`Documentation/hwmon/sysfs-interface.rst`).
    SensorChip "sensor chip" {
        source "Documentation/hwmon/sysfs-interface.rst";
        place [device, name];
        names [kernel_name];

        /// The kernel's name for it on this boot.
        kernel_name: Fact<DeviceName>,
        /// The name of its kind.
        name: Fact<Term>,
        /// The device that it belongs to.
        device: Fact<Term>,
        /// What it measures.
        channels: Parts<SensorChannel>,
    }
}

record! {
    /// One thing that a chip measures.
    SensorChannel "sensor" {
        source "Documentation/hwmon/sysfs-interface.rst";
        place [channel];
        called [label];

        /// Its channel: `temp1`.
        channel: Fact<Term>,
        /// What it measures.
        kind: Fact<SensorKind>,
        /// What the board calls it.
        label: Fact<Term>,
        /// The lowest that is well, in the kind's unit.
        min: Fact<SensorValue>,
        /// The highest that is well, in the kind's unit.
        max: Fact<SensorValue>,
        /// What must never be reached, in the kind's unit.
        critical: Fact<SensorValue>,
    }
}

record! {
    /// A thermal zone (`Documentation/driver-api/thermal/sysfs-api.rst`).
    ThermalZone "thermal zone" {
        source "Documentation/driver-api/thermal/sysfs-api.rst";
        place [kind];
        names [name];

        /// The kernel's name for it on this boot.
        name: Fact<Term>,
        /// What it watches.
        kind: Fact<Term>,
        /// What keeps it cool.
        policy: Fact<Term>,
        /// The temperature at which the machine is switched off, in thousandths of a degree Celsius.
        critical_millicelsius: Fact<Millicelsius>,
    }
}

record! {
    /// A zone whose power is capped (`Documentation/power/powercap/powercap.rst`).
    PowerZone "power zone" {
        source "Documentation/power/powercap/powercap.rst";
        place [name, label];

        /// The kernel's name for it.
        name: Fact<Term>,
        /// The part of the machine whose energy is counted: `package-0`, `dram`.
        label: Fact<Term>,
        /// Whether a cap is in force.
        enabled: Fact<bool>,
        /// The first cap, in microwatts.
        limit_microwatts: Fact<Microwatts>,
    }
}

record! {
    /// What is measured.
    SensorReadings "sensor readings" {
        source "Documentation/hwmon/sysfs-interface.rst";

        /// Each thing that a chip measures.
        channels: Parts<ChannelReading>,
        /// Each thermal zone.
        zones: Parts<ZoneReading>,
        /// Each zone whose power is capped.
        power_zones: Parts<PowerZoneReading>,
    }
}

record! {
    /// What a sensor says.
    ChannelReading "sensor" {
        source "Documentation/hwmon/sysfs-interface.rst";
        place [device, chip, channel];
        reading of sensors.chips by kernel_name = kernel_name, channels by channel = channel;

        /// The kernel's name for the chip on this boot.
        kernel_name: Fact<DeviceName>,
        /// The device that the chip belongs to.
        device: Fact<Term>,
        /// The name of the chip's kind.
        chip: Fact<Term>,
        /// Its channel: `temp1`.
        channel: Fact<Term>,
        /// What it measures.
        kind: Fact<SensorKind>,
        /// The value, in the unit of its kind.
        value: Fact<SensorValue>,
        /// Whether it raises an alarm.
        alarm: Fact<bool>,
    }
}

record! {
    /// How warm a thermal zone is.
    ZoneReading "thermal zone" {
        source "Documentation/driver-api/thermal/sysfs-api.rst";
        place [kind];
        names [name];
        reading of sensors.zones by name = name;

        /// The kernel's name for it on this boot.
        name: Fact<Term>,
        /// What it watches.
        kind: Fact<Term>,
        /// Its temperature in thousandths of a degree Celsius.
        temperature_millicelsius: Fact<Millicelsius>,
    }
}

record! {
    /// What a zone has drawn.
    PowerZoneReading "power zone" {
        source "Documentation/power/powercap/powercap.rst";
        place [name];
        counts [energy_microjoules];
        reading of sensors.power_zones by name = name;

        /// The kernel's name for it.
        name: Fact<Term>,
        /// Energy drawn since the counter began, in microjoules.
        energy_microjoules: Fact<Microjoules>,
    }
}

impl SensorKind {
    /// The base unit of what such a sensor measures, and how many of it one of the report's are, as a fraction.
    pub fn base(self) -> (&'static str, u64, u64) {
        match self {
            Self::Temperature => ("celsius", 1, 1000),
            Self::Fan => ("revolutions_per_minute", 1, 1),
            Self::Voltage => ("volts", 1, 1000),
            Self::Current => ("amperes", 1, 1000),
            Self::Power => ("watts", 1, 1_000_000),
            Self::Energy => ("joules", 1, 1_000_000),
            Self::Humidity => ("ratio", 1, 100_000),
        }
    }
}

codes! {
    /// What a sensor measures.
    SensorKind {
        /// Temperature, in thousandths of a degree Celsius.
        Temperature = "temperature",
        /// Speed of a fan, in revolutions a minute.
        Fan = "fan",
        /// Voltage, in millivolts.
        Voltage = "voltage",
        /// Current, in milliamperes.
        Current = "current",
        /// Power, in microwatts.
        Power = "power",
        /// Energy, in microjoules.
        Energy = "energy",
        /// Humidity, in thousandths of a percent.
        Humidity = "humidity",
    }
}
