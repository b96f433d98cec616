//! Structure types as typed records: one file a type, each field with the clause it comes from.

mod baseboard;
mod bios;
mod cache;
mod chassis;
mod end_of_table;
mod memory_array;
mod memory_device;
mod processor;
mod system;

pub use baseboard::{BaseboardInformation, BoardType};
pub use bios::{BiosInformation, RomSize};
pub use cache::{CacheAssociativity, CacheEcc, CacheInformation, CacheSize, CacheType};
pub use chassis::{ChassisInformation, ChassisState, ChassisType};
pub use end_of_table::EndOfTable;
pub use memory_array::{ArrayEcc, ArrayLocation, ArrayUse, PhysicalMemoryArray};
pub use memory_device::{
    MemoryDevice, MemoryFormFactor, MemorySize, MemorySpeed, MemoryTechnology, MemoryType,
};
pub use processor::{ProcessorInformation, ProcessorStatus, ProcessorType, ProcessorUpgrade};
pub use system::{SystemInformation, WakeUpType};
