//! Whether the machine is virtual, or a container: every sign there is, and what it says.
//!
//! A technology is named only where a sign names it. The environment of process 1, where some
//! container managers write their name, is not read: it holds whatever secrets the container was
//! given.

use std::path::Path;

use crate::readers::device_tree::DEVICE_TREE;
use crate::readers::{
    dmi::{Tables, published},
    file::File,
};
use crate::{
    formats::{acpi, colon, mountinfo},
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Why, saying},
    leaf::Term,
    model::{RunsIn, Virtualization, VirtualizationSign},
};
use tectum_smbios::types::BiosInformation;

/// The table that every ACPI firmware has, with its maker's name in it.
const FACP: &str = "/sys/firmware/acpi/tables/FACP";

/// One sign.
struct Sign {
    container: bool,
    sign: &'static str,
    says: String,
    technology: Option<&'static str>,
    evidence: Evidence,
}

/// Every sign, those that name a technology most surely first.
pub(super) fn virtualization(lease: &Lease, tables: &Tables) -> Virtualization {
    let mut signs = Vec::new();
    signs.extend(hypervisor_type(lease));
    signs.extend(hypervisor_node(lease));
    signs.extend(made_up_board(lease));
    signs.extend(partition_calls(lease));
    signs.extend(clocks(lease));
    signs.extend(mainframe(lease));
    signs.extend(configuration_device(lease));
    signs.extend(system_strings(lease));
    signs.extend(acpi_maker(lease));
    signs.extend(processor_flag(lease));
    signs.extend(virtio_devices(lease));
    signs.extend(virtual_machine_bit(tables));
    signs.extend(container_files(lease));
    signs.extend(process_one(lease));
    let virtual_machine = signs.iter().any(|sign| !sign.container);
    let container = signs.iter().any(|sign| sign.container);
    let runs_in = match (virtual_machine, container) {
        (true, true) => RunsIn::ContainerInVirtualMachine,
        (true, false) => RunsIn::VirtualMachine,
        (false, true) => RunsIn::Container,
        (false, false) => RunsIn::NoSign,
    };
    let mut technologies: Vec<Term> = Vec::new();
    let mut naming = Vec::new();
    for sign in &signs {
        if let Some(name) = sign.technology {
            naming.push(sign.evidence.clone());
            // "QEMU or Bochs" says nothing new where the former is known.
            if !technologies.iter().any(|known| name.starts_with(&**known)) {
                technologies.push(Term::from(name));
            }
        }
    }
    let why = match signs.is_empty() {
        true => asked(lease),
        false => signs
            .iter()
            .map(|sign| Evidence {
                rule: saying!("follows-signs", "follows from the signs"),
                ..sign.evidence.clone()
            })
            .collect(),
    };
    let whole = || match signs.first() {
        Some(sign) => sign.evidence.source.clone(),
        None => "/proc/cpuinfo".into(),
    };
    let nameless = || {
        let why = if signs.is_empty() { Why::NotApplicable } else { Why::NotProvided };
        Gap::new(why).tried(
            whole(),
            saying!(
                "names-no-technology-nor-does",
                "names no technology, nor does any other sign",
            ),
        )
    };
    // Some places where signs stand are for root's eyes.
    let acpi = File::read_head(lease, FACP, acpi::HEADER_LENGTH);
    let hidden =
        acpi.bytes().err().cloned().or_else(|| tables.gap()).filter(|gap| gap.why.hides_a_value());
    Virtualization {
        runs_in: Fact::known_from(runs_in, why).in_part(hidden.clone()),
        technologies: match technologies.is_empty() {
            true => Fact::gap(hidden.clone().unwrap_or_else(nameless)),
            false => Fact::known_from(technologies, naming).in_part(hidden.clone()),
        },
        signs: Parts::known(
            signs.iter().map(part).collect(),
            Evidence::new(
                whole(),
                saying!(
                    "every-sign-was-found-here",
                    "every sign that was found, here and elsewhere",
                ),
            ),
        )
        .in_part(hidden),
        levels: super::without_smbios::levels(lease),
    }
}

fn part(sign: &Sign) -> VirtualizationSign {
    VirtualizationSign {
        sign: Fact::known(Term::from(sign.sign), sign.evidence.clone()),
        says: Fact::known(Term(sign.says.clone()), sign.evidence.clone()),
        technology: match sign.technology {
            Some(name) => Fact::known(Term::from(name), sign.evidence.clone()),
            None => Fact::gap(Gap::new(Why::NotApplicable).tried(
                sign.evidence.source.clone(),
                saying!("names-no-technology", "names no technology"),
            )),
        },
    }
}

