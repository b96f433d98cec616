//! Type 30, Out-of-Band Remote Access (clause 7.31).

use crate::{Text, code::flags, field::structure};

structure! {
    /// A way to a management service beside the network.
    RemoteAccess = 30, "Out-of-Band Remote Access" {
        /// The maker of the facility.
        0x04 manufacturer: Text<'a>,
        /// Which ways are enabled.
        0x05 connections: RemoteConnections,
    }
}

flags! {
    /// Ways of remote access that are enabled (clause 7.31, offset 05h).
    RemoteConnections(u8) {
        0 => "Inbound connection enabled",
        1 => "Outbound connection enabled",
    }
}
