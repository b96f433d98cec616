//! Type 3, System Enclosure or Chassis (clause 7.4).

use super::BoardType;
use crate::{Field, Text, code::code, field, field::structure};

structure! {
    /// The box that holds the boards.
    ChassisInformation = 3, "System Enclosure or Chassis" {
        /// The maker.
        0x04 manufacturer: Text<'a>,
        /// Bit 7 a lock, bits 6:0 the type (clause 7.4.1).
        0x05 type_and_lock: u8,
        /// The version.
        0x06 version: Text<'a>,
        /// The serial number.
        0x07 serial_number: Text<'a>,
        /// The owner's inventory number.
        0x08 asset_tag: Text<'a>,
        /// State at the last boot (clause 7.4.2).
        0x09 bootup_state: ChassisState,
        /// Power supplies' state at the last boot.
        0x0A power_supply_state: ChassisState,
        /// Thermal state at the last boot.
        0x0B thermal_state: ChassisState,
        /// Physical security status at the last boot (clause 7.4.3).
        0x0C security_status: ChassisSecurity,
        /// The maker's own double word.
        0x0D oem_defined: u32,
        /// Height in rack units of 1.75 inches; 0 is unspecified.
        0x11 height_units: u8,
        /// Number of power cords; 0 is unspecified.
        0x12 power_cords: u8,
        /// How many contained element records follow.
        0x13 contained_count: u8,
        /// The length of each, in bytes.
        0x14 contained_length: u8,
    }
}

code! {
    /// Kind of enclosure (clause 7.4.1).
    ChassisType(u8) {
        1 => "Other",
        2 => "Unknown",
        3 => "Desktop",
        4 => "Low Profile Desktop",
        5 => "Pizza Box",
        6 => "Mini Tower",
        7 => "Tower",
        8 => "Portable",
        9 => "Laptop",
        10 => "Notebook",
        11 => "Hand Held",
        12 => "Docking Station",
        13 => "All in One",
        14 => "Sub Notebook",
        15 => "Space-saving",
        16 => "Lunch Box",
        17 => "Main Server Chassis",
        18 => "Expansion Chassis",
        19 => "SubChassis",
        20 => "Bus Expansion Chassis",
        21 => "Peripheral Chassis",
        22 => "RAID Chassis",
        23 => "Rack Mount Chassis",
        24 => "Sealed-case PC",
        25 => "Multi-system chassis",
        26 => "Compact PCI",
        27 => "Advanced TCA",
        28 => "Blade",
        29 => "Blade Enclosure",
        30 => "Tablet",
        31 => "Convertible",
        32 => "Detachable",
        33 => "IoT Gateway",
        34 => "Embedded PC",
        35 => "Mini PC",
        36 => "Stick PC",
    }
}

code! {
    /// State of a part of the chassis (clause 7.4.2).
    ChassisState(u8) {
        1 => "Other",
        2 => "Unknown",
        3 => "Safe",
        4 => "Warning",
        5 => "Critical",
        6 => "Non-recoverable",
    }
}

code! {
    /// Physical security of the chassis (clause 7.4.3).
    ChassisSecurity(u8) {
        1 => "Other",
        2 => "Unknown",
        3 => "None",
        4 => "External interface locked out",
        5 => "External interface enabled",
    }
}

/// What kind of thing a chassis can hold, and how many (clause 7.4.4).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ContainedElement {
    /// What it is.
    pub kind: ContainedKind,
    /// The fewest it holds.
    pub minimum: u8,
    /// The most it holds.
    pub maximum: u8,
}

/// What a contained element is: bit 7 says by which list.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ContainedKind {
    /// A kind of board (clause 7.3.2).
    Board(BoardType),
    /// An SMBIOS structure type, by its number.
    Structure(u8),
}

impl<'a> ChassisInformation<'a> {
    /// What the chassis can hold, as many records as the structure has whole.
    pub fn contained_elements(&self) -> impl Iterator<Item = ContainedElement> + use<'a> {
        let count = self.contained_count().map_or(0, |field| usize::from(field.value));
        let length = self.contained_length().map_or(0, |field| usize::from(field.value));
        let all = self.structure().formatted().get(0x15..).unwrap_or_default();
        // A record shorter than its three fields says nothing.
        let count = if length < 3 { 0 } else { count };
        all.chunks_exact(length.max(3)).take(count).filter_map(|one| match one {
            [kind, minimum, maximum, ..] => Some(ContainedElement {
                kind: match kind & 0x80 {
                    0 => ContainedKind::Board(BoardType(kind & 0x7F)),
                    _ => ContainedKind::Structure(kind & 0x7F),
                },
                minimum: *minimum,
                maximum: *maximum,
            }),
            _ => None,
        })
    }

    /// The kind of enclosure, without the lock bit.
    pub fn chassis_type(&self) -> Option<Field<'a, ChassisType>> {
        Some(self.type_and_lock()?.map(|raw| ChassisType(raw & 0x7F)))
    }

    /// Whether the enclosure has a lock.
    pub fn has_lock(&self) -> Option<Field<'a, bool>> {
        Some(self.type_and_lock()?.map(|raw| raw & 0x80 != 0))
    }

    /// The SKU number, which stands behind the contained element records.
    pub fn sku_number(&self) -> Option<Field<'a, Text<'a>>> {
        let count = usize::from(self.contained_count()?.value);
        let length = usize::from(self.contained_length()?.value);
        field::read(&self.structure(), 0x15 + count * length)
    }
}
