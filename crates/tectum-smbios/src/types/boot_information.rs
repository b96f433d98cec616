//! Type 32, System Boot Information (clause 7.33).

use crate::{code::code, field::structure};

structure! {
    /// How the last boot went.
    BootInformation = 32, "System Boot Information" {
        /// The status; bytes of more detail may follow.
        0x0A status: BootStatus,
    }
}

code! {
    /// How the last boot went (clause 7.33.1); 128 to 191 are the vendor's, 192 on the product's.
    BootStatus(u8) {
        0 => "No errors detected",
        1 => "No bootable media",
        2 => "The normal operating system failed to load",
        3 => "Firmware-detected hardware failure",
        4 => "Operating system-detected hardware failure",
        5 => "User-requested boot",
        6 => "System security violation",
        7 => "Previously-requested image",
        8 => "System watchdog timer expired",
    }
}

impl<'a> BootInformation<'a> {
    /// The bytes of more detail behind the status.
    pub fn detail(&self) -> &'a [u8] {
        self.structure().formatted().get(0x0B..).unwrap_or_default()
    }
}
