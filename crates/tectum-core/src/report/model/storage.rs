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
        /// What is made of disks, partitions, files or memory: RAID, volumes, encryption, loops.
        volumes: Parts<Volume>,
    }
}

record! {
    /// A block device that is made of others, of a file or of memory.
    Volume "volume" {
        identity [uuid];
        place [title];
        names [name, rests_on];

        /// The kernel's name for it on this boot.
        name: Fact<Text>,
        /// What it is.
        kind: Fact<VolumeKind>,
        /// What it is called: a device-mapper name, a RAID's name, the file behind a loop. A logical
        /// volume's name is its group's and its own with a hyphen between, and a hyphen within
        /// either stands twice.
        title: Fact<Label>,
        /// Its UUID, or the id that device-mapper keeps for it, without the letters that say who
        /// made it.
        uuid: Fact<Uuid>,
        /// Size in bytes.
        size_bytes: Fact<u64>,
        /// RAID level.
        level: Fact<Text>,
        /// Members that the RAID should have, spares not counted.
        expected_members: Fact<u64>,
        /// Members that are missing or have failed.
        missing_members: Fact<u64>,
        /// Members of a RAID.
        members: Parts<VolumeMember>,
        /// Kernel names of the devices it rests on.
        rests_on: Fact<Vec<Text>>,
        /// Whether it refuses to be written.
        read_only: Fact<bool>,
        /// What it holds by its content.
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
    /// A member of a RAID (`Documentation/admin-guide/md.rst`).
    VolumeMember "member" {
        names [name];

        /// The kernel's name for the device.
        name: Fact<Text>,
        /// Its role: the number of its place, or none for a spare.
        role: Fact<Text>,
        /// Its state, as the kernel tells it.
        state: Fact<Text>,
    }
}

record! {
    /// Volumes' states.
    StorageReadings "storage readings" {
        /// Each volume.
        volumes: Parts<VolumeReadings>,
    }
}

record! {
    /// A volume's state.
    VolumeReadings "volume" {
        names [name];

        /// The kernel's name for it.
        name: Fact<Text>,
        /// A RAID's state, as the kernel tells it: clean, active, inactive.
        state: Fact<Text>,
        /// What a RAID is doing: idle, resync, recover, check, repair.
        action: Fact<Text>,
        /// How far it has come, in hundredths of a percent.
        progress_hundredths: Fact<u64>,
    }
}

terms! {
    /// What a volume is.
    VolumeKind {
        /// RAID by the kernel.
        Raid = "raid",
        /// Logical volume.
        Logical = "logical-volume",
        /// Encrypted device.
        Encrypted = "encrypted",
        /// Several paths to one disk.
        Multipath = "multipath",
        /// A partition that device-mapper made.
        Partition = "partition-mapping",
        /// Another device of device-mapper.
        Mapped = "mapped",
        /// A file as a device.
        Loop = "loop",
        /// Compressed memory.
        Zram = "zram",
        /// A cache before a slower device.
        Bcache = "bcache",
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
