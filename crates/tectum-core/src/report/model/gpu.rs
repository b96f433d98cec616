use crate::report::{
    fact::Fact,
    kinds::{Serial, Text, Uuid},
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
        identity [uuid], [unique_id];
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
        /// The driver's version, if it gives one.
        driver_version: Fact<Text>,
        /// The model as the driver names it.
        model: Fact<Text>,
        /// Whether the firmware used it to show the boot.
        boot_display: Fact<bool>,
        /// Whether it is a device that only hypervisors have.
        made_by_hypervisor: Fact<bool>,
        /// Memory of its own in bytes.
        memory_bytes: Fact<u64>,
        /// Version of its video BIOS.
        video_bios: Fact<Text>,
        /// The best its link could have: a lane's speed, and lanes.
        link_at_best: Fact<Text>,
        /// A number that no other has.
        unique_id: Fact<Serial>,
        /// A UUID that its driver gives.
        uuid: Fact<Uuid>,
        /// The NUMA node that it is near to.
        numa_node: Fact<u64>,
        /// Connectors, with what is plugged in.
        connectors: Parts<Connector>,
    }
}

record! {
    /// A connector for a display (`Documentation/gpu/drm-uapi.rst`).
    Connector "connector" {
        place [name];

        /// Its kind and number: `HDMI-A-1`.
        name: Fact<Text>,
        /// connected, disconnected, unknown.
        status: Fact<Text>,
        /// The display that is plugged in.
        display: Parts<Display>,
    }
}

record! {
    /// A display, by what it says of itself (VESA E-EDID).
    Display "display" {
        identity [maker_id, product_code, serial];

        /// The maker's three letters.
        maker_id: Fact<Text>,
        /// The maker's number for the product, four hexadecimal digits.
        product_code: Fact<Text>,
        /// Its name.
        name: Fact<Text>,
        /// Its serial number.
        serial: Fact<Serial>,
        /// When it was made: year, and week if it says.
        made: Fact<Text>,
        /// Width of the picture in centimetres.
        width_cm: Fact<u64>,
        /// Height of the picture in centimetres.
        height_cm: Fact<u64>,
        /// The mode that it likes best.
        preferred_mode: Fact<Text>,
        /// Version of the structure.
        edid_version: Fact<Text>,
    }
}

record! {
    /// How display devices are doing.
    GpuReadings "gpu readings" {
        /// Each of them, by address.
        devices: Parts<GpuDeviceReadings>,
    }
}

record! {
    /// How a display device is doing.
    GpuDeviceReadings "gpu" {
        place [address];

        /// Bus and address.
        address: Fact<Text>,
        /// Its link: a lane's speed, and lanes.
        link: Fact<Text>,
        /// Temperature in thousandths of a degree Celsius.
        temperature_millicelsius: Fact<i64>,
        /// Power in microwatts.
        power_microwatts: Fact<u64>,
        /// Speed of its fan in revolutions a minute.
        fan_rpm: Fact<u64>,
        /// How busy it is, in percent.
        busy_percent: Fact<u64>,
        /// Its own memory in use, in bytes.
        memory_used_bytes: Fact<u64>,
        /// Frequency of its cores in megahertz.
        core_mhz: Fact<u64>,
    }
}
