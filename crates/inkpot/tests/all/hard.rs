//! The program under kills, full disks, damaged files and broken briefs: it never panics, never hangs, changes nothing
//! silently and always says how to go on. Each test has a short form that always runs and a full one that is ignored.

use std::fs;
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use crate::common::{Bench, files};
use inkpot_core::Chance;

/// Longest that any command of these tests may take before it counts as hanging.
const HANGS: Duration = Duration::from_secs(120);

/// A brief by the name of its study.
type Named = (&'static str, &'static str);

/// A study of each kind, small and in many parts.
const STUDIES: [Named; 9] = [
    (
        "batch",
        "kind = \"batch\"\ngame = \"piste\"\nseed = 5\nmatches = 240\n[[entrant]]\nagent = \"heron\"\n[[entrant]]\nagent = \"avocet\"\n[[entrant]]\nagent = \"dunlin\"\n",
    ),
    (
        "sweep",
        "kind = \"sweep\"\ngame = \"piste\"\nseed = 6\nmatches = 120\ntarget = 0.5\n[[entrant]]\nagent = \"newcomer\"\n[[entrant]]\nname = \"house\"\nagent = \"fencer\"\n[[vary]]\nof = \"house\"\nknob = \"skill\"\nfrom = 0\nto = 1\npoints = 6\n",
    ),
    (
        "swiss",
        "kind = \"tournament\"\nformat = \"swiss\"\nrounds = 4\ngame = \"sowing\"\nseed = 7\nmatches = 40\nrules = { pits = 3, seeds = 2 }\n[[entrant]]\nname = \"a\"\nagent = \"grabber\"\n[[entrant]]\nname = \"b\"\nagent = \"grabber\"\nknobs = { slip = 0.2 }\n[[entrant]]\nname = \"c\"\nagent = \"grabber\"\nknobs = { slip = 0.4 }\n[[entrant]]\nname = \"d\"\nagent = \"grabber\"\nknobs = { slip = 0.6 }\n[[entrant]]\nname = \"e\"\nagent = \"grabber\"\nknobs = { slip = 0.8 }\n[[entrant]]\nname = \"f\"\nagent = \"grabber\"\nknobs = { slip = 1 }\n",
    ),
    (
        "knockout",
        "kind = \"tournament\"\nformat = \"knockout\"\ngame = \"sowing\"\nseed = 8\nmatches = 40\nrules = { pits = 3, seeds = 2 }\n[[entrant]]\nname = \"a\"\nagent = \"grabber\"\n[[entrant]]\nname = \"b\"\nagent = \"grabber\"\nknobs = { slip = 0.3 }\n[[entrant]]\nname = \"c\"\nagent = \"grabber\"\nknobs = { slip = 0.6 }\n[[entrant]]\nname = \"d\"\nagent = \"grabber\"\nknobs = { slip = 1 }\n",
    ),
    (
        "compare",
        "kind = \"compare\"\nuntil = \"clear\"\ngame = \"piste\"\nseed = 9\nmatches = 2000\n[[entrant]]\nagent = \"heron\"\n[[entrant]]\nagent = \"dunlin\"\n",
    ),
    (
        "tune",
        "kind = \"tune\"\ngame = \"piste\"\nseed = 10\nbudget = 600\nproof = 400\n[opponent]\nagent = \"fencer\"\n[[free]]\nknob = \"skill\"\n[[rung]]\nname = \"one\"\ntargets = [{ figure = \"win_rate\", value = 0.55, within = 0.2 }]\n[[rung.mix]]\nweight = 0.7\nagent = \"newcomer\"\n[[rung.mix]]\nweight = 0.1\nagent = \"regular\"\n[[rung.mix]]\nweight = 0.3\nagent = \"veteran\"\n",
    ),
    (
        "evolved-knobs",
        "kind = \"evolve\"\ngame = \"piste\"\nseed = 12\nseeds = 2\nmatches = 480\nblocks = 2\nproof = 120\nrules = { touches = 2 }\n[subject]\nagent = \"fencer\"\n[[free]]\nknob = \"skill\"\n[[free]]\nknob = \"gain\"\nscale = \"log\"\n[method]\nname = \"genetic\"\npopulation = 10\n[[term]]\nfigure = \"win_rate\"\n[[opponent]]\nagent = \"heron\"\n[yardstick]\nevery = 4\nmatches = 40\n",
    ),
    (
        "evolved-net",
        "kind = \"evolve\"\ngame = \"regatta\"\nlevel = \"reach\"\nseed = 13\nseeds = 2\nmatches = 300\nblocks = 1\nproof = 60\n[subject]\nagent = \"policy\"\n[method]\nname = \"topology\"\npopulation = 12\nspecies = 3\n[[term]]\nfigure = \"water_left_m\"\nweight = -1\n[yardstick]\nevery = 5\nmatches = 20\n",
    ),
    (
        "fit",
        "kind = \"fit\"\ngame = \"piste\"\nseed = 11\nlog = \"people.csv\"\nproof = 160\n[standin]\nagent = \"regular\"\n[[free]]\nknob = \"reaction_ms\"\nfrom = 150\nto = 500\n[[opponent]]\nname = \"house\"\nagent = \"fencer\"\nknobs = { skill = 0.5 }\n",
    ),
];

