//! Whether the machine is virtual, or a container: every sign there is, and what it says.
//!
//! A technology is named only where a sign names it. What a system runs in is told only by signs that nothing else has:
//! what is left over from an image, or what cards and clouds give to real machines too, decides nothing.

mod container;
mod control;
mod machine;

use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Why, saying},
    leaf::Term,
    model::{RunsIn, Virtualization, VirtualizationSign},
};

use crate::{
    formats::acpi,
    readers::{dmi::Tables, file::File},
    source::Lease,
};

/// The table that every ACPI firmware has, with its maker's name in it.
const FACP: &str = "/sys/firmware/acpi/tables/FACP";

/// What a sign is one of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Of {
    VirtualMachine,
    /// The one domain that controls a hypervisor.
    ControlDomain,
    Container,
}

/// One sign.
struct Sign {
    of: Of,
    /// Whether nothing else has such a sign.
    decisive: bool,
    sign: &'static str,
    says: String,
    technology: Option<&'static str>,
    evidence: Evidence,
}

/// Every sign, those that name a technology most surely first.
pub(super) fn virtualization(lease: &Lease, tables: &Tables) -> Virtualization {
    let mut signs: Vec<Sign> = control::sign(lease).into_iter().collect();
    signs.extend(machine::signs(lease, tables));
    signs.extend(container::signs(lease));
    let runs_in = runs_in(&signs);
    let mut technologies: Vec<Term> = Vec::new();
    let mut naming = Vec::new();
    for sign in signs.iter().filter(|sign| decided(&signs, sign.of)) {
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
            match signs.iter().any(|sign| sign.technology.is_some()) {
                true => saying!("what-names-one-does-not-decide", "what names one decides nothing"),
                false => saying!(
                    "names-no-technology-nor-does",
                    "names no technology, nor does any other sign",
                ),
            },
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

/// Whether a sign decides that the system is what this is one of. Then those that do not decide it name who does it, too.
fn decided(signs: &[Sign], of: Of) -> bool {
    let controls = signs.iter().any(|sign| sign.of == Of::ControlDomain);
    // In the domain that controls it a hypervisor shows itself as it does in others.
    let of_its_own = |sign: &Sign| {
        sign.of == Of::VirtualMachine
            && controls
            && (sign.technology == Some("Xen") || sign.sign == machine::PROCESSOR_FLAG)
    };
    signs.iter().any(|sign| sign.of == of && sign.decisive && !of_its_own(sign))
}

/// What a system runs in, by the signs that decide.
fn runs_in(signs: &[Sign]) -> RunsIn {
    let is = |of: Of| decided(signs, of);
    match (is(Of::VirtualMachine), is(Of::Container)) {
        (true, true) => RunsIn::ContainerInVirtualMachine,
        (true, false) => RunsIn::VirtualMachine,
        (false, true) => RunsIn::Container,
        (false, false) if is(Of::ControlDomain) => RunsIn::ControlDomain,
        (false, false) if signs.is_empty() => RunsIn::NoSign,
        (false, false) => RunsIn::Unclear,
    }
}

fn part(sign: &Sign) -> VirtualizationSign {
    VirtualizationSign {
        decisive: Fact::known(sign.decisive, sign.evidence.clone()),
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
