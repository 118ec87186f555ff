//! Work spread over threads whose results are taken in order.

use std::collections::BTreeMap;
use std::ops::ControlFlow;
use std::sync::{Condvar, Mutex, MutexGuard, PoisonError, mpsc};
use std::thread;

use inkpot_core::catch;
use thiserror::Error;

/// Results may wait for this many slower ones before them, per thread.
const AHEAD: u64 = 4;

/// Work that panicked outside of any match, where nobody can be blamed for it.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
#[error("a thread failed outside of any match: it {0}")]
pub struct Fell(pub String);

/// Runs `work` on every task on `threads` threads and hands tasks and results to `take`, on this thread, in order. Each
/// thread keeps a state from task to task, without effect on results. Ends with the tasks, or when `take` breaks; begun
/// work is then finished and discarded. With fewer threads than requested those do all the work; with none this one
/// does. Errs if work panics; results taken before stand.
pub(crate) fn in_order<W: Send, K, T: Send>(
    threads: usize,
    tasks: impl Iterator<Item = W> + Send,
    make_state: impl Fn() -> K + Sync,
    work: impl Fn(&mut K, &W) -> T + Sync,
    mut take: impl FnMut(W, T) -> ControlFlow<()>,
) -> Result<(), Fell> {
    let queue = Mutex::new(Queue { tasks, handed: 0, taken: 0, closed: false });
    let moved = Condvar::new();
    let (make_state, work) = (&make_state, &work);
    let (send, receive) = mpsc::channel();
    thread::scope(|scope| {
        // However this thread leaves, by a panic too, no other waits for it.
        let _closing = Closing { queue: &queue, moved: &moved };
        let mut running = 0;
        for _ in 0..threads.max(1) {
            let (queue, moved, send) = (&queue, &moved, send.clone());
            let body = move || {
                let done = catch(|| {
                    let mut state = make_state();
                    while let Some((number, task)) = next(queue, moved, AHEAD * threads as u64) {
                        let result = work(&mut state, &task);
                        if send.send(Ok((number, task, result))).is_err() {
                            break;
                        }
                    }
                });
                if let Err(message) = done {
                    let _ = send.send(Err(Fell(message)));
                }
            };
            match thread::Builder::new().spawn_scoped(scope, body) {
                Ok(_) => running += 1,
                Err(error) => {
                    tracing::warn!(%error, running, "the system gives no more threads");
                    break;
                }
            }
        }
        drop(send);
        if running == 0 {
            return alone(&queue, &moved, make_state, work, take);
        }
        let mut waiting = BTreeMap::new();
        let mut due = 0;
        for done in receive {
            let (number, task, result) = done?;
            waiting.insert(number, (task, result));
            while let Some((task, result)) = waiting.remove(&due) {
                due += 1;
                let flow = take(task, result);
                let mut queue = lock(&queue);
                queue.taken = due;
                moved.notify_all();
                if flow.is_break() {
                    return Ok(());
                }
            }
        }
        Ok(())
    })
}

/// All of it on this thread.
fn alone<W, K, T>(
    queue: &Mutex<Queue<impl Iterator<Item = W>>>,
    moved: &Condvar,
    make_state: impl Fn() -> K,
    work: impl Fn(&mut K, &W) -> T,
    mut take: impl FnMut(W, T) -> ControlFlow<()>,
) -> Result<(), Fell> {
    let mut state = catch(make_state).map_err(Fell)?;
    while let Some((number, task)) = next(queue, moved, 1) {
        let result = catch(|| work(&mut state, &task)).map_err(Fell)?;
        lock(queue).taken = number + 1;
        if take(task, result).is_break() {
            break;
        }
    }
    Ok(())
}

/// Closes the queue when it goes.
struct Closing<'a, I> {
    queue: &'a Mutex<Queue<I>>,
    moved: &'a Condvar,
}

impl<I> Drop for Closing<'_, I> {
    fn drop(&mut self) {
        lock(self.queue).closed = true;
        self.moved.notify_all();
    }
}

struct Queue<I> {
    tasks: I,
    handed: u64,
    taken: u64,
    closed: bool,
}

fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

fn next<W>(queue: &Mutex<Queue<impl Iterator<Item = W>>>, moved: &Condvar, ahead: u64) -> Option<(u64, W)> {
    let queue = lock(queue);
    let mut queue = moved
        .wait_while(queue, |queue| !queue.closed && queue.handed - queue.taken >= ahead)
        .unwrap_or_else(PoisonError::into_inner);
    if queue.closed {
        return None;
    }
    let task = queue.tasks.next()?;
    let number = queue.handed;
    queue.handed += 1;
    Some((number, task))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn results_come_in_order_whatever_each_takes() {
        for threads in [1, 2, 5] {
            let mut seen = Vec::new();
            let work = |&task: &u64| (0..(task * 7919) % 5000).fold(task, |a, b| a ^ b.rotate_left(7));
            in_order(
                threads,
                0..200,
                || (),
                |(), task| work(task),
                |task, result| {
                    assert_eq!(result, work(&task));
                    seen.push(task);
                    ControlFlow::Continue(())
                },
            )
            .unwrap();
            assert_eq!(seen, (0..200).collect::<Vec<_>>());
        }
    }

    #[test]
    fn breaking_ends_it_and_nobody_hangs() {
        let mut seen = 0;
        in_order(
            3,
            0..,
            || (),
            |(), &task: &u64| task,
            |task, _| {
                seen = task;
                if task == 40 { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
            },
        )
        .unwrap();
        assert_eq!(seen, 40);
    }

    #[test]
    fn a_panic_in_work_is_told_and_nobody_hangs() {
        for (threads, bad) in [(1, 0), (3, 40), (3, 41)] {
            let mut seen = Vec::new();
            let outcome = in_order(
                threads,
                0..,
                || (),
                |(), &task: &u64| assert_ne!(task, bad, "no such task"),
                |task, ()| {
                    seen.push(task);
                    ControlFlow::Continue(())
                },
            );
            assert!(outcome.as_ref().is_err_and(|fell| fell.0.contains("no such task")), "{outcome:?}");
            assert_eq!(seen, (0..seen.len() as u64).collect::<Vec<_>>());
            assert!(seen.len() as u64 <= bad);
        }
    }

    #[test]
    fn a_panic_where_results_are_taken_ends_it_too() {
        let fell = catch(|| in_order(3, 0.., || (), |(), &task: &u64| task, |task, _| panic!("no {task} here")));
        assert!(fell.unwrap_err().ends_with("no 0 here"));
    }

    #[test]
    fn without_threads_the_work_is_done_all_the_same() {
        let queue = Mutex::new(Queue { tasks: 0..50_u64, handed: 0, taken: 0, closed: false });
        let mut seen = Vec::new();
        let take = |task, twice: u64| {
            seen.push((task, twice));
            if task == 30 { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
        };
        alone(&queue, &Condvar::new(), || 2, |factor, task| *factor * task, take).unwrap();
        assert_eq!(seen, (0..=30).map(|task| (task, 2 * task)).collect::<Vec<_>>());
    }
}
