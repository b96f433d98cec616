//! Drawings: a disk as a bar, memory slots as they sit.

use super::page::Tone;

/// Bars in proportion: each of some sizes as columns of a bar of that width, none that is not zero
/// smaller than one column.
pub(crate) fn proportions(sizes: &[u64], whole: u64, width: usize) -> Vec<usize> {
    let together: u128 = sizes.iter().copied().map(u128::from).sum();
    let whole = u128::from(whole).max(together).max(1);
    let exact = |size: u64| {
        let columns = u128::from(size) * width as u128 / whole;
        usize::try_from(columns).unwrap_or(width)
    };
    let mut columns: Vec<usize> =
        sizes.iter().map(|size| if *size == 0 { 0 } else { exact(*size).max(1) }).collect();
    // What small parts were given is taken from the largest.
    while columns.iter().sum::<usize>() > width {
        match columns.iter_mut().max() {
            Some(largest) if *largest > 1 => *largest -= 1,
            _ => break,
        }
    }
    columns
}

/// The patterns of neighbours on a bar, so that they can be told apart without colour.
const PATTERNS: [char; 3] = ['█', '▓', '▒'];

/// A piece of a bar.
pub(crate) struct Piece {
    /// Its size.
    pub(crate) size: u64,
    /// Whether it is unused.
    pub(crate) free: bool,
}

/// A bar of pieces.
pub(crate) fn bar(pieces: &[Piece], whole: u64, width: usize) -> Vec<(Tone, String)> {
    let sizes: Vec<u64> = pieces.iter().map(|piece| piece.size).collect();
    let columns = proportions(&sizes, whole, width);
    let mut pattern = PATTERNS.iter().cycle();
    let mut parts = vec![(Tone::Quiet, "▕".to_owned())];
    for (piece, columns) in pieces.iter().zip(&columns) {
        if piece.free {
            parts.push((Tone::Quiet, "·".repeat(*columns)));
        } else if let Some(character) = pattern.next() {
            parts.push((Tone::Label, character.to_string().repeat(*columns)));
        }
    }
    let used: usize = columns.iter().sum();
    parts.push((Tone::Quiet, "·".repeat(width.saturating_sub(used))));
    parts.push((Tone::Quiet, "▏".to_owned()));
    parts
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case(&[50, 50], 100, 10, &[5, 5])]
    #[case(&[1, 999_999], 1_000_000, 10, &[1, 9])]
    #[case(&[0, 100], 100, 10, &[0, 10])]
    #[case(&[u64::MAX, u64::MAX], 1, 10, &[5, 5])]
    #[case(&[], 0, 10, &[])]
    fn small_parts_stay_visible(
        #[case] sizes: &[u64],
        #[case] whole: u64,
        #[case] width: usize,
        #[case] columns: &[usize],
    ) {
        let found = proportions(sizes, whole, width);
        assert_eq!(found, columns);
        assert!(found.iter().sum::<usize>() <= width.max(found.len()));
    }
}
