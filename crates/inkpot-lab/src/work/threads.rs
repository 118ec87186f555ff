//! Work on the threads of this process.

use std::ops::ControlFlow;

use super::in_order::in_order;
use super::{Answer, Executor, Fell, Job, Task};

/// This many threads of this process.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Threads(pub usize);

impl Executor for Threads {
    fn run(
        &self,
        job: &dyn Job,
        tasks: &mut (dyn Iterator<Item = Task> + Send),
        take: &mut dyn FnMut(Task, Answer) -> ControlFlow<()>,
    ) -> Result<(), Fell> {
        in_order(self.0, tasks, || job.worker(), |worker, task| worker(task), take)
    }
}