/// Those that are quick; a fit plays tens of thousands of matches.
fn quick() -> &'static [Named] {
    &STUDIES[..STUDIES.len() - 1]
}

/// Searches by every method, and against each other.
const SEARCHES: [Named; 7] = [
    STUDIES[6],
    STUDIES[7],
    (
        "tape-cma-es",
        "kind = \"evolve\"\ngame = \"regatta\"\nlevel = \"reach\"\nseed = 14\nseeds = 2\nmatches = 300\nblocks = 1\nproof = 60\nin_turn = true\n[subject]\nagent = \"tape\"\nsteps = 8\n[method]\nname = \"cma-es\"\n[[term]]\nfigure = \"marks\"\n[[term]]\nfigure = \"water_left_m\"\nweight = -1\n[yardstick]\nevery = 5\nmatches = 20\n",
    ),
    (
        "net-nes",
        "kind = \"evolve\"\ngame = \"regatta\"\nlevel = \"reach\"\nseed = 15\nseeds = 2\nmatches = 300\nblocks = 1\nproof = 60\n[subject]\nagent = \"policy\"\nlayers = [4]\n[method]\nname = \"nes\"\npopulation = 12\n[[term]]\nfigure = \"water_left_m\"\nweight = -1\n[yardstick]\nevery = 5\nmatches = 20\n",
    ),
    (
        "map",
        "kind = \"evolve\"\ngame = \"piste\"\nseed = 16\nseeds = 2\nmatches = 480\nblocks = 2\nproof = 120\nrules = { touches = 2 }\n[subject]\nagent = \"fencer\"\n[[free]]\nknob = \"aggression\"\n[[free]]\nknob = \"gain\"\n[method]\nname = \"map-elites\"\npopulation = 10\n[[niche]]\nmeasure = \"gap_m\"\nfrom = 0\nto = 6\n[[niche]]\nmeasure = \"lunges\"\nfrom = 0\nto = 20\n[[term]]\nfigure = \"win_rate\"\n[[opponent]]\nagent = \"heron\"\n[yardstick]\nevery = 4\nmatches = 40\n",
    ),
    (
        "rivals",
        "kind = \"evolve\"\ngame = \"piste\"\nseed = 17\nseeds = 2\nmatches = 900\nblocks = 1\nproof = 120\nrules = { touches = 2 }\n[subject]\nagent = \"fencer\"\n[[free]]\nknob = \"aggression\"\n[[free]]\nknob = \"gain\"\n[method]\npopulation = 10\n[[term]]\nfigure = \"win_rate\"\n[rivals]\npopulations = 2\ncurrent = 1\npast = 2\nhall_of_fame = 3\n[yardstick]\nevery = 4\nmatches = 40\n[[yardstick.opponent]]\nagent = \"heron\"\n",
    ),
    (
        // One round takes seconds: it is saved within.
        "long-round",
        "kind = \"evolve\"\ngame = \"piste\"\nseed = 18\nseeds = 1\nmatches = 60000\nblocks = 1500\nproof = 120\nrules = { touches = 2 }\n[subject]\nagent = \"fencer\"\n[[free]]\nknob = \"gain\"\n[method]\npopulation = 10\n[[term]]\nfigure = \"win_rate\"\n[[opponent]]\nagent = \"heron\"\n[yardstick]\nevery = 4\nmatches = 40\n",
    ),
];

