//! Reads files of expectations and settings; what is an expectation judges a small report.

#![no_main]

use std::sync::LazyLock;

use libfuzzer_sys::fuzz_target;
use tectum_report::{
    expectation::Expectations,
    finding::{Judgement, Limits},
    report::Report,
    settings::Settings,
};

static REPORT: LazyLock<Report> = LazyLock::new(|| {
    Report::from_json(include_bytes!("../seeds/report/memory.json")).unwrap_or_else(|error| {
        panic!("the seed is a report: {error}");
    })
});

fuzz_target!(|text: &str| {
    let mut read = |name: &str, _: Option<&str>| Ok((name.to_owned(), text.to_owned()));
    match Expectations::read("x.toml", &mut read) {
        Ok(all) => {
            let own = |id: &str| all.expect.iter().any(|one| one.name == id);
            let judgement = Judgement::by(&own, &REPORT, &Limits::default(), &all);
            for one in &all.expect {
                let _ = (one.words(), one.selects(&REPORT));
            }
            assert!(judgement.asked.len() <= all.expect.len());
        }
        Err(error) => assert!(error.line > 0 && error.column > 0 && !error.to_string().is_empty()),
    }
    let mut settings = Settings::default();
    if let Err(error) = settings.read("x.toml", text) {
        assert!(error.line > 0 && error.column > 0 && !error.to_string().is_empty());
    }
    let _ = settings.all();
});
