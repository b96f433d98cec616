use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{KilobitsPerSecond, Milliamperes, Serial, Term},
};

record! {
    /// The Universal Serial Bus.
    Usb "usb" {
        source "Documentation/ABI/testing/sysfs-bus-usb";
        derived [id_list_version];

        /// Root hubs, hubs and devices, each behind the hub that it hangs on.
        devices: Parts<UsbDevice>,
        /// The list that their names are from, with its version.
        id_list_version: Fact<Term>,
    }
}

record! {
    /// A USB device (`Documentation/ABI/testing/sysfs-bus-usb`, USB 2.0 clause 9.6).
    UsbDevice "USB device" {
        source "Documentation/ABI/testing/sysfs-bus-usb; USB 2.0 clause 9.6";
        identity unique [vendor_id, product_id, serial];
        identity kind [vendor_id, product_id];
        place [path];
        refers hub -> usb.devices.path;
        refers controller -> pci.functions.address;
        derived [vendor, product, hub];

        /// The bus and the ports on the way to it: `2-1.4`; `usb2` for a root hub.
        path: Fact<Term>,
        /// The path of the hub that it hangs on.
        hub: Fact<Term>,
        /// The controller of a root hub.
        controller: Fact<Term>,
        /// The vendor's number, four hexadecimal digits.
        vendor_id: Fact<Term>,
        /// The vendor's name by the list of ids.
        vendor: Fact<Term>,
        /// The product's number, four hexadecimal digits.
        product_id: Fact<Term>,
        /// The product's name by the list of ids.
        product: Fact<Term>,
        /// What the device itself says that its maker is.
        manufacturer_string: Fact<Term>,
        /// What the device itself says that it is.
        product_string: Fact<Term>,
        /// The serial number that the device gives.
        serial: Fact<Serial>,
        /// The class in words.
        class: Fact<Term>,
        /// The version of USB that it follows.
        usb_version: Fact<Term>,
        /// The device's release.
        release: Fact<Term>,
        /// The speed it runs at: 1500 is low speed, 12000 full, 480000 high.
        speed_kbps: Fact<KilobitsPerSecond>,
        /// The most that it draws from the bus, in milliamperes.
        max_power_ma: Fact<Milliamperes>,
        /// removable, fixed, as the firmware or the hub says.
        removable: Fact<Term>,
        /// Ports of a hub.
        ports: Fact<u64>,
        /// What it offers: each interface of its active configuration.
        interfaces: Parts<UsbInterface>,
    }
}

record! {
    /// An interface of a USB device.
    UsbInterface "interface" {
        source "Documentation/ABI/testing/sysfs-bus-usb; USB 2.0 clause 9.6";
        place [number];

        /// The interface's number within the configuration.
        number: Fact<u64>,
        /// The class in words.
        class: Fact<Term>,
        /// What the device calls it.
        name: Fact<Term>,
        /// The driver bound to it.
        driver: Fact<Term>,
    }
}

impl UsbDevice {
    /// Whether it is what a bus begins at: the controller's own hub, which the kernel drives itself.
    pub fn is_root(&self) -> bool {
        self.path.value().is_some_and(|path| path.starts_with("usb"))
    }
}