/// Trainings by every kind of learner.
const TRAININGS: [Named; 4] = [
    (
        "ppo",
        "kind = \"train\"\ngame = \"regatta\"\nlevel = \"reach\"\nseed = 19\nseeds = 2\nsteps = 15000\nproof = 60\n[subject]\nagent = \"policy\"\nlayers = [16]\nknobs = { decide_every = 3 }\n[method]\nname = \"ppo\"\nenvironments = 4\nhorizon = 100\n[[term]]\nfigure = \"water_left_m\"\nweight = -0.1\n[yardstick]\nevery = 3000\nmatches = 20\n",
    ),
    (
        "dqn",
        "kind = \"train\"\ngame = \"piste\"\nseed = 20\nseeds = 2\nsteps = 10000\nproof = 60\nself_play = true\nrules = { touches = 2 }\n[subject]\nagent = \"policy\"\nlayers = [16]\nknobs = { decide_every = 5 }\n[method]\nname = \"dqn\"\nenvironments = 2\nfirst = 500\n[[term]]\nfigure = \"score_margin\"\n[[opponent]]\nagent = \"heron\"\n[[opponent]]\nagent = \"dunlin\"\n[yardstick]\nevery = 2000\nmatches = 20\n[[yardstick.opponent]]\nagent = \"heron\"\n",
    ),
    (
        "course",
        "kind = \"train\"\ngame = \"regatta\"\nlevel = \"channel\"\nseed = 22\nseeds = 2\nsteps = 40000\nproof = 60\n[subject]\nagent = \"policy\"\nlayers = [16]\nknobs = { decide_every = 5 }\n[method]\nname = \"ppo\"\nenvironments = 4\nhorizon = 100\n[[term]]\nfigure = \"water_left_m\"\nweight = -0.1\n[[leg]]\nlevel = \"reach\"\npass = 0.3\n[yardstick]\nheld_back = [\"triangle\"]\nevery = 5000\nmatches = 20\n",
    ),
    (
        "table",
        "kind = \"train\"\ngame = \"berths\"\nseed = 21\nseeds = 2\nsteps = 20000\nself_play = true\nproof = 60\n[subject]\nagent = \"policy\"\n[method]\nname = \"sarsa\"\nreturns = 3\n[[term]]\nfigure = \"score\"\n[yardstick]\nevery = 4000\nmatches = 20\n[[yardstick.opponent]]\nagent = \"harbourmaster\"\n",
    ),
];

/// What a study comes to: its summary, its rows, and the agents that it found.
type End = (String, String, Vec<Vec<u8>>);

/// A folder with the briefs, and how each study ends when nobody disturbs it.
struct Field {
    bench: Bench,
    studies: &'static [Named],
    ends: Vec<End>,
}

/// How a command ended.
struct Ended {
    code: Option<i32>,
    out: String,
    errors: String,
}

impl Field {
    fn new(studies: &'static [Named]) -> Self {
        let bench = Bench::new();
        bench.write("people.csv", include_str!("../../briefs/people.csv"));
        for (name, text) in studies {
            bench.write(&format!("{name}.toml"), text);
        }
        let mut field = Self { bench, studies, ends: Vec::new() };
        for (name, _) in studies {
            field.run(&run(name, "whole", 2), &[]).succeeded();
            let end = field.end("whole", name);
            field.ends.push(end);
        }
        field
    }

    /// The program on a ledger, its parts small, not yet run.
    fn command(&self, arguments: &str, with: &[(&str, String)]) -> Command {
        let mut command = self.bench.command(arguments);
        command.env("INKPOT_PART_ROWS", "64").envs(with.iter().map(|(name, value)| (name, value)));
        command
    }

    fn run(&self, arguments: &str, with: &[(&str, String)]) -> Ended {
        ended(arguments, &mut self.command(arguments, with))
    }

