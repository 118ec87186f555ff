//! Asking work under way to stop.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};

/// A request to stop matches and decisions soon. Clones share it. Unfinished work is discarded after the call.
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

    /// Makes the request; returns whether it had been made before.
    pub fn call(&self) -> bool {
        self.0.as_ref().is_some_and(|called| called.swap(true, Ordering::Relaxed))
    }

    /// Whether it was called.
    #[inline]
    pub fn is_called(&self) -> bool {
        self.0.as_ref().is_some_and(|called| called.load(Ordering::Relaxed))
    }
}
