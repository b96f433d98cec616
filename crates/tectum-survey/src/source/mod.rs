//! The one door to a machine.
//!
//! Every byte that Tectum says about a machine comes through a [`Door`]: the live machine, a folder
//! that stands in for `/`, or a capture. No other module opens a file or asks the kernel about the
//! machine. The door
//!
//! * **remembers** each answer, so that a path asked for twice gives the same bytes, a section that
//!   is begun again costs nothing, and what a survey saw can be written out afterwards;
//! * **logs** each access: what was asked, how it ended, bytes, time taken;
//! * **bounds** each access: a size limit here, a deadline by the one who waits (see
//!   [`crate::survey`]), who can name the access that is under way and have it answered as timed
//!   out;
//! * never mixes machines: what a folder cannot answer (a system call whose answer was not recorded beside
//!   it) is a refusal, not the host's answer.

mod access;
mod archive;
mod aside;
mod backend;
mod beside;
mod capture;
mod confined;
mod confinement;
mod door;
mod links;
mod mounted;
mod record;
mod tree;

pub use access::{Access, AccessError, Content, Operation, Outcome, SystemNames, VolumeUse};
pub(crate) use access::{bytes_text, outcome_of, path_text};
pub use archive::{ARCHIVE_LIMIT, Archive, ArchiveError, Packing};
pub use aside::{Helper, answer_questions};
pub(crate) use confinement::Confinement;
pub use confinement::{Confined, Enforced};
pub use door::{Door, Lease, UnderWay};
pub use record::CaptureRecord;
pub use tree::{OpenError, Tree};

/// The most bytes that are read of one file unless the reader asks for more.
pub const USUAL_LIMIT: usize = 1 << 20;

/// The most names that are read of one folder.
pub const FOLDER_LIMIT: usize = 1 << 16;
