//! A report in which every text that an owner or user can choose holds a token of its own, whatever
//! fields the model has: after redaction no token stands in it, in any encoding.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    unreachable_pub,
    missing_docs,
    reason = "a test stops at the first thing that is not as it should be"
)]

#[path = "support/made.rs"]
mod made;

use std::collections::BTreeSet;

use aho_corasick::AhoCorasick;
use rstest::rstest;
use serde_json::json;
use tectum_report::{
    Observed, Report, SourceAccess, Taken,
    declare::{NodeMut, Record},
    fact::{Evidence, Gap, Place, Stance, Why, saying},
    json::write::Form,
    leaf::{Identifies, JsonForm, Whose},
    redact::Pseudonyms,
    report::{Note, Operation, Outcome},
};

/// Plants a token into every leaf that may hold one, and into its evidence.
struct Planter {
    tokens: Vec<String>,
    fields: BTreeSet<String>,
}

impl Planter {
    fn token(&mut self, token: String) -> String {
        self.tokens.push(token.clone());
        token
    }

    /// A value of a kind, with a token in it.
    fn value(&mut self, kind: Identifies) -> String {
        let number = self.tokens.len();
        match kind {
            Identifies::Address => {
                self.token(format!("198.{}.{}.77", 18 + number / 250, 1 + number % 250))
            }
            Identifies::Mac => {
                self.token(format!("02:c0:{:02x}:{:02x}:7e:5a", number / 256, number % 256))
            }
            Identifies::Uuid | Identifies::MachineId => {
                self.token(format!("{number:08x}-c0de-4bad-8bad-c0ffee{number:06x}"))
            }
            Identifies::WorldWideName => {
                let token = self.token(format!("5c0ffee{number:09x}"));
                format!("naa.{token}")
            }
            kind => {
                let token = self.token(format!("qz{number:04}zq"));
                match kind {
                    Identifies::Path => format!("/srv/{token}/data"),
                    Identifies::MountSource if number.is_multiple_of(3) => {
                        format!("{token}.example:/export/{token}")
                    }
                    Identifies::MountSource if number.is_multiple_of(2) => {
                        format!("/dev/mapper/{token}-root")
                    }
                    Identifies::MountSource => format!("//{token}/share"),
                    Identifies::MountOption if number.is_multiple_of(2) => {
                        format!("username={token}")
                    }
                    Identifies::CommandLine => {
                        format!("quiet root=/dev/mapper/{token} {token}=1 ip=192.0.2.7::{token}")
                    }
                    Identifies::FilesystemKind => format!("fuse.{token}"),
                    _ => token,
                }
            }
        }
    }

    fn evidence(&mut self, text: &str, number: usize) -> Vec<Evidence> {
        let token = self.token(format!("qz{:04}zq", self.tokens.len()));
        let rule = saying!("a-rule", "a rule of {}").with(token.as_str());
        let source = match number % 6 {
            0 => format!("/sys/class/net/{token}/address"),
            1 => format!("/sys/block/md_{token}/md/level"),
            2 => format!("/dev/disk/by-label/{token}"),
            3 => format!("/etc/apt/sources.list.d/{token}.list"),
            4 => format!("/dev/mapper/{token}"),
            _ => format!("/sys/devices/virtual/net/{token}/lower_{token}/carrier"),
        };
        vec![
            Evidence::new(source.into(), rule)
                .place(Place::from(format!("/mnt/{token}")))
                .raw(&format!("key = {text} {token}")),
            Evidence {
                stance: Stance::differs(text.to_owned()),
                ..Evidence::new("/proc/cmdline".into(), saying!("a-rule", "a rule of {}"))
            },
        ]
    }

    fn gap(&mut self) -> Gap {
        let token = self.token(format!("qz{:04}zq", self.tokens.len()));
        let said = || saying!("an-answer", "holds {}").with(token.as_str());
        Gap::new(Why::Invalid)
            .raw(&token)
            .hint(said())
            .tried(format!("/sys/class/net/{token}/mtu").into(), said())
    }

