//! Fitting a stand-in to logs made by stand-ins of known knobs: how often the intervals hold.

use inkpot_core::{Casting, GameEntry, KnobValue, Knobs, Registry, Rows, Setting, Spot};
use inkpot_lab::{
    Across, Draft, EntrantDraft, FitError, FitPlan, Fitted, Free, FreeRange, Ground, HumanLog, LoggedMatch, Side,
    fit_standin, resolve,
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

fn free(knob: &str, low: f64, high: f64) -> Free {
    let range = FreeRange::Number { low, high, whole: false };
    Free { of: Side::Player, knob: knob.into(), range, across: Across::Any, step: None }
}

fn plan(seed: u64) -> FitPlan {
    let entrant = |name: &str, agent: &str, knobs: Knobs| EntrantDraft {
        name: Some(name.into()),
        agent: agent.into(),
        knobs,
        vary: Vec::new(),
    };
    let draft = Draft {
        game: "piste".into(),
        seed: Some(seed),
        entrants: vec![
            entrant("visitor", "regular", Knobs::default()),
            entrant("house", "fencer", Knobs::default().with("skill", 0.5)),
        ],
        ..Draft::default()
    };
    let mut plan = resolve(&draft, &registry()).expect("a plain draft");
    let standin = plan.entrants.remove(0);
    FitPlan {
        ground: Ground { seed, ..plan.ground },
        standin,
        free: vec![free("reaction_ms", 150.0, 500.0), free("aim_noise", 0.05, 0.6), free("aggression", 0.2, 2.0)],
        opponents: plan.entrants,
    }
}

/// A log of so many people, made by the stand-in with these knobs.
fn log(plan: &FitPlan, truth: &[(&str, f64)], people: u64, matches: u32, seed: u64, game: &dyn GameEntry) -> HumanLog {
    let mut given = plan.standin.given.clone();
    for (knob, value) in truth {
        given.set(knob, KnobValue::Number(*value));
    }
    let sheet = game.agents().iter().find(|sheet| sheet.name == plan.standin.kind).expect("the kind is there");
    let knobs = given.resolve(&sheet.knobs).expect("allowed values");
    let house = &plan.opponents[0];
    let setting = Setting {
        rules: plan.ground.rules.clone(),
        level: plan.ground.level.clone(),
        cast: vec![
            Casting { entrant: 0, kind: plan.standin.kind.clone(), knobs },
            Casting { entrant: 1, kind: house.kind.clone(), knobs: house.knobs.clone() },
        ],
        series: matches / 2,
        study_seed: seed,
    };
    let mut stage = game.stage(&setting).expect("a setting of the game");
    let measures = &game.sheet().measures;
    let index = |name: &str| measures.iter().position(|measure| measure.name == name).expect("a measure of the game");
    let mut log = HumanLog { columns: COLUMNS.map(String::from).to_vec(), matches: Vec::new() };
    for block in 0..people {
        let mut rows = Rows::new(measures.len());
        for rotation in 0..stage.rotations() {
            stage.play(Spot { cell: 0, block, rotation, match_index: rotation as u64 }, &mut rows);
        }
        for played in rows.matches() {
            let (seats, own) = (played.seats(), played.seat_of(0).expect("the visitor plays"));
            let values = COLUMNS.map(|column| match column {
                "won" => played.points(own),
                "score" => seats[own].score,
                "score_against" => seats[1 - own].score,
                name => played.measures(own)[index(name)],
            });
            log.matches.push(LoggedMatch { player: format!("p{block}"), opponent: 0, values: values.to_vec() });
        }
    }
    log
}

fn fitted(people: u64, truth: &[(&str, f64)], seed: u64) -> Result<Fitted, FitError> {
    let registry = registry();
    let game = registry.game("piste").expect("a house game");
    let plan = plan(seed);
    let log = log(&plan, truth, people, 8, seed ^ 0xabcd, game);
    fit_standin(&plan, &log, game, 2, |_, _| {})
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
            let fitted = fitted(60, truth, seed).expect("the log tells these knobs apart");
            fits += 1;
            bad += usize::from(fitted.misfit_p < 0.05);
            let line: Vec<String> = fitted
                .knobs
                .iter()
                .zip(truth)
                .enumerate()
                .map(|(i, (own, (_, value)))| {
                    held[i] += usize::from((own.low..=own.high).contains(value));
                    format!("{:.3} ({:.3}-{:.3})", own.value, own.low, own.high)
                })
                .collect();
            println!("{} p {:.2}", line.join("  "), fitted.misfit_p);
        }
    }
    println!("held {held:?} of {fits}; misfit below 0.05 in {bad}");
    assert!(held.iter().all(|held| *held * 100 >= fits * 85), "{held:?} of {fits}");
}
