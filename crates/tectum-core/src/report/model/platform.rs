use crate::report::{
    fact::Fact,
    kinds::{AssetTag, Serial, Text, Uuid},
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
        /// What the device tree says of the machine, where there is one.
        device_tree: Option<DeviceTree>,
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
