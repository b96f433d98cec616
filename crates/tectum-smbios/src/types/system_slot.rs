//! Type 9, System Slots (clause 7.10).

use crate::{
    Field, Text,
    code::{code, flags},
    field,
    field::structure,
};

structure! {
    /// One slot for an expansion card or drive.
    SystemSlot = 9, "System Slots" {
        /// The slot's label.
        0x04 designation: Text<'a>,
        /// What kind of slot it is (clause 7.10.1).
        0x05 slot_type: SlotType,
        /// The width of its data bus (clause 7.10.2).
        0x06 data_bus_width: SlotWidth,
        /// Whether something sits in it (clause 7.10.3).
        0x07 current_usage: SlotUsage,
        /// Its length (clause 7.10.4).
        0x08 length: SlotLength,
        /// Its id, by the kind of slot (clause 7.10.5).
        0x09 slot_id: u16,
        /// Characteristics 1 (clause 7.10.6).
        0x0B characteristics_1: SlotCharacteristics1,
        /// Characteristics 2 (clause 7.10.7).
        0x0C characteristics_2: SlotCharacteristics2,
        /// PCI segment group of what sits in it; FFFFh where it has none.
        0x0D segment_group: u16,
        /// PCI bus; FFh where it has none.
        0x0F bus: u8,
        /// PCI device in bits 7:3, function in bits 2:0; FFh where it has none.
        0x10 device_function: u8,
        /// The data bus width in lanes as it is wired.
        0x11 base_data_bus_width: u8,
        /// How many peer groups follow.
        0x12 peer_group_count: u8,
    }
}

code! {
    /// Kind of slot (clause 7.10.1).
    SlotType(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "ISA",
        0x04 => "MCA",
        0x05 => "EISA",
        0x06 => "PCI",
        0x07 => "PC Card (PCMCIA)",
        0x08 => "VL-VESA",
        0x09 => "Proprietary",
        0x0A => "Processor Card Slot",
        0x0B => "Proprietary Memory Card Slot",
        0x0C => "I/O Riser Card Slot",
        0x0D => "NuBus",
        0x0E => "PCI - 66MHz Capable",
        0x0F => "AGP",
        0x10 => "AGP 2X",
        0x11 => "AGP 4X",
        0x12 => "PCI-X",
        0x13 => "AGP 8X",
        0x14 => "M.2 Socket 1-DP (Mechanical Key A)",
        0x15 => "M.2 Socket 1-SD (Mechanical Key E)",
        0x16 => "M.2 Socket 2 (Mechanical Key B)",
        0x17 => "M.2 Socket 3 (Mechanical Key M)",
        0x18 => "MXM Type I",
        0x19 => "MXM Type II",
        0x1A => "MXM Type III (standard connector)",
        0x1B => "MXM Type III (HE connector)",
        0x1C => "MXM Type IV",
        0x1D => "MXM 3.0 Type A",
        0x1E => "MXM 3.0 Type B",
        0x1F => "PCI Express Gen 2 SFF-8639 (U.2)",
        0x20 => "PCI Express Gen 3 SFF-8639 (U.2)",
        0x21 => "PCI Express Mini 52-pin (CEM spec. 2.0) with bottom-side keep-outs",
        0x22 => "PCI Express Mini 52-pin (CEM spec. 2.0) without bottom-side keep-outs",
        0x23 => "PCI Express Mini 76-pin (CEM spec. 2.0)",
        0x24 => "PCI Express Gen 4 SFF-8639 (U.2)",
        0x25 => "PCI Express Gen 5 SFF-8639 (U.2)",
        0x26 => "OCP NIC 3.0 Small Form Factor (SFF)",
        0x27 => "OCP NIC 3.0 Large Form Factor (LFF)",
        0x28 => "OCP NIC Prior to 3.0",
        0x30 => "CXL Flexbus 1.0",
        0xA0 => "PC-98/C20",
        0xA1 => "PC-98/C24",
        0xA2 => "PC-98/E",
        0xA3 => "PC-98/Local Bus",
        0xA4 => "PC-98/Card",
        0xA5 => "PCI Express",
        0xA6 => "PCI Express x1",
        0xA7 => "PCI Express x2",
        0xA8 => "PCI Express x4",
        0xA9 => "PCI Express x8",
        0xAA => "PCI Express x16",
        0xAB => "PCI Express Gen 2",
        0xAC => "PCI Express Gen 2 x1",
        0xAD => "PCI Express Gen 2 x2",
        0xAE => "PCI Express Gen 2 x4",
        0xAF => "PCI Express Gen 2 x8",
        0xB0 => "PCI Express Gen 2 x16",
        0xB1 => "PCI Express Gen 3",
        0xB2 => "PCI Express Gen 3 x1",
        0xB3 => "PCI Express Gen 3 x2",
        0xB4 => "PCI Express Gen 3 x4",
        0xB5 => "PCI Express Gen 3 x8",
        0xB6 => "PCI Express Gen 3 x16",
        0xB8 => "PCI Express Gen 4",
        0xB9 => "PCI Express Gen 4 x1",
        0xBA => "PCI Express Gen 4 x2",
        0xBB => "PCI Express Gen 4 x4",
        0xBC => "PCI Express Gen 4 x8",
        0xBD => "PCI Express Gen 4 x16",
        0xBE => "PCI Express Gen 5",
        0xBF => "PCI Express Gen 5 x1",
        0xC0 => "PCI Express Gen 5 x2",
        0xC1 => "PCI Express Gen 5 x4",
        0xC2 => "PCI Express Gen 5 x8",
        0xC3 => "PCI Express Gen 5 x16",
        0xC4 => "PCI Express Gen 6 and Beyond",
        0xC5 => "Enterprise and Datacenter 1U E1 Form Factor Slot (EDSFF E1.S, E1.L)",
        0xC6 => "Enterprise and Datacenter 3\" E3 Form Factor Slot (EDSFF E3.S, E3.L)",
    }
}

