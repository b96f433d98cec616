//! Pages as a browser shows them: they ask for nothing, do what they offer by keyboard, keep text what is text, and
//! are fit for people who do not see them.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::print_stderr,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

#[path = "support/browser.rs"]
mod browser;
mod support;

use std::{fs, path::PathBuf};

use base64::{Engine, engine::general_purpose::STANDARD};
use browser::Browser;
use serde_json::{Value, json};
use support::Place;

/// A page of each kind.
fn pages() -> (Place, Vec<PathBuf>) {
    let place = Place::new();
    let lines: [&[&str]; 5] = [
        &["survey", "--from", "demo:gannet-before", "--out", "survey.html", "--quiet"],
        &["compare", "demo:gannet-before", "demo:gannet-after", "--format", "html"],
        &["check", "demo:gannet-before", "demo:gannet-after", "--format", "html"],
        &["save", "demo:gannet-before"],
        &["fleet", "--format", "html"],
    ];
    let mut made = Vec::new();
    for (at, line) in lines.into_iter().enumerate() {
        let name = format!("page-{at}.html");
        let ran = place.run(line);
        assert!(ran.status < 2, "{line:?}: {}", ran.err);
        if line[0] == "save" {
            continue;
        }
        if !ran.out.is_empty() {
            fs::write(place.path(&name), &ran.out).unwrap();
            made.push(place.path(&name));
        }
    }
    made.push(place.path("survey.html"));
    (place, made)
}

#[test]
fn pages_ask_for_nothing_and_have_no_error() {
    let Some(mut browser) = Browser::start() else { return };
    let (_place, pages) = pages();
    assert_eq!(pages.len(), 4);
    // From a telephone to a wall.
    for (page, wide) in pages.iter().flat_map(|page| [360, 800, 2400].map(|wide| (page, wide))) {
        let metrics = json!({
            "width": wide, "height": 800, "deviceScaleFactor": 1, "mobile": false,
        });
        browser.call("Emulation.setDeviceMetricsOverride", metrics);
        browser.open(page);
        assert_eq!(browser.troubles(), Vec::<String>::new(), "{}", page.display());
        let text = fs::read_to_string(page).unwrap();
        assert!(text.contains("default-src 'none'"));
        let over = browser.evaluate("document.documentElement.scrollWidth - innerWidth");
        assert!(over.as_i64().unwrap() <= 0, "{} is {over} wider than {wide}", page.display());
    }
}

#[test]
fn the_filter_evidence_and_copying_work_by_keyboard() {
    let Some(mut browser) = Browser::start() else { return };
    let (place, _) = pages();
    browser.open(&place.path("survey.html"));
    let shown = "[...document.querySelectorAll('main .row, main tbody tr')]\
        .filter(row => row.checkVisibility() && row.textContent.includes('LW-77A1002')).length";
    let all =
        "[...document.querySelectorAll('main .row')].filter(row => row.checkVisibility()).length";
    let before = browser.evaluate(all).as_i64().unwrap();
    browser.press("/");
    assert_eq!(browser.evaluate("document.activeElement.id"), "filter");
    browser.write("lw-77a1002");
    assert!(browser.evaluate(shown).as_i64().unwrap() >= 1);
    assert!(browser.evaluate(all).as_i64().unwrap() < before / 10);
    assert!(browser.evaluate("document.getElementById('filtered').value") != "");
    browser.press("Escape");
    assert_eq!(browser.evaluate(all).as_i64().unwrap(), before);

    browser.evaluate("document.querySelector('#memory details.all > summary').focus()");
    browser.press("Enter");
    assert_eq!(browser.evaluate("document.querySelector('#memory details.all').open"), true);
    browser.evaluate(
        "[...document.querySelectorAll('#memory details.all td details > summary')]\
         .find(one => one.textContent === 'LW-77A1002').focus()",
    );
    browser.press("Enter");
    let evidence = browser.evaluate("document.activeElement.parentElement.innerText");
    assert!(evidence.as_str().unwrap().contains("from /sys/firmware/dmi"), "{evidence}");

    let session = browser.call(
        "Browser.grantPermissions",
        json!({ "permissions": ["clipboardReadWrite", "clipboardSanitizedWrite"] }),
    );
    drop(session);
    browser.evaluate("document.querySelector('button.copy').focus()");
    let serial = browser.evaluate("document.activeElement.dataset.copy");
    browser.press("Enter");
    // The clipboard is written behind the key.
    browser.evaluate("new Promise(done => setTimeout(done, 300))");
    assert_eq!(browser.evaluate("navigator.clipboard.readText()"), serial);
    assert_eq!(browser.troubles(), Vec::<String>::new());
}