    /// The same with the number of steps of writing that it took.
    fn steps(&self, arguments: &str, with: &[(&str, String)]) -> (Ended, usize) {
        let log = self.bench.path("steps.txt");
        let _ = fs::remove_file(&log);
        let with: Vec<_> = with.iter().cloned().chain([("INKPOT_STEP_LOG", log.display().to_string())]).collect();
        let ended = self.run(arguments, &with);
        (ended, fs::read_to_string(&log).unwrap_or_default().lines().count())
    }

    /// What a complete study comes to.
    fn end(&self, ledger: &str, name: &str) -> End {
        let summary = self.run(&format!("--json --ledger {ledger} ledger show {name}"), &[]).succeeded();
        let rows = self.run(&format!("--ledger {ledger} ledger export {name}"), &[]).succeeded();
        let champions = files(&self.bench.path(ledger).join(name)).into_iter().filter(|path| {
            let file = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
            file.starts_with("champion") || file == "history.csv"
        });
        (summary, rows, champions.map(|path| fs::read(path).expect("it can be read")).collect())
    }

    /// Brings a study that something happened to to its end, as the program's own advice says, and compares it.
    fn recovers(&self, kind: usize, ledger: &str, threads: u64, what: &str) {
        let name = self.studies[kind].0;
        let there = self.bench.path(ledger).join(name).join("manifest.json").exists();
        let go_on = if there { resume(name, ledger, threads) } else { run(name, ledger, threads) };
        let ended = self.run(&go_on, &[]);
        assert_eq!(ended.code, Some(0), "{what}: `{go_on}` says {}", ended.errors);
        assert!(self.end(ledger, name) == self.ends[kind], "{what}: another end");
        let verified = self.run(&format!("--ledger {ledger} ledger verify {name} --sample 3"), &[]);
        assert_eq!(verified.code, Some(0), "{what}: {}{}", verified.out, verified.errors);
        self.clean(ledger, what);
        fs::remove_dir_all(self.bench.path(ledger)).expect("the ledger is there");
    }

    /// Whether nothing is left aside.
    fn clean(&self, ledger: &str, what: &str) {
        let hidden =
            |path: &Path| path.components().any(|part| part.as_os_str().to_string_lossy().starts_with(".gone-"));
        for file in files(&self.bench.path(ledger)) {
            let aside =
                file.extension().is_some_and(|ending| ending == "aside") && !file.to_string_lossy().contains("/.new-");
            assert!(!aside && !hidden(&file), "{what}: {} is left", file.display());
        }
    }
}

impl Ended {
    fn succeeded(self) -> String {
        assert_eq!(self.code, Some(0), "{}", self.errors);
        self.out
    }
}

fn run(name: &str, ledger: &str, threads: u64) -> String {
    format!("--quiet --threads {threads} --ledger {ledger} run {name}.toml --name {name}")
}

fn resume(name: &str, ledger: &str, threads: u64) -> String {
    format!("--quiet --threads {threads} --ledger {ledger} resume {name}")
}

/// Runs a command to its end; one that hangs or panics fails the test.
fn ended(what: &str, command: &mut Command) -> Ended {
    let began = Instant::now();
    let child = command.stdout(Stdio::piped()).stderr(Stdio::piped()).stdin(Stdio::null()).spawn();
    let mut child = child.expect("the program runs");
    let read = |stream: Option<Box<dyn std::io::Read + Send>>| {
        std::thread::spawn(move || {
            let mut bytes = Vec::new();
            let _ = stream.expect("it is piped").read_to_end(&mut bytes);
            String::from_utf8_lossy(&bytes).into_owned()
        })
    };
    let out = read(child.stdout.take().map(|stream| Box::new(stream) as _));
    let errors = read(child.stderr.take().map(|stream| Box::new(stream) as _));
    let status = loop {
        match child.try_wait().expect("the child can be asked") {
            Some(status) => break status,
            None if began.elapsed() > HANGS => {
                let _ = child.kill();
                panic!("`{what}` hangs");
            }
            None => std::thread::sleep(Duration::from_millis(2)),
        }
    };
    let (out, errors) = (out.join().expect("it is read"), errors.join().expect("it is read"));
    assert!(!errors.contains("panicked"), "`{what}` panicked: {errors}");
    Ended { code: status.code(), out, errors }
}

