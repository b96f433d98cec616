//! What manages and guards the machine: management controllers, host interfaces, watching devices,
//! the Trusted Platform Module, passwords.

use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::Term,
};

record! {
    /// The interface to the baseboard management controller (SMBIOS type 38, DSP0134 clause 7.39).
    ManagementController "management controller" {
        source "DSP0134 clause 7.39";
        place [interface, address];

        /// What kind of interface it is, in the standard's words.
        interface: Fact<Term>,
        /// The version of IPMI that it follows.
        ipmi_version: Fact<Term>,
        /// Where its registers lie.
        address: Fact<Term>,
        /// Its address as a target on the I2C bus.
        target_address: Fact<Term>,
        /// The interrupt that it raises.
        interrupt: Fact<u64>,
    }
}

record! {
    /// A Trusted Platform Module (SMBIOS type 43, DSP0134 clause 7.44).
    Tpm "TPM" {
        source "DSP0134 clause 7.44";
        place [vendor];

        /// The vendor's id.
        vendor: Fact<Term>,
        /// The version of the specification that it follows.
        version: Fact<Term>,
        /// The version of its own firmware.
        firmware_version: Fact<Term>,
        /// How its family can be configured, in the standard's words.
        characteristics: Fact<Vec<Term>>,
        /// What the maker calls it.
        description: Fact<Term>,
    }
}

record! {
    /// What manages the machine from outside its operating system, as the firmware describes it.
    Management "management" {
        source "DSP0134 clauses 7.31 to 7.43";

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
        source "DSP0134 clause 7.43";
        place [kind];

        /// What kind of interface it is, in the standard's words.
        kind: Fact<Term>,
        /// The protocols that it speaks, by the standard's numbers or names.
        protocols: Fact<Vec<Term>>,
    }
}

record! {
    /// A way to a management service beside the network (SMBIOS type 30, DSP0134 clause 7.31).
    RemoteAccess "remote access" {
        source "DSP0134 clause 7.31";
        place [manufacturer];

        /// The maker of the facility.
        manufacturer: Fact<Term>,
        /// The ways that are enabled, in the standard's words.
        enabled: Fact<Vec<Term>>,
    }
}

record! {
    /// A device that watches others (SMBIOS type 34, DSP0134 clause 7.35).
    ManagementDevice "management device" {
        source "DSP0134 clause 7.35";
        place [description, address];

        /// What the firmware calls it, in words.
        description: Fact<Term>,
        /// Which chip it is, in the standard's words.
        chip: Fact<Term>,
        /// What kind of address it has, in the standard's words.
        address_kind: Fact<Term>,
        /// Where it answers, on the kind of bus that another field names.
        address: Fact<Term>,
    }
}

record! {
    /// Something that a management device watches (SMBIOS types 35 and 36, DSP0134 clauses 7.36
    /// and 7.37). Thresholds are in the unit of the probe that is watched.
    ManagementComponent "management component" {
        source "DSP0134 clauses 7.36 and 7.37";
        place [description, device];

        /// What the firmware calls it, in words.
        description: Fact<Term>,
        /// The device that watches.
        device: Fact<Term>,
        /// The probe or cooling device that is watched.
        watches: Fact<Term>,
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
        source "DSP0134 clauses 7.24 and 7.25";

        /// The power-on password, in the standard's words.
        power_on_password: Fact<Term>,
        /// The keyboard password, in the standard's words.
        keyboard_password: Fact<Term>,
        /// The administrator password, in the standard's words.
        administrator_password: Fact<Term>,
        /// The reset from the front panel, in the standard's words.
        front_panel_reset: Fact<Term>,
        /// Whether a watchdog can reset the machine.
        watchdog_reset: Fact<bool>,
        /// What is booted after such a reset, in the standard's words.
        boot_after_reset: Fact<Term>,
    }
}
