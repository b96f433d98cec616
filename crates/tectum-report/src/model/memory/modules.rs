//! Modules and the slots they sit in, as the firmware describes them.

use crate::{
    declare::record,
    fact::Fact,
    leaf::{AssetTag, Bits, Bytes, Megatransfers, Millivolts, Serial, Term, codes},
};

record! {
    /// A set of slots (SMBIOS type 16, DSP0134 clause 7.17).
    MemoryArray "memory array" {
        source "DSP0134 clause 7.17";
        place [location, usage, number];
        derived [free_slots];

        /// Its number, from 1, in the order of the tables.
        number: Fact<u64>,
        /// Where the array sits, in the standard's words.
        location: Fact<Term>,
        /// What it is used for, in the standard's words.
        usage: Fact<Term>,
        /// Error correction, in the standard's words.
        error_correction: Fact<Term>,
        /// The kind of the error that the firmware recorded of it, in the standard's words; `none`
        /// where it recorded none.
        #[source = "DSP0134 clauses 7.19 and 7.34"]
        error: Fact<Term>,
        /// The most it takes, in bytes.
        max_capacity_bytes: Fact<Bytes>,
        /// How many slots it has.
        slots: Fact<u64>,
        /// Slots without a module.
        free_slots: Fact<u64>,
        /// The largest module that it takes if all its slots take the same, in bytes.
        largest_module_bytes: Fact<Bytes>,
        /// What sits in one that is for something else than system memory, each with its label, kind and size: such parts
        /// are no memory modules, and their places are no slots for any.
        #[source = "DSP0134 clause 7.18"]
        holds: Fact<Vec<Term>>,
    }
}

record! {
    /// One slot for a memory module (SMBIOS type 17, DSP0134 clause 7.18).
    MemorySlot "memory slot" {
        source "DSP0134 clause 7.18";
        place [locator, bank];
        derived [state];

        /// The slot's label.
        locator: Fact<Term>,
        /// The bank's label.
        bank: Fact<Term>,
        /// The number of the array it belongs to.
        array: Fact<u64>,
        /// The channel it belongs to, where the firmware describes channels.
        channel: Fact<u64>,
        /// The set of slots that must be filled alike.
        set: Fact<u64>,
        /// What form of module it takes, in the standard's words; firmware says it of empty slots too.
        form_factor: Fact<Term>,
        /// Whether a module sits in it.
        state: Fact<SlotState>,
    }
}

record! {
    /// One memory module (SMBIOS type 17, DSP0134 clause 7.18).
    MemoryModule "memory module" {
        source "DSP0134 clause 7.18";
        identity unique [part_number, serial];
        place [slot, bank];
        refers slot -> memory.slots.locator;

        /// The label of the slot it sits in.
        slot: Fact<Term>,
        /// The label of the slot's bank.
        bank: Fact<Term>,
        /// Size in bytes.
        size_bytes: Fact<Bytes>,
        /// Form factor, in the standard's words.
        form_factor: Fact<Term>,
        /// Kind of memory, in the standard's words.
        kind: Fact<Term>,
        /// Details of the kind, in the standard's words.
        detail: Fact<Vec<Term>>,
        /// Technology, in the standard's words.
        technology: Fact<Term>,
        /// What it can be used as, in the standard's words.
        modes: Fact<Vec<Term>>,
        /// Highest speed in million transfers a second.
        speed_mts: Fact<Megatransfers>,
        /// Speed as configured in million transfers a second.
        configured_speed_mts: Fact<Megatransfers>,
        /// Smallest voltage in millivolts.
        min_voltage_mv: Fact<Millivolts>,
        /// Largest voltage in millivolts.
        max_voltage_mv: Fact<Millivolts>,
        /// Voltage as configured in millivolts.
        configured_voltage_mv: Fact<Millivolts>,
        /// How many ranks it has: sets of chips that answer together.
        ranks: Fact<u64>,
        /// How many bits of data it gives at once, without those for correction.
        data_width_bits: Fact<Bits>,
        /// Width with check bits in bits.
        total_width_bits: Fact<Bits>,
        /// Bits beside the data that errors are found by: total width less data width.
        check_bits: Fact<Bits>,
        /// The maker of the circuit on it that manages its power, by its number in JEDEC JEP-106.
        power_circuit_maker: Fact<Term>,
        /// The maker of its registering clock driver, by its number in JEDEC JEP-106.
        clock_driver_maker: Fact<Term>,
        /// The kind of the error that the firmware recorded of it, in the standard's words; `none`
        /// where it recorded none.
        #[source = "DSP0134 clauses 7.19 and 7.34"]
        error: Fact<Term>,
        /// Volatile part in bytes.
        volatile_bytes: Fact<Bytes>,
        /// Non-volatile part in bytes.
        non_volatile_bytes: Fact<Bytes>,
        /// Cache part in bytes.
        cache_bytes: Fact<Bytes>,
        /// Version of the module's own firmware.
        firmware_version: Fact<Term>,
        /// Who made the module, as the firmware tells it: a name, or the maker's JEDEC number.
        manufacturer: Fact<Term>,
        /// The maker's name in the list of JEDEC (JEP-106), by the number that the module gives.
        manufacturer_by_id: Fact<Term>,
        /// The maker of the subsystem controller, by its JEP-106 number.
        controller_manufacturer_by_id: Fact<Term>,
        /// The maker's part number, by which another one like it is bought.
        part_number: Fact<Term>,
        /// The serial number.
        serial: Fact<Serial>,
        /// The owner's inventory number.
        asset_tag: Fact<AssetTag>,
    }
}

codes! {
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
        source "DSP0134 clause 7.38";
        place [number];
        refers slots -> memory.slots.locator;

        /// Its number, from 1, in the order of the tables.
        number: Fact<u64>,
        /// What kind of channel it is, in the standard's words.
        kind: Fact<Term>,
        /// The most load it takes.
        max_load: Fact<u64>,
        /// The labels of its slots.
        slots: Fact<Vec<Term>>,
    }
}

/// The kind of an error that the firmware recorded, where its words say that there was one (DSP0134 clauses
/// 7.19.1 and 7.34).
fn recorded(kind: &Fact<Term>) -> Option<&Term> {
    kind.value().filter(|kind| !matches!(kind.0.as_str(), "none" | "OK" | "Unknown" | "Other"))
}

impl MemoryModule {
    /// The error that the firmware recorded of it, if it did.
    pub fn recorded_error(&self) -> Option<&Term> {
        recorded(&self.error)
    }
}

impl MemoryArray {
    /// The error that the firmware recorded of it, if it did.
    pub fn recorded_error(&self) -> Option<&Term> {
        recorded(&self.error)
    }
}
