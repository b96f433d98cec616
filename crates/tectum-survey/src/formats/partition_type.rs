//! What partitions are for: the type in a partition table's entry, and the bits beside it.
//!
//! UUIDs are those of the UEFI Specification (clause 5.3.3, table 5.8), the Discoverable Partitions
//! Specification of the UAPI group, and the documents of the systems that use them; one-byte numbers
//! are those in use on PCs since partition tables are kept in the master boot record.

/// The words for a type of a GPT entry (a UUID in lower case) or a DOS entry (`0x83`).
pub fn words(id: &str) -> Option<&'static str> {
    match id.strip_prefix("0x") {
        Some(number) => of_number(u8::from_str_radix(number, 16).ok()?),
        None => of_uuid(id),
    }
}

fn of_uuid(id: &str) -> Option<&'static str> {
    Some(match id {
        "c12a7328-f81f-11d2-ba4b-00a0c93ec93b" => "EFI system",
        "024dee41-33e7-11d3-9d69-0008c781f39f" => "legacy MBR",
        "21686148-6449-6e6f-744e-656564454649" => "BIOS boot",
        "9e1a2d38-c612-4316-aa26-8b49521e5a8b" => "PReP boot",
        "bc13c2ff-59e6-4262-a352-b275fd6f7172" => "extended boot loader",
        "0fc63daf-8483-4772-8e79-3d69d8477de4" => "Linux data",
        "0657fd6d-a4ab-43c4-84e5-0933c84b4f4f" => "Linux swap",
        "e6d6d379-f507-44c2-a23c-238f2a3df928" => "Linux LVM",
        "a19d880f-05fc-4d3b-a006-743f0f84911e" => "Linux RAID",
        "ca7d7ccb-63ed-4c53-861c-1742536059cc" => "Linux LUKS",
        "933ac7e1-2eb4-4f13-b844-0e14e2aef915" => "Linux home",
        "3b8f8425-20e0-4f3b-907f-1a25a76f98e8" => "Linux server data",
        "4d21b016-b534-45c2-a9fb-5c16e091fd2d" => "Linux var",
        "7ec6f557-3bc5-4aca-b293-16ef5df639d1" => "Linux var/tmp",
        "4f68bce3-e8cd-4db1-96e7-fbcaf984b709" => "Linux root (x86-64)",
        "44479540-f297-41b2-9af7-d131d5f0458a" => "Linux root (x86)",
        "b921b045-1df0-41c3-af44-4c6f280d3fae" => "Linux root (arm64)",
        "69dad710-2ce4-4e3c-b16c-21a1d49abed3" => "Linux root (arm)",
        "72ec70a6-cf74-40e6-bd49-4bda08e8f224" => "Linux root (riscv64)",
        "c31c45e6-3f39-412e-80fb-4809c4980599" => "Linux root (ppc64le)",
        "5eead9a9-fe09-4a1e-a1d7-520d00531306" => "Linux root (s390x)",
        "8484680c-9521-48c6-9c11-b0720656f69e" => "Linux usr (x86-64)",
        "b0e01050-ee5f-4390-949a-9101b17104e9" => "Linux usr (arm64)",
        "e3c9e316-0b5c-4db8-817d-f92df00215ae" => "Microsoft reserved",
        "ebd0a0a2-b9e5-4433-87c0-68b6b72699c7" => "basic data",
        "de94bba4-06d1-4d40-a16a-bfd50179d6ac" => "Windows recovery",
        "5808c8aa-7e8f-42e0-85d2-e1e90434cfb3" => "LDM metadata",
        "af9b60a0-1431-4f62-bc68-3311714a69ad" => "LDM data",
        "516e7cb8-6ecf-11d6-8ff8-00022d09712b" => "FreeBSD ZFS",
        "6a898cc3-1dd2-11b2-99a6-080020736631" => "ZFS",
        "6a945a3b-1dd2-11b2-99a6-080020736631" => "ZFS reserved",
        "cafecafe-9b03-4f30-b4c6-b4b80ceff106" => "Ceph block",
        "4fbd7e29-9d25-41b8-afd0-062c0ceff05d" => "Ceph OSD",
        "aa31e02a-400f-11db-9590-000c2911d1b8" => "VMware VMFS",
        _ => return None,
    })
}

