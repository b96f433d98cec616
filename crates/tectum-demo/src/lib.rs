//! Made-up machines, written out as the files that a kernel and its firmware would show.
//!
//! A machine is described in a few dozen lines of TOML ([`Machine`]); [`Tree::of`] turns that into
//! the files of `/proc`, `/sys`, `/etc` and `/run` that stand for it, and [`Tree::write`] writes
//! them into a folder that stands in for `/`. The machines that ship with Tectum ([`MACHINES`]) are
//! those of the fictional Skerry Coast Tide Service; tests and benchmarks describe their own.

pub mod costly;
mod devices;
mod dmi;
mod machine;
mod memory;
mod procfs;
mod scaled;
mod sysfs;
mod system;
mod tree;

pub use dmi::{StructureBuilder, entry_point_32, table};
pub use machine::{
    Bios, Board, CardSlot, Channel, Chassis, Chip, Cpu, Disk, DiskKind, Fan, Function, Gpu,
    Machine, Management, Module, Monitor, NetworkPort, Partition, PowerSupply, Slot, System,
    UsbDevice,
};
pub use tree::{Tree, WriteError};

/// A machine that ships with Tectum.
#[derive(Debug)]
pub struct Shipped {
    /// Its name, as in `demo:NAME`.
    pub name: &'static str,
    /// What it is, in a line.
    pub summary: &'static str,
    description: &'static str,
}

/// The machines that ship with Tectum.
pub const MACHINES: &[Shipped] = &[
    Shipped {
        name: "gannet-before",
        summary: "tide model server gannet, before the maintenance visit",
        description: include_str!("../../../demo/machines/gannet-before.toml"),
    },
    Shipped {
        name: "gannet-after",
        summary: "the same server after the visit: parts replaced, moved and renamed",
        description: include_str!("../../../demo/machines/gannet-after.toml"),
    },
    Shipped {
        name: "petrel",
        summary: "the twin of gannet, which missed the firmware",
        description: include_str!("../../../demo/machines/petrel.toml"),
    },
    Shipped {
        name: "sanderling",
        summary: "a virtual machine that serves the tide tables",
        description: include_str!("../../../demo/machines/sanderling.toml"),
    },
    Shipped {
        name: "turnstone",
        summary: "an ARM board at a gauge, whose firmware has no tables",
        description: include_str!("../../../demo/machines/turnstone.toml"),
    },
    Shipped {
        name: "fulmar",
        summary: "eight accelerators, of which one has half its link and one no driver",
        description: include_str!("../../../demo/machines/fulmar.toml"),
    },
];

impl Shipped {
    /// The machine of a name.
    pub fn named(name: &str) -> Option<&'static Self> {
        MACHINES.iter().find(|machine| machine.name == name)
    }

    /// Its description. One may be told as another (`base`) of which some words are other ones (`replace`), some
    /// fields are not there (`without`), and some are as it says.
    ///
    /// # Errors
    /// When the shipped description is no machine, which a test rules out.
    pub fn machine(&self) -> Result<Machine, toml::de::Error> {
        described(self.description)?.try_into()
    }
}

fn described(description: &str) -> Result<toml::Table, toml::de::Error> {
    let mut own: toml::Table = toml::from_str(description)?;
    let Some(base) = own.remove("base") else { return Ok(own) };
    let likeness = Likeness {
        base: base.try_into()?,
        replace: own.remove("replace").map_or(Ok(Vec::new()), toml::Value::try_into)?,
        without: own.remove("without").map_or(Ok(Vec::new()), toml::Value::try_into)?,
    };
    let base = Shipped::named(&likeness.base).map_or("", |shipped| shipped.description);
    let words = likeness.replace.iter();
    let text = words.fold(base.to_owned(), |text, (before, after)| text.replace(before, after));
    let mut whole = described(&text)?;
    whole.retain(|name, _| !likeness.without.iter().any(|own| own == name));
    whole.extend(own);
    Ok(whole)
}

/// How a machine is like another.
struct Likeness {
    base: String,
    replace: Vec<(String, String)>,
    without: Vec<String>,
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_shipped_machine_can_be_written() {
        for shipped in MACHINES {
            let machine = shipped.machine().unwrap();
            let folder = tempfile::tempdir().unwrap();
            Tree::of(&machine).write(folder.path()).unwrap();
            assert!(folder.path().join("proc/cpuinfo").is_file());
            let has_tables = folder.path().join("sys/firmware/dmi/tables/DMI").is_file();
            assert_eq!(has_tables, shipped.name != "turnstone");
        }
    }
}
