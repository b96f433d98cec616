use crate::report::{
    fact::Fact,
    kinds::{Text, terms},
    record::{Parts, record},
};

record! {
    /// What measures temperatures, fans, voltages, currents and power.
    Sensors "sensors" {
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
        place [device, name];
        names [kernel_name];

        /// The kernel's name for it on this boot.
        kernel_name: Fact<Text>,
        /// The name of its kind.
        name: Fact<Text>,
        /// The device that it belongs to.
        device: Fact<Text>,
        /// What it measures.
        channels: Parts<SensorChannel>,
    }
}

record! {
    /// One thing that a chip measures.
    SensorChannel "sensor" {
        place [channel];

        /// Its channel: `temp1`.
        channel: Fact<Text>,
        /// What it measures.
        kind: Fact<SensorKind>,
        /// What the board calls it.
        label: Fact<Text>,
        /// The lowest that is well, in the kind's unit.
        minimum: Fact<i64>,
        /// The highest that is well, in the kind's unit.
        maximum: Fact<i64>,
        /// What must never be reached, in the kind's unit.
        critical: Fact<i64>,
    }
}

record! {
    /// A thermal zone (`Documentation/driver-api/thermal/sysfs-api.rst`).
    ThermalZone "thermal zone" {
        place [kind];
        names [name];

        /// The kernel's name for it on this boot.
        name: Fact<Text>,
        /// What it watches.
        kind: Fact<Text>,
        /// What keeps it cool.
        policy: Fact<Text>,
        /// The temperature at which the machine is switched off, in thousandths of a degree Celsius.
        critical_millicelsius: Fact<i64>,
    }
}

record! {
    /// A zone whose power is capped (`Documentation/power/powercap/powercap.rst`).
    PowerZone "power zone" {
        place [name, label];

        /// The kernel's name for it.
        name: Fact<Text>,
        /// What it is.
        label: Fact<Text>,
        /// Whether a cap is in force.
        enabled: Fact<bool>,
        /// The first cap, in microwatts.
        limit_microwatts: Fact<u64>,
    }
}

record! {
    /// What is measured.
    SensorReadings "sensor readings" {
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
        place [device, channel];

        /// The device that the chip belongs to.
        device: Fact<Text>,
        /// The kind of chip.
        chip: Fact<Text>,
        /// Its channel: `temp1`.
        channel: Fact<Text>,
        /// The value, in thousandths of a degree Celsius, revolutions a minute, millivolts,
        /// milliamperes, microwatts, microjoules, or thousandths of a percent.
        value: Fact<i64>,
        /// Whether it raises an alarm.
        alarm: Fact<bool>,
    }
}

record! {
    /// How warm a thermal zone is.
    ZoneReading "thermal zone" {
        place [kind];
        names [name];

        /// The kernel's name for it on this boot.
        name: Fact<Text>,
        /// What it watches.
        kind: Fact<Text>,
        /// Its temperature in thousandths of a degree Celsius.
        temperature_millicelsius: Fact<i64>,
    }
}

record! {
    /// What a zone has drawn.
    PowerZoneReading "power zone" {
        place [name];

        /// The kernel's name for it.
        name: Fact<Text>,
        /// Energy drawn since the counter began, in microjoules.
        energy_microjoules: Fact<u64>,
    }
}

terms! {
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