/// Where signs would stand, and that none does: the evidence that there are none.
fn asked(lease: &Lease) -> Vec<Evidence> {
    let paths = [
        "/proc/cpuinfo",
        "/sys/hypervisor/type",
        "/sys/class/dmi/id/sys_vendor",
        "/sys/class/dmi/id/product_name",
        "/sys/bus/virtio/devices",
        "/sys/firmware/devicetree/base/compatible",
        "/sys/firmware/devicetree/base/hypervisor/compatible",
        "/sys/firmware/qemu_fw_cfg/rev",
        "/sys/devices/system/clocksource/clocksource0/available_clocksource",
        "/run/systemd/container",
        "/proc/1/cgroup",
        "/proc/1/mountinfo",
    ];
    let asked = paths.iter().map(|path| {
        let file = File::read(lease, path);
        let answer = match file.bytes() {
            Ok(_) => "holds no sign".to_owned(),
            Err(gap) => {
                gap.tried.last().map_or("no answer".to_owned(), |last| last.answer.to_string())
            }
        };
        Evidence::new(
            file.path().clone(),
            saying!("sign-would-stand-here", "a sign would stand here"),
        )
        .raw(&answer)
    });
    asked.collect()
}

fn machine(
    sign: &'static str,
    says: String,
    technology: Option<&'static str>,
    evidence: Evidence,
) -> Sign {
    Sign { container: false, sign, says, technology, evidence }
}

/// Xen says so itself (`Documentation/ABI/stable/sysfs-hypervisor-xen`).
fn hypervisor_type(lease: &Lease) -> Option<Sign> {
    let file = File::read(lease, "/sys/hypervisor/type");
    let text = file.text().trim().to_owned();
    let technology = (text == "xen").then_some("Xen");
    let evidence = file.evidence(saying!("hypervisor-own-word", "the hypervisor's own word"));
    (!text.is_empty()).then(|| machine("hypervisor's name in sysfs", text, technology, evidence))
}

/// The hypervisor's node of the device tree (`Documentation/devicetree/bindings`, Xen and KVM).
fn hypervisor_node(lease: &Lease) -> Option<Sign> {
    let file = File::read(lease, format!("{DEVICE_TREE}/hypervisor/compatible"));
    let text = file.text().trim_matches('\0').replace('\0', ", ");
    let known = [("linux,kvm", "KVM"), ("xen,xen", "Xen"), ("vmware", "VMware"), ("qemu", "QEMU")];
    let technology =
        known.iter().find(|(needle, _)| text.contains(needle)).map(|(_, technology)| *technology);
    let evidence = file.evidence(saying!(
        "node-hypervisor-puts-into-device",
        "the node that a hypervisor puts into the device tree",
    ));
    (!text.is_empty()).then(|| machine("device tree's node", text, technology, evidence))
}

/// Boards that only an emulator or a virtual machine's program makes up, by the device tree's
/// `compatible` and `model`.
fn made_up_board(lease: &Lease) -> Option<Sign> {
    const BOARDS: [(&str, Option<&str>); 6] = [
        ("qemu,pseries", Some("QEMU")),
        ("emulated by qemu", Some("QEMU")),
        ("riscv-virtio,qemu", Some("QEMU")),
        ("qemu,virt", Some("QEMU")),
        // QEMU's board of this name is imitated by other programs.
        ("linux,dummy-virt", None),
        ("riscv-virtio", None),
    ];
    let known = |name: &str| {
        let file = File::read(lease, format!("{DEVICE_TREE}/{name}"));
        let text = file.text().trim_matches('\0').replace('\0', ", ");
        let board = BOARDS.iter().find(|(board, _)| text.contains(board))?;
        let rule = saying!("board-made-up", "a board that there is no hardware of");
        Some(machine("device tree's board", text, board.1, file.evidence(rule)))
    };
    let (first, second) = (known("model"), known("compatible"));
    match (&first, &second) {
        (Some(sign), _) if sign.technology.is_some() => first,
        (None, _) | (_, Some(Sign { technology: Some(_), .. })) => second,
        _ => first,
    }
}

