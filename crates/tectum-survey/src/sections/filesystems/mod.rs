//! Filesystems: what is mounted, how full it is, what is declared.

mod errors;
mod gone;
mod usage;

use crate::readers::{mount_class, sayings};
use std::{
    collections::{HashMap, HashSet},
    path::{Path, PathBuf},
    sync::Arc,
};

use super::{Found, Section};
use crate::readers::{block::UdevRecord, file::File, limits::leave_first};
use crate::{
    formats::{
        fstab,
        mount_option::{is_secret, strip_secrets},
        mountinfo,
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Saying, Why, saying},
    leaf::{Bytes, FilesystemKind, Label, MountOption, MountSource, PathName, Term, Uuid},
    model::{
        DeclaredState, FilesystemReadings, Filesystems, FstabEntry, Mount, MountClass, SwapSpace,
    },
};

pub(super) const SECTION: Section = Section {
    name: "filesystems",
    summary: "what is mounted and how full it is, swap, what fstab declares",
    reads: &[
        "/etc/fstab",
        "/proc/self/mountinfo",
        "/proc/swaps",
        "/run/udev/data/b*",
        "/sys/class/block/*/dev",
        "/sys/class/block/*/dm/name",
        "/sys/dev/block",
        "/sys/fs/btrfs",
        "/sys/fs/btrfs/*/devinfo",
        "/sys/fs/btrfs/*/devinfo/*/error_stats",
        "/sys/fs/btrfs/*/devinfo/*/missing",
        "/sys/fs/ext4",
        "/sys/fs/ext4/*/errors_count",
        "/sys/fs/ext4/*/first_error_*",
        "/sys/fs/ext4/*/last_error_*",
    ],
    survey,
};

fn survey(lease: &Lease) -> Found {
    let mounts_file = File::read(lease, "/proc/self/mountinfo");
    let mounts_text = mounts_file.text();
    let mut mounts = mountinfo::parse(&mounts_text);
    let more_mounts = leave_first(&mut mounts, &mounts_file);
    let swaps_file = File::read(lease, "/proc/swaps");
    let swaps_text = swaps_file.text();
    let mut swaps = fstab::swaps(&swaps_text);
    let more_swaps = leave_first(&mut swaps, &swaps_file);
    let table = File::read(lease, "/etc/fstab");
    let table_text = table.text();
    let mut declared = fstab::parse(&table_text);
    let more_declared = leave_first(&mut declared, &table);
    let mut readings = usage::readings(lease, &mounts_file, &mounts, &swaps_file, &swaps);
    if more_mounts.is_some() {
        let FilesystemReadings { total_bytes, used_bytes, available_bytes, .. } = &mut readings;
        for sum in [total_bytes, used_bytes, available_bytes] {
            *sum = std::mem::take(sum).in_part(more_mounts.clone());
        }
        readings.usage = readings.usage.in_part(more_mounts.clone());
        readings.pseudo_mounts = readings.pseudo_mounts.in_part(more_mounts.clone());
        readings.gone_devices = readings.gone_devices.in_part(more_mounts.clone());
    }
    readings.swap = readings.swap.in_part(more_swaps.clone());
    let in_use = InUse {
        mounts: &mounts,
        other_mounts: mounts_file.bytes().err().or(more_mounts.as_ref()),
        swaps: &swaps,
        other_swaps: swaps_file.bytes().err().or(more_swaps.as_ref()),
    };
    let fstab_entries = declared_parts(lease, &table, &declared, in_use).in_part(more_declared);
    let filesystems = Filesystems {
        mounts: mount_parts(lease, &mounts_file, &mounts, &table, &declared).in_part(more_mounts),
        swap_spaces: swap_spaces(&swaps_file, &swaps).in_part(more_swaps),
        fstab_entries,
    };
    Box::new(|observed| {
        observed.inventory.filesystems = Some(filesystems);
        observed.readings.filesystems = Some(readings);
    })
}

