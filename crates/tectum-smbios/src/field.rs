//! A field of a structure: where it stands, its bytes, what they mean; and the macro that declares
//! a structure type as the table of its fields.

use crate::{Handle, Structure, Text, Uuid, bytes};

/// A field that a structure is long enough to hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Field<'a, T> {
    /// The handle of the structure it stands in.
    pub handle: Handle,
    /// The field's offset within the structure, in bytes.
    pub offset: usize,
    /// The field's raw bytes.
    pub bytes: &'a [u8],
    /// What they mean.
    pub value: T,
}

impl<'a, T> Field<'a, T> {
    /// The same field with another meaning made of its value.
    pub fn map<U>(self, meaning: impl FnOnce(T) -> U) -> Field<'a, U> {
        Field {
            handle: self.handle,
            offset: self.offset,
            bytes: self.bytes,
            value: meaning(self.value),
        }
    }
}

/// A field's place in its structure type, for listings.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct FieldSpec {
    /// The accessor's name.
    pub name: &'static str,
    /// Offset in bytes.
    pub offset: usize,
    /// Length in bytes.
    pub len: usize,
}

/// A field as words, for listings of structures that nothing else tells of.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DecodedField<'a> {
    /// The field's name in lower-case words.
    pub name: String,
    /// The field: its place, its bytes, and what they mean in words.
    pub field: Field<'a, String>,
}

/// What can be read from a field's bytes.
pub(crate) trait Decode<'a>: Sized {
    /// Length in bytes.
    const LEN: usize;
    /// What it means in words. A string is told by its number: it may identify something, and
    /// structures list their strings.
    fn words(&self) -> String;
    fn decode(bytes: &'a [u8], structure: &Structure<'a>) -> Option<Self>;
}

macro_rules! decode_integer {
    ($($int:ty = $read:ident;)*) => {$(
        impl<'a> Decode<'a> for $int {
            const LEN: usize = std::mem::size_of::<$int>();

            fn words(&self) -> String {
                self.to_string()
            }

            fn decode(bytes: &'a [u8], _: &Structure<'a>) -> Option<Self> {
                bytes::$read(bytes, 0)
            }
        }
    )*};
}

decode_integer! {
    u8 = byte;
    u16 = word;
    u32 = dword;
    u64 = qword;
}

impl<'a> Decode<'a> for Handle {
    const LEN: usize = 2;

    fn words(&self) -> String {
        self.to_string()
    }

    fn decode(bytes: &'a [u8], _: &Structure<'a>) -> Option<Self> {
        bytes::word(bytes, 0).map(Handle)
    }
}

impl<'a> Decode<'a> for Uuid {
    const LEN: usize = 16;

    fn words(&self) -> String {
        "a UUID".to_owned()
    }

    fn decode(bytes: &'a [u8], _: &Structure<'a>) -> Option<Self> {
        bytes::array(bytes, 0).map(Uuid)
    }
}

impl<'a> Decode<'a> for Text<'a> {
    const LEN: usize = 1;

    fn words(&self) -> String {
        match self.index {
            0 => "none".to_owned(),
            index => format!("string {index}"),
        }
    }

    fn decode(bytes: &'a [u8], structure: &Structure<'a>) -> Option<Self> {
        bytes::byte(bytes, 0).map(|index| structure.text(index))
    }
}

/// Reads one field; `None` where the structure is too short to hold it.
pub(crate) fn read<'a, T: Decode<'a>>(
    structure: &Structure<'a>,
    offset: usize,
) -> Option<Field<'a, T>> {
    let bytes = bytes::slice(structure.formatted(), offset, T::LEN)?;
    let value = T::decode(bytes, structure)?;
    Some(Field { handle: structure.handle(), offset, bytes, value })
}

macro_rules! structure {
    (
        $(#[$doc:meta])*
        $name:ident = $kind:literal, $title:literal {
            $(
                $(#[$field_doc:meta])*
                $offset:literal $field:ident: $ty:ty,
            )*
        }
    ) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq)]
        pub struct $name<'a>(crate::Structure<'a>);

        impl<'a> $name<'a> {
            /// The structure type's number.
            pub const TYPE: u8 = $kind;
            /// The structure type's name in the standard.
            pub const TITLE: &'static str = $title;
            /// The fields at fixed offsets, in their order.
            pub const FIELDS: &'static [crate::FieldSpec] = &[
                $(crate::FieldSpec {
                    name: stringify!($field),
                    offset: $offset,
                    len: <$ty as crate::field::Decode<'a>>::LEN,
                },)*
            ];

            /// The structure as this type; `None` if it is of another.
            pub fn from_structure(structure: crate::Structure<'a>) -> Option<Self> {
                (structure.kind() == $kind).then_some(Self(structure))
            }

            /// The fields at fixed offsets that the structure holds, as words.
            pub fn decoded(&self) -> Vec<crate::DecodedField<'a>> {
                let fields: Vec<Option<crate::DecodedField<'a>>> = vec![$(
                    self.$field().map(|field| crate::DecodedField {
                        name: stringify!($field).replace('_', " "),
                        field: field.map(|value| crate::field::Decode::words(&value)),
                    }),
                )*];
                fields.into_iter().flatten().collect()
            }

            /// The structure as it stands in the table.
            pub fn structure(&self) -> crate::Structure<'a> {
                self.0
            }

            $(
                $(#[$field_doc])*
                pub fn $field(&self) -> Option<crate::Field<'a, $ty>> {
                    crate::field::read(&self.0, $offset)
                }
            )*
        }
    };
}

pub(crate) use structure;
