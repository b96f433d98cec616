//! Devices of other kinds, by the kernel's classes: sound, input, serial ports, watchdogs, clocks and
//! the like (`Documentation/ABI`: sysfs-class-*).

use super::{Found, Section};
use crate::readers::sayings;
use crate::readers::{
    devices::{DevicePath, is_numbered, is_usb_device},
    file::{File, hidden, link_name, list, listing_evidence},
};
use crate::{formats::number, source::Lease};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Why, saying},
    leaf::{DeviceName, Term},
    model::{Peripheral, PeripheralKind, Peripherals},
};

pub(super) const SECTION: Section = Section {
    name: "peripherals",
    summary: "sound, input, serial ports, watchdogs, clocks, controllers, tape and other devices",
    reads: &[
        "/proc/asound/card*/id",
        "/sys/class",
        "/sys/class/bluetooth",
        "/sys/class/bluetooth/**",
        "/sys/class/fc_host",
        "/sys/class/fc_host/**",
        "/sys/class/infiniband",
        "/sys/class/infiniband/**",
        "/sys/class/input",
        "/sys/class/input/**",
        "/sys/class/ipmi",
        "/sys/class/ipmi/**",
        "/sys/class/mmc_host",
        "/sys/class/mmc_host/**",
        "/sys/class/printer",
        "/sys/class/ptp",
        "/sys/class/ptp/**",
        "/sys/class/rtc",
        "/sys/class/rtc/**",
        "/sys/class/scsi_changer",
        "/sys/class/scsi_changer/**",
        "/sys/class/scsi_host",
        "/sys/class/scsi_host/**",
        "/sys/class/scsi_tape",
        "/sys/class/scsi_tape/**",
        "/sys/class/sound",
        "/sys/class/sound/**",
        "/sys/class/tpm",
        "/sys/class/tpm/**",
        "/sys/class/tty",
        "/sys/class/tty/**",
        "/sys/class/usbmisc",
        "/sys/class/usbmisc/**",
        "/sys/class/video4linux",
        "/sys/class/video4linux/**",
        "/sys/class/watchdog",
        "/sys/class/watchdog/**",
    ],
    survey,
};

const CLASSES: &str = "/sys/class";

/// A class: its folder, what its names begin with, and the file that says what a device calls itself.
struct Class {
    kind: PeripheralKind,
    folder: &'static str,
    prefix: &'static str,
    description: &'static str,
}

const fn class(
    kind: PeripheralKind,
    folder: &'static str,
    prefix: &'static str,
    description: &'static str,
) -> Class {
    Class { kind, folder, prefix, description }
}

const ALL: [Class; 17] = [
    class(PeripheralKind::Sound, "sound", "card", "id"),
    class(PeripheralKind::Video, "video4linux", "video", "name"),
    class(PeripheralKind::Input, "input", "input", "name"),
    class(PeripheralKind::Printer, "usbmisc", "lp", "device/interface"),
    class(PeripheralKind::SerialPort, "tty", "tty", ""),
    class(PeripheralKind::Watchdog, "watchdog", "watchdog", "identity"),
    class(PeripheralKind::Clock, "rtc", "rtc", "name"),
    class(PeripheralKind::PrecisionClock, "ptp", "ptp", "clock_name"),
    class(PeripheralKind::ManagementController, "ipmi", "ipmi", ""),
    class(PeripheralKind::Tpm, "tpm", "tpm", "tpm_version_major"),
    class(PeripheralKind::CardReader, "mmc_host", "mmc", ""),
    class(PeripheralKind::Bluetooth, "bluetooth", "hci", ""),
    class(PeripheralKind::Tape, "scsi_tape", "st", "device/model"),
    class(PeripheralKind::MediaChanger, "scsi_changer", "sch", "device/model"),
    class(PeripheralKind::Infiniband, "infiniband", "", "board_id"),
    class(PeripheralKind::FibreChannel, "fc_host", "host", "symbolic_name"),
    class(PeripheralKind::ScsiHost, "scsi_host", "host", "proc_name"),
];

fn survey(lease: &Lease) -> Found {
    let peripherals = Peripherals { devices: devices(lease) };
    Box::new(|observed| observed.inventory.peripherals = Some(peripherals))
}

fn devices(lease: &Lease) -> Parts<Peripheral> {
    if let Err(gap) = list(lease, CLASSES) {
        return Parts::missing(gap);
    }
    let mut unseen = None;
    let parts = ALL.iter().flat_map(|class| of_class(lease, class, &mut unseen)).collect();
    Parts::known(
        parts,
        listing_evidence(
            CLASSES,
            saying!("devices-classes-such-kinds", "the devices of the classes of such kinds"),
        ),
    )
    .in_part(unseen)
}

/// Whether a name is one of the class's devices: `ttyS0`, but not `tty0`, which is a screen.
fn belongs(class: &Class, name: &str) -> bool {
    match class.kind {
        PeripheralKind::SerialPort => {
            let stem = name.trim_end_matches(|c: char| c.is_ascii_digit());
            stem.len() > "tty".len() && stem.len() < name.len() && name.starts_with(class.prefix)
        }
        PeripheralKind::Infiniband => true,
        _ => is_numbered(name, class.prefix),
    }
}