/// Kills each of these studies at random moments, at times several times until it is let go on, on any number of threads.
fn killed_at_random(studies: &'static [Named], kills_each: usize) {
    let field = Field::new(studies);
    let mut chance = Chance::from_seed(1);
    for (kind, (name, _)) in studies.iter().enumerate() {
        let mut killed = 0;
        while killed < kills_each {
            let began = Instant::now();
            let usual = field.run(&run(name, "timed", 2), &[]);
            assert_eq!(usual.code, Some(0), "{}", usual.errors);
            let takes = began.elapsed();
            fs::remove_dir_all(field.bench.path("timed")).expect("the ledger is there");
            for _ in 0..=chance.below(4) {
                let threads = 1 + chance.below(4) as u64;
                let there = field.bench.path("killed").join(name).join("manifest.json").exists();
                let command = if there { resume(name, "killed", threads) } else { run(name, "killed", threads) };
                let mut child = field.command(&command, &[]).stdout(Stdio::null()).stderr(Stdio::null()).spawn();
                let child = child.as_mut().expect("the program runs");
                std::thread::sleep(takes.mul_f64(chance.unit()));
                let _ = child.kill();
                child.wait().expect("it has ended");
                killed += 1;
            }
            field.recovers(kind, "killed", 1 + chance.below(4) as u64, &format!("{name} after kill {killed}"));
        }
    }
}

#[test]
fn studies_survive_kills() {
    killed_at_random(quick(), 1);
}

#[test]
#[ignore = "the full form of the test above"]
fn studies_survive_three_hundred_kills() {
    killed_at_random(&STUDIES, 34);
}

#[test]
fn trainings_survive_kills_deaths_and_full_disks() {
    killed_at_random(&TRAININGS, 1);
    stopped_at_steps(&TRAININGS, 6);
}

#[test]
#[ignore = "the full form of the kills above"]
fn trainings_survive_twenty_kills_a_method() {
    killed_at_random(&TRAININGS, 20);
}

#[test]
#[ignore = "the same of every method of evolution"]
fn searches_survive_twenty_kills_a_method() {
    killed_at_random(&SEARCHES, 20);
}

/// Lets the process die, or the disk be full, at steps of writing: evenly spread over all steps of all kinds.
fn stopped_at_steps(studies: &'static [Named], stops: usize) {
    let field = Field::new(studies);
    for (kind, (name, _)) in studies.iter().enumerate() {
        let (ended, steps) = field.steps(&run(name, "counted", 1), &[]);
        ended.succeeded();
        fs::remove_dir_all(field.bench.path("counted")).expect("the ledger is there");
        let tried = stops.div_ceil(studies.len());
        for place in 0..tried {
            let step = 1 + place * steps / tried;
            let how = if place % 2 == 0 { "die" } else { "full" };
            let what = format!("{name}, {how} at step {step} of {steps}");
            let stop = [("INKPOT_STEP", format!("{how}:{step}"))];
            let (stopped, taken) = field.steps(&run(name, "stopped", 1), &stop);
            match (how, stopped.code) {
                // Where parts are cut depends on how fast it goes, so it may have taken fewer steps than before.
                (_, Some(0)) if taken < step => {}
                ("die", None) => {}
                ("full", Some(1)) => assert!(stopped.errors.contains("the disk is full"), "{what}: {}", stopped.errors),
                (_, code) => panic!("{what}: exit {code:?}, {}", stopped.errors),
            }
            field.recovers(kind, "stopped", 2, &what);
        }
    }
}

#[test]
fn studies_survive_deaths_and_full_disks_at_steps_of_writing() {
    stopped_at_steps(quick(), 24);
}

#[test]
#[ignore = "the full form of the test above"]
fn studies_survive_two_hundred_deaths_and_full_disks() {
    stopped_at_steps(&STUDIES, 210);
}

/// A copy of a folder.
fn copy(from: &Path, to: &Path) {
    for file in files(from) {
        let target = to.join(file.strip_prefix(from).expect("it is inside"));
        fs::create_dir_all(target.parent().expect("it has a folder")).expect("the folder is made");
        fs::copy(file, target).expect("the file is copied");
    }
}

