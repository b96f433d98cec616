//! Slots, devices on the board, connectors, the maker's strings.

use crate::report::{
    fact::Fact,
    kinds::{FreeText, Text},
    record::{Parts, record},
};

record! {
    /// One slot for an expansion card or drive (SMBIOS type 9, DSP0134 clause 7.10).
    ExpansionSlot "slot" {
        place [designation];

        /// The slot's label.
        designation: Fact<Text>,
        /// What kind of slot it is, in the standard's words.
        kind: Fact<Text>,
        /// The width of its data bus, in the standard's words.
        width: Fact<Text>,
        /// Whether something sits in it, in the standard's words.
        usage: Fact<Text>,
        /// Its length, in the standard's words.
        length: Fact<Text>,
        /// What it gives and can, in the standard's words.
        characteristics: Fact<Vec<Text>>,
        /// The PCI address of what sits in it.
        pci_address: Fact<Text>,
        /// What the function at that address is, by the list of PCI ids.
        holds: Fact<Text>,
        /// The driver of what sits in it.
        driver: Fact<Text>,
    }
}

record! {
    /// One device on the board (SMBIOS type 41 or 10, DSP0134 clauses 7.42 and 7.11).
    OnboardDevice "onboard device" {
        place [designation];

        /// What the firmware calls it.
        designation: Fact<Text>,
        /// What kind of device it is, in the standard's words.
        kind: Fact<Text>,
        /// Whether it is enabled.
        enabled: Fact<bool>,
        /// Its PCI address.
        pci_address: Fact<Text>,
    }
}

record! {
    /// One connector (SMBIOS type 8, DSP0134 clause 7.9).
    Port "port" {
        place [internal, external];

        /// The label on the board.
        internal: Fact<Text>,
        /// The label outside.
        external: Fact<Text>,
        /// What connector it is outside, or inside where there is none outside.
        connector: Fact<Text>,
        /// What it is for, in the standard's words.
        kind: Fact<Text>,
    }
}

record! {
    /// One free-form string of the maker (SMBIOS type 11, DSP0134 clause 7.12).
    OemString "maker's string" {
        place [number];

        /// Its number, from 1.
        number: Fact<u64>,
        /// The string.
        text: Fact<FreeText>,
    }
}

record! {
    /// A structure of the firmware's tables that no other part of the report holds: the maker's own
    /// types (128 to 255), and types of the standard that say nothing of the machine's parts.
    OtherStructure "firmware structure" {
        place [handle, number];

        /// The structure type's number.
        number: Fact<u64>,
        /// The type's name in the standard.
        name: Fact<Text>,
        /// Its handle.
        handle: Fact<Text>,
        /// Length of its formatted part in bytes.
        length_bytes: Fact<u64>,
        /// Its strings.
        strings: Parts<OemString>,
    }
}
