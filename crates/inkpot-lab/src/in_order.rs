//! Work spread over threads whose results are taken in order.

use std::collections::BTreeMap;
use std::ops::ControlFlow;
use std::sync::{Condvar, Mutex, MutexGuard, PoisonError, mpsc};
use std::thread;

/// Results may wait for so many slower ones before them, per thread.
const AHEAD: u64 = 4;

/// Runs `work` on every task on `threads` threads and hands task and result to `take`, on this thread, in the order of
/// the tasks. Each thread keeps something of its own from task to task, which has no bearing on results. Ends when the
/// tasks end, or when `take` breaks; work begun is then finished but not taken.
pub(crate) fn in_order<W: Send, K, T: Send>(
    threads: usize,
    tasks: impl Iterator<Item = W> + Send,
    kept: impl Fn() -> K + Sync,
    work: impl Fn(&mut K, &W) -> T + Sync,
    mut take: impl FnMut(W, T) -> ControlFlow<()>,
) {
    let queue = Mutex::new(Queue { tasks, handed: 0, taken: 0, closed: false });
    let moved = Condvar::new();
    let (send, receive) = mpsc::channel();
    thread::scope(|scope| {
        for _ in 0..threads.max(1) {
            let (queue, moved, kept, work, send) = (&queue, &moved, &kept, &work, send.clone());
            scope.spawn(move || {
                let mut kept = kept();
                while let Some((number, task)) = next(queue, moved, AHEAD * threads as u64) {
                    let result = work(&mut kept, &task);
                    if send.send((number, task, result)).is_err() {
                        break;
                    }
                }
            });
        }
        drop(send);
        let mut waiting = BTreeMap::new();
        let mut due = 0;
        for (number, task, result) in receive {
            waiting.insert(number, (task, result));
            while let Some((task, result)) = waiting.remove(&due) {
                due += 1;
                let flow = take(task, result);
                let mut queue = lock(&queue);
                queue.taken = due;
                queue.closed |= flow.is_break();
                moved.notify_all();
                if flow.is_break() {
                    return;
                }
            }
        }
    });
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
            );
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
        );
        assert_eq!(seen, 40);
    }
}
