//! Sockets, cores, threads and shared caches as nested boxes; folded where they do not fit.

use std::collections::BTreeSet;
use tectum_report::leaf::Bytes;

use tectum_report::model::{Cpu, CpuCache, CpuPackage};
use tectum_survey::formats::number_list;
use unicode_width::UnicodeWidthStr;

use super::super::{View, cell, joined, known, size_cell};
use crate::views::{
    page::{Sheet, Tone},
    quantity::{count, size},
};

/// A core: its CPUs, and how they are written.
struct Core {
    cpus: BTreeSet<u64>,
    text: String,
}

/// Packages that a drawing holds; more are folded.
const MOST_PACKAGES: usize = 4;

pub(super) fn draw(cpu: &Cpu, view: &View<'_>, page: &mut Sheet) {
    let packages: Vec<(&CpuPackage, Vec<Core>)> =
        cpu.per_package.iter().map(|package| (package, cores(package))).collect();
    let cell = packages
        .iter()
        .flat_map(|(_, cores)| cores.iter().map(|core| core.text.width()))
        .max()
        .unwrap_or(0)
        .max(5)
        + 2;
    let most = packages.iter().map(|(_, cores)| cores.len()).max().unwrap_or(0);
    let fits = most > 0 && most * (cell + 1) + 3 <= page.room();
    if fits && packages.len() <= MOST_PACKAGES {
        for (package, cores) in &packages {
            boxed(cpu, package, cores, cell, view, page);
        }
    } else {
        folded(cpu, &packages, page);
    }
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

/// A package as a box: its cores in a row, and under them the caches that they share.
fn boxed(
    cpu: &Cpu,
    package: &CpuPackage,
    cores: &[Core],
    cell_width: usize,
    view: &View<'_>,
    page: &mut Sheet,
) {
    let inner = cores.len() * (cell_width + 1) + 1;
    let nodes = known(&package.numa_nodes).map(|nodes| format!(", NUMA node {nodes}"));
    // The kernel's number is a socket's where it counts them; else it is the number that the firmware
    // or the device tree gave the package.
    let sockets = cpu.packages.value().copied().unwrap_or(0);
    let counts = package.number.value().is_some_and(|number| *number < sockets);
    let noun = if counts { "socket" } else { "package" };
    let title = format!(" {noun} {}{} ", cell(&package.number), nodes.unwrap_or_default());
    let inner = inner.max(title.width() + 1);
    let line = "─".repeat(inner - title.width());
    page.drawn([
        (Tone::Quiet, "╭".into()),
        (Tone::Plain, title),
        (Tone::Quiet, format!("{line}╮")),
    ]);
    let edge = || (Tone::Quiet, "│".to_owned());
    let mut row = vec![edge(), (Tone::Plain, " ".into())];
    for core in cores {
        let pad = cell_width - 2 - core.text.width();
        row.push((Tone::Label, "▐".into()));
        row.push((Tone::Strong, format!("{}{}", core.text, " ".repeat(pad))));
        row.push((Tone::Label, "▌ ".into()));
    }
    row.push((Tone::Plain, " ".repeat(inner - cores.len() * (cell_width + 1) - 1)));
    row.push(edge());
    page.drawn(row);
    for cache in cpu.caches.iter() {
        if let Some(text) = span(cache, cores, cell_width, inner, view) {
            page.drawn([edge(), (Tone::Quiet, text), edge()]);
        }
    }
    page.drawn([(Tone::Quiet, format!("╰{}╯", "─".repeat(inner)))]);
}

/// A row of one kind of cache: each under the cores that share it. Nothing where this package has
/// none of it, or where those that share one do not stand together.
fn span(
    cache: &CpuCache,
    cores: &[Core],
    cell_width: usize,
    inner: usize,
    view: &View<'_>,
) -> Option<String> {
    // The first level is each core's own, and stands in the list of totals.
    let level = *cache.level.value().filter(|level| **level > 1)?;
    let bytes = cache.size_bytes.value().map(|bytes| size(*bytes, view.units));
    let mut row = " ".to_owned();
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
        row.push_str(&" ".repeat((at - next) * (cell_width + 1)));
        let width = many * (cell_width + 1) - 1;
        let name = format!("L{level}");
        let long = bytes.as_ref().map_or(name.clone(), |bytes| format!("{name} {bytes}"));
        let text = if long.width() + 2 <= width { long } else { name };
        let rest = width.saturating_sub(text.width() + 2);
        let (left, right) = ("╌".repeat(rest / 2), "╌".repeat(rest - rest / 2));
        row.push_str(&format!("└{left}{text}{right}┘ "));
        next = at + many;
    }
    if next == 0 {
        return None;
    }
    let used = row.width();
    row.push_str(&" ".repeat(inner.saturating_sub(used)));
    Some(row.chars().take(inner).collect())
}

/// Equal packages told once: `2 × 16 cores × 2 threads`.
fn folded(cpu: &Cpu, packages: &[(&CpuPackage, Vec<Core>)], page: &mut Sheet) {
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
        page.beside()
            .strong(format!(
                "{} × {} × {}",
                count(group.len(), "socket", "sockets"),
                count(cores, "core", "cores"),
                if threads == "1" { "1 thread".to_owned() } else { format!("{threads} threads") },
            ))
            .quiet(format!("{}, numbered {}", dies.unwrap_or_default(), numbers.join(", ")));
    }
    if let Some(gap) = cpu.per_package.gap() {
        page.beside().quiet(format!("sockets and cores: {}", super::why(gap)));
    }
}

/// Caches by level and kind.
fn totals(cpu: &Cpu, view: &View<'_>, page: &mut Sheet) {
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
