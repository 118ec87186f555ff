//! What threads and writing cost: `cargo bench -p inkpot-lab`
//!
//! A piste batch on one thread and on two; playing it, writing its rows, summing them up; and the same of the cheapest
//! match there is, sowing between random movers. Taken in turns, so that a machine whose speed drifts treats all alike; the
//! medians of the ratios are printed.

use std::sync::atomic::AtomicBool;
use std::time::Instant;

use inkpot_lab::{Draft, EntrantDraft, Plan, Runner, resolve, summarise};
use inkpot_ledger::{Ledger, Machine, Manifest, PartWriter};

const ROUNDS: usize = 9;

/// A batch to pace: the game, who plays, and how many matches.
#[derive(Clone, Copy)]
struct Batch {
    game: &'static str,
    agents: [&'static str; 2],
    matches: u64,
}

const BATCHES: [Batch; 2] = [
    Batch { game: "piste", agents: ["newcomer", "godwit"], matches: 6000 },
    Batch { game: "sowing", agents: ["drifter", "drifter"], matches: 200_000 },
];

fn plan(batch: Batch) -> Plan {
    let entrant = |agent: &str| EntrantDraft { agent: agent.into(), ..EntrantDraft::default() };
    let draft = Draft {
        game: batch.game.into(),
        seed: Some(5),
        matches: Some(batch.matches),
        entrants: batch.agents.map(entrant).into(),
        ..Draft::default()
    };
    resolve(&draft, &inkpot_games::registry()).expect("the draft is fine")
}

/// Seconds to play the batch into a study of its own, and to sum it up.
fn study(plan: &Plan, threads: usize) -> (f64, f64) {
    let registry = inkpot_games::registry();
    let game = registry.game(&plan.ground.game).expect("the house games are registered");
    let folder = tempfile::tempdir().expect("a temporary folder");
    let study = Ledger::at(folder.path()).create("pace").expect("a new study");
    let mut manifest = Manifest::begin(&study, "batch", &plan.ground.game, 5, plan.total_blocks(), Machine::default());
    let stop = AtomicBool::new(false);
    let runner = Runner::new(plan, game, threads, &stop);
    let start = Instant::now();
    runner.play(&study, &mut manifest, |_| {}).expect("the batch is played");
    let played = start.elapsed().as_secs_f64();
    summarise(&study, &manifest, plan, game).expect("the rows are summed up");
    (played, start.elapsed().as_secs_f64() - played)
}

/// Seconds to play the same matches on one thread, and seconds to write their rows.
fn play_then_write(plan: &Plan) -> (f64, f64) {
    let registry = inkpot_games::registry();
    let game = registry.game(&plan.ground.game).expect("the house games are registered");
    let stop = AtomicBool::new(false);
    let runner = Runner::new(plan, game, 1, &stop);
    let spans = (0..plan.total_blocks()).step_by(50).map(|first| first..(first + 50).min(plan.total_blocks()));
    let start = Instant::now();
    let mut runs: Vec<_> = spans.map(|span| (span.clone(), runner.play_span(&span))).collect();
    let played = start.elapsed().as_secs_f64();
    let folder = tempfile::tempdir().expect("a temporary folder");
    let study = Ledger::at(folder.path()).create("pace").expect("a new study");
    let mut manifest = Manifest::begin(&study, "batch", &plan.ground.game, 5, plan.total_blocks(), Machine::default());
    let start = Instant::now();
    let mut writer = PartWriter::new(&study, runner.measures(), &mut manifest);
    for (span, rows) in &mut runs {
        writer.take(span.clone(), rows).expect("the rows are written");
    }
    writer.flush().expect("the rows are written");
    (played, start.elapsed().as_secs_f64())
}

fn main() {
    BATCHES.into_iter().for_each(pace);
}

fn pace(batch: Batch) {
    let plan = plan(batch);
    let (mut threads, mut writing, mut summing, mut rate) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
    for _ in 0..ROUNDS {
        let (one, sum) = study(&plan, 1);
        let (two, _) = study(&plan, 2);
        let (played, written) = play_then_write(&plan);
        threads.push(one / two);
        writing.push(written / played * 100.0);
        summing.push(sum / one * 100.0);
        rate.push(batch.matches as f64 / two);
    }
    let median = |values: &mut Vec<f64>| {
        values.sort_by(f64::total_cmp);
        (values[ROUNDS / 2], values[1], values[ROUNDS - 2])
    };
    let rows = [
        ("two threads against one, times", median(&mut threads)),
        ("writing rows, percent of the time of playing them", median(&mut writing)),
        ("summing up, percent of the time of one thread", median(&mut summing)),
        ("matches a second on two threads", median(&mut rate)),
    ];
    let Batch { game, agents: [a, b], matches } = batch;
    println!("{game}, {a} against {b}, {matches} matches, {ROUNDS} rounds: median (second least to second most)");
    for (what, (middle, low, high)) in rows {
        println!("{what}: {middle:.2} ({low:.2} to {high:.2})");
    }
}
