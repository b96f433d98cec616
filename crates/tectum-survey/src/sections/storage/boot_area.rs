//! Boot areas of MMC devices.

use crate::{
    formats::number,
    readers::{
        block::BlockDevice,
        devices::is_numbered,
        file::{File, list, listing_evidence},
        sayings,
    },
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Why, saying},
    leaf::DeviceName,
    model::{BootArea, DiskKind},
};

/// Whether a name is that of an area beside the main one of an MMC card: `mmcblk0boot1`.
pub(super) fn is_boot_area(name: &str) -> bool {
    name.strip_prefix("mmcblk").is_some_and(|rest| {
        let (card, area) = rest.split_at(rest.bytes().take_while(u8::is_ascii_digit).count());
        !card.is_empty()
            && ["boot", "gp"].iter().any(|kind| is_numbered(area, kind)) | (area == "rpmb")
    })
}

pub(super) fn boot_areas(device: &BlockDevice<'_>, kind: DiskKind) -> Parts<BootArea> {
    if kind != DiskKind::Mmc {
        let gap = Gap::new(Why::NotApplicable).tried(
            device.folder.as_str().into(),
            saying!("only-mmc-cards-areas", "only MMC cards have areas"),
        );
        return Parts::missing(gap);
    }
    let names = match list(device.lease, super::ROOT) {
        Ok(names) => names,
        Err(gap) => return Parts::missing(gap),
    };
    let mut areas: Vec<&str> = names
        .iter()
        .filter_map(|name| name.to_str())
        .filter(|name| is_boot_area(name) && name.starts_with(&device.name))
        .collect();
    areas.sort_unstable();
    let parts = areas.into_iter().filter_map(|area| {
        let name = area.strip_prefix(&device.name)?;
        let file = |attribute: &str| {
            File::read(device.lease, format!("{}/{area}/{attribute}", super::ROOT))
        };
        Some(BootArea {
            name: Fact::known(
                DeviceName::from(name),
                listing_evidence(super::ROOT, sayings::BEHIND_CARD_NAME).raw(area),
            ),
            size_bytes: super::sectors(&file("size")),
            read_only: file("ro").fact(sayings::ONE_IS_YES, number::flag),
        })
    });
    Parts::known(
        parts.collect(),
        listing_evidence(super::ROOT, saying!("areas-named-card", "areas named for the card")),
    )
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("mmcblk0boot0", true)]
    #[case("mmcblk12gp3", true)]
    #[case("mmcblk0", false)]
    #[case("mmcblk0p1", false)]
    #[case("mmcblkboot0", false)]
    fn boot_areas_are_told_from_cards(#[case] name: &str, #[case] is: bool) {
        assert_eq!(is_boot_area(name), is);
    }
}
