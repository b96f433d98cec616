//! Modules and the slots they sit in, as the firmware describes them.

use crate::report::{
    fact::Fact,
    kinds::{AssetTag, Serial, Text, terms},
    record::record,
};

record! {
    /// A set of slots (SMBIOS type 16, DSP0134 clause 7.17).
    MemoryArray "memory array" {
        place [location, usage, number];

        /// Its number, from 1, in the order of the tables.
        number: Fact<u64>,
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
        /// Slots without a module.
        free_slots: Fact<u64>,
        /// The largest module that it takes if all its slots take the same, in bytes.
        largest_module_bytes: Fact<u64>,
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
        /// The number of the array it belongs to.
        array: Fact<u64>,
        /// The channel it belongs to, where the firmware describes channels.
        channel: Fact<u64>,
        /// The set of slots that must be filled alike.
        set: Fact<u64>,
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
        /// Details of the kind, in the standard's words.
        detail: Fact<Vec<Text>>,
        /// Technology, in the standard's words.
        technology: Fact<Text>,
        /// What it can be used as, in the standard's words.
        modes: Fact<Vec<Text>>,
        /// Highest speed in million transfers a second.
        speed_mts: Fact<u64>,
        /// Speed as configured in million transfers a second.
        configured_speed_mts: Fact<u64>,
        /// Smallest voltage in millivolts.
        minimum_voltage_mv: Fact<u64>,
        /// Largest voltage in millivolts.
        maximum_voltage_mv: Fact<u64>,
        /// Voltage as configured in millivolts.
        configured_voltage_mv: Fact<u64>,
        /// Ranks.
        ranks: Fact<u64>,
        /// Width of the data in bits.
        data_width_bits: Fact<u64>,
        /// Width with check bits in bits.
        total_width_bits: Fact<u64>,
        /// Bits beside the data that errors are found by: total width less data width.
        check_bits: Fact<u64>,
        /// Volatile part in bytes.
        volatile_bytes: Fact<u64>,
        /// Non-volatile part in bytes.
        non_volatile_bytes: Fact<u64>,
        /// Cache part in bytes.
        cache_bytes: Fact<u64>,
        /// Version of the module's own firmware.
        firmware_version: Fact<Text>,
        /// The maker.
        manufacturer: Fact<Text>,
        /// The maker's name in the list of JEDEC (JEP-106), by the number that the module gives.
        manufacturer_by_id: Fact<Text>,
        /// The maker of the subsystem controller, by its JEP-106 number.
        controller_manufacturer_by_id: Fact<Text>,
        /// The part number.
        part_number: Fact<Text>,
        /// The serial number.
        serial: Fact<Serial>,
        /// The owner's inventory number.
        asset_tag: Fact<AssetTag>,
    }
}

terms! {
    /// Whether a module sits in a slot.
    SlotState {
        /// A module.
        Filled = "filled",
        /// No module.
        Empty = "empty",
        /// A module that the firmware has disabled.
        Disabled = "disabled",
    }
}

record! {
    /// One memory channel (SMBIOS type 37, DSP0134 clause 7.38).
    MemoryChannel "memory channel" {
        place [number];

        /// Its number, from 1, in the order of the tables.
        number: Fact<u64>,
        /// What kind of channel it is, in the standard's words.
        kind: Fact<Text>,
        /// The most load it takes.
        maximum_load: Fact<u64>,
        /// The labels of its slots.
        slots: Fact<Vec<Text>>,
    }
}
