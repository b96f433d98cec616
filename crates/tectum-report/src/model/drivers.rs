use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{Bytes, Term},
};

record! {
    /// Kernel modules and drivers.
    Drivers "drivers" {
        source "proc_modules(5)";

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
        source "proc_modules(5); Documentation/ABI/stable/sysfs-module";
        place [name];
        refers used_by -> drivers.modules.name;
        derived [used_by];
        follows [size_bytes, version, source_version, parameters] from os.kernel_release;

        /// The module's name, as `/proc/modules` has it.
        name: Fact<Term>,
        /// Its size in memory, in bytes.
        size_bytes: Fact<Bytes>,
        /// Its version, if it gives one.
        version: Fact<Term>,
        /// The checksum of its sources, if it gives one.
        source_version: Fact<Term>,
        /// Letters that say how it taints the kernel; empty where it does not.
        taint: Fact<Term>,
        /// Modules that use it.
        used_by: Fact<Vec<Term>>,
        /// Parameters that can be seen, each as name and value; long values are left out.
        parameters: Fact<Vec<Term>>,
    }
}

record! {
    /// A driver that has a device.
    DriverInUse "driver" {
        source "Documentation/driver-api/driver-model/driver.rst";
        place [bus, name];
        refers module -> drivers.modules.name;
        refers devices -> pci.functions.address | usb.devices.path;
        derived [devices];

        /// The bus whose devices it drives, by the name of the bus's folder.
        bus: Fact<Term>,
        /// The driver's name.
        name: Fact<Term>,
        /// The module that it is from; what is built in may name one too, which is not among those
        /// that are loaded.
        module: Fact<Term>,
        /// Devices that it drives, by their names on the bus.
        devices: Fact<Vec<Term>>,
    }
}

record! {
    /// A major number of devices.
    DeviceMajor "major number" {
        source "proc_devices(5)";
        place [kind, number, name];

        /// character, block.
        kind: Fact<Term>,
        /// The major number of the device files.
        number: Fact<u64>,
        /// The name under which a driver registered the number.
        name: Fact<Term>,
    }
}

record! {
    /// How modules are doing.
    DriverReadings "driver readings" {
        source "proc_modules(5)";

        /// How each loaded module is used now.
        modules: Parts<ModuleReadings>,
    }
}

record! {
    /// How a module is doing.
    ModuleReadings "kernel module" {
        source "proc_modules(5)";
        place [name];
        reading of drivers.modules by name = name;

        /// The module's name, as `/proc/modules` has it.
        name: Fact<Term>,
        /// How often it is in use.
        users: Fact<u64>,
        /// Its state: Live, Loading, Unloading.
        state: Fact<Term>,
    }
}
