use crate::{
    declare::{Parts, record},
    fact::Fact,
    leaf::{
        Bytes, DeviceName, FilesystemKind, Label, Moment, MountOption, MountSource, PathName,
        PercentHundredths, Term, Uuid, codes,
    },
};

record! {
    /// What is mounted, what is swapped to, and what is declared to be.
    Filesystems "filesystems" {
        source "proc_pid_mountinfo(5)";

        /// Filesystems on devices and networks, in the order they were mounted. What the kernel
        /// makes up, and what is in memory alone, comes and goes and is not among them.
        mounts: Parts<Mount>,
        /// Swap devices and files.
        swap_spaces: Parts<SwapSpace>,
        /// What `/etc/fstab` declares.
        fstab_entries: Parts<FstabEntry>,
    }
}

record! {
    /// A mount (proc_pid_mountinfo(5)).
    Mount "mount" {
        source "proc_pid_mountinfo(5)";
        place [mount_point];
        incidental [device];
        refers source -> storage.disks.name | storage.disks.partitions.name | storage.volumes.name | storage.volumes.title | storage.volumes.partitions.name;
        derived [size_bytes, first_mounted_at];

        /// Where it is mounted.
        mount_point: Fact<PathName>,
        /// What is mounted: a device's path, or a server's.
        source: Fact<MountSource>,
        /// The device's number, `major:minor`.
        device: Fact<Term>,
        /// Kind of filesystem.
        filesystem: Fact<FilesystemKind>,
        /// Where it lies.
        class: Fact<MountClass>,
        /// Capacity of the filesystem, where it lies on a device of this machine.
        #[source = "statvfs(3)"]
        size_bytes: Fact<Bytes>,
        /// The path within the filesystem that is mounted: not `/` for a subvolume or a folder of
        /// it that is mounted elsewhere too.
        root: Fact<PathName>,
        /// Whether it refuses to be written.
        read_only: Fact<bool>,
        /// Where the same filesystem was mounted before: this is another view of it (a bind mount, a
        /// subvolume), and no further filesystem.
        first_mounted_at: Fact<PathName>,
        /// Options of this mount.
        options: Fact<Vec<MountOption>>,
        /// Options of the filesystem, the same at each of its mounts; passwords are left out.
        superblock_options: Fact<Vec<MountOption>>,
        /// Whether `/etc/fstab` declares it.
        in_fstab: Fact<bool>,
    }
}

record! {
    /// A swap device or file.
    SwapSpace "swap space" {
        source "proc_swaps(5)";
        place [path];
        refers path -> storage.disks.name | storage.disks.partitions.name | storage.volumes.name | storage.volumes.title | storage.volumes.partitions.name;

        /// The file or device that is swapped to.
        path: Fact<MountSource>,
        /// partition, or file.
        kind: Fact<Term>,
        /// Size in bytes.
        size_bytes: Fact<Bytes>,
        /// Priority: a higher one is used first.
        priority: Fact<i64>,
    }
}

record! {
    /// A line of `/etc/fstab` (fstab(5)).
    FstabEntry "fstab entry" {
        source "fstab(5)";
        place [mount_point];
        incidental [line];
        refers source -> storage.disks.name | storage.disks.partitions.name | storage.volumes.name | storage.volumes.title | storage.volumes.partitions.name;
        derived [state];

        /// The line's number, from 1.
        line: Fact<u64>,
        /// What is to be mounted, where it is a device's path.
        source: Fact<MountSource>,
        /// Its UUID, or its partition's, where it is declared by one.
        uuid: Fact<Uuid>,
        /// Its label, or its partition's name, where it is declared by one.
        label: Fact<Label>,
        /// What is to be mounted, where it is anything else: a server's path, an image.
        other_source: Fact<MountSource>,
        /// Where; `none` for swap.
        mount_point: Fact<PathName>,
        /// Kind of filesystem.
        filesystem: Fact<FilesystemKind>,
        /// Options; passwords are left out.
        options: Fact<Vec<MountOption>>,
        /// What has become of it.
        state: Fact<DeclaredState>,
    }
}

record! {
    /// How full filesystems and swap are.
    FilesystemReadings "filesystem readings" {
        source "statvfs(3)";

        /// Size of all local filesystems in bytes, each device once; datasets of ZFS are not among them, as they share
        /// their pool's space.
        total_bytes: Fact<Bytes>,
        /// Used of them, in bytes.
        used_bytes: Fact<Bytes>,
        /// What is left of them for everybody, in bytes.
        available_bytes: Fact<Bytes>,
        /// Each filesystem, on devices, on networks and in memory.
        usage: Parts<FilesystemUse>,
        /// What the kernel makes up: process and device information, control groups and the like.
        pseudo_mounts: Parts<PseudoMount>,
        /// Each swap device or file.
        swap: Parts<SwapUse>,
        /// What each mounted ext4 filesystem recorded of errors in itself.
        errors: Parts<FilesystemErrors>,
        /// What each mounted btrfs filesystem counted of errors on each of its devices.
        #[source = "Documentation/filesystems/btrfs.rst"]
        member_errors: Parts<MemberErrors>,
        /// Devices that are gone though a filesystem on them is still mounted.
        #[source = "Documentation/ABI/testing/sysfs-dev"]
        gone_devices: Parts<GoneDevice>,
    }
}

