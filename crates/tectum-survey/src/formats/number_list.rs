//! Lists of CPU or node numbers such as `0-3,8,10-11` (kernel documentation,
//! `admin-guide/cputopology`: the "cpulist" form).

/// More numbers than any kernel can be built for: a longer list is refused, not expanded.
pub const MOST: usize = 1 << 16;

/// The numbers of a list in rising order, each once; `None` where it is no list.
///
/// An empty text is an empty list. Ranges with strides (`0-31:2/4`) are not what sysfs writes.
pub fn parse(text: &str) -> Option<Vec<u64>> {
    let mut left = usize::MAX;
    parse_within(text, &mut left)
}

/// The same for one of several lists, all of which together hold no more than `left`, which is
/// counted down: a CPU is near to one node, so the nodes' lists are no longer than one list of all.
pub fn parse_within(text: &str, left: &mut usize) -> Option<Vec<u64>> {
    let text = text.trim();
    let mut numbers = Vec::new();
    if text.is_empty() {
        return Some(numbers);
    }
    for part in text.split(',') {
        let (first, last) = match part.split_once('-') {
            Some((first, last)) => (number(first)?, number(last)?),
            None => (number(part)?, number(part)?),
        };
        let span = last.checked_sub(first)?;
        if usize::try_from(span).ok()?.checked_add(numbers.len())? >= MOST {
            return None;
        }
        numbers.extend(first..=last);
    }
    numbers.sort_unstable();
    numbers.dedup();
    *left = left.checked_sub(numbers.len())?;
    Some(numbers)
}

fn number(text: &str) -> Option<u64> {
    text.bytes().all(|byte| byte.is_ascii_digit()).then(|| text.parse().ok())?
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use rstest::rstest;

    use tectum_report::leaf::ranges;

    use super::*;

    #[rstest]
    #[case("0-3,8,10-11\n", Some(vec![0, 1, 2, 3, 8, 10, 11]))]
    #[case("", Some(vec![]))]
    #[case("5,1,5", Some(vec![1, 5]))]
    #[case("3-1", None)]
    #[case("0-", None)]
    #[case("0-4294967295", None)]
    #[case("0-18446744073709551615", None)]
    #[case("+1", None)]
    fn lists_are_read_or_refused(#[case] text: &str, #[case] numbers: Option<Vec<u64>>) {
        assert_eq!(parse(text), numbers);
    }

    proptest! {
        #[test]
        fn what_is_written_is_read_back(numbers in proptest::collection::btree_set(0u64..5000, 0..200)) {
            let numbers: Vec<u64> = numbers.into_iter().collect();
            prop_assert_eq!(parse(&ranges(&numbers)), Some(numbers));
        }

        #[test]
        fn no_text_makes_it_panic(text in ".{0,200}") {
            let _ = parse(&text);
        }
    }
}
