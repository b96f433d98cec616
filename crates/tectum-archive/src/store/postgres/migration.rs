//! Making the tables, step by step, and the views anew.

use super::{PostgresStore, views};
use crate::{
    store::{Store, StoreError},
    written::ARCHIVE,
};

/// What makes the tables, a step after the other. A step that was made is never changed: another one follows.
const MIGRATIONS: &[&str] = &[include_str!("schema.sql")];

impl PostgresStore {
    /// Whether steps are missing.
    pub(super) fn lacks_steps(made: usize) -> bool {
        made < MIGRATIONS.len()
    }

    /// How many steps were made; nothing where there is no archive.
    pub(super) fn made(&self) -> Result<Option<usize>, StoreError> {
        self.read(|client| {
            let there: bool =
                client.query_one("SELECT to_regclass('tectum.archive') IS NOT NULL", &[])?.get(0);
            if !there {
                return Ok(None);
            }
            let row = client
                .query_opt("SELECT format, format_version, steps FROM tectum.archive", &[])?;
            Ok(row.map(|row| {
                (row.get::<_, String>(0), row.get::<_, String>(1), row.get::<_, i32>(2))
            }))
        })?
        .map(|(format, version, steps)| {
            let steps = usize::try_from(steps).unwrap_or(0);
            if format != ARCHIVE.name {
                return Err(StoreError::NotAnArchive { location: self.location() });
            }
            let found = version.parse().unwrap_or(ARCHIVE.current);
            let known = ARCHIVE.readable(found) != tectum_report::version::Readable::No;
            match known && steps <= MIGRATIONS.len() {
                true => Ok(steps),
                false => Err(StoreError::OtherVersion {
                    location: self.location(),
                    found,
                    known: ARCHIVE.current,
                }),
            }
        })
        .transpose()
    }

    /// Makes what is missing of the tables, and the views anew.
    pub(super) fn migrate(&self) -> Result<(), StoreError> {
        self.write(|transaction| {
            transaction.batch_execute(
                "CREATE SCHEMA IF NOT EXISTS tectum;
                 CREATE TABLE IF NOT EXISTS tectum.archive
                    (format text NOT NULL, format_version text NOT NULL, steps integer NOT NULL);",
            )?;
            let made: i32 = transaction
                .query_opt("SELECT steps FROM tectum.archive", &[])?
                .map_or(0, |row| row.get(0));
            let made = usize::try_from(made).unwrap_or(0);
            for step in MIGRATIONS.iter().skip(made) {
                transaction.batch_execute(step)?;
            }
            for view in views::views() {
                let name = &view.name;
                transaction.batch_execute(&format!("DROP VIEW IF EXISTS tectum.{name}"))?;
                transaction.batch_execute(&view.text)?;
            }
            transaction.execute("DELETE FROM tectum.archive", &[])?;
            let steps = i32::try_from(MIGRATIONS.len()).unwrap_or(i32::MAX);
            transaction.execute(
                "INSERT INTO tectum.archive VALUES ($1, $2, $3)",
                &[&ARCHIVE.name, &ARCHIVE.current.to_string(), &steps],
            )?;
            Ok(())
        })
    }
}
