//! Reads the same bytes as every kind of repository file, and as the other files of the system that
//! people write by hand.

#![no_main]

use libfuzzer_sys::fuzz_target;
use tectum_survey::formats::{kernel_version, pressure, release_order, repositories};

fuzz_target!(|bytes: &[u8]| {
    let Ok(text) = std::str::from_utf8(bytes) else { return };
    let lines = text.lines().count();
    for found in [
        repositories::apt_lines(text),
        repositories::apt_stanzas(text),
        repositories::repo_sections(text),
        repositories::pacman_sections(text, |_| text.to_owned()),
        repositories::apk_lines(text),
    ] {
        assert!(found.iter().all(|one| (1..=lines).contains(&one.line)));
    }
    let _ = kernel_version::parse(text);
    let _ = (pressure::parse(text), pressure::hundredths(text));
    if let Some((a, b)) = text.split_once('\n') {
        assert_eq!(release_order::compare(a, b), release_order::compare(b, a).reverse());
        assert!(release_order::kind(a).len() <= 2 * a.len());
    }
});
