//! Sources that count processors differently. None is right by itself: a hypervisor's firmware may
//! tell of one core a socket, an old kernel of no dies. All are told.

use super::Info;
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, saying},
    leaf::Term,
    model::{Cpu, CpuDisagreement, SocketState},
};

pub(super) fn disagreements(cpu: &Cpu, info: &Info<'_>) -> Parts<CpuDisagreement> {
    let mut found = Vec::new();
    // What the firmware and `/proc/cpuinfo` count holds for CPUs that are offline too.
    let all_online = cpu.offline.value().is_some_and(Vec::is_empty);
    let packages = cpu.packages.value().copied();
    let mut check = |what: &'static str, topology: &Fact<u64>, source: &str, says: Fact<u64>| {
        let (Some(kernel), Some(other)) = (topology.value(), says.value()) else { return };
        if kernel == other {
            return;
        }
        let named = |text: &str| {
            let evidence: Vec<Evidence> = says.evidence().to_vec();
            Fact::known_from(Term::from(text), evidence)
        };
        found.push(CpuDisagreement {
            what: named(what),
            topology: topology.clone(),
            source: named(source),
            says,
        });
    };
    let populated = |state: Option<&SocketState>| state.is_some_and(|it| *it != SocketState::Empty);
    let sockets: Vec<_> =
        cpu.sockets.iter().filter(|socket| populated(socket.state.value())).collect();
    const FIRMWARE: &str = "firmware";
    const INFO: &str = "/proc/cpuinfo";
    if !sockets.is_empty() {
        let evidence =
            sockets.iter().flat_map(|socket| socket.state.evidence().iter().cloned()).collect();
        let count = Fact::known_from(sockets.len() as u64, evidence)
            .by_rule(
                saying!("counted-sockets-processor", "counted: the sockets with a processor",),
            );
        check("packages", &cpu.packages, FIRMWARE, count);
        if all_online {
            let sum = |pick: fn(&tectum_report::model::CpuSocket) -> &Fact<u64>| {
                let total = sockets.iter().map(|socket| pick(socket).value().copied()).sum();
                let evidence = sockets
                    .iter()
                    .flat_map(|socket| pick(socket).evidence().iter().cloned())
                    .collect();
                match total {
                    Some(total) => Fact::known_from(total, evidence).by_rule(saying!(
                        "sum-over-sockets-processor",
                        "the sum over the sockets with a processor",
                    )),
                    None => Fact::default(),
                }
            };
            check("cores", &cpu.cores, FIRMWARE, sum(|socket| &socket.enabled_cores));
            check("threads", &cpu.threads, FIRMWARE, sum(|socket| &socket.threads));
        }
    }
    if all_online {
        let each = |key: &'static str| {
            info.fact(
                &[key],
                saying!(
                    "number-each-package-times-packages",
                    "this number of each package, times the packages",
                ),
                |text| crate::formats::number::decimal(text)?.checked_mul(packages?),
            )
        };
        check("cores", &cpu.cores, INFO, each("cpu cores"));
        check("threads", &cpu.threads, INFO, each("siblings"));
    }
    let told = info.entries.cpus.len() as u64;
    if told > 0 {
        let rule = saying!("counted-processor-lines", "counted: its `processor` lines");
        let evidence = Evidence::new(info.file.path().clone(), rule).raw(&told.to_string());
        let online = cpu.online.clone().map(|cpus| cpus.len() as u64);
        check("online threads", &online, INFO, Fact::known(told, evidence));
    }
    let rule = saying!(
        "kernel-topology-firmware-proc-cpuinfo-compared",
        "kernel's topology, firmware and /proc/cpuinfo, compared",
    );
    Parts::known(found, Evidence::new(super::ROOT.into(), rule))
}
