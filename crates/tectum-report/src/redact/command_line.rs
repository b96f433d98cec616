//! The kernel's command line: the names of the kernel's own parameters and values that say nothing of
//! whose machine it is stay, every other word is replaced.

use super::{Pseudonyms, mount, name, path, same_form};
use crate::leaf::{Identifies, Redact};

/// Parameters of the kernel's command line that say by their names what they are.
const PARAMETERS: [&str; 96] = [
    "BOOT_IMAGE",
    "acpi",
    "amd_iommu",
    "amd_pstate",
    "apparmor",
    "audit",
    "autologin",
    "boot",
    "cgroup_disable",
    "cgroup_enable",
    "cma",
    "clocksource",
    "console",
    "crashkernel",
    "debug",
    "default_hugepagesz",
    "efi",
    "earlycon",
    "earlyprintk",
    "edd",
    "elevator",
    "fsck.mode",
    "fsck.repair",
    "hugepages",
    "hugepagesz",
    "idle",
    "init",
    "initcall_debug",
    "initrd",
    "intel_idle.max_cstate",
    "intel_iommu",
    "intel_pstate",
    "iommu",
    "ip",
    "ipv6.disable",
    "isolcpus",
    "kaslr",
    "kvm-intel.nested",
    "kvm.nested",
    "lockdown",
    "loglevel",
    "lsm",
    "maxcpus",
    "mce",
    "mem",
    "memmap",
    "mitigations",
    "module.sig_enforce",
    "modprobe.blacklist",
    "net.ifnames",
    "biosdevname",
    "nmi_watchdog",
    "no_timer_check",
    "nohz",
    "nohz_full",
    "nokaslr",
    "nomodeset",
    "noresume",
    "nosmt",
    "nosplash",
    "nowatchdog",
    "nr_cpus",
    "numa",
    "numa_balancing",
    "nvme_core.default_ps_max_latency_us",
    "page_alloc.shuffle",
    "panic",
    "pci",
    "pcie_aspm",
    "preempt",
    "printk.time",
    "processor.max_cstate",
    "pti",
    "quiet",
    "random.trust_cpu",
    "rcu_nocbs",
    "rd.driver.blacklist",
    "rd.luks.uuid",
    "rd.lvm.lv",
    "rd.md.uuid",
    "rdinit",
    "resume",
    "rhgb",
    "ro",
    "root",
    "rootdelay",
    "rootflags",
    "rootfstype",
    "rootwait",
    "rw",
    "security",
    "selinux",
    "single",
    "splash",
    "systemd.unit",
    "vconsole.keymap",
];

/// Fields of os-release(5) and those that distributions add.
const RELEASE_FIELDS: [&str; 26] = [
    "ANSI_COLOR",
    "ARCHITECTURE",
    "CPE_NAME",
    "DEBIAN_VERSION_FULL",
    "DEFAULT_HOSTNAME",
    "DOCUMENTATION_URL",
    "EXPERIMENT",
    "EXPERIMENT_URL",
    "IMAGE_ID",
    "IMAGE_VERSION",
    "LOGO",
    "PLATFORM_ID",
    "PORTABLE_PREFIXES",
    "PRIVACY_POLICY_URL",
    "REDHAT_BUGZILLA_PRODUCT",
    "REDHAT_BUGZILLA_PRODUCT_VERSION",
    "REDHAT_SUPPORT_PRODUCT",
    "REDHAT_SUPPORT_PRODUCT_VERSION",
    "RELEASE_TYPE",
    "ROCKY_SUPPORT_PRODUCT",
    "ROCKY_SUPPORT_PRODUCT_VERSION",
    "SYSEXT_LEVEL",
    "SYSEXT_SCOPE",
    "UBUNTU_CODENAME",
    "VENDOR_NAME",
    "VENDOR_URL",
];

/// Values that are words of the kernel's.
const VALUES: [&str; 40] = [
    "on",
    "off",
    "yes",
    "no",
    "y",
    "n",
    "auto",
    "force",
    "noforce",
    "strict",
    "full",
    "none",
    "voluntary",
    "lazy",
    "poll",
    "halt",
    "nomwait",
    "active",
    "passive",
    "disable",
    "enable",
    "pt",
    "nosmt",
    "apparmor",
    "selinux",
    "landlock",
    "lockdown",
    "yama",
    "integrity",
    "bpf",
    "ext4",
    "xfs",
    "btrfs",
    "tsc",
    "hpet",
    "performance",
    "powersave",
    "default",
    "debug",
    "efifb:off",
];

/// The name of a parameter of the kernel or a field of a release file.
pub(super) fn parameter(by: &Pseudonyms, text: &str) -> String {
    if PARAMETERS.contains(&text) || RELEASE_FIELDS.contains(&text) {
        return text.to_owned();
    }
    same_form(&by.key, Identifies::ParameterName, text)
}

/// The value of a kernel parameter.
pub(super) fn value(by: &Pseudonyms, text: &str) -> String {
    let word = text.trim_matches('"');
    if word.split(',').all(says_nothing) {
        return text.to_owned();
    }
    if word.starts_with("/dev/") || word.contains("UUID=") || word.contains("LABEL=") {
        return text.replacen(word, &mount::source(by, word), 1);
    }
    if let Some((folder, image)) = word.rsplit_once('/')
        && ["vmlinuz", "initrd", "initramfs", "bzImage", "Image"]
            .iter()
            .any(|it| image.starts_with(it))
        && image.split(['-', '.', '_']).skip(1).all(is_release)
    {
        return text.replacen(word, &format!("{}/{image}", path::folders(by, folder)), 1);
    }
    by.text(Identifies::FreeText, text)
}