    fn plant(&mut self, record: &mut dyn Record, depth: usize) {
        let shape = record.shape();
        for (index, field) in shape.fields.iter().enumerate() {
            match record.node_mut(index) {
                Some(NodeMut::Leaf(fact)) => {
                    let form = fact.leaf_shape();
                    let Whose::Owners(kind) = form.whose else {
                        // A value that is missing may tell as much in its gap.
                        fact.set_missing(self.gap());
                        continue;
                    };
                    let text = self.value(kind);
                    let json = match form.form {
                        JsonForm::String => json!(text),
                        JsonForm::Set(_) | JsonForm::Series(_) => {
                            json!([text, self.value(kind)])
                        }
                        other => panic!("{other:?} holds no text"),
                    };
                    let evidence = self.evidence(&text, index);
                    fact.set(&json, evidence).unwrap();
                    fact.set_hidden_part(Some(self.gap()));
                    self.fields.insert(format!("{}.{}", shape.name, field.name));
                }
                Some(NodeMut::Record(inner)) => self.plant(inner, depth + 1),
                Some(NodeMut::Optional(slot)) => self.plant(slot.fill(), depth + 1),
                Some(NodeMut::List(list)) => {
                    list.set_missing(None);
                    list.set_evidence(self.evidence("", index));
                    list.set_hidden_part(Some(self.gap()));
                    assert!(depth < 9, "the model goes round at {}", field.name);
                    if let Some(item) = list.grow() {
                        self.plant(item, depth + 1);
                    }
                }
                None => {}
            }
        }
    }
}

fn planted() -> (Report, Planter) {
    let mut planter = Planter { tokens: Vec::new(), fields: BTreeSet::new() };
    let mut observed = Observed::default();
    planter.plant(&mut observed.machine, 0);
    planter.plant(&mut observed.inventory, 0);
    planter.plant(&mut observed.readings, 0);
    let subject = planter.token("qzsubjectzq".to_owned());
    let said = planter.token("qzsaidzq".to_owned());
    let passed = planter.token("qzpassedzq".to_owned());
    let taken = Taken {
        at: "2026-11-23T08:00:00Z".parse().unwrap(),
        tool: "tectum test".to_owned(),
        subject: format!("/home/{subject}/report.json"),
        privileged: true,
        sections: Vec::new(),
        elapsed_ms: 0,
    };
    let access = |path: String, operation| SourceAccess {
        path,
        operation,
        outcome: Outcome::Done,
        bytes: Some(0),
        elapsed_us: Some(0),
    };
    let sources = vec![
        access(format!("/srv/{subject}"), Operation::Statvfs),
        access(format!("/sys/class/net/{subject}/mtu"), Operation::Read),
    ];
    let notes = vec![
        Note::SectionFailed { section: "os".to_owned(), said },
        Note::NotKnown { passed_over: vec![format!("/inventory/{passed}")] },
    ];
    (Report::new(observed, taken, sources, notes), planter)
}

/// A token in every encoding in which texts were met.
fn encodings(token: &str) -> Vec<Vec<u8>> {
    let bytes = token.as_bytes();
    let hex = |between: &str| {
        let all: Vec<String> = bytes.iter().map(|byte| format!("{byte:02x}")).collect();
        all.join(between).into_bytes()
    };
    let swapped: Vec<u8> = bytes.chunks(2).flat_map(|pair| pair.iter().rev().copied()).collect();
    let percent: String = bytes.iter().map(|byte| format!("%{byte:02X}")).collect();
    let bare: String = token.chars().filter(char::is_ascii_alphanumeric).collect();
    let wide: Vec<u8> = bytes.iter().flat_map(|byte| [*byte, 0]).collect();
    let reversed: Vec<u8> = bytes.iter().rev().copied().collect();
    vec![
        bytes.to_vec(),
        token.to_ascii_uppercase().into_bytes(),
        bare.into_bytes(),
        hex(""),
        hex(" "),
        hex(":"),
        swapped,
        percent.into_bytes(),
        wide,
        reversed,
    ]
}

