//! Values of device tree properties (Devicetree Specification 0.4, clause 2.2.4): cells of 32 bits,
//! big-endian.

/// A range of addresses.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Range {
    /// The first address.
    pub start: u64,
    /// How many bytes.
    pub size: u64,
}

/// The value of a property of one cell.
pub fn cell(bytes: &[u8]) -> Option<u32> {
    bytes.try_into().ok().map(u32::from_be_bytes)
}

/// The ranges of a `reg` property, by the numbers of cells of an address and of a size; `None`
/// where the property does not divide into them or a number has more than 64 bits.
pub fn ranges(bytes: &[u8], address_cells: usize, size_cells: usize) -> Option<Vec<Range>> {
    let (address, size) = (address_cells.checked_mul(4)?, size_cells.checked_mul(4)?);
    let each = address.checked_add(size)?;
    if size == 0 || !bytes.len().is_multiple_of(each) {
        return None;
    }
    bytes
        .chunks_exact(each)
        .map(|range| {
            let (start, length) = range.split_at_checked(address)?;
            Some(Range { start: number(start)?, size: number(length)? })
        })
        .collect()
}

fn number(bytes: &[u8]) -> Option<u64> {
    bytes.iter().try_fold(0u64, |number, byte| Some(number.checked_mul(256)? | u64::from(*byte)))
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(&[0x80, 0, 0, 0, 0x40, 0, 0, 0], 1, 1, Some(vec![(0x8000_0000, 0x4000_0000)]))]
    #[case(&[0, 0, 0, 0, 0x80, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0], 2, 2,
        Some(vec![(0x8000_0000, 1 << 32)]))]
    #[case(&[0, 0, 0, 0], 0, 1, Some(vec![(0, 0)]))]
    #[case(&[], 2, 1, Some(vec![]))]
    #[case::cut(&[0, 0, 0, 0, 1], 1, 1, None)]
    #[case::no_sizes(&[0, 0, 0, 0], 1, 0, None)]
    #[case::too_large(&[1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 1], 3, 1, None)]
    fn a_property_of_ranges(
        #[case] bytes: &[u8],
        #[case] address: usize,
        #[case] size: usize,
        #[case] expected: Option<Vec<(u64, u64)>>,
    ) {
        let found = ranges(bytes, address, size)
            .map(|list| list.iter().map(|range| (range.start, range.size)).collect());
        assert_eq!(found, expected);
    }

    proptest! {
        #[test]
        fn no_property_makes_it_panic(
            bytes in proptest::collection::vec(any::<u8>(), 0..64),
            address in any::<usize>(),
            size in 0usize..6,
        ) {
            let _ = ranges(&bytes, address, size);
            let _ = ranges(&bytes, address % 6, size);
            let _ = cell(&bytes);
        }
    }
}
