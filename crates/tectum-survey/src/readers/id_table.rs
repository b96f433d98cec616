//! The names of PCI, USB and JEP-106 numbers that the program carries: one text, and a sorted table without
//! pointers that says which part of it names what. `build.rs` makes both.

const NAMES: &str = include_str!(concat!(env!("OUT_DIR"), "/id_names.txt"));
const TABLE: &[u8] = include_bytes!(concat!(env!("OUT_DIR"), "/id_table.bin"));

/// What is numbered; `build.rs` has the same numbers.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[repr(u8)]
pub(crate) enum Numbered {
    PciVendor = 1,
    PciDevice = 2,
    PciSubsystem = 3,
    PciClass = 4,
    PciSubclass = 5,
    PciInterface = 6,
    UsbVendor = 7,
    UsbDevice = 8,
    UsbClass = 9,
    Jep106 = 10,
}

/// A record: what is numbered, four numbers, where its name begins and how long it is.
const RECORD: usize = 1 + 4 * 2 + 4 + 2;

/// The name of what has these numbers; those it does not need are left out.
pub(crate) fn name(what: Numbered, numbers: &[u16]) -> Option<&'static str> {
    let mut key = [0; 9];
    let (kind, places) = key.split_first_mut()?;
    *kind = what as u8;
    for (place, number) in places.chunks_exact_mut(2).zip(numbers) {
        place.copy_from_slice(&number.to_be_bytes());
    }
    let (records, _) = TABLE.as_chunks::<RECORD>();
    let at = records.binary_search_by(|record| record.split_at(key.len()).0.cmp(&key)).ok()?;
    let [.., a, b, c, d, e, f] = *records.get(at)?;
    let begin = usize::try_from(u32::from_be_bytes([a, b, c, d])).ok()?;
    NAMES.get(begin..begin + usize::from(u16::from_be_bytes([e, f])))
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::{Numbered, RECORD, TABLE, name};

    #[rstest]
    #[case(Numbered::PciVendor, &[0x8086], Some("Intel Corporation"))]
    #[case(Numbered::PciDevice, &[0x1af4, 0x1000], Some("Virtio network device"))]
    #[case(Numbered::PciClass, &[0x03], Some("Display controller"))]
    #[case(Numbered::PciSubclass, &[0x03, 0x00], Some("VGA compatible controller"))]
    #[case(Numbered::PciInterface, &[0x0c, 0x03, 0x30], Some("XHCI"))]
    #[case(Numbered::UsbVendor, &[0x1d6b], Some("Linux Foundation"))]
    #[case(Numbered::UsbDevice, &[0x1d6b, 0x0002], Some("2.0 root hub"))]
    #[case(Numbered::UsbClass, &[0x09], Some("Hub"))]
    #[case(Numbered::Jep106, &[0x00, 0x2c], Some("Micron Technology"))]
    #[case(Numbered::PciVendor, &[0xfff0], None)]
    #[case(Numbered::Jep106, &[0x7f, 0x7f], None)]
    fn a_number_has_its_name(
        #[case] what: Numbered,
        #[case] numbers: &[u16],
        #[case] expected: Option<&str>,
    ) {
        assert_eq!(name(what, numbers), expected);
    }

    #[rstest]
    fn every_record_is_found_and_has_a_name() {
        let (records, rest) = TABLE.as_chunks::<RECORD>();
        assert!(rest.is_empty());
        assert!(records.len() > 50_000, "{}", records.len());
        assert!(records.is_sorted_by(|one, next| one[..9] < next[..9]));
        let kinds = [
            Numbered::PciVendor,
            Numbered::PciDevice,
            Numbered::PciSubsystem,
            Numbered::PciClass,
            Numbered::PciSubclass,
            Numbered::PciInterface,
            Numbered::UsbVendor,
            Numbered::UsbDevice,
            Numbered::UsbClass,
            Numbered::Jep106,
        ];
        for record in records {
            let kind = kinds.into_iter().find(|kind| *kind as u8 == record[0]).unwrap();
            let (pairs, _) = record[1..9].as_chunks::<2>();
            let numbers: Vec<u16> = pairs.iter().map(|pair| u16::from_be_bytes(*pair)).collect();
            assert!(name(kind, &numbers).is_some_and(|name| !name.is_empty()), "{record:?}");
        }
    }
}
