//! Asking work under way to stop.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

/// Asks matches and decisions under way to stop as soon as they can. Clones share one answer. What was under way when
/// it was called has no result: whoever calls it throws away what comes of it.
#[derive(Clone, Debug, Default)]
pub struct Halt(Option<Arc<AtomicBool>>);

/// One that is never called.
pub(crate) static NEVER: Halt = Halt(None);

impl Halt {
    /// A halt that can be called.
    pub fn new() -> Self {
        Self(Some(Arc::default()))
    }

    /// A halt that is never called.
    pub fn never() -> Self {
        Self(None)
    }

    /// Asks all who heed it to stop; gives whether they had been asked before.
    pub fn call(&self) -> bool {
        self.0.as_ref().is_some_and(|called| called.swap(true, Ordering::Relaxed))
    }

    /// Whether it was called.
    #[inline]
    pub fn is_called(&self) -> bool {
        self.0.as_ref().is_some_and(|called| called.load(Ordering::Relaxed))
    }
}
