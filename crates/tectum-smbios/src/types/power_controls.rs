//! Type 25, System Power Controls (clause 7.26).

use crate::field::structure;

structure! {
    /// When the system is next powered on, each part in BCD; a part out of its range is any.
    SystemPowerControls = 25, "System Power Controls" {
        /// Month, 01h to 12h.
        0x04 next_month: u8,
        /// Day of the month, 01h to 31h.
        0x05 next_day: u8,
        /// Hour, 00h to 23h.
        0x06 next_hour: u8,
        /// Minute, 00h to 59h.
        0x07 next_minute: u8,
        /// Second, 00h to 59h.
        0x08 next_second: u8,
    }
}
