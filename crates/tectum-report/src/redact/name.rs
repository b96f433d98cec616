//! Names of devices and network interfaces: those that the kernel or a rule makes
//! identify nothing and stay; those that an owner chose are replaced.

use std::sync::LazyLock;

use regex::Regex;

use super::{Pseudonyms, same_form};
use crate::leaf::Identifies;

/// What the kernel and its usual rules call block devices, terminals and the like.
static DEVICE: LazyLock<Option<Regex>> = LazyLock::new(|| {
    Regex::new(concat!(
        "^(?:",
        "(?:sd|hd|vd|xvd|dasd|ubd)[a-z]{1,4}[0-9]{0,3}",
        "|nvme[0-9]{1,4}(?:c[0-9]{1,4})?(?:n[0-9]{1,5}(?:p[0-9]{1,3})?)?",
        "|mmcblk[0-9]{1,3}(?:p[0-9]{1,3}|boot[01]|rpmb|gp[0-3])?",
        "|(?:md|loop|zram|nbd|bcache|pmem|rbd|drbd|mtdblock|ubiblock)[0-9]{1,4}(?:[._][0-9]{1,3})?",
        "(?:p[0-9]{1,3}|s|boot[01])?",
        "|dm-[0-9]{1,5}|(?:sr|st|sg|fd|ram|zd)[0-9]{1,4}(?:p[0-9]{1,3})?",
        "|(?:hwmon|input|event|mouse|js|rtc|watchdog|card|host|tpm|tpmrm|ipmi|ptp|video|hci|port",
        "|renderD|thermal_zone|lp|hidraw|controlC|usblp|mei|nst|ch|mmc|mtd|i2c-|gpiochip|media",
        "|cdrom|scd|ttyS|ttyAMA|ttyUSB|ttyACM|tty|hvc|ttysclp|sclp_line|3270/tty|ttyLP|ttymxc)[0-9]{1,5}",
        "|(?:BAT|AC|ADP|ACAD|UPS|usb|CMB)[0-9]{0,2}|mlx[45]_[0-9]{1,3}|hfi1_[0-9]{1,3}",
        "|pcmC[0-9]{1,3}D[0-9]{1,3}[cp]|mice|ttysclp0|console",
        ")$",
    ))
    .ok()
});

/// What the kernel and the rules that name interfaces by their place make.
static INTERFACE: LazyLock<Option<Regex>> = LazyLock::new(|| {
    Regex::new(concat!(
        "^(?:lo|(?:eth|wlan|ib|usb|wwan|bond|team|br|dummy|tap|tun|vlan|virbr|vnet|docker|wg|sit",
        "|tunl|gre|gretap|erspan|ip6tnl|ip6gre|ip_vti|ip6_vti|can|vcan|bat|ifb|hsi|slip|ppp)[0-9]{1,4}",
        "|(?:en|wl|ww|ib|sl)(?:o[0-9]{1,5}|P?[0-9]{0,5}p[0-9]{1,3}s[0-9]{1,3}",
        "|s[0-9]{1,5}|c[0-9a-f.]{1,8}|v[0-9]{1,5}|a[0-9]{1,5})",
        "(?:f[0-9]{1,3})?(?:u[0-9]{1,3}){0,6}(?:c[0-9]{1,3})?(?:i[0-9]{1,3})?(?:n?p?[0-9]{1,3})?",
        "(?:d[0-9]{1,3}|n[0-9]{1,3}|np[0-9]{1,3})?(?:v[0-9]{1,4}|r[0-9]{1,4})?",
        ")(?:[.:@][0-9]{1,4})?$",
    ))
    .ok()
});

fn is(pattern: &LazyLock<Option<Regex>>, text: &str) -> bool {
    pattern.as_ref().is_some_and(|pattern| pattern.is_match(text))
}

/// A device's name.
pub(super) fn device(by: &Pseudonyms, text: &str) -> String {
    if is(&DEVICE, text) {
        return text.to_owned();
    }
    // What kind of device it is, the kernel tells by the beginning of the name of an array, or of an input device's
    // battery.
    let begun = ["md_", "hid-"].into_iter().find_map(|kind| Some((kind, text.strip_prefix(kind)?)));
    match begun {
        Some((kind, own)) => format!("{kind}{}", same_form(&by.key, Identifies::DeviceName, own)),
        None => same_form(&by.key, Identifies::DeviceName, text),
    }
}

/// A network interface's name.
pub(super) fn interface(by: &Pseudonyms, text: &str) -> String {
    let mac =
        ["enx", "wlx", "wwx"].iter().find_map(|prefix| Some((prefix, text.strip_prefix(*prefix)?)));
    if let Some((prefix, digits)) = mac
        && digits.len() == 12
        && digits.bytes().all(|byte| byte.is_ascii_hexdigit())
    {
        // Made of the hardware's address: of its pseudonym again.
        return format!("{prefix}{}", same_form(&by.key, Identifies::Mac, digits));
    }
    if is(&INTERFACE, text) {
        return text.to_owned();
    }
    match text.split_once('.') {
        // A VLAN of an interface with a made name.
        Some((base, vlan))
            if !vlan.is_empty() && vlan.bytes().all(|byte| byte.is_ascii_digit()) =>
        {
            format!("{}.{vlan}", interface(by, base))
        }
        _ => same_form(&by.key, Identifies::InterfaceName, text),
    }
}

/// Whether a name is one that the kernel makes of devices.
pub(super) fn is_device(text: &str) -> bool {
    is(&DEVICE, text)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn by() -> Pseudonyms {
        Pseudonyms::new(b"key", &std::collections::BTreeSet::new())
    }

    #[test]
    fn the_patterns_are_well_formed() {
        assert!(DEVICE.is_some() && INTERFACE.is_some());
    }

    #[rstest]
    #[case("sda")]
    #[case("sdaa12")]
    #[case("nvme0n1p3")]
    #[case("nvme0c1n1")]
    #[case("mmcblk0boot1")]
    #[case("dm-12")]
    #[case("md127p1")]
    #[case("sr0")]
    #[case("hwmon3")]
    #[case("BAT0")]
    fn kernel_made_devices_stay(#[case] name: &str) {
        assert_eq!(device(&by(), name), name);
    }

    #[rstest]
    #[case("md_harbour")]
    #[case("harbour1")]
    #[case("hid-34:88:5d:00:11:22-battery")]
    #[case("sdharbour")]
    fn chosen_devices_go(#[case] name: &str) {
        assert_ne!(device(&by(), name), name);
    }

    #[rstest]
    #[case("md_harbour", "md_")]
    #[case("hid-34:88:5d:00:11:22-battery", "hid-")]
    fn what_kind_of_device_it_is_stays(#[case] name: &str, #[case] begin: &str) {
        let new = device(&by(), name);
        assert!(new.starts_with(begin) && !new.contains(&name[begin.len()..]), "{new}");
    }

    #[rstest]
    #[case("lo")]
    #[case("eth0")]
    #[case("eth0.100")]
    #[case("enp130s0f1np1")]
    #[case("eno1")]
    #[case("ens3f0")]
    #[case("wlp2s0")]
    #[case("bond0")]
    #[case("enP2p1s0")]
    fn made_interfaces_stay(#[case] name: &str) {
        assert_eq!(interface(&by(), name), name);
    }

    #[rstest]
    #[case("harbour")]
    #[case("br-harbour")]
    #[case("harbour0")]
    #[case("enx525400123456")]
    #[case("enharbour")]
    fn chosen_interfaces_go(#[case] name: &str) {
        assert_ne!(interface(&by(), name), name);
    }
}
