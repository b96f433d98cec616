//! What an archive keeps, in its written forms.

mod observation;
pub(crate) mod piece;
mod prepared;
pub(crate) mod state;

use ring::digest::SHA256;
use tectum_report::version::{Format, FormatVersion};

pub use observation::{FindingCounts, Mark, Observation, Removed};
pub use piece::{OriginsList, Piece};
pub use prepared::{NotToSave, Prepared};
pub(crate) use prepared::{readings, report};
pub use state::State;

/// Archives.
///
/// * 1.0: the first.
pub const ARCHIVE: Format = Format { name: "tectum-archive", current: FIRST };
/// States of machines.
///
/// * 1.0: the first.
pub const STATE: Format = Format { name: "tectum-state", current: FIRST };
/// Observations of machines.
///
/// * 1.0: the first.
pub const OBSERVATION: Format = Format { name: "tectum-observation", current: FIRST };

const FIRST: FormatVersion = FormatVersion { major: 1, minor: 0 };

/// `sha256:` and the digest of some bytes.
pub fn digest(bytes: &[u8]) -> String {
    format!("sha256:{}", hex::encode(ring::digest::digest(&SHA256, bytes)))
}

/// The bytes of a digest; nothing for what is none.
pub fn digest_bytes(digest: &str) -> Option<[u8; 32]> {
    let digits = digest.strip_prefix("sha256:")?;
    let plain = digits.bytes().all(|byte| byte.is_ascii_digit() || matches!(byte, b'a'..=b'f'));
    let mut bytes = [0; 32];
    (plain && hex::decode_to_slice(digits, &mut bytes).is_ok()).then_some(bytes)
}
