//! Other words for what the model holds: who asks for `ram` is led to `memory`.

/// What people call things, and what they are called here. A word may stand for a section and for a field.
pub(crate) const ALSO_CALLED: [(&str, &[&str]); 45] = [
    ("baseboard", &["platform", "boards"]),
    ("battery", &["power", "batteries"]),
    ("bios", &["firmware"]),
    ("block", &["storage"]),
    ("board", &["platform", "boards"]),
    ("chassis", &["platform"]),
    ("dimm", &["memory", "modules"]),
    ("dimms", &["memory", "modules"]),
    ("disk", &["storage", "disks"]),
    ("disks", &["storage"]),
    ("distribution", &["os"]),
    ("distro", &["os"]),
    ("dmi", &["platform"]),
    ("drive", &["storage", "disks"]),
    ("drives", &["storage", "disks"]),
    ("efi", &["firmware"]),
    ("ethernet", &["network"]),
    ("fans", &["sensors"]),
    ("fs", &["filesystems"]),
    ("graphics", &["gpu"]),
    ("hdd", &["storage", "disks"]),
    ("kernel", &["os", "kernel_release"]),
    ("lvm", &["storage"]),
    ("mac", &["address"]),
    ("mainboard", &["platform", "boards"]),
    ("motherboard", &["platform", "boards"]),
    ("mount", &["filesystems", "mounts"]),
    ("mounts", &["filesystems"]),
    ("nic", &["network", "interfaces"]),
    ("nics", &["network", "interfaces"]),
    ("nvme", &["storage", "disks"]),
    ("partition", &["storage", "partitions"]),
    ("partitions", &["storage"]),
    ("processor", &["cpu"]),
    ("processors", &["cpu"]),
    ("psu", &["platform", "power_supplies"]),
    ("raid", &["storage"]),
    ("ram", &["memory", "modules"]),
    ("serial_number", &["serial"]),
    ("smbios", &["platform"]),
    ("sn", &["serial"]),
    ("ssd", &["storage", "disks"]),
    ("temperature", &["sensors"]),
    ("uefi", &["firmware"]),
    ("vga", &["gpu"]),
];

/// What a word is called here.
pub(crate) fn called(word: &str) -> &'static [&'static str] {
    let found = ALSO_CALLED.iter().find(|(other, _)| *other == word);
    found.map_or(&[], |(_, here)| *here)
}
