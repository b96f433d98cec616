use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{
        Bytes, Date, DeviceName, FreeText, Label, Lanes, MegabitsPerSecond, Megatransfers,
        Millicelsius, Milliseconds, PathName, PercentHundredths, Rpm, Serial, Term, Uuid,
        WorldWideName, codes,
    },
};

record! {
    /// Disks, their partitions, and optical drives.
    Storage "storage" {
        source "Documentation/ABI/stable/sysfs-block";
        derived [drives, total_bytes];

        /// Drives: what is reached by several paths counts once.
        drives: Fact<u64>,
        /// Size of them all in bytes.
        total_bytes: Fact<Bytes>,
        /// Disks, each path to one that several lead to by itself.
        disks: Parts<Disk>,
        /// Optical drives, with or without a disc.
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
        source "Documentation/ABI/testing/sysfs-nvme";
        identity unique [serial, controller_id];
        place [address];
        names [name];
        refers namespaces -> storage.disks.name;
        refers address -> pci.functions.address;
        derived [namespaces];

        /// The kernel's name for it on this boot.
        name: Fact<DeviceName>,
        /// Where it is attached.
        address: Fact<Term>,
        /// Where its transport reaches it, if it is not on PCI.
        remote: Fact<FreeText>,
        /// How it is reached: pcie, tcp, rdma, fc, loop.
        transport: Fact<Term>,
        /// The model as it gives it.
        model: Fact<Term>,
        /// The serial number of its subsystem.
        serial: Fact<Serial>,
        /// Revision of the firmware that runs on the controller.
        firmware_revision: Fact<Term>,
        /// Its number within the subsystem.
        controller_id: Fact<u64>,
        /// The qualified name of the subsystem that it belongs to.
        subsystem: Fact<Label>,
        /// What it is for: input and output, discovery, administration.
        kind: Fact<Term>,
        /// The NUMA node that it is near to.
        numa_node: Fact<u64>,
        /// Kernel names of the namespaces that are reached through it, paths of multipath among them.
        namespaces: Fact<Vec<DeviceName>>,
    }
}

record! {
    /// A block device that is made of others, of a file or of memory.
    Volume "volume" {
        source "Documentation/ABI/testing/sysfs-block-dm; Documentation/admin-guide/md.rst";
        identity unique [uuid], [kind, title];
        names [name];
        called [title];
        refers backing_devices -> storage.disks.name | storage.disks.partitions.name | storage.volumes.name | storage.volumes.partitions.name;
        refers mount_points -> filesystems.mounts.mount_point;
        derived [mount_points, swapped_to, missing_members, read_only];

        /// The kernel's name for it on this boot.
        name: Fact<DeviceName>,
        /// What made it: a RAID array, the device-mapper (and what it is for), a loop, compressed memory.
        kind: Fact<VolumeKind>,
        /// What it is called: a device-mapper name, a RAID's name, the file behind a loop. A logical
        /// volume's name is its group's and its own with a hyphen between, and a hyphen within
        /// either stands twice.
        title: Fact<Label>,
        /// Its UUID, or the id that device-mapper keeps for it, without the letters that say who
        /// made it.
        uuid: Fact<Uuid>,
        /// Size in bytes.
        size_bytes: Fact<Bytes>,
        /// The array's RAID level: `raid1`, `raid6`.
        level: Fact<Term>,
        /// Members that the RAID should have, spares not counted.
        expected_members: Fact<u64>,
        /// Members that are missing or have failed.
        missing_members: Fact<u64>,
        /// Members of a RAID.
        members: Parts<VolumeMember>,
        /// Kernel names of the devices it rests on.
        backing_devices: Fact<Vec<DeviceName>>,
        /// The group that a logical volume belongs to.
        group: Fact<Label>,
        /// A logical volume's name within its group.
        volume: Fact<Label>,
        /// The form of encryption or verification, as the id that device-mapper keeps says.
        format: Fact<Term>,
        /// Whether it refuses to be written.
        read_only: Fact<bool>,
        /// Partitions on it.
        partitions: Parts<Partition>,
        /// What it holds by its content.
        filesystem: Fact<Term>,
        /// The filesystem's label.
        filesystem_label: Fact<Label>,
        /// The filesystem's UUID.
        filesystem_uuid: Fact<Uuid>,
        /// Where it is mounted.
        mount_points: Fact<Vec<PathName>>,
        /// Whether the kernel swaps to it.
        #[source = "proc_swaps(5)"]
        swapped_to: Fact<bool>,
    }
}

