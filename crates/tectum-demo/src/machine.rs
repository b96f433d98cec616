//! What a made-up machine is made of.

use std::collections::BTreeMap;

use serde::Deserialize;

/// A machine.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Machine {
    /// Host name.
    pub hostname: String,
    /// `/etc/machine-id`.
    pub machine_id: String,
    /// Architecture as the kernel names it.
    pub architecture: String,
    /// The kernel's release.
    pub kernel_release: String,
    /// The kernel's version.
    pub kernel_version: String,
    /// Seconds since 1970 at which the kernel started.
    pub boot_time: u64,
    /// Seconds since then.
    pub uptime: u64,
    /// Lines of `/etc/os-release`.
    pub os_release: String,
    /// The platform's firmware.
    pub bios: Bios,
    /// The system.
    pub system: System,
    /// The system board.
    pub board: Board,
    /// The enclosure.
    pub chassis: Chassis,
    /// The processors, all alike.
    pub cpu: Cpu,
    /// Largest capacity of memory in bytes.
    pub memory_capacity: u64,
    /// Memory slots.
    pub slots: Vec<Slot>,
    /// Disks.
    pub disks: Vec<Disk>,
    /// What is made of them: arrays, volumes, encryption, several paths as one.
    #[serde(default)]
    pub volumes: Vec<Volume>,
    /// Display devices.
    #[serde(default)]
    pub gpus: Vec<Gpu>,
    /// The command line that the kernel was started with.
    #[serde(default)]
    pub command_line: String,
    /// Releases of kernels that are installed beside the one that runs.
    #[serde(default)]
    pub other_kernels: Vec<String>,
    /// How many packages are installed.
    #[serde(default)]
    pub packages: u32,
    /// The maker's strings.
    #[serde(default)]
    pub oem_strings: Vec<String>,
    /// Slots for expansion cards.
    #[serde(default)]
    pub card_slots: Vec<CardSlot>,
    /// Power supplies.
    #[serde(default)]
    pub power_supplies: Vec<PowerSupply>,
    /// Fans.
    #[serde(default)]
    pub fans: Vec<Fan>,
    /// What manages the machine and guards it; a machine may have neither.
    #[serde(default)]
    pub management: Option<Management>,
    /// PCI functions beside the display devices.
    #[serde(default)]
    pub functions: Vec<Function>,
    /// Makers of devices: their numbers and names.
    #[serde(default)]
    pub vendors: Vec<(u16, String)>,
    /// Network interfaces.
    #[serde(default)]
    pub ports: Vec<NetworkPort>,
    /// USB devices, root hubs among them.
    #[serde(default)]
    pub usb: Vec<UsbDevice>,
    /// Monitoring chips.
    #[serde(default)]
    pub chips: Vec<Chip>,
    /// Kernel modules: name, size, users, and who uses it.
    #[serde(default)]
    pub modules: Vec<(String, u64, u64, String)>,
    /// Version of the standard that the firmware's tables follow.
    #[serde(default = "smbios_3_5")]
    pub smbios: (u8, u8),
    /// Files that no other field describes, by their paths.
    #[serde(default)]
    pub files: BTreeMap<String, String>,
    /// Links that no other field describes: what each leads to, by their paths.
    #[serde(default)]
    pub links: BTreeMap<String, String>,
    /// Paths at which it has nothing.
    #[serde(default)]
    pub removed: Vec<String>,
}

fn smbios_3_5() -> (u8, u8) {
    (3, 5)
}

/// A PCI function.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Function {
    /// PCI address.
    pub address: String,
    /// PCI class code.
    pub class: u32,
    /// Vendor, device, subsystem vendor and subsystem device.
    pub ids: [u16; 4],
    /// What it is called.
    #[serde(default)]
    pub name: String,
    /// The driver bound to it; empty where there is none.
    #[serde(default)]
    pub driver: String,
    /// The module that would drive it; empty where there is none.
    #[serde(default)]
    pub module: String,
    /// The link: a lane's speed and lanes now, then the best of both.
    #[serde(default)]
    pub link: Vec<String>,
    /// The NUMA node.
    #[serde(default)]
    pub node: i32,
    /// The address of the bridge that it sits behind; empty where it sits on the root.
    #[serde(default)]
    pub behind: String,
    /// How many virtual functions it can be divided into (SR-IOV).
    #[serde(default)]
    pub max_virtual_functions: u32,
    /// The addresses of those that it is divided into.
    #[serde(default)]
    pub virtual_functions: Vec<String>,
}