#[rstest]
fn no_token_stands_in_a_redacted_report(#[values(Form::Compact, Form::Expanded)] form: Form) {
    let written = |report: &Report| {
        let mut text = Vec::new();
        report.write(&mut text, form).unwrap();
        text
    };
    let (report, planter) = planted();
    // Every text of an owner's has a token: as many fields as the declarations name.
    assert!(planter.fields.len() > 120, "{}", planter.fields.len());
    let search = AhoCorasick::new(&planter.tokens).unwrap();
    let plain = written(&report);
    let found: BTreeSet<usize> =
        search.find_overlapping_iter(&plain).map(|found| found.pattern().as_usize()).collect();
    assert_eq!(found.len(), planter.tokens.len(), "every token was planted");
    let copy = Pseudonyms::new(b"a key", &BTreeSet::new()).report(&report).unwrap();
    let text = written(&copy).to_ascii_lowercase();
    let encoded: Vec<(&String, Vec<u8>)> = planter
        .tokens
        .iter()
        .flat_map(|token| encodings(token).into_iter().map(move |encoded| (token, encoded)))
        .collect();
    let search = AhoCorasick::builder()
        .ascii_case_insensitive(true)
        .build(encoded.iter().map(|(_, encoded)| encoded))
        .unwrap();
    if let Some(found) = search.find(&text) {
        let (token, _) = &encoded[found.pattern().as_usize()];
        let around = &text[found.start().saturating_sub(120)..(found.end() + 40).min(text.len())];
        panic!("{token} still stands: {}", String::from_utf8_lossy(around));
    }
    assert_eq!(copy.taken.subject, "redacted");
}

#[test]
fn a_redacted_report_is_read_back_whole_and_redacted_again_the_same() {
    let (report, _) = planted();
    let by = Pseudonyms::new(b"a key", &BTreeSet::new());
    let copy = by.report(&report).unwrap();
    let text = serde_json::to_vec(&copy).unwrap();
    assert_eq!(Report::from_json(&text).unwrap(), copy);
    assert_eq!(by.report(&report).unwrap(), copy, "the same key gives the same copy");
    assert_ne!(Pseudonyms::new(b"another", &BTreeSet::new()).report(&report).unwrap(), copy);
}

#[test]
fn kinds_that_are_kept_stay_and_are_named() {
    let (report, _) = planted();
    let keep = BTreeSet::from([Identifies::HostName]);
    let copy = Pseudonyms::new(b"a key", &keep).report(&report).unwrap();
    assert_eq!(copy.machine.hostname.value(), report.machine.hostname.value());
    assert_ne!(copy.machine.serial.value(), report.machine.serial.value());
    assert!(
        copy.notes
            .iter()
            .any(|note| { matches!(note, Note::Redacted { kept, .. } if *kept == ["host-name"]) })
    );
}

/// Firmware and drivers put what identifies a machine where a model is asked for: such a copy is not written, unless
/// that kind of text is to be kept.
#[rstest]
#[case("/inventory/platform/system/version", "SKX-7741-0093")]
#[case("/inventory/platform/system/version", "rev. skx77410093")]
#[case("/inventory/storage/disks/0/model", "SKERRY SKX-7741-0093")]
fn a_makers_word_that_holds_what_is_hidden_is_not_handed_out(#[case] at: &str, #[case] word: &str) {
    let mut report = made::empty();
    made::set(&mut report, "/inventory/platform/system/serial", &json!("SKX-7741-0093"));
    made::set(&mut report, at, &json!("Skerry 12"));
    let by = Pseudonyms::new(b"a key", &BTreeSet::new());
    assert!(by.report(&report).is_ok());
    made::set(&mut report, at, &json!(word));
    let refused = by.report(&report).unwrap_err().to_string();
    assert!(refused.contains(at) && !refused.contains("7741"), "{refused}");
    let keep = BTreeSet::from([Identifies::Serial]);
    assert!(Pseudonyms::new(b"a key", &keep).report(&report).is_ok());
}
