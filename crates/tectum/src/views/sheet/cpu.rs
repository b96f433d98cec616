//! Processors.

mod topology;

use crate::page::{Page, UNKNOWN};
use tectum_report::{
    fact::Fact,
    leaf::Leaf,
    model::{Cpu, RunsOn, SocketState, Standing},
};

use super::{View, cell, joined, known, text, why};
use crate::views::quantity::count;

pub(super) fn print(cpu: &Cpu, view: &View<'_>, page: &mut Page) {
    let model = known(&cpu.model_name).unwrap_or_else(|| {
        let vendor = known(&cpu.vendor).map(|vendor| format!("{vendor} ")).unwrap_or_default();
        format!("{vendor}model name {}", text(&cpu.model_name))
    });
    let packages = cpu.packages.value().copied().unwrap_or(1);
    let times = if packages > 1 { format!("{packages} × ") } else { String::new() };
    let mut said = page.entry("processor").strong(format!("{times}{model}"));
    // The processor's own sign is one of many: where another says that the machine is virtual, that is
    // what is told.
    let platform = view.report.inventory.platform.as_ref();
    let runs_in = platform.and_then(|platform| platform.virtualization.runs_in.value());
    let machine_is_virtual = runs_in.is_some_and(|runs_in| runs_in.lies_on_a_hypervisor());
    said = match cpu.runs_on.value() {
        Some(RunsOn::NoSign) if machine_is_virtual => {
            said.plain(", virtual by the machine's other signs")
        }
        Some(RunsOn::Hypervisor) => said.plain(", virtual: a hypervisor lies beneath"),
        Some(RunsOn::NoSign) => said.plain(", no sign of a hypervisor"),
        None => said,
    };
    let _ = said;
    page.beside().plain(counts(cpu));
    let range = match (cpu.min_frequency_mhz.value(), cpu.max_frequency_mhz.value()) {
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
    let number = |fact: &Fact<u64>, one: &str, many: &str| {
        fact.value().map(|value| count(usize::try_from(*value).unwrap_or(usize::MAX), one, many))
    };
    // Sockets and cores are counted by what is online. Where not all is, threads are counted so too, and
    // those that are present apart: two numbers on two bases would look like several threads a core.
    let off = cpu.offline.value().filter(|off| !off.is_empty());
    let online = cpu.online.value().filter(|_| off.is_some());
    let threads = match online {
        Some(online) => Some(count(online.len(), "thread", "threads")),
        None => number(&cpu.threads, "thread", "threads"),
    };
    let mut parts: Vec<String> =
        [number(&cpu.packages, "socket", "sockets"), number(&cpu.cores, "core", "cores"), threads]
            .into_iter()
            .flatten()
            .collect();
    if parts.is_empty() {
        parts.push(format!("sockets, cores and threads: {}", text(&cpu.threads)));
    }
    let all = cpu.offline.value().is_some_and(Vec::is_empty);
    parts.extend(all.then(|| "all online".to_owned()));
    let counted = parts.join(", ");
    match off {
        None => counted,
        Some(off) => {
            let present = number(&cpu.threads, "CPU present", "CPUs present");
            let of = present.map(|present| format!("of {present}, ")).unwrap_or_default();
            format!("{counted} online; {of}offline: {}", tectum_report::leaf::ranges(off))
        }
    }
}

fn details(cpu: &Cpu, view: &View<'_>, page: &mut Page) {
    let number = |name: &str, fact: &Fact<u64>| known(fact).map(|value| format!("{name} {value}"));
    let line = joined(
        [
            known(&cpu.vendor).map(|vendor| format!("vendor {vendor}")),
            number("family", &cpu.family),
            number("model", &cpu.model),
            number("stepping", &cpu.stepping),
            known(&cpu.microcode).map(|version| format!("microcode {version}")),
            known(&cpu.architecture),
            cpu.operating_widths_bits.value().map(|widths| {
                let widths: Vec<String> = widths.iter().map(|bits| bits.0.to_string()).collect();
                format!("{} bit", widths.join(" and "))
            }),
            known(&cpu.byte_order),
        ],
        ", ",
    );
    page.beside().quiet(line);
    // What only some architectures say: the extensions of RISC-V, the board that names the processor.
    let more = joined(
        [
            known(&cpu.instruction_set).map(|set| format!("instruction set {set}")),
            known(&cpu.memory_management).map(|mode| format!("memory management {mode}")),
            known(&cpu.board).map(|board| format!("machine {board}")),
            known(&cpu.system_type).map(|kind| format!("system type {kind}")),
        ],
        ", ",
    );
    if !more.is_empty() {
        page.beside().quiet(more);
    }
    for kind in cpu.core_kinds.iter() {
        let name = cell(&kind.name);
        page.beside().quiet(format!("kind of core {name}: CPUs {}", cell(&kind.cpus)));
    }
    page.gap();
    topology::draw(cpu, view, page);
    policies(cpu, page);
    page.gap();
    features(cpu, page);
    vulnerabilities(cpu, page);
    page.gap();
    sockets(cpu, page);
}

fn policies(cpu: &Cpu, page: &mut Page) {
    if !cpu.frequency_policies.is_empty() || cpu.boost.is_known() {
        page.gap();
    }
    for policy in cpu.frequency_policies.iter() {
        let range = match (
            policy.scaling_min_mhz.value().or(policy.min_mhz.value()),
            policy.scaling_max_mhz.value().or(policy.max_mhz.value()),
        ) {
            (Some(low), Some(high)) => Some(format!("{low} to {high} MHz")),
            _ => None,
        };
        let parts = joined(
            [
                known(&policy.driver).map(|driver| format!("driver {driver}")),
                known(&policy.governor).map(|governor| format!("governor {governor}")),
                range,
                known(&policy.energy_preference).map(|what| format!("prefers {what}")),
            ],
            ", ",
        );
        page.beside().quiet(format!("CPUs {}: {parts}", cell(&policy.cpus)));
    }
    if let Some(boost) = cpu.boost.value() {
        page.beside().quiet(format!("boost is {}", if *boost { "on" } else { "off" }));
    }
}

fn features(cpu: &Cpu, page: &mut Page) {
    if let Some(gap) = cpu.features.gap() {
        page.beside().quiet(format!("features: {}", why(gap)));
    }
    for group in cpu
        .features
        .iter()
        .filter(|group| group.group.value().is_some_and(|name| &**name != "other"))
    {
        let flags = cell(&group.flags).replace(", ", " ");
        page.beside().quiet(format!("{} ", cell(&group.group))).plain(flags);
    }
}

/// How many there are of each standing.
fn vulnerabilities(cpu: &Cpu, page: &mut Page) {
    page.gap();
    if let Some(gap) = cpu.vulnerabilities.gap() {
        page.beside().quiet(format!("vulnerabilities: {}", why(gap)));
    }
    if cpu.vulnerabilities.is_empty() {
        return;
    }
    let (mut apart, mut mitigated, mut open, mut unknown) = (0, 0, 0, 0);
    for one in cpu.vulnerabilities.iter() {
        match one.standing() {
            Some(Standing::NotAffected) => apart += 1,
            Some(Standing::Mitigated) => mitigated += 1,
            Some(Standing::Open) => open += 1,
            None => unknown += 1,
        }
    }
    page.beside().quiet(format!(
        "of {} vulnerabilities: {apart} without effect here, {mitigated} mitigated, {open} open, \
         {unknown} not known",
        cpu.vulnerabilities.len(),
    ));
}

fn sockets(cpu: &Cpu, page: &mut Page) {
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
                    .max_speed_mhz
                    .value()
                    .map_or(UNKNOWN.into(), |mhz| format!("{} MHz", mhz.to_text())),
            ]
        })
        .collect();
    page.table(
        &[
            "socket",
            "status",
            "processor",
            "=serial",
            "part number",
            ">cores",
            ">threads",
            ">max speed",
        ],
        rows,
    );
}
