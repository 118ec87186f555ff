//! What threads and writing cost: `cargo bench -p inkpot-lab`
//!
//! A piste batch on one thread and on two; playing it, writing its rows, summing them up; and the same of the cheapest
//! match there is, sowing between random movers, whose whole study is held against a bare loop too. Taken in turns, so that a
//! machine whose speed drifts treats all alike; the medians of the ratios are printed.

#[path = "../tests/all/begin/mod.rs"]
mod begin;

use std::hint::black_box;
use std::time::Instant;

use inkpot_core::{Acting, Chance, Choices, Game, Halt, Options};
use inkpot_games::sowing::{Board, Pit, Sowing};
use inkpot_lab::{Answer, Draft, EntrantDraft, Job, PlanJob, Runner, StudyPlan, Task, Threads, resolve, summarise};
use inkpot_ledger::{PartWriter, Span};

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

fn plan(batch: Batch) -> StudyPlan {
    let entrant = |agent: &str| EntrantDraft { agent: agent.into(), ..EntrantDraft::default() };
    let draft = Draft {
        game: batch.game.into(),
        seed: Some(5),
        matches: Some(batch.matches),
        entrants: batch.agents.map(entrant).into(),
        ..Draft::default()
    };
    resolve(&draft.into(), &inkpot_games::registry()).expect("the draft is fine")
}

/// Seconds to play the batch into a study of its own, and to sum it up.
fn study(plan: &StudyPlan, threads: usize) -> (f64, f64) {
    let registry = inkpot_games::registry();
    let game = registry.find(&plan.ground.game).expect("the house games are registered");
    let folder = tempfile::tempdir().expect("a temporary folder");
    let (study, mut manifest) = begin::begun(folder.path(), plan);
    let halt = Halt::new();
    let threads = Threads(threads);
    let runner = Runner::new(plan, game, &threads, &halt);
    let start = Instant::now();
    runner.play(&study, &mut manifest, &mut |_| {}).expect("the batch is played");
    let played = start.elapsed().as_secs_f64();
    summarise(&study, &manifest, plan, game).expect("the rows are summed up");
    (played, start.elapsed().as_secs_f64() - played)
}

/// Seconds to play the same matches on one thread, and seconds to write their rows.
fn play_then_write(plan: &StudyPlan) -> (f64, f64) {
    let registry = inkpot_games::registry();
    let game = registry.find(&plan.ground.game).expect("the house games are registered");
    let halt = Halt::new();
    let job = PlanJob::new(plan, game, &halt);
    let mut worker = job.worker();
    let mut play = |span: Span| match worker(&Task::Blocks(span)) {
        Answer::Rows { rows, .. } => rows,
        other => unreachable!("nobody stops it: {other:?}"),
    };
    let spans = (0..plan.total_blocks()).step_by(50).map(|first| first..(first + 50).min(plan.total_blocks()));
    let start = Instant::now();
    let mut runs: Vec<_> = spans.map(|span| (span.clone(), play(span))).collect();
    let played = start.elapsed().as_secs_f64();
    let folder = tempfile::tempdir().expect("a temporary folder");
    let (study, mut manifest) = begin::begun(folder.path(), plan);
    let measures = game.measure_names();
    let start = Instant::now();
    let mut writer = PartWriter::new(&study, &measures, &mut manifest);
    for (span, rows) in &mut runs {
        writer.take(span.clone(), rows).expect("the rows are written");
    }
    writer.flush().expect("the rows are written");
    (played, start.elapsed().as_secs_f64())
}

/// Seconds for as many matches of sowing between random movers in a loop of concrete types that keeps nothing.
fn bare(matches: u64) -> f64 {
    let start = Instant::now();
    let mut options: Vec<Pit> = Vec::new();
    let mut choices = Choices::none(2);
    for seed in 0..matches {
        // Two of a block share their world; each mover has chance of its own.
        let mut world = Chance::from_seed(seed / 2);
        let mut movers = [Chance::from_seed(3 * seed), Chance::from_seed(5 * seed)];
        let mut game = Sowing::opened(Board::start(6, 4), 4, &mut world);
        while let Acting::One(seat) = game.acting() {
            options.clear();
            game.options(seat, &mut options);
            choices.set(seat, options[movers[seat].below(options.len())]);
            game.advance(&choices, &mut world);
            choices.clear();
        }
        black_box(game.scores());
    }
    start.elapsed().as_secs_f64()
}

fn main() {
    BATCHES.into_iter().for_each(pace);
    let plan = plan(BATCHES[1]);
    let mut against: Vec<f64> = (0..ROUNDS)
        .map(|_| {
            let bare = bare(BATCHES[1].matches);
            let (played, summed) = study(&plan, 1);
            (played + summed) / bare
        })
        .collect();
    against.sort_by(f64::total_cmp);
    let [low, middle, high] = [1, ROUNDS / 2, ROUNDS - 2].map(|place| against[place]);
    println!(
        "a study of the cheapest match, played and summed up, against a bare loop, times: {middle:.2} ({low:.2} to {high:.2})"
    );
}

fn pace(batch: Batch) {
    let plan = plan(batch);
    let (mut threads, mut writing, mut summing, mut rate) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
    for _ in 0..ROUNDS {
        let (single, sum) = study(&plan, 1);
        let (two, _) = study(&plan, 2);
        let (played, written) = play_then_write(&plan);
        threads.push(single / two);
        writing.push(written / played * 100.0);
        summing.push(sum / single * 100.0);
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
