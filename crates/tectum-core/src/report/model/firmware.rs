use crate::report::{
    fact::Fact,
    kinds::{FreeText, Text, Uuid, terms},
    record::{Parts, record},
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
        /// Whether UEFI Secure Boot is on (UEFI Specification, clause 3.3).
        secure_boot: Fact<bool>,
        /// Whether UEFI is in setup mode, in which its keys can be changed by anybody.
        setup_mode: Fact<bool>,
        /// Release of the embedded controller's firmware as `major.minor`.
        controller_release: Fact<Text>,
        /// What the firmware can do, in the standard's words.
        characteristics: Fact<Vec<Text>>,
        /// The language it speaks, as it writes it.
        language: Fact<Text>,
        /// The languages it can speak.
        languages: Fact<Vec<Text>>,
        /// Versions of the processors' microcode, each once.
        microcode: Fact<Vec<Text>>,
        /// Trusted Platform Modules that the kernel drives.
        tpms: Parts<TpmChip>,
        /// The command line that the kernel was started with.
        kernel_command_line: Fact<Text>,
        /// The parameters on that command line.
        boot_parameters: Parts<BootParameter>,
        /// The tables that the firmware describes the machine with to the kernel.
        acpi_tables: Parts<AcpiTable>,
        /// Pieces of firmware as the firmware itself lists them (SMBIOS type 45).
        inventory: Parts<FirmwareItem>,
        /// Pieces of firmware that UEFI can update (its system resource table).
        updatable: Parts<UpdatableFirmware>,
    }
}

record! {
    /// One ACPI table (ACPI Specification, clause 5.2.6).
    AcpiTable "ACPI table" {
        place [name];

        /// The kernel's name for it: its signature, and a number where there are several.
        name: Fact<Text>,
        /// Length in bytes.
        length_bytes: Fact<u64>,
        /// Revision of its form.
        revision: Fact<u64>,
        /// Who made it.
        oem_id: Fact<Text>,
        /// What its maker calls it.
        oem_table_id: Fact<Text>,
        /// Its maker's revision.
        oem_revision: Fact<u64>,
    }
}

record! {
    /// One parameter of the kernel's command line (`Documentation/admin-guide/kernel-parameters`).
    BootParameter "boot parameter" {
        place [name, number];

        /// Its place among those of the same name, from 1.
        number: Fact<u64>,
        /// Its name.
        name: Fact<Text>,
        /// Its value, where it says nothing of whose machine this is.
        value: Fact<Text>,
        /// The UUID that its value names.
        uuid: Fact<Uuid>,
        /// Its value, where it may hold an address, a name or a secret.
        private_value: Fact<FreeText>,
    }
}

record! {
    /// A Trusted Platform Module that the kernel drives (`/sys/class/tpm`).
    TpmChip "TPM chip" {
        place [description];
        names [name];

        /// The kernel's name for it.
        name: Fact<Text>,
        /// Major version of the TPM specification.
        major_version: Fact<u64>,
        /// What the firmware or driver calls it.
        description: Fact<Text>,
    }
}

record! {
    /// One piece of firmware (SMBIOS type 45, DSP0134 clause 7.46).
    FirmwareItem "piece of firmware" {
        place [name];

        /// What it is called.
        name: Fact<Text>,
        /// Its version.
        version: Fact<Text>,
        /// Its id.
        id: Fact<Text>,
        /// The release date.
        date: Fact<Text>,
        /// The oldest version that it can be set back to.
        lowest_version: Fact<Text>,
        /// Size of the image in bytes.
        image_bytes: Fact<u64>,
        /// What can be done with it, in the standard's words.
        characteristics: Fact<Vec<Text>>,
        /// The maker.
        manufacturer: Fact<Text>,
        /// Its state, in the standard's words.
        state: Fact<Text>,
    }
}

record! {
    /// One entry of UEFI's system resource table
    /// (`Documentation/ABI/testing/sysfs-firmware-efi-esrt`).
    UpdatableFirmware "updatable firmware" {
        place [class];

        /// The GUID of its class.
        class: Fact<Text>,
        /// What it is for: 0 unknown, 1 system, 2 device, 3 UEFI driver.
        kind: Fact<u64>,
        /// Its version.
        version: Fact<u64>,
        /// The oldest version that it can be set back to.
        lowest_version: Fact<u64>,
        /// How the last update ended: 0 is success.
        last_attempt_status: Fact<u64>,
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
