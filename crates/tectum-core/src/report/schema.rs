//! The report's JSON Schema (2020-12), made from the model's declarations.

use serde_json::{Map, Value, json};

use super::{
    fact::Why,
    kinds::{JsonForm, LeafShape},
    model::{Inventory, Machine, Readings},
    record::{Described, Kind, Shape},
    version::{CURRENT, FORMAT},
};

/// The schema of a report.
pub fn schema() -> Value {
    let mut definitions = Map::new();
    let roots = [
        ("machine", Machine::SHAPE),
        ("inventory", Inventory::SHAPE),
        ("readings", Readings::SHAPE),
    ];
    let mut properties = Map::new();
    properties.insert("format".into(), json!({ "const": FORMAT }));
    properties.insert(
        "format_version".into(),
        json!({
            "type": "string",
            "pattern": format!("^{}\\.[0-9]+$", CURRENT.major),
            "description": "A newer major version changes what is there, a newer minor one adds.",
        }),
    );
    properties.insert("taken".into(), taken());
    for (name, shape) in roots {
        properties.insert(name.into(), reference(shape, &mut definitions));
    }
    properties.insert("gaps".into(), gaps());
    properties.insert("evidence".into(), evidence());
    properties.insert("sources".into(), sources());
    properties.insert(
        "notes".into(),
        json!({ "type": "array", "items": { "type": "string" },
                "description": "What a reader should know and no field says." }),
    );
    properties.insert(
        "inventory_digest".into(),
        json!({ "type": "string", "pattern": "^sha256:[0-9a-f]{64}$",
                "description": "Digest of the inventory's canonical JSON (RFC 8785)." }),
    );
    let required: Vec<Value> = properties.keys().cloned().map(Value::String).collect();
    json!({
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Tectum report",
        "type": "object",
        "required": required,
        "properties": properties,
        "$defs": definitions,
    })
}

fn reference(shape: &'static Shape, definitions: &mut Map<String, Value>) -> Value {
    if !definitions.contains_key(shape.name) {
        // Held free so that a type that holds itself would not go round for ever.
        definitions.insert(shape.name.into(), Value::Null);
        let mut properties = Map::new();
        let mut required = Vec::new();
        for field in shape.fields {
            if !matches!(field.kind, Kind::Optional(_)) {
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
            }
            properties.insert(field.name.into(), property);
        }
        definitions.insert(
            shape.name.into(),
            json!({
                "type": "object",
                "description": words(shape.doc),
                "required": required,
                "properties": properties,
            }),
        );
    }
    json!({ "$ref": format!("#/$defs/{}", shape.name) })
}

fn leaf_schema(leaf: LeafShape) -> Value {
    let mut schema = match leaf.form {
        JsonForm::String => json!({ "type": ["string", "null"] }),
        JsonForm::Term(terms) => {
            let words: Vec<Value> =
                terms.iter().map(|word| Value::from(*word)).chain([Value::Null]).collect();
            json!({ "enum": words })
        }
        JsonForm::Unsigned => json!({ "type": ["integer", "null"], "minimum": 0 }),
        JsonForm::Signed => json!({ "type": ["integer", "null"] }),
        JsonForm::Boolean => json!({ "type": ["boolean", "null"] }),
        JsonForm::Strings => json!({ "type": ["array", "null"], "items": { "type": "string" } }),
        JsonForm::Unsigneds => json!({
            "type": ["array", "null"],
            "items": { "type": "integer", "minimum": 0 },
        }),
    };
    if let (Some(kind), Some(members)) = (leaf.identifies, schema.as_object_mut()) {
        members.insert("x-identifies".into(), kind.word().into());
    }
    schema
}

/// Documentation as one line.
pub fn words(doc: &str) -> String {
    doc.split_whitespace().collect::<Vec<_>>().join(" ")
}

fn taken() -> Value {
    json!({
        "type": "object",
        "required": ["at", "tool", "subject", "privileged", "sections", "elapsed_ms"],
        "properties": {
            "at": { "type": "string", "format": "date-time" },
            "tool": { "type": "string" },
            "subject": { "type": "string" },
            "privileged": { "type": "boolean" },
            "sections": { "type": "array", "items": { "type": "string" } },
            "elapsed_ms": { "type": "integer", "minimum": 0 },
        },
    })
}

fn gaps() -> Value {
    json!({
        "type": "array",
        "description": "Every value that is null, with its reason.",
        "items": {
            "type": "object",
            "required": ["at", "why"],
            "properties": {
                "at": { "type": "string", "format": "json-pointer" },
                "why": { "enum": Why::ALL.map(Why::word) },
                "source": { "type": "string" },
                "hint": { "type": "string" },
                "raw": { "type": "string" },
                "tried": {
                    "type": "array",
                    "items": {
                        "type": "object",
                        "required": ["source", "answer"],
                        "properties": {
                            "source": { "type": "string" },
                            "answer": { "type": "string" },
                        },
                    },
                },
            },
        },
    })
}

fn evidence() -> Value {
    json!({
        "type": "object",
        "description": "For each value, by its JSON Pointer, where it came from.",
        "additionalProperties": {
            "type": "array",
            "items": {
                "type": "object",
                "required": ["source", "rule"],
                "properties": {
                    "source": { "type": "string" },
                    "where": { "type": "string" },
                    "rule": { "type": "string" },
                    "raw": { "type": "string" },
                    "stance": { "enum": ["agrees", "differs"] },
                    "says": { "type": "string" },
                },
            },
        },
    })
}

fn sources() -> Value {
    json!({
        "type": "array",
        "description": "Every access to the machine.",
        "items": {
            "type": "object",
            "required": ["path", "operation", "outcome", "bytes", "elapsed_us"],
            "properties": {
                "path": { "type": "string" },
                "operation": { "enum": ["read", "list", "resolve", "statvfs", "uname"] },
                "outcome": { "type": "string" },
                "bytes": { "type": "integer", "minimum": 0 },
                "elapsed_us": { "type": "integer", "minimum": 0 },
            },
        },
    })
}
