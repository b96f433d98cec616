//! The display behind a connector, by its EDID.

use crate::readers::sayings;
use std::sync::Arc;

use crate::{
    formats::edid::{self, BLOCK},
    readers::file::{File, meaningful},
};
use tectum_report::{
    declare::Parts,
    fact::{Evidence, Fact, Gap, Place, Saying, Why, saying},
    leaf::{Centimetres, Date, Serial, Term},
    model::Display,
};

/// The display that a connector's `edid` describes; none where nothing is plugged in.
pub(super) fn displays(file: &File) -> Parts<Display> {
    let bytes = match file.bytes() {
        Ok(bytes) => bytes,
        Err(gap) => return Parts::missing(gap.clone()),
    };
    let whole = |rule: Saying| Evidence::new(Arc::clone(file.path()), rule);
    if bytes.is_empty() {
        return Parts::known(
            Vec::new(),
            whole(saying!(
                "empty-nothing-describes-itself-plugged",
                "empty: nothing that describes itself is plugged in",
            )),
        );
    }
    let Some(read) = edid::Display::parse(bytes) else {
        let answer = saying!("holds-bytes-no-edid", "holds {} bytes that are no EDID")
            .with(bytes.len().to_string());
        return Parts::missing(Gap::new(Why::Invalid).tried(Arc::clone(file.path()), answer));
    };
    Parts::known(
        vec![display(file, &read)],
        whole(saying!("display-bytes-describe", "the display that the bytes describe")),
    )
}

fn display(file: &File, read: &edid::Display) -> Display {
    let at = |place: Place, rule: Saying, raw: &str| {
        Evidence::new(Arc::clone(file.path()), rule).place(place).raw(raw)
    };
    let says_not = |what: &'static str| {
        Fact::gap(
            Gap::new(Why::Blank)
                .tried(Arc::clone(file.path()), sayings::GIVES_NO.with(what.to_string())),
        )
    };
    let (first, second) = read.version;
    let version = format!("{first}.{second}");
    let product = format!("{:04x}", read.product);
    Display {
        maker_id: Fact::known(
            Term(read.maker.clone()),
            at(
                Place::bytes(0x08, 2),
                saying!("three-letters-five-bits-each", "three letters of five bits each"),
                &read.maker,
            ),
        ),
        product_code: Fact::known(
            Term(product.clone()),
            at(
                Place::bytes(0x0A, 2),
                saying!("lower-byte-first", "the lower byte first"),
                &product,
            ),
        ),
        name: text(file, read.name.as_deref(), "name"),
        serial: serial(file, read),
        manufacture_date: match made(read) {
            Some(date) => Fact::known(
                date,
                at(
                    Place::bytes(0x10, 2),
                    saying!("week-years-since-1990", "week, and years since 1990"),
                    &read.year.to_string(),
                ),
            ),
            None => Fact::gap(Gap::new(Why::Invalid).raw(&read.year.to_string())),
        },
        width_cm: size(file, read.size_cm.map(|(width, _)| width), Place::bytes(0x15, 1))
            .map(Centimetres),
        height_cm: size(file, read.size_cm.map(|(_, height)| height), Place::bytes(0x16, 1))
            .map(Centimetres),
        preferred_mode: match read.preferred {
            Some(mode) => {
                let half = if mode.interlaced { ", interlaced" } else { "" };
                let (whole, part) = (mode.millihertz / 1000, mode.millihertz % 1000 / 10);
                let said =
                    format!("{} × {} at {whole}.{part:02} Hz{half}", mode.width, mode.height);
                let evidence = at(
                    Place::bytes(0x36, 18),
                    saying!("first-detailed-timing", "the first detailed timing"),
                    &said.clone(),
                );
                Fact::known(Term(said), evidence)
            }
            None => says_not("timing that it likes best"),
        },
        edid_version: Fact::known(
            Term(version.clone()),
            at(
                Place::bytes(0x12, 2),
                saying!("version-revision", "version and revision"),
                &version,
            ),
        ),
    }
}

fn size(file: &File, value: Option<u8>, place: Place) -> Fact<u64> {
    match value {
        Some(value) => Fact::known(
            u64::from(value),
            Evidence::new(Arc::clone(file.path()), saying!("centimetres", "centimetres"))
                .place(place)
                .raw(&value.to_string()),
        ),
        None => Fact::gap(Gap::new(Why::Blank).tried(
            Arc::clone(file.path()),
            saying!("gives-no-size-picture", "gives no size of the picture"),
        )),
    }
}

fn text<T: From<String>>(file: &File, found: Option<&str>, what: &'static str) -> Fact<T> {
    let rule = saying!("text-descriptor-kind", "the text of the descriptor of its kind");
    match found.map(meaningful) {
        Some(Ok(text)) => {
            let evidence = Evidence::new(Arc::clone(file.path()), rule)
                .place("among the descriptors from offset 0x36")
                .raw(&text);
            Fact::known(T::from(text), evidence)
        }
        Some(Err(gap)) => Fact::gap(gap.tried(
            Arc::clone(file.path()),
            saying!("gives-blank", "gives a blank {}").with(what.to_string()),
        )),
        None => Fact::gap(
            Gap::new(Why::Blank)
                .tried(Arc::clone(file.path()), sayings::GIVES_NO.with(what.to_string())),
        ),
    }
}

/// The serial number: the text, or the number in the header. A number that is small, or of few
/// different bytes, counts nothing: makers leave such where they give none.
/// When a display was made, as far as it says.
fn made(read: &edid::Display) -> Option<Date> {
    let year = i16::try_from(read.year).ok()?;
    match read.week.and_then(|week| i8::try_from(week).ok()).filter(|week| (1..=53).contains(week))
    {
        Some(week) => Some(Date::Week(year, week)),
        None => Some(Date::Year(year)),
    }
}

fn serial(file: &File, read: &edid::Display) -> Fact<Serial> {
    let number = read.serial_number;
    text(file, read.serial_text.as_deref(), "serial number").or_known(|| {
        if !edid::counts(number) {
            let answer =
                saying!("holds-number-none-own", "holds the number {}, which is none of its own",)
                    .with(number.to_string());
            return Fact::gap(Gap::new(Why::Blank).tried(Arc::clone(file.path()), answer));
        }
        let shown = format!("0x{number:08x}");
        let rule = saying!(
            "number-header-lowest-byte-first",
            "the number in the header, the lowest byte first",
        );
        let evidence =
            Evidence::new(Arc::clone(file.path()), rule).place(Place::bytes(0x0C, 4)).raw(&shown);
        Fact::known(Serial(shown), evidence)
    })
}

const _: () = assert!(BLOCK == 128, "offsets above are those of the base block");
