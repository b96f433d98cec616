//! The kernel: how it was built, which others are installed, what was put into it.

use crate::readers::sayings;
use std::collections::{BTreeMap, BTreeSet};

use crate::{
    formats::{kernel_version, number, release_order},
    readers::file::{File, list, listing_evidence},
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Why, saying},
    leaf::{Label, Term},
    model::{InstalledKernel, LivePatch},
};

pub(super) fn built(
    version: &File,
    pick: impl FnOnce(kernel_version::Built<'_>) -> &str,
) -> Fact<Term> {
    version.fact(saying!("stands-parentheses", "what stands in its parentheses"), |line| {
        kernel_version::parse(line).map(|built| Term::from(pick(built)))
    })
}

/// What boot files are called, before the release.
const BOOT_FILES: [&str; 6] =
    ["vmlinuz-", "vmlinux-", "vmlinux.gz-", "Image-", "image-", "kernel-"];

/// Kernels that have modules or a boot file.
pub(super) fn installed(lease: &Lease, running: &Fact<Term>) -> Parts<InstalledKernel> {
    let mut found: BTreeMap<String, (bool, bool)> = BTreeMap::new();
    // One of the two leads to the other on most systems; on old ones the first is not there.
    let folders = ["/usr/lib/modules", "/lib/modules"];
    let mut modules = Err(Gap::new(Why::NotProvided));
    let mut folder = folders[0];
    for one in folders {
        match list(lease, one) {
            Ok(names) => {
                (modules, folder) = (Ok(names), one);
                break;
            }
            Err(gap) if gap.why.hides_a_value() => modules = Err(gap),
            Err(_) => {}
        }
    }
    for name in modules.iter().flat_map(|names| names.iter()).filter_map(|name| name.to_str()) {
        found.entry(name.to_owned()).or_default().0 = true;
    }
    let boot = list(lease, "/boot");
    for name in boot.iter().flat_map(|names| names.iter()).filter_map(|name| name.to_str()) {
        let release = BOOT_FILES.iter().find_map(|start| name.strip_prefix(start));
        let Some(release) = release.filter(|release| !is_put_aside(release)) else { continue };
        found.entry(release.to_owned()).or_default().1 = true;
    }
    // What could not be listed may hold others.
    let hides = |names: &Result<_, Gap>| {
        names.as_ref().err().filter(|gap| gap.why.hides_a_value()).cloned()
    };
    let no_modules_seen = hides(&modules);
    let hidden = no_modules_seen.clone().or_else(|| hides(&boot));
    if found.is_empty() {
        let mut gap = Gap::new(Why::NotProvided);
        for folder in folders {
            gap = gap.tried(
                folder.into(),
                saying!("holds-no-kernel-modules", "holds no kernel's modules"),
            );
        }
        return Parts::missing(hidden.unwrap_or(gap.tried(
            "/boot".into(),
            saying!("holds-no-kernel-boot-file", "holds no kernel's boot file"),
        )));
    }
    let mut releases: Vec<(&String, &(bool, bool))> = found.iter().collect();
    releases.sort_by(|(a, _), (b, _)| release_order::compare(a, b));
    let at =
        |folder: &str, release: &str| listing_evidence(folder, sayings::NAMES_FOLDER).raw(release);
    let kernels = releases.into_iter().map(|(release, (modules, boot_file))| InstalledKernel {
        release: Fact::known(
            Term(release.clone()),
            at(if *modules { folder } else { "/boot" }, release),
        ),
        modules: match &no_modules_seen {
            None => Fact::known(*modules, at(folder, release)),
            Some(gap) => Fact::gap(gap.clone()),
        },
        boot_file: match &boot {
            Ok(_) => Fact::known(*boot_file, at("/boot", release)),
            Err(gap) => Fact::gap(gap.clone()),
        },
        running: running.clone().map(|running| *running == **release),
    });
    let rule = saying!(
        "every-kernel-modules-boot-file",
        "every kernel with modules or a boot file, the oldest first",
    );
    Parts::known(kernels.collect(), listing_evidence(folder, rule)).in_part(hidden)
}

/// Whether what is called so is none that the next start would take: for a rescue, or put by when another took its name.
fn is_put_aside(release: &str) -> bool {
    let behind = [".old", ".bak", "~", ".orig", ".rpmsave", ".rpmnew"];
    release.contains("rescue")
        || release.contains(".dpkg-")
        || behind.iter().any(|end| release.ends_with(end))
}

/// The newest kernel of the running one's kind that can be started: one with a boot file, or, where `/boot` names none,
/// one with modules. Where none is of that kind, the newest of all.
pub(super) fn newest(installed: &Parts<InstalledKernel>, running: &Fact<Term>) -> Fact<Term> {
    if let Some(gap) = installed.gap() {
        return Fact::gap(gap.clone());
    }
    let kind = running.value().map(|running| release_order::kind(running));
    let is_alike = |kernel: &&InstalledKernel| {
        kernel.release.value().is_some_and(|own| Some(release_order::kind(own)) == kind)
    };
    let alike: Vec<&InstalledKernel> = installed.iter().filter(is_alike).collect();
    let of = if alike.is_empty() { installed.iter().collect() } else { alike };
    let bootable = of.iter().rfind(|kernel| kernel.boot_file.value() == Some(&true));
    let newest = bootable.or(of.last()).copied();
    newest.map_or_else(Fact::default, |kernel| {
        kernel.release.clone().by_rule(saying!(
            "last-when-numbers-ordered-numbers",
            "of the running one's kind, if any are, the last when numbers are ordered as numbers",
        ))
    })
}

pub(super) fn newer(newest: &Fact<Term>, running: &Fact<Term>) -> Fact<bool> {
    if let Some(gap) = running.missing() {
        return Fact::gap(gap.clone());
    }
    let now = running.value().cloned();
    newest
        .clone()
        .and_then(|newest| {
            let now = now.ok_or_else(|| Gap::new(Why::NotProvided))?;
            // One of another kind is no newer one of this.
            let alike = release_order::kind(&newest) == release_order::kind(&now);
            Ok(alike && release_order::compare(&newest, &now).is_gt())
        })
        .by_rule(saying!(
            "newest-one-beside-running-one",
            "the newest one beside the running one, numbers ordered as numbers",
        ))
        .with_evidence_of(running)
}

/// `Documentation/ABI/testing/sysfs-kernel-livepatch`.
pub(super) fn live_patches(lease: &Lease) -> Parts<LivePatch> {
    const PATCHES: &str = "/sys/kernel/livepatch";
    let names = match list(lease, PATCHES) {
        Ok(names) => names,
        Err(gap) => {
            return Parts::missing(gap.hint(saying!(
                "kernel-can-patched-live",
                "there where the kernel can be patched live",
            )));
        }
    };
    let names: BTreeSet<&str> = names.iter().filter_map(|name| name.to_str()).collect();
    let patches = names.into_iter().map(|name| LivePatch {
        name: Fact::known(
            Label::from(name),
            listing_evidence(PATCHES, sayings::NAME_OF_THE_FOLDER).raw(name),
        ),
        enabled: File::read(lease, format!("{PATCHES}/{name}/enabled"))
            .fact(sayings::ONE_IS_YES, number::flag),
    });
    Parts::known(patches.collect(), listing_evidence(PATCHES, sayings::EVERY_FOLDER_FOLDER))
}

/// `Documentation/ABI/testing/sysfs-devices-system-clocksource`.
pub(super) fn clock(lease: &Lease, name: &str) -> File {
    File::read(lease, format!("/sys/devices/system/clocksource/clocksource0/{name}"))
}

/// What each bit of the kernel's taint says (`Documentation/admin-guide/tainted-kernels.rst`), from
/// the lowest.
const TAINTS: [&str; 20] = [
    "proprietary module",
    "module loaded by force",
    "processor not meant for such a machine",
    "module unloaded by force",
    "machine check exception",
    "bad page of memory",
    "asked for by a program",
    "kernel failed (oops or bug)",
    "ACPI table replaced by the user",
    "kernel warned of itself",
    "staging driver",
    "defect of the firmware worked around",
    "module built out of tree",
    "module without a signature",
    "CPU stuck (soft lockup)",
    "patched live",
    "the distribution's own mark",
    "structures laid out at random",
    "test run within the kernel",
    "firmware changed by a debugging call",
];

pub(super) fn taints(lease: &Lease) -> Fact<Vec<Term>> {
    File::read(lease, "/proc/sys/kernel/tainted").fact(
        saying!("bit-each-mark-spelled-out", "a bit for each mark, spelled out"),
        |text| {
            let bits = number::decimal(text)?;
            let set = (0..64usize).filter(|bit| bits >> bit & 1 == 1);
            Some(
                set.map(|bit| {
                    TAINTS.get(bit).map_or_else(|| Term(format!("bit {bit}")), |it| Term::from(*it))
                })
                .collect(),
            )
        },
    )
}
