//! What each file is that a section may ask for, by its path; the first that fits counts.

use std::{path::Path, sync::LazyLock};

use globset::{Glob, GlobBuilder, GlobMatcher};
use tectum_report::leaf::{Identifies, Redact};

use super::{Form, words};
use crate::{
    formats::{
        acpi, assignment, colon, edid, fstab, kernel_version, memory_ranges, mountinfo, process,
        repositories, routes, udev, vital_product_data,
    },
    readers::dmi,
    source::bytes_text,
};

/// A form of text files.
macro_rules! text {
    ($name:literal, |$by:ident, $text:ident| $new:expr) => {
        Form {
            name: $name,
            anew: |$by, bytes| {
                let $text = &*bytes_text(bytes);
                Some(String::into_bytes($new))
            },
        }
    };
}

/// A form of files that hold one text of an owner's.
macro_rules! value {
    ($kind:ident) => {
        text!("one value", |it, text| words::value(text, Identifies::$kind, it.by))
    };
}

/// Numbers and their units.
const NUMBERS: Form = Form {
    name: "numbers",
    anew: |_, bytes| words::numbers(&bytes_text(bytes)).map(String::into_bytes),
};

/// Words of makers, firmware or kernel.
const TERM: Form = Form {
    name: "a term",
    anew: |_, bytes| words::term(&bytes_text(bytes)).map(|_| bytes.to_vec()),
};

/// Lists that everybody has, of any length.
const PUBLIC: Form =
    text!("a public list", |_it, text| crate::formats::line_by_line(text, |line| {
        // Comments may say who made it; the version of a list stands in one.
        match line.starts_with('#') && !line.contains("Version:") {
            true => String::new(),
            false => line.to_owned(),
        }
    }));

/// That it is there is all that is asked.
const PRESENCE: Form = Form { name: "presence", anew: |_, _| Some(Vec::new()) };

/// A few bytes that are numbers.
const SHORT_BYTES: Form = Form {
    name: "numbers in bytes",
    anew: |_, bytes| (bytes.len() <= 4096).then(|| bytes.to_vec()),
};

/// Marks that process 1 is confined, behind which the container's own id stands.
const GROUPS: [&str; 9] = [
    "docker-",
    "libpod-",
    "crio-",
    "cri-containerd-",
    "lxc.payload",
    "systemd-nspawn",
    "kubepods",
    "docker",
    "lxc",
];

/// What is said of processes and names nobody.
const OF_PROCESSES: &[&str] = &[
    "Pid",
    "PPid",
    "Pss",
    "Rss",
    "State",
    "Swap",
    "SwapPss",
    "Threads",
    "Uid",
    "VmRSS",
    "VmSwap",
    "read_bytes",
    "write_bytes",
];

/// Folders of control groups that every system has.
const USUAL_GROUPS: [&str; 8] = [
    "",
    "init.scope",
    "system.slice",
    "user.slice",
    "machine.slice",
    "docker",
    "lxc",
    "kubepods.slice",
];

fn control_groups(by: &dyn Redact, text: &str) -> String {
    crate::formats::line_by_line(text, |line| {
        let Some((head, path)) = line.rsplit_once(':') else { return String::new() };
        let folders = path.split('/').map(|name| {
            if USUAL_GROUPS.contains(&name) {
                return name.to_owned();
            }
            let mark = GROUPS.iter().find(|mark| name.starts_with(**mark)).copied().unwrap_or("");
            let rest = name.get(mark.len()..).unwrap_or_default();
            format!("{mark}{}", by.text(Identifies::Label, rest))
        });
        let number = head.split(':').next().filter(|it| it.parse::<u32>().is_ok()).unwrap_or("0");
        format!("{number}::{}", folders.collect::<Vec<_>>().join("/"))
    })
}

/// os-release: words of whoever made the system, and fields of which nobody knows whose they are.
fn release(by: &dyn Redact, text: &str) -> String {
    assignment::shell_redacted(text, |key, value| {
        Some(match crate::sections::is_known_release_field(key) {
            true => (key.to_owned(), value.to_owned()),
            false => {
                (by.text(Identifies::ParameterName, key), by.text(Identifies::FreeText, value))
            }
        })
    })
}

