//! Keys by which pseudonyms are made.

use std::{
    fs::File,
    io::{self, Read, Write},
    os::unix::fs::OpenOptionsExt,
    path::{Path, PathBuf},
};

/// Fewer bytes can be guessed.
const SHORTEST: usize = 32;

/// The most of a key file that is read, in bytes.
const LONGEST: usize = 4096;

/// In how many tries a key may not be guessed, by how often each byte stands in it: 96 bits of entropy.
const LEAST_TRIES: f64 = (1u128 << 96) as f64;

/// Why a file holds no key.
#[derive(Debug, thiserror::Error)]
pub(crate) enum KeyError {
    /// It cannot be read or written.
    #[error("the key file {} cannot be used", .path.display())]
    File {
        path: PathBuf,
        #[source]
        cause: io::Error,
    },
    /// A device, pipe or folder.
    #[error(
        "{} is no regular file; a key is a file of {SHORTEST} bytes or more, as `redact --make-key` writes one",
        .path.display()
    )]
    NotRegular { path: PathBuf },
    /// Too short.
    #[error(
        "the key in {} has {length} bytes, and a key needs {SHORTEST} or more; `redact --make-key` writes one",
        .path.display()
    )]
    TooShort { path: PathBuf, length: usize },
    /// Too long.
    #[error("the key in {} has more than {LONGEST} bytes, the most that is read of one", .path.display())]
    TooLong { path: PathBuf },
    /// Too few different bytes.
    #[error(
        "the key in {} repeats itself and could be guessed; `redact --make-key` writes one that cannot",
        .path.display()
    )]
    Guessable { path: PathBuf },
    /// Something stands where a new key would be written.
    #[error(
        "{} is there already, and a key is never replaced: copies made with it would no longer match; name another file, or remove it first",
        .path.display()
    )]
    Stands { path: PathBuf },
    /// The system gave no random bytes.
    #[error("the system gives no random bytes: {cause}")]
    NoRandom { cause: String },
}

/// The key that a file holds.
pub(crate) fn read(path: &Path) -> Result<Vec<u8>, KeyError> {
    let failed = |cause| KeyError::File { path: path.to_owned(), cause };
    // A FIFO would wait for its writer.
    let flags = i32::try_from(rustix::fs::OFlags::NONBLOCK.bits()).unwrap_or_default();
    let file = File::options().read(true).custom_flags(flags).open(path).map_err(failed)?;
    if !file.metadata().map_err(failed)?.is_file() {
        return Err(KeyError::NotRegular { path: path.to_owned() });
    }
    let mut key = Vec::new();
    file.take(LONGEST as u64 + 1).read_to_end(&mut key).map_err(failed)?;
    if key.len() > LONGEST {
        return Err(KeyError::TooLong { path: path.to_owned() });
    }
    let text = key.trim_ascii();
    if text.len() < SHORTEST {
        return Err(KeyError::TooShort { path: path.to_owned(), length: text.len() });
    }
    if is_guessable(text) {
        return Err(KeyError::Guessable { path: path.to_owned() });
    }
    Ok(key)
}

/// A key that is used once and forgotten.
pub(crate) fn fresh() -> Result<Vec<u8>, KeyError> {
    let mut random = [0u8; 32];
    getrandom::fill(&mut random)
        .map_err(|error| KeyError::NoRandom { cause: error.to_string() })?;
    Ok(random.to_vec())
}

/// Writes a new key for its owner only. A file that is there is left as it is.
pub(crate) fn make(path: &Path) -> Result<(), KeyError> {
    let failed = |cause| KeyError::File { path: path.to_owned(), cause };
    let key = fresh()?;
    let text = key.iter().map(|byte| format!("{byte:02x}")).collect::<String>() + "\n";
    let opened = File::options().write(true).create_new(true).mode(0o600).open(path);
    let mut file = opened.map_err(|cause| match cause.kind() {
        io::ErrorKind::AlreadyExists => KeyError::Stands { path: path.to_owned() },
        _ => failed(cause),
    })?;
    file.write_all(text.as_bytes()).and_then(|()| file.sync_all()).map_err(failed)
}

