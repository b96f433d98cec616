//! A view a kind of part, made of the model's declarations, for people's own questions in SQL: a row a part of
//! every machine as it was seen last.

use tectum_report::{
    declare::{Kind, Record, Shape},
    leaf::{JsonForm, LeafShape},
    model::Inventory,
};

/// A view: its name, and the text that makes it.
pub(super) struct View {
    pub(super) name: String,
    pub(super) text: String,
}

/// The view of each section and of each list of parts.
pub(super) fn views() -> Vec<View> {
    let mut views = Vec::new();
    for field in Inventory::default().shape().fields {
        if let Some(inner) = field.kind.inner() {
            let from =
                format!("(SELECT * FROM tectum.latest_section WHERE name = '{}') AS l", field.name);
            descend(field.name, inner, &from, "l.content", 0, &mut views);
        }
    }
    views
}

/// The longest name that the server keeps whole.
const LONGEST_NAME: usize = 63;

fn descend(
    name: &str,
    shape: &Shape,
    from: &str,
    value: &str,
    depth: usize,
    views: &mut Vec<View>,
) {
    let mut columns = Vec::new();
    leaves(shape, value, "", &mut columns);
    if !columns.is_empty() && name.len() <= LONGEST_NAME {
        let columns = columns.join(",\n    ");
        let text = format!(
            "CREATE VIEW tectum.{name} AS SELECT\n    l.host, l.key AS machine, l.last_seen,\n    {columns}\nFROM {from}\nWHERE ({value}) IS NOT NULL"
        );
        views.push(View { name: name.to_owned(), text });
    }
    lists(name, shape, from, value, depth, views);
}

/// The lists in a record, and in the records in it.
fn lists(name: &str, shape: &Shape, from: &str, value: &str, depth: usize, views: &mut Vec<View>) {
    for field in shape.fields {
        let inner_name = format!("{name}_{}", field.name);
        let inner_value = format!("{value} -> '{}'", field.name);
        match field.kind {
            Kind::Leaf(_) => {}
            Kind::Record(inner) | Kind::Optional(inner) => {
                lists(&inner_name, inner, from, &inner_value, depth, views);
            }
            Kind::List(inner) => {
                let part = format!("p{depth}");
                // What is not known is no list, and has no rows.
                let list = format!(
                    "CASE jsonb_typeof({inner_value}) WHEN 'array' THEN {inner_value} ELSE '[]'::jsonb END"
                );
                let from = format!(
                    "{from}\n    CROSS JOIN LATERAL jsonb_array_elements({list}) AS {part}"
                );
                descend(&inner_name, inner, &from, &part, depth + 1, views);
            }
        }
    }
}

/// The columns of a record's own values.
fn leaves(shape: &Shape, value: &str, before: &str, columns: &mut Vec<String>) {
    for field in shape.fields {
        let name = format!("{before}{}", field.name);
        match field.kind {
            Kind::Leaf(leaf) => {
                columns.push(format!("{} AS \"{name}\"", typed(leaf, value, field.name)));
            }
            Kind::Record(inner) | Kind::Optional(inner) => {
                let value = format!("{value} -> '{}'", field.name);
                leaves(inner, &value, &format!("{name}_"), columns);
            }
            Kind::List(_) => {}
        }
    }
}

/// A value as the type that its declaration says.
fn typed(leaf: LeafShape, value: &str, name: &str) -> String {
    let text = format!("({value} ->> '{name}')");
    match leaf.form {
        JsonForm::Unsigned => format!("{text}::numeric"),
        JsonForm::Signed => format!("{text}::bigint"),
        JsonForm::Boolean => format!("{text}::boolean"),
        JsonForm::Set(_) | JsonForm::Series(_) => format!("({value} -> '{name}')"),
        JsonForm::String | JsonForm::Formatted(_) | JsonForm::Pattern(_) | JsonForm::Code(_) => {
            text
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_list_of_the_model_has_a_view_whose_name_the_server_keeps() {
        let views = views();
        let names: std::collections::BTreeSet<&str> =
            views.iter().map(|view| view.name.as_str()).collect();
        assert_eq!(names.len(), views.len());
        for name in ["memory_modules", "storage_disks", "storage_disks_partitions", "cpu", "os"] {
            assert!(names.contains(name), "{name} in {names:?}");
        }
        fn count(shape: &Shape) -> usize {
            let own = shape.fields.iter().map(|field| match field.kind {
                Kind::Leaf(_) => 0,
                Kind::Record(inner) | Kind::Optional(inner) => count(inner),
                Kind::List(inner) => 1 + count(inner),
            });
            own.sum()
        }
        let lists = count(Inventory::default().shape());
        assert!(views.len() >= lists, "{} views of {lists} lists", views.len());
    }
}
