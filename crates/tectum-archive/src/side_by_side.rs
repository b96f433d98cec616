//! Work on many machines: a few at a time, told in their order, so that memory does not grow with their
//! number.

/// Does a piece of work for each, as many at a time as there are cores, and tells what came of it in their
/// order. Each core does `row` of them in one go: one where results are large, more where they are small and
/// quickly done.
///
/// # Errors
/// The first that `tell` says; then nothing more is told.
pub fn side_by_side<T: Sync, R: Send, E>(
    items: &[T],
    row: usize,
    work: impl Fn(&T) -> R + Sync,
    mut tell: impl FnMut(&T, R) -> Result<(), E>,
) -> Result<(), E> {
    // How many there are takes files to ask, which one piece of work need not wait for.
    let cores = match items {
        [] | [_] => 1,
        _ => std::thread::available_parallelism().map_or(1, usize::from),
    };
    let row = row.max(1);
    for together in items.chunks(cores * row) {
        let done: Vec<Vec<R>> = match together {
            [one] => vec![vec![work(one)]],
            several => std::thread::scope(|scope| {
                let work = &work;
                let begun: Vec<_> = several
                    .chunks(row)
                    .map(|row| scope.spawn(move || row.iter().map(work).collect::<Vec<R>>()))
                    .collect();
                begun
                    .into_iter()
                    .map(|thread| {
                        thread.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic))
                    })
                    .collect()
            }),
        };
        for (item, result) in together.iter().zip(done.into_iter().flatten()) {
            tell(item, result)?;
        }
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use rstest::rstest;

    use super::*;

    #[rstest]
    fn what_was_done_is_told_in_order_until_one_will_not_be_told(
        #[values(0, 1, 3, 50)] row: usize,
    ) {
        let items: Vec<u32> = (0..20).collect();
        let mut told = Vec::new();
        let ended = side_by_side(
            &items,
            row,
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
