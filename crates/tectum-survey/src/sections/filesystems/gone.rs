//! Filesystems that are mounted still though their device is gone: pulled, or failed so that the kernel let go of it.

use std::collections::HashSet;

use crate::{
    formats::mountinfo,
    readers::{
        file::{File, list, listing_evidence},
        sayings,
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, saying},
    leaf::{MountSource, PathName, Term},
    model::GoneDevice,
};

/// A link for each block device that the kernel knows, by its number (`Documentation/ABI/testing/sysfs-dev`).
const ROOT: &str = "/sys/dev/block";

/// The mounts whose device number the kernel no longer lists, each device once.
pub(super) fn devices(
    lease: &Lease,
    file: &File,
    mounts: &[mountinfo::Mount<'_>],
) -> Parts<GoneDevice> {
    let listed = match list(lease, ROOT) {
        Ok(listed) => listed,
        Err(gap) => return Parts::missing(gap),
    };
    let listed: HashSet<&str> = listed.iter().filter_map(|number| number.to_str()).collect();
    let mut told = HashSet::new();
    let gone = mounts.iter().filter(|mount| {
        // What is on no device, or on several, has a number of the filesystem's own making with major 0.
        let on_device = !mount.device.starts_with("0:");
        on_device && !listed.contains(mount.device) && told.insert(mount.device)
    });
    let parts = gone.map(|mount| {
        let rule = saying!("number-mount-not-listed", "a mount's, and none that the kernel lists");
        GoneDevice {
            number: Fact::known(
                Term::from(mount.device),
                file.at_line(mount.line, rule).raw(mount.device),
            ),
            source: Fact::known(
                MountSource::from(&*mount.source),
                file.at_line(mount.line, sayings::SECOND_FIELD_BEHIND_HYPHEN).raw(&mount.source),
            ),
            mount_point: Fact::known(
                PathName::from(&*mount.mount_point),
                file.at_line(mount.line, sayings::FIFTH_FIELD_ESCAPES_PUT_BACK),
            ),
        }
    });
    let rule = saying!("mounts-device-not-listed", "mounts whose device is not listed there");
    Parts::known(parts.collect(), listing_evidence(ROOT, rule))
}