/// A network interface.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct NetworkPort {
    /// The kernel's name.
    pub name: String,
    /// The PCI function that it belongs to, or the folder of its device below `/sys/devices`; empty for a virtual
    /// one.
    #[serde(default)]
    pub function: String,
    /// The driver of a device that is no PCI function.
    #[serde(default)]
    pub driver: String,
    /// Which port of it.
    #[serde(default)]
    pub port: u32,
    /// MAC address.
    pub mac: String,
    /// Whether it is up.
    #[serde(default)]
    pub up: bool,
    /// Speed in megabits a second.
    #[serde(default)]
    pub mbps: u32,
    /// Largest packet.
    pub mtu: u32,
    /// Packets received with errors.
    #[serde(default)]
    pub errors: u64,
    /// IPv4 address with the length of its prefix.
    #[serde(default)]
    pub ipv4: String,
    /// The default gateway that is reached over it.
    #[serde(default)]
    pub gateway: String,
    /// Interfaces that it bonds.
    #[serde(default)]
    pub members: Vec<String>,
}

/// A USB device.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct UsbDevice {
    /// Its path: `usb1`, `1-3`.
    pub path: String,
    /// The folders from the controller to it: `usb1/1-3`.
    pub tree: String,
    /// PCI address of the controller.
    pub controller: String,
    /// Vendor and product.
    pub ids: [u16; 2],
    /// What it says that its maker is.
    #[serde(default)]
    pub maker: String,
    /// What it says that it is.
    #[serde(default)]
    pub name: String,
    /// Serial number.
    #[serde(default)]
    pub serial: String,
    /// Class of the device.
    #[serde(default)]
    pub class: u8,
    /// Class of its interface.
    #[serde(default)]
    pub interface: u8,
    /// The driver of its interface.
    #[serde(default)]
    pub driver: String,
    /// Speed in megabits a second.
    pub mbps: u32,
    /// Ports of a hub.
    #[serde(default)]
    pub ports: u32,
}

/// A channel of a monitoring chip: its name, label, value, and limits by name.
pub type Channel = (String, String, i64, Vec<(String, i64)>);

/// A monitoring chip.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Chip {
    /// The name of its kind.
    pub name: String,
    /// Its device, below `/sys/devices`.
    pub device: String,
    /// What it measures.
    pub channels: Vec<Channel>,
}

/// A display.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Monitor {
    /// The connector that it is plugged into.
    pub connector: String,
    /// The maker's three letters.
    pub maker: String,
    /// Its name.
    pub name: String,
    /// Its serial number.
    pub serial: String,
}

/// A slot for an expansion card.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct CardSlot {
    /// The label.
    pub label: String,
    /// Its kind, a code of the standard.
    pub kind: u8,
    /// The width of its data bus, a code of the standard.
    pub width: u8,
    /// The PCI address of what sits in it; empty where nothing does.
    #[serde(default)]
    pub address: String,
}

/// A power supply.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PowerSupply {
    /// Where it sits.
    pub location: String,
    /// What it is called.
    pub name: String,
    /// The maker.
    pub manufacturer: String,
    /// The part number.
    pub part_number: String,
    /// The serial number.
    pub serial: String,
    /// Largest output in watts.
    pub watts: u16,
}

/// A fan, and what its temperature probe is called.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Fan {
    /// What it is called.
    pub name: String,
    /// Nominal speed in revolutions a minute.
    pub rpm: u16,
    /// What the probe that watches it is called.
    pub probe: String,
}

/// What manages a machine and guards it.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Management {
    /// The I/O port of the management controller.
    pub port: u64,
    /// The controller's firmware.
    pub firmware: String,
    /// The TPM vendor's id: four letters.
    pub tpm_vendor: String,
    /// What the TPM is called.
    pub tpm: String,
}

