//! Firmware tables by meaning: structures of the SMBIOS standard (DSP0134) encoded from what they
//! say.

use crate::{Machine, Module, Tree};

/// Builds one structure: its fields in order, its strings as they are named.
#[derive(Debug, Clone)]
pub struct StructureBuilder {
    kind: u8,
    handle: u16,
    formatted: Vec<u8>,
    strings: Vec<Vec<u8>>,
}

impl StructureBuilder {
    /// A structure of a type, with a handle.
    pub fn new(kind: u8, handle: u16) -> Self {
        Self { kind, handle, formatted: Vec::new(), strings: Vec::new() }
    }

    /// A string field; an empty string is index 0.
    #[must_use]
    pub fn text(mut self, text: &str) -> Self {
        let index = if text.is_empty() {
            0
        } else {
            self.strings.push(text.as_bytes().to_vec());
            u8::try_from(self.strings.len()).unwrap_or(u8::MAX)
        };
        self.formatted.push(index);
        self
    }

    /// A byte.
    #[must_use]
    pub fn byte(self, value: u8) -> Self {
        self.bytes(&[value])
    }

    /// A word.
    #[must_use]
    pub fn word(self, value: u16) -> Self {
        self.bytes(&value.to_le_bytes())
    }

    /// A double word.
    #[must_use]
    pub fn dword(self, value: u32) -> Self {
        self.bytes(&value.to_le_bytes())
    }

    /// A quad word.
    #[must_use]
    pub fn qword(self, value: u64) -> Self {
        self.bytes(&value.to_le_bytes())
    }

    /// Strings that no field names, as the structures of free-form strings have them.
    #[must_use]
    pub fn strings(mut self, first: &str, rest: &[String]) -> Self {
        self.strings.push(first.as_bytes().to_vec());
        self.strings.extend(rest.iter().map(|text| text.as_bytes().to_vec()));
        self
    }

    /// Bytes as they are.
    #[must_use]
    pub fn bytes(mut self, bytes: &[u8]) -> Self {
        self.formatted.extend_from_slice(bytes);
        self
    }

    /// As a firmware of a version of the standard tells it: without the fields that came later (DSP0134, the tables of
    /// clauses 7.1, 7.5, 7.17 and 7.18 with the version that each field came with).
    #[must_use]
    fn told_by(mut self, version: (u8, u8)) -> Self {
        let length = match self.kind {
            0 if version < (3, 1) => 0x18,
            4 if version < (2, 6) => 0x28,
            4 if version < (3, 0) => 0x2A,
            16 if version < (2, 7) => 0x0F,
            17 if version < (2, 7) => 0x1C,
            17 if version < (2, 8) => 0x22,
            _ => return self,
        };
        self.formatted.truncate(length - 4);
        self
    }

    /// The structure's bytes.
    pub fn build(self) -> Vec<u8> {
        let length = u8::try_from(self.formatted.len() + 4).unwrap_or(u8::MAX);
        let mut bytes = vec![self.kind, length];
        bytes.extend(self.handle.to_le_bytes());
        bytes.extend(self.formatted);
        for string in &self.strings {
            bytes.extend_from_slice(string);
            bytes.push(0);
        }
        if self.strings.is_empty() {
            bytes.push(0);
        }
        bytes.push(0);
        bytes
    }
}

/// A table of structures, ended as the standard asks.
pub fn table(structures: impl IntoIterator<Item = StructureBuilder>) -> Vec<u8> {
    let mut bytes: Vec<u8> = structures.into_iter().flat_map(StructureBuilder::build).collect();
    bytes.extend(StructureBuilder::new(127, 0xFEFF).build());
    bytes
}

/// A 32-bit entry point (`_SM_`) for a table.
pub fn entry_point_32(version: (u8, u8), table: &[u8], count: u16) -> Vec<u8> {
    let mut bytes = b"_SM_\0\x1f".to_vec();
    bytes.extend([version.0, version.1, 0xFF, 0x00, 0]);
    bytes.extend([0; 5]);
    bytes.extend(b"_DMI_\0");
    bytes.extend(u16::try_from(table.len()).unwrap_or(u16::MAX).to_le_bytes());
    bytes.extend(0x000F_0000_u32.to_le_bytes());
    bytes.extend(count.to_le_bytes());
    bytes.push(version.0 << 4 | version.1 & 0x0F);
    let fix = |bytes: &mut Vec<u8>, from: usize, at: usize| {
        let sum = bytes.iter().skip(from).fold(0u8, |sum, byte| sum.wrapping_add(*byte));
        if let Some(checksum) = bytes.get_mut(at) {
            *checksum = sum.wrapping_neg();
        }
    };
    fix(&mut bytes, 0x10, 0x15);
    fix(&mut bytes, 0, 0x04);
    bytes
}