/// Damages a file in one of many ways; gives what was done.
fn damage(path: &Path, chance: &mut Chance) -> String {
    let mut bytes = fs::read(path).expect("the file is there");
    let at = chance.below(bytes.len().max(1));
    let how = match chance.below(5) {
        0 if !bytes.is_empty() => {
            bytes[at] ^= 1 << chance.below(8);
            "a bit is flipped"
        }
        1 => {
            bytes.truncate(at);
            "the end is cut off"
        }
        2 => {
            bytes[at..].fill(0);
            "the end is zeros"
        }
        3 => {
            bytes.extend_from_slice(b"more");
            "more stands at the end"
        }
        _ => {
            fs::remove_file(path).expect("the file is there");
            return "it is gone".into();
        }
    };
    fs::write(path, bytes).expect("the file is written");
    format!("{how} at {at}")
}

/// Damages files of complete and of unfinished studies: what is read is either as it was or told, and resuming either
/// comes to the same end or says which file stands in the way.
fn damaged(studies: &'static [Named], times: usize) {
    let field = Field::new(studies);
    let mut chance = Chance::from_seed(2);
    for (name, _) in studies {
        let (ended, steps) = field.steps(&run(name, "counted", 1), &[]);
        ended.succeeded();
        let half = format!("die:{}", steps * 2 / 3);
        assert_eq!(field.run(&run(name, "half", 1), &[("INKPOT_STEP", half)]).code, None);
    }
    for time in 0..times {
        let kind = time % studies.len();
        let name = studies[kind].0;
        let from = if chance.happens(0.6) { "counted" } else { "half" };
        copy(&field.bench.path(from).join(name), &field.bench.path("damaged").join(name));
        let mut all = files(&field.bench.path("damaged").join(name));
        all.retain(|file| !file.ends_with("lock"));
        let hit = &all[chance.below(all.len())];
        let how = damage(hit, &mut chance);
        let what =
            format!("{name} ({from}), {}: {how}", hit.strip_prefix(field.bench.path("damaged")).unwrap().display());
        for verb in ["ledger verify {}", "--json ledger show {}", "ledger export {}", "plot {}", "report {}"] {
            let read = field.run(&format!("--ledger damaged {}", verb.replace("{}", name)), &[]);
            assert!(matches!(read.code, Some(0..=2)), "{what}: `{verb}` exits {:?}", read.code);
            assert!(read.code == Some(0) || read.errors.contains("error: "), "{what}: {}", read.errors);
            let (summary, rows, _) = &field.ends[kind];
            let as_it_was = match verb {
                // Of an unfinished study a part is shown, and marked as such.
                "--json ledger show {}" => read.out == *summary || read.out.contains("\"partial results: "),
                "ledger export {}" => read.out == *rows,
                _ => true,
            };
            assert!(read.code != Some(0) || as_it_was, "{what}: `{verb}` changed in silence");
        }
        let resumed = field.run(&resume(name, "damaged", 2), &[]);
        if resumed.code == Some(0) {
            assert!(field.end("damaged", name) == field.ends[kind], "{what}: resuming blessed it");
        } else {
            let file = hit.file_name().unwrap().to_string_lossy().into_owned();
            let errors = &resumed.errors;
            let named = errors.contains(&file) || errors.contains("no manifest");
            assert!(matches!(resumed.code, Some(1 | 2)) && named, "{what}: exit {:?}, {errors}", resumed.code);
            assert!(errors.contains("help: "), "{what}: {errors}");
        }
        let removed = field.run(&format!("--ledger damaged ledger remove {name}"), &[]);
        assert_eq!(removed.code, Some(0), "{what}: it cannot be removed: {}", removed.errors);
    }
}

#[test]
fn damaged_files_are_told_or_mended() {
    damaged(quick(), 24);
}

#[test]
#[ignore = "the full form of the test above"]
fn two_hundred_damaged_files_are_told_or_mended() {
    damaged(&STUDIES, 210);
}

#[test]
#[ignore = "a full form for searches, whose checkpoints are read to go on"]
fn a_hundred_damaged_searches_are_told_or_mended() {
    damaged(&SEARCHES, 100);
}

