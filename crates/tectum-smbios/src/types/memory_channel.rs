//! Type 37, Memory Channel (clause 7.38).

use crate::{Handle, code::code, field::structure};

structure! {
    /// Memory devices on one channel.
    MemoryChannel = 37, "Memory Channel" {
        /// What kind of channel it is.
        0x04 channel_type: MemoryChannelType,
        /// The most load it takes.
        0x05 maximum_load: u8,
        /// How many devices it has; their loads and handles follow.
        0x06 device_count: u8,
    }
}

code! {
    /// Kind of memory channel (clause 7.38.1).
    MemoryChannelType(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "RamBus",
        0x04 => "SyncLink",
    }
}

/// One device of a channel.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ChannelDevice {
    /// The load it puts on the channel.
    pub load: u8,
    /// The memory device (type 17).
    pub handle: Handle,
}

impl<'a> MemoryChannel<'a> {
    /// The devices, as many as the structure holds.
    pub fn devices(&self) -> impl Iterator<Item = ChannelDevice> + use<'a> {
        let count = self.device_count().map_or(0, |field| usize::from(field.value));
        let all = self.structure().formatted().get(0x07..).unwrap_or_default();
        all.chunks_exact(3).take(count).filter_map(|one| match one {
            [load, low, high] => Some(ChannelDevice {
                load: *load,
                handle: Handle(u16::from_le_bytes([*low, *high])),
            }),
            _ => None,
        })
    }
}
