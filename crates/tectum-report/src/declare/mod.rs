//! What a model is made of, said once.
//!
//! `record!` declares a struct and with it everything that is needed to walk it without knowing it:
//! field names, their documentation and source, and the roles they play: what makes a part itself
//! and what only says of which kind it is, where it sits, what the kernel calls it, what refers to
//! other parts, what follows from elsewhere, whose reading it is. JSON, schema, evidence, gaps,
//! comparison, paths and redaction are each written once against [`Record`] and never name a field.

pub mod link;
mod node;
mod parts;
mod shape;

pub use node::{
    AnyFact, AnyList, AnyOptional, Described, Field, Node, NodeMut, Record, fact_at, fact_named,
    fields,
};
pub use parts::Parts;
pub use shape::{FieldShape, Follows, Identity, Kind, ReadingOf, Reference, Shape, Step, Tells};
pub(crate) use shape::{by_name, index_of, name_says_unit};

/// Goes down one field of a declared way, which the compiler follows.
pub(crate) trait Follow {
    /// What is reached.
    type To;

    /// It, if it is there.
    fn follow(&self) -> Option<&Self::To>;
}

impl<R> Follow for Option<R> {
    type To = R;

    fn follow(&self) -> Option<&R> {
        self.as_ref()
    }
}

impl<R> Follow for Parts<R> {
    type To = R;

    fn follow(&self) -> Option<&R> {
        self.first()
    }
}

impl<T> Follow for crate::fact::Fact<T> {
    type To = Self;

    fn follow(&self) -> Option<&Self> {
        Some(self)
    }
}

