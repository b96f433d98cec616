//! Tables encoded from made-up structures and held against a plain reading of the standard's clauses 5.2 and 6.1:
//! every structure, string and field comes back, at the version's places, and a byte that is altered alters only what
//! it belongs to.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    clippy::cast_possible_truncation,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

use proptest::prelude::*;
use tectum_smbios::{
    Checksum, EntryPoint, EntryPointError, EntryPointKind, Structure, TableProblem, inspect, walk,
};

/// A structure that somebody made up.
#[derive(Debug, Clone)]
struct Made {
    kind: u8,
    handle: u16,
    fields: Vec<u8>,
    strings: Vec<Vec<u8>>,
}

impl Made {
    /// Its bytes, by clause 6.1.2 and 6.1.3: a header, the fields, and strings each with a zero byte behind it, and
    /// one more behind all; two where there is none.
    fn bytes(&self) -> Vec<u8> {
        let mut bytes = vec![self.kind, 4 + self.fields.len() as u8];
        bytes.extend(self.handle.to_le_bytes());
        bytes.extend(&self.fields);
        for text in &self.strings {
            bytes.extend(text);
            bytes.push(0);
        }
        if self.strings.is_empty() {
            bytes.push(0);
        }
        bytes.push(0);
        bytes
    }
}

prop_compose! {
    /// Any but the one that ends the table.
    fn made()(
        kind in (0u8..=254).prop_map(|kind| if kind >= 127 { kind + 1 } else { kind }),
        handle: u16,
        fields in prop::collection::vec(any::<u8>(), 0..200),
        strings in prop::collection::vec(prop::collection::vec(1u8..=255, 1..20), 0..6),
    ) -> Made {
        Made { kind, handle, fields, strings }
    }
}

fn table(all: &[Made]) -> Vec<u8> {
    let end = Made { kind: 127, handle: 0xFEFF, fields: Vec::new(), strings: Vec::new() };
    all.iter().chain([&end]).flat_map(Made::bytes).collect()
}

/// The structures of a table, read as plainly as can be: nothing is checked.
fn plainly(bytes: &[u8]) -> Vec<Made> {
    let mut all = Vec::new();
    let mut rest = bytes;
    while rest.len() >= 4 {
        let (formatted, behind) = rest.split_at(usize::from(rest[1]));
        let end = behind.windows(2).position(|two| two == [0, 0]).unwrap();
        let texts = &behind[..end];
        let strings: Vec<Vec<u8>> = match texts.is_empty() {
            true => Vec::new(),
            false => texts.split(|byte| *byte == 0).map(<[u8]>::to_vec).collect(),
        };
        all.push(Made {
            kind: formatted[0],
            handle: u16::from_le_bytes([formatted[2], formatted[3]]),
            fields: formatted[4..].to_vec(),
            strings,
        });
        rest = &behind[end + 2..];
        if all.last().unwrap().kind == 127 {
            break;
        }
    }
    all
}

