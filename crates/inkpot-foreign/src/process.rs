//! Processes that answer lines with lines, within limits.

use std::collections::VecDeque;
use std::io::{self, BufRead, BufReader, Read, Write};
use std::path::Path;
use std::process::{Child, ChildStdin, Command, Stdio};
use std::sync::mpsc::{Receiver, RecvTimeoutError, sync_channel};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use thiserror::Error;

/// Lines of standard error that are kept.
const LAST_WORDS: usize = 5;
/// The largest line of standard error, in bytes: the rest of a longer one is left out.
const LONGEST_WORD: u64 = 1 << 16;

/// The command of a process.
#[derive(Clone, Debug)]
pub(crate) struct Program {
    /// The program and its arguments.
    pub(crate) command: Vec<String>,
    /// The folder in which it runs.
    pub(crate) folder: Box<Path>,
    /// Environment variables to pass on besides `PATH`.
    pub(crate) environment: Vec<String>,
    /// The longest time until an answer.
    pub(crate) patience: Duration,
    /// The largest answer in bytes.
    pub(crate) most_bytes: u64,
}

/// The reason why a process gave no answer.
#[derive(Debug, Error)]
pub(crate) enum NoAnswer {
    /// It could not be started.
    #[error("`{command}` cannot be started: {error}")]
    Start { command: String, error: io::Error },
    /// It took too long.
    #[error("`{command}` gave no answer within {seconds} s{words}")]
    TooLate { command: String, seconds: f64, words: String },
    /// It closed its output, or ended.
    #[error("`{command}` ended without an answer{words}")]
    Ended { command: String, words: String },
    /// Its answer is too long.
    #[error("the answer of `{command}` is longer than {kib} KiB")]
    TooLong { command: String, kib: u64 },
    /// Its answer is no text.
    #[error("the answer of `{command}` is not text in UTF-8")]
    NoText { command: String },
}

/// What the reader of a process hands on.
enum Line {
    Text(String),
    NoText,
    TooLong,
}

/// A running process. It and its process group end with this value.
pub(crate) struct Process {
    child: Child,
    input: Option<ChildStdin>,
    lines: Receiver<Line>,
    words: Arc<Mutex<VecDeque<String>>>,
}

impl Program {
    /// The command as it was written.
    fn shown(&self) -> String {
        self.command.join(" ")
    }

    /// Starts a process.
    pub(crate) fn start(&self) -> Result<Process, NoAnswer> {
        let start = |error| NoAnswer::Start { command: self.shown(), error };
        let (program, arguments) = self.command.split_first().expect("a checked command has a program");
        let mut command = Command::new(program);
        command.args(arguments).current_dir(&self.folder).env_clear();
        for name in ["PATH"].into_iter().chain(self.environment.iter().map(String::as_str)) {
            if let Some(value) = std::env::var_os(name) {
                command.env(name, value);
            }
        }
        command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped());
        // An interrupt at the terminal is for the program that plays the study.
        #[cfg(unix)]
        std::os::unix::process::CommandExt::process_group(&mut command, 0);
        let mut child = command.spawn().map_err(start)?;
        let (input, output, errors) = (child.stdin.take(), child.stdout.take(), child.stderr.take());
        let (send, lines) = sync_channel(1);
        let most = self.most_bytes;
        if let Some(output) = output {
            std::thread::spawn(move || {
                let mut output = BufReader::new(output);
                while let Some(line) = read_line(&mut output, most) {
                    if send.send(line).is_err() {
                        break;
                    }
                }
            });
        }
        let words: Arc<Mutex<VecDeque<String>>> = Arc::default();
        if let Some(errors) = errors {
            let words = words.clone();
            std::thread::spawn(move || listen(errors, &words));
        }
        Ok(Process { child, input, lines, words })
    }
}

/// Reads a line of at most this many bytes; none at the end.
fn read_line(output: &mut impl BufRead, most: u64) -> Option<Line> {
    let mut bytes = Vec::new();
    let read = output.by_ref().take(most + 1).read_until(b'\n', &mut bytes).ok()?;
    if read == 0 {
        return None;
    }
    if bytes.last() == Some(&b'\n') {
        bytes.pop();
    } else if read as u64 > most {
        return Some(Line::TooLong);
    }
    Some(String::from_utf8(bytes).map_or(Line::NoText, Line::Text))
}

/// Keeps the last lines of standard error.
fn listen(errors: impl Read, words: &Mutex<VecDeque<String>>) {
    let mut errors = BufReader::new(errors);
    loop {
        let mut bytes = Vec::new();
        match errors.by_ref().take(LONGEST_WORD).read_until(b'\n', &mut bytes) {
            Ok(0) | Err(_) => return,
            Ok(_) => {}
        }
        let line = String::from_utf8_lossy(&bytes).trim_end().to_string();
        if !line.is_empty() {
            let mut words = words.lock().unwrap_or_else(PoisonError::into_inner);
            if words.len() == LAST_WORDS {
                words.pop_front();
            }
            words.push_back(line);
        }
    }
}

impl Process {
    /// Sends a line and returns the answer; `last` closes the input after it. Errs if there is none within the
    /// program's limits: the process is then of no use any more.
    pub(crate) fn ask(&mut self, request: &str, last: bool, program: &Program) -> Result<String, NoAnswer> {
        let command = || program.shown();
        let sent = self.input.as_mut().map(|input| writeln!(input, "{request}").and_then(|()| input.flush()));
        if last {
            self.input = None;
        }
        if !matches!(sent, Some(Ok(()))) {
            return Err(NoAnswer::Ended { command: command(), words: self.last_words() });
        }
        match self.lines.recv_timeout(program.patience) {
            Ok(Line::Text(line)) => Ok(line),
            Ok(Line::TooLong) => Err(NoAnswer::TooLong { command: command(), kib: program.most_bytes >> 10 }),
            Ok(Line::NoText) => Err(NoAnswer::NoText { command: command() }),
            Err(RecvTimeoutError::Timeout) => Err(NoAnswer::TooLate {
                command: command(),
                seconds: program.patience.as_secs_f64(),
                words: self.last_words(),
            }),
            Err(RecvTimeoutError::Disconnected) => {
                Err(NoAnswer::Ended { command: command(), words: self.last_words() })
            }
        }
    }

    /// Returns how it ended and its last lines of standard error, as the end of a sentence.
    fn last_words(&mut self) -> String {
        // What was written just before the end may still be on its way.
        let ended = (0..20).find_map(|_| {
            let ended = self.child.try_wait().ok().flatten();
            if ended.is_none() {
                std::thread::sleep(Duration::from_millis(2));
            }
            ended
        });
        std::thread::sleep(Duration::from_millis(2));
        let words = self.words.lock().unwrap_or_else(PoisonError::into_inner);
        let status = ended.map(|status| format!(" ({status})")).unwrap_or_default();
        let last: Vec<&str> = words.iter().map(String::as_str).collect();
        if last.is_empty() { status } else { format!("{status}; its last words: {}", last.join(" | ")) }
    }
}

impl Drop for Process {
    fn drop(&mut self) {
        self.input = None;
        #[cfg(unix)]
        if let Some(group) = rustix::process::Pid::from_raw(self.child.id() as i32) {
            // It may have ended by itself already.
            let _ = rustix::process::kill_process_group(group, rustix::process::Signal::KILL);
        }
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