fn mount_parts(
    lease: &Lease,
    file: &File,
    mounts: &[mountinfo::Mount<'_>],
    table: &File,
    declared: &[fstab::Declared<'_>],
) -> Parts<Mount> {
    if let Err(gap) = file.bytes() {
        return Parts::missing(gap.clone());
    }
    let sorted = |options: &str| {
        let options = options.split(',').filter(|option| !option.is_empty() && !is_secret(option));
        let mut options: Vec<MountOption> = options.map(MountOption::from).collect();
        options.sort();
        options.dedup();
        options
    };
    let mut first_at: HashMap<&str, &str> = HashMap::new();
    for mount in mounts {
        first_at.entry(filesystem_of(mount)).or_insert(&mount.mount_point);
    }
    let wanted: HashSet<PathBuf> = declared.iter().map(|one| plain(&one.mount_point)).collect();
    let parts = mounts.iter().filter_map(|mount| {
        let class = mount_class::of(mount).filter(|class| *class != MountClass::Memory)?;
        let size_bytes = match class {
            MountClass::Local => usage::size(lease, &mount.mount_point),
            _ => Fact::not_applicable(saying!(
                "space-not-machine-own",
                "its space is not this machine's own",
            )),
        };
        let line: Arc<str> = strip_secrets(mount.line.raw).into();
        let at = |rule: Saying| {
            Evidence::new(file.path().clone(), rule).line(mount.line.number).raw_shared(&line)
        };
        fn named<T: From<String>>(text: &str, evidence: Evidence) -> Fact<T> {
            Fact::known(T::from(text.to_owned()), evidence)
        }
        let first = first_at.get(filesystem_of(mount)).filter(|first| **first != mount.mount_point);
        Some(Mount {
            mount_point: named(&mount.mount_point, at(sayings::FIFTH_FIELD_ESCAPES_PUT_BACK)),
            source: named(&mount.source, at(sayings::SECOND_FIELD_BEHIND_HYPHEN)),
            device: named(mount.device, at(sayings::THIRD_FIELD)),
            filesystem: named(mount.filesystem, at(sayings::FIRST_FIELD_BEHIND_HYPHEN)),
            class: Fact::known(class, at(sayings::KIND_FILESYSTEM_DEVICE)),
            size_bytes,
            root: named(
                &mount.root,
                at(saying!("fourth-field-escapes-put-back", "the fourth field, escapes put back",)),
            ),
            read_only: Fact::known(
                mount.options.split(',').any(|option| option == "ro"),
                at(saying!("ro-among-options-mount", "ro among the options of the mount")),
            ),
            first_mounted_at: match first {
                Some(first) => named(
                    first,
                    at(saying!(
                        "first-mount-same-device-number",
                        "the first mount with the same device number",
                    )),
                ),
                None => Fact::not_applicable(saying!(
                    "first-mount-of-it",
                    "it is the first mount of its filesystem",
                )),
            },
            options: Fact::known(
                sorted(mount.options),
                at(saying!("sixth-field-sorted", "the sixth field, sorted")),
            ),
            superblock_options: Fact::known(
                sorted(mount.super_options),
                at(saying!("last-field-sorted", "the last field, sorted")),
            ),
            in_fstab: match table.bytes() {
                Ok(_) => Fact::known(
                    wanted.contains(Path::new(&*mount.mount_point)),
                    Evidence::new(
                        table.path().clone(),
                        saying!(
                            "line-mount-point-none",
                            "a line of it has this mount point, or none",
                        ),
                    )
                    .raw(&mount.mount_point),
                ),
                Err(gap) => Fact::gap(gap.clone()),
            },
        })
    });
    let rule = saying!(
        "every-mount-filesystem-device-network",
        "every mount of a filesystem on a device or a network",
    );
    Parts::known(parts.collect(), Evidence::new(file.path().clone(), rule))
}

/// What mounts of one filesystem have in common: the number of its device; where the filesystem makes
/// numbers up, and a device holds it, that device.
fn filesystem_of<'a>(mount: &'a mountinfo::Mount<'_>) -> &'a str {
    match mount.device.starts_with("0:") && mount.source.starts_with("/dev/") {
        true => &mount.source,
        false => mount.device,
    }
}

fn swap_spaces(file: &File, swaps: &[fstab::Swap<'_>]) -> Parts<SwapSpace> {
    if let Err(gap) = file.bytes() {
        return Parts::missing(gap.clone());
    }
    let parts = swaps.iter().map(|swap| {
        let at = |rule: Saying| file.at_line(swap.line, rule);
        SwapSpace {
            path: Fact::known(MountSource::from(&*swap.path), at(sayings::FIRST_FIELD)),
            kind: Fact::known(Term::from(swap.kind), at(sayings::SECOND_FIELD)),
            size_bytes: Fact::known(
                Bytes(swap.size_kib.saturating_mul(1024)),
                at(sayings::KIBIBYTES_TIMES_1024),
            ),
            priority: Fact::known(swap.priority, at(sayings::LAST_FIELD)),
        }
    });
    Parts::known(parts.collect(), file.evidence(sayings::EVERY_LINE_BUT_HEADING))
}

/// What is mounted and swapped to, and why there may be more of either.
#[derive(Clone, Copy)]
struct InUse<'a> {
    mounts: &'a [mountinfo::Mount<'a>],
    other_mounts: Option<&'a Gap>,
    swaps: &'a [fstab::Swap<'a>],
    other_swaps: Option<&'a Gap>,
}

