//! Type 4, Processor Information (clause 7.5).

use super::ProcessorFamily;
use crate::{
    Field, Handle, Text,
    code::{code, flags},
    field::structure,
};

structure! {
    /// One processor socket.
    ProcessorInformation = 4, "Processor Information" {
        /// The socket's label.
        0x04 socket_designation: Text<'a>,
        /// What kind of processor it is for (clause 7.5.1).
        0x05 processor_type: ProcessorType,
        /// Processor family (clause 7.5.2); FEh says that family 2 holds it.
        0x06 family_code: u8,
        /// The maker.
        0x07 manufacturer: Text<'a>,
        /// Identification, by architecture (clause 7.5.3).
        0x08 processor_id: u64,
        /// The version, in practice the model name.
        0x10 version: Text<'a>,
        /// Voltage (clause 7.5.4): bit 7 set, bits 6:0 tenths of a volt; else capability bits.
        0x11 voltage_code: u8,
        /// External clock in MHz; 0 is unknown.
        0x12 external_clock_mhz: u16,
        /// Highest speed the socket supports in MHz; 0 is unknown.
        0x14 maximum_speed_mhz: u16,
        /// Speed at boot in MHz; 0 is unknown.
        0x16 current_speed_mhz: u16,
        /// Status: bit 6 socket populated, bits 2:0 state.
        0x18 status: ProcessorStatus,
        /// The socket's kind (clause 7.5.5).
        0x19 upgrade: ProcessorUpgrade,
        /// Cache structure of level 1, FFFFh where there is none.
        0x1A l1_cache_handle: Handle,
        /// Cache structure of level 2, FFFFh where there is none.
        0x1C l2_cache_handle: Handle,
        /// Cache structure of level 3, FFFFh where there is none.
        0x1E l3_cache_handle: Handle,
        /// The serial number.
        0x20 serial_number: Text<'a>,
        /// The owner's inventory number.
        0x21 asset_tag: Text<'a>,
        /// The part number.
        0x22 part_number: Text<'a>,
        /// Cores; 0 unknown, FFh see core count 2.
        0x23 core_count_code: u8,
        /// Enabled cores; 0 unknown, FFh see the second field.
        0x24 core_enabled_code: u8,
        /// Threads; 0 unknown, FFh see thread count 2.
        0x25 thread_count_code: u8,
        /// Characteristics (clause 7.5.9).
        0x26 characteristics: ProcessorCharacteristics,
        /// Processor family 2.
        0x28 family_2: u16,
        /// Cores where there are 256 or more.
        0x2A core_count_2: u16,
        /// Enabled cores where there are 256 or more.
        0x2C core_enabled_2: u16,
        /// Threads where there are 256 or more.
        0x2E thread_count_2: u16,
        /// Enabled threads.
        0x30 thread_enabled: u16,
        /// The socket type as text.
        0x32 socket_type: Text<'a>,
    }
}

code! {
    /// Kind of processor (clause 7.5.1).
    ProcessorType(u8) {
        1 => "Other",
        2 => "Unknown",
        3 => "Central Processor",
        4 => "Math Processor",
        5 => "DSP Processor",
        6 => "Video Processor",
    }
}

/// Status of a socket (clause 7.5, offset 18h).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ProcessorStatus(pub u8);

impl ProcessorStatus {
    /// Whether a processor sits in the socket.
    pub fn is_populated(self) -> bool {
        self.0 & 0x40 != 0
    }

    /// The processor's state in the standard's words, if it lists it.
    pub fn state(self) -> Option<&'static str> {
        match self.0 & 0x07 {
            0 => Some("Unknown"),
            1 => Some("Enabled"),
            2 => Some("Disabled by user through BIOS Setup"),
            3 => Some("Disabled by BIOS (POST error)"),
            4 => Some("Idle, waiting to be enabled"),
            7 => Some("Other"),
            _ => None,
        }
    }
}

impl<'a> crate::field::Decode<'a> for ProcessorStatus {
    const LEN: usize = 1;

    fn words(&self) -> String {
        self.state().map_or_else(|| format!("code {:#x}", self.0), str::to_owned)
    }

    fn decode(bytes: &'a [u8], _: &crate::Structure<'a>) -> Option<Self> {
        bytes.first().copied().map(Self)
    }
}