fn of_number(number: u8) -> Option<&'static str> {
    Some(match number {
        0x01 | 0x11 => "FAT12",
        0x04 | 0x06 | 0x0e | 0x14 | 0x16 | 0x1e => "FAT16",
        0x05 | 0x0f | 0x85 => "extended",
        0x07 => "NTFS or exFAT",
        0x0b | 0x0c | 0x1b | 0x1c => "FAT32",
        0x27 => "Windows recovery",
        0x41 => "PReP boot",
        0x42 => "LDM data",
        0x82 => "Linux swap",
        0x83 => "Linux data",
        0x8e => "Linux LVM",
        0xa5 => "FreeBSD",
        0xa6 => "OpenBSD",
        0xa9 => "NetBSD",
        0xbf => "Solaris",
        0xee => "GPT behind it",
        0xef => "EFI system",
        0xfb => "VMware VMFS",
        0xfd => "Linux RAID",
        _ => return None,
    })
}

/// Whether a DOS entry is no partition of its own but holds logical ones.
pub fn is_extended(id: &str) -> bool {
    let number = id.strip_prefix("0x").and_then(|digits| u8::from_str_radix(digits, 16).ok());
    matches!(number, Some(0x05 | 0x0f | 0x85))
}

/// The bits beside the type that are set, by their names: a number such as `0x80` in the partition
/// table of a scheme (`gpt`, `dos`).
pub fn flags(scheme: &str, number: &str) -> Option<Vec<String>> {
    const GPT: [(u32, &str); 6] = [
        (0, "required"),
        (1, "no block I/O protocol"),
        (2, "legacy BIOS bootable"),
        (60, "read-only"),
        (62, "hidden"),
        (63, "no automount"),
    ];
    let bits = u64::from_str_radix(number.strip_prefix("0x").unwrap_or(number), 16).ok()?;
    match scheme {
        "gpt" => {
            let set = (0..u64::BITS).filter(|bit| bits >> bit & 1 == 1);
            let name = |bit: u32| match GPT.into_iter().find(|(known, _)| *known == bit) {
                Some((_, name)) => name.to_owned(),
                None => format!("bit {bit}"),
            };
            Some(set.map(name).collect())
        }
        "dos" => match bits {
            0 => Some(Vec::new()),
            0x80 => Some(vec!["active".to_owned()]),
            _ => None,
        },
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("c12a7328-f81f-11d2-ba4b-00a0c93ec93b", Some("EFI system"), false)]
    #[case("0x5", Some("extended"), true)]
    #[case("0xf", Some("extended"), true)]
    #[case("0x85", Some("extended"), true)]
    #[case("0x83", Some("Linux data"), false)]
    #[case("0xd0", None, false)]
    #[case("0x1ff", None, false)]
    #[case("00000000-0000-0000-0000-000000000000", None, false)]
    fn types(#[case] id: &str, #[case] expected: Option<&str>, #[case] extended: bool) {
        assert_eq!(words(id), expected);
        assert_eq!(is_extended(id), extended);
    }

    #[rstest]
    #[case("gpt", "0x1", Some(vec!["required"]))]
    #[case("gpt", "0x8000000000000004", Some(vec!["legacy BIOS bootable", "no automount"]))]
    #[case("gpt", "0x0001000000000000", Some(vec!["bit 48"]))]
    #[case("dos", "0x80", Some(vec!["active"]))]
    #[case("dos", "0x0", Some(vec![]))]
    #[case("dos", "0x81", None)]
    #[case("sun", "0x1", None)]
    #[case("gpt", "bootable", None)]
    fn bits(#[case] scheme: &str, #[case] number: &str, #[case] expected: Option<Vec<&str>>) {
        let expected = expected.map(|all| all.into_iter().map(str::to_owned).collect::<Vec<_>>());
        assert_eq!(flags(scheme, number), expected);
    }
}
