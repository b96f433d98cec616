//! What a machine is made of, section by section: the one place where fields are declared.

mod cpu;
mod filesystems;
mod firmware;
mod gpu;
mod machine;
mod memory;
mod os;
mod platform;
mod storage;

pub use cpu::{
    ByteOrder, CoreKind, Cpu, CpuCache, CpuDisagreement, CpuPackage, CpuReadings, CpuSocket,
    FeatureGroup, FrequencyPolicy, RunsOn, SocketState, Vulnerability,
};
pub use filesystems::{
    DeclaredMount, DeclaredState, FilesystemReadings, FilesystemUse, Filesystems, MadeUpMount,
    Mount, MountClass, SwapSpace, SwapUse,
};
pub use firmware::{
    AcpiTable, BootParameter, Firmware, FirmwareItem, FirmwareKind, TpmChip, UpdatableFirmware,
};
pub use gpu::{Gpu, GpuDevice};
pub use machine::Machine;
pub use memory::{
    CompressedSwap, CxlMemory, EccController, EccCount, Hugepages, HugepagesInUse, Memory,
    MemoryArray, MemoryBlocks, MemoryChannel, MemoryModule, MemoryReadings, MemorySlot, NumaNode,
    NumaNodeReadings, PersistentMemory, SlotState, Unmanaged, ZramDevice,
};
pub use os::{
    ControlGroups, InstalledKernel, LivePatch, Os, OsRates, OsReadings, PackageDatabase, Pressure,
    RebootMark, ReleaseField, Repository,
};
pub use platform::{
    Battery, Board, Chassis, CoolingDevice, CurrentProbe, DeviceTree, ExpansionSlot,
    FirmwareSource, FirmwareTables, HardwareSecurity, HostInterface, Management,
    ManagementComponent, ManagementController, ManagementDevice, OemString, OnboardDevice,
    OtherStructure, Platform, Port, PowerSupply, Probes, RemoteAccess, RunsIn, System, TableOddity,
    TemperatureProbe, Tpm, Virtualization, VirtualizationSign, VoltageProbe,
};
pub use storage::{
    BootArea, Disk, DiskBus, DiskKind, DiskReadings, NvmeController, OpticalDrive, Partition,
    Storage, StorageReadings, Volume, VolumeKind, VolumeMember, VolumeReadings,
};

use super::record::record;

record! {
    /// What should only change when somebody changes the machine.
    Inventory "inventory" {
        /// The system, its boards and its chassis.
        platform: Option<Platform>,
        /// Processors.
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
    }
}

record! {
    /// What moves by itself.
    Readings "readings" {
        /// Processors' readings.
        cpu: Option<CpuReadings>,
        /// Memory use.
        memory: Option<MemoryReadings>,
        /// Volumes' states.
        storage: Option<StorageReadings>,
        /// How full filesystems are.
        filesystems: Option<FilesystemReadings>,
        /// How the system is doing.
        os: Option<OsReadings>,
    }
}
