//! Errors that a filesystem counted on one of its devices.

use crate::finding::{
    judge::{Judge, see},
    rule::{Rule, Severity},
};

pub(super) static RULE: Rule = Rule {
    id: "filesystem-device-errors",
    severity: Severity::Warning,
    title: "filesystem that counts errors on a device of its own",
    reads: &[
        "readings.filesystems.member_errors.*.write_errors",
        "readings.filesystems.member_errors.*.read_errors",
        "readings.filesystems.member_errors.*.flush_errors",
        "readings.filesystems.member_errors.*.corruption_errors",
        "readings.filesystems.member_errors.*.generation_errors",
        "readings.filesystems.member_errors.*.missing",
    ],
    matters: "The disk loses or alters data; what only lies there once is lost.",
    action: "Let the filesystem check itself (scrub), then replace the device.",
    reference: "Documentation/filesystems/btrfs.rst",
    judge,
};

fn judge(it: &mut Judge<'_>) {
    let Some(now) = it.section(&it.report().readings.filesystems, "/readings/filesystems") else {
        return;
    };
    for (at, one) in it.parts(&now.member_errors, "/readings/filesystems/member_errors") {
        let counts = [
            ("writes", "write_errors", see!(it, &at, one.write_errors)),
            ("reads", "read_errors", see!(it, &at, one.read_errors)),
            ("flushes", "flush_errors", see!(it, &at, one.flush_errors)),
            ("blocks altered", "corruption_errors", see!(it, &at, one.corruption_errors)),
            ("blocks out of date", "generation_errors", see!(it, &at, one.generation_errors)),
        ];
        let missing = see!(it, &at, one.missing) == Some(&true);
        let bad = counts.iter().filter(|(_, _, count)| count.is_some_and(|count| *count > 0));
        let mut says: Vec<String> =
            bad.clone().map(|(what, _, count)| format!("{what} {}", count.unwrap_or(&0))).collect();
        let mut fields: Vec<&str> = bad.map(|(_, field, _)| *field).collect();
        if missing {
            says.insert(0, "the device is missing".to_owned());
            fields.push("missing");
        }
        if !says.is_empty() {
            it.finds(one, &at, &fields, format!("errors: {}", says.join(", ")));
        }
    }
}
