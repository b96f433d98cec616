use crate::report::{
    fact::Fact,
    kinds::{FreeText, Label, Text, Uuid, terms},
    record::{Parts, record},
};

record! {
    /// What is mounted, what is swapped to, and what is declared to be.
    Filesystems "filesystems" {
        /// Filesystems on devices and networks, in the order they were mounted. What the kernel
        /// makes up, and what is in memory alone, comes and goes and is not among them.
        mounts: Parts<Mount>,
        /// Swap devices and files.
        swap_spaces: Parts<SwapSpace>,
        /// What `/etc/fstab` declares.
        declared: Parts<DeclaredMount>,
    }
}

record! {
    /// A mount (proc_pid_mountinfo(5)).
    Mount "mount" {
        place [mount_point];
        names [source, device];

        /// Where it is mounted.
        mount_point: Fact<Text>,
        /// What is mounted: a device's path, or a server's.
        source: Fact<Text>,
        /// The device's number, `major:minor`.
        device: Fact<Text>,
        /// Kind of filesystem.
        kind: Fact<Text>,
        /// Where it lies.
        class: Fact<MountClass>,
        /// The path within the filesystem that is mounted: not `/` for a subvolume or a folder of
        /// it that is mounted elsewhere too.
        root: Fact<Text>,
        /// Whether it refuses to be written.
        read_only: Fact<bool>,
        /// Options of the mount and of the filesystem; passwords are left out.
        options: Fact<Vec<Text>>,
        /// Whether `/etc/fstab` declares it.
        declared: Fact<bool>,
    }
}

record! {
    /// A swap device or file.
    SwapSpace "swap space" {
        place [path];

        /// Its path.
        path: Fact<Text>,
        /// partition, or file.
        kind: Fact<Text>,
        /// Size in bytes.
        size_bytes: Fact<u64>,
        /// Priority: a higher one is used first.
        priority: Fact<i64>,
    }
}

record! {
    /// A line of `/etc/fstab` (fstab(5)).
    DeclaredMount "declared mount" {
        place [mount_point, line];

        /// The line's number, from 1.
        line: Fact<u64>,
        /// What is to be mounted, where it is a device's path.
        source: Fact<Text>,
        /// Its UUID, or its partition's, where it is declared by one.
        uuid: Fact<Uuid>,
        /// Its label, or its partition's name, where it is declared by one.
        label: Fact<Label>,
        /// What is to be mounted, where it is anything else: a server's path, an image.
        other_source: Fact<FreeText>,
        /// Where; `none` for swap.
        mount_point: Fact<Text>,
        /// Kind of filesystem.
        kind: Fact<Text>,
        /// Options; passwords are left out.
        options: Fact<Vec<Text>>,
        /// What has become of it.
        state: Fact<DeclaredState>,
    }
}

record! {
    /// How full filesystems and swap are.
    FilesystemReadings "filesystem readings" {
        /// Size of all local filesystems in bytes, each device once.
        total_bytes: Fact<u64>,
        /// Used of them, in bytes.
        used_bytes: Fact<u64>,
        /// What is left of them for everybody, in bytes.
        available_bytes: Fact<u64>,
        /// Each filesystem, on devices, on networks and in memory.
        usage: Parts<FilesystemUse>,
        /// What the kernel makes up: process and device information, control groups and the like.
        made_up: Parts<MadeUpMount>,
        /// Each swap device or file.
        swap: Parts<SwapUse>,
    }
}

record! {
    /// A mount that holds no files of anybody.
    MadeUpMount "made-up mount" {
        place [mount_point];

        /// Where it is mounted.
        mount_point: Fact<Text>,
        /// Kind of filesystem.
        kind: Fact<Text>,
    }
}

record! {
    /// How full a filesystem is (statvfs(3)).
    FilesystemUse "filesystem use" {
        place [mount_point];

        /// Where it is mounted.
        mount_point: Fact<Text>,
        /// Where it lies.
        class: Fact<MountClass>,
        /// Size in bytes.
        size_bytes: Fact<u64>,
        /// Used, in bytes.
        used_bytes: Fact<u64>,
        /// What is left for root, in bytes.
        free_bytes: Fact<u64>,
        /// What is left for everybody, in bytes.
        available_bytes: Fact<u64>,
        /// Used, of what everybody could use, in hundredths of a percent.
        used_hundredths: Fact<u64>,
        /// Inodes.
        inodes: Fact<u64>,
        /// Inodes in use.
        inodes_used: Fact<u64>,
    }
}

record! {
    /// How full a swap device or file is.
    SwapUse "swap use" {
        place [path];

        /// Its path.
        path: Fact<Text>,
        /// Used, in bytes.
        used_bytes: Fact<u64>,
    }
}

terms! {
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

terms! {
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
