use crate::report::{
    fact::Fact,
    kinds::{FreeText, Label, Serial, Text, Uuid, WorldWideName, terms},
    record::{Parts, record},
};

record! {
    /// Disks, their partitions, and optical drives.
    Storage "storage" {
        derived [drives, total_bytes];

        /// Drives: what is reached by several paths counts once.
        drives: Fact<u64>,
        /// Size of them all in bytes.
        total_bytes: Fact<u64>,
        /// Disks.
        disks: Parts<Disk>,
        /// Optical drives.
        optical_drives: Parts<OpticalDrive>,
        /// What is made of disks, partitions, files or memory: RAID, volumes, encryption, loops.
        volumes: Parts<Volume>,
        /// NVMe controllers, each of the paths to a subsystem on its own.
        nvme_controllers: Parts<NvmeController>,
    }
}

record! {
    /// An NVMe controller (`Documentation/ABI/testing/sysfs-nvme`).
    NvmeController "NVMe controller" {
        identity [serial, controller_id];
        place [address];
        names [name, namespaces];

        /// The kernel's name for it on this boot.
        name: Fact<Text>,
        /// Where it is attached.
        address: Fact<Text>,
        /// Where its transport reaches it, if it is not on PCI.
        remote: Fact<FreeText>,
        /// How it is reached: pcie, tcp, rdma, fc, loop.
        transport: Fact<Text>,
        /// The model as it gives it.
        model: Fact<Text>,
        /// The serial number of its subsystem.
        serial: Fact<Serial>,
        /// Firmware revision.
        firmware_revision: Fact<Text>,
        /// Its number within the subsystem.
        controller_id: Fact<u64>,
        /// The qualified name of the subsystem that it belongs to.
        subsystem: Fact<Label>,
        /// What it is for: input and output, discovery, administration.
        kind: Fact<Text>,
        /// The NUMA node that it is near to.
        numa_node: Fact<u64>,
        /// Kernel names of the namespaces that are reached through it, paths of multipath among them.
        namespaces: Fact<Vec<Text>>,
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
        /// The group that a logical volume belongs to.
        group: Fact<Label>,
        /// A logical volume's name within its group.
        volume: Fact<Label>,
        /// The form of encryption or verification, as the id that device-mapper keeps says.
        form: Fact<Text>,
        /// Whether it refuses to be written.
        read_only: Fact<bool>,
        /// Partitions on it.
        partitions: Parts<Partition>,
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
        /// Temperature in thousandths of a degree Celsius.
        temperature_millicelsius: Fact<i64>,
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
        /// Storage that volumes take from as they fill.
        ThinPool = "thin-pool",
        /// What a snapshot has kept of its origin.
        Snapshot = "snapshot",
        /// What a cache, a mirror or a pool is made of: its data, its metadata, its legs.
        Component = "volume-component",
        /// A device whose every sector has a checksum.
        Integrity = "integrity",
        /// A device that is checked against a tree of hashes.
        Verity = "verity",
        /// Another device of device-mapper.
        Mapped = "mapped",
        /// A file as a device.
        Loop = "loop",
        /// Compressed memory.
        Zram = "zram",
        /// A cache before a slower device.
        Bcache = "bcache",
        /// Memory as a disk.
        RamDisk = "ram-disk",
        /// Another device that no hardware stands behind.
        Other = "other",
    }
}

record! {
    /// One disk.
    Disk "disk" {
        identity [wwn], [model, serial], [kind, serial];
        place [address, bay];
        names [name, scsi_address, held_by, path_to];
        derived [unpartitioned_bytes, free_spaces];

        /// The kernel's name for it on this boot.
        name: Fact<Text>,
        /// The kind of drive by its interface.
        kind: Fact<DiskKind>,
        /// The bus that its controller hangs on.
        bus: Fact<DiskBus>,
        /// Where it is attached: the controller's address and the port, target or namespace.
        address: Fact<Text>,
        /// Host, channel, target and logical unit, as the kernel numbers them on this boot.
        scsi_address: Fact<Text>,
        /// The bay that it sits in, as its enclosure or its adapter counts.
        bay: Fact<Text>,
        /// The enclosure that the bay belongs to.
        enclosure: Fact<WorldWideName>,
        /// The maker as the drive gives it.
        vendor: Fact<Text>,
        /// The maker's number on an MMC or SD card.
        maker_id: Fact<Text>,
        /// When an MMC or SD card was made: month and year.
        made: Fact<Text>,
        /// The model as the drive gives it.
        model: Fact<Text>,
        /// The serial number.
        serial: Fact<Serial>,
        /// World Wide Name, or another id unique in the world.
        wwn: Fact<WorldWideName>,
        /// The name of a disk in front of it in the list to which it is another path.
        path_to: Fact<Text>,
        /// The drive's firmware revision.
        firmware_revision: Fact<Text>,
        /// Size in bytes.
        size_bytes: Fact<u64>,
        /// Logical sector size in bytes.
        logical_sector_bytes: Fact<u64>,
        /// Physical sector size in bytes.
        physical_sector_bytes: Fact<u64>,
        /// Length of a transfer that suits it best, in bytes.
        optimal_transfer_bytes: Fact<u64>,
        /// Whether its size is more than what it has set aside: thin, or resource.
        provisioning: Fact<Text>,
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
        /// Kernel names of the volumes that are made of the whole disk.
        held_by: Fact<Vec<Text>>,
        /// Areas of an MMC card beside the main one, from which a machine can start.
        boot_areas: Parts<BootArea>,
        /// Kind of partition table (`gpt`, `dos`).
        partition_table: Fact<Text>,
        /// The partition table's own id.
        partition_table_uuid: Fact<Uuid>,
        /// What no partition takes, between them and at the end, in bytes.
        unpartitioned_bytes: Fact<u64>,
        /// Where that is: between partitions and at the end, of a mebibyte or more.
        free_spaces: Parts<FreeSpace>,
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
    /// Space on a disk that no partition takes.
    FreeSpace "free space" {
        place [start_bytes];

        /// Where it begins, in bytes from the disk's beginning.
        start_bytes: Fact<u64>,
        /// Size in bytes.
        size_bytes: Fact<u64>,
    }
}

record! {
    /// An area of an MMC card from which a machine can start.
    BootArea "boot area" {
        place [name];

        /// Its name, behind the card's.
        name: Fact<Text>,
        /// Size in bytes.
        size_bytes: Fact<u64>,
        /// Whether it refuses to be written.
        read_only: Fact<bool>,
    }
}

record! {
    /// One partition.
    Partition "partition" {
        identity [partuuid];
        place [number];
        names [name, held_by];
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
        /// Kernel names of the volumes that are made of it.
        held_by: Fact<Vec<Text>>,
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
