//! Parts that are alike, told together: a machine of forty ports is told on the screen of one of four.

/// So many that are alike are told one by one.
const ONE_BY_ONE: usize = 3;
/// So many of them are named.
const MOST_NAMES: usize = 12;

/// Parts in their order, those that are alike together where they are many. What has no likeness stands alone.
pub(super) fn alike<'a, T>(
    parts: impl Iterator<Item = &'a T>,
    likeness: impl Fn(&T) -> Option<String>,
) -> Vec<Vec<&'a T>> {
    let mut groups: Vec<(Option<String>, Vec<&'a T>)> = Vec::new();
    for part in parts {
        let is = likeness(part);
        match groups.iter_mut().find(|(own, _)| is.is_some() && *own == is) {
            Some((_, group)) => group.push(part),
            None => groups.push((is, vec![part])),
        }
    }
    let groups = groups.into_iter().map(|(_, group)| group);
    groups
        .flat_map(|group| match group.len() > ONE_BY_ONE {
            true => vec![group],
            false => group.into_iter().map(|one| vec![one]).collect(),
        })
        .collect()
}

/// What parts are called, one after the other, as many as there is room for.
pub(super) fn names<T>(parts: &[&T], name: impl Fn(&T) -> String) -> String {
    let names: Vec<String> = parts.iter().take(MOST_NAMES).map(|part| name(part)).collect();
    match parts.len().saturating_sub(MOST_NAMES) {
        0 => names.join(", "),
        more => format!("{} and {more} more", names.join(", ")),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn many_that_are_alike_are_told_together_and_others_alone() {
        let parts = ["a1", "b1", "a2", "a3", "c", "a4", "b2"];
        let groups = alike(parts.iter(), |part| part.chars().next().map(String::from));
        let told: Vec<String> =
            groups.iter().map(|group| names(group, |it| (*it).to_owned())).collect();
        assert_eq!(told, ["a1, a2, a3, a4", "b1", "b2", "c"]);
        let many: Vec<usize> = (0..40).collect();
        let groups = alike(many.iter(), |_| Some(String::new()));
        assert!(names(&groups[0], ToString::to_string).ends_with(", 11 and 28 more"));
        assert_eq!(alike(many.iter(), |_| None).len(), 40);
    }
}
