//! Kernel modules, and which driver has which device.

use crate::page::{Page, UNKNOWN};
use tectum_report::leaf::Bytes;
use tectum_report::model::{Drivers, KernelModule};

use super::{View, cell, known, size_cell, why};
use crate::views::quantity::{count, size};

pub(super) fn print(drivers: &Drivers, view: &View<'_>, page: &mut Page) {
    let said = page.entry("drivers");
    if let Some(gap) = drivers.modules.gap() {
        said.plain(format!("modules: {}", why(gap)));
        return;
    }
    let total = drivers
        .modules
        .iter()
        .filter_map(|module| module.size_bytes.value())
        .fold(0u64, |sum, bytes| sum.saturating_add(bytes.0));
    said.strong(count(drivers.modules.len(), "module", "modules"))
        .plain(format!(" loaded, {}", size(Bytes(total), view.units)))
        .quiet(match drivers.in_use.gap() {
            Some(_) => String::new(),
            None => format!(", {} in use", count(drivers.in_use.len(), "driver", "drivers")),
        });
    let tainting: Vec<String> = drivers
        .modules
        .iter()
        .filter_map(|module| {
            let letters = known(&module.taint).filter(|letters| !letters.is_empty())?;
            Some(format!("{} ({letters})", cell(&module.name)))
        })
        .collect();
    if !tainting.is_empty() {
        page.beside().quiet("taint the kernel: ").plain(tainting.join(", "));
    }
    if !view.drawn {
        return;
    }
    page.gap();
    let rows: Vec<Vec<String>> = drivers.modules.iter().map(|module| row(module, view)).collect();
    page.table(&["module", "version", "used by", ">users", "parameters", ">size"], rows);
    if !drivers.in_use.is_empty() {
        page.gap();
        let rows: Vec<Vec<String>> = drivers
            .in_use
            .iter()
            .map(|driver| {
                let module = known(&driver.module)
                    // A driver that is built in may have a module's folder all the same.
                    .filter(|name| drivers.modules.iter().any(|it| cell(&it.name) == *name))
                    .unwrap_or_else(|| "built in".to_owned());
                vec![cell(&driver.bus), cell(&driver.name), module, cell(&driver.devices)]
            })
            .collect();
        page.table(&["bus", "driver", "module", "devices"], rows);
    }
}

fn row(module: &KernelModule, view: &View<'_>) -> Vec<String> {
    let users = view.readings.modules.of(&[module]);
    let list = |text: String| if text.is_empty() { UNKNOWN.to_owned() } else { text };
    vec![
        cell(&module.name),
        cell(&module.version),
        list(cell(&module.used_by)),
        users.map_or_else(|| UNKNOWN.to_owned(), |users| cell(&users.users)),
        list(cell(&module.parameters)),
        size_cell(&module.size_bytes, |bytes| size(bytes, view.units)),
    ]
}