/// The parts of a kernel's release that many machines share.
fn is_release(part: &str) -> bool {
    let number = part.bytes().all(|byte| byte.is_ascii_digit());
    number
        || matches!(
            part,
            "amd64"
                | "arm64"
                | "x86_64"
                | "generic"
                | "img"
                | "rc"
                | "rt"
                | "cloud"
                | "lts"
                | "armmp"
                | "powerpc64le"
                | "s390x"
                | "bpo"
                | "gz"
        )
        || part.strip_prefix("el").is_some_and(|rest| rest.bytes().all(|b| b.is_ascii_digit()))
        || part.strip_prefix("fc").is_some_and(|rest| rest.bytes().all(|b| b.is_ascii_digit()))
        || part.strip_prefix("deb").is_some_and(|rest| rest.bytes().all(|b| b.is_ascii_digit()))
}

/// A number with or without a unit, a range, a word of the kernel's, or a terminal.
fn says_nothing(word: &str) -> bool {
    let number = !word.is_empty()
        && word.len() <= 20
        && word.bytes().next().is_some_and(|byte| byte.is_ascii_digit())
        && word.bytes().all(|byte| {
            byte.is_ascii_digit()
                || matches!(byte, b'k' | b'K' | b'M' | b'G' | b'-' | b':' | b'x' | b'n')
        });
    number || VALUES.contains(&word) || name::is_device(word)
}

/// The whole line, parameter by parameter: blanks part them, but not within double quotes.
pub(super) fn line(by: &Pseudonyms, text: &str) -> String {
    let mut new = String::with_capacity(text.len());
    let mut rest = text;
    while !rest.is_empty() {
        let blanks = rest.find(|c: char| !c.is_whitespace()).unwrap_or(rest.len());
        let (space, word) = rest.split_at(blanks);
        new.push_str(space);
        let mut quoted = false;
        let end = word
            .char_indices()
            .find(|(_, character)| {
                quoted ^= *character == '"';
                character.is_whitespace() && !quoted
            })
            .map_or(word.len(), |(at, _)| at);
        let (word, behind) = word.split_at(end);
        new.push_str(&in_quotes(word, &|inner| match inner.split_once('=') {
            _ if inner.is_empty() || inner == "--" => inner.to_owned(),
            Some((own, given)) => format!(
                "{}={}",
                by.text(Identifies::ParameterName, own),
                in_quotes(given, &|value| by.text(Identifies::ParameterValue, value))
            ),
            None => by.text(Identifies::ParameterName, inner),
        }));
        rest = behind;
    }
    new
}

/// What stands within a pair of double quotes, or the whole where there is none, as `new` has it.
fn in_quotes(text: &str, new: &dyn Fn(&str) -> String) -> String {
    match text.strip_prefix('"').and_then(|rest| rest.strip_suffix('"')) {
        Some(inner) => format!("\"{}\"", new(inner)),
        None => new(text),
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    fn by() -> Pseudonyms {
        Pseudonyms::new(b"key", &std::collections::BTreeSet::new())
    }

    #[rstest]
    #[case("ttyS0,115200n8")]
    #[case("off")]
    #[case("1G")]
    #[case("0-3,8")]
    #[case("/dev/sda2")]
    #[case("/boot/vmlinuz-6.1.0-50-amd64")]
    fn values_that_say_nothing_stay(#[case] text: &str) {
        assert_eq!(value(&by(), text), text);
    }

    #[rstest]
    #[case("anna")]
    #[case("/dev/mapper/anna-root")]
    #[case("UUID=5b8f3c02-91de-4a67-b7c4-0e6a2d9f1c33")]
    #[case("/boot/vmlinuz-6.1.0-anna")]
    #[case("10.0.2.15::10.0.2.2:255.255.255.0:anna:eth0")]
    fn values_of_an_owner_go(#[case] text: &str) {
        let new = value(&by(), text);
        assert_ne!(new, text);
        assert!(!new.contains("anna") && !new.contains("5b8f3c02"), "{new}");
    }

    #[test]
    fn quotes_hold_blanks_together() {
        let new = line(&by(), "x=\"anna one\"  \"y=anna two\" -- quiet");
        assert!(new.starts_with('x') || new.contains("=\""), "{new}");
        assert!(!new.contains("anna") && new.ends_with(" -- quiet"), "{new}");
        assert_eq!(new.matches('"').count(), 4);
    }

    #[test]
    fn a_line_is_replaced_word_by_word() {
        let new =
            line(&by(), "BOOT_IMAGE=/boot/vmlinuz-6.1.0 root=/dev/sda2 quiet anna=1 -- single");
        assert!(new.starts_with("BOOT_IMAGE=/boot/vmlinuz-6.1.0 root=/dev/sda2 quiet "), "{new}");
        assert!(new.ends_with("=1 -- single") && !new.contains("anna"), "{new}");
    }
}
