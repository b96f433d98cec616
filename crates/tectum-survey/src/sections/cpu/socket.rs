//! Sockets as the firmware describes them (SMBIOS type 4, DSP0134 clause 7.5).

use tectum_smbios::{Field, types::ProcessorInformation};

use crate::readers::dmi::{NAME, Tables, named};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Saying, Why, saying},
    leaf::{Megahertz, Millivolts},
    model::{CpuSocket, SocketState},
};

/// A number that the record leaves out where the firmware does not know it.
fn known_count<T: Into<u64>>(
    tables: &Tables,
    field: Option<Field<'_, T>>,
    rule: Saying,
) -> Fact<u64> {
    match field {
        Some(_) => tables.fact(field, rule, |count| Some(count.into())),
        None => Fact::gap(tables.says(
            Why::Blank,
            saying!("socket-structure-does-not", "the socket's structure does not say it"),
        )),
    }
}

pub(super) fn sockets(tables: &Tables) -> Parts<CpuSocket> {
    tables.parts(
        ProcessorInformation::TYPE,
        ProcessorInformation::from_structure,
        |socket: &ProcessorInformation<'_>| {
            let mhz = |mhz: u16| (mhz != 0).then_some(u64::from(mhz));
            let count = |count: u16| Some(u64::from(count));
            Some(CpuSocket {
                designation: tables.text(socket.socket_designation()),
                state: tables.fact(
                    socket.status(),
                    saying!(
                        "bit-6-socket-populated-bits",
                        "bit 6 says that the socket is populated, bits 2:0 the state",
                    ),
                    |status| {
                        Some(match (status.is_populated(), status.0 & 0x07) {
                            (false, _) => SocketState::Empty,
                            (true, 1) => SocketState::Enabled,
                            (true, 2..=4) => SocketState::Disabled,
                            (true, _) => SocketState::Populated,
                        })
                    },
                ),
                manufacturer: tables.text(socket.manufacturer()),
                version: tables.text(socket.version()),
                serial: tables.text(socket.serial_number()),
                asset_tag: tables.text(socket.asset_tag()),
                part_number: tables.text(socket.part_number()),
                family: tables.fact(socket.family(), NAME, named),
                socket_kind: tables.fact(socket.upgrade(), NAME, named),
                characteristics: tables.flags(socket.characteristics(), |bits| bits.set()),
                voltage_mv: known_count(
                    tables,
                    socket.voltage_mv(),
                    saying!("tenths-volt", "tenths of a volt"),
                )
                .map(Millivolts),
                external_clock_mhz: tables
                    .fact(socket.external_clock_mhz(), saying!("mhz", "MHz"), mhz)
                    .map(Megahertz),
                enabled_cores: known_count(
                    tables,
                    socket.enabled_core_count(),
                    saying!("cores", "cores"),
                ),
                enabled_threads: tables.fact(
                    socket.thread_enabled(),
                    saying!("threads-0-unknown", "threads; 0 is unknown"),
                    |threads| (threads != 0 && threads != 0xFFFF).then_some(u64::from(threads)),
                ),
                cores: tables.fact(
                    socket.core_count(),
                    saying!("cores-socket", "cores in this socket"),
                    count,
                ),
                threads: tables.fact(
                    socket.thread_count(),
                    saying!("threads-socket", "threads in this socket"),
                    count,
                ),
                max_speed_mhz: tables
                    .fact(
                        socket.maximum_speed_mhz(),
                        saying!("mhz-socket-supports", "MHz that the socket supports"),
                        mhz,
                    )
                    .map(Megahertz),
                boot_speed_mhz: tables
                    .fact(socket.current_speed_mhz(), saying!("mhz-boot", "MHz at boot"), mhz)
                    .map(Megahertz),
            })
        },
    )
}
