//! Bytes as evidence shows them.

/// Bytes in hexadecimal with blanks between.
pub(crate) fn raw_bytes(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("{byte:02x}")).collect::<Vec<_>>().join(" ")
}
