//! Files that people write: expectations and settings, read whole and no longer than such a file is.

use std::{fs::File, io::Read, path::Path};

use tectum_report::document::MOST_BYTES;

/// The text of a file; or why it cannot be read, in words.
pub(crate) fn text_of(path: &Path) -> Result<String, String> {
    let file = File::open(path).map_err(|error| error.to_string())?;
    text_in(file)
}

/// The text of an open file.
pub(crate) fn text_in(file: File) -> Result<String, String> {
    let mut bytes = Vec::new();
    file.take(MOST_BYTES + 1).read_to_end(&mut bytes).map_err(|error| error.to_string())?;
    if bytes.len() as u64 > MOST_BYTES {
        return Err(format!("it is longer than {MOST_BYTES} bytes, the most that is read"));
    }
    String::from_utf8(bytes).map_err(|_| "it is no text in UTF-8".to_owned())
}
