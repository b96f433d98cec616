//! What a processor says of itself, whatever its architecture.

use crate::readers::sayings;
use std::sync::Arc;

use super::{Info, arm};
use crate::{formats::number, readers::file::File, source::Lease};
use tectum_report::{
    fact::{Fact, Gap, Why, saying},
    leaf::{Serial, Term},
    model::{ByteOrder, RunsOn},
};

fn is_x86(architecture: &Fact<Term>) -> bool {
    architecture
        .value()
        .is_some_and(|name| &**name == "x86_64" || (name.starts_with('i') && name.ends_with("86")))
}

/// Hypervisors for x86 set a processor flag; other architectures have no such sign here.
pub(super) fn runs_on(architecture: &Fact<Term>, info: &Info<'_>) -> Fact<RunsOn> {
    if let Some(gap) = architecture.missing() {
        return Fact::gap(gap.clone());
    }
    if !is_x86(architecture) {
        return Fact::gap(Gap::new(Why::NotProvided).tried(
            Arc::clone(info.file.path()),
            saying!("no-such-sign-architecture", "has no such sign on this architecture"),
        ));
    }
    let rule = saying!(
        "processor-flag-hypervisor-hypervisors-set",
        "the processor flag `hypervisor`, which hypervisors set for their guests",
    );
    info.fact(&["flags"], rule, |flags| {
        Some(if flags.split_whitespace().any(|flag| flag == "hypervisor") {
            RunsOn::Hypervisor
        } else {
            RunsOn::NoSign
        })
    })
    .with_raw(|on| match on {
        RunsOn::Hypervisor => "flags: … hypervisor …",
        RunsOn::NoSign => "flags, without hypervisor",
    })
}

/// The core design of an Arm processor, from its implementer and part numbers.
pub(super) fn arm_model(info: &Info<'_>) -> Fact<Term> {
    let implementer =
        info.entries.first(&["CPU implementer"]).and_then(|entry| number::hexadecimal(entry.value));
    let rule = saying!(
        "part-name-implementer-list-midr",
        "the part's name in the implementer's list of MIDR part numbers",
    );
    info.fact(&["CPU part"], rule, |code| {
        arm::part(implementer?, number::hexadecimal(code)?).map(Term::from)
    })
}

/// Lines that should say the same of every CPU of a machine.
const ALIKE: [&[&str]; 6] = [
    &["model name", "Model Name", "cpu model", "uarch", "cpu"],
    &["CPU part"],
    &["stepping"],
    &["CPU revision", "CPU Revision", "revision"],
    &["microcode"],
    &["flags", "Features", "isa"],
];

pub(super) fn all_alike(info: &Info<'_>) -> Fact<bool> {
    let mut evidence = Vec::new();
    for keys in ALIKE {
        let mut entries = info.entries.each(keys);
        let Some(first) = entries.next() else { continue };
        let rule = saying!(
            "model-stepping-microcode-features-compared",
            "model, stepping, microcode and features, compared over all CPUs",
        );
        if let Some(other) = entries.find(|entry| entry.value != first.value) {
            let at = |entry: &crate::formats::colon::Entry<'_>| {
                info.file.at_line(
                    entry.line,
                    saying!("two-cpus-differ-line", "two CPUs differ in this line"),
                )
            };
            return Fact::known_from(false, vec![at(first), at(other)]);
        }
        evidence.push(info.file.at_line(first.line, rule));
    }
    match evidence.is_empty() {
        true => Fact::gap(info.file.lacks("what its CPUs are")),
        false => Fact::known_from(true, evidence),
    }
}

