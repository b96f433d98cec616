//! Mains, batteries and other supplies that the kernel knows
//! (`Documentation/ABI/testing/sysfs-class-power`).

use super::{Found, Section};
use crate::readers::file::{File, list, listing_evidence};
use crate::readers::sayings;
use crate::{formats::number, source::Lease};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Saying, Why, saying},
    leaf::{
        DeviceName, MicroampereHours, Microvolts, MicrowattHours, Microwatts, Percent,
        PercentHundredths, Term,
    },
    model::{Power, PowerReadings, PowerSource, PowerSourceReadings},
};

pub(super) const SECTION: Section = Section {
    name: "power",
    summary: "mains and batteries: what supplies, how full, how worn",
    reads: &["/sys/class", "/sys/class/power_supply", "/sys/class/power_supply/*/*"],
    survey,
};

const ROOT: &str = "/sys/class/power_supply";

fn survey(lease: &Lease) -> Found {
    let (power, readings) = look(lease);
    Box::new(|observed| {
        observed.inventory.power = Some(power);
        observed.readings.power = Some(readings);
    })
}

fn look(lease: &Lease) -> (Power, PowerReadings) {
    let names = match list(lease, ROOT) {
        Ok(names) => names,
        // A kernel that knows of no supplies has no such class.
        Err(gap) => match list(lease, "/sys/class") {
            Ok(_) if gap.why == Why::NotProvided => std::sync::Arc::default(),
            _ => {
                return (
                    Power { supplies: Parts::missing(gap.clone()) },
                    PowerReadings { supplies: Parts::missing(gap) },
                );
            }
        },
    };
    let names: Vec<&str> = names.iter().filter_map(|name| name.to_str()).collect();
    let evidence = || listing_evidence(ROOT, sayings::EVERY_NAME_FOLDER);
    (
        Power {
            supplies: Parts::known(
                names.iter().map(|name| supply(lease, name)).collect(),
                evidence(),
            ),
        },
        PowerReadings {
            supplies: Parts::known(
                names.iter().map(|name| reading(lease, name)).collect(),
                evidence(),
            ),
        },
    )
}

fn own_name(name: &str) -> Fact<Term> {
    let evidence =
        listing_evidence(ROOT, saying!("supply-name-folder", "the supply's name in the folder"))
            .raw(name);
    Fact::known(Term::from(name), evidence)
}

fn supply(lease: &Lease, name: &str) -> PowerSource {
    let file = |attribute: &str| File::read(lease, format!("{ROOT}/{name}/{attribute}"));
    // What hangs on the machine by radio says the name that its user gave it (`drivers/hid/hid-input.c`).
    let may_be_named = name.starts_with("hid-");
    let calls_itself = || file("model_name");
    PowerSource {
        name: own_name(name).map(|text| DeviceName(text.0)),
        kind: file("type").text_fact(),
        scope: file("scope").text_fact(),
        manufacturer: file("manufacturer").text_fact(),
        model: match may_be_named {
            true => Fact::not_applicable(sayings::USER_MAY_HAVE_NAMED),
            false => calls_itself().text_fact(),
        },
        given_name: match may_be_named {
            true => calls_itself().text_fact(),
            false => Fact::not_applicable(saying!(
                "only-input-device-battery-named",
                "only what an input device's battery says may be its user's name for it",
            )),
        },
        serial: file("serial_number").text_fact(),
        technology: file("technology").text_fact(),
        design_energy_microwatt_hours: file("energy_full_design")
            .fact(saying!("microwatt-hours", "microwatt-hours"), number::decimal)
            .map(MicrowattHours),
        design_charge_microampere_hours: file("charge_full_design")
            .fact(saying!("microampere-hours", "microampere-hours"), number::decimal)
            .map(MicroampereHours),
    }
}

fn reading(lease: &Lease, name: &str) -> PowerSourceReadings {
    let file = |attribute: &str| File::read(lease, format!("{ROOT}/{name}/{attribute}"));
    let number = |attribute: &str, rule: Saying| file(attribute).fact(rule, number::decimal);
    // What it holds when full, of what it was made to hold; by energy, or by charge.
    let health = |what: &str| {
        let full = number(&format!("{what}_full"), sayings::NOW_WAS_MADE_HOLD);
        let design = number(&format!("{what}_full_design"), sayings::NOW_WAS_MADE_HOLD);
        let made = design.value().copied();
        full.and_then(|full| {
            made.filter(|made| *made > 0)
                .and_then(|made| full.checked_mul(10_000)?.checked_div(made))
                .ok_or_else(|| Gap::new(Why::NotProvided))
        })
        .with_evidence_of(&design)
    };
    PowerSourceReadings {
        name: own_name(name).map(|text| DeviceName(text.0)),
        online: file("online")
            .fact(saying!("0-no", "0 is no"), |text| Some(number::decimal(text)? > 0)),
        present: file("present").fact(sayings::ONE_IS_YES, number::flag),
        state: file("status").text_fact(),
        capacity_percent: number("capacity", sayings::PERCENT).map(Percent),
        health_percent_hundredths: health("energy")
            .or_known(|| health("charge"))
            .map(PercentHundredths),
        cycles: number("cycle_count", sayings::DECIMAL_NUMBER),
        voltage_microvolts: number("voltage_now", saying!("microvolts", "microvolts"))
            .map(Microvolts),
        power_microwatts: number("power_now", sayings::MICROWATTS).map(Microwatts),
    }
}
