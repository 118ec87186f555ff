//! A search that is watched, in a terminal: its keys, and what is left when the terminal goes.

#![cfg(unix)]

mod common;

use std::io::{Read, Write};
use std::num::NonZero;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use common::{Bench, KNOBS};
use portable_pty::{Child, CommandBuilder, MasterPty, PtySize, native_pty_system};

/// A search that goes on for as long as anybody watches it.
fn brief() -> String {
    KNOBS.replace("matches = 800", "matches = 40000000\nstagnation = 100000").replace("blocks = 2", "blocks = 20")
}

/// The size of the terminal.
const ROWS: NonZero<u16> = NonZero::new(34).unwrap();
const COLUMNS: NonZero<u16> = NonZero::new(130).unwrap();
/// What takes longer than this hangs.
const HANGS: Duration = Duration::from_secs(60);

/// The program in a terminal.
struct Terminal {
    child: Box<dyn Child + Send + Sync>,
    master: Option<Box<dyn MasterPty + Send>>,
    keys: Option<Box<dyn Write + Send>>,
    screen: Arc<Mutex<vt100::Parser>>,
    /// Whether nobody reads it any more.
    gone: Arc<AtomicBool>,
}

impl Terminal {
    fn run(bench: &Bench, arguments: &str) -> Self {
        let pair = native_pty_system()
            .openpty(PtySize { rows: ROWS.get(), cols: COLUMNS.get(), ..PtySize::default() })
            .unwrap();
        let mut command = CommandBuilder::new(assert_cmd::cargo::cargo_bin!("inkpot"));
        command.args(arguments.split_whitespace());
        command.cwd(bench.path(""));
        command.env("TERM", "xterm-256color");
        command.env("LC_ALL", "C.UTF-8");
        let child = pair.slave.spawn_command(command).unwrap();
        let mut out = pair.master.try_clone_reader().unwrap();
        let keys = pair.master.take_writer().unwrap();
        let screen = Arc::new(Mutex::new(vt100::Parser::new(ROWS, COLUMNS, 0)));
        let gone = Arc::new(AtomicBool::new(false));
        let (to, gone_too) = (Arc::clone(&screen), Arc::clone(&gone));
        std::thread::spawn(move || {
            let mut bytes = [0; 4096];
            while let Ok(count) = out.read(&mut bytes)
                && count > 0
                && !gone_too.load(Ordering::Relaxed)
            {
                to.lock().unwrap().process(&bytes[..count]);
            }
        });
        Self { child, master: Some(pair.master), keys: Some(keys), screen, gone }
    }

    fn press(&mut self, key: &str) {
        self.keys.as_mut().unwrap().write_all(key.as_bytes()).unwrap();
    }

    /// Closes it, once what it was told last is read.
    fn vanish(&mut self) {
        self.gone.store(true, Ordering::Relaxed);
        (self.keys, self.master) = (None, None);
    }

    /// What stands on it.
    fn shown(&self) -> String {
        self.screen.lock().unwrap().screen().contents()
    }

    /// Waits until this is shown.
    fn shows(&self, what: &str) {
        self.until(what, || self.shown().contains(what));
    }

    fn until(&self, what: &str, holds: impl Fn() -> bool) {
        let began = Instant::now();
        while !holds() {
            assert!(began.elapsed() < HANGS, "no {what}: {}", self.shown());
            std::thread::sleep(Duration::from_millis(10));
        }
    }

    /// Waits until the program has ended. Gives its exit code.
    fn ended(&mut self) -> u32 {
        let began = Instant::now();
        loop {
            if let Some(status) = self.child.try_wait().unwrap() {
                return status.exit_code();
            }
            assert!(began.elapsed() < HANGS, "the program hangs");
            std::thread::sleep(Duration::from_millis(10));
        }
    }
}

/// What a study has saved of its search.
fn saved(bench: &Bench, name: &str) -> String {
    std::fs::read_to_string(bench.path(&format!("ledger/{name}/history.csv"))).unwrap_or_default()
}

#[test]
fn keys_pause_show_a_match_and_stop_a_search() {
    let bench = Bench::new();
    bench.write("brief.toml", brief());
    let mut terminal = Terminal::run(&bench, "evolve brief.toml --watch --name seen");
    terminal.shows("win_rate");
    terminal.press("p");
    terminal.shows("paused");
    std::thread::sleep(Duration::from_millis(700));
    let before = saved(&bench, "seen");
    // Longer than from one saving to the next.
    std::thread::sleep(Duration::from_millis(2500));
    assert_eq!(saved(&bench, "seen"), before, "a paused search stands still");
    terminal.press("p");
    terminal.shows("searching");
    terminal.press("m");
    terminal.shows("its latest match");
    terminal.until("going on", || saved(&bench, "seen").lines().count() > before.lines().count());
    terminal.press("s");
    terminal.shows("resume seen");
    assert!(!terminal.screen.lock().unwrap().screen().alternate_screen(), "the terminal is given back");
    assert_eq!(terminal.ended(), 130);
}

#[test]
fn a_terminal_that_vanishes_ends_the_program_and_loses_nothing() {
    let bench = Bench::new();
    bench.write("brief.toml", brief());
    let mut terminal = Terminal::run(&bench, "evolve brief.toml --watch --name gone");
    terminal.shows("win_rate");
    terminal.vanish();
    terminal.ended();
    assert!(bench.path("ledger/gone/manifest.json").exists());
    // It can be gone on with at once: nobody holds it.
    let mut again = Terminal::run(&bench, "resume gone --watch");
    again.shows("searching");
    again.press("s");
    assert_eq!(again.ended(), 130);
}

#[test]
fn what_cannot_be_watched_is_refused() {
    let bench = Bench::new();
    bench.write("brief.toml", brief());
    let told = bench.told("evolve brief.toml --watch");
    assert!(told.contains("exit 2") && told.contains("`--watch` needs a terminal"), "{told}");
    bench.write(
        "tune.toml",
        "kind = \"tune\"\ngame = \"piste\"\nseed = 10\nbudget = 5000000\nproof = 400\n[opponent]\nagent = \"fencer\"\n\
         [[free]]\nknob = \"skill\"\n[[rung]]\nname = \"one\"\ntargets = [{ figure = \"win_rate\", value = 0.55, within = 0.0005 }]\n\
         [[rung.mix]]\nweight = 1\nagent = \"newcomer\"\n",
    );
    let mut tuning = Terminal::run(&bench, "tune tune.toml --name tuned");
    tuning.until("study", || bench.path("ledger/tuned/manifest.json").exists());
    tuning.press("\u{3}");
    assert_eq!(tuning.ended(), 130);
    let mut terminal = Terminal::run(&bench, "resume tuned --watch");
    terminal.shows("`tuned` is a tune study, and only an evolution or a training can be watched");
    assert_eq!(terminal.ended(), 2);
}
