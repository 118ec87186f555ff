//! What every verb shares: the games, the ledger, and how to talk.

use std::io::IsTerminal;
use std::sync::atomic::{AtomicBool, Ordering};

use inkpot_core::{GameEntry, Registry};
use inkpot_lab::Problem;
use inkpot_ledger::Ledger;

use crate::args::{Color, Global};
use crate::failure::Failure;

/// Set by the first interrupt; the second ends the process at once.
static STOP: AtomicBool = AtomicBool::new(false);

/// What every verb shares.
#[expect(clippy::struct_excessive_bools, reason = "each is a switch of the command line")]
pub(crate) struct Desk {
    pub(crate) registry: Registry,
    pub(crate) ledger: Ledger,
    pub(crate) threads: usize,
    pub(crate) json: bool,
    pub(crate) quiet: bool,
    pub(crate) color: bool,
    pub(crate) color_err: bool,
}

impl Desk {
    pub(crate) fn new(global: &Global, registry: Registry) -> Self {
        let plain = std::env::var_os("NO_COLOR").is_some_and(|value| !value.is_empty());
        let on = |terminal: bool| match global.color {
            Color::Always => true,
            Color::Never => false,
            Color::Auto => terminal && !plain,
        };
        log(global.verbose);
        Self {
            registry,
            ledger: Ledger::at(&global.ledger),
            threads: global.threads.map_or_else(cores, usize::from),
            json: global.json,
            quiet: global.quiet,
            color: on(std::io::stdout().is_terminal()),
            color_err: on(std::io::stderr().is_terminal()),
        }
    }

    /// The game of this name.
    pub(crate) fn game(&self, name: &str) -> Result<&dyn GameEntry, Failure> {
        self.registry.game(name).ok_or_else(|| {
            let names: Vec<_> = self.registry.games().map(|game| game.sheet().name.clone()).collect();
            let near = self.registry.nearest(name).map(|near| format!("did you mean `{near}`? ")).unwrap_or_default();
            let problem = Problem::new(
                "game",
                format!("there is no game `{name}`"),
                format!("{near}There are: {}", names.join(", ")),
            );
            Failure::wrong(problem.what, problem.help)
        })
    }

    /// The flag that asks a study to stop; from now on an interrupt sets it instead of ending the process.
    pub(crate) fn stop_on_interrupt() -> &'static AtomicBool {
        // Setting it twice fails, which is fine: the first handler stays.
        let _ = ctrlc::set_handler(|| {
            if STOP.swap(true, Ordering::Relaxed) {
                std::process::exit(130);
            }
        });
        &STOP
    }

    /// Says something beside the results, unless asked to be quiet.
    pub(crate) fn say(&self, text: impl AsRef<str>) {
        if !self.quiet {
            eprintln!("{}", text.as_ref());
        }
    }

    /// Prints a result; a closed pipe ends the process quietly, as readers like `head` expect.
    #[expect(clippy::unused_self, reason = "printing belongs to the desk, whatever it needs of it")]
    pub(crate) fn print(&self, text: impl AsRef<str>) {
        use std::io::Write;
        if writeln!(std::io::stdout().lock(), "{}", text.as_ref().trim_end()).is_err() {
            std::process::exit(0);
        }
    }

    /// Prints a JSON document.
    pub(crate) fn print_json(&self, value: &serde_json::Value) {
        self.print(format!("{value:#}"));
    }
}

fn cores() -> usize {
    std::thread::available_parallelism().map_or(1, usize::from)
}

fn log(verbose: u8) {
    let level = match verbose {
        0 => return,
        1 => tracing::Level::INFO,
        2 => tracing::Level::DEBUG,
        _ => tracing::Level::TRACE,
    };
    let _ = tracing_subscriber::fmt().with_max_level(level).with_writer(std::io::stderr).try_init();
}
