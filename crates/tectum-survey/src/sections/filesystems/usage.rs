//! How full filesystems and swap are.

use crate::readers::{mount_class, sayings};
use std::{collections::HashSet, path::Path};

use super::{errors, gone};
use crate::{
    formats::{fstab::Swap, mountinfo::Mount},
    readers::file::{File, refused},
    source::{Lease, VolumeUse},
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Saying, saying},
    leaf::{Bytes, FilesystemKind, MountSource, PathName, PercentHundredths},
    model::{FilesystemReadings, FilesystemUse, MountClass, PseudoMount, SwapUse},
};

const CALL: &str = "statvfs(2)";

/// What the kernel answers of a filesystem; each question has its own deadline, so that a server
/// that does not answer costs one gap.
pub(super) fn ask(lease: &Lease, mount_point: &str) -> Fact<VolumeUse> {
    match lease.statvfs(Path::new(mount_point)) {
        Ok(answer) => {
            let raw = format!(
                "size {}, free {}, available {}, inodes {}, free inodes {}",
                answer.size_bytes,
                answer.free_bytes,
                answer.available_bytes,
                answer.inodes,
                answer.free_inodes
            );
            let evidence = Evidence::new(
                CALL.into(),
                saying!("blocks-times-their-size", "blocks times their size"),
            )
            .place(mount_point.to_owned())
            .raw(&raw);
            Fact::known(answer, evidence)
        }
        Err(error) => {
            let mut gap = refused(&error);
            for attempt in &mut gap.tried {
                attempt.source = CALL.into();
            }
            gap.source = Some(CALL.into());
            Fact::gap(gap)
        }
    }
}

/// How large a filesystem is. How full it is moves by itself, and so stands in no evidence of the
/// inventory.
pub(super) fn size(lease: &Lease, mount_point: &str) -> Fact<Bytes> {
    ask(lease, mount_point)
        .map(|answer| Bytes(answer.size_bytes))
        .with_raw(|size| format!("size {}", size.0))
}

