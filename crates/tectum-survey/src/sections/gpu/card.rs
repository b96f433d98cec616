//! What the kernel's graphics drivers tell of a device: connectors, clocks, warmth
//! (`Documentation/gpu/amdgpu/driver-misc.rst`, `thermal.rst`; `Documentation/hwmon`), and what a
//! proprietary driver tells in a folder of its own.

use super::{DRM, display};
use crate::readers::sayings;
use crate::{
    formats::{colon, number},
    readers::{
        devices::{is_numbered, sleeps},
        file::{File, list, listing_evidence, meaningful},
        pcie_link::Link,
    },
    source::Lease,
};
use tectum_report::{
    declare::Parts,
    fact::{Fact, Gap, Saying, Why, saying},
    leaf::{Bytes, Megahertz, Microwatts, Millicelsius, Percent, Rpm, Term},
    model::{Connector, GpuDeviceReadings, GpuErrorCount},
};

/// A device as its graphics driver shows it.
pub(super) struct Card<'a> {
    lease: &'a Lease,
    /// The device's folder.
    device: String,
    /// The driver's name for it: `card0`.
    name: Option<&'a String>,
    /// Why it is not asked how it is doing, if it sleeps.
    sleeps: Option<Gap>,
}

impl<'a> Card<'a> {
    pub(super) fn new(lease: &'a Lease, device: &str, name: Option<&'a String>) -> Self {
        Self { lease, device: device.to_owned(), name, sleeps: sleeps(lease, device) }
    }

    /// The connectors, which the kernel lists beside the cards: `card0-HDMI-A-1`.
    pub(super) fn connectors(&self) -> Parts<Connector> {
        let Some(card) = self.name else {
            let gap = Gap::new(Why::NotProvided).tried(
                self.device.as_str().into(),
                saying!("no-graphics-driver-shows-card", "no graphics driver shows a card for it",),
            );
            return Parts::missing(gap);
        };
        let names = match list(self.lease, DRM) {
            Ok(names) => names,
            Err(gap) => return Parts::missing(gap),
        };
        let parts = names.iter().filter_map(|name| name.to_str()).filter_map(|name| {
            let connector = name.strip_prefix(card.as_str())?.strip_prefix('-')?;
            let folder = format!("{DRM}/{name}");
            let status = File::read(self.lease, format!("{folder}/status"));
            Some(Connector {
                name: Fact::known(
                    Term::from(connector),
                    listing_evidence(DRM, sayings::BEHIND_CARD_NAME).raw(name),
                ),
                status: status.text_fact(),
                display: display::displays(&File::read(self.lease, format!("{folder}/edid"))),
            })
        });
        Parts::known(
            parts.collect(),
            listing_evidence(DRM, saying!("names-begin-card", "names that begin with the card's")),
        )
    }

    /// A value of the device's hardware monitor.
    fn monitored<T>(
        &self,
        attributes: &[&str],
        rule: Saying,
        parse: fn(&str) -> Option<T>,
    ) -> Fact<T> {
        if let Some(gap) = &self.sleeps {
            return Fact::gap(gap.clone());
        }
        let folder = format!("{}/hwmon", self.device);
        let names = match list(self.lease, &folder) {
            Ok(names) => names,
            Err(gap) => return Fact::gap(gap),
        };
        let monitor = names.iter().filter_map(|n| n.to_str()).find(|n| is_numbered(n, "hwmon"));
        let Some(monitor) = monitor else {
            return Fact::gap(
                Gap::new(Why::NotProvided)
                    .tried(folder.into(), saying!("holds-no-monitor", "holds no monitor")),
            );
        };
        let mut fact = Fact::gap(Gap::new(Why::NotProvided));
        for attribute in attributes {
            let path = format!("{folder}/{monitor}/{attribute}");
            fact = fact.or_known(|| File::read(self.lease, path).fact(rule.clone(), parse));
        }
        fact
    }

    pub(super) fn readings(&self, address: Fact<Term>, link: Link) -> GpuDeviceReadings {
        let awake = |name: &str, rule: Saying| match &self.sleeps {
            Some(gap) => Fact::gap(gap.clone()),
            None => File::read(self.lease, format!("{}/{name}", self.device))
                .fact(rule, number::decimal),
        };
        GpuDeviceReadings {
            address,
            link_speed_mts: link.speed,
            link_lanes: link.lanes,
            temperature_millicelsius: self
                .monitored(
                    &["temp1_input"],
                    sayings::THOUSANDTHS_DEGREE_CELSIUS,
                    number::millicelsius,
                )
                .map(Millicelsius),
            power_microwatts: self
                .monitored(
                    &["power1_average", "power1_input"],
                    sayings::MICROWATTS,
                    number::decimal,
                )
                .map(Microwatts),
            fan_rpm: self
                .monitored(
                    &["fan1_input"],
                    saying!("revolutions-minute", "revolutions a minute"),
                    number::decimal,
                )
                .map(Rpm),
            busy_percent: awake("gpu_busy_percent", sayings::PERCENT).map(Percent),
            memory_used_bytes: awake("mem_info_vram_used", sayings::BYTES).map(Bytes),
            core_mhz: self
                .monitored(
                    &["freq1_input"],
                    saying!("hertz-million", "hertz, by a million"),
                    number::decimal,
                )
                .map(|hertz: u64| hertz / 1_000_000)
                .or_known(|| awake("gt_cur_freq_mhz", saying!("megahertz", "megahertz")))
                .map(Megahertz),
            retired_pages: self.retired_pages(),
            error_counts: self.error_counts(),
        }
    }
}