/// `Documentation/ABI/testing/sysfs-kernel-cpu_byteorder`; older kernels tell by their architecture.
pub(super) fn byte_order(lease: &Lease, architecture: &Fact<Term>) -> Fact<ByteOrder> {
    File::read(lease, "/sys/kernel/cpu_byteorder")
        .fact(sayings::KERNEL_WORD, |text| match text {
            "little" => Some(ByteOrder::Little),
            "big" => Some(ByteOrder::Big),
            _ => None,
        })
        .or_known(|| {
            architecture
                .clone()
                .and_then(|name| match &*name {
                    "x86_64" | "i386" | "i486" | "i586" | "i686" | "aarch64" | "armv6l"
                    | "armv7l" | "armv8l" | "riscv32" | "riscv64" | "loongarch64" | "ppc64le"
                    | "mipsel" => Ok(ByteOrder::Little),
                    "s390x" | "aarch64_be" | "ppc" | "ppc64" | "armv7b" | "sparc64" => {
                        Ok(ByteOrder::Big)
                    }
                    _ => Err(Gap::new(Why::NotProvided).hint(saying!(
                        "kernels-architecture-come-both-orders",
                        "kernels of this architecture come in both orders",
                    ))),
                })
                .by_rule(saying!(
                    "kernels-architecture-but-one-order",
                    "kernels of this architecture have but one order",
                ))
        })
}

/// Programs of which widths run: both on x86 with long mode, one elsewhere as far as can be told.
pub(super) fn operating_widths_bits(
    lease: &Lease,
    architecture: &Fact<Term>,
    info: &Info<'_>,
) -> Fact<Vec<u64>> {
    if is_x86(architecture) {
        let rule = saying!(
            "processor-flag-lm-64-bit",
            "the processor flag `lm`: 64-bit programs beside 32-bit ones",
        );
        return info
            .fact(&["flags"], rule, |flags| {
                Some(match flags.split_whitespace().any(|flag| flag == "lm") {
                    true => vec![32, 64],
                    false => vec![32],
                })
            })
            .with_raw(|widths| match widths.len() {
                2 => "flags: … lm …",
                _ => "flags, without lm",
            });
    }
    File::read(lease, "/sys/kernel/address_bits")
        .fact(
            saying!("width-kernel-itself-runs", "the width that the kernel itself runs at"),
            |text| Some(vec![number::decimal(text)?]),
        )
        .or_known(|| {
            architecture
                .clone()
                .and_then(|name| match &*name {
                    "aarch64" | "aarch64_be" | "riscv64" | "ppc64" | "ppc64le" | "s390x"
                    | "loongarch64" | "mips64" | "sparc64" => Ok(vec![64]),
                    "riscv32" | "ppc" | "mips" => Ok(vec![32]),
                    name if name.starts_with("armv") => Ok(vec![32]),
                    _ => Err(Gap::new(Why::NotProvided)),
                })
                .by_rule(saying!(
                    "width-kernels-architecture-run",
                    "the width that kernels of this architecture run at",
                ))
        })
}

/// `address sizes : 40 bits physical, 48 bits virtual`.
pub(super) fn address_bits(info: &Info<'_>, which: &str) -> Fact<u64> {
    info.fact(
        &["address sizes", "Address Sizes"],
        saying!("bits-before-word", "bits before the word"),
        |text| {
            let part = text.split(',').find(|part| part.contains(which))?;
            number::decimal(part.split_whitespace().next()?)
        },
    )
}

/// The frequency that stands behind an `@` in the model's name.
pub(super) fn sold_by(info: &Info<'_>) -> Fact<u64> {
    let rule = saying!("frequency-model-name", "the frequency in the model's name");
    info.fact(&["model name", "Model Name"], rule, |name| {
        let (_, frequency) = name.rsplit_once('@')?;
        let (digits, scale) = match frequency.trim() {
            text if text.ends_with("GHz") => (text.strip_suffix("GHz")?, 1000),
            text => (text.strip_suffix("MHz")?, 1),
        };
        let digits = digits.trim();
        let (whole, fraction) = digits.split_once('.').unwrap_or((digits, ""));
        let mut mhz = number::decimal(whole)?.checked_mul(scale)?;
        let mut place = scale;
        for digit in fraction.bytes() {
            place /= 10;
            mhz += u64::from(digit.is_ascii_digit().then(|| digit - b'0')?) * place;
        }
        Some(mhz)
    })
}

/// Boards for Arm; a board that has none writes zeros.
pub(super) fn board_serial(info: &Info<'_>) -> Fact<Serial> {
    info.where_said::<Serial>(&["Serial"], sayings::BOARD_LINE).and_then(|serial| {
        match serial.bytes().all(|digit| digit == b'0') {
            true => Err(Gap::new(Why::Blank).raw(&serial)),
            false => Ok(serial),
        }
    })
}
