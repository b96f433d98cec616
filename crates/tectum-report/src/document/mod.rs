//! Files that people write, in TOML: read with the place of every mistake.

mod error;

use std::{collections::BTreeMap, ops::Range};

use toml::{
    Spanned,
    de::{DeTable, DeValue},
};

use crate::query::nearest_name;
pub use error::FileError;

/// The longest file that is read, in bytes.
pub const MOST_BYTES: u64 = 1 << 20;

/// A value with its place.
pub(crate) type Value<'a> = Spanned<DeValue<'a>>;
/// The members of a table by their names.
pub(crate) type About<'a> = BTreeMap<&'a str, &'a Value<'a>>;

/// A file that is being read.
pub(crate) struct File<'f> {
    /// Its name, as it is told.
    pub(crate) name: &'f str,
    /// What stands in it.
    pub(crate) text: &'f str,
}

impl File<'_> {
    pub(crate) fn wrong(&self, span: Range<usize>, said: impl Into<String>) -> FileError {
        FileError::new(self.name, self.text, Some(span), said)
    }

    /// The members of a table, all of whose keys are known.
    pub(crate) fn keys<'v>(
        &self,
        table: &'v DeTable<'v>,
        known: &[&str],
    ) -> Result<About<'v>, FileError> {
        let mut about = BTreeMap::new();
        for (key, value) in table {
            let name: &str = key.get_ref();
            if !known.contains(&name) {
                let near = nearest_name(name, known.iter().copied())
                    .map(|near| format!("; did you mean `{near}`?"));
                let said = format!("there is no key `{name}` here{}", near.unwrap_or_default());
                return Err(self.wrong(key.span(), said));
            }
            about.insert(name, value);
        }
        Ok(about)
    }

    pub(crate) fn table<'v>(&self, value: &'v Value<'v>) -> Result<&'v DeTable<'v>, FileError> {
        match value.get_ref() {
            DeValue::Table(table) => Ok(table),
            other => Err(self.wrong(value.span(), format!("{} is no table", kind(other)))),
        }
    }

    /// The tables of an array of tables.
    pub(crate) fn tables<'v>(
        &self,
        value: Option<&&'v Value<'v>>,
    ) -> Result<Vec<&'v Value<'v>>, FileError> {
        match value.map(|value| (value, value.get_ref())) {
            None => Ok(Vec::new()),
            Some((_, DeValue::Array(all))) => Ok(all.iter().collect()),
            Some((value, other)) => {
                let said = format!("{} where `[[…]]` is wanted", kind(other));
                Err(self.wrong(value.span(), said))
            }
        }
    }

    pub(crate) fn string(&self, value: &Value<'_>) -> Result<String, FileError> {
        match value.get_ref() {
            DeValue::String(text) => Ok(text.to_string()),
            other => {
                Err(self.wrong(value.span(), format!("{} where a text is wanted", kind(other))))
            }
        }
    }

    /// A text, or several.
    pub(crate) fn texts(
        &self,
        value: &Value<'_>,
    ) -> Result<Vec<(String, Range<usize>)>, FileError> {
        match value.get_ref() {
            DeValue::Array(all) => {
                all.iter().map(|one| Ok((self.string(one)?, one.span()))).collect()
            }
            _ => Ok(vec![(self.string(value)?, value.span())]),
        }
    }

    /// A value to hold others against, as people write it.
    pub(crate) fn scalar(&self, value: &Value<'_>) -> Result<String, FileError> {
        Ok(match value.get_ref() {
            DeValue::String(text) => text.to_string(),
            DeValue::Boolean(true) => "yes".to_owned(),
            DeValue::Boolean(false) => "no".to_owned(),
            DeValue::Integer(_) | DeValue::Float(_) | DeValue::Datetime(_) => {
                self.text.get(value.span()).unwrap_or_default().replace('_', "")
            }
            other => {
                return Err(self.wrong(value.span(), format!("{} is no value", kind(other))));
            }
        })
    }

    pub(crate) fn flag(&self, value: &Value<'_>) -> Result<(), FileError> {
        match value.get_ref() {
            DeValue::Boolean(true) => Ok(()),
            _ => Err(self.wrong(value.span(), "it is `true`, or it is left out")),
        }
    }

    pub(crate) fn number(&self, value: &Value<'_>) -> Result<u64, FileError> {
        let text = self.scalar(value)?;
        text.parse().map_err(|_| self.wrong(value.span(), format!("{text:?} is no count")))
    }

    /// The whole file as a table.
    pub(crate) fn parsed(&self) -> Result<Spanned<DeTable<'_>>, FileError> {
        let wrong = |error: toml::de::Error| {
            FileError::new(self.name, self.text, error.span(), error.message())
        };
        DeTable::parse(self.text).map_err(wrong)
    }
}

/// What a TOML value is, in words.
pub(crate) fn kind(value: &DeValue<'_>) -> &'static str {
    match value {
        DeValue::String(_) => "a text",
        DeValue::Integer(_) | DeValue::Float(_) => "a number",
        DeValue::Boolean(_) => "true or false",
        DeValue::Datetime(_) => "a date",
        DeValue::Array(_) => "a list",
        DeValue::Table(_) => "a table",
    }
}