code! {
    /// Width of a slot's data bus (clause 7.10.2).
    SlotWidth(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "8 bit",
        0x04 => "16 bit",
        0x05 => "32 bit",
        0x06 => "64 bit",
        0x07 => "128 bit",
        0x08 => "1x or x1",
        0x09 => "2x or x2",
        0x0A => "4x or x4",
        0x0B => "8x or x8",
        0x0C => "12x or x12",
        0x0D => "16x or x16",
        0x0E => "32x or x32",
    }
}

code! {
    /// Whether something sits in a slot (clause 7.10.3).
    SlotUsage(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "Available",
        0x04 => "In use",
        0x05 => "Unavailable",
    }
}

code! {
    /// Length of a slot (clause 7.10.4).
    SlotLength(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "Short Length",
        0x04 => "Long Length",
        0x05 => "2.5\" drive form factor",
        0x06 => "3.5\" drive form factor",
    }
}

flags! {
    /// What a slot gives (clause 7.10.6).
    SlotCharacteristics1(u8) {
        0 => "Unknown",
        1 => "Provides 5.0 volts",
        2 => "Provides 3.3 volts",
        3 => "Opening is shared with another slot",
        4 => "PC Card slot supports PC Card-16",
        5 => "PC Card slot supports CardBus",
        6 => "PC Card slot supports Zoom Video",
        7 => "PC Card slot supports Modem Ring Resume",
    }
}

flags! {
    /// What a slot can (clause 7.10.7).
    SlotCharacteristics2(u8) {
        0 => "PCI slot supports Power Management Event (PME#) signal",
        1 => "Slot supports hot-plug devices",
        2 => "PCI slot supports SMBus signal",
        3 => "PCIe slot supports bifurcation",
        4 => "Slot supports async/surprise removal",
        5 => "Flexbus slot, CXL 1.0 capable",
        6 => "Flexbus slot, CXL 2.0 capable",
        7 => "Flexbus slot, CXL 3.0 capable",
    }
}

code! {
    /// Height of the cards that a slot takes (clause 7.10.12).
    SlotHeight(u8) {
        0x00 => "Not applicable",
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "Full height",
        0x04 => "Low-profile",
    }
}

/// One of the further devices that share a slot (clause 7.10.9).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct SlotPeer {
    /// PCI segment group.
    pub segment_group: u16,
    /// PCI bus.
    pub bus: u8,
    /// PCI device in bits 7:3, function in bits 2:0.
    pub device_function: u8,
    /// Data bus width in lanes.
    pub data_bus_width: u8,
}

impl<'a> SystemSlot<'a> {
    /// The PCI address of what sits in the slot, as `0000:01:00.0`; `None` where it has none.
    pub fn pci_address(&self) -> Option<Field<'a, String>> {
        let segment = self.segment_group()?;
        let (bus, device) = (self.bus()?.value, self.device_function()?.value);
        super::pci_address(segment, bus, device)
    }

    /// The further devices that share the slot, as many as the structure holds.
    pub fn peers(&self) -> impl Iterator<Item = SlotPeer> + use<'a> {
        let count = self.peer_group_count().map_or(0, |field| usize::from(field.value));
        let groups = self.structure().formatted().get(0x13..).unwrap_or_default();
        groups.chunks_exact(5).take(count).filter_map(|group| match group {
            [low, high, bus, device_function, width] => Some(SlotPeer {
                segment_group: u16::from_le_bytes([*low, *high]),
                bus: *bus,
                device_function: *device_function,
                data_bus_width: *width,
            }),
            _ => None,
        })
    }

    /// The offset of the fields behind the peer groups (SMBIOS 3.4).
    fn behind_peers(&self) -> Option<usize> {
        Some(0x13 + 5 * usize::from(self.peer_group_count()?.value))
    }

    /// More of what kind of slot it is, by the kind (clause 7.10.10).
    pub fn information(&self) -> Option<Field<'a, u8>> {
        field::read(&self.structure(), self.behind_peers()?)
    }

    /// The physical width in lanes (clause 7.10.2).
    pub fn physical_width(&self) -> Option<Field<'a, SlotWidth>> {
        field::read(&self.structure(), self.behind_peers()? + 1)
    }

    /// The distance to the next slot in hundredths of a millimetre; 0 is unknown.
    pub fn pitch(&self) -> Option<Field<'a, u16>> {
        field::read(&self.structure(), self.behind_peers()? + 2)
    }

    /// Height of the cards it takes (SMBIOS 3.5, clause 7.10.12).
    pub fn height(&self) -> Option<Field<'a, SlotHeight>> {
        field::read(&self.structure(), self.behind_peers()? + 4)
    }
}