/// What a logical partition may ask its hypervisor (Linux on Power Architecture Reference, clause
/// 14.5.1).
fn partition_calls(lease: &Lease) -> Option<Sign> {
    ["qemu,hypertas-functions", "ibm,hypertas-functions"].into_iter().find_map(|name| {
        let file = File::read(lease, format!("{DEVICE_TREE}/rtas/{name}"));
        let count = file.text().split('\0').filter(|call| !call.is_empty()).count();
        let rule = saying!(
            "calls-of-partition-to-hypervisor",
            "calls that a logical partition may make to its hypervisor",
        );
        let technology = name.starts_with("qemu").then_some("QEMU");
        let says = format!("{name}: {}", counted(count, "call"));
        (count > 0).then(|| machine("calls to a hypervisor", says, technology, file.evidence(rule)))
    })
}

fn counted(count: usize, what: &str) -> String {
    format!("{count} {what}{}", if count == 1 { "" } else { "s" })
}

/// Devices that a hypervisor gives and no board has (Virtual I/O Device 1.3).
fn virtio_devices(lease: &Lease) -> Option<Sign> {
    const DEVICES: &str = "/sys/bus/virtio/devices";
    let (names, _) = lease.list(Path::new(DEVICES)).ok()?;
    let rule = saying!("virtio-devices-by-hypervisor", "devices that a hypervisor gives");
    let evidence =
        crate::readers::file::listing_evidence(DEVICES, rule).raw(&names.len().to_string());
    let says = counted(names.len(), "device");
    (!names.is_empty()).then(|| machine("virtio devices", says, None, evidence))
}

/// Clocks that the kernel registers only where it found the hypervisor that gives them.
fn clocks(lease: &Lease) -> Vec<Sign> {
    let file =
        File::read(lease, "/sys/devices/system/clocksource/clocksource0/available_clocksource");
    let known = [
        ("kvm-clock", "KVM"),
        ("xen", "Xen"),
        ("hyperv_clocksource_tsc_page", "Microsoft Hyper-V"),
        ("hyperv_clocksource_msr", "Microsoft Hyper-V"),
        ("vmware-tsc", "VMware"),
    ];
    let text = file.text();
    text.split_whitespace()
        .filter_map(|clock| {
            let (_, technology) = known.iter().find(|(name, _)| *name == clock)?;
            let evidence = file.evidence(saying!(
                "kernel-registers-clock-only-under",
                "the kernel registers the clock only under this hypervisor",
            ));
            Some(machine("clock", clock.to_owned(), Some(technology), evidence))
        })
        .collect()
}

/// On IBM Z, what lies between the machine and this system (`/proc/sysinfo`, VM00 lines).
fn mainframe(lease: &Lease) -> Option<Sign> {
    let file = File::read(lease, "/proc/sysinfo");
    let text = file.text();
    let blocks = colon::blocks(&text);
    let entry = colon::find_first(&blocks, "VM00 Control Program")?;
    let technology = [("z/VM", "z/VM"), ("KVM/Linux", "KVM")]
        .iter()
        .find(|(name, _)| entry.value.contains(name))
        .map(|(_, technology)| *technology);
    let evidence = file.at_line(
        entry.line,
        saying!("control-program-beneath-system", "the control program beneath this system"),
    );
    Some(machine("control program", entry.value.to_owned(), technology, evidence))
}

/// The device through which QEMU configures its guests
/// (`Documentation/ABI/testing/sysfs-firmware-qemu_fw_cfg`).
fn configuration_device(lease: &Lease) -> Option<Sign> {
    let file = File::read(lease, "/sys/firmware/qemu_fw_cfg/rev");
    let text = file.text().trim().to_owned();
    let evidence = file.evidence(saying!(
        "kernel-found-qemu-device-configuring",
        "the kernel found QEMU's device for configuring guests",
    ));
    let says = format!("fw_cfg, revision {text}");
    (!text.is_empty()).then(|| machine("configuration device", says, Some("QEMU"), evidence))
}

