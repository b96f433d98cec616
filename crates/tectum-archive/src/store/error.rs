//! Why an archive could not be read or written.

use std::{io, path::PathBuf};

use tectum_report::{json::read::ReadError, save::SaveError, version::FormatVersion};

/// Why an archive could not be read or written.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum StoreError {
    /// Nothing is there.
    #[error(
        "there is no archive at {location}; `tectum survey --save` makes one, and --archive names another place"
    )]
    Nothing {
        /// Where.
        location: String,
    },
    /// What is there is no archive.
    #[error(
        "{location} is no archive, and is not empty: it holds no archive.json; name another place by --archive"
    )]
    NotAnArchive {
        /// Where.
        location: String,
    },
    /// An archive of a form that this Tectum does not know.
    #[error(
        "the archive at {location} is of version {found}, and this Tectum knows {known}; read it with the Tectum that wrote it, or a newer one"
    )]
    OtherVersion {
        /// Where.
        location: String,
        /// The version found.
        found: FormatVersion,
        /// The version that is written.
        known: FormatVersion,
    },
    /// Something could not be done.
    #[error("cannot {doing} {}", path.display())]
    Io {
        /// What was to be done: `read`, `list`.
        doing: &'static str,
        /// Of what.
        path: PathBuf,
        /// Why.
        #[source]
        cause: io::Error,
    },
    /// A file could not be written.
    #[error(transparent)]
    Save(#[from] SaveError),
    /// Another has been writing for too long.
    #[error("another process has been writing to the archive at {location} for {seconds} seconds")]
    Held {
        /// Where.
        location: String,
        /// How long it was waited for.
        seconds: u64,
    },
    /// A part of it is not what was written.
    #[error("{what} is damaged: {said}; `tectum archive verify` looks through the whole archive")]
    Damaged {
        /// Which file or row.
        what: String,
        /// What is wrong.
        said: String,
    },
    /// A machine's report cannot be put together.
    #[error("what the archive holds of {machine} is no report")]
    Report {
        /// The machine or state.
        machine: String,
        /// Why.
        #[source]
        cause: ReadError,
    },
    /// No such machine.
    #[error("the archive holds no machine {machine:?}")]
    NoMachine {
        /// The key.
        machine: String,
    },
    /// No such observation.
    #[error("the archive holds no observation {number} of {machine}")]
    NoObservation {
        /// The machine.
        machine: String,
        /// The number.
        number: u64,
    },
    /// Another observation of the same number.
    #[error(
        "both archives hold an observation {number} of {machine}, and they differ: looks at it were saved in both; copy into an archive that does not hold the machine"
    )]
    Differs {
        /// The machine.
        machine: String,
        /// The number.
        number: u64,
    },
    /// A look that could be at several machines.
    #[error(
        "{subject} could be any of {}: what it says of itself fits them all; survey it as root, so that its system UUID and serial number are known",
        machines.join(", ")
    )]
    Several {
        /// What was surveyed.
        subject: String,
        /// The machines' keys.
        machines: Vec<String>,
    },
    /// A URL that names no database.
    #[error("{location} names no database that can be connected to: {said}")]
    Url {
        /// The URL, without what is secret in it.
        location: String,
        /// What is wrong with it.
        said: String,
    },
    /// The database fails.
    #[cfg(feature = "postgres")]
    #[error("cannot {doing} the database at {location}")]
    Database {
        /// Where it is.
        location: String,
        /// What was to be done: `connect to`, `read`, `write to`.
        doing: &'static str,
        /// What the server or the connection says.
        #[source]
        cause: postgres::Error,
    },
    /// The index beside the files fails.
    #[error("the archive's index at {} fails; it can be deleted and is made anew", path.display())]
    Index {
        /// The index.
        path: PathBuf,
        /// Why.
        #[source]
        cause: rusqlite::Error,
    },
}
