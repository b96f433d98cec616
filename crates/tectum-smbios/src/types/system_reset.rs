//! Type 23, System Reset (clause 7.24).

use crate::{Field, code::code, field::structure};

structure! {
    /// What the automatic reset of the system does.
    SystemReset = 23, "System Reset" {
        /// Bit 0 enabled by the user, 2:1 boot option, 4:3 option at the limit, 5 watchdog.
        0x04 capabilities: u8,
        /// Automatic resets since the last one on purpose; FFFFh is unknown.
        0x05 reset_count: u16,
        /// How many are tried; FFFFh is unknown.
        0x07 reset_limit: u16,
        /// Minutes of the watchdog's interval; FFFFh is unknown.
        0x09 timer_interval_minutes: u16,
        /// Minutes before a reboot; FFFFh is unknown.
        0x0B timeout_minutes: u16,
    }
}

code! {
    /// What is done after a reset (clause 7.24, offset 04h).
    ResetOption(u8) {
        0 => "Reserved",
        1 => "Operating system",
        2 => "System utilities",
        3 => "Do not reboot",
    }
}

impl<'a> SystemReset<'a> {
    /// Whether the user has enabled it (bit 0).
    pub fn is_enabled(&self) -> Option<Field<'a, bool>> {
        Some(self.capabilities()?.map(|bits| bits & 0x01 != 0))
    }

    /// What is booted after a watchdog reset (bits 2:1).
    pub fn boot_option(&self) -> Option<Field<'a, ResetOption>> {
        Some(self.capabilities()?.map(|bits| ResetOption(bits >> 1 & 0x03)))
    }

    /// What is done when the limit of resets is reached (bits 4:3).
    pub fn boot_option_on_limit(&self) -> Option<Field<'a, ResetOption>> {
        Some(self.capabilities()?.map(|bits| ResetOption(bits >> 3 & 0x03)))
    }

    /// Whether the system has a watchdog timer (bit 5).
    pub fn has_watchdog(&self) -> Option<Field<'a, bool>> {
        Some(self.capabilities()?.map(|bits| bits & 0x20 != 0))
    }
}
