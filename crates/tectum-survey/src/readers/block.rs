//! What sections that read block devices share: a device's folder, its udev record, the mounts.

use crate::readers::sayings;
use std::{collections::HashMap, sync::Arc};

use crate::readers::{devices::DevicePath, file::File};
use crate::{
    formats::{fstab, mountinfo, udev},
    source::Lease,
};
use tectum_report::{
    fact::{Evidence, Fact, Gap, Saying, Why, saying},
    leaf::Term,
};

/// One block device's folder in sysfs.
pub(crate) struct BlockDevice<'a> {
    pub(crate) lease: &'a Lease,
    pub(crate) name: String,
    pub(crate) folder: String,
    /// What leads to the device's place: the folder, or, for a disk with several paths, the link to
    /// the controller of one of them.
    pub(crate) link: String,
    pub(crate) path: DevicePath,
}

impl<'a> BlockDevice<'a> {
    pub(crate) fn new(lease: &'a Lease, name: &str, folder: String, path: DevicePath) -> Self {
        Self { lease, name: name.to_owned(), link: folder.clone(), folder, path }
    }

    pub(crate) fn file(&self, attribute: &str) -> File {
        File::read(self.lease, format!("{}/{attribute}", self.folder))
    }

    /// The name; the kernel writes a slash in it as an exclamation mark.
    pub(crate) fn kernel_name(&self) -> Fact<Term> {
        let evidence =
            Evidence::new(self.folder.as_str().into(), sayings::FOLDER_NAME).raw(&self.name);
        Fact::known(Term(self.name.replace('!', "/")), evidence)
    }

    /// Evidence that names the way to the device.
    pub(crate) fn on_the_way(&self, rule: Saying) -> Evidence {
        Evidence::new(self.link.as_str().into(), rule).place("link").raw(&self.path.path)
    }
}

/// A device's record in the udev database.
pub(crate) struct UdevRecord {
    file: File,
    /// Why nobody knows which device's it would be.
    unknown: Option<Gap>,
}

impl UdevRecord {
    /// The record of a block device, by its number `major:minor`.
    pub(crate) fn read(lease: &Lease, number: &str) -> Self {
        Self { file: File::read(lease, format!("/run/udev/data/b{number}")), unknown: None }
    }

    /// The record of the device whose number is in a file `dev`.
    pub(crate) fn of(lease: &Lease, number: &File) -> Self {
        match number.hidden() {
            Some(gap) => Self { file: number.clone(), unknown: Some(gap.clone()) },
            None => Self::read(lease, number.text().trim()),
        }
    }

    /// Why the device's number is not known, and with it nothing that goes by it.
    pub(crate) fn unknown(&self) -> Option<&Gap> {
        self.unknown.as_ref()
    }

    pub(crate) fn property<T>(
        &self,
        key: &str,
        rule: Saying,
        parse: impl FnOnce(&str) -> Option<T>,
    ) -> Fact<T> {
        let text = self.file.text();
        self.file.assigned(&udev::properties(&text), key, rule, parse)
    }

    pub(crate) fn text(&self, key: &str) -> Fact<Term> {
        self.property(key, sayings::AS_UDEV_RECORDED, |value| Some(Term::from(value)))
    }
}

/// The mounts of the namespace that the survey runs in.
pub(crate) struct Mounts {
    file: File,
    all: Vec<Owned>,
    /// The mounts of a device number or of a source, by their place in `all`.
    index: HashMap<String, Vec<usize>>,
    swaps: File,
    /// The paths that are swapped to, each with its line in the kernel's list.
    swapped_to: HashMap<String, (usize, String)>,
}

/// A mount, free of the text it was read from.
struct Owned {
    device: String,
    source: String,
    mount_point: String,
    filesystem: String,
    line: usize,
    raw: String,
}

