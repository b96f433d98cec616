//! What measures temperatures, fans, voltages, currents and power
//! (`Documentation/hwmon/sysfs-interface.rst`, `Documentation/driver-api/thermal/sysfs-api.rst`,
//! `Documentation/power/powercap/powercap.rst`). A sensor that answers slowly costs its own deadline
//! and no other's.

use super::{Found, Section};
use crate::readers::sayings;
use crate::readers::{
    devices::{DevicePath, is_numbered, is_usb_device, sleeps},
    file::{File, hidden, list, listing_evidence, numbered},
};
use crate::{formats::number, source::Lease};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Saying, Why, saying},
    leaf::{DeviceName, Microjoules, Microwatts, Millicelsius, SensorValue, Term},
    model::{
        ChannelReading, PowerZone, PowerZoneReading, SensorChannel, SensorChip, SensorKind,
        SensorReadings, Sensors, ThermalZone, ZoneReading,
    },
};

pub(super) const SECTION: Section = Section {
    name: "sensors",
    summary: "temperatures, fans, voltages, currents and power, with labels, limits and alarms",
    reads: &[
        "/sys/class",
        "/sys/class/hwmon",
        "/sys/class/hwmon/**",
        "/sys/class/powercap",
        "/sys/class/powercap/**",
        "/sys/class/thermal",
        "/sys/class/thermal/thermal_zone*",
        "/sys/class/thermal/thermal_zone*/*",
    ],
    survey,
};

const MONITORS: &str = "/sys/class/hwmon";
const THERMAL: &str = "/sys/class/thermal";
const CAPPED: &str = "/sys/class/powercap";

fn survey(lease: &Lease) -> Found {
    let (chips, channels) = chips(lease);
    let (zones, warmth) = zones(lease);
    let (power_zones, energy) = power_zones(lease);
    let sensors = Sensors { chips, zones, power_zones };
    let readings = SensorReadings { channels, zones: warmth, power_zones: energy };
    Box::new(|observed| {
        observed.inventory.sensors = Some(sensors);
        observed.readings.sensors = Some(readings);
    })
}

/// The names of a class; a class that the kernel does not have is one without devices.
fn class(lease: &Lease, path: &str) -> Result<Vec<String>, Gap> {
    match list(lease, path) {
        Ok(names) => Ok(names.iter().filter_map(|name| name.to_str()).map(str::to_owned).collect()),
        Err(gap) if gap.why == Why::NotProvided && list(lease, "/sys/class").is_ok() => {
            Ok(Vec::new())
        }
        Err(gap) => Err(gap),
    }
}

/// What a channel's name says that it measures: `temp1`, `in0`, `fan2`.
fn kind(stem: &str) -> Option<SensorKind> {
    Some(match stem {
        "temp" => SensorKind::Temperature,
        "fan" => SensorKind::Fan,
        "in" => SensorKind::Voltage,
        "curr" => SensorKind::Current,
        "power" => SensorKind::Power,
        "energy" => SensorKind::Energy,
        "humidity" => SensorKind::Humidity,
        _ => return None,
    })
}

/// The channels of a chip: the names before `_input` or `_average`, with what each measures, in the
/// order of kinds and numbers.
fn channels(names: &[String]) -> Vec<(SensorKind, u64, String)> {
    let mut found: Vec<(SensorKind, u64, String)> = names
        .iter()
        .filter_map(|name| {
            let channel = name.strip_suffix("_input").or_else(|| name.strip_suffix("_average"))?;
            let stem = channel.trim_end_matches(|c: char| c.is_ascii_digit());
            let number = channel.get(stem.len()..)?.parse().ok()?;
            Some((kind(stem)?, number, channel.to_owned()))
        })
        .collect();
    found.sort();
    found.dedup();
    found
}

