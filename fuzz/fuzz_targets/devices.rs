//! Reads the same bytes as what devices and the kernel's tables of them say: configuration space,
//! EDID, module aliases, routes, modules, lists of ids, announcements.

#![no_main]

use libfuzzer_sys::fuzz_target;
use tectum_survey::formats::{
    assignment, edid, id_list, kernel_modules, module_alias, pci_configuration, routes,
};

fuzz_target!(|bytes: &[u8]| {
    if let Some(read) = pci_configuration::Configuration::parse(bytes) {
        let _ = (read.allowed(), read.errors());
        assert!(read.capabilities.is_none_or(|all| all.len() <= 48));
    }
    let _ = edid::Display::parse(bytes);
    let Ok(text) = std::str::from_utf8(bytes) else { return };
    let _ = assignment::plain(text);
    let _ = (routes::ipv4(text), routes::ipv6(text), routes::if_inet6(text));
    let _ = (routes::local_ipv4(text), routes::resolvers(text));
    let _ = (kernel_modules::modules(text), kernel_modules::majors(text));
    let _ = (id_list::version(text), id_list::entries(text).count());
    // The first line is a device, the rest the patterns.
    let (device, patterns) = text.split_once('\n').unwrap_or((text, ""));
    let aliases = module_alias::Aliases::parse(patterns);
    for found in aliases.matching(device) {
        assert!(module_alias::matches(found.pattern.as_bytes(), device.as_bytes()));
    }
});
