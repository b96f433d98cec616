use crate::report::{
    fact::Fact,
    kinds::{Text, terms},
    record::record,
};

record! {
    /// The platform's firmware.
    Firmware "firmware" {
        /// How the kernel was started.
        kind: Fact<FirmwareKind>,
        /// The vendor (SMBIOS type 0).
        vendor: Fact<Text>,
        /// The version, free text.
        version: Fact<Text>,
        /// The release date as `yyyy-mm-dd`.
        date: Fact<Text>,
        /// The release as `major.minor`.
        release: Fact<Text>,
        /// Size of the ROM in bytes.
        rom_size_bytes: Fact<u64>,
    }
}

terms! {
    /// How the kernel was started.
    FirmwareKind {
        /// By UEFI firmware.
        Uefi = "uefi",
        /// By a BIOS without UEFI.
        Bios = "bios",
        /// By a boot loader that passed a device tree.
        DeviceTree = "device-tree",
    }
}
