use crate::report::{
    fact::Fact,
    kinds::{Label, Serial, Text, Uuid, WorldWideName, terms},
    record::{Parts, record},
};

record! {
    /// Disks, their partitions, and optical drives.
    Storage "storage" {
        /// Disks.
        disks: Parts<Disk>,
        /// Optical drives.
        optical_drives: Parts<OpticalDrive>,
    }
}

record! {
    /// One disk.
    Disk "disk" {
        identity [wwn], [model, serial], [kind, serial];
        place [address];
        names [name];

        /// The kernel's name for it on this boot.
        name: Fact<Text>,
        /// The kind of drive by its interface.
        kind: Fact<DiskKind>,
        /// The bus that its controller hangs on.
        bus: Fact<DiskBus>,
        /// Where it is attached: the controller's address and the port, target or namespace.
        address: Fact<Text>,
        /// The maker as the drive gives it.
        vendor: Fact<Text>,
        /// The model as the drive gives it.
        model: Fact<Text>,
        /// The serial number.
        serial: Fact<Serial>,
        /// World Wide Name, or another id unique in the world.
        wwn: Fact<WorldWideName>,
        /// The drive's firmware revision.
        firmware_revision: Fact<Text>,
        /// Size in bytes.
        size_bytes: Fact<u64>,
        /// Logical sector size in bytes.
        logical_sector_bytes: Fact<u64>,
        /// Physical sector size in bytes.
        physical_sector_bytes: Fact<u64>,
        /// Whether the kernel takes it for a rotating disk.
        rotational: Fact<bool>,
        /// Whether its medium can be taken out.
        removable: Fact<bool>,
        /// Whether it refuses to be written.
        read_only: Fact<bool>,
        /// Kind of partition table (`gpt`, `dos`).
        partition_table: Fact<Text>,
        /// The filesystem or other content on the whole disk.
        filesystem: Fact<Text>,
        /// That filesystem's label.
        filesystem_label: Fact<Label>,
        /// That filesystem's UUID.
        filesystem_uuid: Fact<Uuid>,
        /// Where it is mounted.
        mount_points: Fact<Vec<Text>>,
        /// Its partitions, in the order they lie on the disk.
        partitions: Parts<Partition>,
    }
}

record! {
    /// One partition.
    Partition "partition" {
        identity [partuuid];
        place [number];
        names [name];

        /// The kernel's name for it on this boot.
        name: Fact<Text>,
        /// Its number in the partition table.
        number: Fact<u64>,
        /// Where it begins, in bytes from the disk's beginning.
        start_bytes: Fact<u64>,
        /// Size in bytes.
        size_bytes: Fact<u64>,
        /// The partition's UUID, lower case.
        partuuid: Fact<Uuid>,
        /// The partition's own name (GPT).
        label: Fact<Label>,
        /// What the partition holds by its content.
        filesystem: Fact<Text>,
        /// The filesystem's label.
        filesystem_label: Fact<Label>,
        /// The filesystem's UUID.
        filesystem_uuid: Fact<Uuid>,
        /// Where it is mounted.
        mount_points: Fact<Vec<Text>>,
    }
}

record! {
    /// One optical drive.
    OpticalDrive "optical drive" {
        identity [model, serial];
        place [address];
        names [name];

        /// The kernel's name for it on this boot.
        name: Fact<Text>,
        /// Where it is attached.
        address: Fact<Text>,
        /// The maker as the drive gives it.
        vendor: Fact<Text>,
        /// The model as the drive gives it.
        model: Fact<Text>,
        /// The serial number.
        serial: Fact<Serial>,
        /// The drive's firmware revision.
        firmware_revision: Fact<Text>,
    }
}

terms! {
    /// Kind of drive by its interface.
    DiskKind {
        /// NVM Express.
        Nvme = "nvme",
        /// ATA, serial or parallel.
        Ata = "ata",
        /// SCSI, serial-attached or not.
        Scsi = "scsi",
        /// USB mass storage.
        Usb = "usb",
        /// Virtio block device.
        Virtio = "virtio",
        /// MMC or SD card.
        Mmc = "mmc",
        /// Xen virtual block device.
        Xen = "xen",
        /// Persistent memory.
        PersistentMemory = "persistent-memory",
        /// Floppy disk.
        Floppy = "floppy",
        /// Network block device.
        Network = "network",
        /// Any other.
        Other = "other",
    }
}

terms! {
    /// The bus that a drive's controller hangs on.
    DiskBus {
        /// PCI.
        Pci = "pci",
        /// USB.
        Usb = "usb",
        /// Devices that the firmware or a device tree describes.
        Platform = "platform",
        /// No hardware.
        Virtual = "virtual",
        /// Any other.
        Other = "other",
    }
}
