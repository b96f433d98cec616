//! Devices of other kinds: how many of each, then each.

use crate::page::{Page, UNKNOWN};
use tectum_report::model::{Peripheral, PeripheralKind, Peripherals};

use super::{View, cell, known, why};
use crate::views::quantity::count;

pub(super) fn print(peripherals: &Peripherals, view: &View<'_>, page: &mut Page) {
    let said = page.entry("others");
    if let Some(gap) = peripherals.devices.gap() {
        said.plain(why(gap));
        return;
    }
    let mut kinds: Vec<(PeripheralKind, usize)> = Vec::new();
    for kind in peripherals.devices.iter().filter_map(|device| device.kind.value()) {
        match kinds.iter_mut().find(|(known, _)| known == kind) {
            Some((_, number)) => *number += 1,
            None => kinds.push((*kind, 1)),
        }
    }
    let told: Vec<String> = kinds.iter().map(|(kind, number)| counted(*kind, *number)).collect();
    said.plain(if told.is_empty() { "none".to_owned() } else { told.join(", ") });
    if view.drawn && !peripherals.devices.is_empty() {
        page.gap();
        let rows: Vec<Vec<String>> = peripherals.devices.iter().map(row).collect();
        page.table(&["type", "name", "description", "driver", "attached to"], rows);
    }
}

fn counted(kind: PeripheralKind, number: usize) -> String {
    let word = kind.code().replace('-', " ");
    let (one, many) = match kind {
        PeripheralKind::Sound => ("sound device".to_owned(), "sound devices".to_owned()),
        PeripheralKind::Input => ("input device".to_owned(), "input devices".to_owned()),
        PeripheralKind::Tpm => ("TPM".to_owned(), "TPMs".to_owned()),
        PeripheralKind::Tape => ("tape drive".to_owned(), "tape drives".to_owned()),
        PeripheralKind::Infiniband => {
            ("InfiniBand device".to_owned(), "InfiniBand devices".to_owned())
        }
        PeripheralKind::FibreChannel => {
            ("Fibre Channel host".to_owned(), "Fibre Channel hosts".to_owned())
        }
        PeripheralKind::ScsiHost => ("SCSI host".to_owned(), "SCSI hosts".to_owned()),
        PeripheralKind::Video => ("video device".to_owned(), "video devices".to_owned()),
        PeripheralKind::Bluetooth => {
            ("Bluetooth adapter".to_owned(), "Bluetooth adapters".to_owned())
        }
        _ => (word.clone(), format!("{word}s")),
    };
    count(number, &one, &many)
}

fn row(device: &Peripheral) -> Vec<String> {
    vec![
        known(&device.kind).map_or_else(|| UNKNOWN.to_owned(), |kind| kind.replace('-', " ")),
        cell(&device.name),
        known(&device.description).unwrap_or_else(|| cell(&device.given_name)),
        cell(&device.driver),
        cell(&device.attached_to),
    ]
}
