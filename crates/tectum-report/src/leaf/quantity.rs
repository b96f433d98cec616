//! Quantities: numbers whose unit is their type.

use serde_json::Value;

use super::{JsonForm, Leaf, LeafShape, Scale, Unit, Whose};

/// A quantity: a number with a unit.
pub trait Number: Leaf + Copy {
    /// Its unit.
    const UNIT: &'static Unit;

    /// The number of its units.
    fn number(self) -> i128;
}

macro_rules! quantities {
    ($(
        $(#[$doc:meta])*
        $name:ident($ty:ty as $form:ident by $get:ident) {
            $unit:literal, $suffix:literal, $scale:expr, $base:expr
        }
    )*) => {$(
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub struct $name(pub $ty);

        impl Number for $name {
            const UNIT: &'static Unit = {
                static UNIT: Unit =
                    Unit { name: $unit, suffix: $suffix, scale: $scale, base: $base };
                &UNIT
            };

            fn number(self) -> i128 {
                i128::from(self.0)
            }
        }

        impl Leaf for $name {
            const SHAPE: LeafShape = LeafShape {
                form: JsonForm::$form,
                whose: Whose::Nobodys,
                unit: Some(<Self as Number>::UNIT),
            };

            fn to_json(&self) -> Value {
                Value::from(self.0)
            }

            fn from_json(json: &Value) -> Option<Self> {
                json.$get().map(Self)
            }
        }

        impl From<$ty> for $name {
            fn from(number: $ty) -> Self {
                Self(number)
            }
        }

        impl std::fmt::Display for $name {
            fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                self.0.fmt(f)
            }
        }

        impl std::ops::Deref for $name {
            type Target = $ty;

            fn deref(&self) -> &$ty {
                &self.0
            }
        }
    )*};
}

