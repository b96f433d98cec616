//! Names for the codes by which Arm processors name themselves (Main ID Register, Arm Architecture
//! Reference Manual, MIDR_EL1; the part numbers stand in each core's reference manual).

/// Who made the core.
pub(super) fn implementer(code: u64) -> Option<&'static str> {
    Some(match code {
        0x41 => "ARM",
        0x42 => "Broadcom",
        0x43 => "Cavium",
        0x44 => "DEC",
        0x46 => "Fujitsu",
        0x48 => "HiSilicon",
        0x49 => "Infineon",
        0x4d => "Motorola/Freescale",
        0x4e => "NVIDIA",
        0x50 => "APM",
        0x51 => "Qualcomm",
        0x53 => "Samsung",
        0x56 => "Marvell",
        0x61 => "Apple",
        0x66 => "Faraday",
        0x69 => "Intel",
        0x6d => "Microsoft",
        0x70 => "Phytium",
        0xc0 => "Ampere",
        _ => return None,
    })
}

/// What the core is called.
pub(super) fn part(implementer: u64, part: u64) -> Option<&'static str> {
    Some(match (implementer, part) {
        (0x41, 0x926) => "ARM926EJ-S",
        (0x41, 0xb36) => "ARM1136",
        (0x41, 0xb76) => "ARM1176",
        (0x41, 0xc05) => "Cortex-A5",
        (0x41, 0xc07) => "Cortex-A7",
        (0x41, 0xc08) => "Cortex-A8",
        (0x41, 0xc09) => "Cortex-A9",
        (0x41, 0xc0d | 0xc0e) => "Cortex-A17",
        (0x41, 0xc0f) => "Cortex-A15",
        (0x41, 0xd01) => "Cortex-A32",
        (0x41, 0xd03) => "Cortex-A53",
        (0x41, 0xd04) => "Cortex-A35",
        (0x41, 0xd05) => "Cortex-A55",
        (0x41, 0xd07) => "Cortex-A57",
        (0x41, 0xd08) => "Cortex-A72",
        (0x41, 0xd09) => "Cortex-A73",
        (0x41, 0xd0a) => "Cortex-A75",
        (0x41, 0xd0b) => "Cortex-A76",
        (0x41, 0xd0c) => "Neoverse-N1",
        (0x41, 0xd0d) => "Cortex-A77",
        (0x41, 0xd40) => "Neoverse-V1",
        (0x41, 0xd41) => "Cortex-A78",
        (0x41, 0xd44) => "Cortex-X1",
        (0x41, 0xd46) => "Cortex-A510",
        (0x41, 0xd47) => "Cortex-A710",
        (0x41, 0xd48) => "Cortex-X2",
        (0x41, 0xd49) => "Neoverse-N2",
        (0x41, 0xd4a) => "Neoverse-E1",
        (0x41, 0xd4f) => "Neoverse-V2",
        (0x41, 0xd83) => "Neoverse-V3AE",
        (0x41, 0xd84) => "Neoverse-V3",
        (0x41, 0xd8e) => "Neoverse-N3",
        (0x46, 0x001) => "A64FX",
        (0x48, 0xd01) => "TaiShan v110",
        (0xc0, 0xac3) => "Ampere-1",
        (0xc0, 0xac4) => "Ampere-1a",
        _ => return None,
    })
}