/// Platform firmware (SMBIOS type 0).
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Bios {
    /// Whether it is UEFI.
    pub uefi: bool,
    /// Vendor.
    pub vendor: String,
    /// Version.
    pub version: String,
    /// Date, `mm/dd/yyyy`.
    pub date: String,
    /// Release, major and minor.
    pub release: (u8, u8),
    /// ROM size in bytes, a multiple of 64 KiB up to 16 MiB less 64 KiB, else of 1 MiB.
    pub rom_size: u64,
}

/// System (SMBIOS type 1).
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct System {
    /// Maker.
    pub manufacturer: String,
    /// Product.
    pub product: String,
    /// Version.
    pub version: String,
    /// Serial number.
    pub serial: String,
    /// UUID.
    pub uuid: String,
    /// SKU.
    pub sku: String,
    /// Family.
    pub family: String,
}

/// Board (SMBIOS type 2).
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Board {
    /// Maker.
    pub manufacturer: String,
    /// Product.
    pub product: String,
    /// Version.
    pub version: String,
    /// Serial number.
    pub serial: String,
    /// Asset tag.
    pub asset_tag: String,
    /// Location in the chassis.
    pub location: String,
}

/// Chassis (SMBIOS type 3).
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Chassis {
    /// Maker.
    pub manufacturer: String,
    /// Type code (DSP0134 clause 7.4.1).
    pub kind: u8,
    /// Version.
    pub version: String,
    /// Serial number.
    pub serial: String,
    /// Asset tag.
    pub asset_tag: String,
    /// Height in rack units.
    pub height_units: u8,
}

/// Processors.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Cpu {
    /// Packages.
    pub packages: u32,
    /// Cores in a package.
    pub cores: u32,
    /// Threads in a core.
    pub threads: u32,
    /// Vendor id.
    pub vendor: String,
    /// Maker's name for SMBIOS.
    pub manufacturer: String,
    /// Model name.
    pub model_name: String,
    /// Family number.
    pub family: u32,
    /// Model number.
    pub model: u32,
    /// Stepping.
    pub stepping: u32,
    /// Flags.
    pub flags: String,
    /// Lowest frequency in kHz.
    pub minimum_khz: u64,
    /// Highest frequency in kHz.
    pub maximum_khz: u64,
    /// Current frequency in kHz.
    pub current_khz: u64,
    /// Sizes in KiB of a core's data, instruction and level-2 cache, and of a package's level 3.
    pub cache_kib: [u64; 4],
    /// Socket labels and serial numbers, one for each package.
    pub sockets: Vec<(String, String)>,
    /// Part number.
    pub part_number: String,
    /// Version of the microcode.
    #[serde(default)]
    pub microcode: String,
}

/// A memory slot (SMBIOS type 17).
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Slot {
    /// Label.
    pub locator: String,
    /// Bank's label.
    pub bank: String,
    /// The module in it.
    pub module: Option<Module>,
}

/// A memory module.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Module {
    /// Size in MiB.
    pub mib: u32,
    /// Maker.
    pub manufacturer: String,
    /// Part number.
    pub part_number: String,
    /// Serial number.
    pub serial: String,
    /// Asset tag.
    #[serde(default)]
    pub asset_tag: String,
    /// What kind of memory it is, a code of the standard; DDR5 where nothing else is said.
    #[serde(default = "ddr5")]
    pub kind: u8,
    /// Highest speed in MT/s.
    pub speed: u16,
    /// Speed as configured in MT/s.
    pub configured_speed: u16,
    /// Ranks.
    pub ranks: u8,
}

fn ddr5() -> u8 {
    0x22
}

/// How a disk is attached.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum DiskKind {
    /// NVM Express.
    Nvme,
    /// ATA, serial or parallel.
    Sata,
    /// Serial-attached SCSI.
    Sas,
    /// MMC or SD card.
    Mmc,
    /// Floppy disk.
    Floppy,
}

