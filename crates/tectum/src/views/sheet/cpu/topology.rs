//! Sockets, cores, threads and shared caches as nested boxes; folded where they do not fit.

use crate::page::{Cache, Package, Packages, Page, Piece, Tone};
use std::collections::BTreeSet;
use tectum_report::leaf::Bytes;

use tectum_report::model::{Cpu, CpuCache, CpuPackage};
use tectum_survey::formats::number_list;

use super::super::{View, cell, joined, known, size_cell};
use crate::views::quantity::{count, size};

/// A core: its CPUs, and how they are written.
struct Core {
    cpus: BTreeSet<u64>,
    text: String,
}

pub(super) fn draw(cpu: &Cpu, view: &View<'_>, page: &mut Page) {
    let packages: Vec<(&CpuPackage, Vec<Core>)> =
        cpu.per_package.iter().map(|package| (package, cores(package))).collect();
    let drawn = packages.iter().map(|(package, cores)| drawn(cpu, package, cores, view));
    page.packages(Packages { packages: drawn.collect(), told: folded(cpu, &packages) });
    totals(cpu, view, page);
}

fn cores(package: &CpuPackage) -> Vec<Core> {
    let lists = package.core_cpus.value().map_or(&[][..], Vec::as_slice);
    lists
        .iter()
        .filter_map(|list| {
            let cpus = number_list::parse(list)?;
            let text = cpus.iter().map(u64::to_string).collect::<Vec<_>>().join(" ");
            Some(Core { cpus: cpus.into_iter().collect(), text })
        })
        .collect()
}

/// A package: its cores, and the caches that they share.
fn drawn(cpu: &Cpu, package: &CpuPackage, cores: &[Core], view: &View<'_>) -> Package {
    let nodes = known(&package.numa_nodes).map(|nodes| format!(", NUMA node {nodes}"));
    // The kernel's number is a socket's where it counts them; else it is the number that the firmware
    // or the device tree gave the package.
    let sockets = cpu.packages.value().copied().unwrap_or(0);
    let counts = package.number.value().is_some_and(|number| *number < sockets);
    let noun = if counts { "socket" } else { "package" };
    Package {
        title: format!("{noun} {}{}", cell(&package.number), nodes.unwrap_or_default()),
        cores: cores.iter().map(|core| core.text.clone()).collect(),
        caches: cpu.caches.iter().filter_map(|cache| shared(cache, cores, view)).collect(),
    }
}

/// One kind of cache, each with the cores that share it. Nothing where this package has none of it, or where those
/// that share one do not stand together.
fn shared(cache: &CpuCache, cores: &[Core], view: &View<'_>) -> Option<Vec<Cache>> {
    // The first level is each core's own, and stands in the list of totals.
    let level = *cache.level.value().filter(|level| **level > 1)?;
    let bytes = cache.size_bytes.value().map(|bytes| size(*bytes, view.units));
    let mut row = Vec::new();
    let mut next = 0;
    for list in cache.shared_by.value()? {
        let cpus: BTreeSet<u64> = number_list::parse(list)?.into_iter().collect();
        let at = cores.iter().position(|core| !core.cpus.is_disjoint(&cpus));
        // Another package's.
        let Some(at) = at else { continue };
        // One of several within a core, or out of order: a row cannot show that.
        let part = cores.get(at).is_some_and(|core| !core.cpus.is_subset(&cpus));
        if part || at < next {
            return None;
        }
        let many = cores.iter().skip(at).take_while(|core| !core.cpus.is_disjoint(&cpus)).count();
        let all = cores.iter().filter(|core| !core.cpus.is_disjoint(&cpus)).count();
        if all != many {
            return None;
        }
        let (name, size) = (format!("L{level}"), bytes.clone());
        row.push(Cache { name, size, first: at, cores: many });
        next = at + many;
    }
    (!row.is_empty()).then_some(row)
}

/// Equal packages told once: `2 × 16 cores × 2 threads`.
fn folded(cpu: &Cpu, packages: &[(&CpuPackage, Vec<Core>)]) -> Vec<Vec<Piece>> {
    let mut lines = Vec::new();
    let shape = |(package, cores): &(&CpuPackage, Vec<Core>)| {
        let each: BTreeSet<usize> = cores.iter().map(|core| core.cpus.len()).collect();
        let threads = each.iter().map(usize::to_string).collect::<Vec<_>>().join(" or ");
        (cores.len(), threads, package.dies.value().copied())
    };
    for group in packages.chunk_by(|a, b| shape(a) == shape(b)) {
        let Some(first) = group.first() else { continue };
        let (cores, threads, dies) = shape(first);
        let dies = dies.filter(|dies| *dies > 1).map(|dies| format!(" on {dies} dies"));
        let numbers: Vec<String> = group.iter().map(|(package, _)| cell(&package.number)).collect();
        lines.push(vec![
            Piece::Text(
                Tone::Strong,
                format!(
                    "{} × {} × {}",
                    count(group.len(), "socket", "sockets"),
                    count(cores, "core", "cores"),
                    if threads == "1" {
                        "1 thread".to_owned()
                    } else {
                        format!("{threads} threads")
                    },
                ),
            ),
            Piece::Text(
                Tone::Quiet,
                format!("{}, numbered {}", dies.unwrap_or_default(), numbers.join(", ")),
            ),
        ]);
    }
    if let Some(gap) = cpu.per_package.gap() {
        let told = format!("sockets and cores: {}", super::why(gap));
        lines.push(vec![Piece::Text(Tone::Quiet, told)]);
    }
    lines
}

/// Caches by level and kind.
fn totals(cpu: &Cpu, view: &View<'_>, page: &mut Page) {
    if let Some(gap) = cpu.caches.gap() {
        page.beside().quiet(format!("caches: {}", super::why(gap)));
        return;
    }
    for cache in cpu.caches.iter() {
        let bytes = |bytes: Bytes| size(bytes, view.units);
        let line = joined(
            [
                known(&cache.ways).map(|ways| format!("{ways} ways")),
                cache.line_bytes.value().map(|line| format!("lines of {}", bytes(Bytes(line.0)))),
            ],
            ", ",
        );
        let name = format!("L{} {}", cell(&cache.level), cell(&cache.kind).to_lowercase());
        if !cache.size_bytes.is_known() {
            let many = known(&cache.instances).map(|many| format!(", {many} of them"));
            page.beside().quiet(format!("{name}: size not known{}", many.unwrap_or_default()));
            continue;
        }
        page.beside().quiet(format!("{name} ")).plain(size_cell(&cache.total_bytes, bytes)).quiet(
            format!(
                ": {} × {}{}{line}",
                cell(&cache.instances),
                size_cell(&cache.size_bytes, bytes),
                if line.is_empty() { "" } else { ", " },
            ),
        );
    }
}
