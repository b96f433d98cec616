//! Texts as the database holds them: packed, and unpacked no longer than such a text is.

use zstd::bulk::{Compressor, Decompressor};

use crate::store::StoreError;

/// How hard is packed.
const LEVEL: i32 = 3;
/// How hard an observation is packed: there are many, and they are small.
const LEVEL_BY_NAMES: i32 = 9;
/// The most bytes of an unpacked text.
const MOST_BYTES: usize = 256 << 20;

pub(super) fn unpacked(what: &dyn Fn() -> String, packed: &[u8]) -> Result<Vec<u8>, StoreError> {
    zstd::bulk::decompress(packed, zstd_size(packed)).map_err(|error| StoreError::Damaged {
        what: what(),
        said: format!("it cannot be unpacked: {error}"),
    })
}

/// How long the text is that was packed, as its frame says, within bounds.
fn zstd_size(packed: &[u8]) -> usize {
    let told = zstd::zstd_safe::get_frame_content_size(packed).ok().flatten();
    told.and_then(|size| usize::try_from(size).ok()).unwrap_or(0).min(MOST_BYTES)
}

pub(super) fn packed(text: &[u8]) -> Result<Vec<u8>, StoreError> {
    zstd::bulk::compress(text, LEVEL).map_err(|error| StoreError::Damaged {
        what: "what was to be saved".to_owned(),
        said: format!("it cannot be packed: {error}"),
    })
}

/// Packs the text of an observation by the names that stand in it.
pub(super) fn packed_by(names: &[u8], text: &[u8]) -> Result<Vec<u8>, StoreError> {
    Compressor::with_dictionary(LEVEL_BY_NAMES, names).and_then(|mut by| by.compress(text)).map_err(
        |error| StoreError::Damaged {
            what: "what was to be saved".to_owned(),
            said: format!("it cannot be packed: {error}"),
        },
    )
}

/// Unpacks the text of an observation that was packed by names.
pub(super) fn unpacked_by(
    what: &dyn Fn() -> String,
    names: &[u8],
    packed: &[u8],
) -> Result<Vec<u8>, StoreError> {
    Decompressor::with_dictionary(names)
        .and_then(|mut by| by.decompress(packed, zstd_size(packed)))
        .map_err(|error| StoreError::Damaged {
            what: what(),
            said: format!("it cannot be unpacked: {error}"),
        })
}