/// Declares a struct of the model: see the [module](self).
///
/// ```text
/// record! {
///     /// What it is.
///     Name "what one is called in a sentence" {
///         source "Documentation/ABI/stable/sysfs-block";
///         identity unique [wwn], [model, serial];   // what makes it itself, surest first
///         identity kind [vendor_id, device_id];     // what only says of which kind it is
///         place [bay];                              // where it sits
///         incidental [line];                        // its line or row: never compared
///         names [name];                             // the kernel's name of this boot
///         called [label];                           // what a person calls it
///         refers rests_on -> storage.disks.name | storage.volumes.name;
///         derived [state];                          // follows from elsewhere in the model
///         counts [errors];                          // only rises, from the start of something on
///         follows [size_bytes] from os.kernel_release; // changes with another field of the model
///         reading of storage.disks by name = name;  // whose reading it is
///
///         /// What the field holds.
///         #[source = "SCSI Primary Commands 6, clause 7.7.19"]
///         serial: Fact<Serial>,
///     }
/// }
/// ```
macro_rules! record {
    (
        $(#[doc = $doc:literal])*
        $name:ident $noun:literal {
            source $source:literal;
            $(identity unique $([$($unique:ident),+ $(,)?]),+;)?
            $(identity kind $([$($sort:ident),+ $(,)?]),+;)?
            $(place [$($place:ident),+];)?
            $(incidental [$($incidental:ident),+];)?
            $(names [$($names:ident),+];)?
            $(called [$($called:ident),+];)?
            $(refers $refers:ident -> $($($way:ident).+)|+;)*
            $(derived [$($derived:ident),+];)?
            $(counts [$($counts:ident),+];)?
            $(follows [$($follows:ident),+] from $($cause:ident).+;)?
            $(reading of $($($list:ident).+ by $own:ident = $key:ident),+;)?
            $(
                $(#[doc = $field_doc:literal])+
                $(#[source = $field_source:literal])?
                $field:ident: $ty:ty,
            )*
        }
    ) => {
        $(#[doc = $doc])*
        #[doc = concat!("\n\nSource: ", $source, ".")]
        #[derive(Debug, Clone, Default, PartialEq)]
        pub struct $name {
            $(
                $(#[doc = $field_doc])+
                $(#[doc = concat!("\n\nSource: ", $field_source, ".")])?
                pub $field: $ty,
            )*
        }

        const _: () = {
            $($crate::declare::name_says_unit(
                stringify!($field),
                <$ty as $crate::declare::Field>::KIND,
            );)*
        };

        // What is referred to is there: the compiler follows each way.
        $($(const _: fn(&$crate::model::Inventory) -> Option<()> = |inventory| {
            let at = inventory;
            $(let at = $crate::declare::Follow::follow(&at.$way)?;)+
            let _ = at;
            Some(())
        };)+)*
        $(const _: fn(&$crate::model::Inventory) -> Option<()> = |inventory| {
            let at = inventory;
            $(let at = $crate::declare::Follow::follow(&at.$cause)?;)+
            let _ = at;
            Some(())
        };)?
        $(const _: fn(&$name, &$crate::model::Inventory) -> Option<()> = |reading, inventory| {
            let at = inventory;
            $(
                $(let at = $crate::declare::Follow::follow(&at.$list)?;)+
                let _ = (&at.$key, &reading.$own);
            )+
            let _ = at;
            Some(())
        };)?

        impl $crate::declare::Described for $name {
            const SHAPE: &'static $crate::declare::Shape = {
                const NAMES: &[&str] = &[$(stringify!($field)),*];
                // One for the whole program: a constant would stand anew wherever it is meant, with all that it
                // leads to, and every copy is bound when the program starts.
                static SHAPE: $crate::declare::Shape = $crate::declare::Shape {
                    name: stringify!($name),
                    noun: $noun,
                    doc: concat!($($doc, "\n",)*),
                    source: $source,
                    by_name: {
                        const ORDER: [u8; NAMES.len()] = $crate::declare::by_name(NAMES);
                        &ORDER
                    },
                    fields: &[$($crate::declare::FieldShape {
                        name: stringify!($field),
                        doc: concat!($($field_doc, "\n",)+),
                        source: $crate::declare::first_of!($($field_source)?),
                        kind: <$ty as $crate::declare::Field>::KIND,
                    },)*],
                    identity: &[
                        $($($crate::declare::Identity {
                            tells: $crate::declare::Tells::Which,
                            fields: &[$($crate::declare::index_of(NAMES, stringify!($unique)),)+],
                        },)+)?
                        $($($crate::declare::Identity {
                            tells: $crate::declare::Tells::Kind,
                            fields: &[$($crate::declare::index_of(NAMES, stringify!($sort)),)+],
                        },)+)?
                    ],
                    place: &[$($($crate::declare::index_of(NAMES, stringify!($place)),)+)?],
                    incidental: &[$($($crate::declare::index_of(NAMES, stringify!($incidental)),)+)?],
                    names: &[$($($crate::declare::index_of(NAMES, stringify!($names)),)+)?],
                    called: &[$($($crate::declare::index_of(NAMES, stringify!($called)),)+)?],
                    references: &[$($crate::declare::Reference {
                        field: $crate::declare::index_of(NAMES, stringify!($refers)),
                        targets: &[$(&[$(stringify!($way),)+],)+],
                    },)*],
                    derived: &[$($($crate::declare::index_of(NAMES, stringify!($derived)),)+)?],
                    counts: &[$($($crate::declare::index_of(NAMES, stringify!($counts)),)+)?],
                    follows: $crate::declare::first_of!($($crate::declare::Follows {
                        fields: &[$($crate::declare::index_of(NAMES, stringify!($follows)),)+],
                        cause: &[$(stringify!($cause),)+],
                    })?),
                    reading_of: $crate::declare::first_of!($(&$crate::declare::ReadingOf {
                        steps: &[$($crate::declare::Step {
                            list: &[$(stringify!($list),)+],
                            own: $crate::declare::index_of(NAMES, stringify!($own)),
                            key: stringify!($key),
                        },)+],
                    })?),
                };
                &SHAPE
            };
        }

        impl $crate::declare::Record for $name {
            fn shape(&self) -> &'static $crate::declare::Shape {
                <Self as $crate::declare::Described>::SHAPE
            }

            // A table of functions would be bound when the program starts, as many as there are fields; of this the
            // compiler makes a table of its own.
            fn node(&self, index: usize) -> Option<$crate::declare::Node<'_>> {
                let mut at = 0;
                $(
                    if index == at {
                        return Some($crate::declare::Field::to_node(&self.$field));
                    }
                    at += 1;
                )*
                let _ = at;
                None
            }

            fn node_mut(&mut self, index: usize) -> Option<$crate::declare::NodeMut<'_>> {
                let mut at = 0;
                $(
                    if index == at {
                        return Some($crate::declare::Field::to_node_mut(&mut self.$field));
                    }
                    at += 1;
                )*
                let _ = at;
                None
            }
        }

        impl $crate::declare::Field for $name {
            const KIND: $crate::declare::Kind = $crate::declare::Kind::Record(
                <Self as $crate::declare::Described>::SHAPE,
            );

            fn to_node(&self) -> $crate::declare::Node<'_> {
                $crate::declare::Node::Record(self)
            }

            fn to_node_mut(&mut self) -> $crate::declare::NodeMut<'_> {
                $crate::declare::NodeMut::Record(self)
            }
        }

        impl $crate::declare::Follow for $name {
            type To = Self;

            fn follow(&self) -> Option<&Self> {
                Some(self)
            }
        }
    };
}

/// What is there, if anything is.
macro_rules! first_of {
    () => {
        None
    };
    ($there:expr) => {
        Some($there)
    };
}

pub(crate) use {first_of, record};
