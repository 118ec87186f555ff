//! Work spread over threads whose results are taken in order.

use std::collections::BTreeMap;
use std::ops::ControlFlow;
use std::sync::{Condvar, Mutex, MutexGuard, PoisonError, mpsc};
use std::thread;

/// Results may wait for so many slower ones before them, per thread.
const AHEAD: u64 = 4;

/// Runs `work` on every task on `threads` threads and hands task and result to `take`, on this thread, in the order of
/// the tasks. Ends when the tasks end, or when `take` breaks; work begun is then finished but not taken.
pub(crate) fn in_order<W: Send, T: Send>(
    threads: usize,
    tasks: impl Iterator<Item = W> + Send,
    work: impl Fn(&W) -> T + Sync,
    mut take: impl FnMut(W, T) -> ControlFlow<()>,
) {
    let desk = Mutex::new(Desk { tasks, handed: 0, taken: 0, closed: false });
    let moved = Condvar::new();
    let (send, receive) = mpsc::channel();
    thread::scope(|scope| {
        for _ in 0..threads.max(1) {
            let (desk, moved, work, send) = (&desk, &moved, &work, send.clone());
            scope.spawn(move || {
                while let Some((number, task)) = next(desk, moved, AHEAD * threads as u64) {
                    let result = work(&task);
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
                let mut desk = lock(&desk);
                desk.taken = due;
                desk.closed |= flow.is_break();
                moved.notify_all();
                if flow.is_break() {
                    return;
                }
            }
        }
    });
}

struct Desk<I> {
    tasks: I,
    handed: u64,
    taken: u64,
    closed: bool,
}

fn lock<T>(mutex: &Mutex<T>) -> MutexGuard<'_, T> {
    mutex.lock().unwrap_or_else(PoisonError::into_inner)
}

fn next<W>(desk: &Mutex<Desk<impl Iterator<Item = W>>>, moved: &Condvar, ahead: u64) -> Option<(u64, W)> {
    let desk = lock(desk);
    let mut desk = moved
        .wait_while(desk, |desk| !desk.closed && desk.handed - desk.taken >= ahead)
        .unwrap_or_else(PoisonError::into_inner);
    if desk.closed {
        return None;
    }
    let task = desk.tasks.next()?;
    let number = desk.handed;
    desk.handed += 1;
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
            in_order(threads, 0..200, work, |task, result| {
                assert_eq!(result, work(&task));
                seen.push(task);
                ControlFlow::Continue(())
            });
            assert_eq!(seen, (0..200).collect::<Vec<_>>());
        }
    }

    #[test]
    fn breaking_ends_it_and_nobody_hangs() {
        let mut seen = 0;
        in_order(
            3,
            0..,
            |&task: &u64| task,
            |task, _| {
                seen = task;
                if task == 40 { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
            },
        );
        assert_eq!(seen, 40);
    }
}