code! {
    /// Kind of socket (clause 7.5.5).
    ProcessorUpgrade(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "Daughter Board",
        0x04 => "ZIF Socket",
        0x05 => "Replaceable Piggy Back",
        0x06 => "None",
        0x07 => "LIF Socket",
        0x08 => "Slot 1",
        0x09 => "Slot 2",
        0x0A => "370-pin socket",
        0x0B => "Slot A",
        0x0C => "Slot M",
        0x0D => "Socket 423",
        0x0E => "Socket A (Socket 462)",
        0x0F => "Socket 478",
        0x10 => "Socket 754",
        0x11 => "Socket 940",
        0x12 => "Socket 939",
        0x13 => "Socket mPGA604",
        0x14 => "Socket LGA771",
        0x15 => "Socket LGA775",
        0x16 => "Socket S1",
        0x17 => "Socket AM2",
        0x18 => "Socket F (1207)",
        0x19 => "Socket LGA1366",
        0x1A => "Socket G34",
        0x1B => "Socket AM3",
        0x1C => "Socket C32",
        0x1D => "Socket LGA1156",
        0x1E => "Socket LGA1567",
        0x1F => "Socket PGA988A",
        0x20 => "Socket BGA1288",
        0x21 => "Socket rPGA988B",
        0x22 => "Socket BGA1023",
        0x23 => "Socket BGA1224",
        0x24 => "Socket LGA1155",
        0x25 => "Socket LGA1356",
        0x26 => "Socket LGA2011",
        0x27 => "Socket FS1",
        0x28 => "Socket FS2",
        0x29 => "Socket FM1",
        0x2A => "Socket FM2",
        0x2B => "Socket LGA2011-3",
        0x2C => "Socket LGA1356-3",
        0x2D => "Socket LGA1150",
        0x2E => "Socket BGA1168",
        0x2F => "Socket BGA1234",
        0x30 => "Socket BGA1364",
        0x31 => "Socket AM4",
        0x32 => "Socket LGA1151",
        0x33 => "Socket BGA1356",
        0x34 => "Socket BGA1440",
        0x35 => "Socket BGA1515",
        0x36 => "Socket LGA3647-1",
        0x37 => "Socket SP3",
        0x38 => "Socket SP3r2",
        0x39 => "Socket LGA2066",
        0x3A => "Socket BGA1392",
        0x3B => "Socket BGA1510",
        0x3C => "Socket BGA1528",
        0x3D => "Socket LGA4189",
        0x3E => "Socket LGA1200",
        0x3F => "Socket LGA4677",
        0x40 => "Socket LGA1700",
        0x41 => "Socket BGA1744",
        0x42 => "Socket BGA1781",
        0x43 => "Socket BGA1211",
        0x44 => "Socket BGA2422",
        0x45 => "Socket LGA1211",
        0x46 => "Socket LGA2422",
        0x47 => "Socket LGA5773",
        0x48 => "Socket BGA5773",
        0x49 => "Socket AM5",
        0x4A => "Socket SP5",
        0x4B => "Socket SP6",
        0x4C => "Socket BGA883",
        0x4D => "Socket BGA1190",
        0x4E => "Socket BGA4129",
        0x4F => "Socket LGA4710",
        0x50 => "Socket LGA7529",
        0x51 => "Socket BGA1964",
        0x52 => "Socket BGA1792",
        0x53 => "Socket BGA2049",
        0x54 => "Socket BGA2551",
        0x55 => "Socket LGA1851",
        0x56 => "Socket BGA2114",
        0x57 => "Socket BGA2833",
    }
}

flags! {
    /// What a processor can do (clause 7.5.9).
    ProcessorCharacteristics(u16) {
        0 => "Reserved",
        1 => "Unknown",
        2 => "64-bit Capable",
        3 => "Multi-Core",
        4 => "Hardware Thread",
        5 => "Execute Protection",
        6 => "Enhanced Virtualization",
        7 => "Power/Performance Control",
        8 => "128-bit Capable",
        9 => "Arm64 SoC ID",
    }
}

impl<'a> ProcessorInformation<'a> {
    /// The family, from family 2 where the byte says so.
    pub fn family(&self) -> Option<Field<'a, ProcessorFamily>> {
        let short = self.family_code()?;
        if short.value == 0xFE {
            return Some(self.family_2()?.map(ProcessorFamily));
        }
        Some(short.map(|code| ProcessorFamily(u16::from(code))))
    }

    /// Cores, from the second field where the byte cannot hold them; `None` also where unknown.
    pub fn core_count(&self) -> Option<Field<'a, u16>> {
        count(self.core_count_code()?, self.core_count_2())
    }

    /// Enabled cores; `None` also where unknown.
    pub fn enabled_core_count(&self) -> Option<Field<'a, u16>> {
        count(self.core_enabled_code()?, self.core_enabled_2())
    }

    /// Threads; `None` also where unknown.
    pub fn thread_count(&self) -> Option<Field<'a, u16>> {
        count(self.thread_count_code()?, self.thread_count_2())
    }

    /// The voltage as configured in millivolts; `None` also where only capability bits stand.
    pub fn voltage_mv(&self) -> Option<Field<'a, u32>> {
        let code = self.voltage_code()?;
        (code.value & 0x80 != 0).then(|| code.map(|raw| u32::from(raw & 0x7F) * 100))
    }
}

fn count<'a>(short: Field<'a, u8>, long: Option<Field<'a, u16>>) -> Option<Field<'a, u16>> {
    let field = if short.value == 0xFF { long? } else { short.map(u16::from) };
    (field.value != 0).then_some(field)
}
