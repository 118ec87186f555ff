//! The program in a terminal, with keys pressed and the screen read.

use std::io::{Read, Write};
use std::num::NonZero;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use portable_pty::{Child, CommandBuilder, MasterPty, PtySize, native_pty_system};

use super::Bench;

/// The size of the terminal.
const ROWS: u16 = 34;
const COLUMNS: u16 = 130;
/// Rows and columns that are read of a larger one.
const LARGEST: u16 = 1_000;
/// What takes longer than this hangs.
const HANGS: Duration = Duration::from_secs(60);

/// The program in a terminal.
pub(crate) struct Terminal {
    child: Box<dyn Child + Send + Sync>,
    master: Option<Box<dyn MasterPty + Send>>,
    keys: Option<Box<dyn Write + Send>>,
    screen: Arc<Mutex<vt100::Parser>>,
    /// Whether nobody reads it any more.
    gone: Arc<AtomicBool>,
    /// Whether nobody reads it for now.
    stalled: Arc<AtomicBool>,
}

impl Terminal {
    pub(crate) fn run(bench: &Bench, arguments: &str) -> Self {
        Self::sized(bench, arguments, ROWS, COLUMNS)
    }

    /// The same in a terminal of this size.
    pub(crate) fn sized(bench: &Bench, arguments: &str, rows: u16, columns: u16) -> Self {
        let pair = native_pty_system().openpty(size(rows, columns)).unwrap();
        let mut command = CommandBuilder::new(assert_cmd::cargo::cargo_bin!("inkpot"));
        command.args(arguments.split_whitespace());
        command.cwd(bench.path(""));
        command.env("TERM", "xterm-256color");
        command.env("LC_ALL", "C.UTF-8");
        let child = pair.slave.spawn_command(command).unwrap();
        let mut out = pair.master.try_clone_reader().unwrap();
        let keys = pair.master.take_writer().unwrap();
        let screen = Arc::new(Mutex::new(parser(rows, columns)));
        let gone = Arc::new(AtomicBool::new(false));
        let stalled = Arc::new(AtomicBool::new(false));
        let (to, gone_too, waits) = (Arc::clone(&screen), Arc::clone(&gone), Arc::clone(&stalled));
        std::thread::spawn(move || {
            let mut bytes = [0; 4096];
            while let Ok(count) = out.read(&mut bytes)
                && count > 0
                && !gone_too.load(Ordering::Relaxed)
            {
                to.lock().unwrap().process(&bytes[..count]);
                while waits.load(Ordering::Relaxed) {
                    std::thread::sleep(Duration::from_millis(10));
                }
            }
        });
        Self { child, master: Some(pair.master), keys: Some(keys), screen, gone, stalled }
    }

    pub(crate) fn press(&mut self, key: &str) {
        self.keys.as_mut().unwrap().write_all(key.as_bytes()).unwrap();
    }

    /// Makes it larger or smaller.
    pub(crate) fn resize(&self, rows: u16, columns: u16) {
        self.master.as_ref().unwrap().resize(size(rows, columns)).unwrap();
        self.screen.lock().unwrap().screen_mut().set_size(at_least(rows), at_least(columns));
    }

    /// Sends the program a signal by its name.
    pub(crate) fn signal(&self, name: &str) {
        let id = self.child.process_id().unwrap().to_string();
        assert!(std::process::Command::new("kill").args([&format!("-{name}"), &id]).status().unwrap().success());
    }

    /// Whether the program draws on all of it.
    pub(crate) fn is_taken(&self) -> bool {
        let screen = self.screen.lock().unwrap();
        screen.screen().alternate_screen() || screen.screen().hide_cursor()
    }

    /// Reads nothing of it any more, so that its line fills and stands still.
    pub(crate) fn stall(&self) {
        self.stalled.store(true, Ordering::Relaxed);
    }

    /// Closes it, once what it was told last is read.
    pub(crate) fn vanish(&mut self) {
        self.gone.store(true, Ordering::Relaxed);
        (self.keys, self.master) = (None, None);
    }

    /// What stands on it.
    pub(crate) fn shown(&self) -> String {
        self.screen.lock().unwrap().screen().contents()
    }

    /// Waits until this is shown.
    pub(crate) fn shows(&self, what: &str) {
        self.until(what, || self.shown().contains(what));
    }

    pub(crate) fn until(&self, what: &str, holds: impl Fn() -> bool) {
        let began = Instant::now();
        while !holds() {
            assert!(began.elapsed() < HANGS, "no {what}: {}", self.shown());
            std::thread::sleep(Duration::from_millis(10));
        }
    }

    /// Whether the program has ended.
    pub(crate) fn is_ended(&mut self) -> bool {
        self.child.try_wait().unwrap().is_some()
    }

    /// Waits until the program has ended. Gives its exit code.
    pub(crate) fn ended(&mut self) -> u32 {
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

fn size(rows: u16, cols: u16) -> PtySize {
    PtySize { rows, cols, ..PtySize::default() }
}

fn parser(rows: u16, columns: u16) -> vt100::Parser {
    vt100::Parser::new(at_least(rows.min(LARGEST)), at_least(columns.min(LARGEST)), 0)
}

fn at_least(count: u16) -> NonZero<u16> {
    NonZero::new(count).unwrap_or(NonZero::<u16>::MIN)
}
