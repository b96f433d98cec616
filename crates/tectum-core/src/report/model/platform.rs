use crate::report::{
    fact::Fact,
    kinds::{AssetTag, FreeText, Serial, Text, Uuid},
    record::{Parts, record},
};

record! {
    /// The system as it is sold, its boards and its chassis.
    Platform "platform" {
        /// The version of the SMBIOS standard that the firmware's tables follow.
        smbios_version: Fact<Text>,
        /// The system as its maker sells it.
        system: System,
        /// Circuit boards (SMBIOS type 2).
        boards: Parts<Board>,
        /// Enclosures (SMBIOS type 3).
        chassis: Parts<Chassis>,
        /// Slots for expansion cards and drives (SMBIOS type 9).
        slots: Parts<ExpansionSlot>,
        /// Devices on the board (SMBIOS types 41 and 10).
        onboard_devices: Parts<OnboardDevice>,
        /// Connectors (SMBIOS type 8).
        ports: Parts<Port>,
        /// Power supplies (SMBIOS type 39).
        power_supplies: Parts<PowerSupply>,
        /// Free-form strings of the maker (SMBIOS type 11).
        oem_strings: Parts<OemString>,
        /// Interfaces to the baseboard management controller (SMBIOS type 38).
        management_controllers: Parts<ManagementController>,
        /// Trusted Platform Modules (SMBIOS type 43).
        tpms: Parts<Tpm>,
        /// How the last boot went, in the standard's words (SMBIOS type 32).
        boot_status: Fact<Text>,
        /// What the device tree says of the machine, where there is one.
        device_tree: Option<DeviceTree>,
    }
}

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
        /// The PCI address of what sits in it.
        pci_address: Fact<Text>,
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
    /// One power supply (SMBIOS type 39, DSP0134 clause 7.40).
    PowerSupply "power supply" {
        identity [part_number, serial];
        place [location];

        /// Where it sits.
        location: Fact<Text>,
        /// What it is called.
        name: Fact<Text>,
        /// The maker.
        manufacturer: Fact<Text>,
        /// The part number.
        part_number: Fact<Text>,
        /// The serial number.
        serial: Fact<Serial>,
        /// The owner's inventory number.
        asset_tag: Fact<AssetTag>,
        /// The revision.
        revision: Fact<Text>,
        /// Largest sustained output in watts.
        maximum_watts: Fact<u64>,
        /// Whether it is there.
        present: Fact<bool>,
        /// Its state as the firmware saw it, in the standard's words.
        status: Fact<Text>,
        /// Whether it can be swapped while the machine runs.
        hot_swappable: Fact<bool>,
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
    /// The interface to the baseboard management controller (SMBIOS type 38, DSP0134 clause 7.39).
    ManagementController "management controller" {
        place [interface, address];

        /// What kind of interface it is, in the standard's words.
        interface: Fact<Text>,
        /// The version of IPMI that it follows.
        ipmi_version: Fact<Text>,
        /// Where its registers lie.
        address: Fact<Text>,
    }
}

record! {
    /// A Trusted Platform Module (SMBIOS type 43, DSP0134 clause 7.44).
    Tpm "TPM" {
        place [vendor];

        /// The vendor's id.
        vendor: Fact<Text>,
        /// The version of the specification that it follows.
        version: Fact<Text>,
        /// What the maker calls it.
        description: Fact<Text>,
    }
}

record! {
    /// The system as its maker sells it (SMBIOS type 1, DSP0134 clause 7.2).
    System "system" {
        identity [uuid], [serial];

        /// The maker.
        manufacturer: Fact<Text>,
        /// The product's name.
        product: Fact<Text>,
        /// The product's version.
        version: Fact<Text>,
        /// The serial number.
        serial: Fact<Serial>,
        /// The UUID, lower case.
        uuid: Fact<Uuid>,
        /// The configuration for sale.
        sku: Fact<Text>,
        /// The family the product belongs to.
        family: Fact<Text>,
    }
}

record! {
    /// One circuit board (SMBIOS type 2, DSP0134 clause 7.3).
    Board "board" {
        identity [product, serial];
        place [location];

        /// The maker.
        manufacturer: Fact<Text>,
        /// The product's name.
        product: Fact<Text>,
        /// The version.
        version: Fact<Text>,
        /// The serial number.
        serial: Fact<Serial>,
        /// The owner's inventory number.
        asset_tag: Fact<AssetTag>,
        /// Where in the chassis it sits.
        location: Fact<Text>,
        /// What kind of board it is, in the standard's words.
        kind: Fact<Text>,
    }
}

record! {
    /// One enclosure (SMBIOS type 3, DSP0134 clause 7.4).
    Chassis "chassis" {
        identity [manufacturer, serial];

        /// The maker.
        manufacturer: Fact<Text>,
        /// What kind of enclosure it is, in the standard's words.
        kind: Fact<Text>,
        /// The version.
        version: Fact<Text>,
        /// The serial number.
        serial: Fact<Serial>,
        /// The owner's inventory number.
        asset_tag: Fact<AssetTag>,
        /// The configuration for sale.
        sku: Fact<Text>,
        /// Height in rack units of 1.75 inches.
        height_units: Fact<u64>,
    }
}

record! {
    /// What the device tree says of the machine (Devicetree Specification, root node).
    DeviceTree "device tree" {
        /// The machine's model.
        model: Fact<Text>,
        /// What the machine is compatible with, the most exact name first.
        compatible: Fact<Vec<Text>>,
        /// The serial number.
        serial: Fact<Serial>,
    }
}
