//! Type 15, System Event Log (clause 7.16).

use crate::field::structure;

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
        0x0A access_method: u8,
        /// Bit 0 the log is valid, bit 1 it is full.
        0x0B log_status: u8,
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

/// One kind of event that the log can hold (clause 7.16.5).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct EventDescriptor {
    /// The kind of event (clause 7.16.6.1).
    pub kind: u8,
    /// The form of its data (clause 7.16.6.2).
    pub data_format: u8,
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
                Some(EventDescriptor { kind: *kind, data_format: *data_format })
            }
            _ => None,
        })
    }
}
