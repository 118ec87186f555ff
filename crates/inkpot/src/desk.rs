//! The common state of all verbs: the games, the ledger, and the output.

use std::io::IsTerminal;
use std::path::Path;
use std::sync::OnceLock;

use inkpot_core::{GameEntry, GameSource, Halt, Registry};
use inkpot_ledger::Ledger;

use crate::failure::Failure;
use crate::global::{Color, Global};
use crate::{game_file, hint, outlet, terminal};

/// Called by the first interrupt; the second ends the process at once.
static HALT: OnceLock<Halt> = OnceLock::new();

/// The common state of all verbs.
#[expect(clippy::struct_excessive_bools, reason = "each is a switch of the command line")]
pub(crate) struct Desk {
    pub(crate) registry: Registry,
    pub(crate) ledger: Ledger,
    pub(crate) threads: usize,
    pub(crate) json: bool,
    pub(crate) quiet: bool,
    /// Whether searches are watched in the terminal.
    pub(crate) watch: bool,
    pub(crate) color: bool,
    pub(crate) color_err: bool,
}

impl Desk {
    pub(crate) fn new(global: &Global, registry: Registry) -> Self {
        let plain = std::env::var_os("NO_COLOR").is_some_and(|value| !value.is_empty())
            || std::env::var_os("TERM").is_some_and(|terminal| terminal == "dumb");
        let on = |terminal: bool| match global.color {
            Color::Always => true,
            Color::Never => false,
            Color::Auto => terminal && !plain,
        };
        log(global.verbose);
        hint::use_ledger(&global.ledger);
        Self {
            registry: registry.loading(game_file::load),
            ledger: Ledger::at(&global.ledger),
            threads: global.threads.map_or_else(cores, usize::from),
            json: global.json,
            quiet: global.quiet,
            watch: false,
            color: on(std::io::stdout().is_terminal()),
            color_err: on(std::io::stderr().is_terminal()),
        }
    }

    /// Has searches watched in the terminal, if that is asked for. Errs where standard output is none.
    pub(crate) fn watching(&mut self, watch: bool) -> Result<(), Failure> {
        if watch && !(std::io::stdout().is_terminal() && std::io::stdin().is_terminal()) {
            return Err(Failure::wrong("`--watch` needs a terminal", "leave it out where the output goes elsewhere"));
        }
        self.watch = watch;
        Ok(())
    }

    /// Returns the game of this source; a name may be the path of a game file. Errs if there is none.
    pub(crate) fn game(&self, source: impl Into<GameSource>) -> Result<&dyn GameEntry, Failure> {
        let source = match source.into() {
            GameSource::Named(typed) => game_file::source(&typed, Path::new(""), &self.registry)?,
            file @ GameSource::File(_) => file,
        };
        self.registry.find(&source).map_err(|none| Failure::wrong(none.to_string(), none.help()))
    }

    /// Returns the request to stop a study; from now on an interrupt calls it instead of ending the process.
    pub(crate) fn halt_on_interrupt() -> &'static Halt {
        let halt = HALT.get_or_init(Halt::new);
        // Setting it twice fails, which is fine: the first handler stays.
        let _ = ctrlc::set_handler(|| {
            if halt.call() {
                terminal::leave();
                std::process::exit(130);
            }
            if !terminal::is_up() {
                outlet::say("stopping; a second interrupt ends the program at once", false);
            }
        });
        halt
    }

    /// Says something beside the results, unless asked to be quiet.
    pub(crate) fn say(&self, text: impl AsRef<str>) {
        if !self.quiet {
            outlet::say(text.as_ref(), self.color_err);
        }
    }

    /// Prints a result.
    pub(crate) fn print(&self, text: impl AsRef<str>) {
        outlet::print(text.as_ref(), self.color);
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
    let log = tracing_subscriber::fmt().with_max_level(level).with_writer(std::io::stderr);
    // A log that cannot be written is no reason to fall.
    let _ = log.log_internal_errors(false).try_init();
}