record! {
    /// A member of a RAID (`Documentation/admin-guide/md.rst`).
    VolumeMember "member" {
        source "Documentation/admin-guide/md.rst";
        identity unique [name];
        names [name];
        refers name -> storage.disks.name | storage.disks.partitions.name | storage.volumes.name | storage.volumes.partitions.name;
        derived [role];

        /// The kernel's name for the device.
        name: Fact<DeviceName>,
        /// Its role: the number of its place, or none for a spare.
        role: Fact<Term>,
        /// Its state, as the kernel tells it.
        state: Fact<Term>,
    }
}

record! {
    /// How disks and volumes are doing.
    StorageReadings "storage readings" {
        source "Documentation/ABI/stable/sysfs-block";

        /// What each RAID array is doing.
        volumes: Parts<VolumeReadings>,
        /// What each disk has done since the machine was started.
        disks: Parts<DiskReadings>,
    }
}

record! {
    /// What a disk has done since boot (`Documentation/block/stat.rst`).
    DiskReadings "disk" {
        source "Documentation/block/stat.rst";
        names [name];
        counts [read_bytes, written_bytes, reads, writes, io_time_ms, errors];
        reading of storage.disks by name = name;

        /// The kernel's name for it.
        name: Fact<DeviceName>,
        /// Its state, as the kernel tells it.
        state: Fact<Term>,
        /// Bytes read from it since the machine was started.
        read_bytes: Fact<Bytes>,
        /// Bytes written.
        written_bytes: Fact<Bytes>,
        /// Reads that ended.
        reads: Fact<u64>,
        /// Writes that ended.
        writes: Fact<u64>,
        /// Requests under way.
        in_flight: Fact<u64>,
        /// Time in which any request was under way, in milliseconds.
        io_time_ms: Fact<Milliseconds>,
        /// Requests that ended with an error (SCSI).
        errors: Fact<u64>,
        /// Temperature in thousandths of a degree Celsius.
        temperature_millicelsius: Fact<Millicelsius>,
    }
}

record! {
    /// A volume's state.
    VolumeReadings "volume" {
        source "Documentation/admin-guide/md.rst";
        names [name];
        reading of storage.volumes by name = name;

        /// The kernel's name for it.
        name: Fact<DeviceName>,
        /// A RAID's state, as the kernel tells it: clean, active, inactive.
        state: Fact<Term>,
        /// What a RAID is doing: idle, resync, recover, check, repair.
        action: Fact<Term>,
        /// How far it has come, in hundredths of a percent.
        progress_percent_hundredths: Fact<PercentHundredths>,
    }
}

codes! {
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
        /// A device that another machine keeps a copy of.
        Replicated = "replicated",
        /// A volume of a ZFS pool.
        ZfsVolume = "zfs-volume",
        /// Another device that no hardware stands behind.
        Other = "other",
    }
}

