//! Type 30, Out-of-Band Remote Access (clause 7.31).

use crate::{Text, field::structure};

structure! {
    /// A way to a management service beside the network.
    RemoteAccess = 30, "Out-of-Band Remote Access" {
        /// The maker of the facility.
        0x04 manufacturer: Text<'a>,
        /// Bit 0 inbound enabled, bit 1 outbound enabled.
        0x05 connections: u8,
    }
}