record! {
    /// A device that the kernel no longer lists, of a filesystem that is still mounted.
    GoneDevice "device that is gone" {
        source "Documentation/ABI/testing/sysfs-dev";
        place [mount_point];

        /// Its number, `major:minor`.
        number: Fact<Term>,
        /// What the filesystem was mounted from.
        source: Fact<MountSource>,
        /// Where it is mounted, first of several places.
        mount_point: Fact<PathName>,
    }
}

record! {
    /// Errors that a filesystem over several devices counted on one of them.
    MemberErrors "errors of a filesystem's device" {
        source "Documentation/filesystems/btrfs.rst";
        place [filesystem_uuid, number];
        counts [write_errors, read_errors, flush_errors, corruption_errors, generation_errors];

        /// The filesystem's UUID.
        filesystem_uuid: Fact<Uuid>,
        /// The filesystem's number for the device.
        number: Fact<u64>,
        /// Whether the device is missing from the filesystem.
        missing: Fact<bool>,
        /// Writes that failed.
        write_errors: Fact<u64>,
        /// Reads that failed.
        read_errors: Fact<u64>,
        /// Flushes that failed.
        flush_errors: Fact<u64>,
        /// Blocks whose checksum did not fit.
        corruption_errors: Fact<u64>,
        /// Blocks that were older than they should be.
        generation_errors: Fact<u64>,
    }
}

record! {
    /// Errors that a filesystem recorded in itself (`Documentation/ABI/testing/sysfs-fs-ext4`).
    FilesystemErrors "filesystem errors" {
        source "Documentation/ABI/testing/sysfs-fs-ext4";
        names [device];
        refers device -> storage.disks.name | storage.disks.partitions.name | storage.volumes.name | storage.volumes.partitions.name;
        counts [errors];

        /// The device that it lies on.
        device: Fact<DeviceName>,
        /// How many errors were found since it was last checked.
        errors: Fact<u64>,
        /// When the first of them was found.
        first_at: Fact<Moment>,
        /// The kernel's function that found the first.
        first_function: Fact<Term>,
        /// When the last was found.
        last_at: Fact<Moment>,
        /// The kernel's function that found the last.
        last_function: Fact<Term>,
    }
}

record! {
    /// A mount that holds no files of anybody.
    PseudoMount "pseudo filesystem" {
        source "proc_pid_mountinfo(5)";
        place [mount_point];

        /// Where it is mounted.
        mount_point: Fact<PathName>,
        /// Kind of filesystem.
        filesystem: Fact<FilesystemKind>,
    }
}

record! {
    /// How full a filesystem is (statvfs(3)).
    FilesystemUse "filesystem" {
        source "statvfs(3)";
        place [mount_point];
        refers source -> storage.disks.name | storage.disks.partitions.name | storage.volumes.name | storage.volumes.title | storage.volumes.partitions.name;
        reading of filesystems.mounts by mount_point = mount_point;

        /// Where it is mounted.
        mount_point: Fact<PathName>,
        /// What is mounted there.
        #[source = "proc_pid_mountinfo(5)"]
        source: Fact<MountSource>,
        /// Kind of filesystem.
        #[source = "proc_pid_mountinfo(5)"]
        filesystem: Fact<FilesystemKind>,
        /// Where it lies.
        class: Fact<MountClass>,
        /// Size in bytes.
        size_bytes: Fact<Bytes>,
        /// Used, in bytes.
        used_bytes: Fact<Bytes>,
        /// What is left for root, in bytes.
        free_bytes: Fact<Bytes>,
        /// What is left for everybody, in bytes.
        available_bytes: Fact<Bytes>,
        /// Used, of what everybody could use, in hundredths of a percent.
        used_percent_hundredths: Fact<PercentHundredths>,
        /// How many inodes there are, used and free; 0 where they are made as they are needed.
        inodes: Fact<u64>,
        /// Inodes in use.
        inodes_used: Fact<u64>,
    }
}

record! {
    /// How full a swap device or file is.
    SwapUse "swap use" {
        source "proc_swaps(5)";
        place [path];
        reading of filesystems.swap_spaces by path = path;

        /// The file or device that is swapped to.
        path: Fact<MountSource>,
        /// Used, in bytes.
        used_bytes: Fact<Bytes>,
    }
}

codes! {
    /// Where a filesystem lies.
    MountClass {
        /// On a device of this machine.
        Local = "local",
        /// On another filesystem of this machine: its space is that one's.
        Layered = "layered",
        /// On another machine.
        Network = "network",
        /// In memory.
        Memory = "memory",
    }
}

codes! {
    /// What has become of what is declared.
    DeclaredState {
        /// It is mounted, or swapped to.
        Mounted = "mounted",
        /// It is not.
        Missing = "not-mounted",
        /// It is not, and is not to be by itself (`noauto`).
        OnRequest = "not-mounted-on-request-only",
    }
}
