//! Type 21, Built-in Pointing Device (clause 7.22).

use crate::{code::code, field::structure};

structure! {
    /// A pointing device that is built in.
    PointingDevice = 21, "Built-in Pointing Device" {
        /// What kind it is.
        0x04 device_type: PointingDeviceType,
        /// How it is connected.
        0x05 interface: PointingDeviceInterface,
        /// How many buttons it has.
        0x06 button_count: u8,
    }
}

code! {
    /// Kind of pointing device (clause 7.22.1).
    PointingDeviceType(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "Mouse",
        0x04 => "Track Ball",
        0x05 => "Track Point",
        0x06 => "Glide Point",
        0x07 => "Touch Pad",
        0x08 => "Touch Screen",
        0x09 => "Optical Sensor",
    }
}

code! {
    /// Interface of a pointing device (clause 7.22.2).
    PointingDeviceInterface(u8) {
        0x01 => "Other",
        0x02 => "Unknown",
        0x03 => "Serial",
        0x04 => "PS/2",
        0x05 => "Infrared",
        0x06 => "HP-HIL",
        0x07 => "Bus mouse",
        0x08 => "ADB (Apple Desktop Bus)",
        0xA0 => "Bus mouse DB-9",
        0xA1 => "Bus mouse micro-DIN",
        0xA2 => "USB",
        0xA3 => "I2C",
        0xA4 => "SPI",
    }
}