fn uevent(by: &dyn Redact, text: &str) -> String {
    assignment::plain_redacted(text, |key, value| {
        Some(match key {
            "DEVTYPE" | "MAJOR" | "MINOR" | "PARTN" | "DRIVER" | "PCI_CLASS" | "PCI_ID" => {
                value.to_owned()
            }
            "PARTNAME" => by.text(Identifies::Label, value),
            "PARTUUID" => by.text(Identifies::Uuid, value),
            "INTERFACE" => by.text(Identifies::InterfaceName, value),
            _ => return None,
        })
    })
}

/// `/proc/cpuinfo`: a board's serial number stands among what its processor says.
fn processors(by: &dyn Redact, text: &str) -> String {
    crate::formats::line_by_line(text, |line| match line.split_once(':') {
        Some((key, value)) if key.trim().eq_ignore_ascii_case("serial") => {
            let zeros = value.trim().bytes().all(|byte| byte == b'0');
            match zeros {
                true => line.to_owned(),
                false => format!("{key}: {}", by.text(Identifies::Serial, value.trim())),
            }
        }
        _ => line.to_owned(),
    })
}

/// `/proc/sysinfo` of IBM Z: names that an operator gave, and the machine's numbers.
fn levels(by: &dyn Redact, text: &str) -> String {
    let blocks = colon::blocks(text);
    let maker = colon::find_first(&blocks, "Manufacturer").map(|entry| entry.value.trim());
    crate::formats::line_by_line(text, |line| {
        let Some((key, value)) = line.split_once(':') else { return line.to_owned() };
        let (name, said) = (key.trim(), value.trim());
        let kind = match name {
            _ if said.is_empty() => return line.to_owned(),
            // An emulator writes its own name there.
            "Sequence Code" if maker.is_some_and(|it| it.eq_ignore_ascii_case(said)) => {
                return line.to_owned();
            }
            "Sequence Code" => Identifies::Serial,
            _ if name.ends_with("UUID") => Identifies::Uuid,
            _ if name.ends_with(" Name") || name.ends_with("Extended Name") => Identifies::Label,
            _ => return line.to_owned(),
        };
        format!("{key}: {}", words::value(said, kind, by))
    })
}

/// What a driver says of a GPU.
fn gpu_information(by: &dyn Redact, text: &str) -> String {
    colon::redacted(text, |key, value| {
        Some(match key {
            "Model" | "Video BIOS" | "Bus Type" => value.to_owned(),
            "GPU UUID" => by.text(Identifies::Uuid, value),
            _ => return None,
        })
    })
}

/// A database of packages: how many there are.
fn packages(text: &str, start: &str) -> String {
    crate::formats::line_by_line(text, |line| match line.starts_with(start) {
        true => start.to_owned(),
        false => String::new(),
    })
}

