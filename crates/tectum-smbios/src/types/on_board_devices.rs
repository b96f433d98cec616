//! Type 10, On Board Devices Information (clause 7.11), obsolete since version 2.6.

use crate::{Text, code::code, field::structure};

structure! {
    /// Devices on the board. Type 41 took its place.
    OnBoardDevices = 10, "On Board Devices Information" {}
}

/// One device on the board.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct OnBoardDevice<'a> {
    /// What kind of device it is.
    pub kind: OnBoardDeviceType,
    /// Whether it is enabled.
    pub enabled: bool,
    /// What the firmware calls it.
    pub description: Text<'a>,
}

code! {
    /// Kind of device on a board (clause 7.11.1).
    OnBoardDeviceType(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "Video",
        0x04 => "SCSI Controller",
        0x05 => "Ethernet",
        0x06 => "Token Ring",
        0x07 => "Sound",
        0x08 => "PATA Controller",
        0x09 => "SATA Controller",
        0x0A => "SAS Controller",
        0x0B => "Wireless LAN",
        0x0C => "Bluetooth",
        0x0D => "WWAN",
        0x0E => "eMMC (embedded Multi-Media Controller)",
        0x0F => "NVMe Controller",
        0x10 => "UFS Controller",
    }
}

impl<'a> OnBoardDevices<'a> {
    /// The devices: as many pairs of bytes as the structure's length holds.
    pub fn devices(&self) -> impl Iterator<Item = OnBoardDevice<'a>> + use<'a> {
        let structure = self.structure();
        let pairs = structure.formatted().get(4..).unwrap_or_default().chunks_exact(2);
        pairs.filter_map(move |pair| match pair {
            [kind, string] => Some(OnBoardDevice {
                kind: OnBoardDeviceType(kind & 0x7F),
                enabled: kind & 0x80 != 0,
                description: structure.text(*string),
            }),
            _ => None,
        })
    }
}