/// A 64-bit entry point (`_SM3_`) for a table.
fn entry_point_64(version: (u8, u8), table: &[u8]) -> Vec<u8> {
    let mut bytes = b"_SM3_\0\x18".to_vec();
    bytes.extend([version.0, version.1, 0, 1, 0]);
    bytes.extend(u32::try_from(table.len()).unwrap_or(u32::MAX).to_le_bytes());
    bytes.extend(0x7F00_0000_u64.to_le_bytes());
    let sum = bytes.iter().fold(0u8, |sum, byte| sum.wrapping_add(*byte));
    if let Some(checksum) = bytes.get_mut(5) {
        *checksum = sum.wrapping_neg();
    }
    bytes
}

pub(crate) fn put(machine: &Machine, tree: &mut Tree) {
    let structures = structures(machine);
    let count = u16::try_from(structures.len() + 1).unwrap_or(u16::MAX);
    let version = machine.smbios;
    let table = table(structures.into_iter().map(|structure| structure.told_by(version)));
    let entry = match version {
        (0..=2, _) => entry_point_32(version, &table, count),
        _ => entry_point_64(version, &table),
    };
    tree.file("sys/firmware/dmi/tables/smbios_entry_point", entry);
    tree.file("sys/firmware/dmi/tables/DMI", table);
    let Machine { bios, system, board, chassis, .. } = machine;
    let published = [
        ("bios_vendor", &bios.vendor),
        ("bios_version", &bios.version),
        ("bios_date", &bios.date),
        ("sys_vendor", &system.manufacturer),
        ("product_name", &system.product),
        ("product_version", &system.version),
        ("product_serial", &system.serial),
        ("product_uuid", &system.uuid),
        ("product_sku", &system.sku),
        ("product_family", &system.family),
        ("board_vendor", &board.manufacturer),
        ("board_name", &board.product),
        ("board_version", &board.version),
        ("board_serial", &board.serial),
        ("board_asset_tag", &board.asset_tag),
        ("chassis_vendor", &chassis.manufacturer),
        ("chassis_version", &chassis.version),
        ("chassis_serial", &chassis.serial),
        ("chassis_asset_tag", &chassis.asset_tag),
    ];
    for (name, text) in published {
        tree.line(format!("sys/devices/virtual/dmi/id/{name}"), text);
    }
    tree.line("sys/devices/virtual/dmi/id/chassis_type", chassis.kind);
    tree.link("sys/class/dmi/id", "/sys/devices/virtual/dmi/id");
    if machine.bios.uefi {
        tree.line("sys/firmware/efi/fw_platform_size", 64);
    }
}

fn structures(machine: &Machine) -> Vec<StructureBuilder> {
    let Machine { bios, system, board, chassis, cpu, .. } = machine;
    let (rom, extended) = match u8::try_from((bios.rom_size >> 16).saturating_sub(1)) {
        Ok(code) if code < 0xFF => (code, 0),
        _ => (0xFF, u16::try_from(bios.rom_size >> 20).unwrap_or(0x3FFF)),
    };
    let mut all = vec![
        StructureBuilder::new(0, 0x0000)
            .text(&bios.vendor)
            .text(&bios.version)
            .word(0)
            .text(&bios.date)
            .byte(rom)
            .qword(0x0000_0000_0000_0880)
            .byte(0x03)
            .byte(if bios.uefi { 0x0D } else { 0x05 })
            .byte(bios.release.0)
            .byte(bios.release.1)
            .byte(0xFF)
            .byte(0xFF)
            .word(extended),
        StructureBuilder::new(1, 0x0100)
            .text(&system.manufacturer)
            .text(&system.product)
            .text(&system.version)
            .text(&system.serial)
            .bytes(&uuid(&system.uuid))
            .byte(6)
            .text(&system.sku)
            .text(&system.family),
        StructureBuilder::new(2, 0x0200)
            .text(&board.manufacturer)
            .text(&board.product)
            .text(&board.version)
            .text(&board.serial)
            .text(&board.asset_tag)
            .byte(0x09)
            .text(&board.location)
            .word(0x0300)
            .byte(0x0A)
            .byte(0),
        StructureBuilder::new(3, 0x0300)
            .text(&chassis.manufacturer)
            .byte(chassis.kind)
            .text(&chassis.version)
            .text(&chassis.serial)
            .text(&chassis.asset_tag)
            .bytes(&[3, 3, 3, 3])
            .dword(0)
            .byte(chassis.height_units)
            .byte(2)
            .byte(0)
            .byte(3)
            .text(""),
    ];
    for (socket, (label, serial)) in (0u16..).zip(&cpu.sockets) {
        let threads = cpu.cores * cpu.threads;
        let small = |count: u32| u8::try_from(count).unwrap_or(0xFF);
        let large = |count: u32| u16::try_from(count).unwrap_or(u16::MAX);
        let mhz = |khz: u64| u16::try_from(khz / 1000).unwrap_or(0);
        all.push(
            StructureBuilder::new(4, 0x0400 + socket)
                .text(label)
                .byte(3)
                .byte(0xFE)
                .text(&cpu.manufacturer)
                .qword(0)
                .text(&cpu.model_name)
                .byte(0x80 | 11)
                .word(100)
                .word(mhz(cpu.maximum_khz))
                .word(mhz(cpu.current_khz))
                .byte(0x41)
                .byte(0x01)
                .word(0xFFFF)
                .word(0xFFFF)
                .word(0xFFFF)
                .text(serial)
                .text("")
                .text(&cpu.part_number)
                .byte(small(cpu.cores))
                .byte(small(cpu.cores))
                .byte(small(threads))
                .word(0x00FC)
                .word(0x0002)
                .word(large(cpu.cores))
                .word(large(cpu.cores))
                .word(large(threads)),
        );
    }
    all.extend(memory(machine));
    all.extend(parts(machine));
    all
}