impl Mounts {
    pub(crate) fn read(lease: &Lease) -> Self {
        let file = File::read(lease, "/proc/self/mountinfo");
        let all: Vec<Owned> = mountinfo::parse(&file.text())
            .into_iter()
            .map(|mount| Owned {
                device: mount.device.to_owned(),
                source: mount.source.into_owned(),
                mount_point: mount.mount_point.into_owned(),
                filesystem: mount.filesystem.to_owned(),
                line: mount.line.number,
                raw: mount.line.raw.to_owned(),
            })
            .collect();
        let mut index: HashMap<String, Vec<usize>> = HashMap::new();
        for (place, mount) in all.iter().enumerate() {
            index.entry(mount.device.clone()).or_default().push(place);
            index.entry(mount.source.clone()).or_default().push(place);
        }
        let swaps = File::read(lease, "/proc/swaps");
        let swapped_to = fstab::swaps(&swaps.text())
            .into_iter()
            .map(|swap| (swap.path.into_owned(), (swap.line.number, swap.line.raw.to_owned())))
            .collect();
        Self { file, all, index, swaps, swapped_to }
    }

    /// Whether the kernel swaps to a device.
    pub(crate) fn is_swapped_to(&self, name: &str) -> Fact<bool> {
        if let Err(gap) = self.swaps.bytes() {
            return Fact::gap(gap.clone());
        }
        let path = format!("/dev/{}", name.replace('!', "/"));
        let source = || Arc::clone(self.swaps.path());
        match self.swapped_to.get(&path) {
            Some((line, raw)) => {
                let rule = saying!("line-of-swap-names-device", "a line names the device");
                Fact::known(true, Evidence::new(source(), rule).line(*line).raw(raw))
            }
            None => {
                let rule = saying!("no-line-names-device", "no line names the device");
                Fact::known(false, Evidence::new(source(), rule).raw(&path))
            }
        }
    }

    /// The mounts of a device: by its number, or by its name where the filesystem has a number of
    /// its own.
    pub(crate) fn of(&self, number: &str, name: &str) -> Vec<usize> {
        let path = format!("/dev/{}", name.replace('!', "/"));
        let mut found: Vec<usize> = [number, path.as_str()]
            .into_iter()
            .filter_map(|key| self.index.get(key))
            .flatten()
            .copied()
            .collect();
        found.sort_unstable();
        found.dedup();
        found
    }

    fn evidence(&self, mount: &Owned, rule: Saying) -> Evidence {
        Evidence::new(Arc::clone(self.file.path()), rule).line(mount.line).raw(&mount.raw)
    }

    /// Where those mounts are; an empty list where the device is not mounted.
    pub(crate) fn points(&self, mounts: &[usize]) -> Fact<Vec<Term>> {
        if let Err(gap) = self.file.bytes() {
            return Fact::gap(gap.clone());
        }
        let found: Vec<&Owned> = mounts.iter().filter_map(|index| self.all.get(*index)).collect();
        if found.is_empty() {
            let rule = saying!("no-line-names-device", "no line names the device");
            return Fact::known(Vec::new(), Evidence::new(Arc::clone(self.file.path()), rule));
        }
        let rule = saying!(
            "mount-points-lines-name-device",
            "the mount points of the lines that name the device, escapes put back",
        );
        let points = found.iter().map(|mount| Term(mount.mount_point.clone())).collect();
        Fact::known_from(
            points,
            found.iter().map(|mount| self.evidence(mount, rule.clone())).collect(),
        )
    }

    /// The kind of filesystem that the mounts tell.
    pub(crate) fn filesystem(&self, mounts: &[usize]) -> Fact<Term> {
        match mounts.first().and_then(|index| self.all.get(*index)) {
            Some(mount) => Fact::known(
                Term(mount.filesystem.clone()),
                self.evidence(
                    mount,
                    saying!("kind-filesystem-mounted", "the kind of filesystem that is mounted",),
                ),
            ),
            None => Fact::gap(Gap::new(Why::NotProvided).tried(
                Arc::clone(self.file.path()),
                saying!("does-not-name-device", "does not name the device"),
            )),
        }
    }
}
