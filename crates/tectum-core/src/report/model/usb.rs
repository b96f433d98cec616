use crate::report::{
    fact::Fact,
    kinds::{Serial, Text},
    record::{Parts, record},
};

record! {
    /// The Universal Serial Bus.
    Usb "usb" {
        derived [names_by];

        /// Root hubs, hubs and devices, each behind the hub that it hangs on.
        devices: Parts<UsbDevice>,
        /// The list that their names are from, with its version.
        names_by: Fact<Text>,
    }
}

record! {
    /// A USB device (`Documentation/ABI/testing/sysfs-bus-usb`, USB 2.0 clause 9.6).
    UsbDevice "USB device" {
        identity [vendor_id, product_id, serial];
        place [path];
        derived [vendor, product];

        /// The bus and the ports on the way to it: `2-1.4`; `usb2` for a root hub.
        path: Fact<Text>,
        /// The path of the hub that it hangs on.
        hub: Fact<Text>,
        /// The controller of a root hub.
        controller: Fact<Text>,
        /// The vendor's number, four hexadecimal digits.
        vendor_id: Fact<Text>,
        /// The vendor's name by the list of ids.
        vendor: Fact<Text>,
        /// The product's number, four hexadecimal digits.
        product_id: Fact<Text>,
        /// The product's name by the list of ids.
        product: Fact<Text>,
        /// What the device itself says that its maker is.
        own_manufacturer: Fact<Text>,
        /// What the device itself says that it is.
        own_product: Fact<Text>,
        /// The serial number that the device gives.
        serial: Fact<Serial>,
        /// The class in words.
        class: Fact<Text>,
        /// The version of USB that it follows.
        usb_version: Fact<Text>,
        /// The device's release.
        release: Fact<Text>,
        /// The speed it runs at, in megabits a second.
        speed_mbps: Fact<u64>,
        /// The most that it draws from the bus, in milliamperes.
        maximum_ma: Fact<u64>,
        /// removable, fixed, as the firmware or the hub says.
        removable: Fact<Text>,
        /// Ports of a hub.
        ports: Fact<u64>,
        /// Its interfaces.
        interfaces: Parts<UsbInterface>,
    }
}

record! {
    /// An interface of a USB device.
    UsbInterface "interface" {
        place [number];

        /// Its number.
        number: Fact<u64>,
        /// The class in words.
        class: Fact<Text>,
        /// What the device calls it.
        name: Fact<Text>,
        /// The driver bound to it.
        driver: Fact<Text>,
    }
}