/// What a driver counts of a device's own errors (`Documentation/gpu/amdgpu/ras.rst`).
impl Card<'_> {
    fn errors_folder(&self) -> String {
        format!("{}/ras", self.device)
    }

    /// Lines of a list of failed pages that end in `R`, for one that is put out of use.
    fn retired_pages(&self) -> Fact<u64> {
        if let Some(gap) = &self.sleeps {
            return Fact::gap(gap.clone());
        }
        let file = File::read(self.lease, format!("{}/gpu_vram_bad_pages", self.errors_folder()));
        if file.bytes().is_ok_and(|bytes| bytes.is_empty()) {
            let rule = saying!("list-of-failed-pages-empty", "the list of failed pages is empty");
            return Fact::known(0, file.evidence(rule));
        }
        file.fact(
            saying!("lines-of-failed-pages", "lines of the list of failed pages that end in R"),
            |text| {
                let retired = text.lines().filter(|line| line.trim_end().ends_with(": R"));
                Some(retired.count() as u64)
            },
        )
    }

    fn error_counts(&self) -> Parts<GpuErrorCount> {
        if let Some(gap) = &self.sleeps {
            return Parts::missing(gap.clone());
        }
        let folder = self.errors_folder();
        let names = match list(self.lease, &folder) {
            Ok(names) => names,
            Err(gap) => return Parts::missing(gap),
        };
        let rule = saying!("names-end-err-count", "names that end in _err_count");
        let counts = names.iter().filter_map(|name| name.to_str()).filter_map(|name| {
            let block = name.strip_suffix("_err_count")?;
            let file = File::read(self.lease, format!("{folder}/{name}"));
            Some(GpuErrorCount {
                block: Fact::known(
                    Term::from(block),
                    listing_evidence(&folder, rule.clone()).raw(name),
                ),
                corrected: counted(&file, "ce"),
                uncorrected: counted(&file, "ue"),
            })
        });
        Parts::known(counts.collect(), listing_evidence(&folder, rule.clone()))
    }
}

/// The count behind `key` in a file of `ue: 0` and `ce: 0`.
fn counted(file: &File, key: &str) -> Fact<u64> {
    let text = file.text();
    let blocks = colon::blocks(&text);
    let entry = blocks.iter().flatten().find(|entry| entry.key == key);
    if let Err(gap) = file.bytes() {
        return Fact::gap(gap.clone());
    }
    let rule = saying!("number-behind-key", "the number behind this key");
    file.entry_fact(entry, key, rule, number::decimal)
}

/// What a proprietary driver tells of a device in `/proc/driver`.
pub(super) struct Proprietary {
    file: File,
}

impl Proprietary {
    pub(super) fn read(lease: &Lease, address: &str) -> Self {
        Self { file: File::read(lease, format!("/proc/driver/nvidia/gpus/{address}/information")) }
    }

    pub(super) fn text<T: From<String>>(&self, key: &str) -> Fact<T> {
        let text = self.file.text();
        let blocks = colon::blocks(&text);
        let entry = blocks.iter().flatten().find(|entry| entry.key == key);
        self.file
            .entry_fact(
                entry,
                key,
                saying!("value-behind-colon", "the value behind the colon"),
                |value| Some(value.to_owned()),
            )
            .and_then(|text| {
                // Question marks stand where the driver does not know it.
                match text.contains("??") {
                    true => Err(Gap::new(Why::Blank)),
                    false => meaningful(&text).map(T::from),
                }
            })
    }

    /// The driver's version: the first word of its own that begins with a digit.
    pub(super) fn version(&self, lease: &Lease) -> Fact<Term> {
        if let Err(gap) = self.file.bytes() {
            return Fact::gap(gap.clone());
        }
        File::read(lease, "/proc/driver/nvidia/version").fact(
            saying!(
                "first-word-digit-front-point",
                "the first word with a digit in front and a point in it",
            ),
            |text| {
                let words = text.lines().next()?.split_whitespace();
                words
                    .map(str::to_owned)
                    .find(|word| {
                        word.starts_with(|c: char| c.is_ascii_digit()) && word.contains('.')
                    })
                    .map(Term)
            },
        )
    }
}