#[test]
fn a_finding_leads_to_the_values_of_its_part() {
    let Some(mut browser) = Browser::start() else { return };
    let (place, _) = pages();
    browser.open(&place.path("survey.html"));
    let link = "[...document.querySelectorAll('.odd li')]\
        .find(one => one.textContent.includes('fan2')).querySelector('a:last-child')";
    browser.evaluate(&format!("{link}.focus()"));
    browser.press("Enter");
    browser.evaluate("new Promise(done => setTimeout(done, 300))");
    let target = "document.getElementById(decodeURIComponent(location.hash.slice(1)))";
    assert_eq!(browser.evaluate(&format!("{target}.checkVisibility()")), true);
    let text = browser.evaluate(&format!("{target}.textContent"));
    assert!(text.as_str().unwrap().starts_with("sensors.chips.0.channels."), "{text}");
}

#[test]
fn rows_are_sorted_by_keyboard() {
    let Some(mut browser) = Browser::start() else { return };
    let (place, _) = pages();
    browser.open(&place.path("survey.html"));
    let sizes = "document.querySelector('#pci > .scroll table')";
    browser.evaluate(&format!("{sizes}.querySelector('th button').focus()"));
    let cells = format!("[...{sizes}.tBodies[0].rows].map(row => row.cells[0].textContent)");
    let before = browser.evaluate(&cells);
    browser.press("Enter");
    browser.press("Enter");
    let after = browser.evaluate(&cells);
    let mut expected: Vec<Value> = before.as_array().unwrap().clone();
    expected.reverse();
    assert_eq!(after, Value::Array(expected));
    let told = browser.evaluate("document.activeElement.parentElement.getAttribute('aria-sort')");
    assert_eq!(told, "descending");
}

/// What a machine says stands as text in every place that it comes to.
#[test]
fn text_of_a_hostile_machine_stays_text() {
    let Some(mut browser) = Browser::start() else { return };
    let evil = "\"'><script>window.got=1</script><img src=x onerror=window.got=1>{{7*7}}</style>";
    let place = Place::with_changed("gannet-before", |tree| {
        tree.file("etc/hostname", evil);
        tree.file("sys/devices/virtual/dmi/id/product_serial", evil);
        tree.file("etc/os-release", format!("PRETTY_NAME='{}'\n", evil.replace('\'', "")));
    });
    let made = place.run(&["survey", "--from", "machine", "--out", "it.html", "--quiet"]);
    assert_eq!(made.status, 0, "{}", made.err);
    browser.open(&place.path("it.html"));
    let text = fs::read_to_string(place.path("it.html")).unwrap();
    assert!(text.contains("&lt;script&gt;"));
    assert_eq!(browser.evaluate("window.got === undefined && document.scripts.length"), 1);
    assert_eq!(
        browser.evaluate("document.querySelectorAll('img, iframe, object, link').length"),
        0
    );
    assert_eq!(browser.troubles(), Vec::<String>::new());
}

/// The rules of axe-core, where `TECTUM_AXE` names its script.
#[test]
fn no_page_has_a_serious_barrier() {
    let axe = std::env::var_os("TECTUM_AXE");
    let Some(axe) = axe else {
        assert!(std::env::var_os("TECTUM_NEEDS_CHROMIUM").is_none(), "TECTUM_AXE is not set");
        eprintln!("TECTUM_AXE is not set: barriers are not looked for");
        return;
    };
    let axe = fs::read_to_string(axe).unwrap();
    let Some(mut browser) = Browser::start() else { return };
    let (_place, pages) = pages();
    for scheme in ["light", "dark"] {
        let features = json!({ "features": [{ "name": "prefers-color-scheme", "value": scheme }] });
        browser.call("Emulation.setEmulatedMedia", features);
        for page in &pages {
            browser.open(page);
            browser.evaluate(&format!("{axe}; 1"));
            let found = browser.evaluate(
                "axe.run().then(all => all.violations\
                 .filter(one => ['serious', 'critical'].includes(one.impact))\
                 .map(one => one.id + ': ' + one.nodes.slice(0, 3).map(it => it.html).join(' | ')))",
            );
            assert_eq!(found, json!([]), "{scheme}: {}", page.display());
        }
    }
}

#[test]
fn a_page_prints_on_a_few_sheets() {
    let Some(mut browser) = Browser::start() else { return };
    let (place, _) = pages();
    browser.open(&place.path("survey.html"));
    let printed =
        browser.call("Page.printToPDF", json!({ "paperWidth": 8.27, "paperHeight": 11.69 }));
    let bytes = STANDARD.decode(printed["data"].as_str().unwrap()).unwrap();
    let text = String::from_utf8_lossy(&bytes);
    let sheets = text.matches("/Type /Page\n").count() + text.matches("/Type /Page ").count();
    assert!((2..=12).contains(&sheets), "{sheets} sheets");
}