record! {
    /// One disk.
    Disk "disk" {
        source "Documentation/ABI/stable/sysfs-block";
        identity unique [wwn], [text_id], [model, serial], [kind, serial];
        place [address, bay];
        names [name, scsi_address];
        refers holders -> storage.volumes.name;
        refers controller -> pci.functions.address;
        refers multipath_of -> storage.disks.name;
        refers mount_points -> filesystems.mounts.mount_point;
        derived [unpartitioned_bytes, free_spaces, holders, multipath_of, mount_points, swapped_to, link_speed_mts, link_lanes];

        /// The kernel's name for it on this boot.
        name: Fact<DeviceName>,
        /// The kind of drive by its interface.
        kind: Fact<DiskKind>,
        /// The bus that its controller hangs on.
        bus: Fact<DiskBus>,
        /// Where it is attached: the controller's address and the port, target or namespace.
        #[source = "Documentation/ABI/testing/sysfs-bus-pci; Documentation/ABI/testing/sysfs-ata"]
        address: Fact<Term>,
        /// The PCI function of its controller.
        controller: Fact<Term>,
        /// Host, channel, target and logical unit, as the kernel numbers them on this boot.
        #[source = "Documentation/scsi/scsi.rst"]
        scsi_address: Fact<Term>,
        /// The bay that it sits in, as its enclosure or its adapter counts.
        #[source = "Documentation/ABI/testing/sysfs-class-enclosure; SAS Protocol Layer, DISCOVER response"]
        bay: Fact<Term>,
        /// The enclosure that the bay belongs to.
        #[source = "SCSI Enclosure Services 4"]
        enclosure: Fact<WorldWideName>,
        /// The maker as the drive gives it.
        #[source = "SCSI Primary Commands 6, standard INQUIRY data"]
        vendor: Fact<Term>,
        /// The maker's number on an MMC or SD card.
        #[source = "JESD84-B51, CID register; SD Physical Layer Specification, CID register"]
        maker_id: Fact<Term>,
        /// When an MMC or SD card was made: month and year.
        #[source = "JESD84-B51, CID register; SD Physical Layer Specification, CID register"]
        manufacture_date: Fact<Date>,
        /// The model as the drive gives it.
        #[source = "ATA8-ACS, IDENTIFY DEVICE words 27 to 46; SCSI Primary Commands 6, standard INQUIRY data; NVM Express Base Specification, Identify Controller"]
        model: Fact<Term>,
        /// The serial number.
        #[source = "ATA8-ACS, IDENTIFY DEVICE words 10 to 19; SCSI Primary Commands 6, Unit Serial Number page (80h); NVM Express Base Specification, Identify Controller"]
        serial: Fact<Serial>,
        /// World Wide Name, or another id unique in the world.
        #[source = "SCSI Primary Commands 6, Device Identification page (83h); Documentation/ABI/testing/sysfs-nvme"]
        wwn: Fact<WorldWideName>,
        /// The identifier of a drive without such a name: a text that its maker keeps unique (T10, NVMe),
        /// or a card's CID register.
        #[source = "SPC-6 clause 7.7.6; Documentation/ABI/testing/sysfs-bus-mmc"]
        text_id: Fact<WorldWideName>,
        /// The name of a disk in front of it in the list to which it is another path.
        #[source = "Documentation/nvme; SCSI Primary Commands 6, Device Identification page (83h)"]
        multipath_of: Fact<DeviceName>,
        /// The drive's firmware revision.
        #[source = "ATA8-ACS, IDENTIFY DEVICE words 23 to 26; SCSI Primary Commands 6, standard INQUIRY data"]
        firmware_revision: Fact<Term>,
        /// Size in bytes.
        size_bytes: Fact<Bytes>,
        /// Logical sector size in bytes.
        logical_sector_bytes: Fact<Bytes>,
        /// Physical sector size in bytes.
        physical_sector_bytes: Fact<Bytes>,
        /// Length of a transfer that suits it best, in bytes.
        #[source = "SCSI Block Commands 4, Block Limits page (B0h)"]
        optimal_transfer_bytes: Fact<Bytes>,
        /// Whether its size is more than what it has set aside: thin, or resource.
        #[source = "SCSI Block Commands 4, Logical Block Provisioning page (B2h)"]
        provisioning: Fact<Term>,
        /// Whether the kernel takes it for a rotating disk.
        rotating: Fact<bool>,
        /// Turns of the disk in a minute, as the drive gives it; 0 where it has nothing that turns.
        #[source = "SCSI Block Commands 4, Block Device Characteristics page (B1h)"]
        rotation_rpm: Fact<Rpm>,
        /// Nominal width in the trade's inches, as the drive gives it.
        #[source = "SCSI Block Commands 4, Block Device Characteristics page (B1h)"]
        form_factor: Fact<Term>,
        /// Bit rate of its SATA or SAS link as negotiated.
        #[source = "Documentation/ABI/testing/sysfs-ata; Documentation/scsi/scsi_transport_sas.rst"]
        link_speed_mbps: Fact<MegabitsPerSecond>,
        /// The highest bit rate that the SATA or SAS link could have.
        #[source = "Documentation/ABI/testing/sysfs-ata; Documentation/scsi/scsi_transport_sas.rst"]
        max_link_speed_mbps: Fact<MegabitsPerSecond>,
        /// Speed of a lane of its controller's PCI Express link, for NVMe.
        #[source = "Documentation/ABI/testing/sysfs-bus-pci"]
        link_speed_mts: Fact<Megatransfers>,
        /// The highest speed of a lane that the PCI Express link could have.
        #[source = "Documentation/ABI/testing/sysfs-bus-pci"]
        max_link_speed_mts: Fact<Megatransfers>,
        /// Lanes of its controller's PCI Express link, or phys of a wide SAS port.
        #[source = "Documentation/ABI/testing/sysfs-bus-pci"]
        link_lanes: Fact<Lanes>,
        /// The most lanes that the link could have.
        #[source = "Documentation/ABI/testing/sysfs-bus-pci"]
        max_link_lanes: Fact<Lanes>,
        /// Whether its medium can be taken out.
        removable: Fact<bool>,
        /// Whether it refuses to be written.
        read_only: Fact<bool>,
        /// How writes are cached: write back, write through.
        write_cache: Fact<Term>,
        /// Whether it can be told what it need not keep.
        discard: Fact<bool>,
        /// Zone model: none, host-aware, host-managed.
        zone_model: Fact<Term>,
        /// What orders requests to it.
        scheduler: Fact<Term>,
        /// Requests that it takes at a time.
        queue_depth: Fact<u64>,
        /// What carries its commands: pcie, tcp, rdma, fc for NVMe; sas, iscsi, fc for SCSI.
        #[source = "Documentation/ABI/testing/sysfs-nvme"]
        transport: Fact<Term>,
        /// The NUMA node that its controller is near to.
        numa_node: Fact<u64>,
        /// Kernel names of the volumes that are made of the whole disk.
        holders: Fact<Vec<DeviceName>>,
        /// Areas of an MMC card beside the main one, from which a machine can start.
        boot_areas: Parts<BootArea>,
        /// Kind of partition table (`gpt`, `dos`).
        #[source = "the udev database"]
        partition_table: Fact<Term>,
        /// The partition table's own id.
        #[source = "the udev database"]
        partition_table_uuid: Fact<Uuid>,
        /// What no partition takes, between them and at the end, in bytes.
        unpartitioned_bytes: Fact<Bytes>,
        /// Where that is: between partitions and at the end, of a mebibyte or more.
        free_spaces: Parts<FreeSpace>,
        /// The filesystem or other content on the whole disk.
        #[source = "the udev database"]
        filesystem: Fact<Term>,
        /// That filesystem's label.
        #[source = "the udev database"]
        filesystem_label: Fact<Label>,
        /// That filesystem's UUID.
        #[source = "the udev database"]
        filesystem_uuid: Fact<Uuid>,
        /// Where it is mounted.
        #[source = "proc_pid_mountinfo(5)"]
        mount_points: Fact<Vec<PathName>>,
        /// Whether the kernel swaps to it.
        #[source = "proc_swaps(5)"]
        swapped_to: Fact<bool>,
        /// Its partitions, in the order they lie on the disk.
        partitions: Parts<Partition>,
    }
}

