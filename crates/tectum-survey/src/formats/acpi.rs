//! The header of an ACPI table (ACPI Specification 6.5, clause 5.2.6).

/// Length of the header in bytes.
pub const HEADER_LENGTH: usize = 36;

/// What a table's header says.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TableHeader {
    /// Four letters that name the kind of table.
    pub signature: String,
    /// Length of the whole table in bytes.
    pub length: u32,
    /// Revision of the table's form.
    pub revision: u8,
    /// Who made it.
    pub oem_id: String,
    /// What its maker calls it.
    pub oem_table_id: String,
    /// Its maker's revision.
    pub oem_revision: u32,
}

/// Reads a header; `None` where there are fewer bytes. The firmware control structure (`FACS`) has
/// a header of its own, of which only signature and length are alike: it gives `None` too.
pub fn table_header(bytes: &[u8]) -> Option<TableHeader> {
    let header: &[u8; HEADER_LENGTH] = bytes.first_chunk()?;
    if header.starts_with(b"FACS") {
        return None;
    }
    let text = |from: usize, to: usize| {
        let bytes = header.get(from..to).unwrap_or_default();
        crate::source::bytes_text(bytes).trim_matches(['\0', ' ']).to_owned()
    };
    let number = |at: usize| {
        let four: [u8; 4] = header.get(at..at + 4)?.try_into().ok()?;
        Some(u32::from_le_bytes(four))
    };
    Some(TableHeader {
        signature: text(0, 4),
        length: number(4)?,
        revision: header.get(8).copied()?,
        oem_id: text(10, 16),
        oem_table_id: text(16, 24),
        oem_revision: number(24)?,
    })
}

/// A table, fit to share: its header alone. What stands behind it may be a licence key or an address.
pub(crate) fn redacted(bytes: &[u8]) -> Vec<u8> {
    let kept = if bytes.starts_with(b"FACS") { 8 } else { HEADER_LENGTH };
    bytes.iter().take(kept).copied().chain(bytes.iter().skip(kept).map(|_| 0)).collect()
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    #[test]
    fn a_header_is_read() {
        let mut bytes = b"APIC".to_vec();
        bytes.extend(120u32.to_le_bytes());
        bytes.extend([5, 0]);
        bytes.extend(b"MARRAMFATHOM22");
        bytes.extend(7u32.to_le_bytes());
        bytes.extend(b"MFW ");
        bytes.extend(1u32.to_le_bytes());
        let header = table_header(&bytes).unwrap();
        assert_eq!((header.signature.as_str(), header.length, header.revision), ("APIC", 120, 5));
        assert_eq!((header.oem_id.as_str(), header.oem_table_id.as_str()), ("MARRAM", "FATHOM22"));
        assert_eq!(header.oem_revision, 7);
        assert_eq!(table_header(&bytes[..35]), None);
    }

    proptest! {
        #[test]
        fn no_bytes_make_it_panic(bytes in proptest::collection::vec(any::<u8>(), 0..60)) {
            let _ = table_header(&bytes);
        }
    }
}
