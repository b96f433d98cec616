//! Members of RAID arrays and their state (`Documentation/admin-guide/md.rst`).

use std::collections::BTreeSet;

use crate::readers::{
    block::BlockDevice,
    file::{File, list, listing_evidence},
    sayings,
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Why, saying},
    leaf::{DeviceName, Term},
    model::VolumeMember,
};

/// `md/dev-*`: each member with its place and state.
pub(super) fn members(device: &BlockDevice<'_>, is_raid: bool) -> Parts<VolumeMember> {
    if !is_raid {
        let gap = Gap::new(Why::NotApplicable)
            .tried(device.folder.as_str().into(), sayings::ONLY_RAID_MEMBERS);
        return Parts::missing(gap);
    }
    let folder = format!("{}/md", device.folder);
    let names = match list(device.lease, &folder) {
        Ok(names) => names,
        Err(gap) => return Parts::missing(gap),
    };
    let members: BTreeSet<&str> = names
        .iter()
        .filter_map(|name| name.to_str())
        .filter(|name| name.starts_with("dev-"))
        .collect();
    let parts = members.into_iter().map(|member| {
        let file = |name: &str| File::read(device.lease, format!("{folder}/{member}/{name}"));
        let name = member.strip_prefix("dev-").unwrap_or(member).replace('!', "/");
        VolumeMember {
            name: Fact::known(
                DeviceName(name),
                listing_evidence(
                    &folder,
                    saying!("behind-dev-folder-name", "behind dev- in the folder's name"),
                )
                .raw(member),
            ),
            role: file("slot").fact(sayings::FILE_TEXT_TRIMMED, |text| Some(Term::from(text))),
            state: file("state").text_fact(),
        }
    });
    Parts::known(
        parts.collect(),
        listing_evidence(
            &folder,
            saying!("every-folder-named-dev-device", "every folder named dev- and a device"),
        ),
    )
}
