//! Types 19 and 20, Memory Array and Memory Device Mapped Address (clauses 7.20 and 7.21).

use crate::{Field, Handle, field::structure};

structure! {
    /// The physical addresses of a memory array.
    ArrayMappedAddress = 19, "Memory Array Mapped Address" {
        /// First address in KiB; FFFFFFFFh says that the extended field holds it.
        0x04 starting_kib: u32,
        /// Last KiB of the range.
        0x08 ending_kib: u32,
        /// The array.
        0x0C array_handle: Handle,
        /// How many devices form a row.
        0x0E partition_width: u8,
        /// First address in bytes.
        0x0F extended_start: u64,
        /// Last address in bytes.
        0x17 extended_end: u64,
    }
}

structure! {
    /// The physical addresses of a memory device.
    DeviceMappedAddress = 20, "Memory Device Mapped Address" {
        /// First address in KiB; FFFFFFFFh says that the extended field holds it.
        0x04 starting_kib: u32,
        /// Last KiB of the range.
        0x08 ending_kib: u32,
        /// The device.
        0x0C device_handle: Handle,
        /// The range of the array it is part of.
        0x0E array_address_handle: Handle,
        /// Its place in the row; FFh is unknown.
        0x10 row_position: u8,
        /// Its place in an interleave; 0 none, FFh unknown.
        0x11 interleave_position: u8,
        /// How many rows are interleaved; FFh is unknown.
        0x12 interleaved_depth: u8,
        /// First address in bytes.
        0x13 extended_start: u64,
        /// Last address in bytes.
        0x1B extended_end: u64,
    }
}

/// A range of physical addresses, both ends in it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct AddressRange {
    /// First byte.
    pub first: u64,
    /// Last byte.
    pub last: u64,
}

impl<'a> ArrayMappedAddress<'a> {
    /// The range in bytes, from the extended fields where the short ones say so.
    pub fn range(&self) -> Option<Field<'a, AddressRange>> {
        range(self.starting_kib()?, self.ending_kib()?, self.extended_start(), self.extended_end())
    }
}

impl<'a> DeviceMappedAddress<'a> {
    /// The range in bytes, from the extended fields where the short ones say so.
    pub fn range(&self) -> Option<Field<'a, AddressRange>> {
        range(self.starting_kib()?, self.ending_kib()?, self.extended_start(), self.extended_end())
    }
}

fn range<'a>(
    start: Field<'a, u32>,
    end: Field<'a, u32>,
    extended_start: Option<Field<'a, u64>>,
    extended_end: Option<Field<'a, u64>>,
) -> Option<Field<'a, AddressRange>> {
    if start.value == u32::MAX {
        let last = extended_end?.value;
        return Some(extended_start?.map(|first| AddressRange { first, last }));
    }
    Some(start.map(|kib| AddressRange {
        first: u64::from(kib) << 10,
        last: (u64::from(end.value) << 10) | 0x3FF,
    }))
}
