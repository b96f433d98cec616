//! Little-endian integers out of a slice, without a way to panic.

/// `N` bytes at `offset`, if the slice holds them all.
pub(crate) fn array<const N: usize>(bytes: &[u8], offset: usize) -> Option<[u8; N]> {
    slice(bytes, offset, N)?.try_into().ok()
}

/// `len` bytes at `offset`, if the slice holds them all.
pub(crate) fn slice(bytes: &[u8], offset: usize, len: usize) -> Option<&[u8]> {
    bytes.get(offset..offset.checked_add(len)?)
}

pub(crate) fn byte(bytes: &[u8], offset: usize) -> Option<u8> {
    bytes.get(offset).copied()
}

pub(crate) fn word(bytes: &[u8], offset: usize) -> Option<u16> {
    array(bytes, offset).map(u16::from_le_bytes)
}

pub(crate) fn dword(bytes: &[u8], offset: usize) -> Option<u32> {
    array(bytes, offset).map(u32::from_le_bytes)
}

pub(crate) fn qword(bytes: &[u8], offset: usize) -> Option<u64> {
    array(bytes, offset).map(u64::from_le_bytes)
}
