//! Links of a tree, followed by text: as the kernel follows them, within the tree.

use std::{
    ffi::OsString,
    path::{Path, PathBuf},
};

use super::access::path_parts;

/// As many links as the kernel itself follows before it gives up (path_resolution(7)).
pub(super) const MOST_LINKS: usize = 40;

/// One place on the way of a path.
pub(super) struct Step<'a> {
    /// Where it is, all links before it followed.
    pub(super) at: &'a Path,
    /// Whether more of the path lies ahead.
    pub(super) is_on_the_way: bool,
    /// How many links were followed.
    pub(super) links: usize,
}

/// The path once all links are followed; `target` says where a link at a place leads, `None` where
/// none is there or it shall stand. An absolute target begins at the tree's top, and `..` at the top
/// stays there.
///
/// # Errors
/// Those of `target`, which ends the way.
pub(super) fn follow<E>(
    path: &Path,
    mut target: impl FnMut(Step<'_>) -> Result<Option<PathBuf>, E>,
) -> Result<PathBuf, E> {
    let mut real = PathBuf::from("/");
    let mut ahead: Vec<OsString> = path_parts(path).rev().collect();
    let mut links = 0;
    while let Some(part) = ahead.pop() {
        if part == ".." {
            real.pop();
            continue;
        }
        real.push(&part);
        let step = Step { at: &real, is_on_the_way: !ahead.is_empty(), links };
        if let Some(target) = target(step)? {
            links += 1;
            real.pop();
            if target.is_absolute() {
                real = PathBuf::from("/");
            }
            ahead.extend(path_parts(&target).rev());
        }
    }
    Ok(real)
}

#[cfg(test)]
mod tests {
    use std::{collections::HashMap, convert::Infallible};

    use proptest::prelude::*;
    use rstest::rstest;

    use super::*;

    fn links(all: &[(&str, &str)]) -> HashMap<PathBuf, PathBuf> {
        all.iter().map(|(from, to)| (PathBuf::from(from), PathBuf::from(to))).collect()
    }

    fn followed(path: &str, links: &HashMap<PathBuf, PathBuf>) -> PathBuf {
        let ended = follow(Path::new(path), |step| {
            let within = step.links < MOST_LINKS;
            Ok::<_, Infallible>(links.get(step.at).filter(|_| within).cloned())
        });
        ended.unwrap_or_else(|never| match never {})
    }

    #[rstest]
    #[case("/sys/block/sda/size", "/sys/devices/pci/sda/size")]
    #[case("/sys/block/sda/../x", "/sys/devices/pci/x")]
    #[case("/abs/x", "/etc/x")]
    #[case("/../../etc/.//x", "/etc/x")]
    #[case("/up/x", "/x")]
    #[case("/", "/")]
    fn a_way_is_walked_as_the_kernel_walks_it(#[case] path: &str, #[case] real: &str) {
        let links = links(&[
            ("/sys/block/sda", "../devices/pci/sda"),
            ("/abs", "/etc"),
            ("/up", "../../.."),
        ]);
        assert_eq!(followed(path, &links), Path::new(real));
    }

    #[test]
    fn links_in_a_ring_come_to_an_end() {
        let ring = links(&[("/a", "b"), ("/b", "a")]);
        assert_eq!(followed("/a/x", &ring), Path::new("/a/x"));
    }

    proptest! {
        #[test]
        fn no_tree_leads_out_of_itself(
            path in "[ab./]{0,12}",
            all in proptest::collection::hash_map("/[ab]{1,2}", "[ab./]{1,8}", 0..4),
        ) {
            let all = all.into_iter().map(|(from, to)| (from.into(), to.into())).collect();
            let real = followed(&path, &all);
            prop_assert!(real.is_absolute());
            prop_assert!(real.components().all(|part| part != std::path::Component::ParentDir));
        }
    }
}
