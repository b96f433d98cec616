//! Type 42, Management Controller Host Interface (clause 7.43).

use crate::{code::code, field::structure};

structure! {
    /// The way from the host to its management controller.
    HostInterface = 42, "Management Controller Host Interface" {
        /// What kind of interface it is.
        0x04 interface_type: HostInterfaceType,
        /// How many bytes of its own data follow.
        0x05 data_length: u8,
    }
}

code! {
    /// Kind of host interface (clause 7.43.1, DSP0239).
    HostInterfaceType(u8) {
        0x02 => "KCS: Keyboard Controller Style",
        0x03 => "8250 UART Register Compatible",
        0x04 => "16450 UART Register Compatible",
        0x05 => "16550/16550A UART Register Compatible",
        0x06 => "16650/16650A UART Register Compatible",
        0x07 => "16750/16750A UART Register Compatible",
        0x08 => "16850/16850A UART Register Compatible",
        0x09 => "I2C/SMBUS",
        0x0A => "I3C",
        0x0B => "PCIe VDM",
        0x0C => "MMBI",
        0x40 => "Network Host Interface",
        0xF0 => "OEM-defined",
    }
}

/// A protocol that the interface speaks (clause 7.43.2).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct HostProtocol<'a> {
    /// Its code: 2 IPMI, 3 MCTP, 4 Redfish over IP, F0h the maker's.
    pub kind: u8,
    /// Its own data.
    pub data: &'a [u8],
}

impl<'a> HostInterface<'a> {
    /// The interface's own data, as much as the structure holds.
    pub fn data(&self) -> &'a [u8] {
        let length = self.data_length().map_or(0, |field| usize::from(field.value));
        let rest = self.structure().formatted().get(0x06..).unwrap_or_default();
        rest.get(..length.min(rest.len())).unwrap_or_default()
    }

    /// The protocols it speaks, as many as the structure holds whole.
    pub fn protocols(&self) -> impl Iterator<Item = HostProtocol<'a>> + use<'a> {
        let length = self.data_length().map_or(0, |field| usize::from(field.value));
        let formatted = self.structure().formatted();
        let count = formatted.get(0x06 + length).copied().unwrap_or(0);
        let mut rest = formatted.get(0x07 + length..).unwrap_or_default();
        (0..count).map_while(move |_| {
            let (kind, length) = (*rest.first()?, usize::from(*rest.get(1)?));
            let data = rest.get(2..2 + length)?;
            rest = rest.get(2 + length..).unwrap_or_default();
            Some(HostProtocol { kind, data })
        })
    }
}
