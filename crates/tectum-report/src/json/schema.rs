//! The report's JSON Schema (2020-12), made from the declarations of the model and of what stands
//! around it.

use schemars::{JsonSchema, SchemaGenerator, generate::SchemaSettings};
use serde_json::{Map, Value, json};

use super::envelope::WholeEnvelope;
use crate::{
    compare::Comparison,
    declare::{Described, Kind, Shape},
    finding::form::json::Document,
    leaf::{JsonForm, LeafShape, Whose},
    model::{Inventory, Machine, Readings},
    process::ProcessCard,
    space::SpaceDocument,
    version::{CHECK, COMPARISON, Format, PROCESS, REPORT, SPACE},
};

fn generator() -> SchemaGenerator {
    SchemaSettings::draft2020_12().into_generator()
}

/// The schema of a report.
pub fn report() -> Value {
    let mut schema = generator().into_root_schema_for::<WholeEnvelope>().to_value();
    let mut definitions = Map::new();
    let roots = [
        ("machine", Machine::SHAPE),
        ("inventory", Inventory::SHAPE),
        ("readings", Readings::SHAPE),
    ];
    for (name, shape) in roots {
        let mut property = reference(shape, &mut definitions);
        if let Some(members) = property.as_object_mut() {
            members.insert("description".into(), words(shape.doc).into());
        }
        if let Some(slot) = schema.pointer_mut(&format!("/properties/{name}")) {
            *slot = property;
        }
    }
    if let Some(own) = schema.get_mut("$defs").and_then(Value::as_object_mut) {
        own.extend(definitions);
    }
    named(&mut schema, "Tectum report", &REPORT);
    schema
}

/// The schema of a comparison.
pub fn comparison() -> Value {
    written::<Comparison>("Tectum comparison", &COMPARISON)
}

/// The schema of what `check` found.
pub fn check() -> Value {
    written::<Document<'static>>("Tectum check", &CHECK)
}

/// The schema of what `space` found.
pub fn space() -> Value {
    written::<SpaceDocument>("Tectum space", &SPACE)
}

/// The schema of one process.
pub fn process() -> Value {
    written::<ProcessCard>("Tectum process", &PROCESS)
}

/// The schema of a form that is only ever written: what is left out when it is empty is not required.
fn written<T: JsonSchema>(title: &str, format: &Format) -> Value {
    let settings = SchemaSettings::draft2020_12().for_serialize();
    let mut schema = settings.into_generator().into_root_schema_for::<T>().to_value();
    named(&mut schema, title, format);
    schema
}

fn named(schema: &mut Value, title: &str, format: &Format) {
    if let Some(members) = schema.as_object_mut() {
        members.insert("title".into(), title.into());
    }
    if let Some(slot) = schema.pointer_mut("/properties/format") {
        *slot = json!({ "const": format.name, "description": "The word that names the form." });
    }
    if let Some(slot) = schema.pointer_mut("/properties/format_version") {
        *slot = json!({
            "type": "string",
            "pattern": format!("^{}\\.[0-9]+$", format.current.major),
            "description": "A newer major version changes what is there, a newer minor one adds.",
        });
    }
}

fn reference(shape: &'static Shape, definitions: &mut Map<String, Value>) -> Value {
    if !definitions.contains_key(shape.name) {
        // Held free so that a type that holds itself would not go round for ever.
        definitions.insert(shape.name.into(), Value::Null);
        let mut properties = Map::new();
        let mut required = Vec::new();
        for (index, field) in shape.fields.iter().enumerate() {
            // The compact form leaves out what the machine has not.
            if matches!(field.kind, Kind::Record(_)) {
                required.push(Value::from(field.name));
            }
            let mut property = match field.kind {
                Kind::Leaf(leaf) => leaf_schema(leaf),
                Kind::Record(inner) | Kind::Optional(inner) => reference(inner, definitions),
                Kind::List(inner) => json!({
                    "type": ["array", "null"],
                    "items": reference(inner, definitions),
                }),
            };
            if let Some(members) = property.as_object_mut() {
                members.insert("description".into(), words(field.doc).into());
                if matches!(field.kind, Kind::Leaf(_)) {
                    members.insert("x-source".into(), shape.source_of(index).into());
                }
                if let Some(reference) = shape.reference(index) {
                    let targets: Vec<String> =
                        reference.targets.iter().map(|way| way.join(".")).collect();
                    members.insert("x-refers-to".into(), targets.into());
                }
            }
            properties.insert(field.name.into(), property);
        }
        let mut definition = json!({
            "type": "object",
            "description": words(shape.doc),
            "required": required,
            "properties": properties,
        });
        if let (Some(of), Some(members)) = (shape.reading_of, definition.as_object_mut()) {
            let way: Vec<String> = of.steps.iter().map(|step| step.list.join(".")).collect();
            members.insert("x-reading-of".into(), way.join(".").into());
        }
        definitions.insert(shape.name.into(), definition);
    }
    json!({ "$ref": format!("#/$defs/{}", shape.name) })
}

fn leaf_schema(leaf: LeafShape) -> Value {
    let mut schema = form_schema(leaf.form, true);
    if let Some(members) = schema.as_object_mut() {
        if let Some(unit) = leaf.unit {
            members.insert("x-unit".into(), unit.name.into());
        }
        if let Whose::Owners(kind) = leaf.whose {
            members.insert("x-identifies".into(), kind.word().into());
        }
    }
    schema
}

fn form_schema(form: JsonForm, nullable: bool) -> Value {
    let of = |name: &str| match nullable {
        true => json!([name, "null"]),
        false => json!(name),
    };
    match form {
        JsonForm::String => json!({ "type": of("string") }),
        JsonForm::Formatted(format) => json!({ "type": of("string"), "format": format }),
        JsonForm::Pattern(pattern) => json!({ "type": of("string"), "pattern": pattern }),
        JsonForm::Code(codes) => {
            let mut all: Vec<Value> = codes
                .iter()
                .map(|(code, meaning)| json!({ "const": code, "description": meaning.trim() }))
                .collect();
            if nullable {
                all.push(json!({ "type": "null" }));
            }
            json!({ "oneOf": all })
        }
        JsonForm::Unsigned => json!({ "type": of("integer"), "minimum": 0 }),
        JsonForm::Signed => json!({ "type": of("integer") }),
        JsonForm::Boolean => json!({ "type": of("boolean") }),
        JsonForm::Set(item) | JsonForm::Series(item) => {
            json!({ "type": of("array"), "items": form_schema(item.form, false) })
        }
    }
}

/// Documentation as one line.
pub fn words(doc: &str) -> String {
    doc.split_whitespace().collect::<Vec<_>>().join(" ")
}
