//! Texts, each of a type that says who chose it.

use serde_json::Value;

use super::{JsonForm, Leaf, LeafShape, Whose};

/// What replaces the texts that identify.
pub trait Redact {
    /// What stands for a text of some kind: another text, or the same where it is known to be
    /// harmless.
    fn text(&self, kind: Identifies, text: &str) -> String;
}

macro_rules! kinds {
    ($($(#[doc = $doc:literal])+ $name:ident = $word:literal,)+) => {
        /// What kind of identifying text a leaf holds.
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
        pub enum Identifies {
            $($(#[doc = $doc])+ $name,)+
        }

        impl Identifies {
            /// All kinds.
            pub const ALL: &'static [Self] = &[$(Self::$name,)+];

            /// The word used in schemas and options.
            pub fn word(self) -> &'static str {
                match self {
                    $(Self::$name => $word,)+
                }
            }

            /// The kind that a word names.
            pub fn from_word(word: &str) -> Option<Self> {
                match word {
                    $($word => Some(Self::$name),)+
                    _ => None,
                }
            }
        }
    };
}

kinds! {
    /// A maker's serial number.
    Serial = "serial",
    /// A UUID of a system, partition or filesystem.
    Uuid = "uuid",
    /// A World Wide Name or another id unique in the world.
    WorldWideName = "wwn",
    /// A MAC address.
    Mac = "mac",
    /// A network address.
    Address = "address",
    /// A host or domain name.
    HostName = "host-name",
    /// An owner's inventory number.
    AssetTag = "asset-tag",
    /// A label or name that the owner gave.
    Label = "label",
    /// A machine or boot id.
    MachineId = "machine-id",
    /// A network interface's name; names that the kernel or a rule makes of its place are harmless.
    InterfaceName = "interface",
    /// A device's name; names that the kernel makes are harmless.
    DeviceName = "device",
    /// The path of a file or mount point; the folders that every system has are harmless.
    Path = "path",
    /// What is mounted: a device, a server's path, an image.
    MountSource = "mount-source",
    /// An option of a mount; known ones with a number or a known word are harmless.
    MountOption = "mount-option",
    /// The kind of a filesystem; those that the kernel knows are harmless.
    FilesystemKind = "filesystem-kind",
    /// The name of a kernel parameter; those of the kernel are harmless.
    ParameterName = "parameter",
    /// The value of a kernel parameter; numbers, words of the kernel's and its devices are harmless.
    ParameterValue = "parameter-value",
    /// The kernel's command line, word by word.
    CommandLine = "command-line",
    /// The word by which a source of software names a part of what it has.
    SoftwareSuite = "software-suite",
    /// Free text in which a maker or owner may have put anything.
    FreeText = "free-text",
}

macro_rules! texts {
    ($($(#[$doc:meta])* $name:ident, $whose:expr;)*) => {$(
        $(#[$doc])*
        #[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub struct $name(pub String);

        impl Leaf for $name {
            const SHAPE: LeafShape =
                LeafShape { form: JsonForm::String, whose: $whose, unit: None };

            fn to_json(&self) -> Value {
                Value::String(self.0.clone())
            }

            fn from_json(json: &Value) -> Option<Self> {
                json.as_str().map(|text| Self(text.to_owned()))
            }

            fn redacted(&self, by: &dyn Redact) -> Self {
                match Self::SHAPE.whose {
                    Whose::Owners(kind) => Self(by.text(kind, &self.0)),
                    Whose::Makers | Whose::Nobodys => self.clone(),
                }
            }
        }

        impl From<&str> for $name {
            fn from(text: &str) -> Self {
                Self(text.to_owned())
            }
        }

        impl From<String> for $name {
            fn from(text: String) -> Self {
                Self(text)
            }
        }

        impl std::fmt::Display for $name {
            fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str(&self.0)
            }
        }

        impl std::ops::Deref for $name {
            type Target = str;

            fn deref(&self) -> &str {
                &self.0
            }
        }
    )*};
}

texts! {
    /// Words of a maker, a firmware or a kernel, the same on every machine of its kind: a model
    /// name, a version, a slot's label, a place on a bus.
    Term, Whose::Makers;
    /// A maker's serial number.
    Serial, Whose::Owners(Identifies::Serial);
    /// A UUID of a system, partition or filesystem, lower case where it is one.
    Uuid, Whose::Owners(Identifies::Uuid);
    /// A World Wide Name (or EUI-64, NGUID, NVMe id).
    WorldWideName, Whose::Owners(Identifies::WorldWideName);
    /// A MAC address, as the kernel writes it.
    MacAddress, Whose::Owners(Identifies::Mac);
    /// An IPv4 or IPv6 address.
    NetworkAddress, Whose::Owners(Identifies::Address);
    /// A host or domain name.
    HostName, Whose::Owners(Identifies::HostName);
    /// An owner's inventory number.
    AssetTag, Whose::Owners(Identifies::AssetTag);
    /// A label or name that the owner gave.
    Label, Whose::Owners(Identifies::Label);
    /// A machine or boot id.
    MachineId, Whose::Owners(Identifies::MachineId);
    /// A network interface's name.
    InterfaceName, Whose::Owners(Identifies::InterfaceName);
    /// A device's name as the kernel has it, which an owner may have chosen (`md_home`).
    DeviceName, Whose::Owners(Identifies::DeviceName);
    /// The path of a file or mount point.
    PathName, Whose::Owners(Identifies::Path);
    /// What is mounted: a device, a server's path, an image.
    MountSource, Whose::Owners(Identifies::MountSource);
    /// An option of a mount.
    MountOption, Whose::Owners(Identifies::MountOption);
    /// The kind of a filesystem.
    FilesystemKind, Whose::Owners(Identifies::FilesystemKind);
    /// The name of a kernel parameter.
    ParameterName, Whose::Owners(Identifies::ParameterName);
    /// The value of a kernel parameter.
    ParameterValue, Whose::Owners(Identifies::ParameterValue);
    /// The kernel's command line.
    CommandLine, Whose::Owners(Identifies::CommandLine);
    /// The word by which a source of software names a part of what it has: a suite, a component.
    SuiteName, Whose::Owners(Identifies::SoftwareSuite);
    /// Free text in which a maker or owner may have put anything.
    FreeText, Whose::Owners(Identifies::FreeText);
}