record! {
    /// Space on a disk that no partition takes.
    FreeSpace "free space" {
        source "Documentation/ABI/stable/sysfs-block";
        place [start_bytes];

        /// Where it begins, in bytes from the disk's beginning.
        start_bytes: Fact<Bytes>,
        /// Size in bytes.
        size_bytes: Fact<Bytes>,
    }
}

record! {
    /// An area of an MMC card from which a machine can start.
    BootArea "boot area" {
        source "Documentation/driver-api/mmc/mmc-dev-parts.rst";
        place [name];

        /// Its name, behind the card's.
        name: Fact<DeviceName>,
        /// Size in bytes.
        size_bytes: Fact<Bytes>,
        /// Whether it refuses to be written.
        read_only: Fact<bool>,
    }
}

record! {
    /// One partition.
    Partition "partition" {
        source "Documentation/ABI/stable/sysfs-block";
        identity unique [partuuid];
        place [number];
        names [name];
        called [label, filesystem_label];
        refers holders -> storage.volumes.name;
        refers mount_points -> filesystems.mounts.mount_point;
        derived [aligned, holders, mount_points, swapped_to, type_name, overlaps];

        /// The kernel's name for it on this boot.
        name: Fact<DeviceName>,
        /// Its number in the partition table.
        number: Fact<u64>,
        /// Where it begins, in bytes from the disk's beginning.
        start_bytes: Fact<Bytes>,
        /// Size in bytes; that of an extended partition is the partition table's, not the few sectors
        /// that the kernel shows of it.
        size_bytes: Fact<Bytes>,
        /// The partition's UUID, lower case.
        #[source = "UEFI Specification clause 5.3.3, as udev has it"]
        partuuid: Fact<Uuid>,
        /// What it is for, as the partition table says: a UUID (GPT) or a number (DOS).
        #[source = "UEFI Specification clause 5.3.3, as udev has it"]
        type_id: Fact<Term>,
        /// The words for that.
        #[source = "UEFI Specification clause 5.3.3, Discoverable Partitions Specification"]
        type_name: Fact<Term>,
        /// The bits that the partition table sets beside the type, by their names.
        #[source = "UEFI Specification clause 5.3.3, as udev has it"]
        flags: Fact<Vec<Term>>,
        /// The partition in front of it into which it begins; logical partitions lie in an extended
        /// one and overlap nothing by that.
        overlaps: Fact<DeviceName>,
        /// Whether it begins at a multiple of a mebibyte, which suits every drive.
        aligned: Fact<bool>,
        /// Kernel names of the volumes that are made of it.
        holders: Fact<Vec<DeviceName>>,
        /// The partition's own name (GPT).
        #[source = "UEFI Specification clause 5.3.3, as the kernel announces it"]
        label: Fact<Label>,
        /// What the partition holds by its content.
        #[source = "the udev database"]
        filesystem: Fact<Term>,
        /// The filesystem's label.
        #[source = "the udev database"]
        filesystem_label: Fact<Label>,
        /// The filesystem's UUID.
        #[source = "the udev database"]
        filesystem_uuid: Fact<Uuid>,
        /// Where it is mounted.
        #[source = "proc_pid_mountinfo(5)"]
        mount_points: Fact<Vec<PathName>>,
        /// Whether the kernel swaps to it.
        #[source = "proc_swaps(5)"]
        swapped_to: Fact<bool>,
    }
}

