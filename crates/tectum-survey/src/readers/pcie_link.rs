//! The link of a PCI Express function (`Documentation/ABI/testing/sysfs-bus-pci`).

use tectum_report::{
    fact::{Fact, Gap, Saying, Why, saying},
    leaf::{Lanes, Megatransfers},
};

use super::pci_function::FUNCTIONS;
use crate::{
    formats::{link_speed, number},
    readers::file::File,
    source::Lease,
};

/// Which state of a link.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(crate) enum Which {
    /// As it was negotiated.
    Current,
    /// The best there could be.
    Max,
}

/// A link's speed and width.
pub(crate) struct Link {
    pub(crate) speed: Fact<Megatransfers>,
    pub(crate) lanes: Fact<Lanes>,
}

const NO_LINK: Saying = saying!("no-link", "the kernel knows of no link");

/// The link of a function.
pub(crate) fn read(lease: &Lease, address: &str, which: Which) -> Link {
    let which = if which == Which::Current { "current" } else { "max" };
    let file = |what: &str| File::read(lease, format!("{FUNCTIONS}/{address}/{which}_link_{what}"));
    Link { speed: speed(&file("speed")), lanes: lanes(&file("width")) }
}

/// A lane's speed; the kernel writes "Unknown" where there is no link.
fn speed(file: &File) -> Fact<Megatransfers> {
    if file.text().trim_start().starts_with("Unknown") {
        let gap = Gap::new(Why::NotApplicable).raw(file.text().trim());
        return Fact::gap(gap.tried(file.path().clone(), NO_LINK).hint(NO_LINK));
    }
    file.fact(
        saying!("gigatransfers-second-thousand", "gigatransfers a second, by a thousand"),
        link_speed::transfers,
    )
    .map(Megatransfers)
}

/// A link's lanes; 0 and 255 are none.
fn lanes(file: &File) -> Fact<Lanes> {
    file.fact(saying!("lanes", "lanes"), number::decimal).and_then(|lanes| match lanes {
        0 | 255 => Err(Gap::new(Why::NotApplicable).hint(NO_LINK)),
        lanes => Ok(Lanes(lanes)),
    })
}
