//! The kinds of leaf a model can have.
//!
//! There is no leaf for a bare `String`: a text must say by its type whether it can tell one
//! machine from another, so that a new field cannot be forgotten when a report is redacted.

use serde_json::Value;

/// What kind of identifying text a leaf holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Identifies {
    /// A maker's serial number.
    Serial,
    /// A UUID of a system, partition or filesystem.
    Uuid,
    /// A World Wide Name or another id unique in the world.
    WorldWideName,
    /// A MAC address.
    Mac,
    /// A network address.
    Address,
    /// A host or domain name.
    HostName,
    /// An owner's inventory number.
    AssetTag,
    /// A label that the owner gave.
    Label,
    /// A machine or boot id.
    MachineId,
    /// Free text in which a maker or owner may have put anything.
    FreeText,
}

impl Identifies {
    /// All kinds.
    pub const ALL: [Self; 10] = [
        Self::Serial,
        Self::Uuid,
        Self::WorldWideName,
        Self::Mac,
        Self::Address,
        Self::HostName,
        Self::AssetTag,
        Self::Label,
        Self::MachineId,
        Self::FreeText,
    ];

    /// The kind that a word names.
    pub fn from_word(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|kind| kind.word() == word)
    }

    /// The word used in reports and options.
    pub fn word(self) -> &'static str {
        match self {
            Self::Serial => "serial",
            Self::Uuid => "uuid",
            Self::WorldWideName => "wwn",
            Self::Mac => "mac",
            Self::Address => "address",
            Self::HostName => "host-name",
            Self::AssetTag => "asset-tag",
            Self::Label => "label",
            Self::MachineId => "machine-id",
            Self::FreeText => "free-text",
        }
    }
}

/// A leaf's JSON form.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum JsonForm {
    /// A string.
    String,
    /// One of a fixed set of strings.
    Term(&'static [&'static str]),
    /// An integer from zero up.
    Unsigned,
    /// An integer.
    Signed,
    /// `true` or `false`.
    Boolean,
    /// A list of strings.
    Strings,
    /// A list of integers from zero up.
    Unsigneds,
}

/// What is known of a leaf's type without a value.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct LeafShape {
    /// Its JSON form.
    pub form: JsonForm,
    /// What kind of identifying text it holds.
    pub identifies: Option<Identifies>,
}

/// A type that a [`Fact`](super::fact::Fact) of the model can hold.
pub trait Leaf: Clone + PartialEq + std::fmt::Debug + Send + Sync + 'static {
    /// What is known of the type.
    const SHAPE: LeafShape;

    /// The value as JSON.
    fn to_json(&self) -> Value;

    /// The value from JSON; `None` where the JSON has another form.
    fn from_json(json: &Value) -> Option<Self>;

    /// The value as plain text, as it stands in lists and comparisons.
    fn to_text(&self) -> String {
        match self.to_json() {
            Value::String(text) => text,
            other => other.to_string(),
        }
    }
}

