//! Work on many subjects: a few at a time, told in their order, so that memory does not grow with their
//! number.

/// Does a piece of work for each, as many at a time as there are cores, and tells what came of it in
/// their order.
pub(crate) fn side_by_side<T: Sync, R: Send, E>(
    items: &[T],
    work: impl Fn(&T) -> R + Sync,
    mut tell: impl FnMut(&T, R) -> Result<(), E>,
) -> Result<(), E> {
    let workers = std::thread::available_parallelism().map_or(1, usize::from);
    for together in items.chunks(workers) {
        let done: Vec<R> = match together {
            [one] => vec![work(one)],
            several => std::thread::scope(|scope| {
                let begun: Vec<_> = several.iter().map(|item| scope.spawn(|| work(item))).collect();
                begun
                    .into_iter()
                    .map(|thread| {
                        thread.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))
                    })
                    .collect()
            }),
        };
        for (item, result) in together.iter().zip(done) {
            tell(item, result)?;
        }
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_done_is_told_in_order_until_one_will_not_be_told() {
        let items: Vec<u32> = (0..20).collect();
        let mut told = Vec::new();
        let ended = side_by_side(
            &items,
            |item| item * 2,
            |item, done| {
                told.push((*item, done));
                if *item == 11 { Err("enough") } else { Ok(()) }
            },
        );
        assert_eq!(ended, Err("enough"));
        assert_eq!(told, (0..12).map(|item| (item, item * 2)).collect::<Vec<_>>());
    }
}
