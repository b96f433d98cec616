//! Type 15, System Event Log (clause 7.16).

use crate::{
    code::{code, flags},
    field::structure,
};

structure! {
    /// Where the firmware's event log is and how it is read.
    SystemEventLog = 15, "System Event Log" {
        /// Length of the log area in bytes.
        0x04 area_length: u16,
        /// Offset of the log's header.
        0x06 header_start: u16,
        /// Offset of the log's data.
        0x08 data_start: u16,
        /// How it is accessed (clause 7.16.1).
        0x0A access_method: LogAccess,
        /// Whether the log is valid and has room.
        0x0B log_status: LogStatus,
        /// Changes with each entry.
        0x0C change_token: u32,
        /// The access address, by the method.
        0x10 access_address: u32,
        /// The header's form (clause 7.16.3).
        0x14 header_format: u8,
        /// How many type descriptors follow.
        0x15 descriptor_count: u8,
        /// Length of each in bytes.
        0x16 descriptor_length: u8,
    }
}

code! {
    /// How the event log is accessed (clause 7.16.1).
    LogAccess(u8) {
        0x00 => "Indexed I/O: one 8-bit index port, one 8-bit data port",
        0x01 => "Indexed I/O: two 8-bit index ports, one 8-bit data port",
        0x02 => "Indexed I/O: one 16-bit index port, one 8-bit data port",
        0x03 => "Memory-mapped physical 32-bit address",
        0x04 => "General-purpose non-volatile data functions",
    }
}

flags! {
    /// Status of the event log (clause 7.16, offset 0Bh).
    LogStatus(u8) {
        0 => "Log area valid",
        1 => "Log area full",
    }
}

code! {
    /// Kind of event (clause 7.16.6.1); 80h to FEh are the maker's, FFh ends a log.
    LogEvent(u8) {
        0x00 => "Reserved",
        0x01 => "Single-bit ECC memory error",
        0x02 => "Multi-bit ECC memory error",
        0x03 => "Parity memory error",
        0x04 => "Bus time-out",
        0x05 => "I/O Channel Check",
        0x06 => "Software NMI",
        0x07 => "POST Memory Resize",
        0x08 => "POST Error",
        0x09 => "PCI Parity Error",
        0x0A => "PCI System Error",
        0x0B => "CPU Failure",
        0x0C => "EISA FailSafe Timer time-out",
        0x0D => "Correctable memory log disabled",
        0x0E => "Logging disabled for a specific Event Type",
        0x0F => "Reserved",
        0x10 => "System Limit Exceeded",
        0x11 => "Asynchronous hardware timer expired and issued a system reset",
        0x12 => "System configuration information",
        0x13 => "Hard-disk information",
        0x14 => "System reconfigured",
        0x15 => "Uncorrectable CPU-complex error",
        0x16 => "Log Area Reset/Cleared",
        0x17 => "System boot",
        0xFF => "End of log",
    }
}

code! {
    /// Form of an event's data (clause 7.16.6.2).
    LogData(u8) {
        0x00 => "None",
        0x01 => "Handle",
        0x02 => "Multiple-Event",
        0x03 => "Multiple-Event Handle",
        0x04 => "POST Results Bitmap",
        0x05 => "System Management Type",
        0x06 => "Multiple-Event System Management Type",
    }
}

/// One kind of event that the log can hold (clause 7.16.5).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct EventDescriptor {
    /// The kind of event (clause 7.16.6.1).
    pub kind: LogEvent,
    /// The form of its data (clause 7.16.6.2).
    pub data_format: LogData,
}

impl<'a> SystemEventLog<'a> {
    /// The kinds of event that the log can hold, as many as the structure holds.
    pub fn descriptors(&self) -> impl Iterator<Item = EventDescriptor> + use<'a> {
        let count = self.descriptor_count().map_or(0, |field| usize::from(field.value));
        // A length below 2 is no length; the standard says 2 or more.
        let length = self.descriptor_length().map_or(2, |field| usize::from(field.value)).max(2);
        let all = self.structure().formatted().get(0x17..).unwrap_or_default();
        all.chunks_exact(length).take(count).filter_map(|one| match one {
            [kind, data_format, ..] => {
                Some(EventDescriptor { kind: LogEvent(*kind), data_format: LogData(*data_format) })
            }
            _ => None,
        })
    }
}