/// Whether a text has so few different bytes, or one so often, that it can be guessed: whether as many tries as its bits
/// of entropy say (Shannon's, by how often each byte stands in it) are too few.
fn is_guessable(text: &[u8]) -> bool {
    let mut counts = [0u32; 256];
    for byte in text {
        if let Some(count) = counts.get_mut(usize::from(*byte)) {
            *count += 1;
        }
    }
    let all = f64::from(counts.iter().sum::<u32>());
    // A byte says as much as the chance is small that it stands where it does. Chances are multiplied, for logarithms
    // would need a library at every start.
    let mut tries = 1.0;
    for byte in text {
        let count = counts.get(usize::from(*byte)).map_or(1.0, |count| f64::from(*count));
        tries *= all / count;
        if tries >= LEAST_TRIES {
            return false;
        }
    }
    true
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn of(bytes: &[u8]) -> Result<Vec<u8>, KeyError> {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("key");
        std::fs::write(&path, bytes).unwrap();
        read(&path)
    }

    #[test]
    fn a_key_that_was_made_is_one() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("key");
        make(&path).unwrap();
        assert_eq!(read(&path).unwrap().len(), 65);
        let mode = std::os::unix::fs::PermissionsExt::mode(&path.metadata().unwrap().permissions());
        assert_eq!(mode & 0o777, 0o600);
        assert!(matches!(make(&path), Err(KeyError::Stands { .. })), "a key is not overwritten");
    }

    /// The entropy as its definition has it.
    fn bits(text: &[u8]) -> f64 {
        let count = |byte: u8| text.iter().filter(|own| **own == byte).count() as f64;
        let all = text.len() as f64;
        (0..=u8::MAX)
            .map(count)
            .filter(|count| *count > 0.0)
            .map(|count| -count * (count / all).log2())
            .sum()
    }

    proptest! {
        #[test]
        fn what_can_be_guessed_is_told_by_its_entropy(text in prop::collection::vec(0u8..12, 0..90)) {
            let bits = bits(&text);
            // What is exactly as much as is wanted may be off by how numbers are rounded.
            if (bits - 96.0).abs() > 1e-6 {
                prop_assert_eq!(is_guessable(&text), bits < 96.0, "{}", bits);
            }
        }
    }

    #[test]
    fn what_can_be_guessed_is_none() {
        assert!(matches!(of(b""), Err(KeyError::TooShort { length: 0, .. })));
        assert!(matches!(of(b"harbour\n"), Err(KeyError::TooShort { length: 7, .. })));
        assert!(matches!(of(&[b'a'; 64]), Err(KeyError::Guessable { .. })));
        assert!(matches!(of(&[0; 32]), Err(KeyError::Guessable { .. })));
        // Two kinds of byte, alike often, are one bit each: 94 of them are too few, and 96 enough.
        assert!(matches!(of(&b"ab".repeat(47)), Err(KeyError::Guessable { .. })));
        assert!(of(&b"ab".repeat(48)).is_ok());
        // A word again and again is one.
        assert!(matches!(of(&b"harbour-".repeat(4)), Err(KeyError::Guessable { .. })));
        // One that stands nearly everywhere tells little, however long it is.
        let mut mostly = [b'a'; 200];
        mostly[..8].copy_from_slice(b"bcdefghi");
        assert!(matches!(of(&mostly), Err(KeyError::Guessable { .. })));
        assert!(matches!(of(&[7; 5000]), Err(KeyError::TooLong { .. })));
        assert!(matches!(read(Path::new("/dev/zero")), Err(KeyError::NotRegular { .. })));
        assert!(matches!(read(Path::new("/tmp")), Err(KeyError::NotRegular { .. })));
        assert!(matches!(read(Path::new("/nowhere/key")), Err(KeyError::File { .. })));
    }
}
