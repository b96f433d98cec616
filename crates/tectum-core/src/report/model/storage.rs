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
    /// How disks and volumes are doing.
    StorageReadings "storage readings" {
        /// Each RAID.
        volumes: Parts<VolumeReadings>,
        /// Each disk.
        disks: Parts<DiskReadings>,
    }
}

record! {
    /// What a disk has done since boot (`Documentation/block/stat.rst`).
    DiskReadings "disk" {
        names [name];

        /// The kernel's name for it.
        name: Fact<Text>,
        /// Its state, as the kernel tells it.
        state: Fact<Text>,
        /// Bytes read.
        read_bytes: Fact<u64>,
        /// Bytes written.
        written_bytes: Fact<u64>,
        /// Reads that ended.
        reads: Fact<u64>,
        /// Writes that ended.
        writes: Fact<u64>,
        /// Requests under way.
        in_flight: Fact<u64>,
        /// Time in which any request was under way, in milliseconds.
        busy_ms: Fact<u64>,
        /// Requests that ended with an error (SCSI).
        errors: Fact<u64>,
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
        derived [unpartitioned_bytes];

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
        /// Turns of the disk in a minute, as the drive gives it; 0 where it has nothing that turns.
        rotation_rpm: Fact<u64>,
        /// Nominal width in the trade's inches, as the drive gives it.
        form_factor: Fact<Text>,
        /// Speed of its link as negotiated.
        link: Fact<Text>,
        /// The best speed that the link could have.
        link_at_best: Fact<Text>,
        /// Whether its medium can be taken out.
        removable: Fact<bool>,
        /// Whether it refuses to be written.
        read_only: Fact<bool>,
        /// How writes are cached: write back, write through.
        write_cache: Fact<Text>,
        /// Whether it can be told what it need not keep.
        discard: Fact<bool>,
        /// Zone model: none, host-aware, host-managed.
        zones: Fact<Text>,
        /// What orders requests to it.
        scheduler: Fact<Text>,
        /// Requests that it takes at a time.
        queue_depth: Fact<u64>,
        /// How an NVMe controller is reached: pcie, tcp, rdma, fc.
        transport: Fact<Text>,
        /// The NUMA node that its controller is near to.
        numa_node: Fact<u64>,
        /// Kind of partition table (`gpt`, `dos`).
        partition_table: Fact<Text>,
        /// The partition table's own id.
        partition_table_uuid: Fact<Uuid>,
        /// What no partition takes, between them and at the end, in bytes.
        unpartitioned_bytes: Fact<u64>,
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
        derived [aligned];

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
        /// What it is for, as the partition table says: a UUID (GPT) or a number (DOS).
        type_id: Fact<Text>,
        /// Whether it begins at a multiple of a mebibyte, which suits every drive.
        aligned: Fact<bool>,
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
        /// What it can do, as the kernel lists it.
        can: Fact<Vec<Text>>,
        /// Speed, as a multiple of that of an audio disc.
        speed: Fact<u64>,
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