pub(super) fn readings(
    lease: &Lease,
    file: &File,
    mounts: &[Mount<'_>],
    swaps_file: &File,
    swaps: &[Swap<'_>],
) -> FilesystemReadings {
    let swap = match swaps_file.bytes() {
        Err(gap) => Parts::missing(gap.clone()),
        Ok(_) => Parts::known(
            swaps.iter().map(|swap| swap_use(swaps_file, swap)).collect(),
            swaps_file.evidence(sayings::EVERY_LINE_BUT_HEADING),
        ),
    };
    if let Err(gap) = file.bytes() {
        return FilesystemReadings {
            total_bytes: Fact::gap(gap.clone()),
            used_bytes: Fact::gap(gap.clone()),
            available_bytes: Fact::gap(gap.clone()),
            usage: Parts::missing(gap.clone()),
            pseudo_mounts: Parts::missing(gap.clone()),
            swap,
            errors: errors::errors(lease),
            member_errors: errors::of_members(lease),
            gone_devices: Parts::missing(gap.clone()),
        };
    }
    let mut usage = Vec::new();
    let mut pseudo_mounts = Vec::new();
    let mut counted: Vec<(Fact<VolumeUse>, String)> = Vec::new();
    let mut seen: HashSet<String> = HashSet::new();
    for mount in mounts {
        let Some(class) = mount_class::of(mount) else {
            pseudo_mounts.push(made_up_mount(file, mount));
            continue;
        };
        let answer = ask(lease, &mount.mount_point);
        usage.push(filesystem_use(file, mount, class, &answer));
        // Filesystems with devices of their own making give each subvolume a number: there the
        // source tells which device it is. Datasets of a pool share its space under other names.
        let key = match mount.device.starts_with("0:") {
            true => mount.source.clone().into_owned(),
            false => mount.device.to_owned(),
        };
        if class == MountClass::Local && mount.filesystem != "zfs" && seen.insert(key) {
            counted.push((answer, mount.mount_point.clone().into_owned()));
        }
    }
    FilesystemReadings {
        total_bytes: sum(file, &counted, |answer| answer.size_bytes).map(Bytes),
        used_bytes: sum(file, &counted, |answer| {
            answer.size_bytes.saturating_sub(answer.free_bytes)
        })
        .map(Bytes),
        available_bytes: sum(file, &counted, |answer| answer.available_bytes).map(Bytes),
        usage: Parts::known(
            usage,
            Evidence::new(
                file.path().clone(),
                saying!("every-mount-but-kernel-makes", "every mount but what the kernel makes up",),
            ),
        ),
        pseudo_mounts: Parts::known(
            pseudo_mounts,
            Evidence::new(
                file.path().clone(),
                saying!(
                    "every-mount-kind-kernel-makes",
                    "every mount of a kind that the kernel makes up",
                ),
            ),
        ),
        swap,
        errors: errors::errors(lease),
        member_errors: errors::of_members(lease),
        gone_devices: gone::devices(lease, file, mounts),
    }
}

fn made_up_mount(file: &File, mount: &Mount<'_>) -> PseudoMount {
    let at = |rule: Saying| file.at_line(mount.line, rule);
    PseudoMount {
        mount_point: Fact::known(
            PathName::from(&*mount.mount_point),
            at(sayings::FIFTH_FIELD_ESCAPES_PUT_BACK),
        ),
        filesystem: Fact::known(
            FilesystemKind::from(mount.filesystem),
            at(sayings::FIRST_FIELD_BEHIND_HYPHEN).raw(mount.filesystem),
        ),
    }
}

fn swap_use(file: &File, swap: &Swap<'_>) -> SwapUse {
    SwapUse {
        path: Fact::known(
            MountSource::from(&*swap.path),
            file.at_line(swap.line, sayings::FIRST_FIELD),
        ),
        used_bytes: Fact::known(
            Bytes(swap.used_kib.saturating_mul(1024)),
            file.at_line(swap.line, sayings::KIBIBYTES_TIMES_1024),
        ),
    }
}

fn filesystem_use(
    file: &File,
    mount: &Mount<'_>,
    class: MountClass,
    answer: &Fact<VolumeUse>,
) -> FilesystemUse {
    let at = |rule: Saying| {
        Evidence::new(file.path().clone(), rule).line(mount.line.number).raw(&mount.mount_point)
    };
    let part = |pick: fn(&VolumeUse) -> u64| answer.clone().map(|answer| pick(&answer));
    let used = |answer: &VolumeUse| answer.size_bytes.saturating_sub(answer.free_bytes);
    FilesystemUse {
        mount_point: Fact::known(
            PathName::from(&*mount.mount_point),
            at(sayings::FIFTH_FIELD_ESCAPES_PUT_BACK),
        ),
        source: Fact::known(
            MountSource::from(&*mount.source),
            at(sayings::SECOND_FIELD_BEHIND_HYPHEN).raw(&mount.source),
        ),
        filesystem: Fact::known(
            FilesystemKind::from(mount.filesystem),
            at(sayings::FIRST_FIELD_BEHIND_HYPHEN).raw(mount.filesystem),
        ),
        class: Fact::known(class, at(sayings::KIND_FILESYSTEM_DEVICE)),
        size_bytes: part(|answer| answer.size_bytes).map(Bytes),
        used_bytes: answer.clone().map(|answer| used(&answer)).map(Bytes),
        free_bytes: part(|answer| answer.free_bytes).map(Bytes),
        available_bytes: part(|answer| answer.available_bytes).map(Bytes),
        used_percent_hundredths: answer
            .clone()
            .map(|answer| {
                let (used, left) = (used(&answer), answer.available_bytes);
                let whole = u128::from(used) + u128::from(left);
                let share = (u128::from(used) * 10_000).checked_div(whole).unwrap_or(0);
                u64::try_from(share).unwrap_or(10_000)
            })
            .by_rule(saying!(
                "used-used-available-together",
                "used, of used and available together",
            ))
            .map(PercentHundredths),
        inodes: part(|answer| answer.inodes),
        inodes_used: part(|answer| answer.inodes.saturating_sub(answer.free_inodes)),
    }
}

/// The sum over local filesystems, each device once; a gap where one of them does not answer.
fn sum(
    file: &File,
    counted: &[(Fact<VolumeUse>, String)],
    pick: impl Fn(&VolumeUse) -> u64,
) -> Fact<u64> {
    let mut sum = 0u64;
    let mut evidence = Vec::new();
    let mut missing = None;
    for (answer, _) in counted {
        match (answer.value(), answer.missing()) {
            (Some(answer_of), _) => {
                sum = sum.saturating_add(pick(answer_of));
                evidence.extend(answer.evidence().iter().cloned());
            }
            // One that does not answer hides no other; that it is not in the sum is said.
            (None, Some(gap)) => {
                missing.get_or_insert_with(|| gap.clone());
            }
            (None, None) => {}
        }
    }
    if evidence.is_empty() {
        return Fact::gap(missing.unwrap_or_else(|| file.lacks("a filesystem on a device")));
    }
    Fact::known_from(sum, evidence)
        .by_rule(saying!(
            "sum-over-local-filesystems-each",
            "the sum over local filesystems, each device once",
        ))
        .in_part(missing)
}