/// Each file with what it is. Paths below `/sys` are given by their ends, because a file there is
/// reached by many ways.
const FORMS: &[(&str, Form)] = &[
    // Configuration.
    (
        "/etc/apk/repositories",
        text!("repositories", |it, text| repositories::apk_lines_redacted(text, it.by)),
    ),
    (
        "/etc/apt/sources.list",
        text!("repositories", |it, text| repositories::apt_lines_redacted(text, it.by)),
    ),
    (
        "/etc/apt/sources.list.d/*.list",
        text!("repositories", |it, text| repositories::apt_lines_redacted(text, it.by)),
    ),
    (
        "/etc/apt/sources.list.d/*.sources",
        text!("repositories", |it, text| repositories::apt_stanzas_redacted(text, it.by)),
    ),
    (
        "/etc/{yum.,zypp/}repos.d/*.repo",
        text!("repositories", |it, text| repositories::repo_sections_redacted(text, it.by)),
    ),
    (
        "/etc/pacman.conf",
        text!("repositories", |it, text| repositories::pacman_redacted(text, it.by)),
    ),
    ("/etc/pacman.d/*", text!("mirrors", |it, text| repositories::mirrors_redacted(text, it.by))),
    ("/etc/fstab", text!("mounts declared", |it, text| fstab::redacted(text, it.by))),
    ("/etc/hostname", value!(HostName)),
    ("/etc/machine-id", value!(MachineId)),
    ("/etc/timezone", value!(Label)),
    ("/{etc,usr/lib}/os-release", text!("release", |it, text| release(it.by, text))),
    (
        "/{etc/locale.conf,etc/default/locale}",
        text!("locale", |_it, text| assignment::shell_redacted(text, |key, value| (key == "LANG")
            .then(|| (key.to_owned(), value.to_owned())))),
    ),
    (
        "/{etc,run/systemd/resolve}/resolv.conf",
        text!("resolvers", |it, text| routes::resolvers_redacted(text, it.by)),
    ),
    // What is installed, what runs.
    ("/lib/apk/db/installed", text!("packages", |_it, text| packages(text, "P:"))),
    (
        "/var/lib/dpkg/status",
        text!("packages", |_it, text| packages(text, "Status: install ok installed")),
    ),
    ("/lib/modules/*/modules.alias", PUBLIC),
    ("/usr/lib/modules/*/modules.alias", PUBLIC),
    ("/usr/share/{hwdata,misc}/*.ids", PUBLIC),
    ("/{.dockerenv,run/.containerenv}", PRESENCE),
    ("/run/systemd/container", TERM),
    ("/run/openrc/softlevel", TERM),
    ("/run/reboot-required", value!(FreeText)),
    ("/run/reboot-required.pkgs", value!(FreeText)),
    ("/run/udev/data/*", text!("device record", |it, text| udev::redacted(text, it.by))),
    // The kernel's files below /proc.
    ("/proc/{1,self}/mountinfo", text!("mounts", |it, text| mountinfo::redacted(text, it.by))),
    ("/proc/[0-9]*/cgroup", text!("control groups", |it, text| control_groups(it.by, text))),
    ("/proc/[0-9]*/stat", text!("process", |it, text| process::stat_redacted(text, it.by))),
    (
        "/proc/[0-9]*/{io,smaps_rollup,status}",
        text!("process", |it, text| process::lines_redacted(text, OF_PROCESSES, it.by)),
    ),
    ("/proc/[0-9]*/wchan", TERM),
    ("/proc/{1,2}/comm", TERM),
    ("/proc/asound/*/id", TERM),
    ("/proc/cmdline", value!(CommandLine)),
    ("/proc/cpuinfo", text!("processors", |it, text| processors(it.by, text))),
    (
        "/proc/driver/nvidia/gpus/*/information",
        text!("GPU", |it, text| gpu_information(it.by, text)),
    ),
    ("/proc/iomem", text!("memory ranges", |_it, text| memory_ranges::redacted(text))),
    ("/proc/net/fib_trie", text!("addresses", |it, text| routes::local_ipv4_redacted(text, it.by))),
    ("/proc/net/if_inet6", text!("addresses", |it, text| routes::if_inet6_redacted(text, it.by))),
    ("/proc/net/ipv6_route", text!("routes", |it, text| routes::ipv6_redacted(text, it.by))),
    ("/proc/net/route", text!("routes", |it, text| routes::ipv4_redacted(text, it.by))),
    ("/proc/net/vlan/*", text!("VLAN", |_it, text| routes::vlan_redacted(text))),
    ("/proc/swaps", text!("swap", |it, text| fstab::swaps_redacted(text, it.by))),
    ("/proc/sys/kernel/hostname", value!(HostName)),
    (
        "/proc/sys/kernel/domainname",
        text!("one value", |it, text| match text.trim() {
            "(none)" => text.to_owned(),
            _ => words::value(text, Identifies::HostName, it.by),
        }),
    ),
    ("/proc/sys/kernel/random/boot_id", value!(MachineId)),
    ("/proc/sys/{kernel,dev/cdrom}/**", TERM),
    ("/proc/sysinfo", text!("levels", |it, text| levels(it.by, text))),
    ("/proc/version", text!("kernel", |it, text| kernel_version::redacted(text, it.by))),
    ("/proc/{devices,loadavg,meminfo,modules,stat,uptime}", PROC),
    ("/proc/pressure/*", TERM),
    ("/proc/driver/nvidia/version", TERM),
    // Firmware.
    (
        "/sys/firmware/acpi/tables/*",
        Form { name: "firmware table", anew: |_, bytes| Some(acpi::redacted(bytes)) },
    ),
    (
        "/sys/firmware/dmi/tables/DMI",
        Form {
            name: "firmware structures",
            anew: |it, bytes| Some(dmi::redacted::table(bytes, it.version, it.by)),
        },
    ),
    (
        "/sys/firmware/dmi/entries/*/raw",
        Form {
            name: "firmware structure",
            anew: |it, bytes| Some(dmi::redacted::table(bytes, it.version, it.by)),
        },
    ),
    ("/sys/firmware/dmi/entries/*/position", NUMBERS),
    ("/sys/firmware/dmi/tables/smbios_entry_point", SHORT_BYTES),
    ("/sys/firmware/efi/efivars/*", SHORT_BYTES),
    ("/sys/firmware/efi/esrt/entries/*/*", TERM),
    ("/sys/firmware/devicetree/base/serial-number", value!(Serial)),
    ("/sys/firmware/devicetree/base/vm?uuid", value!(Uuid)),
    ("/sys/firmware/devicetree/base/ibm?partition-name", value!(Label)),
    (
        "/sys/firmware/devicetree/base/system-id",
        text!("who made it and its number", |it, text| match text.split_once(',') {
            Some((maker, number)) => {
                format!("{maker},{}", words::value(number, Identifies::Serial, it.by))
            }
            None => words::value(text, Identifies::Serial, it.by),
        }),
    ),
    ("/sys/firmware/devicetree/base/rtas/*", TERM),
    ("/sys/firmware/devicetree/base/ibm?partition-no", SHORT_BYTES),
    ("/sys/firmware/devicetree/base/**/{compatible,model,device_type,name}", TERM),
    ("/sys/firmware/devicetree/base/**/{reg,#*-cells}", SHORT_BYTES),
    ("/sys/firmware/qemu_fw_cfg/rev", NUMBERS),
    ("/sys/**/dmi/id/*_serial", value!(Serial)),
    ("/sys/**/dmi/id/*_asset_tag", value!(AssetTag)),
    ("/sys/**/dmi/id/product_uuid", value!(Uuid)),
    ("/sys/**/dmi/id/*", TERM),
    // What identifies a device or was chosen for it.
    ("/sys/module/zswap/parameters/*", TERM),
    ("/sys/module/*/parameters/*", text!("parameter", |_it, text| words::parameter(text))),
    ("/sys/module/*/*", TERM),
    ("/sys/fs/ext4/*/*", TERM),
    ("/sys/fs/btrfs/*/devinfo/*/{error_stats,missing}", TERM),
    ("/sys/bus/pci/slots/*/address", TERM),
    ("/sys/**/config", SHORT_BYTES),
    (
        "/sys/**/edid",
        Form {
            name: "display",
            anew: |it, bytes| match bytes.is_empty() {
                true => Some(Vec::new()),
                false => edid::redacted(bytes, it.by),
            },
        },
    ),
    (
        "/sys/**/vpd_pg*",
        Form { name: "device page", anew: |it, bytes| vital_product_data::redacted(bytes, it.by) },
    ),
    ("/sys/**/uevent", text!("announcement", |it, text| uevent(it.by, text))),
    ("/sys/**/input*/name", value!(Label)),
    ("/sys/**/{address,perm_hwaddr}", value!(Mac)),
    ("/sys/**/{serial,serial_number,unique_id}", value!(Serial)),
    ("/sys/devices/css0/**/uid", value!(WorldWideName)),
    ("/sys/**/{wwid,cid,port_name,node_name,node_guid,sys_image_guid}", value!(WorldWideName)),
    ("/sys/**/dm/uuid", text!("device-mapper id", |it, text| mapped(it.by, text))),
    ("/sys/**/{uuid,backing_dev_uuid,set_uuid}", value!(Uuid)),
    ("/sys/**/subsysnqn", value!(Label)),
    (
        "/sys/**/dimm_label",
        text!("one value", |it, text| {
            match it.slots.contains(&text.trim().to_ascii_lowercase()) {
                true => text.to_owned(),
                false => words::value(text, Identifies::Label, it.by),
            }
        }),
    ),
    ("/sys/**/power_supply/hid-*/model_name", value!(Label)),
    ("/sys/**/{dm/name,loop/backing_file,symbolic_name,clock_name}", value!(Label)),
    // Words of makers, firmware and kernel.
    ("/sys/devices/system/{cpu,clocksource,edac,node,memory}/**", TERM),
    ("/sys/**/{vendor,model,rev,name,label,type,state,status,mode,modalias,manufacturer}", TERM),
    ("/sys/**/{product,interface,product_name,model_name,technology,transport,version}", TERM),
    ("/sys/**/{firmware_rev,firmware_version,fwrev,vbios_version,board_id,identity}", TERM),
    ("/sys/**/{cntrltype,scheduler,zoned,write_cache,power_state,runtime_status,operstate}", TERM),
    ("/sys/**/{duplex,level,array_state,sync_action,sync_completed,comp_algorithm,policy}", TERM),
    ("/sys/**/{class,device,subsystem_vendor,subsystem_device,revision,idVendor,idProduct}", TERM),
    ("/sys/**/{bDeviceClass,bInterfaceClass,bInterfaceNumber,bMaxPower,bcdDevice,dev,id}", TERM),
    (
        "/sys/**/{devtype,proc_name,removable,description,capacity_level,health,scope,cpus,cpulist}",
        TERM,
    ),
    ("/sys/**/{current,max}_link_{speed,width}", TERM),
    ("/sys/**/{*linkrate,sata_spd,hw_sata_spd_limit,speed,manfid,date,dimm_*,*_label,mode}", TERM),
    (
        "/sys/**/{bonding/mode,tun_flags,alarm,fw_class,control,lockdown,lsm,enclosure_identifier}",
        TERM,
    ),
    ("/sys/**/{fw_ver,hca_type,port_state,link_layer,phys_state,board_id,compressor,zpool}", TERM),
    ("/sys/**/phys_port_name", TERM),
    ("/sys/hypervisor/{type,properties/features}", TERM),
    ("/proc/xen/capabilities", TERM),
    ("/sys/kernel/{cpu_byteorder,security/*}", TERM),
    // All else that the kernel shows there is numbers, or is withheld.
    ("/sys/**", NUMBERS),
];

