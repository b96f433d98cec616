//! Work on many machines: a few at a time, told in their order, so that memory does not grow with their
//! number.

use std::{
    collections::BTreeMap,
    panic::{AssertUnwindSafe, catch_unwind, resume_unwind},
    sync::{Condvar, Mutex, MutexGuard, PoisonError, mpsc},
};

/// Does a piece of work for each, as many at a time as there are cores, and tells what came of it in their
/// order. Each core does `row` of them in one go: one where results are large, more where they are small and
/// quickly done. No more than one row is done ahead of those that the cores are at.
///
/// # Errors
/// The first that `tell` says; then nothing more is told.
pub fn side_by_side<T: Sync, R: Send, E>(
    items: &[T],
    row: usize,
    work: impl Fn(&T) -> R + Sync,
    mut tell: impl FnMut(&T, R) -> Result<(), E>,
) -> Result<(), E> {
    let rows: Vec<&[T]> = items.chunks(row.max(1)).collect();
    // How many there are takes files to ask, which one piece of work need not wait for.
    let cores = match rows.len() {
        0 | 1 => 1,
        many => std::thread::available_parallelism().map_or(1, usize::from).min(many),
    };
    if cores == 1 {
        return items.iter().try_for_each(|item| tell(item, work(item)));
    }
    let queue = Queue {
        rows: rows.len(),
        ahead: cores + 1,
        state: Mutex::default(),
        moved: Condvar::new(),
    };
    std::thread::scope(|scope| {
        let (done, results) = mpsc::channel();
        for _ in 0..cores {
            let (done, queue, rows, work) = (done.clone(), &queue, &rows, &work);
            // They stay for all of it: what a thread that begins anew takes from the kernel costs more than the work.
            scope.spawn(move || {
                while let Some(number) = queue.take() {
                    let own = rows.get(number).copied().unwrap_or_default();
                    let result =
                        catch_unwind(AssertUnwindSafe(|| own.iter().map(work).collect::<Vec<R>>()));
                    // Who would hear of it has gone.
                    if done.send((number, result)).is_err() {
                        return;
                    }
                }
            });
        }
        drop(done);
        let told = told_in_order(&rows, &queue, &results, &mut tell);
        queue.end();
        told
    })
}

/// Tells what came of the rows, in their order.
fn told_in_order<T, R, E>(
    rows: &[&[T]],
    queue: &Queue,
    results: &mpsc::Receiver<(usize, std::thread::Result<Vec<R>>)>,
    tell: &mut impl FnMut(&T, R) -> Result<(), E>,
) -> Result<(), E> {
    let mut waiting = BTreeMap::new();
    let mut next = 0;
    for (number, result) in results {
        let done = result.unwrap_or_else(|panic| {
            queue.end();
            resume_unwind(panic)
        });
        waiting.insert(number, done);
        while let Some(done) = waiting.remove(&next) {
            let own = rows.get(next).copied().unwrap_or_default();
            for (item, result) in own.iter().zip(done) {
                tell(item, result)?;
            }
            next += 1;
            queue.told();
        }
    }
    Ok(())
}

/// Which row is done next.
struct Queue {
    rows: usize,
    /// How many rows may be begun that are not told yet.
    ahead: usize,
    state: Mutex<At>,
    moved: Condvar,
}

#[derive(Default)]
struct At {
    next: usize,
    told: usize,
    ended: bool,
}

impl Queue {
    fn at(&self) -> MutexGuard<'_, At> {
        self.state.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// The next row to be done; none, if there are no more or nobody wants one.
    fn take(&self) -> Option<usize> {
        let waits =
            |at: &mut At| !at.ended && at.next < self.rows && at.next >= at.told + self.ahead;
        let mut at =
            self.moved.wait_while(self.at(), waits).unwrap_or_else(PoisonError::into_inner);
        if at.ended || at.next >= self.rows {
            return None;
        }
        at.next += 1;
        Some(at.next - 1)
    }

    fn told(&self) {
        self.at().told += 1;
        self.moved.notify_all();
    }

    fn end(&self) {
        self.at().ended = true;
        self.moved.notify_all();
    }
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

    #[rstest]
    fn no_more_is_done_ahead_than_a_few_rows(#[values(1, 4)] row: usize) {
        let begun = std::sync::atomic::AtomicUsize::new(0);
        let count = || begun.load(std::sync::atomic::Ordering::SeqCst);
        let items: Vec<usize> = (0..400).collect();
        let cores = std::thread::available_parallelism().map_or(1, usize::from);
        let work = |item: &usize| {
            begun.fetch_add(1, std::sync::atomic::Ordering::SeqCst);
            *item
        };
        side_by_side(&items, row, work, |item, done| {
            assert_eq!(*item, done);
            std::thread::sleep(std::time::Duration::from_micros(200));
            let most = item + (cores + 2) * row;
            if count() > most { Err(count()) } else { Ok(()) }
        })
        .unwrap();
        assert_eq!(count(), 400);
    }

    #[rstest]
    #[should_panic(expected = "of item 13")]
    fn a_panic_is_passed_on_and_ends_it() {
        let items: Vec<u32> = (0..400).collect();
        let work = |item: &u32| assert!(*item != 13, "of item 13");
        let _ = side_by_side(&items, 2, work, |_, ()| Ok::<(), ()>(()));
    }
}
