//! Bytes that a text holds as a backslash and three characters.

/// Puts back what is written as a backslash and three bytes, where `coded` understands these.
pub(super) fn put_back(text: &[u8], coded: impl Fn([u8; 3]) -> Option<u8>) -> Vec<u8> {
    let mut bytes = Vec::with_capacity(text.len());
    let mut rest = text;
    while let Some((first, after)) = rest.split_first() {
        let code = after.first_chunk::<3>().filter(|_| *first == b'\\');
        match code.and_then(|code| coded(*code)) {
            Some(byte) => {
                bytes.push(byte);
                rest = after.get(3..).unwrap_or_default();
            }
            None => {
                bytes.push(*first);
                rest = after;
            }
        }
    }
    bytes
}
