//! Type 38, IPMI Device Information (clause 7.39).

use crate::{Field, code::code, field::structure};

structure! {
    /// The interface to the baseboard management controller.
    IpmiDevice = 38, "IPMI Device Information" {
        /// What kind of interface it is.
        0x04 interface_type: IpmiInterface,
        /// The version of IPMI, BCD: 20h is 2.0.
        0x05 specification_revision: u8,
        /// Its address on the I2C bus.
        0x06 i2c_target_address: u8,
        /// Address of non-volatile storage; FFh where it has none.
        0x07 nv_storage_address: u8,
        /// Base address: bit 0 says I/O space, the rest the address without its lowest bit.
        0x08 base_address: u64,
        /// Bits 7:6 register spacing, 4 lowest address bit, 3 interrupt given, 1 polarity, 0 trigger.
        0x10 address_modifier: u8,
        /// Interrupt number; 0 is none or unknown.
        0x11 interrupt_number: u8,
    }
}

code! {
    /// Kind of IPMI interface (clause 7.39.1).
    IpmiInterface(u8) {
        0x00 => "Unknown",
        0x01 => "KCS: Keyboard Controller Style",
        0x02 => "SMIC: Server Management Interface Chip",
        0x03 => "BT: Block Transfer",
        0x04 => "SSIF: SMBus System Interface",
    }
}

/// Where the interface's registers lie.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum IpmiAddress {
    /// At a port of I/O space.
    Port(u64),
    /// At a memory address.
    Memory(u64),
    /// At an address of the SMBus.
    SmBus(u8),
}

impl<'a> IpmiDevice<'a> {
    /// The version of IPMI, major and minor.
    pub fn version(&self) -> Option<Field<'a, (u8, u8)>> {
        Some(self.specification_revision()?.map(|bcd| (bcd >> 4, bcd & 0x0F)))
    }

    /// Where its registers lie, the lowest address bit put back from the modifier.
    pub fn address(&self) -> Option<Field<'a, IpmiAddress>> {
        let base = self.base_address()?;
        let lowest = self.address_modifier().map_or(0, |field| u64::from(field.value >> 4 & 1));
        let interface = self.interface_type()?.value;
        Some(base.map(|raw| match interface {
            // The SMBus address stands in bits 7:1.
            IpmiInterface(0x04) => IpmiAddress::SmBus((raw >> 1 & 0x7F) as u8),
            _ if raw & 1 == 1 => IpmiAddress::Port(raw & !1 | lowest),
            _ => IpmiAddress::Memory(raw & !1 | lowest),
        }))
    }
}
