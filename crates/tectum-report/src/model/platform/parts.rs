//! Slots, devices on the board, connectors, the maker's strings.

use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{Bytes, FreeText, Term},
};

record! {
    /// One slot for an expansion card or drive (SMBIOS type 9, DSP0134 clause 7.10).
    ExpansionSlot "slot" {
        source "DSP0134 clause 7.10";
        place [designation];
        refers pci_address -> pci.functions.address;
        derived [device, driver, usage, pci_address];

        /// The slot's label.
        designation: Fact<Term>,
        /// What kind of slot it is, in the standard's words.
        kind: Fact<Term>,
        /// The number that the firmware gives it, as it is printed beside it.
        slot_id: Fact<u64>,
        /// The width of its data bus, in the standard's words.
        width: Fact<Term>,
        /// The width of its connector, in the standard's words.
        physical_width: Fact<Term>,
        /// Whether something sits in it, in the standard's words.
        usage: Fact<Term>,
        /// Its length, in the standard's words.
        length: Fact<Term>,
        /// What it gives and can, in the standard's words.
        characteristics: Fact<Vec<Term>>,
        /// The PCI address of what sits in it.
        pci_address: Fact<Term>,
        /// The PCI addresses of further devices that share it, each with its lanes.
        peers: Fact<Vec<Term>>,
        /// What the function at that address is, by the list of PCI ids.
        device: Fact<Term>,
        /// The driver of what sits in it.
        driver: Fact<Term>,
    }
}

record! {
    /// One device on the board (SMBIOS type 41 or 10, DSP0134 clauses 7.42 and 7.11).
    OnboardDevice "onboard device" {
        source "DSP0134 clauses 7.42 and 7.11";
        place [designation];
        refers pci_address -> pci.functions.address;

        /// What the firmware calls it.
        designation: Fact<Term>,
        /// What kind of device it is, in the standard's words.
        kind: Fact<Term>,
        /// Its number among the devices of its kind.
        instance: Fact<u64>,
        /// Whether it is enabled.
        enabled: Fact<bool>,
        /// The address of its PCI function.
        pci_address: Fact<Term>,
    }
}

record! {
    /// One connector (SMBIOS type 8, DSP0134 clause 7.9).
    Port "port" {
        source "DSP0134 clause 7.9";
        place [internal, external];

        /// The label on the board.
        internal: Fact<Term>,
        /// The label outside.
        external: Fact<Term>,
        /// What connector it is outside, or inside where there is none outside.
        connector: Fact<Term>,
        /// What it is for, in the standard's words.
        kind: Fact<Term>,
    }
}

record! {
    /// One free-form string of the maker (SMBIOS type 11, DSP0134 clause 7.12).
    OemString "maker's string" {
        source "DSP0134 clauses 7.12 and 7.13";
        place [number];

        /// Its number, from 1.
        number: Fact<u64>,
        /// What the maker wrote, freely.
        text: Fact<FreeText>,
    }
}

record! {
    /// A structure of the firmware's tables that no other part of the report holds: the maker's own
    /// types (128 to 255), and types of the standard that say nothing of the machine's parts.
    OtherStructure "firmware structure" {
        source "DSP0134 clause 6";
        place [number];
        incidental [handle];

        /// The structure type's number.
        number: Fact<u64>,
        /// The type's name in the standard.
        name: Fact<Term>,
        /// The number by which other structures of the table mean this one.
        handle: Fact<Term>,
        /// Length of its formatted part in bytes.
        length_bytes: Fact<Bytes>,
        /// Its fields, as the standard has them; a string by its number.
        fields: Parts<StructureField>,
        /// The texts that stand behind the structure.
        strings: Parts<OemString>,
    }
}

record! {
    /// A field of a firmware structure that no other part of the report tells of.
    StructureField "field" {
        source "DSP0134 clause 7";
        place [name];

        /// The field's name in the standard, in lower-case words.
        name: Fact<Term>,
        /// What it says: the standard's name of a code, or a number.
        value: Fact<Term>,
    }
}
