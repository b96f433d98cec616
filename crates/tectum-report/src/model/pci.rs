use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{Lanes, Megatransfers, Term, codes},
};

record! {
    /// Functions on PCI and PCI Express.
    Pci "pci" {
        source "Documentation/ABI/testing/sysfs-bus-pci";
        derived [id_list_version];

        /// Every function, by address.
        functions: Parts<PciFunction>,
        /// The list that their names are from, with its version.
        id_list_version: Fact<Term>,
    }
}

record! {
    /// A PCI function (`Documentation/ABI/testing/sysfs-bus-pci`).
    PciFunction "PCI function" {
        source "Documentation/ABI/testing/sysfs-bus-pci";
        identity kind [vendor_id, device_id, subsystem_id];
        place [address];
        names [irq];
        refers bridge -> pci.functions.address;
        refers physical_function -> pci.functions.address;
        derived [vendor, device, subsystem, modules, driver_state, bridge, iommu_group];

        /// Segment group, bus, device and function.
        address: Fact<Term>,
        /// The class code: six hexadecimal digits for class, subclass and interface.
        class_id: Fact<Term>,
        /// The class in words.
        class: Fact<Term>,
        /// The subclass in words.
        subclass: Fact<Term>,
        /// The programming interface in words.
        interface: Fact<Term>,
        /// The vendor's number, four hexadecimal digits.
        vendor_id: Fact<Term>,
        /// The vendor's name.
        vendor: Fact<Term>,
        /// The device's number, four hexadecimal digits.
        device_id: Fact<Term>,
        /// The device's name.
        device: Fact<Term>,
        /// The numbers of the subsystem's vendor and of the subsystem.
        subsystem_id: Fact<Term>,
        /// The subsystem's name.
        subsystem: Fact<Term>,
        /// The revision, two hexadecimal digits.
        revision: Fact<Term>,
        /// The driver bound to it.
        driver: Fact<Term>,
        /// Kernel modules that would drive it, by the running kernel's `modules.alias`.
        modules: Fact<Vec<Term>>,
        /// Whether it has its driver, and why it has none.
        driver_state: Fact<DriverState>,
        /// The interrupt that its wire gives.
        irq: Fact<u64>,
        /// The NUMA node that it is near to.
        numa_node: Fact<u64>,
        /// The group that an IOMMU keeps apart.
        iommu_group: Fact<u64>,
        /// The best speed of its link.
        max_link_speed_mts: Fact<Megatransfers>,
        /// The most lanes of its link.
        max_link_lanes: Fact<Lanes>,
        /// The physical slot, as the kernel names it.
        slot: Fact<Term>,
        /// What the firmware calls the slot, or the device on the board.
        firmware_label: Fact<Term>,
        /// The address of the bridge above it.
        bridge: Fact<Term>,
        /// The most virtual functions that it can have.
        max_virtual_functions: Fact<u64>,
        /// Virtual functions that it has.
        virtual_functions: Fact<u64>,
        /// The function that it is a virtual one of.
        physical_function: Fact<Term>,
        /// What its configuration header describes.
        header: Fact<Term>,
        /// The highest bus below a bridge, and the first.
        buses_below: Fact<Term>,
        /// Its capabilities, in the order of their list.
        capabilities: Parts<PciCapability>,
    }
}

record! {
    /// A capability in a function's configuration space.
    PciCapability "capability" {
        source "PCI Code and ID Assignment Specification";
        place [offset];

        /// Where it stands, two hexadecimal digits.
        offset: Fact<Term>,
        /// Its id, two hexadecimal digits.
        id: Fact<Term>,
        /// The standard's name for it.
        name: Fact<Term>,
    }
}

record! {
    /// How PCI functions are doing.
    PciReadings "PCI readings" {
        source "Documentation/ABI/testing/sysfs-bus-pci";

        /// Each function.
        functions: Parts<PciFunctionReadings>,
    }
}

record! {
    /// How a PCI function is doing.
    PciFunctionReadings "PCI function" {
        source "Documentation/ABI/testing/sysfs-bus-pci";
        place [address];
        reading of pci.functions by address = address;

        /// Segment group, bus, device and function.
        address: Fact<Term>,
        /// How far it is powered now: `D0` is fully on, `D3cold` without power.
        power_state: Fact<Term>,
        /// How fast a lane of its PCI Express link is now, in million transfers a second.
        link_speed_mts: Fact<Megatransfers>,
        /// How many lanes its PCI Express link runs on now.
        link_lanes: Fact<Lanes>,
        /// Message-signalled interrupts that it has.
        interrupt_vectors: Fact<u64>,
        /// What its command register allows.
        command_flags: Fact<Vec<Term>>,
        /// Errors that its status register tells of.
        status_errors: Fact<Vec<Term>>,
        /// Its configuration space in hexadecimal: the first 256 bytes for root, 64 for others.
        configuration: Fact<Term>,
    }
}

codes! {
    /// Whether a device has its driver, and why it has none.
    DriverState {
        /// A driver is bound to it.
        Bound = "bound",
        /// A module would drive it, and is not loaded.
        ModuleNotLoaded = "module-not-loaded",
        /// A module that would drive it is loaded, and is not bound to it.
        ModuleNotBound = "module-loaded-but-not-bound",
        /// The kernel has no module for it.
        NoModule = "no-module-known",
    }
}
