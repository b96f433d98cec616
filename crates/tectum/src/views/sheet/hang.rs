//! What hangs on what, as trees. What machines say of that is not trusted: it may lead in a circle or nowhere.

use std::collections::{HashMap, HashSet};

use crate::page::Node;

/// A thing: its name, the name of what it hangs on, and what is to say of it.
pub(super) struct Thing {
    pub(super) name: String,
    pub(super) on: Option<String>,
    pub(super) text: String,
}

/// No machine hangs deeper.
const DEEPEST: usize = 40;

/// Things as trees, in their order. What hangs on nothing that is there, or in a circle, stands by itself.
pub(super) fn trees(things: &[Thing]) -> Vec<Node> {
    let there: HashMap<&str, usize> =
        things.iter().enumerate().map(|(at, thing)| (thing.name.as_str(), at)).collect();
    let mut below: HashMap<usize, Vec<usize>> = HashMap::new();
    let mut roots = Vec::new();
    for (at, thing) in things.iter().enumerate() {
        match thing.on.as_deref().and_then(|on| there.get(on)).filter(|on| **on != at) {
            Some(on) => below.entry(*on).or_default().push(at),
            None => roots.push(at),
        }
    }
    let mut told = HashSet::new();
    let mut trees: Vec<Node> =
        roots.into_iter().filter_map(|at| node(at, things, &below, &mut told, 0)).collect();
    // What is left hangs in a circle.
    for at in 0..things.len() {
        trees.extend(node(at, things, &below, &mut told, DEEPEST));
    }
    trees
}

fn node(
    at: usize,
    things: &[Thing],
    below: &HashMap<usize, Vec<usize>>,
    told: &mut HashSet<usize>,
    depth: usize,
) -> Option<Node> {
    let thing = things.get(at)?;
    if !told.insert(at) {
        return None;
    }
    let own = below.get(&at).map_or(&[][..], Vec::as_slice);
    let own = own.iter().filter(|_| depth < DEEPEST);
    let below = own.filter_map(|at| node(*at, things, below, told, depth + 1)).collect();
    Some(Node { text: thing.text.clone(), below })
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn count(nodes: &[Node]) -> usize {
        nodes.iter().map(|node| 1 + count(&node.below)).sum()
    }

    #[test]
    fn what_hangs_on_a_thing_stands_below_it() {
        let thing = |name: &str, on: Option<&str>| Thing {
            name: name.to_owned(),
            on: on.map(str::to_owned),
            text: name.to_owned(),
        };
        let all = [thing("b", Some("a")), thing("a", None), thing("c", Some("nowhere"))];
        let leaf = |text: &str| Node { text: text.to_owned(), below: Vec::new() };
        let a = Node { text: "a".to_owned(), below: vec![leaf("b")] };
        assert_eq!(trees(&all), [a, leaf("c")]);
    }

    proptest! {
        #[test]
        fn each_thing_is_told_once_however_they_hang(on in prop::collection::vec(0_usize..60, 0..60)) {
            let things: Vec<Thing> = on
                .iter()
                .enumerate()
                .map(|(at, on)| Thing {
                    name: at.to_string(),
                    on: Some(on.to_string()),
                    text: at.to_string(),
                })
                .collect();
            prop_assert_eq!(count(&trees(&things)), things.len());
        }
    }
}
