//! Signs of a virtual machine.

use std::path::Path;

use tectum_report::{
    fact::{Evidence, Fact, saying},
    leaf::Term,
};
use tectum_smbios::types::BiosInformation;

use super::{FACP, Of, Sign};
use crate::{
    formats::{acpi, colon},
    readers::{
        device_tree::DEVICE_TREE,
        dmi::{Tables, published},
        file::{File, listing_evidence},
    },
    source::Lease,
};

/// Every sign there is, those that name a technology most surely first.
pub(super) fn signs(lease: &Lease, tables: &Tables) -> Vec<Sign> {
    let made_by = MadeBy::read(lease);
    let mut signs = Vec::new();
    signs.extend(hypervisor_type(lease));
    signs.extend(hypervisor_node(lease));
    signs.extend(made_up_board(lease));
    signs.extend(partition_calls(lease));
    signs.extend(clocks(lease));
    signs.extend(mainframe(lease));
    signs.extend(configuration_device(lease));
    signs.extend(made_by.signs());
    signs.extend(acpi_maker(lease, &made_by));
    signs.extend(processor_flag(lease));
    signs.extend(virtio_devices(lease));
    signs.extend(virtual_machine_bit(tables));
    signs
}

/// The name of the sign that processors give.
pub(super) const PROCESSOR_FLAG: &str = "processor's flag";