fn chips(lease: &Lease) -> (Parts<SensorChip>, Parts<ChannelReading>) {
    let names = match class(lease, MONITORS) {
        Ok(names) => names,
        Err(gap) => return (Parts::missing(gap.clone()), Parts::missing(gap)),
    };
    let mut order: Vec<u64> =
        names.iter().filter_map(|name| name.strip_prefix("hwmon")?.parse().ok()).collect();
    order.sort_unstable();
    let mut chips = Vec::new();
    let mut readings = Vec::new();
    let mut unseen = None;
    for number in order {
        let folder = format!("{MONITORS}/hwmon{number}");
        let listed = list(lease, &folder);
        unseen = unseen.or(hidden(&listed).cloned());
        let Ok(listed) = listed else { continue };
        let listed: Vec<String> =
            listed.iter().filter_map(|name| name.to_str()).map(str::to_owned).collect();
        let chip_name: Fact<Term> = File::read(lease, format!("{folder}/name")).text_fact();
        let device = device(lease, &folder);
        let kernel_name = || {
            let name = format!("hwmon{number}");
            let evidence = listing_evidence(
                MONITORS,
                saying!("monitor-name-folder", "the monitor's name in the folder"),
            )
            .raw(&name);
            Fact::known(DeviceName(name), evidence)
        };
        let sleeping = sleeps(lease, &format!("{folder}/device"));
        let mut parts = Vec::new();
        for (kind, _, channel) in channels(&listed) {
            let file = |what: &str| File::read(lease, format!("{folder}/{channel}_{what}"));
            let name = || {
                let evidence = listing_evidence(
                    &folder,
                    saying!("before-input-file-name", "before _input in the file's name"),
                );
                Fact::known(Term::from(channel.as_str()), evidence.raw(&channel))
            };
            let of_kind = || {
                let evidence = listing_evidence(
                    &folder,
                    saying!("letters-channel-name", "the letters of the channel's name"),
                );
                Fact::known(kind, evidence.raw(&channel))
            };
            let limit = |what: &str| {
                let parse = match kind {
                    SensorKind::Temperature => number::millicelsius,
                    _ => number::signed,
                };
                file(what).fact(saying!("unit-kind", "in the unit of its kind"), parse)
            };
            parts.push(SensorChannel {
                channel: name(),
                kind: of_kind(),
                label: file("label").text_fact(),
                min: limit("min").map(SensorValue),
                max: limit("max").map(SensorValue),
                critical: limit("crit").map(SensorValue),
            });
            readings.push(ChannelReading {
                kernel_name: kernel_name(),
                kind: of_kind(),
                device: device.clone(),
                chip: chip_name.clone(),
                channel: name(),
                value: match &sleeping {
                    Some(gap) => Fact::gap(gap.clone()),
                    None => limit("input").or_known(|| limit("average")).map(SensorValue),
                },
                alarm: match &sleeping {
                    Some(gap) => Fact::gap(gap.clone()),
                    None => file("alarm").fact(sayings::ONE_IS_YES, number::flag),
                },
            });
        }
        chips.push(SensorChip {
            kernel_name: kernel_name(),
            name: chip_name,
            device,
            channels: Parts::known(
                parts,
                listing_evidence(
                    &folder,
                    saying!("names-end-input-average", "names that end in _input or _average"),
                ),
            ),
        });
    }
    let evidence = |rule: Saying| listing_evidence(MONITORS, rule);
    (
        Parts::known(chips, evidence(saying!("every-monitor", "every monitor")))
            .in_part(unseen.clone()),
        Parts::known(
            readings,
            evidence(saying!("every-channel-every-monitor", "every channel of every monitor")),
        )
        .in_part(unseen),
    )
}

/// The device that a monitor belongs to: what stands above it.
fn device(lease: &Lease, folder: &str) -> Fact<Term> {
    let path = match DevicePath::follow(lease, folder) {
        Ok(path) => path,
        Err(gap) => return Fact::gap(gap),
    };
    let value = match path.last(is_usb_device) {
        Some(usb) => Some(format!("usb {usb}")),
        None => match path.pci_address() {
            // A drive behind a controller is more than its controller.
            Some(address) => {
                match path.last(|part| part.split(':').count() == 4 && !part.contains('.')) {
                    Some(scsi) => Some(format!("pci {address} scsi {scsi}")),
                    None => Some(format!("pci {address}")),
                }
            }
            None => {
                let own = |part: &&String| *part != "hwmon" && !is_numbered(part, "hwmon");
                path.parts.iter().rev().find(own).map(|part| match part.as_str() {
                    "virtual" => "no device".to_owned(),
                    // A chip on an I2C bus is more than its bus.
                    part => match (path.place(), part.split_once('-')) {
                        (Some(bus), Some((_, chip))) if chip.len() == 4 => {
                            format!("{bus} i2c {chip}")
                        }
                        (Some(place), _) => place,
                        (None, _) => format!("platform {part}"),
                    },
                })
            }
        },
    };
    path.fact(folder, saying!("device-way-monitor", "the device on the way to the monitor"), value)
}

