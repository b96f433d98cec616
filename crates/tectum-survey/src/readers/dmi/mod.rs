//! The firmware's tables as sections see them: fields that turn into facts.

mod origin;
pub(crate) mod redacted;

use crate::readers::raw_bytes::raw_bytes;
use crate::readers::sayings;
use std::{
    collections::{BTreeMap, HashMap},
    sync::Arc,
};

use tectum_smbios::{
    EntryPoint, Field, Flag, Handle, Inspection, Structure, Text as FirmwareText, Version, inspect,
    walk,
};

pub(crate) use self::origin::Origin;
use self::origin::Table;

use crate::readers::{
    file::{File, meaningful},
    limits::MOST_STRUCTURES,
};
use crate::source::Lease;
use tectum_report::{
    declare::{Described, NodeMut, Parts, Record},
    fact::{Evidence, Fact, Gap, Place, Saying, Why, saying},
    leaf::Term,
};

/// The entry point, by which the table is found and its version told.
pub(crate) const ENTRY_POINT: &str = "/sys/firmware/dmi/tables/smbios_entry_point";
/// The strings that the kernel publishes to everybody (`Documentation/ABI/stable/sysfs-class-dmi`
/// names them as they stand in the folder).
const PUBLISHED: &str = "/sys/class/dmi/id";

/// The rule by which a code of the standard becomes words.
pub(crate) const NAME: Saying = sayings::STANDARD_NAME_CODE;

/// A field whose value says that nothing is known.
const NOT_KNOWN: Saying = saying!("field-not-known", "{}, which says that it is not known");

/// A code's name, or the code itself where the standard does not list it; nothing for "Unknown".
pub(crate) fn named(code: impl std::fmt::Display) -> Option<Term> {
    let name = code.to_string();
    (name != "Unknown").then_some(Term(name))
}

/// The firmware's tables.
pub(crate) struct Tables {
    table: Table,
    entry_point: File,
}

impl Tables {
    pub(crate) fn read(lease: &Lease) -> Self {
        Self { table: Table::read(lease), entry_point: File::read(lease, ENTRY_POINT) }
    }

    /// Why there is nothing to read, if so.
    pub(crate) fn gap(&self) -> Option<Gap> {
        self.table.bytes.as_ref().err().cloned()
    }

    /// Where the tables come from, if they can be read.
    pub(crate) fn origin(&self) -> Option<Origin> {
        self.table.bytes.is_ok().then_some(self.table.origin)
    }

    /// The tables looked at as a whole.
    pub(crate) fn inspection(&self) -> Inspection {
        let entry = self.entry_point.bytes().ok().and_then(|bytes| EntryPoint::parse(bytes).ok());
        // The files of one structure each may leave some out, so the entry point cannot be held
        // against them.
        let entry = entry.filter(|_| self.table.origin == Origin::WholeTable);
        inspect(self.bytes(), entry.as_ref())
    }

    /// How many bytes there are.
    pub(crate) fn length(&self) -> usize {
        self.bytes().len()
    }

    fn bytes(&self) -> &[u8] {
        self.table.bytes.as_ref().map_or(&[][..], |bytes| &bytes[..])
    }

    /// The version of the standard.
    pub(crate) fn version(&self) -> Fact<Version> {
        let bytes = match self.entry_point.bytes() {
            Err(gap) => return Fact::gap(gap.clone()),
            Ok(bytes) => bytes,
        };
        match EntryPoint::parse(bytes) {
            Ok(entry) => Fact::known(
                entry.version,
                Evidence::new(
                    Arc::clone(self.entry_point.path()),
                    saying!("entry-point-version", "the entry point's version"),
                )
                .place(match entry.kind {
                    tectum_smbios::EntryPointKind::Bits32 => Place::bytes(0x06, 2),
                    tectum_smbios::EntryPointKind::Bits64 => Place::bytes(0x07, 2),
                })
                .raw(&format!(
                    "{:02x} {:02x} (version {})",
                    entry.version.major, entry.version.minor, entry.version
                )),
            ),
            Err(error) => Fact::gap(Gap::new(Why::Invalid).tried(
                Arc::clone(self.entry_point.path()),
                saying!("no-entry-point", "is no entry point: {}").with(error.to_string()),
            )),
        }
    }

