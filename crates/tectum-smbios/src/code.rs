//! Enumerations of the standard as integers with names: a code that the standard does not list
//! stays what it is, a number without a name.

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

pub(crate) use code;