fn memory(machine: &Machine) -> Vec<StructureBuilder> {
    let mut all = vec![
        StructureBuilder::new(16, 0x1000)
            .byte(0x03)
            .byte(0x03)
            .byte(0x06)
            .dword(0x8000_0000)
            .word(0xFFFE)
            .word(u16::try_from(machine.slots.len()).unwrap_or(u16::MAX))
            .qword(machine.memory_capacity),
    ];
    let mut channels: Vec<(&str, Vec<u16>)> = Vec::new();
    for (number, slot) in (0u16..).zip(&machine.slots) {
        let handle = 0x1100u16.wrapping_add(number);
        all.push(memory_device(handle, &slot.locator, &slot.bank, slot.module.as_ref()));
        match channels.last_mut().filter(|(bank, _)| *bank == slot.bank) {
            Some((_, handles)) => handles.push(handle),
            None => channels.push((&slot.bank, vec![handle])),
        }
    }
    // A slot that is its own channel is no channel worth telling.
    for (number, (_, handles)) in (0u16..).zip(channels.iter().filter(|(_, all)| all.len() > 1)) {
        let count = u8::try_from(handles.len()).unwrap_or(u8::MAX);
        let channel = StructureBuilder::new(37, 0x2500u16.wrapping_add(number));
        let head = channel.byte(0x01).byte(count).byte(count);
        all.push(handles.iter().fold(head, |channel, handle| channel.byte(1).word(*handle)));
    }
    all
}