/// A disk.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Disk {
    /// How it is attached.
    pub kind: DiskKind,
    /// The kernel's name.
    pub name: String,
    /// PCI address of its controller, or the controller's folder below `/sys/devices`.
    pub controller: String,
    /// Port of the controller (SATA), phy of it (SAS).
    #[serde(default)]
    pub port: u32,
    /// What it says that its maker is, at most eight letters (SAS).
    #[serde(default)]
    pub vendor: String,
    /// Model.
    pub model: String,
    /// Serial number.
    pub serial: String,
    /// World Wide Name.
    pub wwn: String,
    /// Firmware revision.
    pub firmware: String,
    /// Size in bytes.
    pub bytes: u64,
    /// Whether it rotates.
    #[serde(default)]
    pub rotational: bool,
    /// Revolutions a minute (SAS).
    #[serde(default)]
    pub rpm: u16,
    /// The name of the enclosure that it sits in (SAS).
    #[serde(default)]
    pub enclosure: String,
    /// The number of its bay.
    #[serde(default)]
    pub bay: u32,
    /// The kind of its partition table.
    #[serde(default = "gpt")]
    pub table: String,
    /// What it is as a whole, without a partition table: a filesystem, a member of an array.
    #[serde(default)]
    pub content: Option<Content>,
    /// Partitions.
    #[serde(default)]
    pub partitions: Vec<Partition>,
}

fn gpt() -> String {
    "gpt".to_owned()
}

/// A partition.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Partition {
    /// Its number, where it is not its place in the list.
    #[serde(default)]
    pub number: Option<u32>,
    /// Start in MiB.
    pub start_mib: u64,
    /// Size in MiB.
    pub mib: u64,
    /// UUID.
    pub uuid: String,
    /// Name in the partition table.
    pub name: String,
    /// Its type; empty where what it holds and where it is mounted say it.
    #[serde(default)]
    pub kind: String,
    /// Filesystem.
    pub filesystem: String,
    /// Filesystem's UUID.
    pub filesystem_uuid: String,
    /// Filesystem's label.
    #[serde(default)]
    pub label: String,
    /// Where it is mounted.
    #[serde(default)]
    pub mount: String,
    /// How much of it is used, in percent.
    #[serde(default)]
    pub used: u64,
}

/// What a disk or a volume holds as a whole.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Content {
    /// A filesystem, or what it is a part of, as the udev database names it.
    pub filesystem: String,
    /// UUID.
    #[serde(default)]
    pub uuid: String,
    /// Label.
    #[serde(default)]
    pub label: String,
    /// Where it is mounted.
    #[serde(default)]
    pub mount: String,
    /// How much of it is used, in percent.
    #[serde(default)]
    pub used: u64,
}

/// What is made of disks, partitions and other volumes.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Volume {
    /// The kernel's name: `md0`, `dm-3`.
    pub name: String,
    /// What an owner calls it.
    pub title: String,
    /// Its id, as an array or as the device-mapper keeps it.
    pub uuid: String,
    /// The devices that it is made of.
    pub on: Vec<String>,
    /// Size in bytes.
    pub bytes: u64,
    /// The level of an array.
    #[serde(default)]
    pub level: String,
    /// Members of an array that stand by.
    #[serde(default)]
    pub spares: Vec<String>,
    /// Members of an array that are missing.
    #[serde(default)]
    pub missing: u32,
    /// What an array is busy with.
    #[serde(default)]
    pub action: String,
    /// The volume group and the logical volume.
    #[serde(default)]
    pub group: Option<(String, String)>,
    /// What it holds.
    #[serde(default)]
    pub content: Option<Content>,
}

/// A display device.
#[derive(Debug, Clone, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Gpu {
    /// PCI address.
    pub address: String,
    /// PCI class code.
    pub class: u32,
    /// Vendor, device, subsystem vendor and subsystem device.
    pub ids: [u16; 4],
    /// Driver.
    pub driver: String,
    /// Whether the firmware showed the boot on it.
    #[serde(default)]
    pub boot: bool,
    /// What it is called.
    #[serde(default)]
    pub name: String,
    /// The display that is plugged in.
    #[serde(default)]
    pub monitor: Option<Monitor>,
}
