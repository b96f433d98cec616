//! What a machine is made of, section by section: the one place where fields are declared.

pub(crate) mod also_called;
mod cpu;
mod drivers;
mod filesystems;
mod firmware;
mod gpu;
mod machine;
mod memory;
mod network;
mod os;
mod pci;
mod peripherals;
mod platform;
mod power;
mod processes;
mod sensors;
mod storage;
mod usb;

pub use cpu::{
    ByteOrder, CoreKind, Cpu, CpuCache, CpuDisagreement, CpuPackage, CpuReadings, CpuSocket,
    FeatureGroup, FrequencyPolicy, RunsOn, SocketState, Standing, Vulnerability,
};
pub use drivers::{
    DeviceMajor, DriverInUse, DriverReadings, Drivers, KernelModule, ModuleReadings,
};
pub use filesystems::{
    DeclaredState, FilesystemErrors, FilesystemReadings, FilesystemUse, Filesystems, FstabEntry,
    GoneDevice, MemberErrors, Mount, MountClass, PseudoMount, SwapSpace, SwapUse,
};
pub use firmware::{
    AcpiTable, BootParameter, Firmware, FirmwareItem, FirmwareKind, TpmChip, UpdatableFirmware,
};
pub use gpu::{Connector, Display, Gpu, GpuDevice, GpuDeviceReadings, GpuErrorCount, GpuReadings};
pub use machine::Machine;
pub use memory::{
    AddedMemory, CompressedSwap, CxlMemory, EccController, EccCount, Hugepages, HugepagesInUse,
    Memory, MemoryArray, MemoryBlocks, MemoryChannel, MemoryModule, MemoryReadings, MemorySlot,
    NumaNode, NumaNodeReadings, PersistentMemory, SlotState, Unmanaged, ZramDevice,
};
pub use network::{
    AssignedAddress, InterfaceKind, InterfaceReadings, MacOrigin, NameServer, Network,
    NetworkInterface, NetworkReadings, NetworkRoute, SearchDomain,
};
pub use os::{
    ControlGroups, InstalledKernel, LivePatch, Os, OsRates, OsReadings, PackageDatabase, Pressure,
    RebootRequest, ReleaseField, Repository,
};
pub use pci::{DriverState, Pci, PciCapability, PciFunction, PciFunctionReadings, PciReadings};
pub use peripherals::{Peripheral, PeripheralKind, Peripherals};
pub use platform::{
    Battery, Board, Chassis, CoolingDevice, CurrentProbe, DeviceTree, ExpansionSlot,
    FirmwareSource, FirmwareTables, HardwareSecurity, HostInterface, Management,
    ManagementComponent, ManagementController, ManagementDevice, OemString, OnboardDevice,
    OtherStructure, Platform, Port, PowerSupply, Probes, RemoteAccess, RunsIn, StructureField,
    System, TableOddity, TemperatureProbe, Tpm, Virtualization, VirtualizationLevel,
    VirtualizationSign, VoltageProbe,
};
pub use power::{Power, PowerReadings, PowerSource, PowerSourceReadings};
pub use processes::{Process, ProcessGroup, ProcessMemory, ProcessReadings, ProcessState};
pub use sensors::{
    ChannelReading, PowerZone, PowerZoneReading, SensorChannel, SensorChip, SensorKind,
    SensorReadings, Sensors, ThermalZone, ZoneReading,
};
pub use storage::{
    BootArea, Disk, DiskBus, DiskKind, DiskReadings, FreeSpace, NvmeController, OpticalDrive,
    Partition, Storage, StorageReadings, Volume, VolumeKind, VolumeMember, VolumeReadings,
};
pub use usb::{Usb, UsbDevice, UsbInterface};

use crate::declare::record;

record! {
    /// What should only change when somebody changes the machine.
    Inventory "inventory" {
        source "the sections of a survey";

        /// The system, its boards and its chassis.
        platform: Option<Platform>,
        /// Processors: sockets, cores, caches, features.
        cpu: Option<Cpu>,
        /// Memory as the firmware says it is installed.
        memory: Option<Memory>,
        /// Disks, partitions and optical drives.
        storage: Option<Storage>,
        /// What is mounted, and what is declared to be.
        filesystems: Option<Filesystems>,
        /// Display, 3D and processing-accelerator devices.
        gpu: Option<Gpu>,
        /// The platform's firmware.
        firmware: Option<Firmware>,
        /// Operating system and kernel.
        os: Option<Os>,
        /// Network interfaces, addresses and routes.
        network: Option<Network>,
        /// Functions on PCI and PCI Express.
        pci: Option<Pci>,
        /// Devices on USB.
        usb: Option<Usb>,
        /// Kernel modules and drivers.
        drivers: Option<Drivers>,
        /// What measures temperatures, fans, voltages and power.
        sensors: Option<Sensors>,
        /// Mains and batteries.
        power: Option<Power>,
        /// Devices of other kinds.
        peripherals: Option<Peripherals>,
    }
}

record! {
    /// What moves by itself.
    Readings "readings" {
        source "the sections of a survey";

        /// Processors' readings.
        cpu: Option<CpuReadings>,
        /// What memory is used for now, and errors that were counted.
        memory: Option<MemoryReadings>,
        /// Volumes' states.
        storage: Option<StorageReadings>,
        /// How full filesystems are.
        filesystems: Option<FilesystemReadings>,
        /// How display devices are doing.
        gpu: Option<GpuReadings>,
        /// How the system is doing.
        os: Option<OsReadings>,
        /// How the network is doing.
        network: Option<NetworkReadings>,
        /// How PCI functions are doing.
        pci: Option<PciReadings>,
        /// How modules are doing.
        drivers: Option<DriverReadings>,
        /// What is measured.
        sensors: Option<SensorReadings>,
        /// How supplies are doing.
        power: Option<PowerReadings>,
        /// What runs, where it was asked for.
        processes: Option<ProcessReadings>,
    }
}