quantities! {
    /// An amount of data in bytes.
    Bytes(u64 as Unsigned by as_u64) { "bytes", "_bytes", Scale::Data, ("bytes", 1, 1) }
    /// A frequency in millions of hertz.
    Megahertz(u64 as Unsigned by as_u64) {
        "megahertz", "_mhz", Scale::Symbol("MHz", 1), ("hertz", 1_000_000, 1)
    }
    /// Transfers in millions a second.
    Megatransfers(u64 as Unsigned by as_u64) {
        "megatransfers per second", "_mts", Scale::Symbol("MT/s", 1),
        ("transfers_per_second", 1_000_000, 1)
    }
    /// A bit rate in millions of bits a second.
    MegabitsPerSecond(u64 as Unsigned by as_u64) {
        "megabits per second", "_mbps", Scale::Symbol("Mb/s", 1), ("bits_per_second", 1_000_000, 1)
    }
    /// A bit rate in thousands of bits a second.
    KilobitsPerSecond(u64 as Unsigned by as_u64) {
        "kilobits per second", "_kbps", Scale::Symbol("Mb/s", 1000), ("bits_per_second", 1000, 1)
    }
    /// Lanes of a link.
    Lanes(u64 as Unsigned by as_u64) { "lanes", "_lanes", Scale::Symbol("lanes", 1), ("lanes", 1, 1) }
    /// A width in bits.
    Bits(u64 as Unsigned by as_u64) { "bits", "_bits", Scale::Symbol("bits", 1), ("bits", 1, 1) }
    /// A voltage in thousandths of a volt.
    Millivolts(u64 as Unsigned by as_u64) {
        "millivolts", "_mv", Scale::Symbol("V", 1000), ("volts", 1, 1000)
    }
    /// A voltage in thousandths of a volt, above or below zero.
    SignedMillivolts(i64 as Signed by as_i64) {
        "millivolts", "_mv", Scale::Symbol("V", 1000), ("volts", 1, 1000)
    }
    /// A voltage in millionths of a volt.
    Microvolts(u64 as Unsigned by as_u64) {
        "microvolts", "_microvolts", Scale::Symbol("V", 1_000_000), ("volts", 1, 1_000_000)
    }
    /// A current in thousandths of an ampere.
    Milliamperes(u64 as Unsigned by as_u64) {
        "milliamperes", "_ma", Scale::Symbol("mA", 1), ("amperes", 1, 1000)
    }
    /// A current in thousandths of an ampere, either way.
    SignedMilliamperes(i64 as Signed by as_i64) {
        "milliamperes", "_ma", Scale::Symbol("mA", 1), ("amperes", 1, 1000)
    }
    /// A length in hundredths of a metre.
    Centimetres(u64 as Unsigned by as_u64) {
        "centimetres", "_cm", Scale::Symbol("cm", 1), ("meters", 1, 100)
    }
    /// A height in rack units of 1.75 inches.
    RackUnits(u64 as Unsigned by as_u64) {
        "rack units", "_rack_units", Scale::Symbol("U", 1), ("rack_units", 1, 1)
    }
    /// Turns a minute.
    Rpm(u64 as Unsigned by as_u64) {
        "revolutions per minute", "_rpm", Scale::Symbol("rpm", 1), ("revolutions_per_minute", 1, 1)
    }
    /// A temperature in thousandths of a degree Celsius.
    Millicelsius(i64 as Signed by as_i64) {
        "thousandths of a degree Celsius", "_millicelsius", Scale::Symbol("°C", 1000),
        ("celsius", 1, 1000)
    }
    /// A temperature in tenths of a degree Celsius.
    Decicelsius(i64 as Signed by as_i64) {
        "tenths of a degree Celsius", "_decicelsius", Scale::Symbol("°C", 10), ("celsius", 1, 10)
    }
    /// A power in watts.
    Watts(u64 as Unsigned by as_u64) { "watts", "_watts", Scale::Symbol("W", 1), ("watts", 1, 1) }
    /// A power in millionths of a watt.
    Microwatts(u64 as Unsigned by as_u64) {
        "microwatts", "_microwatts", Scale::Symbol("W", 1_000_000), ("watts", 1, 1_000_000)
    }
    /// An energy in millionths of a joule.
    Microjoules(u64 as Unsigned by as_u64) {
        "microjoules", "_microjoules", Scale::Symbol("J", 1_000_000), ("joules", 1, 1_000_000)
    }
    /// An energy in millionths of a watt-hour.
    MicrowattHours(u64 as Unsigned by as_u64) {
        "microwatt-hours", "_microwatt_hours", Scale::Symbol("Wh", 1_000_000), ("joules", 36, 10_000)
    }
    /// An energy in thousandths of a watt-hour.
    MilliwattHours(u64 as Unsigned by as_u64) {
        "milliwatt-hours", "_mwh", Scale::Symbol("Wh", 1000), ("joules", 36, 10)
    }
    /// A charge in millionths of an ampere-hour.
    MicroampereHours(u64 as Unsigned by as_u64) {
        "microampere-hours", "_microampere_hours", Scale::Symbol("Ah", 1_000_000),
        ("coulombs", 36, 10_000)
    }
    /// A share in hundredths of the whole.
    Percent(u64 as Unsigned by as_u64) { "percent", "_percent", Scale::Symbol("%", 1), ("ratio", 1, 100) }
    /// A share in ten-thousandths of the whole: hundredths of a percent.
    PercentHundredths(u64 as Unsigned by as_u64) {
        "hundredths of a percent", "_percent_hundredths", Scale::Symbol("%", 100),
        ("ratio", 1, 10_000)
    }
    /// A plain number in hundredths: a load average.
    Hundredths(u64 as Unsigned by as_u64) {
        "hundredths", "_hundredths", Scale::Symbol("", 100), ("", 1, 100)
    }
    /// A length of time in seconds.
    Seconds(u64 as Unsigned by as_u64) { "seconds", "_seconds", Scale::Time, ("seconds", 1, 1) }
    /// A length of time in thousandths of a second.
    Milliseconds(u64 as Unsigned by as_u64) {
        "milliseconds", "_ms", Scale::Time, ("seconds", 1, 1000)
    }
    /// A length of time in millionths of a second.
    Microseconds(u64 as Unsigned by as_u64) {
        "microseconds", "_us", Scale::Time, ("seconds", 1, 1_000_000)
    }
    /// A length of time in thousand-millionths of a second.
    Nanoseconds(u64 as Unsigned by as_u64) {
        "nanoseconds", "_ns", Scale::Symbol("ns", 1), ("seconds", 1, 1_000_000_000)
    }
    /// A rate of data in units of 1,048,576 bytes a second.
    MebibytesPerSecond(u64 as Unsigned by as_u64) {
        "mebibytes per second", "_mib_per_second", Scale::Symbol("MiB/s", 1),
        ("bytes_per_second", 1_048_576, 1)
    }
    /// What a sensor gives, in the unit of its kind.
    SensorValue(i64 as Signed by as_i64) {
        "the unit of the sensor's kind", "", Scale::BySensorKind, ("", 1, 1)
    }
}