record! {
    /// One optical drive.
    OpticalDrive "optical drive" {
        source "Documentation/ABI/stable/sysfs-block";
        identity unique [model, serial];
        place [address];
        names [name];
        refers disc_mount_points -> filesystems.mounts.mount_point;
        derived [disc_mount_points];

        /// The kernel's name for it on this boot.
        name: Fact<DeviceName>,
        /// Where it is attached.
        address: Fact<Term>,
        /// The maker as the drive gives it; drives on ATA give it in their model.
        vendor: Fact<Term>,
        /// The model as the drive gives it.
        model: Fact<Term>,
        /// The serial number.
        serial: Fact<Serial>,
        /// The drive's firmware revision.
        firmware_revision: Fact<Term>,
        /// Size of the disc in it, in bytes.
        disc_size_bytes: Fact<Bytes>,
        /// The filesystem on the disc.
        #[source = "the udev database"]
        disc_filesystem: Fact<Term>,
        /// The label of the filesystem on the disc.
        #[source = "the udev database"]
        disc_label: Fact<Label>,
        /// The UUID of the filesystem on the disc; that of an ISO 9660 one is the time it was made.
        #[source = "the udev database"]
        disc_uuid: Fact<Uuid>,
        /// Where the disc is mounted.
        #[source = "proc_pid_mountinfo(5)"]
        disc_mount_points: Fact<Vec<PathName>>,
        /// What it can do, as the kernel lists it.
        capabilities: Fact<Vec<Term>>,
        /// Speed, as a multiple of that of an audio disc.
        speed: Fact<u64>,
    }
}

codes! {
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
        /// Volume of IBM Z's channel-attached storage (direct access storage device).
        Dasd = "dasd",
        /// Floppy disk.
        Floppy = "floppy",
        /// Network block device.
        Network = "network",
        /// Any other.
        Other = "other",
    }
}

codes! {
    /// The bus that a drive's controller hangs on.
    DiskBus {
        /// PCI.
        Pci = "pci",
        /// USB.
        Usb = "usb",
        /// Devices that the firmware or a device tree describes.
        Platform = "platform",
        /// The channel subsystem of IBM Z.
        Channel = "channel",
        /// The virtual bus of Power partitions.
        PowerVirtual = "vio",
        /// No hardware.
        Virtual = "virtual",
        /// Any other.
        Other = "other",
    }
}