    /// The structures that can be read, in their order; of each type no more than are told.
    pub(crate) fn structures(&self) -> impl Iterator<Item = Structure<'_>> {
        let mut counts: HashMap<u8, usize> = HashMap::new();
        walk(self.bytes()).filter_map(Result::ok).filter(move |structure| {
            let count = counts.entry(structure.kind()).or_default();
            *count += 1;
            *count <= MOST_STRUCTURES
        })
    }

    /// The types of which there are more structures than are told, and how many there are.
    pub(crate) fn beyond_limit(&self) -> BTreeMap<u8, usize> {
        let mut counts = BTreeMap::new();
        for structure in walk(self.bytes()).filter_map(Result::ok) {
            *counts.entry(structure.kind()).or_default() += 1;
        }
        counts.retain(|_, count| *count > MOST_STRUCTURES);
        counts
    }

    /// The structures by their handles; where several have one handle, the first.
    pub(crate) fn by_handle(&self) -> HashMap<Handle, Structure<'_>> {
        let mut all = HashMap::new();
        for structure in self.structures() {
            all.entry(structure.handle()).or_insert(structure);
        }
        all
    }

    /// The structures of one type.
    pub(crate) fn all<'a, T>(
        &'a self,
        typed: impl Fn(Structure<'a>) -> Option<T>,
    ) -> impl Iterator<Item = T> {
        self.structures().filter_map(typed)
    }

    /// A list with one part for each structure of a type.
    pub(crate) fn parts<'a, T, R: Described>(
        &'a self,
        number: u8,
        typed: impl Fn(Structure<'a>) -> Option<T>,
        part: impl Fn(&T) -> Option<R>,
    ) -> Parts<R> {
        if let Some(gap) = self.gap() {
            return Parts::missing(gap);
        }
        let items = self.all(typed).filter_map(|structure| part(&structure)).collect();
        Parts::known(
            items,
            self.whole(
                saying!(
                    "one-each-structure-type-calls",
                    "one for each structure of type {} it calls for",
                )
                .with(number.to_string()),
            ),
        )
    }

    /// Evidence that names the table as a whole.
    pub(crate) fn whole(&self, rule: impl Into<Saying>) -> Evidence {
        Evidence::new(self.path(), rule).place("the whole table")
    }

    /// Why a structure that the standard requires is not there.
    pub(crate) fn no_structure(&self, number: u8) -> Gap {
        self.gap().unwrap_or_else(|| {
            Gap::new(Why::NotProvided).tried(
                self.path(),
                saying!("holds-no-structure-type", "holds no structure of type {}")
                    .with(number.to_string()),
            )
        })
    }

    /// The fact that a field gives; `meaning` returns nothing for a code that says "unknown".
    pub(crate) fn fact<T, U>(
        &self,
        field: Option<Field<'_, T>>,
        rule: Saying,
        meaning: impl FnOnce(T) -> Option<U>,
    ) -> Fact<U>
    where
        U: std::fmt::Display,
    {
        let Some(field) = field else { return Fact::gap(self.too_short()) };
        let (handle, place, hex) = (field.handle, place(&field), raw_bytes(field.bytes));
        match meaning(field.value) {
            Some(value) => {
                let raw = format!("{hex} ({value})");
                Fact::known(value, self.at(handle, place, &raw, rule))
            }
            None => {
                let answer = NOT_KNOWN.with(format!("{place} holds {hex}"));
                Fact::gap(Gap::new(Why::Blank).raw(&hex).tried(self.table.path_of(handle), answer))
            }
        }
    }

    /// The fact that a bit field gives: the standard's names of the bits that are set.
    pub(crate) fn flags<T, F: Iterator<Item = Flag>>(
        &self,
        field: Option<Field<'_, T>>,
        set: impl FnOnce(T) -> F,
    ) -> Fact<Vec<Term>> {
        let Some(field) = field else { return Fact::gap(self.too_short()) };
        let (handle, place, hex) = (field.handle, place(&field), raw_bytes(field.bytes));
        let flags: Vec<Flag> = set(field.value).collect();
        let unknown = |flag: &Flag| matches!(flag.name, Some("Unknown"));
        if !flags.is_empty() && flags.iter().all(unknown) {
            let answer = NOT_KNOWN.with(format!("{place} holds {hex}"));
            return Fact::gap(
                Gap::new(Why::Blank).raw(&hex).tried(self.table.path_of(handle), answer),
            );
        }
        let names: Vec<Term> = flags.iter().map(|flag| Term(flag.to_string())).collect();
        let evidence = self.at(
            handle,
            place,
            &hex,
            saying!("standard-names-bits-set", "the standard's names of the bits that are set"),
        );
        Fact::known(names, evidence)
    }

    /// The fact that a string field gives.
    pub(crate) fn text<T: From<String>>(
        &self,
        field: Option<Field<'_, FirmwareText<'_>>>,
    ) -> Fact<T> {
        let Some(field) = field else { return Fact::gap(self.too_short()) };
        let place = place(&field);
        let (handle, path) = (field.handle, self.table.path_of(field.handle));
        let index = field.value.index;
        match field.value.escaped() {
            None if field.value.is_unset() => Fact::gap(Gap::new(Why::Blank).tried(
                path,
                saying!("names-no-string-2", "{} names no string").with(place.to_string()),
            )),
            None => Fact::gap(
                Gap::new(Why::Invalid).tried(
                    path,
                    saying!("no-such-string", "{}, which the structure does not have")
                        .with(format!("{place} names string {index}")),
                ),
            ),
            Some(text) => match meaningful(&text) {
                Ok(meant) => Fact::known(
                    T::from(meant),
                    self.at(
                        handle,
                        place,
                        &format!("{} → string {index}: {text}", raw_bytes(field.bytes)),
                        saying!(
                            "string-field-names-trimmed",
                            "the string that the field names, trimmed",
                        ),
                    ),
                ),
                Err(gap) => Fact::gap(
                    gap.tried(
                        path,
                        saying!("string-says-nothing", "{}, which says nothing")
                            .with(format!("{place} names the string {text:?}")),
                    ),
                ),
            },
        }
    }

    /// The table's path.
    pub(crate) fn path(&self) -> Arc<str> {
        Arc::clone(&self.table.path)
    }

    /// A gap that names the table and what it says.
    pub(crate) fn says(&self, why: Why, answer: impl Into<Saying>) -> Gap {
        Gap::new(why).tried(self.path(), answer)
    }

    /// Gives every leaf of a part that was left unset the reason why.
    pub(crate) fn no_field(&self, part: &mut dyn Record, answer: Saying) {
        for index in 0..part.shape().fields.len() {
            if let Some(NodeMut::Leaf(fact)) = part.node_mut(index)
                && fact.missing().is_some_and(|gap| gap.tried.is_empty())
            {
                fact.set_missing(self.says(Why::NotProvided, answer.clone()));
            }
        }
    }

    /// Evidence that names a place in the structure of a handle.
    pub(crate) fn at(
        &self,
        handle: Handle,
        place: impl Into<Place>,
        raw: &str,
        rule: Saying,
    ) -> Evidence {
        Evidence::new(self.table.path_of(handle), rule).place(place).raw(raw)
    }

    fn too_short(&self) -> Gap {
        Gap::new(Why::NotProvided).tried(
            self.path(),
            saying!("structure-ends-before-field-firmware", "the structure ends before this field: the firmware follows an older version of the standard"),
        )
    }
}

/// A string that the kernel publishes to everybody, or to root, beside the tables.
pub(crate) fn published<T: From<String>>(lease: &Lease, name: &str) -> Fact<T> {
    File::read(lease, format!("{PUBLISHED}/{name}")).text_fact()
}

fn place<T>(field: &Field<'_, T>) -> Place {
    Place::structure(field.handle.0, field.offset, field.bytes.len())
}
