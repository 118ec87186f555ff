//! Fitting a stand-in to logs made by stand-ins of known knobs: how often the intervals hold.

use std::sync::LazyLock;

use inkpot_core::{Halt, KnobValue, Knobs, Registry, Rows, Seating, Setting, Spot};
use inkpot_lab::{
    Draft, EntrantDraft, Fit, FitDraft, FitProof, Fitted, FreeDraft, HumanLog, LoggedMatch, Problem, Results,
    SearchError, SearchJob, Seeks, Sitting, Threads, resolve, resolve_fit, search,
};

const COLUMNS: [&str; 11] = [
    "won",
    "score",
    "score_against",
    "length_s",
    "lunges",
    "lunges_landed",
    "parries",
    "parries_good",
    "run_m",
    "reversals_per_s",
    "gap_m",
];

fn registry() -> Registry {
    inkpot_games::registry()
}

fn free(knob: &str, low: f64, high: f64) -> FreeDraft {
    FreeDraft { knob: knob.into(), low: Some(low), high: Some(high), ..FreeDraft::default() }
}

fn draft(free: Vec<FreeDraft>, seed: u64) -> FitDraft {
    let named = |name: &str, agent: &str, knobs: Knobs| EntrantDraft {
        name: Some(name.into()),
        agent: agent.into(),
        knobs,
        vary: Vec::new(),
    };
    FitDraft {
        game: "piste".into(),
        seed: Some(seed),
        standin: named("visitor", "regular", Knobs::default()),
        opponents: vec![named("house", "fencer", Knobs::default().with("skill", 0.5))],
        free,
        ..FitDraft::default()
    }
}

/// A log of this many people, made by the stand-in with these knobs against the fencer at skill 0.5.
fn log(truth: &[(&str, f64)], people: u64, matches: u32, seed: u64) -> HumanLog {
    let registry = registry();
    let game = registry.game("piste").expect("a house game");
    let named = |agent: &str, set: &[(&str, f64)]| EntrantDraft {
        agent: agent.into(),
        knobs: set.iter().map(|(knob, x)| ((*knob).to_string(), KnobValue::Number(*x))).collect(),
        ..EntrantDraft::default()
    };
    let entrants = vec![named("regular", truth), named("fencer", &[("skill", 0.5)])];
    let draft = Draft { game: "piste".into(), seed: Some(seed), entrants, ..Draft::default() };
    let plan = resolve(&draft.into(), &registry).expect("a plain draft");
    let setting =
        Setting { seating: Seating::rotated(2).in_series(matches as usize / 2), ..plan.setting(&plan.cells[0]) };
    let mut stage = game.stage(&setting).expect("a setting of the game");
    let measures = &game.sheet().measures;
    let index = |name: &str| measures.iter().position(|measure| measure.name == name).expect("a measure of the game");
    let mut log = HumanLog { columns: COLUMNS.map(String::from).to_vec(), matches: Vec::new() };
    for block in 0..people {
        let mut rows = Rows::new(measures.len());
        for rotation in 0..stage.matches_a_block() {
            stage.play(Spot { cell: 0, block, rotation, match_index: rotation as u64, leads: false }, &mut rows);
        }
        for played in rows.matches() {
            let (seats, visitor) = (played.seats(), played.seat_of(0).expect("the visitor plays"));
            let values = COLUMNS.map(|column| match column {
                "won" => played.points(visitor),
                "score" => seats[visitor].score,
                "score_against" => seats[1 - visitor].score,
                name => played.measures(visitor)[index(name)],
            });
            log.matches.push(LoggedMatch { player: format!("p{block}"), opponent: 0, values: values.to_vec() });
        }
    }
    log
}

/// Searches from a checkpoint on; gives the checkpoint after every round.
fn searched(fit: &Fit, from: Option<&str>, threads: usize) -> Vec<String> {
    let registry = registry();
    let game = registry.game("piste").expect("a house game");
    let mut searching = fit.begin(game, from).expect("a checkpoint of this fit");
    let halt = Halt::never();
    let job = SearchJob::new(fit.work(game).expect("a log that was read"), game, &halt, String::new());
    let mut checkpoints = Vec::new();
    let ended =
        search(searching.as_mut(), &job, &Threads(threads), &halt, &mut Results::new(), |searching, results| {
            if results.is_empty() {
                checkpoints.push(searching.checkpoint());
            }
            Ok::<(), SearchError>(())
        });
    assert_eq!(ended, Ok(Sitting::Complete));
    checkpoints
}

/// What is proved of a finished search.
fn proved(fit: &Fit, checkpoint: &str) -> Result<FitProof, Vec<Problem>> {
    fit.prove(checkpoint, &registry()).map(|(_, proof)| proof)
}

fn fitted(people: u64, truth: &[(&str, f64)], seed: u64) -> Fitted {
    let free = vec![free("reaction_ms", 150.0, 500.0), free("aim_noise", 0.05, 0.6), free("aggression", 0.2, 2.0)];
    let log = Some(log(truth, people, 8, seed ^ 0xabcd));
    let fit = resolve_fit(&FitDraft { log, ..draft(free, seed) }, &registry()).expect("a fit of a house game");
    let checkpoints = searched(&fit, None, 2);
    proved(&fit, checkpoints.last().expect("several rounds")).expect("the log tells these knobs apart").fitted
}

