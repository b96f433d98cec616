use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{Bytes, CommandLine, Date, ParameterName, ParameterValue, Term, codes},
};

record! {
    /// The platform's firmware.
    Firmware "firmware" {
        source "DSP0134 clause 7.1; UEFI Specification clause 3.3";
        derived [kernel_command_line];

        /// How the kernel was started.
        kind: Fact<FirmwareKind>,
        /// The vendor (SMBIOS type 0).
        #[source = "DSP0134 clause 7.1"]
        vendor: Fact<Term>,
        /// The version, free text.
        #[source = "DSP0134 clause 7.1"]
        version: Fact<Term>,
        /// The release date as `yyyy-mm-dd`.
        #[source = "DSP0134 clause 7.1"]
        release_date: Fact<Date>,
        /// The release as `major.minor`.
        #[source = "DSP0134 clause 7.1"]
        release: Fact<Term>,
        /// Size of the ROM in bytes.
        #[source = "DSP0134 clause 7.1"]
        rom_size_bytes: Fact<Bytes>,
        /// Whether UEFI Secure Boot is on (UEFI Specification, clause 3.3).
        #[source = "UEFI Specification clause 3.3"]
        secure_boot: Fact<bool>,
        /// Whether UEFI is in setup mode, in which its keys can be changed by anybody.
        #[source = "UEFI Specification clause 3.3"]
        setup_mode: Fact<bool>,
        /// Release of the embedded controller's firmware as `major.minor`.
        #[source = "DSP0134 clause 7.1"]
        controller_release: Fact<Term>,
        /// What the firmware can do, in the standard's words.
        #[source = "DSP0134 clause 7.1.1"]
        characteristics: Fact<Vec<Term>>,
        /// The language it speaks, as it writes it.
        #[source = "DSP0134 clause 7.14"]
        language: Fact<Term>,
        /// The languages it can speak.
        #[source = "DSP0134 clause 7.14"]
        languages: Fact<Vec<Term>>,
        /// Trusted Platform Modules that the kernel drives.
        #[source = "Documentation/ABI/stable/sysfs-class-tpm; DSP0134 clause 7.44"]
        tpms: Parts<TpmChip>,
        /// The command line that the kernel was started with.
        #[source = "proc_cmdline(5)"]
        kernel_command_line: Fact<CommandLine>,
        /// The parameters on that command line.
        #[source = "Documentation/admin-guide/kernel-parameters.rst"]
        boot_parameters: Parts<BootParameter>,
        /// The tables that the firmware describes the machine with to the kernel.
        #[source = "ACPI Specification clause 5.2"]
        acpi_tables: Parts<AcpiTable>,
        /// Pieces of firmware as the firmware itself lists them (SMBIOS type 45).
        #[source = "DSP0134 clause 7.46"]
        inventory: Parts<FirmwareItem>,
        /// Pieces of firmware that UEFI can update (its system resource table).
        #[source = "UEFI Specification clause 23.4"]
        updatable: Parts<UpdatableFirmware>,
    }
}

record! {
    /// One ACPI table (ACPI Specification, clause 5.2.6).
    AcpiTable "ACPI table" {
        source "ACPI Specification clause 5.2.6";
        place [name];

        /// The kernel's name for it: its signature, and a number where there are several.
        name: Fact<Term>,
        /// Length in bytes.
        length_bytes: Fact<Bytes>,
        /// Revision of its form.
        revision: Fact<u64>,
        /// Who made the table: the six letters of its header.
        oem_id: Fact<Term>,
        /// What its maker calls it.
        oem_table_id: Fact<Term>,
        /// Its maker's revision.
        oem_revision: Fact<u64>,
    }
}

record! {
    /// One parameter of the kernel's command line (`Documentation/admin-guide/kernel-parameters`).
    BootParameter "boot parameter" {
        source "Documentation/admin-guide/kernel-parameters.rst";
        place [name, number];

        /// Its place among those of the same name, from 1.
        number: Fact<u64>,
        /// What stands before the first `=`, or the whole word where there is none.
        name: Fact<ParameterName>,
        /// Its value, if it has one.
        value: Fact<ParameterValue>,
    }
}

record! {
    /// A Trusted Platform Module that the kernel drives (`/sys/class/tpm`).
    TpmChip "TPM chip" {
        source "Documentation/ABI/stable/sysfs-class-tpm";
        place [description];
        names [name];

        /// The kernel's name for it.
        name: Fact<Term>,
        /// Major version of the TPM specification.
        major_version: Fact<u64>,
        /// What the firmware or driver calls it.
        description: Fact<Term>,
    }
}

record! {
    /// One piece of firmware (SMBIOS type 45, DSP0134 clause 7.46).
    FirmwareItem "piece of firmware" {
        source "DSP0134 clause 7.46";
        place [name];

        /// What it is called.
        name: Fact<Term>,
        /// The version of the firmware, as its maker writes it.
        version: Fact<Term>,
        /// The maker's own identifier of the firmware.
        id: Fact<Term>,
        /// The day on which the firmware was released.
        release_date: Fact<Date>,
        /// The oldest version that it can be set back to.
        lowest_version: Fact<Term>,
        /// Size of the image in bytes.
        image_bytes: Fact<Bytes>,
        /// What can be done with it, in the standard's words.
        characteristics: Fact<Vec<Term>>,
        /// Who made the firmware.
        manufacturer: Fact<Term>,
        /// Its state, in the standard's words.
        state: Fact<Term>,
    }
}

record! {
    /// One entry of UEFI's system resource table
    /// (`Documentation/ABI/testing/sysfs-firmware-efi-esrt`).
    UpdatableFirmware "updatable firmware" {
        source "Documentation/ABI/testing/sysfs-firmware-efi-esrt";
        place [class];

        /// The GUID of its class.
        class: Fact<Term>,
        /// What it is for: 0 unknown, 1 system, 2 device, 3 UEFI driver.
        kind: Fact<u64>,
        /// The version that runs, a number by the maker's own count.
        version: Fact<u64>,
        /// The oldest version that it can be set back to.
        lowest_version: Fact<u64>,
        /// How the last update ended: 0 is success.
        last_attempt_status: Fact<u64>,
    }
}

codes! {
    /// How the kernel was started.
    FirmwareKind {
        /// By UEFI firmware.
        Uefi = "uefi",
        /// By a BIOS without UEFI.
        Bios = "bios",
        /// By Open Firmware (IEEE 1275), which made the device tree.
        OpenFirmware = "open-firmware",
        /// By a boot loader that passed a device tree.
        DeviceTree = "device-tree",
    }
}
