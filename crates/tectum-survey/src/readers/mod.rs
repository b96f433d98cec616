//! What several sections read: files that turn into facts, block devices, the firmware's tables, PCI
//! functions with their links and places, lists of ids, modules that match.

pub(crate) mod block;
pub(crate) mod device_tree;
pub(crate) mod devices;
pub(crate) mod dmi;
pub(crate) mod file;
pub(crate) mod id_names;
pub(crate) mod id_table;
pub(crate) mod limits;
pub(crate) mod module_matching;
pub(crate) mod mount_class;
pub(crate) mod pci_function;
pub(crate) mod pci_names;
pub(crate) mod pci_place;
pub(crate) mod pcie_link;
pub(crate) mod raw_bytes;
pub(crate) mod sayings;
