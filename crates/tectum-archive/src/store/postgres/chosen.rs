//! What is asked of sections, for the server to answer: of a fleet's sections it gives the fields alone that a path may
//! name, and nobody else unpacks the rest.

use std::fmt::Write;

use tectum_report::{
    declare::Kind,
    json::chosen::{Chosen, ChosenFields},
};

/// An object is built of so many members at once: a call takes a hundred arguments.
const MEMBERS_AT_ONCE: usize = 48;

/// The query for what is asked of some sections (`$2`) of some states (`$1`): state, section, and the content as text.
pub(super) fn query(sections: &[&str], fields: Option<&Chosen>) -> String {
    let mut content = String::from("content");
    if let Some(fields) = fields {
        let mut cases = String::new();
        for (name, inner) in sections.iter().filter_map(|name| Some((name, fields.section(name)??)))
        {
            let _ = write!(cases, " WHEN '{name}' THEN {}", record("content", inner, 0));
        }
        if !cases.is_empty() {
            content = format!("CASE name{cases} ELSE content END");
        }
    }
    format!(
        "SELECT state, name, ({content})::text FROM tectum.section WHERE state = ANY($1) AND name = ANY($2)"
    )
}

/// The object of the fields that are chosen of the one at `value`. Names are those of declarations.
fn record(value: &str, fields: &ChosenFields, depth: usize) -> String {
    let mut members = Vec::new();
    let mut objects = Vec::new();
    for (field, inner) in fields.chosen() {
        let name = field.name;
        let own = format!("{value}->'{name}'");
        match (inner, field.kind) {
            (Some(inner), Kind::List(_)) => {
                members.push(format!("'{name}', {}", list(&own, inner, depth + 1)));
            }
            (_, Kind::Leaf(_) | Kind::List(_)) => members.push(format!("'{name}', {own}")),
            // A record that is not there is none, and not nothing.
            (inner, Kind::Record(_) | Kind::Optional(_)) => {
                let content =
                    inner.map_or_else(|| own.clone(), |inner| record(&own, inner, depth + 1));
                objects.push(format!(
                    "CASE WHEN {value} ? '{name}' THEN jsonb_build_object('{name}', {content}) ELSE '{{}}'::jsonb END"
                ));
            }
        }
    }
    let plain = members.chunks(MEMBERS_AT_ONCE);
    objects.extend(plain.map(|some| format!("jsonb_build_object({})", some.join(", "))));
    // What is no object holds no fields, and is said as it is.
    let all = objects.join(" || ");
    format!("CASE jsonb_typeof({value}) WHEN 'object' THEN {all} ELSE {value} END")
}

/// The list of what is chosen of each element of the one at `value`, in its order.
fn list(value: &str, fields: &ChosenFields, depth: usize) -> String {
    let element = format!("e{depth}");
    let each = record(&format!("{element}.one"), fields, depth);
    format!(
        "CASE jsonb_typeof({value}) WHEN 'array' THEN \
         (SELECT coalesce(jsonb_agg({each} ORDER BY {element}.at), '[]'::jsonb) \
         FROM jsonb_array_elements({value}) WITH ORDINALITY AS {element}(one, at)) ELSE {value} END"
    )
}

#[cfg(test)]
mod tests {
    use rstest::rstest;
    use tectum_report::query::{Path, every_path};

    use super::*;

    fn asked(path: &str) -> String {
        let path: Path = path.parse().unwrap();
        let chosen = Chosen::by(std::slice::from_ref(&path));
        let sections: Vec<&str> = path.section().into_iter().collect();
        query(&sections, Some(&chosen))
    }

    #[rstest]
    fn the_fields_alone_are_asked_for() {
        let one = asked("os.kernel_release");
        assert!(one.contains("'kernel_release', content->'kernel_release'"), "{one}");
        assert!(!one.contains("hostname"), "{one}");
        let listed = asked("storage.disks.*.size");
        assert!(listed.contains("'size_bytes', e1.one->'size_bytes'"), "{listed}");
        assert!(listed.contains("'serial'") && !listed.contains("'rotating'"), "{listed}");
        assert_eq!(
            asked("storage.disks[size>1].serial").matches("CASE").count(),
            0,
            "it may be any"
        );
    }

    #[rstest]
    fn no_path_asks_for_anything_but_names() {
        let plain = |text: &str| {
            text == "[]"
                || text == "{}"
                || text.bytes().all(|sign| matches!(sign, b'a'..=b'z' | b'0'..=b'9' | b'_'))
        };
        let mut names = 0;
        for path in every_path().into_iter().filter(|path| !path.starts_with("machine.")) {
            let query = asked(&path);
            for text in query.split('\'').skip(1).step_by(2) {
                assert!(plain(text), "{path}: {text:?} in {query}");
                names += 1;
            }
        }
        assert!(names > 1000, "{names}");
    }
}
