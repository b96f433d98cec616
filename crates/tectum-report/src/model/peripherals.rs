use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{DeviceName, Label, Term, codes},
};

record! {
    /// Devices of other kinds.
    Peripherals "peripherals" {
        source "Documentation/driver-api/driver-model/device.rst";

        /// Each device, kind by kind.
        devices: Parts<Peripheral>,
    }
}

record! {
    /// A device of another kind.
    Peripheral "peripheral" {
        source "Documentation/driver-api/driver-model/device.rst";
        place [kind, attached_to, description, given_name];
        names [name];
        refers attached_to -> pci.functions.address | usb.devices.path;

        /// The kind of device, by the kernel's class.
        kind: Fact<PeripheralKind>,
        /// The kernel's name for it.
        name: Fact<DeviceName>,
        /// What its maker or driver calls it.
        description: Fact<Term>,
        /// What it calls itself, where its user may have named it: an input device, a Fibre Channel host, whose driver
        /// writes the computer's name there, or a precision clock, which many drivers call by its port's MAC address.
        given_name: Fact<Label>,
        /// The driver that is bound to it.
        driver: Fact<Term>,
        /// Where it is attached: a PCI function, a USB device, a platform device.
        attached_to: Fact<Term>,
    }
}

codes! {
    /// Other kinds of device.
    PeripheralKind {
        /// Sound.
        Sound = "sound",
        /// Keyboards, pointers, buttons.
        Input = "input",
        /// Printers.
        Printer = "printer",
        /// Serial ports.
        SerialPort = "serial-port",
        /// Watchdogs.
        Watchdog = "watchdog",
        /// Clocks that go on while the machine is off.
        Clock = "clock",
        /// Clocks for the precision time protocol.
        PrecisionClock = "precision-clock",
        /// Management controllers.
        ManagementController = "management-controller",
        /// Trusted platform modules.
        Tpm = "tpm",
        /// Hosts of MMC and SD cards.
        CardReader = "card-reader",
        /// Tape drives.
        Tape = "tape",
        /// Media changers.
        MediaChanger = "media-changer",
        /// InfiniBand.
        Infiniband = "infiniband",
        /// Fibre Channel hosts.
        FibreChannel = "fibre-channel",
        /// SCSI hosts.
        ScsiHost = "scsi-host",
        /// Cameras and video capture.
        Video = "video",
        /// Bluetooth adapters.
        Bluetooth = "bluetooth",
    }
}
