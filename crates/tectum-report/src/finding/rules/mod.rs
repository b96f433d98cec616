//! The rules: one a file.

pub(super) mod dates;
mod gpu_counts;
mod partitions;
mod ports;
mod sensors;
mod usage;
mod words;

mod array_degraded;
mod array_member_faulty;
mod array_rebuilding;
mod battery_worn;
mod bond_members_of_unlike_speed;
mod bond_short_of_members;
mod chassis_state;
mod clock_source_slow;
mod cpu_counts_disagree;
mod cpu_throttled;
mod cpu_vulnerabilities_open;
mod cpus_differ;
mod cpus_offline;
mod disk_not_running;
mod disk_read_only;
mod disk_requests_failed;
mod disk_space_in_no_partition;
mod disk_warm;
mod filesystem_device_errors;
mod filesystem_does_not_answer;
mod filesystem_errors_recorded;
mod filesystem_inodes_nearly_used;
mod filesystem_nearly_full;
mod firmware_old;
mod firmware_tables_odd;
mod fstab_entry_not_mounted;
mod gpu_errors_corrected;
mod gpu_errors_uncorrected;
mod gpu_memory_retired;
mod identity_doubled;
mod kernel_oopsed;
mod kernel_tainted;
mod memory_blocks_offline;
mod memory_channels_uneven;
mod memory_error_recorded;
mod memory_errors_corrected;
mod memory_errors_uncorrected;
mod memory_module_below_rated_speed;
mod memory_module_not_used;
mod memory_modules_mixed;
mod memory_modules_not_all_told;
mod memory_not_managed;
mod microcode_differs;
mod mount_not_in_fstab;
mod mounted_device_gone;
mod network_port_errors;
mod network_port_half_duplex;
mod network_port_without_carrier;
mod newer_kernel_installed;
mod partition_misaligned;
mod partitions_overlap;
mod pci_driver_odd_one_out;
mod pci_function_without_driver;
mod pci_link_below_both_ends;
mod power_supplies_unequal;
mod power_supply_fails;
mod probe_out_of_order;
mod release_out_of_support;
mod restart_wanted;
mod secure_boot_off;
mod sensor_beyond_critical;
mod sensor_outside_limits;
mod sources_disagree;
mod system_serial_is_a_filler;
mod time_zone_other;
mod tpm_not_there;
mod usb_interface_without_driver;
mod virtual_functions_without_iommu;

use super::rule::Rule;

/// Every rule, in the order of the sections.
pub(super) static RULES: &[&Rule] = &[
    &cpus_offline::RULE,
    &cpus_differ::RULE,
    &microcode_differs::RULE,
    &cpu_vulnerabilities_open::RULE,
    &cpu_throttled::RULE,
    &cpu_counts_disagree::RULE,
    &memory_module_below_rated_speed::RULE,
    &memory_modules_mixed::RULE,
    &memory_modules_not_all_told::RULE,
    &memory_channels_uneven::RULE,
    &memory_not_managed::RULE,
    &memory_module_not_used::RULE,
    &memory_errors_uncorrected::RULE,
    &memory_errors_corrected::RULE,
    &memory_error_recorded::RULE,
    &memory_blocks_offline::RULE,
    &pci_link_below_both_ends::RULE,
    &pci_function_without_driver::RULE,
    &pci_driver_odd_one_out::RULE,
    &virtual_functions_without_iommu::RULE,
    &usb_interface_without_driver::RULE,
    &gpu_errors_uncorrected::RULE,
    &gpu_errors_corrected::RULE,
    &gpu_memory_retired::RULE,
    &network_port_without_carrier::RULE,
    &network_port_half_duplex::RULE,
    &network_port_errors::RULE,
    &bond_short_of_members::RULE,
    &bond_members_of_unlike_speed::RULE,
    &array_degraded::RULE,
    &array_member_faulty::RULE,
    &array_rebuilding::RULE,
    &disk_not_running::RULE,
    &disk_read_only::RULE,
    &disk_requests_failed::RULE,
    &disk_warm::RULE,
    &partition_misaligned::RULE,
    &partitions_overlap::RULE,
    &disk_space_in_no_partition::RULE,
    &filesystem_nearly_full::RULE,
    &filesystem_inodes_nearly_used::RULE,
    &filesystem_errors_recorded::RULE,
    &filesystem_device_errors::RULE,
    &fstab_entry_not_mounted::RULE,
    &mount_not_in_fstab::RULE,
    &mounted_device_gone::RULE,
    &filesystem_does_not_answer::RULE,
    &firmware_old::RULE,
    &secure_boot_off::RULE,
    &tpm_not_there::RULE,
    &firmware_tables_odd::RULE,
    &system_serial_is_a_filler::RULE,
    &power_supply_fails::RULE,
    &power_supplies_unequal::RULE,
    &chassis_state::RULE,
    &probe_out_of_order::RULE,
    &kernel_tainted::RULE,
    &kernel_oopsed::RULE,
    &newer_kernel_installed::RULE,
    &restart_wanted::RULE,
    &release_out_of_support::RULE,
    &clock_source_slow::RULE,
    &time_zone_other::RULE,
    &sensor_beyond_critical::RULE,
    &sensor_outside_limits::RULE,
    &battery_worn::RULE,
    &sources_disagree::RULE,
    &identity_doubled::RULE,
];

/// The name of the rule that looks over several machines.
pub(super) const IDENTITY_DOUBLED: &str = "identity-doubled";
