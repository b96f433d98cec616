//! Type 23, System Reset (clause 7.24).

use crate::field::structure;

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
