//! Drives the built program in a temporary folder.

pub(crate) mod browser;
#[cfg(unix)]
pub(crate) mod terminal;

use std::path::{Path, PathBuf};
use std::process::{Command, Output};

use inkpot_ledger::{Ledger, Manifest};
use serde_json::Value;
use tempfile::TempDir;

/// An evolution of two knobs of a fencer.
pub(crate) const KNOBS: &str = r#"kind = "evolve"
game = "piste"
seed = 3
seeds = 2
matches = 800
blocks = 2
proof = 200
rules = { touches = 2 }

[subject]
agent = "fencer"

[[free]]
knob = "skill"

[[free]]
knob = "gain"
scale = "log"

[method]
population = 10

[[term]]
figure = "win_rate"

[[term]]
figure = "length"
weight = -0.001

[[opponent]]
agent = "heron"

[yardstick]
every = 5
matches = 60
"#;

/// A training of a network.
pub(crate) const NETWORK: &str = r#"kind = "train"
game = "regatta"
level = "reach"
seed = 4
seeds = 2
steps = 6_000
proof = 100

[subject]
agent = "policy"
layers = [8]
knobs = { decide_every = 5 }

[method]
name = "ppo"
environments = 4
horizon = 100

[[term]]
figure = "water_left_m"
weight = -0.1

[yardstick]
every = 2_000
matches = 20
"#;

/// A training of a table that plays both sides.
pub(crate) const TABLE: &str = r#"kind = "train"
game = "berths"
seed = 5
seeds = 3
steps = 40_000
self_play = true
proof = 400

[subject]
agent = "policy"

[method]
name = "q-learning"

[[term]]
figure = "score"

[yardstick]
every = 8_000
[[yardstick.opponent]]
agent = "minimax"
knobs = { depth = 64 }
"#;

/// A brief with one of its lines as another.
pub(crate) fn changed(brief: &str, from: &str, to: &str) -> String {
    assert!(brief.contains(from), "{from}");
    brief.replacen(from, to, 1)
}

/// A folder of its own with the program in it.
pub(crate) struct Bench {
    folder: PathBuf,
    /// Removes the folder with the bench.
    _temporary: Option<TempDir>,
}

impl Bench {
    pub(crate) fn new() -> Self {
        let temporary = tempfile::tempdir().expect("a temporary folder");
        Self { folder: temporary.path().to_path_buf(), _temporary: Some(temporary) }
    }

    /// One that outlives its test: each run of the tests begins it anew.
    pub(crate) fn kept(name: &str) -> Self {
        let folder = Path::new(env!("CARGO_TARGET_TMPDIR")).join(name);
        let _ = std::fs::remove_dir_all(&folder);
        std::fs::create_dir_all(&folder).expect("the folder is made");
        Self { folder, _temporary: None }
    }

    pub(crate) fn path(&self, name: &str) -> PathBuf {
        self.folder.join(name)
    }

    pub(crate) fn write(&self, name: &str, text: impl AsRef<[u8]>) -> PathBuf {
        let path = self.path(name);
        std::fs::create_dir_all(path.parent().expect("a folder")).expect("the folder is made");
        std::fs::write(&path, text).expect("the file is written");
        path
    }

    pub(crate) fn read(&self, name: &str) -> String {
        std::fs::read_to_string(self.path(name)).expect("the file is there")
    }

    /// The program with arguments, not yet run.
    pub(crate) fn command(&self, arguments: &str) -> Command {
        let mut command = Command::new(assert_cmd::cargo::cargo_bin!("inkpot"));
        command.args(arguments.split_whitespace()).current_dir(&self.folder);
        command.env_remove("INKPOT_LEDGER").env("NO_COLOR", "1").env("LC_ALL", "C.UTF-8").env("COLUMNS", "100");
        command
    }

    pub(crate) fn run(&self, arguments: &str) -> Output {
        self.command(arguments).output().expect("the program runs")
    }

    /// Changes the manifest of a study.
    pub(crate) fn change(&self, study: &str, change: impl FnOnce(&mut Manifest)) {
        let study = Ledger::at(&self.path("ledger")).open(study).expect("the study is there");
        let mut manifest = study.manifest().expect("its manifest is sound");
        change(&mut manifest);
        study.write_manifest(&manifest).expect("it can be written");
    }

    /// Runs it and gives standard output; anything but success fails the test.
    pub(crate) fn ok(&self, arguments: &str) -> String {
        let output = self.run(arguments);
        let errors = String::from_utf8_lossy(&output.stderr);
        assert!(output.status.success(), "`inkpot {arguments}` failed: {errors}");
        String::from_utf8(output.stdout).expect("output is UTF-8")
    }

    /// Runs it with `--json` and gives what it prints.
    pub(crate) fn json(&self, arguments: &str) -> Value {
        json(&self.ok(&format!("--json {arguments}")))
    }

    /// Exit code, standard output and standard error as one text for a snapshot, the folder's path taken out.
    pub(crate) fn console(&self, arguments: &str) -> String {
        let output = self.run(arguments);
        let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).trim_end().to_string();
        let (out, errors) = (text(&output.stdout), text(&output.stderr));
        assert!(!errors.contains("panicked at"), "`inkpot {arguments}` panicked: {errors}");
        let mut console = format!("$ inkpot {arguments}\nexit {}", output.status.code().unwrap_or(-1));
        for part in [out, errors].into_iter().filter(|part| !part.is_empty()) {
            console.push('\n');
            console.push_str(&part);
        }
        console.replace(&self.folder.display().to_string(), "DIR")
    }
}

/// What `check` said, without how long it thinks that the study takes.
pub(crate) fn timeless(console: &str) -> String {
    let cut = |line: &str| match line.split_once("; ") {
        Some((before, rest)) if rest.contains(" thread") => format!("{before}; TIME"),
        _ => line.to_string(),
    };
    console.lines().map(cut).collect::<Vec<_>>().join("\n")
}

/// A JSON document.
pub(crate) fn json(text: &str) -> Value {
    serde_json::from_str(text).expect("one JSON document")
}

/// All files in a folder and the folders in it, in order of path.
pub(crate) fn files(folder: &Path) -> Vec<PathBuf> {
    let (mut found, mut open) = (Vec::new(), vec![folder.to_path_buf()]);
    while let Some(inner) = open.pop() {
        for entry in std::fs::read_dir(inner).expect("it can be read").flatten() {
            let path = entry.path();
            if path.is_dir() { open.push(path) } else { found.push(path) }
        }
    }
    found.sort();
    found
}

/// The part files of a study.
pub(crate) fn parts(ledger: &Path, study: &str) -> Vec<PathBuf> {
    let mut parts: Vec<PathBuf> = std::fs::read_dir(ledger.join(study).join("rows"))
        .map(|entries| entries.filter_map(|entry| Some(entry.ok()?.path())).collect())
        .unwrap_or_default();
    parts.retain(|path| path.extension().is_some_and(|ending| ending == "parquet"));
    parts.sort();
    parts
}