/// Strings of the firmware's tables in which hypervisors and clouds name themselves: the file, what
/// it begins with, and whom that names.
const NAMES: [(&str, &str, &str); 20] = [
    ("sys_vendor", "QEMU", "QEMU"),
    ("sys_vendor", "VMware", "VMware"),
    ("sys_vendor", "Xen", "Xen"),
    ("sys_vendor", "Parallels", "Parallels"),
    ("sys_vendor", "innotek GmbH", "VirtualBox"),
    ("sys_vendor", "BHYVE", "bhyve"),
    ("sys_vendor", "OpenStack Foundation", "OpenStack"),
    ("sys_vendor", "Nutanix", "Nutanix AHV"),
    ("sys_vendor", "DigitalOcean", "DigitalOcean"),
    ("product_name", "KVM", "KVM"),
    ("product_name", "VirtualBox", "VirtualBox"),
    ("product_name", "Bochs", "Bochs"),
    ("product_name", "BHYVE", "bhyve"),
    ("product_name", "OpenStack", "OpenStack"),
    ("product_name", "Google Compute Engine", "Google Compute Engine"),
    ("product_name", "Alibaba Cloud ECS", "Alibaba Cloud ECS"),
    ("product_name", "RHEV Hypervisor", "RHEV"),
    ("product_name", "Apple Virtualization", "Apple Virtualization"),
    ("bios_vendor", "BHYVE", "bhyve"),
    ("bios_vendor", "Xen", "Xen"),
];

fn system_strings(lease: &Lease) -> Vec<Sign> {
    let mut signs = Vec::new();
    let text = |file: &str| published::<Term>(lease, file);
    for file in ["sys_vendor", "product_name", "bios_vendor"] {
        let fact = text(file);
        let (Some(value), Some(evidence)) = (fact.value(), fact.evidence().first()) else {
            continue;
        };
        let named = NAMES.iter().find(|(name, start, _)| *name == file && value.starts_with(start));
        if let Some((_, _, technology)) = named {
            let evidence = Evidence {
                rule: saying!(
                    "name-technology-writes-into-firmware",
                    "a name that this technology writes into its firmware's tables",
                ),
                ..evidence.clone()
            };
            signs.push(machine("firmware's tables", value.0.clone(), Some(technology), evidence));
        }
    }
    // This maker also builds hardware: the product's name tells the two apart.
    let (vendor, product) = (text("sys_vendor"), text("product_name"));
    if vendor.value().is_some_and(|name| name.starts_with("Microsoft"))
        && let Some(name) =
            product.value().filter(|name| name.as_ref() as &str == "Virtual Machine")
        && let Some(evidence) = product.evidence().first()
    {
        let technology = Some("Microsoft Hyper-V");
        signs.push(machine("firmware's tables", name.0.clone(), technology, evidence.clone()));
    }
    signs
}

/// Who made the fixed ACPI description table (ACPI Specification 6.5, clause 5.2.6).
fn acpi_maker(lease: &Lease) -> Option<Sign> {
    let file = File::read_head(lease, FACP, acpi::HEADER_LENGTH);
    let header = acpi::table_header(file.bytes().ok()?)?;
    let technology = match header.oem_id.as_str() {
        // QEMU took its first tables, and their name, from there.
        "BOCHS" => "QEMU or Bochs",
        "VBOX" => "VirtualBox",
        "VRTUAL" => "Microsoft Hyper-V",
        "XEN" | "Xen" => "Xen",
        "BHYVE" => "bhyve",
        "AMAZON" => "Amazon EC2",
        "Google" => "Google Compute Engine",
        _ => return None,
    };
    let evidence = Evidence::new(
        file.path().clone(),
        saying!(
            "oem-id-technology-writes-into",
            "the OEM id that this technology writes into its ACPI tables",
        ),
    )
    .place("offset 10, 6 bytes")
    .raw(&header.oem_id);
    Some(machine("ACPI table's maker", header.oem_id, Some(technology), evidence))
}

/// The processor's own word: CPUID leaf 1, ECX bit 31, is for hypervisors to set.
fn processor_flag(lease: &Lease) -> Option<Sign> {
    let file = File::read(lease, "/proc/cpuinfo");
    let text = file.text();
    let blocks = colon::blocks(&text);
    let entry = colon::find_first(&blocks, "flags")?;
    entry.value.split_whitespace().find(|flag| *flag == "hypervisor")?;
    let mut evidence = file.at_line(
        entry.line,
        saying!("flag-hypervisors-alone-set", "the flag is for hypervisors alone to set"),
    );
    evidence.raw = Some("flags: … hypervisor …".into());
    Some(machine("processor's flag", "hypervisor".to_owned(), None, evidence))
}

