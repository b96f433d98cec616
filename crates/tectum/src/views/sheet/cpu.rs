//! Processors.

use tectum_core::{
    formats::number_list,
    report::{
        kinds::Leaf,
        model::{Cpu, RunsOn, SocketState},
    },
};

use super::{View, cell, known, size_cell, text, why};
use crate::views::{
    page::Sheet,
    sizes::{count, size},
};

pub(super) fn print(cpu: &Cpu, view: &View<'_>, page: &mut Sheet) {
    let model = known(&cpu.model_name).unwrap_or_else(|| {
        let vendor = known(&cpu.vendor).map(|vendor| format!("{vendor} ")).unwrap_or_default();
        format!("{vendor}model name {}", text(&cpu.model_name))
    });
    let packages = cpu.packages.value().copied().unwrap_or(1);
    let times = if packages > 1 { format!("{packages} × ") } else { String::new() };
    let mut said = page.entry("processor").strong(format!("{times}{model}"));
    said = match cpu.runs_on.value() {
        Some(RunsOn::Hypervisor) => said.plain(", virtual: a hypervisor lies beneath"),
        Some(RunsOn::NoSign) => said.plain(", no sign of a hypervisor"),
        None => said,
    };
    let _ = said;
    page.beside().plain(counts(cpu));
    let range = match (cpu.minimum_frequency_mhz.value(), cpu.maximum_frequency_mhz.value()) {
        (Some(low), Some(high)) => Some(format!("{low} to {high} MHz")),
        (None, Some(high)) => Some(format!("up to {high} MHz")),
        _ => None,
    };
    let now = view.report.readings.cpu.as_ref().and_then(|readings| {
        match (readings.slowest_mhz.value()?, readings.fastest_mhz.value()?) {
            (slow, fast) if slow == fast => Some(format!("{slow} MHz now")),
            (slow, fast) => Some(format!("{slow} to {fast} MHz now")),
        }
    });
    let frequencies: Vec<String> = range.into_iter().chain(now).collect();
    if !frequencies.is_empty() {
        page.beside().quiet(frequencies.join(", "));
    }
    if view.drawn {
        details(cpu, view, page);
    }
}

/// Sockets, cores and threads, each with its own number, so that none is taken for another.
fn counts(cpu: &Cpu) -> String {
    let number = |fact: &tectum_core::report::fact::Fact<u64>, one: &str, many: &str| {
        fact.value().map(|value| count(usize::try_from(*value).unwrap_or(usize::MAX), one, many))
    };
    let mut parts: Vec<String> = [
        number(&cpu.packages, "socket", "sockets"),
        number(&cpu.cores, "core", "cores"),
        number(&cpu.threads, "thread", "threads"),
    ]
    .into_iter()
    .flatten()
    .collect();
    if parts.is_empty() {
        parts.push(format!("sockets, cores and threads: {}", text(&cpu.threads)));
    }
    match cpu.offline.value() {
        Some(off) if off.is_empty() => parts.push("all online".to_owned()),
        Some(off) => parts.push(format!("offline: {}", number_list::write(off))),
        None => {}
    }
    parts.join(", ")
}

fn details(cpu: &Cpu, view: &View<'_>, page: &mut Sheet) {
    page.beside()
        .quiet("vendor ")
        .plain(text(&cpu.vendor))
        .quiet(", family ")
        .plain(cell(&cpu.family))
        .quiet(", model ")
        .plain(cell(&cpu.model))
        .quiet(", stepping ")
        .plain(cell(&cpu.stepping))
        .quiet(", architecture ")
        .plain(text(&cpu.architecture));
    page.gap();
    if let Some(gap) = cpu.caches.gap() {
        page.beside().quiet(format!("caches: {}", why(gap)));
    } else {
        let rows: Vec<Vec<String>> = cpu
            .caches
            .iter()
            .map(|cache| {
                vec![
                    format!("L{} {}", cell(&cache.level), cell(&cache.kind).to_lowercase()),
                    cell(&cache.instances),
                    size_cell(&cache.size_bytes, |bytes| size(bytes, view.units)),
                    cell(&cache.ways),
                    size_cell(&cache.line_bytes, |bytes| size(bytes, view.units)),
                ]
            })
            .collect();
        page.table(&["cache", ">how many", ">each", ">ways", ">line"], &rows);
    }
    page.gap();
    if let Some(gap) = cpu.sockets.gap() {
        page.beside().quiet(format!("sockets as the firmware knows them: {}", why(gap)));
        return;
    }
    let rows: Vec<Vec<String>> = cpu
        .sockets
        .iter()
        .map(|socket| {
            let state = match socket.state.value() {
                Some(SocketState::Empty) => "empty".to_owned(),
                _ => cell(&socket.state),
            };
            vec![
                cell(&socket.designation),
                state,
                cell(&socket.version),
                cell(&socket.serial),
                cell(&socket.part_number),
                cell(&socket.cores),
                cell(&socket.threads),
                socket
                    .maximum_speed_mhz
                    .value()
                    .map_or("·".into(), |mhz| format!("{} MHz", mhz.to_text())),
            ]
        })
        .collect();
    page.table(
        &["socket", "state", "processor", "serial", "part", ">cores", ">threads", ">at most"],
        &rows,
    );
}