fn declared_parts(
    lease: &Lease,
    file: &File,
    declared: &[fstab::Declared<'_>],
    in_use: InUse<'_>,
) -> Parts<FstabEntry> {
    if let Err(gap) = file.bytes() {
        return Parts::missing(gap.clone());
    }
    let mounted: HashSet<&str> = in_use.mounts.iter().map(|mount| &*mount.mount_point).collect();
    let ids = SwapIds::of(lease, in_use.swaps);
    let elsewhere = Arc::new(
        Gap::new(Why::NotApplicable)
            .hint(saying!("declared-another-way", "it is declared in another way")),
    );
    let elsewhere = || Arc::clone(&elsewhere);
    let parts = declared.iter().map(|one| {
        let line: Arc<str> = strip_secrets(one.line.raw).into();
        let at = |rule: Saying| {
            Evidence::new(file.path().clone(), rule).line(one.line.number).raw_shared(&line)
        };
        let options = one.options.iter().filter(|option| !is_secret(option));
        let (tag, id) = one.source.split_once('=').unwrap_or(("", &one.source));
        let id = id.trim_matches('"');
        let source = at(sayings::FIRST_FIELD);
        let is = |tags: &[&str]| tags.contains(&tag);
        let by_path = tag.is_empty() && (id.starts_with("/dev/") || is_word(id));
        FstabEntry {
            line: Fact::known(one.line.number as u64, at(sayings::COUNTED)),
            source: match by_path {
                true => Fact::known(MountSource::from(id), source.clone()),
                false => Fact::gap(elsewhere()),
            },
            uuid: match is(&["UUID", "PARTUUID"]) {
                true => Fact::known(Uuid(id.to_owned()), source.clone()),
                false => Fact::gap(elsewhere()),
            },
            label: match is(&["LABEL", "PARTLABEL"]) {
                true => Fact::known(Label(id.to_owned()), source.clone()),
                false => Fact::gap(elsewhere()),
            },
            other_source: match by_path || is(&["UUID", "PARTUUID", "LABEL", "PARTLABEL"]) {
                true => Fact::gap(elsewhere()),
                false => Fact::known(MountSource(one.source.clone().into_owned()), source.clone()),
            },
            mount_point: Fact::known(PathName::from(&*one.mount_point), at(sayings::SECOND_FIELD)),
            filesystem: Fact::known(FilesystemKind::from(one.filesystem), at(sayings::THIRD_FIELD)),
            options: Fact::known(
                options.map(|option| MountOption::from(*option)).collect(),
                at(sayings::FOURTH_FIELD),
            ),
            state: if one.filesystem == "swap" {
                swap_state(
                    one,
                    &ids,
                    in_use.other_swaps,
                    at(saying!(
                        "same-device-none-proc-swaps",
                        "the same device, or none, in /proc/swaps",
                    )),
                )
            } else {
                mount_state(
                    one,
                    &mounted,
                    in_use.other_mounts,
                    at(saying!(
                        "same-mount-point-none-among",
                        "the same mount point, or none, among the mounts",
                    )),
                )
            },
        }
    });
    Parts::known(
        parts.collect(),
        Evidence::new(
            file.path().clone(),
            saying!("every-line-declares", "every line that declares"),
        ),
    )
}

/// `tmpfs`, `proc`: a word that names no device.
fn is_word(text: &str) -> bool {
    text.bytes().all(|byte| byte.is_ascii_lowercase() || byte.is_ascii_digit())
}

/// What stands for a link that is made of something else than an id.
const OTHER_LINK: &str = "link";

/// Everything that the swap devices in use can be declared by.
#[derive(Default)]
struct SwapIds {
    /// A tag, and what stands behind it.
    named: HashSet<(&'static str, String)>,
    /// Tags by which a device in use may be declared though nobody recorded what stands behind them.
    unnamed: HashMap<&'static str, Gap>,
}

impl SwapIds {
    fn of(lease: &Lease, swaps: &[fstab::Swap<'_>]) -> Self {
        let mut ids = Self::default();
        for swap in swaps {
            ids.named.insert(("", swap.path.clone().into_owned()));
            // A swap file is no device.
            let Some(name) = swap.path.strip_prefix("/dev/") else { continue };
            let name = name.replace('/', "!");
            let file = |attribute: &str| {
                File::read(lease, format!("/sys/class/block/{name}/{attribute}"))
                    .text()
                    .trim()
                    .to_owned()
            };
            let number = file("dev");
            if number.is_empty() {
                continue;
            }
            let mapper = file("dm/name");
            if !mapper.is_empty() {
                ids.named.insert(("", format!("/dev/mapper/{mapper}")));
            }
            let record = UdevRecord::read(lease, &number);
            let content = record.text("ID_FS_TYPE");
            for (tag, property) in [
                ("UUID", "ID_FS_UUID"),
                ("LABEL", "ID_FS_LABEL"),
                ("PARTUUID", "ID_PART_ENTRY_UUID"),
                ("PARTLABEL", "ID_PART_ENTRY_NAME"),
            ] {
                let id = record.text(property);
                if let Some(value) = id.value() {
                    ids.named.insert((tag, value.to_ascii_lowercase()));
                }
                // One that it looked at and found no such id of has none.
                if let Some(gap) = content.missing() {
                    ids.unnamed.insert(tag, Gap { why: Why::NotRead, ..gap.clone() });
                }
            }
            if let (Some(group), Some(volume)) =
                (record.text("DM_VG_NAME").value(), record.text("DM_LV_NAME").value())
            {
                ids.named.insert(("", format!("/dev/{group}/{volume}")));
            }
            ids.unnamed.entry(OTHER_LINK).or_insert_with(|| {
                Gap::new(Why::NotRead).hint(saying!(
                    "link-leads-nobody-recorded",
                    "where the link leads is recorded nowhere that is read",
                ))
            });
        }
        ids
    }

    fn holds(&self, tag: &str, id: &str) -> bool {
        let known = ["UUID", "LABEL", "PARTUUID", "PARTLABEL"].into_iter().find(|own| *own == tag);
        match (known, tag) {
            (Some(tag), _) => self.named.contains(&(tag, id.to_ascii_lowercase())),
            (None, "") => self.named.contains(&("", id.to_owned())),
            (None, _) => false,
        }
    }
}

/// A declared mount point as the kernel names it: without slashes that stand twice or at its end.
fn plain(mount_point: &str) -> PathBuf {
    Path::new(mount_point).components().collect()
}

/// Whether a filesystem is mounted where it is declared.
fn mount_state(
    one: &fstab::Declared<'_>,
    mounted: &HashSet<&str>,
    others: Option<&Gap>,
    evidence: Evidence,
) -> Fact<DeclaredState> {
    let is_mounted = plain(&one.mount_point).to_str().is_some_and(|path| mounted.contains(path));
    state(one, is_mounted, others, evidence)
}

/// The state of what is declared, by whether it is among what is in use, and why others may be.
fn state(
    one: &fstab::Declared<'_>,
    is_in_use: bool,
    others: Option<&Gap>,
    evidence: Evidence,
) -> Fact<DeclaredState> {
    match others {
        _ if is_in_use => Fact::known(DeclaredState::Mounted, evidence),
        Some(gap) => Fact::gap(gap.clone()),
        None if one.options.contains(&"noauto") => Fact::known(DeclaredState::OnRequest, evidence),
        None => Fact::known(DeclaredState::Missing, evidence),
    }
}

/// The tag and what stands behind it, of a link that udev makes for each; a path is itself.
fn by_link(source: &str) -> (&str, &str) {
    let links = [
        ("/dev/disk/by-uuid/", "UUID"),
        ("/dev/disk/by-label/", "LABEL"),
        ("/dev/disk/by-partuuid/", "PARTUUID"),
        ("/dev/disk/by-partlabel/", "PARTLABEL"),
        // By what other links lead to, no record says.
        ("/dev/disk/", OTHER_LINK),
    ];
    let tagged = links.into_iter().find_map(|(link, tag)| Some((tag, source.strip_prefix(link)?)));
    tagged.unwrap_or(("", source))
}

/// A swap device is declared by its path or by an id that udev recorded of it.
fn swap_state(
    one: &fstab::Declared<'_>,
    swaps: &SwapIds,
    others: Option<&Gap>,
    evidence: Evidence,
) -> Fact<DeclaredState> {
    let (tag, id) = match one.source.split_once('=') {
        Some((tag, id)) => (tag, id.trim_matches('"')),
        None => by_link(&one.source),
    };
    // A device that is in use and of which udev recorded no such id may well be the one that is meant.
    let others = others.or_else(|| swaps.unnamed.get(tag));
    state(one, swaps.holds(tag, id), others, evidence)
}
