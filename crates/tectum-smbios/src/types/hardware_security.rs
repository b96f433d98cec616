//! Type 24, Hardware Security (clause 7.25).

use crate::{Field, field::structure};

structure! {
    /// Passwords and reset as the hardware has them set.
    HardwareSecurity = 24, "Hardware Security" {
        /// Two bits each: 7:6 power-on password, 5:4 keyboard password, 3:2 administrator password,
        /// 1:0 front panel reset.
        0x04 settings: u8,
    }
}

/// How one of them is set.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SecurityState {
    /// Off.
    Disabled,
    /// On.
    Enabled,
    /// The hardware has no such thing.
    NotImplemented,
    /// The firmware does not know.
    Unknown,
}

impl<'a> HardwareSecurity<'a> {
    /// Power-on password.
    pub fn power_on_password(&self) -> Option<Field<'a, SecurityState>> {
        Some(self.settings()?.map(|bits| state(bits >> 6)))
    }

    /// Keyboard password.
    pub fn keyboard_password(&self) -> Option<Field<'a, SecurityState>> {
        Some(self.settings()?.map(|bits| state(bits >> 4)))
    }

    /// Administrator password.
    pub fn administrator_password(&self) -> Option<Field<'a, SecurityState>> {
        Some(self.settings()?.map(|bits| state(bits >> 2)))
    }

    /// Front panel reset.
    pub fn front_panel_reset(&self) -> Option<Field<'a, SecurityState>> {
        Some(self.settings()?.map(state))
    }
}

fn state(bits: u8) -> SecurityState {
    match bits & 0x03 {
        0 => SecurityState::Disabled,
        1 => SecurityState::Enabled,
        2 => SecurityState::NotImplemented,
        _ => SecurityState::Unknown,
    }
}
