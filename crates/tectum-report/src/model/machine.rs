use crate::{
    declare::record,
    fact::Fact,
    leaf::{HostName, MachineId, Serial, Uuid},
};

record! {
    /// What a person uses to say which machine this is.
    Machine "machine" {
        source "DSP0134 clause 7.2; machine-id(5); uname(2)";
        identity unique [system_uuid], [serial], [machine_id];
        names [hostname];

        /// The host name that the kernel has; that of `/etc/hostname` where it gives none.
        hostname: Fact<HostName>,
        /// The installation's id (`/etc/machine-id`, machine-id(5)).
        machine_id: Fact<MachineId>,
        /// The system's UUID (SMBIOS type 1).
        system_uuid: Fact<Uuid>,
        /// The system's serial number (SMBIOS type 1, or the device tree's).
        serial: Fact<Serial>,
    }
}