macro_rules! texts {
    ($($(#[$doc:meta])* $name:ident = $identifies:expr;)*) => {$(
        $(#[$doc])*
        #[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub struct $name(pub String);

        impl Leaf for $name {
            const SHAPE: LeafShape = LeafShape { form: JsonForm::String, identifies: $identifies };

            fn to_json(&self) -> Value {
                Value::String(self.0.clone())
            }

            fn from_json(json: &Value) -> Option<Self> {
                json.as_str().map(|text| Self(text.to_owned()))
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
    /// Text that is the same on every machine of its kind: a model name, a version, a slot's label.
    Text = None;
    /// A maker's serial number.
    Serial = Some(Identifies::Serial);
    /// A UUID of a system, partition or filesystem, lower case where it is one.
    Uuid = Some(Identifies::Uuid);
    /// A World Wide Name (or EUI-64, NGUID, NVMe id).
    WorldWideName = Some(Identifies::WorldWideName);
    /// A MAC address, as the kernel writes it.
    MacAddress = Some(Identifies::Mac);
    /// An IPv4 or IPv6 address.
    NetworkAddress = Some(Identifies::Address);
    /// A host or domain name.
    HostName = Some(Identifies::HostName);
    /// An owner's inventory number.
    AssetTag = Some(Identifies::AssetTag);
    /// A label that the owner gave.
    Label = Some(Identifies::Label);
    /// A machine or boot id.
    MachineId = Some(Identifies::MachineId);
    /// Free text in which a maker or owner may have put anything.
    FreeText = Some(Identifies::FreeText);
}

macro_rules! scalar {
    ($($ty:ty, $form:ident, $get:ident;)*) => {$(
        impl Leaf for $ty {
            const SHAPE: LeafShape = LeafShape { form: JsonForm::$form, identifies: None };

            fn to_json(&self) -> Value {
                Value::from(*self)
            }

            fn from_json(json: &Value) -> Option<Self> {
                json.$get()
            }
        }
    )*};
}

scalar! {
    u64, Unsigned, as_u64;
    i64, Signed, as_i64;
    bool, Boolean, as_bool;
}

impl Leaf for Vec<Text> {
    const SHAPE: LeafShape = LeafShape { form: JsonForm::Strings, identifies: None };

    fn to_json(&self) -> Value {
        self.iter().map(Leaf::to_json).collect()
    }

    fn from_json(json: &Value) -> Option<Self> {
        json.as_array()?.iter().map(Text::from_json).collect()
    }

    fn to_text(&self) -> String {
        self.iter().map(|text| text.0.as_str()).collect::<Vec<_>>().join(", ")
    }
}

impl Leaf for Vec<u64> {
    const SHAPE: LeafShape = LeafShape { form: JsonForm::Unsigneds, identifies: None };

    fn to_json(&self) -> Value {
        self.iter().copied().map(Value::from).collect()
    }

    fn from_json(json: &Value) -> Option<Self> {
        json.as_array()?.iter().map(Value::as_u64).collect()
    }

    fn to_text(&self) -> String {
        crate::formats::number_list::write(self)
    }
}

/// Measures in a row, one for each part of another list; unlike `Vec<u64>`, which is a set of
/// numbers, they are never shortened to ranges.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Measures(pub Vec<u64>);

impl Leaf for Measures {
    const SHAPE: LeafShape = LeafShape { form: JsonForm::Unsigneds, identifies: None };

    fn to_json(&self) -> Value {
        self.0.iter().copied().map(Value::from).collect()
    }

    fn from_json(json: &Value) -> Option<Self> {
        json.as_array()?.iter().map(Value::as_u64).collect::<Option<_>>().map(Self)
    }

    fn to_text(&self) -> String {
        self.0.iter().map(u64::to_string).collect::<Vec<_>>().join(" ")
    }
}

/// Declares an enumeration whose values are words of the report.
macro_rules! terms {
    (
        $(#[$doc:meta])*
        $name:ident { $($(#[$variant_doc:meta])* $variant:ident = $word:literal,)* }
    ) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub enum $name {
            $($(#[$variant_doc])* $variant,)*
        }

        impl $name {
            /// The word used in reports.
            pub fn word(self) -> &'static str {
                match self {
                    $(Self::$variant => $word,)*
                }
            }
        }

        impl $crate::report::kinds::Leaf for $name {
            const SHAPE: $crate::report::kinds::LeafShape = $crate::report::kinds::LeafShape {
                form: $crate::report::kinds::JsonForm::Term(&[$($word,)*]),
                identifies: None,
            };

            fn to_json(&self) -> serde_json::Value {
                serde_json::Value::from(self.word())
            }

            fn from_json(json: &serde_json::Value) -> Option<Self> {
                match json.as_str()? {
                    $($word => Some(Self::$variant),)*
                    _ => None,
                }
            }
        }

        impl std::fmt::Display for $name {
            fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                f.write_str(self.word())
            }
        }
    };
}

pub(crate) use terms;