fn zones(lease: &Lease) -> (Parts<ThermalZone>, Parts<ZoneReading>) {
    let names = match list(lease, THERMAL) {
        Ok(names) => names,
        Err(gap) => match class(lease, THERMAL) {
            Ok(_) => std::sync::Arc::default(),
            Err(_) => return (Parts::missing(gap.clone()), Parts::missing(gap)),
        },
    };
    let mut zones = Vec::new();
    let mut readings = Vec::new();
    for number in numbered(&names, "thermal_zone") {
        let folder = format!("{THERMAL}/thermal_zone{number}");
        let file = |name: &str| File::read(lease, format!("{folder}/{name}"));
        let name = Fact::known(
            Term(format!("thermal_zone{number}")),
            listing_evidence(THERMAL, sayings::ZONE_NAME_FOLDER)
                .raw(&format!("thermal_zone{number}")),
        );
        let kind: Fact<Term> = file("type").text_fact();
        zones.push(ThermalZone {
            name: name.clone(),
            kind: kind.clone(),
            policy: file("policy").text_fact(),
            critical_millicelsius: critical(lease, &folder).map(Millicelsius),
        });
        readings.push(ZoneReading {
            name,
            kind,
            temperature_millicelsius: file("temp")
                .fact(sayings::THOUSANDTHS_DEGREE_CELSIUS, number::millicelsius)
                .map(Millicelsius),
        });
    }
    let evidence = || {
        listing_evidence(
            THERMAL,
            saying!(
                "every-name-thermal-zone-number",
                "every name that is thermal_zone and a number",
            ),
        )
    };
    (Parts::known(zones, evidence()), Parts::known(readings, evidence()))
}

/// The temperature of the trip point that is critical.
fn critical(lease: &Lease, folder: &str) -> Fact<i64> {
    let names = match list(lease, folder) {
        Ok(names) => names,
        Err(gap) => return Fact::gap(gap),
    };
    for name in names.iter().filter_map(|name| name.to_str()) {
        let Some(trip) = name.strip_suffix("_type").filter(|it| it.starts_with("trip_point_"))
        else {
            continue;
        };
        if File::read(lease, format!("{folder}/{name}")).text().trim() == "critical" {
            return File::read(lease, format!("{folder}/{trip}_temp")).fact(
                saying!(
                    "thousandths-degree-trip-point-critical",
                    "thousandths of a degree, of the trip point that is critical",
                ),
                number::millicelsius,
            );
        }
    }
    Fact::gap(
        Gap::new(Why::NotProvided)
            .tried(folder.into(), saying!("no-critical-trip-point", "has no critical trip point")),
    )
}

fn power_zones(lease: &Lease) -> (Parts<PowerZone>, Parts<PowerZoneReading>) {
    let names = match class(lease, CAPPED) {
        Ok(names) => names,
        Err(gap) => return (Parts::missing(gap.clone()), Parts::missing(gap)),
    };
    let mut zones = Vec::new();
    let mut readings = Vec::new();
    // A zone has a colon in its name; the kind of control above it has none.
    for name in names.iter().filter(|name| name.contains(':')) {
        let file = |attribute: &str| File::read(lease, format!("{CAPPED}/{name}/{attribute}"));
        let own = Fact::known(
            Term::from(name.as_str()),
            listing_evidence(CAPPED, sayings::ZONE_NAME_FOLDER).raw(name),
        );
        zones.push(PowerZone {
            name: own.clone(),
            label: file("name").text_fact(),
            enabled: file("enabled").fact(sayings::ONE_IS_YES, number::flag),
            limit_microwatts: file("constraint_0_power_limit_uw")
                .fact(sayings::MICROWATTS, number::decimal)
                .map(Microwatts),
        });
        readings.push(PowerZoneReading {
            name: own,
            energy_microjoules: file("energy_uj")
                .fact(saying!("microjoules", "microjoules"), number::decimal)
                .map(Microjoules),
        });
    }
    let evidence =
        || listing_evidence(CAPPED, saying!("every-name-colon", "every name with a colon in it"));
    (Parts::known(zones, evidence()), Parts::known(readings, evidence()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn channels_are_told_by_their_files() {
        let names = [
            "temp2_input",
            "temp1_input",
            "temp1_max",
            "power1_average",
            "in0_input",
            "pwm1",
            "name",
            "fan10_input",
            "fan2_input",
        ];
        let names: Vec<String> = names.into_iter().map(str::to_owned).collect();
        let found: Vec<String> = channels(&names).into_iter().map(|(_, _, name)| name).collect();
        assert_eq!(found, ["temp1", "temp2", "fan2", "fan10", "in0", "power1"]);
    }
}
