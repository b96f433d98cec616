//! The machine as it is sold and built.

mod management;
mod parts;
mod power;
mod virtualization;

pub use management::{
    HardwareSecurity, HostInterface, Management, ManagementComponent, ManagementController,
    ManagementDevice, RemoteAccess, Tpm,
};
pub use parts::{ExpansionSlot, OemString, OnboardDevice, OtherStructure, Port, StructureField};
pub use power::{
    Battery, CoolingDevice, CurrentProbe, PowerSupply, Probes, TemperatureProbe, VoltageProbe,
};
pub use virtualization::{RunsIn, Virtualization, VirtualizationLevel, VirtualizationSign};

use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{AssetTag, Bytes, Label, RackUnits, Serial, Term, Uuid, codes},
};

record! {
    /// Where what the firmware says comes from, and what is odd about it.
    FirmwareTables "firmware tables" {
        source "DSP0134 clause 5; Documentation/ABI/testing/sysfs-firmware-dmi-tables";
        incidental [source, length_bytes, structures];

        /// Where the tables were read from: the whole table, or the kernel's files of a structure each.
        source: Fact<FirmwareSource>,
        /// Length in bytes.
        length_bytes: Fact<Bytes>,
        /// How many structures can be read.
        structures: Fact<u64>,
        /// What the standard does not foresee. What is readable is read all the same.
        oddities: Parts<TableOddity>,
    }
}

record! {
    /// Something odd about the tables.
    TableOddity "oddity of the tables" {
        source "DSP0134 clauses 5 and 6";
        place [what];

        /// What is odd about the tables.
        what: Fact<Term>,
    }
}

codes! {
    /// Where what the firmware says comes from.
    FirmwareSource {
        /// The kernel's copy of the whole structure table.
        StructureTable = "structure-table",
        /// The kernel's files of one structure each.
        StructureEntries = "structure-entries",
        /// The strings that the kernel publishes to everybody: the first system, board and chassis.
        PublishedStrings = "published-strings",
        /// The device tree that the boot loader passed.
        DeviceTree = "device-tree",
    }
}

record! {
    /// The system as it is sold, its boards and its chassis.
    Platform "platform" {
        source "DSP0134 clause 7";

        /// Where what the firmware says comes from.
        firmware_tables: FirmwareTables,
        /// The version of the SMBIOS standard that the firmware's tables follow.
        smbios_version: Fact<Term>,
        /// Whether the machine is virtual, and how that is known.
        virtualization: Virtualization,
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
        /// Free-form strings that say how the board is set (SMBIOS type 12).
        configuration_options: Parts<OemString>,
        /// Batteries (SMBIOS type 22).
        batteries: Parts<Battery>,
        /// Probes of voltage, current and temperature that the firmware tells of.
        probes: Probes,
        /// Cooling devices (SMBIOS type 27).
        cooling_devices: Parts<CoolingDevice>,
        /// What manages the machine from outside its operating system.
        management: Management,
        /// Passwords and the automatic reset.
        security: HardwareSecurity,
        /// Trusted Platform Modules (SMBIOS type 43).
        tpms: Parts<Tpm>,
        /// How the last boot went, in the standard's words (SMBIOS type 32).
        boot_status: Fact<Term>,
        /// Structures of the firmware's tables that are held nowhere else.
        other_structures: Parts<OtherStructure>,
        /// What the device tree says of the machine, where there is one.
        device_tree: Option<DeviceTree>,
    }
}

record! {
    /// The system as its maker sells it (SMBIOS type 1, DSP0134 clause 7.2).
    System "system" {
        source "DSP0134 clause 7.2";
        identity unique [uuid], [serial];
        incidental [wake_up];

        /// Who made the machine.
        manufacturer: Fact<Term>,
        /// The product's name.
        product: Fact<Term>,
        /// The product's version.
        version: Fact<Term>,
        /// The serial number.
        serial: Fact<Serial>,
        /// The UUID, lower case.
        uuid: Fact<Uuid>,
        /// The configuration for sale.
        sku: Fact<Term>,
        /// The family the product belongs to.
        family: Fact<Term>,
        /// What last switched it on, in the standard's words.
        wake_up: Fact<Term>,
        /// The name of the logical partition, as its operator gave it.
        #[source = "LoPAR ibm,partition-name; /proc/sysinfo"]
        partition_name: Fact<Label>,
        /// The number of the logical partition.
        #[source = "LoPAR ibm,partition-no; /proc/sysinfo"]
        partition_number: Fact<u64>,
        /// The code of the plant that made the machine.
        #[source = "/proc/sysinfo"]
        plant: Fact<Term>,
    }
}

record! {
    /// One circuit board (SMBIOS type 2, DSP0134 clause 7.3).
    Board "board" {
        source "DSP0134 clause 7.3";
        identity unique [product, serial];
        place [location];

        /// Who made the board.
        manufacturer: Fact<Term>,
        /// The product's name.
        product: Fact<Term>,
        /// The board's version or revision, as its maker writes it.
        version: Fact<Term>,
        /// The serial number.
        serial: Fact<Serial>,
        /// The owner's inventory number.
        asset_tag: Fact<AssetTag>,
        /// Where in the chassis it sits.
        location: Fact<Term>,
        /// What kind of board it is, in the standard's words.
        kind: Fact<Term>,
        /// What it is and can, in the standard's words.
        features: Fact<Vec<Term>>,
        /// The structures it holds: what they are, and their labels.
        contained_structures: Fact<Vec<Term>>,
    }
}

record! {
    /// One enclosure (SMBIOS type 3, DSP0134 clause 7.4).
    Chassis "chassis" {
        source "DSP0134 clause 7.4";
        identity unique [manufacturer, serial];

        /// Who made the enclosure.
        manufacturer: Fact<Term>,
        /// What kind of enclosure it is, in the standard's words.
        kind: Fact<Term>,
        /// The enclosure's version, as its maker writes it.
        version: Fact<Term>,
        /// The serial number.
        serial: Fact<Serial>,
        /// The owner's inventory number.
        asset_tag: Fact<AssetTag>,
        /// The configuration for sale.
        sku: Fact<Term>,
        /// Height in rack units of 1.75 inches.
        height_rack_units: Fact<RackUnits>,
        /// Whether it has a lock.
        has_lock: Fact<bool>,
        /// Number of power cords.
        power_cords: Fact<u64>,
        /// State at the last boot, in the standard's words.
        bootup_state: Fact<Term>,
        /// State of the power supplies at the last boot, in the standard's words.
        power_supply_state: Fact<Term>,
        /// Thermal state at the last boot, in the standard's words.
        thermal_state: Fact<Term>,
        /// Physical security at the last boot, in the standard's words.
        security_status: Fact<Term>,
        /// What it can hold, each with the fewest and the most.
        contained_elements: Fact<Vec<Term>>,
    }
}

record! {
    /// What the device tree says of the machine (Devicetree Specification, root node).
    DeviceTree "device tree" {
        source "Devicetree Specification, root node";

        /// The machine's model.
        model: Fact<Term>,
        /// What the machine is compatible with, the most exact name first.
        compatible: Fact<Vec<Term>>,
        /// The serial number.
        serial: Fact<Serial>,
    }
}
