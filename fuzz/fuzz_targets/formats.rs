//! Reads the same bytes as every text format and device page.

#![no_main]

use libfuzzer_sys::fuzz_target;
use tectum_survey::formats::{
    acpi, assignment, calendar, colon, cpuinfo, device_tree, fstab, kernel_parameters, link_speed,
    memory_ranges, mount_option, mountinfo, number, number_list, partition_type, process, udev,
    vital_product_data,
};

fuzz_target!(|bytes: &[u8]| {
    let _ = vital_product_data::unit_serial_number(bytes);
    let _ = vital_product_data::ata_information(bytes);
    let _ = vital_product_data::block_characteristics(bytes);
    let _ = vital_product_data::designator(bytes);
    let _ = vital_product_data::block_limits(bytes);
    let _ = vital_product_data::provisioning(bytes);
    let _ = (device_tree::cell(bytes), device_tree::ranges(bytes, 2, 1));
    let _ = acpi::table_header(bytes);
    let Ok(text) = std::str::from_utf8(bytes) else { return };
    let assigned = assignment::shell(text);
    let _ = assignment::find(&assigned, "A");
    let _ = assignment::plain(text);
    let _ = (calendar::firmware_date(text), calendar::date(text));
    let _ = cpuinfo::parse(text);
    let blocks = colon::blocks(text);
    let _ = colon::find_first(&blocks, "a");
    let _ = blocks.first().and_then(|block| colon::find(block, "a"));
    let _ = fstab::parse(text);
    let _ = fstab::swaps(text);
    let _ = kernel_parameters::parse(text);
    let _ = (mountinfo::parse(text), mountinfo::unescape(text));
    let _ = (link_speed::transfers(text), link_speed::gigabits(text), link_speed::kilobits(text));
    let _ = (number::decimal(text), number::signed(text), number::hexadecimal(text));
    let _ = (number::flag(text), number::size_with_unit(text));
    let _ = (number::kibibytes(text), number::millicelsius(text), number::kilohertz(text));
    let _ = number::whole_part(text);
    let _ = (memory_ranges::of_drivers(text), memory_ranges::are_withheld(text));
    let _ = memory_ranges::redacted(text);
    let _ = (process::stat(text), process::control_group(text));
    let _ = udev::properties(text);
    let _ = udev::decode(text);
    let _ = (partition_type::words(text), partition_type::is_extended(text));
    let _ = (partition_type::flags("gpt", text), partition_type::flags("dos", text));
    let mut left = 1000;
    let within = number_list::parse_within(text, &mut left);
    assert!(within.is_none_or(|numbers| numbers.len() + left == 1000));
    let stripped = mount_option::strip_secrets(text);
    assert!(stripped.split([' ', ',']).all(|it| it.ends_with('…') || !mount_option::is_secret(it)));
    if let Some(numbers) = number_list::parse(text) {
        assert_eq!(number_list::parse(&tectum_report::leaf::ranges(&numbers)), Some(numbers));
    }
});
