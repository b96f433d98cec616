//! Where the kernel shows the device tree that the boot loader passed
//! (`Documentation/ABI/testing/sysfs-firmware-ofw`).

/// The root node's folder.
pub(crate) const DEVICE_TREE: &str = "/sys/firmware/devicetree/base";
