use crate::report::{
    fact::Fact,
    kinds::Text,
    record::{Parts, record},
};

record! {
    /// Display, 3D and processing-accelerator devices.
    Gpu "gpu" {
        /// Each of them, by address.
        devices: Parts<GpuDevice>,
    }
}

record! {
    /// One display, 3D or processing-accelerator device: a PCI function of base class 03h or 12h,
    /// or a display device elsewhere.
    GpuDevice "gpu" {
        place [address];

        /// Bus and address (`pci 0000:01:00.0`).
        address: Fact<Text>,
        /// What it is, by its PCI class.
        class: Fact<Text>,
        /// The vendor's PCI id, four hexadecimal digits.
        vendor_id: Fact<Text>,
        /// The vendor's name in the PCI id list.
        vendor: Fact<Text>,
        /// The device's PCI id, four hexadecimal digits.
        device_id: Fact<Text>,
        /// The device's name in the PCI id list.
        device: Fact<Text>,
        /// The subsystem's ids, `vendor:device`.
        subsystem_id: Fact<Text>,
        /// The subsystem's name in the PCI id list.
        subsystem: Fact<Text>,
        /// The hardware revision, two hexadecimal digits.
        revision: Fact<Text>,
        /// The driver bound to it.
        driver: Fact<Text>,
        /// Whether the firmware used it to show the boot.
        boot_display: Fact<bool>,
    }
}
