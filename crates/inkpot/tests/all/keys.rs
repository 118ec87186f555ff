//! Every knob of every method changes what a search comes to, or is refused.

use std::fs;

use crate::common::Bench;
use inkpot_core::{Knob, KnobRange};
use inkpot_lab::{EvolutionName, LearnedGame, TrainingName};
use inkpot_learn::{Gene, Space};

/// An evolution of two knobs, small, with gaps for the method and its knobs.
const EVOLUTION: &str = "kind = \"evolve\"\ngame = \"piste\"\nseed = 3\nseeds = 1\nmatches = 400\nblocks = 1\nproof = 40\n\
    rules = { touches = 2 }\n[subject]\nagent = \"fencer\"\n[[free]]\nknob = \"skill\"\n[[free]]\nknob = \"gain\"\n\
    [[term]]\nfigure = \"score_margin\"\n[[opponent]]\nagent = \"heron\"\n[yardstick]\nmatches = 10\n";
/// The same of a network.
const NETWORK: &str = "kind = \"evolve\"\ngame = \"regatta\"\nlevel = \"reach\"\nseed = 3\nseeds = 1\nmatches = 200\nblocks = 1\n\
    proof = 40\n[subject]\nagent = \"policy\"\nknobs = { decide_every = 10 }\n[[term]]\nfigure = \"water_left_m\"\n\
    weight = -1\n[yardstick]\nmatches = 4\n";
/// A training of a boat.
const BOAT: &str = "kind = \"train\"\ngame = \"regatta\"\nlevel = \"reach\"\nseed = 4\nseeds = 1\nsteps = 2_000\nproof = 40\n\
    [subject]\nagent = \"policy\"\nlayers = [4]\nknobs = { decide_every = 10 }\n[[term]]\nfigure = \"water_left_m\"\n\
    weight = -0.1\n[yardstick]\nmatches = 4\n";
/// A training of a table.
const TABLE: &str = "kind = \"train\"\ngame = \"berths\"\nseed = 5\nseeds = 1\nsteps = 2_000\nproof = 40\n\
    rules = { width = 5, length = 4 }\n[subject]\nagent = \"policy\"\n[[term]]\nfigure = \"win_rate\"\n[[opponent]]\n\
    agent = \"harbourmaster\"\n[yardstick]\nmatches = 4\n";

/// Other values of a knob than the one it has.
fn others(knob: &Knob, base: Option<f64>) -> Vec<String> {
    let number = |low: f64, high: f64, default: f64, whole: bool| {
        let base = base.unwrap_or(default);
        let other = if base == 0.0 { (high / 10.0).min(0.3) } else { base / 2.0 };
        let other = if other < low || other == base { (base * 2.0).min(high) } else { other };
        let other = if whole { other.round() } else { other };
        let other = if other == base { f64::midpoint(low, high) } else { other };
        if whole { format!("{other:.0}") } else { format!("{other}") }
    };
    match &knob.range {
        KnobRange::Real { low, high, default } => vec![number(*low, *high, *default, false)],
        KnobRange::Whole { low, high, default } => vec![number(*low as f64, *high as f64, *default as f64, true)],
        KnobRange::Choice { of, default } => {
            of.iter().filter(|word| *word != default).map(|word| format!("\"{word}\"")).collect()
        }
        KnobRange::File { .. } => panic!("a method has no files"),
    }
}

/// What a search comes to: its history, without times, its champion, and what it says but for the folder.
fn result(bench: &Bench, brief: &str, name: &str) -> Result<Vec<u8>, String> {
    bench.write(&format!("{name}.toml"), brief);
    let verb = if brief.contains("kind = \"train\"") { "train" } else { "evolve" };
    let output = bench.run(&format!("{verb} {name}.toml --ledger ledger --name {name}"));
    if !output.status.success() {
        return Err(String::from_utf8_lossy(&output.stderr).into_owned());
    }
    let folder = bench.path("ledger").join(name);
    let mut files: Vec<_> = fs::read_dir(&folder).expect("a study").flatten().map(|entry| entry.path()).collect();
    files.sort();
    let is_result = |name: &str| name == "history.csv" || name.starts_with("champion") || name.starts_with("map");
    let named = |path: &std::path::Path| path.file_name().is_some_and(|name| is_result(&name.to_string_lossy()));
    let results = files.iter().filter(|path| path.is_file() && named(path));
    let mut all: Vec<u8> = results.flat_map(|path| fs::read(path).expect("it is read")).collect();
    let said = String::from_utf8_lossy(&output.stdout).into_owned();
    all.extend(said.lines().filter(|line| !line.starts_with("In ")).flat_map(str::bytes));
    Ok(all)
}

/// Changes every knob of a method, each beside what makes it matter, and asks for another result or a refusal by name.
fn check(method: &str, knobs: &[Knob], brief: &str, usual: &[(&str, &str)], beside: &[(&str, &[(&str, &str)])]) {
    let bench = Bench::new();
    let with = |set: &[(&str, String)]| {
        let lines: Vec<String> = set.iter().map(|(knob, value)| format!("{knob} = {value}")).collect();
        format!("{brief}\n[method]\nname = \"{method}\"\n{}\n", lines.join("\n"))
    };
    let mut number = 0;
    for knob in knobs {
        let mut base: Vec<(&str, String)> = usual.iter().map(|(knob, value)| (*knob, (*value).to_string())).collect();
        for (_, more) in beside.iter().filter(|(name, _)| *name == knob.name) {
            base.retain(|(name, _)| !more.iter().any(|(other, _)| other == name));
            base.extend(more.iter().map(|(knob, value)| (*knob, (*value).to_string())));
        }
        let stated = base.iter().find(|(name, _)| *name == knob.name).and_then(|(_, value)| value.parse().ok());
        let before = result(&bench, &with(&base), &format!("s{number}")).unwrap_or_else(|error| panic!("{error}"));
        number += 1;
        for value in others(knob, stated) {
            let mut set: Vec<_> = base.iter().filter(|(name, _)| *name != knob.name).cloned().collect();
            set.push((&knob.name, value.clone()));
            match result(&bench, &with(&set), &format!("s{number}")) {
                Ok(after) => assert!(after != before, "{method}: {} = {value} changes nothing", knob.name),
                Err(error) => assert!(error.contains(&format!("`{}`", knob.name)), "{method}: {error}"),
            }
            number += 1;
        }
    }
}

