//! Readings by the parts that they are declared to be readings of.

use tectum_report::{
    declare::{Described, link::ReadingsOf},
    model::{
        ChannelReading, DiskReadings, GpuDeviceReadings, InterfaceReadings, ModuleReadings,
        PciFunctionReadings, PowerSourceReadings, Readings, VolumeReadings, ZoneReading,
    },
};

/// The readings of a report, each to be asked for by its part.
pub(super) struct ByPart<'a> {
    pub(super) disks: ReadingsOf<'a, DiskReadings>,
    pub(super) volumes: ReadingsOf<'a, VolumeReadings>,
    pub(super) interfaces: ReadingsOf<'a, InterfaceReadings>,
    pub(super) functions: ReadingsOf<'a, PciFunctionReadings>,
    pub(super) gpus: ReadingsOf<'a, GpuDeviceReadings>,
    pub(super) modules: ReadingsOf<'a, ModuleReadings>,
    pub(super) channels: ReadingsOf<'a, ChannelReading>,
    pub(super) zones: ReadingsOf<'a, ZoneReading>,
    pub(super) supplies: ReadingsOf<'a, PowerSourceReadings>,
}

impl<'a> ByPart<'a> {
    pub(super) fn of(readings: &'a Readings) -> Self {
        Self {
            disks: list(readings.storage.as_ref().map(|all| &*all.disks)),
            volumes: list(readings.storage.as_ref().map(|all| &*all.volumes)),
            interfaces: list(readings.network.as_ref().map(|all| &*all.interfaces)),
            functions: list(readings.pci.as_ref().map(|all| &*all.functions)),
            gpus: list(readings.gpu.as_ref().map(|all| &*all.devices)),
            modules: list(readings.drivers.as_ref().map(|all| &*all.modules)),
            channels: list(readings.sensors.as_ref().map(|all| &*all.channels)),
            zones: list(readings.sensors.as_ref().map(|all| &*all.zones)),
            supplies: list(readings.power.as_ref().map(|all| &*all.supplies)),
        }
    }
}

fn list<R: Described>(readings: Option<&[R]>) -> ReadingsOf<'_, R> {
    ReadingsOf::new(readings.unwrap_or_default())
}
