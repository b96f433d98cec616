//! Made-up machines, written out as the files that a kernel and its firmware would show.
//!
//! A machine is described in a few dozen lines of TOML ([`Machine`]); [`Tree::of`] turns that into
//! the files of `/proc`, `/sys`, `/etc` and `/run` that stand for it, and [`Tree::write`] writes
//! them into a folder that stands in for `/`. The machines that ship with Tectum ([`MACHINES`]) are
//! those of the fictional Skerry Coast Tide Service; tests and benchmarks describe their own.

mod content;
pub mod costly;
mod devices;
mod disk;
mod dmi;
mod machine;
mod memory;
mod procfs;
mod scaled;
mod sysfs;
mod system;
mod tree;
mod volume;
pub mod year;

pub use dmi::{StructureBuilder, entry_point_32, table};
pub use machine::{
    Bios, Board, CardSlot, Channel, Chassis, Chip, Content, Cpu, Disk, DiskKind, Fan, Function,
    Gpu, Machine, Management, Module, Monitor, NetworkPort, Partition, PowerSupply, Slot, System,
    UsbDevice, Volume,
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
    Shipped {
        name: "cormorant",
        summary: "storage: a shelf with an array and its spare, encryption, a thin pool, two paths",
        description: include_str!("../../../demo/machines/cormorant.toml"),
    },
    Shipped {
        name: "dunlin",
        summary: "an old 32-bit machine with an MBR and a floppy drive, which still reads a gauge",
        description: include_str!("../../../demo/machines/dunlin.toml"),
    },
    Shipped {
        name: "avocet",
        summary: "a RISC-V board that gathers what the buoys send",
        description: include_str!("../../../demo/machines/avocet.toml"),
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
    use std::path::{Path, PathBuf};

    use super::*;

    /// All that lies below a folder, with what it holds.
    fn all_of(folder: &Path) -> Vec<(PathBuf, String)> {
        let mut all = Vec::new();
        for entry in std::fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            let link = std::fs::read_link(&path);
            let held = match (&link, path.is_dir()) {
                (Ok(target), _) => target.display().to_string(),
                (_, true) => {
                    all.extend(all_of(&path));
                    "folder".to_owned()
                }
                _ => format!("{:?}", std::fs::read(&path).unwrap()),
            };
            all.push((path, held));
        }
        all
    }

    #[test]
    fn a_tree_written_over_another_is_as_if_written_alone() {
        let root = tempfile::tempdir().unwrap();
        let root = root.path();
        let tree = |name: &str| Tree::of(&Shipped::named(name).unwrap().machine().unwrap());
        let names = ["gannet-before", "cormorant", "turnstone", "fulmar", "gannet-after"];
        let mut before = Tree::default();
        for name in names {
            let (over, alone) = (root.join("over"), root.join(name));
            tree(name).write_over(&before, &over).unwrap();
            tree(name).write(&alone).unwrap();
            let below = |folder: &Path| {
                let mut all = all_of(folder);
                for (path, _) in &mut all {
                    *path = path.strip_prefix(folder).unwrap().to_owned();
                }
                all.sort();
                all
            };
            let (over, alone) = (below(&over), below(&alone));
            let other = |one: &[(PathBuf, String)], two: &[(PathBuf, String)]| -> Vec<PathBuf> {
                let lacking = one.iter().filter(|entry| !two.contains(entry));
                lacking.map(|(path, _)| path.clone()).collect()
            };
            assert_eq!(other(&over, &alone), other(&alone, &over), "{name}");
            before = tree(name);
        }
    }

    #[test]
    fn every_shipped_machine_can_be_written() {
        for shipped in MACHINES {
            let machine = shipped.machine().unwrap();
            let folder = tempfile::tempdir().unwrap();
            Tree::of(&machine).write(folder.path()).unwrap();
            assert!(folder.path().join("proc/cpuinfo").is_file());
            let has_tables = folder.path().join("sys/firmware/dmi/tables/DMI").is_file();
            assert_eq!(has_tables, !["turnstone", "avocet"].contains(&shipped.name));
        }
    }
}
