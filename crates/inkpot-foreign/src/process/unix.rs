//! Processes of Unix systems.

use std::collections::VecDeque;
use std::io::{self, BufRead, BufReader, Read, Write};
use std::os::unix::process::CommandExt;
use std::process::{Child, ChildStdin, ChildStdout, Command, Stdio};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use super::{NoAnswer, Program};
use rustix::event::{PollFd, PollFlags, Timespec, poll};
use rustix::process::{Pid, Signal, kill_process_group};

/// Lines of standard error that are kept.
const LAST_WORDS: usize = 5;
/// The largest line of standard error, in bytes: the rest of a longer one is left out.
const LONGEST_WORD: u64 = 1 << 16;

/// The result of waiting for a line.
enum Answered {
    Line(Vec<u8>),
    TooLong,
    TooLate,
    End,
}

/// A running process. It and its process group end with this value.
pub(crate) struct Process {
    child: Child,
    input: Option<ChildStdin>,
    output: ChildStdout,
    /// Output that was read and not returned yet.
    read: Vec<u8>,
    words: Arc<Mutex<VecDeque<String>>>,
}

impl Program {
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
        command.process_group(0);
        let mut child = command.spawn().map_err(start)?;
        let (input, errors) = (child.stdin.take(), child.stderr.take());
        let output = child.stdout.take().expect("the output is piped");
        let words: Arc<Mutex<VecDeque<String>>> = Arc::default();
        if let Some(errors) = errors {
            let words = words.clone();
            std::thread::spawn(move || listen(errors, &words));
        }
        Ok(Process { child, input, output, read: Vec::new(), words })
    }
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
        // A line that nobody asked for would pass for the answer to this request.
        if !self.read.is_empty() || matches!(self.more(Instant::now()), Ok(Some(1..))) {
            return Err(NoAnswer::Unasked { command: command() });
        }
        let sent = self.input.as_mut().map(|input| writeln!(input, "{request}").and_then(|()| input.flush()));
        if last {
            self.input = None;
        }
        if !matches!(sent, Some(Ok(()))) {
            return Err(NoAnswer::Ended { command: command(), words: self.last_words() });
        }
        match self.line(Instant::now() + program.patience, program.most_bytes) {
            Answered::Line(bytes) => String::from_utf8(bytes).map_err(|_| NoAnswer::NoText { command: command() }),
            Answered::TooLong => Err(NoAnswer::TooLong { command: command(), kib: program.most_bytes >> 10 }),
            Answered::TooLate => Err(NoAnswer::TooLate {
                command: command(),
                seconds: program.patience.as_secs_f64(),
                words: self.last_words(),
            }),
            Answered::End => Err(NoAnswer::Ended { command: command(), words: self.last_words() }),
        }
    }

    /// Reads a line of at most this many bytes until this time. The last line may lack its end.
    fn line(&mut self, until: Instant, most_bytes: u64) -> Answered {
        let mut searched = 0;
        loop {
            if let Some(end) = self.read[searched..].iter().position(|byte| *byte == b'\n') {
                let rest = self.read.split_off(searched + end + 1);
                let mut line = std::mem::replace(&mut self.read, rest);
                line.pop();
                return if line.len() as u64 > most_bytes { Answered::TooLong } else { Answered::Line(line) };
            }
            searched = self.read.len();
            if searched as u64 > most_bytes {
                return Answered::TooLong;
            }
            match self.more(until) {
                Ok(Some(0)) if self.read.is_empty() => return Answered::End,
                Ok(Some(0)) => return Answered::Line(std::mem::take(&mut self.read)),
                Ok(Some(_)) => {}
                Ok(None) => return Answered::TooLate,
                Err(_) => return Answered::End,
            }
        }
    }

    /// Reads what there is, once there is something; 0 bytes at the end, none where nothing came until this time.
    fn more(&mut self, until: Instant) -> io::Result<Option<usize>> {
        let left = until.saturating_duration_since(Instant::now());
        let left = Timespec { tv_sec: left.as_secs() as i64, tv_nsec: i64::from(left.subsec_nanos()) };
        match poll(&mut [PollFd::new(&self.output, PollFlags::IN)], Some(&left)) {
            Ok(0) => return Ok(None),
            Err(rustix::io::Errno::INTR) => return self.more(until),
            other => other?,
        };
        let mut bytes = [0; 1 << 13];
        let count = self.output.read(&mut bytes)?;
        self.read.extend_from_slice(&bytes[..count]);
        Ok(Some(count))
    }

    /// Returns how it ended and its last lines of standard error, as the end of a sentence.
    fn last_words(&mut self) -> String {
        // The last lines may still be on their way.
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
        if let Some(group) = Pid::from_raw(self.child.id() as i32) {
            // It may have ended by itself already.
            let _ = kill_process_group(group, Signal::KILL);
        }
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}