/// The devices of a class; why some of them may not have been seen.
fn of_class(lease: &Lease, class: &Class, unseen: &mut Option<Gap>) -> Vec<Peripheral> {
    let folder = format!("{CLASSES}/{}", class.folder);
    let names = list(lease, &folder);
    *unseen = unseen.take().or(hidden(&names).cloned());
    let Ok(names) = names else { return Vec::new() };
    let mut names: Vec<&str> =
        names.iter().filter_map(|name| name.to_str()).filter(|name| belongs(class, name)).collect();
    // As people count: ttyS2 before ttyS10.
    names.sort_by_key(|name| {
        let stem = name.trim_end_matches(|c: char| c.is_ascii_digit());
        (stem, name.get(stem.len()..).and_then(|digits| digits.parse::<u64>().ok()))
    });
    let devices = names.into_iter().filter_map(|name| {
        let found = peripheral(lease, class, &folder, name);
        *unseen = unseen.take().or(hidden(&found).cloned());
        found.ok().flatten()
    });
    devices.collect()
}

/// A device, if it is one: what has gone since it was listed is none.
fn peripheral(
    lease: &Lease,
    class: &Class,
    folder: &str,
    name: &str,
) -> Result<Option<Peripheral>, Gap> {
    let own = format!("{folder}/{name}");
    let path = DevicePath::follow(lease, &own)?;
    // The kernel lists ports that the machine does not have: their hardware's type is 0.
    if class.kind == PeripheralKind::SerialPort {
        let file = File::read(lease, format!("{own}/type"));
        if let Some(gap) = file.hidden() {
            return Err(gap.clone());
        }
        DevicePath::follow(lease, &format!("{own}/device"))?;
        if number::decimal(&file.text()) == Some(0) {
            return Ok(None);
        }
    }
    Ok(Some(Peripheral {
        kind: Fact::known(
            class.kind,
            listing_evidence(folder, saying!("class-belongs", "the class it belongs to")).raw(name),
        ),
        name: Fact::known(
            DeviceName::from(name),
            listing_evidence(folder, sayings::DEVICE_NAME_FOLDER).raw(name),
        ),
        description: match (class.description, class.kind) {
            ("", _) => Fact::not_applicable(saying!(
                "devices-kind-no-name-their",
                "devices of this kind have no name of their own",
            )),
            // A Fibre Channel host's name holds, with most drivers, the computer's.
            (_, PeripheralKind::Input | PeripheralKind::FibreChannel) => {
                Fact::not_applicable(sayings::USER_MAY_HAVE_NAMED)
            }
            // Many a network port's is called by the port's MAC address (`drivers/net/ethernet/intel/igb/igb_ptp.c`), or
            // by the interface's name.
            (_, PeripheralKind::PrecisionClock) => Fact::not_applicable(saying!(
                "driver-may-have-named-by-port",
                "its driver may have named it by its port"
            )),
            (file, kind) => {
                File::read(lease, format!("{own}/{file}")).text_fact().and_then(|text: Term| {
                    match kind {
                        PeripheralKind::Tpm => Ok(Term(format!("TPM {text}"))),
                        _ => Ok(text),
                    }
                })
            }
        },
        given_name: match class.kind {
            PeripheralKind::Input
            | PeripheralKind::FibreChannel
            | PeripheralKind::PrecisionClock => {
                File::read(lease, format!("{own}/{}", class.description)).text_fact()
            }
            _ => Fact::not_applicable(saying!(
                "only-some-kinds-named-by-users",
                "only input devices, Fibre Channel hosts and precision clocks may be named by their users or ports",
            )),
        },
        driver: driver(lease, &own),
        attached_to: path.fact(
            &own,
            saying!("last-bus-device-way", "the last bus device on the way"),
            attached_to(&path),
        ),
    }))
}

/// The driver of the device, or of the one above it: an input device is not driven by itself.
fn driver(lease: &Lease, own: &str) -> Fact<Term> {
    let rule = sayings::DRIVER_LINK_LEADS;
    let of = |up: &str| link_name(lease, &format!("{own}/{up}/driver"), rule.clone());
    of("device").or_known(|| of("device/device")).or_known(|| {
        // A SCSI host's folder links to a device without a driver; its adapter stands above.
        match DevicePath::follow(lease, own) {
            Ok(path) => match path.pci_address() {
                Some(address) => link_name(
                    lease,
                    &format!("/sys/bus/pci/devices/{address}/driver"),
                    rule.clone(),
                ),
                None => Fact::gap(Gap::new(Why::NotProvided)),
            },
            Err(gap) => Fact::gap(gap),
        }
    })
}

fn attached_to(path: &DevicePath) -> Option<String> {
    if let Some(usb) = path.last(is_usb_device) {
        return Some(format!("usb {usb}"));
    }
    path.place().or_else(|| {
        let first = path.parts.get(3).filter(|part| *part != "virtual")?;
        Some(format!("platform {first}"))
    })
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    #[case("ttyS0", true)]
    #[case("ttyUSB12", true)]
    #[case("ttyAMA0", true)]
    #[case("tty1", false)]
    #[case("ttyprintk", false)]
    #[case("console", false)]
    fn serial_ports_are_told_from_screens(#[case] name: &str, #[case] is: bool) {
        let ports = ALL.iter().find(|class| class.kind == PeripheralKind::SerialPort).unwrap();
        assert_eq!(belongs(ports, name), is);
    }
}