fn space() -> Space {
    Space(vec![Gene::Share; 2])
}

#[test]
fn every_knob_of_an_evolution_changes_its_result() {
    let few = [("population", "8")];
    let of = |name: EvolutionName| name.knobs(&space());
    let name = EvolutionName::Genetic;
    let beside: &[(&str, &[(&str, &str)])] = &[
        ("truncation_share", &[("selection", "\"truncation\"")]),
        ("rank_pressure", &[("selection", "\"rank\"")]),
        ("blend", &[("crossover", "\"blend\"")]),
    ];
    check(name.name(), &of(name), EVOLUTION, &few, beside);
    let name = EvolutionName::CmaEs;
    let (restarts, others): (Vec<Knob>, Vec<Knob>) = of(name).into_iter().partition(|knob| knob.name == "restarts");
    check(name.name(), &others, EVOLUTION, &few, &[]);
    // Candidates that are all worth the same make it begin anew.
    let flat = EVOLUTION.replace("score_margin", "win_rate").replace("matches = 400", "matches = 800");
    let flat = flat.replace("knob = \"skill\"", "knob = \"skill\"\nfrom = 0.9\nto = 1");
    let flat = flat.replace("knob = \"gain\"", "knob = \"gain\"\nfrom = 1\nto = 1.1");
    let flat = flat.replace("agent = \"heron\"", "agent = \"fencer\"\nknobs = { skill = 0 }");
    check(name.name(), &restarts, &flat, &few, &[]);
    let name = EvolutionName::Nes;
    check(name.name(), &of(name), EVOLUTION, &few, &[]);
    let name = EvolutionName::Topology;
    let beside: &[(&str, &[(&str, &str)])] = &[("renew", &[("population", "4"), ("species", "2")])];
    check(name.name(), &of(name), NETWORK, &[("population", "8"), ("add_node", "0.4")], beside);
    let name = EvolutionName::MapElites;
    let niche =
        |measure: &str, to: u32| format!("[[niche]]\nmeasure = \"{measure}\"\nfrom = 0\nto = {to}\ncount = 4\n");
    let map = format!("{EVOLUTION}{}{}", niche("length", 1000), niche("lunges", 10));
    check(name.name(), &of(name), &map, &[("population", "8"), ("first", "16")], &[]);
}

#[test]
fn every_knob_of_a_training_changes_its_result() {
    let name = TrainingName::Ppo;
    let usual = [("environments", "4"), ("horizon", "50"), ("gradient_limit", "0.02"), ("clip", "0.02")];
    check(name.name(), &name.knobs(LearnedGame::default()), BOAT, &usual, &[]);
    let discrete = BOAT.replace("level = \"reach\"", "level = \"reach\"\nrules = { rudder = \"discrete\" }");
    let name = TrainingName::Dqn;
    let usual = [("replay", "200"), ("first", "50"), ("minibatch", "16"), ("target_every", "100")];
    check(name.name(), &name.knobs(LearnedGame::default()), &discrete, &usual, &[]);
    for name in [TrainingName::QLearning, TrainingName::Sarsa, TrainingName::ExpectedSarsa] {
        check(name.name(), &name.knobs(LearnedGame::default()), TABLE, &[("returns", "2")], &[]);
    }
    let name = TrainingName::Exact;
    let searcher = TABLE.replace("\"harbourmaster\"", "\"treesearch\"\nknobs = { iterations = 20 }");
    let searcher = searcher
        .replace("steps = 2_000\n", "")
        .replace("seeds = 1\n", "")
        .replace("width = 5, length = 4", "width = 3, length = 3");
    check(name.name(), &name.knobs(LearnedGame::default()), &searcher, &[("draws", "64"), ("positions", "1000")], &[]);
}

#[test]
fn keys_that_a_method_never_reads_are_refused() {
    let bench = Bench::new();
    let exact = TABLE.replace("figure = \"win_rate\"", "figure = \"win_rate\"\nweight = 2\npays = \"end\"");
    bench.write("exact.toml", format!("{exact}every = 100\n[method]\nname = \"exact\"\n"));
    let discrete = BOAT.replace("level = \"reach\"", "level = \"reach\"\nrules = { rudder = \"discrete\" }");
    bench.write("options.toml", format!("{discrete}[method]\nspread = 0.4\n"));
    bench.write("rank.toml", format!("{EVOLUTION}[method]\nselection = \"rank\"\ntournament_size = 5\nblend = 0.1\n"));
    for brief in ["exact", "options", "rank"] {
        insta::assert_snapshot!(format!("idle_{brief}"), bench.console(&format!("check {brief}.toml")));
    }
    let large = "[method]\nname = \"ppo\"\nhorizon = 100000\nenvironments = 1024\n";
    bench.write("large.toml", format!("{BOAT}{large}"));
    insta::assert_snapshot!("training_too_large", bench.console("check large.toml"));
}