/// The firmware's own word (DSP0134 clause 7.1.2.2, bit 4).
fn virtual_machine_bit(tables: &Tables) -> Option<Sign> {
    let bios = tables.all(BiosInformation::from_structure).next()?;
    let field = bios.is_virtual_machine().filter(|field| field.value);
    let fact = field.map(|field| tables.fact(Some(field), saying!("bit-4", "bit 4"), Some))?;
    let evidence = fact.evidence().first()?.clone();
    let says = "SMBIOS table describes a virtual machine".to_owned();
    Some(machine("firmware's characteristics", says, None, evidence))
}

/// Files that container managers leave inside.
fn container_files(lease: &Lease) -> Vec<Sign> {
    let mut signs = Vec::new();
    let mut found = |sign, says: String, technology, evidence| {
        signs.push(Sign { container: true, sign, says, technology, evidence });
    };
    let file = File::read(lease, "/run/systemd/container");
    let text = file.text().trim().to_owned();
    if !text.is_empty() {
        let evidence = file.evidence(saying!(
            "container-manager-name-process-1",
            "the container manager's name, as process 1 kept it",
        ));
        found("container manager's file", text.clone(), container_technology(&text), evidence);
    }
    for (path, technology) in [("/.dockerenv", "Docker"), ("/run/.containerenv", "Podman")] {
        let file = File::read(lease, path);
        if file.bytes().is_ok() {
            let evidence = file.evidence(saying!(
                "file-manager-puts-into-containers",
                "the file that this manager puts into its containers",
            ));
            // That it is there is the sign; what stands in it are the container's own names.
            let evidence = evidence.raw(path);
            found("container manager's file", path.to_owned(), Some(technology), evidence);
        }
    }
    signs
}

fn container_technology(word: &str) -> Option<&'static str> {
    Some(match word {
        "docker" => "Docker",
        "podman" => "Podman",
        "lxc" => "LXC",
        "lxc-libvirt" => "LXC",
        "systemd-nspawn" => "systemd-nspawn",
        "rkt" => "rkt",
        "wsl" => "WSL",
        "proot" => "PRoot",
        "openvz" => "OpenVZ",
        _ => return None,
    })
}

/// What process 1 is confined by: its control group and where its root is stored.
fn process_one(lease: &Lease) -> Vec<Sign> {
    let mut signs = Vec::new();
    let groups = File::read(lease, "/proc/1/cgroup");
    let text = groups.text();
    let known = [
        ("/docker/", "Docker"),
        ("/docker-", "Docker"),
        ("/libpod-", "Podman"),
        ("/lxc/", "LXC"),
        ("/lxc.payload", "LXC"),
        ("/kubepods", "Kubernetes"),
        ("/machine.slice/systemd-nspawn", "systemd-nspawn"),
    ];
    let group = crate::formats::lines(&text).find_map(|line| {
        let (part, technology) = known.iter().find(|(part, _)| line.raw.contains(part))?;
        Some((line, *part, *technology))
    });
    if let Some((line, part, technology)) = group {
        let evidence = groups.at_line(
            line,
            saying!("control-group-manager-makes", "a control group that this manager makes"),
        );
        // The rest of it is the container's own id.
        let says = format!("{}…", part.trim_end_matches(['/', '-']));
        let sign = "control group of process 1";
        signs.push(Sign { container: true, sign, says, technology: Some(technology), evidence });
    }
    let mounts = File::read(lease, "/proc/1/mountinfo");
    let text = mounts.text();
    let stores = [
        ("/var/lib/docker/", "Docker"),
        ("/var/lib/containers/storage/", "Podman"),
        ("/containerd/", "containerd"),
    ];
    for mount in mountinfo::parse(&text) {
        let root = mount.mount_point == "/" && mount.filesystem == "overlay";
        let stored = stores.iter().find(|(path, _)| root && mount.super_options.contains(path));
        if let Some((path, technology)) = stored {
            let rule = saying!(
                "root-overlay-layers-manager-stores",
                "the root is an overlay of layers that this manager stores",
            );
            signs.push(Sign {
                container: true,
                sign: "root filesystem of process 1",
                says: format!("overlay of layers in {path}"),
                technology: Some(technology),
                evidence: mounts.at_line(mount.line, rule),
            });
        }
        if mount.filesystem == "fuse.lxcfs" {
            let rule = saying!(
                "filesystem-mounted-containers-kind",
                "a filesystem that is mounted in containers of this kind",
            );
            signs.push(Sign {
                container: true,
                sign: "filesystem mounted in process 1",
                says: "lxcfs".to_owned(),
                technology: Some("LXC"),
                evidence: mounts.at_line(mount.line, rule),
            });
            break;
        }
    }
    signs
}
