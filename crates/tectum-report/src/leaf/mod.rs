//! The kinds of leaf a model can have, and what is known of each: its form, its unit, and whose
//! words it holds.
//!
//! There is no leaf for a bare `String`: a text says by its type who chose it, so that a new field
//! cannot be forgotten when a report is redacted. There is none for a bare number with a unit
//! either: a quantity's unit is its type, and the name of its field is checked against it.

mod code;
mod list;
mod quantity;
mod text;
mod time;
mod unit;
mod volume_part;

use serde_json::Value;

pub(crate) use code::codes;
pub use list::{Series, ranges};
pub use quantity::{
    Bits, Bytes, Centimetres, Decicelsius, Hundredths, KilobitsPerSecond, Lanes,
    MebibytesPerSecond, MegabitsPerSecond, Megahertz, Megatransfers, MicroampereHours, Microjoules,
    Microseconds, Microvolts, MicrowattHours, Microwatts, Milliamperes, Millicelsius, Milliseconds,
    Millivolts, MilliwattHours, Nanoseconds, Number, Percent, PercentHundredths, RackUnits, Rpm,
    Seconds, SensorValue, SignedMilliamperes, SignedMillivolts, Watts,
};
pub use text::{
    AssetTag, CommandLine, DeviceName, FilesystemKind, FreeText, HostName, Identifies,
    InterfaceName, Label, MacAddress, MachineId, MountOption, MountSource, NetworkAddress,
    ParameterName, ParameterValue, PathName, Redact, Serial, SuiteName, Term, Uuid, WorldWideName,
};
pub use time::{Date, Moment};
pub use unit::{Scale, Unit, in_large_units};
pub use volume_part::volume_part;

/// A type that a [`Fact`](crate::fact::Fact) of the model can hold.
pub trait Leaf: Clone + PartialEq + std::fmt::Debug + Send + Sync + 'static {
    /// What is known of the type.
    const SHAPE: LeafShape;

    /// The value as JSON.
    fn to_json(&self) -> Value;

    /// The value from JSON; `None` where the JSON has another form.
    fn from_json(json: &Value) -> Option<Self>;

    /// The value as plain, exact text.
    fn to_text(&self) -> String {
        match self.to_json() {
            Value::String(text) => text,
            other => other.to_string(),
        }
    }

    /// Several such values as plain text.
    fn list_text(items: &[Self]) -> String {
        items.iter().map(Leaf::to_text).collect::<Vec<_>>().join(", ")
    }

    /// The value with every text that an owner or user chose replaced.
    fn redacted(&self, _by: &dyn Redact) -> Self {
        self.clone()
    }
}

/// What is known of a leaf's type without a value.
#[derive(Debug, Clone, Copy)]
pub struct LeafShape {
    /// Its JSON form.
    pub form: JsonForm,
    /// Whose words it holds.
    pub whose: Whose,
    /// The unit of its number or numbers.
    pub unit: Option<&'static Unit>,
}

impl LeafShape {
    /// The shape of what holds no words but the report's own.
    pub const fn own(form: JsonForm) -> Self {
        Self { form, whose: Whose::Nobodys, unit: None }
    }
}

/// Whether a field's name ends as those of its unit must.
pub(crate) const fn unit_fits(leaf: &LeafShape, name: &str) -> bool {
    match leaf.unit {
        Some(unit) => unit.fits(name),
        None => true,
    }
}

/// Who chose the words that a leaf holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Whose {
    /// Nobody: a number, a yes or no, a code of the report.
    Nobodys,
    /// Makers of hardware, firmware and software: the same on every machine of its kind.
    Makers,
    /// An owner or user of the machine, or a maker for this one part: it may tell one machine from
    /// all others.
    Owners(Identifies),
}

/// A leaf's JSON form.
#[derive(Debug, Clone, Copy)]
pub enum JsonForm {
    /// A string.
    String,
    /// A string of a form that JSON Schema names.
    Formatted(&'static str),
    /// A string that matches a pattern.
    Pattern(&'static str),
    /// One of a fixed set of strings, each with what it means.
    Code(&'static [(&'static str, &'static str)]),
    /// An integer from zero up.
    Unsigned,
    /// An integer.
    Signed,
    /// `true` or `false`.
    Boolean,
    /// A list of such values: a set, told in a stable order.
    Set(&'static LeafShape),
    /// A list in which each stands for a part of another list.
    Series(&'static LeafShape),
}

macro_rules! scalar {
    ($($ty:ty, $form:ident, $get:ident;)*) => {$(
        impl Leaf for $ty {
            const SHAPE: LeafShape = LeafShape::own(JsonForm::$form);

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
    i64, Signed, as_i64;
    bool, Boolean, as_bool;
}

impl Leaf for u64 {
    const SHAPE: LeafShape = LeafShape::own(JsonForm::Unsigned);

    fn to_json(&self) -> Value {
        Value::from(*self)
    }

    fn from_json(json: &Value) -> Option<Self> {
        json.as_u64()
    }

    /// Numbers of CPUs or nodes: neighbours as ranges.
    fn list_text(items: &[Self]) -> String {
        list::ranges(items)
    }
}
