use crate::report::{
    fact::Fact,
    kinds::{Text, terms},
    record::{Parts, record},
};

record! {
    /// Devices of other kinds.
    Peripherals "peripherals" {
        /// Each device, kind by kind.
        devices: Parts<Peripheral>,
    }
}

record! {
    /// A device of another kind.
    Peripheral "peripheral" {
        place [kind, attached_to, description];
        names [name];

        /// What it is.
        kind: Fact<PeripheralKind>,
        /// The kernel's name for it.
        name: Fact<Text>,
        /// What it calls itself.
        description: Fact<Text>,
        /// The driver.
        driver: Fact<Text>,
        /// Where it is attached: a PCI function, a USB device, a platform device.
        attached_to: Fact<Text>,
    }
}

terms! {
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
