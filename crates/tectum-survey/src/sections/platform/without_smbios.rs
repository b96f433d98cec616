//! Who a machine without SMBIOS is: the device tree of Power, Arm, RISC-V and others, and what IBM Z
//! says of itself and of every level that it runs on.

use crate::{
    formats::{colon, number},
    readers::{
        device_tree::DEVICE_TREE,
        file::{File, meaningful},
        sayings,
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Saying, Why, saying},
    leaf::{Label, Serial, Term, Uuid},
    model::{System, VirtualizationLevel},
};

/// `arch/s390/kernel/sysinfo.c`: the answers of the instruction STSI.
const SYSINFO: &str = "/proc/sysinfo";

/// Adds to a system what no SMBIOS table says of it.
pub(super) fn complete(lease: &Lease, system: System) -> System {
    let tree = |name: &str| File::read(lease, format!("{DEVICE_TREE}/{name}"));
    let levels = File::read(lease, SYSINFO);
    let text = levels.text();
    let blocks = colon::blocks(&text);
    let rule = || saying!("behind-the-colon", "behind the colon");
    // On Linux for Power the property's value is a text; on IBM Z the line's.
    fn said<T: From<String>>(
        levels: &File,
        blocks: &[colon::Block<'_>],
        key: &str,
        rule: Saying,
    ) -> Fact<T> {
        levels.entry_fact(colon::find_first(blocks, key), key, rule, |text| {
            (!text.is_empty()).then(|| T::from(text.to_owned()))
        })
    }
    let of = |key: &str| said::<Term>(&levels, &blocks, key, rule());
    System {
        manufacturer: system.manufacturer.or_known(|| of("Manufacturer")),
        product: system.product.or_known(|| tree("model").text_fact()).or_known(|| of("Type")),
        version: system.version.or_known(|| of("Model")),
        serial: system
            .serial
            .or_known(|| tree("serial-number").text_fact())
            .or_known(|| power_serial(&tree("system-id")))
            .or_known(|| {
                let maker = of("Manufacturer");
                let is_maker = |serial: &str| {
                    maker.value().is_some_and(|it| it.0.eq_ignore_ascii_case(serial))
                };
                said::<Serial>(&levels, &blocks, "Sequence Code", rule()).and_then(|serial| {
                    // An emulator writes its own name into every field.
                    match is_maker(&serial.0) {
                        true => Err(Gap::new(Why::Blank).raw(&serial.0)),
                        false => meaningful(&serial.0).map(Serial),
                    }
                })
            }),
        uuid: system
            .uuid
            .or_known(|| tree("vm,uuid").text_fact::<Uuid>().and_then(own))
            .or_known(|| said::<Uuid>(&levels, &blocks, "VM00 UUID", rule()).and_then(own)),
        partition_name: tree("ibm,partition-name")
            .text_fact::<Label>()
            .or_known(|| said::<Label>(&levels, &blocks, "LPAR Name", rule())),
        partition_number: cell(&tree("ibm,partition-no")).or_known(|| {
            let entry = colon::find_first(&blocks, "LPAR Number");
            levels.entry_fact(entry, "LPAR Number", rule(), number::decimal)
        }),
        plant: of("Plant"),
        ..system
    }
}

/// A UUID in lower case; one of zeros, or another that thousands have, is nobody's own.
fn own(uuid: Uuid) -> Result<Uuid, Gap> {
    let text = uuid.0.to_ascii_lowercase();
    match tectum_smbios::Uuid::from_text(&text).is_some_and(|uuid| uuid.says_nothing()) {
        true => Err(Gap::new(Why::Blank).raw(&uuid.0)),
        false => Ok(Uuid(text)),
    }
}

/// `IBM,02…`: who made it, and its serial number. An emulator writes a UUID there, which is told as
/// such.
fn power_serial(file: &File) -> Fact<Serial> {
    file.fact(saying!("behind-the-comma", "behind the comma"), |text| {
        text.split_once(',').map(|(_, serial)| Serial(serial.to_owned()))
    })
    .and_then(|serial| meaningful(&serial.0).map(Serial))
}

fn cell(file: &File) -> Fact<u64> {
    let rule = saying!("cell-of-the-property", "the property's cell");
    match file.bytes() {
        Err(gap) => Fact::gap(gap.clone()),
        Ok(bytes) => match crate::formats::device_tree::cell(bytes) {
            Some(number) => {
                let evidence = file.evidence(rule).raw(&hex::encode(&**bytes));
                Fact::known(u64::from(number), evidence)
            }
            None => Fact::gap(Gap::new(Why::Invalid).raw(&hex::encode(&**bytes))),
        },
    }
}

/// The levels of virtual machines that an IBM Z system runs on, the nearest first.
pub(super) fn levels(lease: &Lease) -> Parts<VirtualizationLevel> {
    let file = File::read(lease, SYSINFO);
    if let Err(gap) = file.bytes() {
        return Parts::missing(Gap { why: Why::NotApplicable, ..gap.clone() });
    }
    let text = file.text();
    let blocks = colon::blocks(&text);
    let all = (0..16).map_while(|number| {
        let key = |name: &str| format!("VM{number:02} {name}");
        colon::find_first(&blocks, &key("Name"))?;
        let rule = || saying!("behind-the-colon", "behind the colon");
        let entry = |name: &str| colon::find_first(&blocks, &key(name));
        let label = |name: &str| {
            file.entry_fact(entry(name), &key(name), rule(), |text| Some(Label::from(text)))
        };
        Some(VirtualizationLevel {
            number: Fact::known(number, file.evidence(sayings::COUNTED)),
            name: label("Name"),
            extended_name: label("Extended Name"),
            control_program: file.entry_fact(
                entry("Control Program"),
                &key("Control Program"),
                rule(),
                |text| Some(Term::from(text)),
            ),
            uuid: file
                .entry_fact(entry("UUID"), &key("UUID"), rule(), |text| Some(Uuid(text.to_owned())))
                .and_then(own),
            cpus: file.entry_fact(
                entry("CPUs Configured"),
                &key("CPUs Configured"),
                rule(),
                number::decimal,
            ),
        })
    });
    let rule = saying!("every-level-that-is-told", "every level that is told");
    Parts::known(all.collect(), file.evidence(rule))
}
