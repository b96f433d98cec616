use crate::report::{
    fact::Fact,
    kinds::{Text, terms},
    record::{Parts, record},
};

record! {
    /// Functions on PCI and PCI Express.
    Pci "pci" {
        derived [names_by];

        /// Every function, by address.
        functions: Parts<PciFunction>,
        /// The list that their names are from, with its version.
        names_by: Fact<Text>,
    }
}

record! {
    /// A PCI function (`Documentation/ABI/testing/sysfs-bus-pci`).
    PciFunction "PCI function" {
        identity [vendor_id, device_id, subsystem_id];
        place [address];
        names [irq];
        derived [vendor, device, subsystem, modules, driver_state];

        /// Segment group, bus, device and function.
        address: Fact<Text>,
        /// The class code: six hexadecimal digits for class, subclass and interface.
        class_id: Fact<Text>,
        /// The class in words.
        class: Fact<Text>,
        /// The subclass in words.
        subclass: Fact<Text>,
        /// The programming interface in words.
        interface: Fact<Text>,
        /// The vendor's number, four hexadecimal digits.
        vendor_id: Fact<Text>,
        /// The vendor's name.
        vendor: Fact<Text>,
        /// The device's number, four hexadecimal digits.
        device_id: Fact<Text>,
        /// The device's name.
        device: Fact<Text>,
        /// The numbers of the subsystem's vendor and of the subsystem.
        subsystem_id: Fact<Text>,
        /// The subsystem's name.
        subsystem: Fact<Text>,
        /// The revision, two hexadecimal digits.
        revision: Fact<Text>,
        /// The driver bound to it.
        driver: Fact<Text>,
        /// Kernel modules that would drive it, by the running kernel's `modules.alias`.
        modules: Fact<Vec<Text>>,
        /// Whether it has its driver, and why it has none.
        driver_state: Fact<DriverState>,
        /// The interrupt that its wire gives.
        irq: Fact<u64>,
        /// The NUMA node that it is near to.
        numa_node: Fact<u64>,
        /// The group that an IOMMU keeps apart.
        iommu_group: Fact<u64>,
        /// The best speed of its link.
        link_speed_at_best: Fact<Text>,
        /// The most lanes of its link.
        link_width_at_best: Fact<u64>,
        /// The physical slot, as the kernel names it.
        slot: Fact<Text>,
        /// What the firmware calls the slot, or the device on the board.
        firmware_label: Fact<Text>,
        /// The address of the bridge above it.
        bridge: Fact<Text>,
        /// The most virtual functions that it can have.
        virtual_functions_at_most: Fact<u64>,
        /// Virtual functions that it has.
        virtual_functions: Fact<u64>,
        /// The function that it is a virtual one of.
        physical_function: Fact<Text>,
        /// What its configuration header describes.
        header: Fact<Text>,
        /// The highest bus below a bridge, and the first.
        buses_below: Fact<Text>,
        /// Its capabilities, in the order of their list.
        capabilities: Parts<PciCapability>,
    }
}

record! {
    /// A capability in a function's configuration space.
    PciCapability "capability" {
        place [offset];

        /// Where it stands, two hexadecimal digits.
        offset: Fact<Text>,
        /// Its id, two hexadecimal digits.
        id: Fact<Text>,
        /// The standard's name for it.
        name: Fact<Text>,
    }
}

record! {
    /// How PCI functions are doing.
    PciReadings "PCI readings" {
        /// Each function.
        functions: Parts<PciFunctionReadings>,
    }
}

record! {
    /// How a PCI function is doing.
    PciFunctionReadings "PCI function" {
        place [address];

        /// Segment group, bus, device and function.
        address: Fact<Text>,
        /// Its power state.
        power_state: Fact<Text>,
        /// The speed of its link.
        link_speed: Fact<Text>,
        /// The lanes of its link.
        link_width: Fact<u64>,
        /// Message-signalled interrupts that it has.
        interrupt_vectors: Fact<u64>,
        /// What its command register allows.
        allowed: Fact<Vec<Text>>,
        /// Errors that its status register tells of.
        errors: Fact<Vec<Text>>,
        /// Its configuration space in hexadecimal: the first 256 bytes for root, 64 for others.
        configuration: Fact<Text>,
    }
}

terms! {
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