fn machine(
    sign: &'static str,
    says: String,
    technology: Option<&'static str>,
    evidence: Evidence,
) -> Sign {
    Sign { of: Of::VirtualMachine, decisive: true, sign, says, technology, evidence }
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

/// Devices of the kind that hypervisors give (Virtual I/O Device 1.3), by what they hang on.
fn virtio_devices(lease: &Lease) -> Vec<Sign> {
    const DEVICES: &str = "/sys/bus/virtio/devices";
    let Ok((names, _)) = lease.list(Path::new(DEVICES)) else { return Vec::new() };
    let (mut given, mut perhaps) = (0, 0);
    for name in names.iter() {
        let path = Path::new(DEVICES).join(name);
        let hangs_on = lease.resolve(&path).map(|at| at.to_string_lossy().into_owned());
        match hangs_on {
            // A processor beside the main one, or a card's queue, that the kernel speaks to in this way.
            Ok(at) if at.contains("/remoteproc") || at.contains("/vdpa") => {}
            // A card may look like these to a real machine.
            Ok(at) if at.contains("/pci") => perhaps += 1,
            Ok(_) => given += 1,
            Err(_) => perhaps += 1,
        }
    }
    let sign = |count: usize, decisive, evidence: Evidence| {
        let evidence = evidence.raw(&count.to_string());
        let sign = machine("virtio devices", counted(count, "device"), None, evidence);
        (count > 0).then_some(Sign { decisive, ..sign })
    };
    let given_by = saying!("virtio-devices-by-hypervisor", "devices that a hypervisor gives");
    let on_pci = saying!(
        "virtio-devices-on-pci",
        "devices of the kind that hypervisors give, on PCI, where cards give such too",
    );
    let all = [
        sign(given, true, listing_evidence(DEVICES, given_by)),
        sign(perhaps, false, listing_evidence(DEVICES, on_pci)),
    ];
    all.into_iter().flatten().collect()
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

/// How a string of the firmware's tables says a name.
#[derive(Clone, Copy)]
enum Says {
    Begins(&'static str),
    Is(&'static str),
}

impl Says {
    fn is_said_by(self, text: &str) -> bool {
        match self {
            Self::Begins(name) => text.starts_with(name),
            Self::Is(name) => text == name,
        }
    }
}

/// Strings of the firmware's tables in which hypervisors and clouds name themselves: maker and product, whom that names,
/// and whether their real machines never say it.
const NAMES: [(Option<Says>, Option<Says>, &str, bool); 19] = [
    (Some(Says::Begins("QEMU")), None, "QEMU", true),
    (Some(Says::Begins("VMware")), None, "VMware", true),
    (Some(Says::Begins("Xen")), None, "Xen", true),
    (Some(Says::Begins("Parallels")), None, "Parallels", true),
    (Some(Says::Begins("innotek GmbH")), None, "VirtualBox", true),
    (Some(Says::Begins("BHYVE")), None, "bhyve", true),
    (Some(Says::Begins("OpenStack Foundation")), None, "OpenStack", true),
    // These makers build real machines too: the product's name tells them apart.
    (Some(Says::Begins("Nutanix")), Some(Says::Begins("AHV")), "Nutanix AHV", true),
    (Some(Says::Begins("DigitalOcean")), Some(Says::Begins("Droplet")), "DigitalOcean", true),
    (Some(Says::Begins("Microsoft")), Some(Says::Is("Virtual Machine")), "Microsoft Hyper-V", true),
    (None, Some(Says::Is("KVM")), "KVM", true),
    (None, Some(Says::Begins("VirtualBox")), "VirtualBox", true),
    (None, Some(Says::Begins("Bochs")), "Bochs", true),
    (None, Some(Says::Begins("BHYVE")), "bhyve", true),
    (None, Some(Says::Begins("OpenStack")), "OpenStack", true),
    (None, Some(Says::Begins("RHEV Hypervisor")), "RHEV", true),
    (None, Some(Says::Begins("Apple Virtualization")), "Apple Virtualization", true),
    // Their real machines are called the same.
    (None, Some(Says::Begins("Google Compute Engine")), "Google Compute Engine", false),
    (None, Some(Says::Begins("Alibaba Cloud ECS")), "Alibaba Cloud ECS", false),
];

/// The same, of who made the firmware.
const FIRMWARE_MAKERS: [(&str, &str); 2] = [("BHYVE", "bhyve"), ("Xen", "Xen")];

/// Who made the machine, and what it is called.
struct MadeBy {
    maker: Fact<Term>,
    product: Fact<Term>,
    firmware: Fact<Term>,
}

impl MadeBy {
    fn read(lease: &Lease) -> Self {
        Self {
            maker: published(lease, "sys_vendor"),
            product: published(lease, "product_name"),
            firmware: published(lease, "bios_vendor"),
        }
    }

    /// Amazon's machines are called by their type: `m6g.large`, and `m6g.metal` where it is a real one.
    fn amazons(&self) -> Option<&str> {
        let maker = self.maker.value()?;
        let product: &str = self.product.value()?.as_ref();
        (maker.starts_with("Amazon EC2") && product.contains('.')).then_some(product)
    }

    /// Whether the maker says that it is a real one.
    fn is_amazons_metal(&self) -> bool {
        self.amazons().is_some_and(|product| product.contains(".metal"))
    }

    fn signs(&self) -> Vec<Sign> {
        let mut signs = Vec::new();
        let mut told = |fact: &Fact<Term>, technology, decisive| {
            let (Some(value), Some(evidence)) = (fact.value(), fact.evidence().first()) else {
                return;
            };
            let rule = match decisive {
                true => saying!(
                    "name-technology-writes-into-firmware",
                    "a name that this technology writes into its firmware's tables",
                ),
                false => saying!(
                    "name-cloud-writes-into-firmware",
                    "a name that this cloud writes into the firmware's tables of virtual and of real machines",
                ),
            };
            let evidence = Evidence { rule, ..evidence.clone() };
            let sign = machine("firmware's tables", value.0.clone(), Some(technology), evidence);
            signs.push(Sign { decisive, ..sign });
        };
        let says = |name: &Option<Says>, fact: &Fact<Term>| {
            name.is_none_or(|name| fact.value().is_some_and(|text| name.is_said_by(text)))
        };
        // The maker's name and the product's are two signs.
        for (of_product, fact) in [(false, &self.maker), (true, &self.product)] {
            let named = NAMES.iter().find(|(maker, product, ..)| {
                product.is_some() == of_product
                    && says(maker, &self.maker)
                    && says(product, &self.product)
            });
            if let Some((_, _, technology, decisive)) = named {
                told(fact, technology, *decisive);
            }
        }
        if self.amazons().is_some() && !self.is_amazons_metal() {
            told(&self.product, "Amazon EC2", true);
        }
        let maker = |(name, _): &&(&str, &str)| {
            self.firmware.value().is_some_and(|text| text.starts_with(name))
        };
        if let Some((_, technology)) = FIRMWARE_MAKERS.iter().find(maker) {
            told(&self.firmware, technology, true);
        }
        signs
    }
}

/// Who made the fixed ACPI description table (ACPI Specification 6.5, clause 5.2.6).
fn acpi_maker(lease: &Lease, made_by: &MadeBy) -> Option<Sign> {
    let file = File::read_head(lease, FACP, acpi::HEADER_LENGTH);
    let header = acpi::table_header(file.bytes().ok()?)?;
    let (technology, decisive) = match header.oem_id.as_str() {
        // QEMU took its first tables, and their name, from there.
        "BOCHS" => ("QEMU or Bochs", true),
        "VBOX" => ("VirtualBox", true),
        "VRTUAL" => ("Microsoft Hyper-V", true),
        "XEN" | "Xen" => ("Xen", true),
        "BHYVE" => ("bhyve", true),
        // These clouds write it into the tables of their real machines too.
        "AMAZON" if made_by.is_amazons_metal() => return None,
        "AMAZON" => ("Amazon EC2", false),
        "Google" => ("Google Compute Engine", false),
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
    let sign = machine("ACPI table's maker", header.oem_id, Some(technology), evidence);
    Some(Sign { decisive, ..sign })
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
    Some(machine(PROCESSOR_FLAG, "hypervisor".to_owned(), None, evidence))
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