/// Words that briefs are broken with.
const WORDS: [&str; 24] = [
    "kind",
    "game",
    "seed",
    "knobs",
    "vary",
    "[[entrant]]",
    "[[rung]]",
    "[opponent]",
    "{",
    "}",
    "[",
    "]",
    "=",
    "\"",
    "-1",
    "nan",
    "inf",
    "1e999",
    "99999999999999999999",
    "true",
    "\u{1b}[2J",
    "é",
    "0.5",
    "\n",
];

/// A brief with a few things done to its text.
fn mutated(text: &str, chance: &mut Chance) -> String {
    let mut words: Vec<String> = text.split_inclusive([' ', '\n']).map(String::from).collect();
    for _ in 0..=chance.below(3) {
        let at = chance.below(words.len());
        match chance.below(6) {
            0 => drop(words.remove(at)),
            1 => words.insert(at, format!("{} ", WORDS[chance.below(WORDS.len())])),
            2 => words[at] = format!("{} ", WORDS[chance.below(WORDS.len())]),
            3 => {
                let other = chance.below(words.len());
                words.swap(at, other);
            }
            4 => {
                let other = words[chance.below(words.len())].clone();
                words.insert(at, other);
            }
            _ => {
                let mut letters: Vec<char> = words[at].chars().collect();
                let place = chance.below(letters.len());
                letters[place] = ['x', '0', '9', '.', '-', '"', '\n', '='][chance.below(8)];
                words[at] = letters.into_iter().collect();
            }
        }
        if words.is_empty() {
            words.push("\n".into());
        }
    }
    words.concat()
}

/// Longest that a check may take.
const CHECKED: Duration = Duration::from_secs(10);
/// The most memory that a check may ask for, KiB.
const MOST_MEMORY: u64 = 2 << 20;

/// The same command with a limit to its memory, where the system's shell can set one.
fn limited(command: &Command) -> Command {
    let mut shell = Command::new("sh");
    let limit = if cfg!(target_os = "linux") { format!("ulimit -v {MOST_MEMORY}; ") } else { String::new() };
    shell.arg("-c").arg(format!("{limit}exec \"$0\" \"$@\"")).arg(command.get_program()).args(command.get_args());
    if let Some(folder) = command.get_current_dir() {
        shell.current_dir(folder);
    }
    for (name, value) in command.get_envs() {
        match value {
            Some(value) => shell.env(name, value),
            None => shell.env_remove(name),
        };
    }
    shell
}

/// Breaks the shipped briefs: each is fine or refused with what to do, soon and within little memory.
fn broken_briefs(times: usize) {
    let bench = Bench::new();
    bench.ok("new start");
    let folder = bench.path("start/briefs");
    let mut briefs: Vec<(String, String)> = fs::read_dir(&folder)
        .expect("the briefs are there")
        .flatten()
        .filter(|entry| entry.path().extension().is_some_and(|ending| ending == "toml"))
        .map(|entry| {
            (entry.file_name().to_string_lossy().into_owned(), fs::read_to_string(entry.path()).expect("text"))
        })
        .collect();
    briefs.sort();
    let mut chance = Chance::from_seed(3);
    let mut refused = 0;
    for time in 0..times {
        let (name, text) = &briefs[time % briefs.len()];
        let text = mutated(text, &mut chance);
        fs::write(folder.join("broken.toml"), &text).expect("the brief is written");
        let arguments = "check start/briefs/broken.toml";
        let began = Instant::now();
        let run = ended(arguments, &mut limited(&bench.command(arguments)));
        assert!(began.elapsed() < CHECKED, "{name} takes {:?}:\n{text}", began.elapsed());
        assert!(matches!(run.code, Some(0 | 2)), "{name} exits {:?}: {}\n{text}", run.code, run.errors);
        if run.code == Some(2) {
            refused += 1;
            assert!(run.errors.contains("error: ") && run.errors.contains("help: "), "{name}: {}", run.errors);
            assert!(!run.errors.contains('\u{1b}'), "{name}: control characters are shown: {}", run.errors);
        }
    }
    assert!(refused * 3 > times, "most of {times} are wrong, {refused} were refused");
}

#[test]
fn broken_briefs_are_refused_with_what_to_do() {
    broken_briefs(150);
}

#[test]
#[ignore = "the full form of the test above"]
fn three_thousand_broken_briefs_are_refused_with_what_to_do() {
    broken_briefs(3000);
}