fn assert_same(read: &[Structure<'_>], all: &[Made]) {
    assert_eq!(read.len(), all.len());
    for (own, made) in read.iter().zip(all) {
        assert_eq!((own.kind(), own.handle().0), (made.kind, made.handle));
        assert_eq!(&own.formatted()[4..], made.fields);
        let strings: Vec<&[u8]> = own.strings().collect();
        assert_eq!(strings, made.strings);
        // A field's number names a string, from one on; what is behind the last is none.
        for index in 0..=u8::MAX {
            let named = usize::from(index).checked_sub(1).and_then(|at| made.strings.get(at));
            let text = own.text(index);
            assert_eq!(text.is_unset(), index == 0);
            assert_eq!(text.is_dangling(), index != 0 && named.is_none());
            assert_eq!(text.as_str(), named.and_then(|text| std::str::from_utf8(text).ok()));
        }
    }
}

proptest! {
    #[test]
    fn what_was_encoded_comes_back(all in prop::collection::vec(made(), 0..12)) {
        let bytes = table(&all);
        let read: Vec<Structure<'_>> = walk(&bytes).collect::<Result<_, _>>().unwrap();
        let (end, read) = read.split_last().unwrap();
        prop_assert_eq!(end.kind(), 127);
        assert_same(read, &all);
        let mut plain = plainly(&bytes);
        plain.pop();
        assert_same(read, &plain);
        let offsets: Vec<usize> = read.iter().map(Structure::offset).collect();
        let lengths: Vec<usize> = all.iter().map(|one| one.bytes().len()).collect();
        let sums: Vec<usize> = (0..all.len()).map(|at| lengths[..at].iter().sum()).collect();
        prop_assert_eq!(offsets, sums);
    }

    /// What stands behind the end is not read, whatever it is, and said to be left over.
    #[test]
    fn what_is_behind_the_end_is_left(
        all in prop::collection::vec(made(), 0..6),
        behind in prop::collection::vec(any::<u8>(), 0..80),
    ) {
        let mut bytes = table(&all);
        let used = bytes.len();
        bytes.extend(behind);
        let read: Vec<Structure<'_>> = walk(&bytes).collect::<Result<_, _>>().unwrap();
        assert_same(&read[..read.len() - 1], &all);
        let whole = inspect(&bytes, None);
        prop_assert_eq!(whole.used_bytes, used);
        prop_assert_eq!(whole.structures, all.len() + 1);
    }

    /// A table that is cut anywhere gives the structures that stand in it whole, and then what is wrong.
    #[test]
    fn of_a_table_that_is_cut_the_structures_before_are_left(
        all in prop::collection::vec(made(), 1..6),
        at in any::<prop::sample::Index>(),
    ) {
        let bytes = table(&all);
        let cut = &bytes[..at.index(bytes.len())];
        let mut whole = 0;
        let mut used = 0;
        while let Some(one) = all.get(whole).filter(|one| used + one.bytes().len() <= cut.len()) {
            used += one.bytes().len();
            whole += 1;
        }
        let read: Vec<Result<Structure<'_>, TableProblem>> = walk(cut).collect();
        let structures: Vec<Structure<'_>> =
            read.iter().filter_map(|one| one.as_ref().ok().copied()).collect();
        assert_same(&structures[..whole], &all[..whole]);
        // The one that is cut is given where its fields are whole, with what is left of its strings.
        prop_assert!(structures.len() <= whole + 1);
        if let (Some(own), Some(made)) = (structures.get(whole), all.get(whole)) {
            prop_assert_eq!(&own.formatted()[4..], &made.fields);
        }
        // The end has no strings, and is there when its header is.
        let ends = whole == all.len() && cut.len() >= used + 4;
        let problems = read.iter().filter(|one| one.is_err()).count();
        prop_assert_eq!(problems, usize::from(!ends), "{:?}", read);
        prop_assert_eq!(read.last().is_some_and(Result::is_err), !ends);
    }

    /// A byte of a field or of a string is that field's or string's alone.
    #[test]
    fn a_byte_that_is_altered_alters_only_its_structure(
        all in prop::collection::vec(made(), 2..6),
        which in any::<prop::sample::Index>(),
        at in any::<prop::sample::Index>(),
        to in 1u8..=255,
    ) {
        let which = which.index(all.len());
        let mut other = all.clone();
        let one = &mut other[which];
        let places = one.fields.len() + one.strings.iter().map(Vec::len).sum::<usize>();
        prop_assume!(places > 0);
        let at = at.index(places);
        let byte = one.fields.iter_mut().chain(one.strings.iter_mut().flatten()).nth(at).unwrap();
        *byte = to;
        let bytes = table(&other);
        let read: Vec<Structure<'_>> = walk(&bytes).collect::<Result<_, _>>().unwrap();
        assert_same(&read[..read.len() - 1], &other);
        let same = |index: usize| index == which || read[index].formatted()[4..] == all[index].fields;
        prop_assert!((0..all.len()).all(same));
    }

    /// Every field of the 32-bit entry point stands where table 1 of clause 5.2.1 has it.
    #[test]
    fn the_old_entry_point_is_read_by_its_table(
        version in (any::<u8>(), any::<u8>()),
        largest: u16,
        length: u16,
        address: u32,
        count: u16,
        revision: u8,
        off in 0u8..4,
    ) {
        let mut bytes = b"_SM_\0\x1F".to_vec();
        bytes.extend([version.0, version.1]);
        bytes.extend(largest.to_le_bytes());
        bytes.extend([0; 6]);
        bytes.extend(b"_DMI_\0");
        bytes.extend(length.to_le_bytes());
        bytes.extend(address.to_le_bytes());
        bytes.extend(count.to_le_bytes());
        bytes.push(revision);
        let sum = |bytes: &[u8]| bytes.iter().fold(0u8, |sum, byte| sum.wrapping_add(*byte));
        bytes[0x15] = sum(&bytes[0x10..]).wrapping_neg();
        bytes[0x04] = sum(&bytes).wrapping_neg().wrapping_add(off);
        let read = EntryPoint::parse(&bytes).unwrap();
        let checksum = if off == 0 { Checksum::Holds } else { Checksum::Off(off) };
        prop_assert_eq!(read, EntryPoint {
            kind: EntryPointKind::Bits32,
            version: tectum_smbios::Version { major: version.0, minor: version.1 },
            document_revision: None,
            table_length: length.into(),
            table_address: address.into(),
            structure_count: Some(count),
            largest_structure: Some(largest),
            checksum,
            intermediate_checksum: Some(Checksum::Holds),
        });
        for short in 0..0x1E {
            let cut = EntryPoint::parse(&bytes[..short]);
            let refused = matches!(
                cut,
                Err(EntryPointError::NoAnchor { .. } | EntryPointError::TooShort { needed: 31, .. })
            );
            prop_assert!(refused, "{} bytes: {:?}", short, cut);
        }
    }

    /// And every one of the 64-bit one where table 2 of clause 5.2.2 has it.
    #[test]
    fn the_new_entry_point_is_read_by_its_table(
        version in (any::<u8>(), any::<u8>(), any::<u8>()),
        length: u32,
        address: u64,
        off in 0u8..4,
        behind in prop::collection::vec(any::<u8>(), 0..20),
    ) {
        let mut bytes = b"_SM3_\0\x18".to_vec();
        bytes.extend([version.0, version.1, version.2, 1, 0]);
        bytes.extend(length.to_le_bytes());
        bytes.extend(address.to_le_bytes());
        let sum = bytes.iter().fold(0u8, |sum, byte| sum.wrapping_add(*byte));
        bytes[0x05] = sum.wrapping_neg().wrapping_add(off);
        let whole = bytes.len();
        // What stands behind it is not part of it, and its checksum does not go over that.
        bytes.extend(behind);
        let read = EntryPoint::parse(&bytes).unwrap();
        prop_assert_eq!(read, EntryPoint {
            kind: EntryPointKind::Bits64,
            version: tectum_smbios::Version { major: version.0, minor: version.1 },
            document_revision: Some(version.2),
            table_length: length,
            table_address: address,
            structure_count: None,
            largest_structure: None,
            checksum: if off == 0 { Checksum::Holds } else { Checksum::Off(off) },
            intermediate_checksum: None,
        });
        for short in 0..whole {
            prop_assert!(EntryPoint::parse(&bytes[..short]).is_err(), "{} bytes", short);
        }
    }
}
