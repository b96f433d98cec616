//! What manages and guards the machine: management controllers, host interfaces, watching devices,
//! the Trusted Platform Module, passwords.

use crate::report::{
    fact::Fact,
    kinds::Text,
    record::{Parts, record},
};

record! {
    /// The interface to the baseboard management controller (SMBIOS type 38, DSP0134 clause 7.39).
    ManagementController "management controller" {
        place [interface, address];

        /// What kind of interface it is, in the standard's words.
        interface: Fact<Text>,
        /// The version of IPMI that it follows.
        ipmi_version: Fact<Text>,
        /// Where its registers lie.
        address: Fact<Text>,
    }
}

record! {
    /// A Trusted Platform Module (SMBIOS type 43, DSP0134 clause 7.44).
    Tpm "TPM" {
        place [vendor];

        /// The vendor's id.
        vendor: Fact<Text>,
        /// The version of the specification that it follows.
        version: Fact<Text>,
        /// How its family can be configured, in the standard's words.
        characteristics: Fact<Vec<Text>>,
        /// What the maker calls it.
        description: Fact<Text>,
    }
}

record! {
    /// What manages the machine from outside its operating system, as the firmware describes it.
    Management "management" {
        /// Interfaces to the baseboard management controller (SMBIOS type 38).
        controllers: Parts<ManagementController>,
        /// Host interfaces to management controllers (SMBIOS type 42).
        host_interfaces: Parts<HostInterface>,
        /// Ways to a management service beside the network (SMBIOS type 30).
        remote_access: Parts<RemoteAccess>,
        /// Devices that watch others (SMBIOS type 34).
        devices: Parts<ManagementDevice>,
        /// What they watch (SMBIOS types 35 and 36).
        components: Parts<ManagementComponent>,
    }
}

record! {
    /// The way from the host to its management controller (SMBIOS type 42, DSP0134 clause 7.43).
    HostInterface "host interface" {
        place [kind];

        /// What kind of interface it is, in the standard's words.
        kind: Fact<Text>,
        /// The protocols that it speaks, by the standard's numbers or names.
        protocols: Fact<Vec<Text>>,
    }
}

record! {
    /// A way to a management service beside the network (SMBIOS type 30, DSP0134 clause 7.31).
    RemoteAccess "remote access" {
        place [manufacturer];

        /// The maker of the facility.
        manufacturer: Fact<Text>,
        /// The ways that are enabled, in the standard's words.
        enabled: Fact<Vec<Text>>,
    }
}

record! {
    /// A device that watches others (SMBIOS type 34, DSP0134 clause 7.35).
    ManagementDevice "management device" {
        place [description, address];

        /// What it is.
        description: Fact<Text>,
        /// Which chip it is, in the standard's words.
        chip: Fact<Text>,
        /// What kind of address it has, in the standard's words.
        address_kind: Fact<Text>,
        /// Its address.
        address: Fact<Text>,
    }
}

record! {
    /// Something that a management device watches (SMBIOS types 35 and 36, DSP0134 clauses 7.36
    /// and 7.37). Thresholds are in the unit of the probe that is watched.
    ManagementComponent "management component" {
        place [description, device];

        /// What it is.
        description: Fact<Text>,
        /// The device that watches.
        device: Fact<Text>,
        /// The probe or cooling device that is watched.
        watches: Fact<Text>,
        /// Below this it is not critical yet.
        lower_non_critical: Fact<i64>,
        /// Above this it is not critical yet.
        upper_non_critical: Fact<i64>,
        /// Below this it is critical.
        lower_critical: Fact<i64>,
        /// Above this it is critical.
        upper_critical: Fact<i64>,
        /// Below this it cannot recover.
        lower_non_recoverable: Fact<i64>,
        /// Above this it cannot recover.
        upper_non_recoverable: Fact<i64>,
    }
}

record! {
    /// Passwords and the automatic reset as the firmware has them set (SMBIOS types 24 and 23,
    /// DSP0134 clauses 7.25 and 7.24).
    HardwareSecurity "hardware security" {
        /// The power-on password, in the standard's words.
        power_on_password: Fact<Text>,
        /// The keyboard password, in the standard's words.
        keyboard_password: Fact<Text>,
        /// The administrator password, in the standard's words.
        administrator_password: Fact<Text>,
        /// The reset from the front panel, in the standard's words.
        front_panel_reset: Fact<Text>,
        /// Whether a watchdog can reset the machine.
        watchdog_reset: Fact<bool>,
        /// What is booted after such a reset, in the standard's words.
        boot_after_reset: Fact<Text>,
    }
}
