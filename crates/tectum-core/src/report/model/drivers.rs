use crate::report::{
    fact::Fact,
    kinds::Text,
    record::{Parts, record},
};

record! {
    /// Kernel modules and drivers.
    Drivers "drivers" {
        /// Modules that are loaded.
        modules: Parts<KernelModule>,
        /// Drivers that have a device.
        in_use: Parts<DriverInUse>,
        /// Major numbers of devices.
        majors: Parts<DeviceMajor>,
    }
}

record! {
    /// A kernel module that is loaded.
    KernelModule "kernel module" {
        place [name];

        /// Its name.
        name: Fact<Text>,
        /// Its size in memory, in bytes.
        size_bytes: Fact<u64>,
        /// Its version, if it gives one.
        version: Fact<Text>,
        /// The checksum of its sources, if it gives one.
        source_version: Fact<Text>,
        /// Letters that say how it taints the kernel; empty where it does not.
        taint: Fact<Text>,
        /// Modules that use it.
        used_by: Fact<Vec<Text>>,
        /// Parameters that can be seen, each as name and value; long values are left out.
        parameters: Fact<Vec<Text>>,
    }
}

record! {
    /// A driver that has a device.
    DriverInUse "driver" {
        place [bus, name];

        /// The bus.
        bus: Fact<Text>,
        /// The driver's name.
        name: Fact<Text>,
        /// The module that it is from; what is built in may name one too, which is not among those
        /// that are loaded.
        module: Fact<Text>,
        /// Devices that it drives, by their names on the bus.
        devices: Fact<Vec<Text>>,
    }
}

record! {
    /// A major number of devices.
    DeviceMajor "major number" {
        place [kind, number, name];

        /// character, block.
        kind: Fact<Text>,
        /// The number.
        number: Fact<u64>,
        /// Who has it.
        name: Fact<Text>,
    }
}

record! {
    /// How modules are doing.
    DriverReadings "driver readings" {
        /// Each module.
        modules: Parts<ModuleReadings>,
    }
}

record! {
    /// How a module is doing.
    ModuleReadings "kernel module" {
        place [name];

        /// Its name.
        name: Fact<Text>,
        /// How often it is in use.
        users: Fact<u64>,
        /// Its state: Live, Loading, Unloading.
        state: Fact<Text>,
    }
}
