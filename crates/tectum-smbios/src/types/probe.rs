//! Types 26, 28 and 29: voltage, temperature and electrical current probes (clauses 7.27, 7.29,
//! 7.30).

use crate::{Field, Text, code::code, field::structure};

/// The three kinds of probe differ in their units alone.
macro_rules! probe {
    (
        $(#[$doc:meta])*
        $probe:ident = $kind:literal, $title:literal, $unit:literal, $resolution:literal
    ) => {
        structure! {
            $(#[$doc])*
            $probe = $kind, $title {
                /// What it measures.
                0x04 description: Text<'a>,
                /// Bits 7:5 the status, 4:0 where it sits.
                0x05 location_and_status: u8,
                #[doc = concat!("Largest value in ", $unit, "; 8000h is unknown.")]
                0x06 maximum: u16,
                #[doc = concat!("Smallest value in ", $unit, "; 8000h is unknown.")]
                0x08 minimum: u16,
                #[doc = concat!("Resolution in ", $resolution, "; 8000h is unknown.")]
                0x0A resolution: u16,
                #[doc = concat!("Tolerance in ", $unit, ", plus or minus; 8000h is unknown.")]
                0x0C tolerance: u16,
                /// Accuracy in hundredths of a percent, plus or minus; 8000h is unknown.
                0x0E accuracy: u16,
                /// The maker's own double word.
                0x10 oem_defined: u32,
                #[doc = concat!("Nominal value in ", $unit, "; 8000h is unknown.")]
                0x14 nominal: u16,
            }
        }

        impl<'a> $probe<'a> {
            /// Where it sits.
            pub fn location(&self) -> Option<Field<'a, ProbeLocation>> {
                Some(self.location_and_status()?.map(|raw| ProbeLocation(raw & 0x1F)))
            }

            /// Its status.
            pub fn status(&self) -> Option<Field<'a, ProbeStatus>> {
                Some(self.location_and_status()?.map(|raw| ProbeStatus(raw >> 5)))
            }
        }
    };
}

probe! {
    /// A voltage probe.
    VoltageProbe = 26, "Voltage Probe", "millivolts", "tenths of millivolts"
}

probe! {
    /// A temperature probe.
    TemperatureProbe = 28, "Temperature Probe", "tenths of a degree Celsius",
    "thousandths of a degree Celsius"
}

probe! {
    /// An electrical current probe.
    CurrentProbe = 29, "Electrical Current Probe", "milliamperes", "tenths of milliamperes"
}

code! {
    /// Where a probe sits (clauses 7.27.1, 7.29.1, 7.30.1; 0Ch and on are for temperature alone).
    ProbeLocation(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "Processor",
        0x04 => "Disk",
        0x05 => "Peripheral Bay",
        0x06 => "System Management Module",
        0x07 => "Motherboard",
        0x08 => "Memory Module",
        0x09 => "Processor Module",
        0x0A => "Power Unit",
        0x0B => "Add-in Card",
        0x0C => "Front Panel Board",
        0x0D => "Back Panel Board",
        0x0E => "Power System Board",
        0x0F => "Drive Back Plane",
    }
}

code! {
    /// Status of a probe or cooling device (clauses 7.27.1 and 7.28.1).
    ProbeStatus(u8) {
        1 => "Other",
        2 => "Unknown",
        3 => "OK",
        4 => "Non-critical",
        5 => "Critical",
        6 => "Non-recoverable",
    }
}