/// A fit of one knob, quick enough for every test run.
fn small() -> Fit {
    let log = Some(log(&[("reaction_ms", 330.0)], 20, 4, 7));
    resolve_fit(&FitDraft { log, ..draft(vec![free("reaction_ms", 200.0, 500.0)], 3) }, &registry()).expect("a fit")
}

/// Its checkpoints, searched once for all tests.
static WHOLE: LazyLock<Vec<String>> = LazyLock::new(|| searched(&small(), None, 2));

#[test]
fn a_search_ends_the_same_from_every_checkpoint_and_on_any_threads() {
    let fit = small();
    assert_eq!(WHOLE.len(), 6, "four rounds, and two weighings between them");
    for round in [2, 5] {
        assert_eq!(searched(&fit, Some(&WHOLE[round]), 1), WHOLE[round + 1..], "from round {round}");
    }
}

#[test]
fn a_fit_finds_the_knob_that_its_log_was_made_with_and_proves_it() {
    let fit = small();
    let proof = proved(&fit, WHOLE.last().expect("several rounds")).expect("a fit");
    let [knob] = proof.fitted.knobs.as_slice() else { panic!("one knob is free") };
    assert!((knob.low..=knob.high).contains(&330.0), "{knob:?}");
    assert!(!knob.at_end && knob.high - knob.low < 150.0, "{knob:?}");
    assert_eq!(proof.given.get("reaction_ms").and_then(KnobValue::number), Some(knob.value));
    assert!(proof.fitted.misfit_p.is_some_and(|p| p > 0.001), "{:?}", proof.fitted.misfit_p);
}

#[test]
fn a_checkpoint_of_another_fit_is_refused() {
    let registry = registry();
    let game = registry.game("piste").expect("a house game");
    let fit = small();
    let first = &WHOLE[0];
    let two = vec![free("reaction_ms", 200.0, 500.0), free("aggression", 0.5, 1.5)];
    let other = resolve_fit(&FitDraft { log: Some(fit.log.clone()), ..draft(two, 3) }, &registry).expect("a fit");
    assert!(other.begin(game, Some(first)).is_err());
    assert!(fit.begin(game, Some(&first[..first.len() / 2])).is_err());
    let more = WHOLE[5].replacen("\"weighed\":2", "\"weighed\":9", 1);
    assert!(more != WHOLE[5] && fit.begin(game, Some(&more)).is_err());
}

#[test]
fn what_a_log_cannot_tell_is_refused_before_anything_is_played() {
    let whole = log(&[], 6, 4, 9);
    let fit_draft = |log: HumanLog, knobs: &[&str]| {
        let free = knobs.iter().map(|knob| FreeDraft { knob: (*knob).into(), ..FreeDraft::default() }).collect();
        resolve_fit(&FitDraft { log: Some(log), ..draft(free, 1) }, &registry()).expect_err("something is wrong")
    };
    let cut = |columns: usize| {
        let mut log = whole.clone();
        log.columns.truncate(columns);
        log.matches.iter_mut().for_each(|played| played.values.truncate(columns));
        log
    };
    let few = HumanLog { matches: whole.matches[..8].to_vec(), ..whole.clone() };
    let mut flat = whole.clone();
    flat.matches.iter_mut().for_each(|played| played.values[3] = 30.0);
    let mut strange = whole.clone();
    strange.columns[2] = "mood".into();
    for (log, knobs, place, what) in [
        (cut(1), &["reaction_ms", "aggression"][..], "log", "1 columns cannot tell 2 knobs apart"),
        (few, &["reaction_ms"], "log", "the log has 2 people"),
        (flat, &["reaction_ms"], "log", "the column `length_s` is the same in every match"),
        (strange, &["reaction_ms"], "log", "the column `mood` is not a figure of the game"),
        (whole.clone(), &[], "free", "no knob is free"),
        (whole.clone(), &["mood"], "free[0]", "the stand-in has no numeric knob `mood`"),
    ] {
        let problems = fit_draft(log, knobs);
        let matches_problem = |problem: &Problem| problem.at.to_string() == place && problem.what.contains(what);
        assert!(problems.iter().any(matches_problem), "{what}: {problems:?}");
    }
}

#[test]
#[ignore = "a simulation of some minutes; run in release"]
fn the_intervals_hold_the_knobs_that_a_log_was_made_from() {
    let truths = [
        [("reaction_ms", 340.0), ("aim_noise", 0.3), ("aggression", 1.1)],
        [("reaction_ms", 230.0), ("aim_noise", 0.2), ("aggression", 0.6)],
    ];
    let mut held = [0; 3];
    let mut fits = 0;
    let mut bad = 0;
    for seed in 1..=15 {
        for truth in &truths {
            let fitted = fitted(60, truth, seed);
            fits += 1;
            bad += usize::from(fitted.misfit_p.is_some_and(|p| p < 0.05));
            let line: Vec<String> = fitted
                .knobs
                .iter()
                .zip(truth)
                .enumerate()
                .map(|(i, (fitted, (_, value)))| {
                    held[i] += usize::from((fitted.low..=fitted.high).contains(value));
                    format!("{:.3} ({:.3}-{:.3})", fitted.value, fitted.low, fitted.high)
                })
                .collect();
            println!("{} p {:.2?}", line.join("  "), fitted.misfit_p);
        }
    }
    println!("held {held:?} of {fits}; misfit below 0.05 in {bad}");
    assert!(held.iter().all(|held| *held * 100 >= fits * 85), "{held:?} of {fits}");
}
