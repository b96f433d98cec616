use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{
        Bytes, Centimetres, Date, Lanes, Megahertz, Megatransfers, Microwatts, Millicelsius,
        Percent, Rpm, Serial, Term, Uuid,
    },
};

record! {
    /// Display, 3D and processing-accelerator devices.
    Gpu "gpu" {
        source "Documentation/ABI/testing/sysfs-bus-pci; Documentation/gpu/drm-uapi.rst";

        /// Each of them, by address.
        devices: Parts<GpuDevice>,
    }
}

record! {
    /// One display, 3D or processing-accelerator device: a PCI function of base class 03h or 12h,
    /// or a display device elsewhere.
    GpuDevice "gpu" {
        source "Documentation/ABI/testing/sysfs-bus-pci; Documentation/gpu/drm-uapi.rst";
        identity unique [uuid], [serial], [unique_id];
        identity kind [vendor_id, device_id, subsystem_id];
        place [address];
        refers address -> pci.functions.address;
        derived [vendor, device, subsystem, class];

        /// Bus and address (`pci 0000:01:00.0`).
        address: Fact<Term>,
        /// What it is, by its PCI class.
        class: Fact<Term>,
        /// The vendor's PCI id, four hexadecimal digits.
        vendor_id: Fact<Term>,
        /// The vendor's name in the PCI id list.
        #[source = "PCI Code and ID Assignment Specification; a list of PCI ids"]
        vendor: Fact<Term>,
        /// The device's PCI id, four hexadecimal digits.
        device_id: Fact<Term>,
        /// The device's name in the PCI id list.
        #[source = "a list of PCI ids"]
        device: Fact<Term>,
        /// The subsystem's ids, `vendor:device`.
        subsystem_id: Fact<Term>,
        /// The subsystem's name in the PCI id list.
        #[source = "a list of PCI ids"]
        subsystem: Fact<Term>,
        /// The hardware revision, two hexadecimal digits.
        revision: Fact<Term>,
        /// The driver bound to it.
        #[source = "Documentation/driver-api/driver-model/device.rst"]
        driver: Fact<Term>,
        /// The driver's version, if it gives one.
        #[source = "Documentation/ABI/stable/sysfs-module"]
        driver_version: Fact<Term>,
        /// The model as the driver names it.
        model: Fact<Term>,
        /// Whether the firmware used it to show the boot.
        #[source = "Documentation/ABI/testing/sysfs-bus-pci"]
        boot_display: Fact<bool>,
        /// Whether it is a device that only hypervisors have.
        made_by_hypervisor: Fact<bool>,
        /// Memory of its own in bytes.
        #[source = "Documentation/gpu/amdgpu/driver-misc.rst"]
        memory_bytes: Fact<Bytes>,
        /// Version of its video BIOS.
        #[source = "Documentation/gpu/amdgpu/driver-misc.rst"]
        video_bios: Fact<Term>,
        /// The highest speed of a lane that its link could have.
        max_link_speed_mts: Fact<Megatransfers>,
        /// The most lanes that its link could have.
        max_link_lanes: Fact<Lanes>,
        /// The serial number, which drivers of server cards give.
        #[source = "Documentation/gpu/amdgpu/driver-misc.rst"]
        serial: Fact<Serial>,
        /// A number that no other has.
        #[source = "Documentation/gpu/amdgpu/driver-misc.rst"]
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
        source "Documentation/gpu/drm-uapi.rst";
        place [name];

        /// Its kind and number: `HDMI-A-1`.
        name: Fact<Term>,
        /// connected, disconnected, unknown.
        status: Fact<Term>,
        /// The display that is plugged in.
        display: Parts<Display>,
    }
}

record! {
    /// A display, by what it says of itself (VESA E-EDID).
    Display "display" {
        source "VESA E-EDID Release A, clause 3";
        identity unique [maker_id, product_code, serial];
        identity kind [maker_id, product_code];

        /// The maker's three letters.
        maker_id: Fact<Term>,
        /// The maker's number for the product, four hexadecimal digits.
        product_code: Fact<Term>,
        /// The display's product name, as it tells it in its EDID.
        name: Fact<Term>,
        /// Its serial number.
        serial: Fact<Serial>,
        /// When it was made: year, and week if it says.
        manufacture_date: Fact<Date>,
        /// Width of the picture in centimetres.
        width_cm: Fact<Centimetres>,
        /// Height of the picture in centimetres.
        height_cm: Fact<Centimetres>,
        /// The mode that it likes best.
        preferred_mode: Fact<Term>,
        /// Version of the structure.
        edid_version: Fact<Term>,
    }
}

record! {
    /// How display devices are doing.
    GpuReadings "gpu readings" {
        source "Documentation/gpu/drm-uapi.rst";

        /// Each of them, by address.
        devices: Parts<GpuDeviceReadings>,
    }
}

record! {
    /// How a display device is doing.
    GpuDeviceReadings "gpu" {
        source "Documentation/hwmon/sysfs-interface.rst";
        place [address];
        reading of gpu.devices by address = address;

        /// Bus and address.
        address: Fact<Term>,
        /// Speed of a lane of its link.
        link_speed_mts: Fact<Megatransfers>,
        /// How many lanes its PCI Express link runs on now.
        link_lanes: Fact<Lanes>,
        /// Temperature in thousandths of a degree Celsius.
        temperature_millicelsius: Fact<Millicelsius>,
        /// What it takes now, in microwatts, averaged by the driver where it averages.
        power_microwatts: Fact<Microwatts>,
        /// Speed of its fan in revolutions a minute.
        fan_rpm: Fact<Rpm>,
        /// How busy it is, in percent.
        busy_percent: Fact<Percent>,
        /// Its own memory in use, in bytes.
        memory_used_bytes: Fact<Bytes>,
        /// Frequency of its cores in megahertz.
        core_mhz: Fact<Megahertz>,
        /// Pages of its own memory that its driver has put out of use because they failed.
        #[source = "Documentation/gpu/amdgpu/ras.rst"]
        retired_pages: Fact<u64>,
        /// Errors that its blocks counted since the driver was loaded.
        #[source = "Documentation/gpu/amdgpu/ras.rst"]
        error_counts: Parts<GpuErrorCount>,
    }
}

record! {
    /// Errors that a block of a display device counted.
    GpuErrorCount "block" {
        source "Documentation/gpu/amdgpu/ras.rst";
        place [block];
        counts [corrected, uncorrected];

        /// The block, as the driver names it: `umc` is the memory's controller.
        block: Fact<Term>,
        /// Errors that were corrected.
        corrected: Fact<u64>,
        /// Errors that could not be corrected.
        uncorrected: Fact<u64>,
    }
}
