//! Enumerations of the standard as integers with names: a code that the standard does not list
//! stays what it is, a number without a name. Bit fields likewise: each set bit with its name.

macro_rules! code {
    (
        $(#[$doc:meta])*
        $name:ident($int:ty) { $($value:literal => $text:literal,)* }
    ) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub struct $name(pub $int);

        impl $name {
            /// The standard's name for the code, if it lists it.
            pub fn name(self) -> Option<&'static str> {
                match self.0 {
                    $($value => Some($text),)*
                    _ => None,
                }
            }
        }

        impl<'a> crate::field::Decode<'a> for $name {
            const LEN: usize = std::mem::size_of::<$int>();

            fn words(&self) -> String {
                self.to_string()
            }

            fn decode(bytes: &'a [u8], structure: &crate::Structure<'a>) -> Option<Self> {
                <$int as crate::field::Decode<'a>>::decode(bytes, structure).map(Self)
            }
        }

        impl std::fmt::Display for $name {
            fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
                match self.name() {
                    Some(name) => f.write_str(name),
                    None => write!(f, "code {:#x}", self.0),
                }
            }
        }
    };
}

/// One bit that is set in a bit field.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Flag {
    /// The bit's number, the lowest being 0.
    pub bit: u8,
    /// The standard's name for it, if it lists the bit.
    pub name: Option<&'static str>,
}

impl std::fmt::Display for Flag {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self.name {
            Some(name) => f.write_str(name),
            None => write!(f, "bit {}", self.bit),
        }
    }
}

macro_rules! flags {
    (
        $(#[$doc:meta])*
        $name:ident($int:ty) { $($bit:literal => $text:literal,)* }
    ) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
        pub struct $name(pub $int);

        impl $name {
            /// The bits that are set, from the lowest, each with the standard's name if it lists
            /// the bit.
            pub fn set(self) -> impl Iterator<Item = crate::Flag> {
                (0..64u8)
                    .filter(move |bit| u64::from(self.0).checked_shr(u32::from(*bit)) .is_some_and(|bits| bits & 1 == 1)).map(|bit| {
                    let name = match bit {
                        $($bit => Some($text),)*
                        _ => None,
                    };
                    crate::Flag { bit, name }
                })
            }
        }

        impl<'a> crate::field::Decode<'a> for $name {
            const LEN: usize = std::mem::size_of::<$int>();

            fn words(&self) -> String {
                let names: Vec<String> = self.set().map(|flag| flag.to_string()).collect();
                names.join(", ")
            }

            fn decode(bytes: &'a [u8], structure: &crate::Structure<'a>) -> Option<Self> {
                <$int as crate::field::Decode<'a>>::decode(bytes, structure).map(Self)
            }
        }
    };
}

pub(crate) use {code, flags};
