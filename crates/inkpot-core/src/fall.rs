//! Panics of games and agents, caught at the match boundary.

use std::any::Any;
use std::cell::{Cell, RefCell};
use std::panic::{self, AssertUnwindSafe};
use std::sync::Once;

thread_local! {
    static IN_MATCH: Cell<bool> = const { Cell::new(false) };
    static WHERE: RefCell<Option<String>> = const { RefCell::new(None) };
}

/// Keeps panics inside matches off standard error, since each is kept with its match; others are printed as before.
/// Called once by the program.
pub fn quiet_panics_in_matches() {
    static ONCE: Once = Once::new();
    ONCE.call_once(|| {
        let usual = panic::take_hook();
        panic::set_hook(Box::new(move |info| {
            if IN_MATCH.get() {
                WHERE.set(info.location().map(ToString::to_string));
            } else {
                usual(info);
            }
        }));
    });
}

/// Runs `body`; a panic comes back as its message, with its place where the hook is in force.
pub fn catch<T>(body: impl FnOnce() -> T) -> Result<T, String> {
    let before = IN_MATCH.replace(true);
    let result = panic::catch_unwind(AssertUnwindSafe(body));
    IN_MATCH.set(before);
    result.map_err(|payload| {
        let message = message(payload.as_ref());
        match WHERE.take() {
            Some(place) => format!("panicked at {place}: {message}"),
            None => format!("panicked: {message}"),
        }
    })
}

fn message(payload: &(dyn Any + Send)) -> &str {
    payload
        .downcast_ref::<String>()
        .map(String::as_str)
        .or_else(|| payload.downcast_ref::<&str>().copied())
        .unwrap_or("no message")
}
