use crate::report::{
    fact::Fact,
    kinds::{AssetTag, Serial, Text, terms},
    record::{Parts, record},
};

record! {
    /// Memory as the firmware says it is installed.
    Memory "memory" {
        /// Sum of the modules' sizes in bytes.
        installed_bytes: Fact<u64>,
        /// Sets of slots that work together (SMBIOS type 16).
        arrays: Parts<MemoryArray>,
        /// Every slot, filled and empty (SMBIOS type 17).
        slots: Parts<MemorySlot>,
        /// Every module, with the slot it sits in.
        modules: Parts<MemoryModule>,
    }
}

record! {
    /// A set of slots (SMBIOS type 16, DSP0134 clause 7.17).
    MemoryArray "memory array" {
        place [location, usage];

        /// Where the array sits, in the standard's words.
        location: Fact<Text>,
        /// What it is used for, in the standard's words.
        usage: Fact<Text>,
        /// Error correction, in the standard's words.
        error_correction: Fact<Text>,
        /// The most it takes, in bytes.
        maximum_capacity_bytes: Fact<u64>,
        /// How many slots it has.
        slots: Fact<u64>,
    }
}

record! {
    /// One slot for a memory module (SMBIOS type 17, DSP0134 clause 7.18).
    MemorySlot "memory slot" {
        place [locator, bank];
        derived [state];

        /// The slot's label.
        locator: Fact<Text>,
        /// The bank's label.
        bank: Fact<Text>,
        /// Whether a module sits in it.
        state: Fact<SlotState>,
    }
}

record! {
    /// One memory module (SMBIOS type 17, DSP0134 clause 7.18).
    MemoryModule "memory module" {
        identity [part_number, serial];
        place [slot, bank];

        /// The label of the slot it sits in.
        slot: Fact<Text>,
        /// The label of the slot's bank.
        bank: Fact<Text>,
        /// Size in bytes.
        size_bytes: Fact<u64>,
        /// Form factor, in the standard's words.
        form_factor: Fact<Text>,
        /// Kind of memory, in the standard's words.
        kind: Fact<Text>,
        /// Highest speed in million transfers a second.
        speed_mts: Fact<u64>,
        /// Speed as configured in million transfers a second.
        configured_speed_mts: Fact<u64>,
        /// Voltage as configured in millivolts.
        configured_voltage_mv: Fact<u64>,
        /// Ranks.
        ranks: Fact<u64>,
        /// Width of the data in bits.
        data_width_bits: Fact<u64>,
        /// Width with check bits in bits.
        total_width_bits: Fact<u64>,
        /// The maker.
        manufacturer: Fact<Text>,
        /// The part number.
        part_number: Fact<Text>,
        /// The serial number.
        serial: Fact<Serial>,
        /// The owner's inventory number.
        asset_tag: Fact<AssetTag>,
    }
}

record! {
    /// Memory use (`/proc/meminfo`, proc(5)).
    MemoryReadings "memory readings" {
        /// What the kernel manages, in bytes.
        total_bytes: Fact<u64>,
        /// What nothing uses, in bytes.
        free_bytes: Fact<u64>,
        /// What programs can get without swapping, in bytes. It holds what can be reclaimed of the
        /// cache already and is not to be added to what is free.
        available_bytes: Fact<u64>,
        /// Buffers of block devices, in bytes.
        buffers_bytes: Fact<u64>,
        /// Page cache, in bytes.
        cached_bytes: Fact<u64>,
        /// Swap space, in bytes.
        swap_total_bytes: Fact<u64>,
        /// Unused swap space, in bytes.
        swap_free_bytes: Fact<u64>,
    }
}

terms! {
    /// Whether a module sits in a slot.
    SlotState {
        /// A module.
        Filled = "filled",
        /// No module.
        Empty = "empty",
    }
}
