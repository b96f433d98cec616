//! What is made of a block device: its holders (`Documentation/ABI/stable/sysfs-block`).

use std::collections::BTreeSet;

use crate::{
    readers::{
        file::{list, listing_evidence},
        sayings,
    },
    source::Lease,
};
use tectum_report::{fact::Fact, leaf::Term};

/// Kernel names of what is made of a device: the links in its folder `holders`.
pub(super) fn holders(lease: &Lease, folder: &str) -> Fact<Vec<Term>> {
    let holders = format!("{folder}/holders");
    match list(lease, &holders) {
        Err(gap) => Fact::gap(gap),
        Ok(names) => {
            let names: BTreeSet<String> =
                names.iter().filter_map(|name| name.to_str()).map(str::to_owned).collect();
            let raw = names.iter().cloned().collect::<Vec<_>>().join(" ");
            let names = names.iter().map(|name| Term(name.replace('!', "/"))).collect();
            Fact::known(names, listing_evidence(&holders, sayings::NAMES_FOLDER).raw(&raw))
        }
    }
}