/// Tables of the kernel's own that grow with the machine.
const PROC: Form = Form { name: "kernel's own", anew: |_, bytes| Some(bytes.to_vec()) };

/// `LVM-…`, `CRYPT-LUKS2-…-name`, `mpath-…`: who made it, its form, its id, and what layer it is.
fn mapped(by: &dyn Redact, text: &str) -> String {
    let said = text.trim();
    let new = match said.split_once('-') {
        // The words behind the id say what layer of a logical volume it is.
        Some(("LVM", rest)) => match rest.split_once('-') {
            Some((id, layer)) => format!("LVM-{}-{layer}", by.text(Identifies::Uuid, id)),
            None => format!("LVM-{}", by.text(Identifies::Uuid, rest)),
        },
        Some(("CRYPT", rest)) => match rest.split_once('-') {
            Some((form, id)) => format!("CRYPT-{form}-{}", by.text(Identifies::Uuid, id)),
            None => format!("CRYPT-{rest}"),
        },
        Some((maker, id)) => format!("{maker}-{}", by.text(Identifies::Uuid, id)),
        None if said.is_empty() => String::new(),
        None => by.text(Identifies::Uuid, said),
    };
    format!("{new}\n")
}

/// The patterns, compiled.
static MATCHERS: LazyLock<Vec<(GlobMatcher, Form)>> = LazyLock::new(|| {
    let compile = |pattern: &str| -> Option<GlobMatcher> {
        let glob: Glob = GlobBuilder::new(pattern).literal_separator(true).build().ok()?;
        Some(glob.compile_matcher())
    };
    FORMS.iter().filter_map(|(pattern, form)| Some((compile(pattern)?, *form))).collect()
});

/// What a file is; `None` where no section asks for it.
pub fn form_of(path: &Path) -> Option<Form> {
    MATCHERS.iter().find(|(matcher, _)| matcher.is_match(path)).map(|(_, form)| *form)
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[test]
    fn every_pattern_is_one() {
        assert_eq!(MATCHERS.len(), FORMS.len());
    }

    #[rstest]
    #[case("/etc/fstab", Some("mounts declared"))]
    #[case("/sys/devices/virtual/net/br0/address", Some("one value"))]
    #[case("/sys/bus/pci/slots/3/address", Some("a term"))]
    #[case("/sys/block/sda/size", Some("numbers"))]
    #[case("/sys/block/dm-0/dm/uuid", Some("device-mapper id"))]
    #[case("/etc/yum.repos.d/reef.repo", Some("repositories"))]
    #[case("/etc/zypp/repos.d/reef.repo", Some("repositories"))]
    #[case("/etc/shadow", None)]
    #[case("/home/anna/notes", None)]
    fn a_path_tells_what_a_file_is(#[case] path: &str, #[case] form: Option<&str>) {
        assert_eq!(form_of(Path::new(path)).map(|form| form.name), form);
    }
}