/// What the firmware tells of and the kernel alone does not.
fn parts(machine: &Machine) -> Vec<StructureBuilder> {
    let mut all = Vec::new();
    for (number, slot) in (0u16..).zip(&machine.card_slots) {
        let (segment, bus, function) = match pci(&slot.address) {
            Some((bus, function)) => (0, bus, function),
            None => (0xFFFF, 0xFF, 0xFF),
        };
        all.push(
            StructureBuilder::new(9, 0x0900 + number)
                .text(&slot.label)
                .byte(slot.kind)
                .byte(slot.width)
                .byte(if segment == 0 { 0x04 } else { 0x03 })
                .byte(0x04)
                .word(number + 1)
                .byte(0x04)
                .byte(0x03)
                .word(segment)
                .byte(bus)
                .byte(function),
        );
    }
    if let Some((first, rest)) = machine.oem_strings.split_first() {
        let count = u8::try_from(rest.len() + 1).unwrap_or(u8::MAX);
        all.push(StructureBuilder::new(11, 0x0B00).byte(count).strings(first, rest));
    }
    for (number, fan) in (0u16..).zip(&machine.fans) {
        all.push(
            StructureBuilder::new(28, 0x1C00 + number)
                .text(&fan.probe)
                .byte(0x67)
                .word(900)
                .word(0)
                .word(0x8000)
                .word(0x8000)
                .word(0x8000)
                .dword(0)
                .word(250),
        );
        all.push(
            StructureBuilder::new(27, 0x1B00 + number)
                .word(0x1C00 + number)
                .byte(0x63)
                .byte(1)
                .dword(0)
                .word(fan.rpm)
                .text(&fan.name),
        );
    }
    for (number, supply) in (0u16..).zip(&machine.power_supplies) {
        all.push(
            StructureBuilder::new(39, 0x2700 + number)
                .byte(1)
                .text(&supply.location)
                .text(&supply.name)
                .text(&supply.manufacturer)
                .text(&supply.serial)
                .text("")
                .text(&supply.part_number)
                .text("")
                .word(supply.watts)
                // Switching, OK, wide range, present, hot replaceable.
                .word(4 << 10 | 3 << 7 | 5 << 3 | 0b011)
                .word(0xFFFF)
                .word(0xFFFF)
                .word(0xFFFF),
        );
    }
    if let Some(management) = &machine.management {
        all.push(
            StructureBuilder::new(38, 0x2600)
                .byte(0x01)
                .byte(0x20)
                .byte(0x20)
                .byte(0xFF)
                .qword(management.port | 1)
                .byte(0)
                .byte(0),
        );
        let mut vendor = [0u8; 4];
        for (place, letter) in vendor.iter_mut().zip(management.tpm_vendor.bytes()) {
            *place = letter;
        }
        all.push(
            StructureBuilder::new(43, 0x2B00)
                .bytes(&vendor)
                .byte(2)
                .byte(0)
                .dword(0)
                .dword(0)
                .text(&management.tpm)
                .qword(0x08)
                .dword(0),
        );
        all.push(
            StructureBuilder::new(45, 0x2D00)
                .text("Management controller")
                .text(&management.firmware)
                .byte(0)
                .text("")
                .byte(0)
                .text("")
                .text(&machine.board.manufacturer)
                .text("")
                .qword(u64::MAX)
                .word(0x01)
                .byte(0x04)
                .byte(0),
        );
    }
    all
}

/// Bus, and device with function, of `0000:41:00.0`.
fn pci(address: &str) -> Option<(u8, u8)> {
    let mut parts = address.split([':', '.']).skip(1);
    let mut next = || u8::from_str_radix(parts.next()?, 16).ok();
    let (bus, device, function) = (next()?, next()?, next()?);
    Some((bus, device << 3 | function))
}

fn memory_device(
    handle: u16,
    locator: &str,
    bank: &str,
    module: Option<&Module>,
) -> StructureBuilder {
    let (size, extended) = match module {
        None => (0, 0),
        Some(module) => match u16::try_from(module.mib) {
            Ok(mib) if mib < 0x7FFF => (mib, 0),
            _ => (0x7FFF, module.mib),
        },
    };
    let text = |pick: fn(&Module) -> &str| module.map_or("", pick);
    StructureBuilder::new(17, handle)
        .word(0x1000)
        .word(0xFFFE)
        .word(if module.is_some() { 80 } else { 0xFFFF })
        .word(if module.is_some() { 64 } else { 0xFFFF })
        .word(size)
        .byte(0x09)
        .byte(0)
        .text(locator)
        .text(bank)
        .byte(module.map_or(0x02, |module| module.kind))
        .word(if module.is_some() { 0x2080 } else { 0x0004 })
        .word(module.map_or(0, |module| module.speed))
        .text(text(|module| &module.manufacturer))
        .text(text(|module| &module.serial))
        .text(text(|module| &module.asset_tag))
        .text(text(|module| &module.part_number))
        .byte(module.map_or(0, |module| module.ranks))
        .dword(extended)
        .word(module.map_or(0, |module| module.configured_speed))
        .word(if module.is_some() { 1100 } else { 0 })
        .word(if module.is_some() { 1100 } else { 0 })
        .word(if module.is_some() { 1100 } else { 0 })
}

/// A UUID's bytes as SMBIOS 2.6 and later write them; zeros where the text is none.
fn uuid(text: &str) -> [u8; 16] {
    let digits: Vec<u8> = text
        .chars()
        .filter_map(|digit| digit.to_digit(16).and_then(|value| u8::try_from(value).ok()))
        .collect();
    let mut bytes = [0; 16];
    for (byte, pair) in bytes.iter_mut().zip(digits.chunks_exact(2)) {
        *byte = pair.iter().fold(0, |value, digit| value << 4 | digit);
    }
    for range in [0..4, 4..6, 6..8] {
        if let Some(field) = bytes.get_mut(range) {
            field.reverse();
        }
    }
    bytes
}
