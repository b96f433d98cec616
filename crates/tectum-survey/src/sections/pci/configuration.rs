//! A function's configuration space: what its header and its capabilities say.

use crate::readers::raw_bytes::raw_bytes;
use crate::readers::sayings;
use std::sync::Arc;

use crate::{
    formats::pci_configuration::{Configuration, Header},
    readers::{devices::sleeps, file::File},
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Place, Saying, Why, saying},
    leaf::Term,
    model::PciCapability,
};

/// What only somebody's work changes.
pub(super) struct Decoded {
    pub(super) header: Fact<Term>,
    pub(super) buses: Fact<Term>,
    pub(super) capabilities: Parts<PciCapability>,
}

/// What moves by itself.
pub(super) struct Registers {
    pub(super) allowed: Fact<Vec<Term>>,
    pub(super) errors: Fact<Vec<Term>>,
    pub(super) bytes: Fact<Term>,
}

/// The first 256 bytes. What stands behind them, in PCI Express alone, may be made of a serial number,
/// and is slow to read.
pub(super) fn space(lease: &Lease, address: &str) -> Result<File, Gap> {
    let folder = format!("{}/{address}", super::FUNCTIONS);
    if let Some(gap) = sleeps(lease, &folder) {
        return Err(gap);
    }
    Ok(File::read_head(lease, format!("{folder}/config"), 256))
}

fn parsed(file: &Result<File, Gap>) -> Result<(&File, Configuration), Gap> {
    let file = file.as_ref().map_err(Gap::clone)?;
    let bytes = file.bytes().map_err(Gap::clone)?;
    let read = Configuration::parse(bytes).ok_or_else(|| {
        let answer =
            saying!("gives-bytes-fewer-than-header", "gives {} bytes, fewer than a header has")
                .with(bytes.len().to_string());
        Gap::new(Why::Invalid).tried(Arc::clone(file.path()), answer)
    })?;
    Ok((file, read))
}

fn at(file: &File, place: Place, range: std::ops::Range<usize>, rule: Saying) -> Evidence {
    let bytes = file.bytes().ok().and_then(|bytes| bytes.get(range)).map(raw_bytes);
    Evidence::new(Arc::clone(file.path()), rule).place(place).raw(&bytes.unwrap_or_default())
}

impl Decoded {
    pub(super) fn read(file: &Result<File, Gap>) -> Self {
        let (file, space) = match parsed(file) {
            Ok(found) => found,
            Err(gap) => {
                return Self {
                    header: Fact::gap(gap.clone()),
                    buses: Fact::gap(gap.clone()),
                    capabilities: Parts::missing(gap),
                };
            }
        };
        let kind = match space.header {
            Header::Device => "device".to_owned(),
            Header::Bridge => "bridge between PCI buses".to_owned(),
            Header::CardBus => "bridge to a CardBus".to_owned(),
            Header::Other(number) => format!("header type {number:02x}"),
        };
        let several = if space.several_functions { ", one of several functions" } else { "" };
        let evidence =
            at(file, Place::bytes(0x0E, 1), 14..15, saying!("header-type", "the header type"));
        Self {
            header: Fact::known(Term(format!("{kind}{several}")), evidence),
            buses: match space.buses {
                Some([_, first, last]) => Fact::known(
                    Term(format!("{first:02x} to {last:02x}")),
                    at(
                        file,
                        Place::bytes(0x19, 2),
                        25..27,
                        saying!("secondary-subordinate-bus", "secondary and subordinate bus"),
                    ),
                ),
                None => Fact::not_applicable(saying!(
                    "no-bridge-between-pci-buses",
                    "it is no bridge between PCI buses",
                )),
            },
            capabilities: capabilities(file, &space),
        }
    }
}

fn capabilities(file: &File, space: &Configuration) -> Parts<PciCapability> {
    let Some(all) = &space.capabilities else {
        let length = file.bytes().map_or(0, |bytes| bytes.len());
        let gap = Gap::new(Why::Permission)
            .tried(
                Arc::clone(file.path()),
                saying!("header-alone", "gives {}, and capabilities stand behind the first 64")
                    .with(format!("{length} bytes")),
            )
            .hint(sayings::ROOT_CAN_READ);
        return Parts::missing(gap);
    };
    let parts = all.iter().map(|capability| {
        let offset = usize::from(capability.offset);
        let raw = file.bytes().ok().and_then(|bytes| bytes.get(offset..offset + 2)).map(raw_bytes);
        let at = |rule: Saying| {
            Evidence::new(Arc::clone(file.path()), rule)
                .place(Place::bytes(offset, 2))
                .raw(raw.as_deref().unwrap_or_default())
        };
        PciCapability {
            offset: Fact::known(
                Term(format!("{offset:02x}")),
                at(saying!("list-leads", "where the list leads")),
            ),
            id: Fact::known(
                Term(format!("{:02x}", capability.id)),
                at(saying!("first-byte", "the first byte")),
            ),
            name: match capability.name() {
                Some(name) => Fact::known(
                    Term::from(name),
                    at(saying!("standard-name-id", "the standard's name for the id")),
                ),
                None => Fact::gap(Gap::new(Why::NotProvided).tried(
                    Arc::clone(file.path()),
                    saying!(
                        "id-standard-does-not-name",
                        "has an id that the standard does not name",
                    ),
                )),
            },
        }
    });
    let rule = saying!("list-begins-header", "the list that begins where the header says");
    Parts::known(parts.collect(), Evidence::new(Arc::clone(file.path()), rule))
}

impl Registers {
    pub(super) fn read(file: &Result<File, Gap>) -> Self {
        let (file, space) = match parsed(file) {
            Ok(found) => found,
            Err(gap) => {
                return Self {
                    allowed: Fact::gap(gap.clone()),
                    errors: Fact::gap(gap.clone()),
                    bytes: Fact::gap(gap),
                };
            }
        };
        let words = |words: Vec<&'static str>| words.into_iter().map(Term::from).collect();
        let rule = saying!("bits-set", "the bits that are set");
        let bytes = file.bytes().map(|bytes| raw_bytes(bytes)).unwrap_or_default();
        Self {
            allowed: Fact::known(
                words(space.allowed()),
                at(file, Place::bytes(0x04, 2), 4..6, rule.clone()),
            ),
            errors: Fact::known(words(space.errors()), at(file, Place::bytes(0x06, 2), 6..8, rule)),
            bytes: Fact::known(
                Term(bytes.clone()),
                Evidence::new(
                    Arc::clone(file.path()),
                    saying!("file-first-bytes", "the file's first bytes"),
                )
                .raw(&bytes),
            ),
        }
    }
}
