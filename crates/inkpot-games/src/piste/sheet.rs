//! The sheet of piste.

use inkpot_agents::{Graded, drifter, horizon, networks, playouts, policy, treesearch};
use inkpot_core::{Entry, GameSheet, Knob, LevelSheet, Measure, Wanted};

use super::fencer::fencer;
use super::game::Piste;
use super::rules::{LEAST_STRIP_M, PisteRules, TICKS_PER_SECOND};
use super::standin::standin;

/// The game with all its agents.
pub fn entry() -> Entry<Piste> {
    Entry::new(sheet(), |laying| {
        let rules = PisteRules::new(laying.rules, laying.level)?;
        Ok(Box::new(move |world| Piste::new(rules, world)))
    })
    .optioned()
    .pictured()
    .by_hand(Piste::controls())
    .featured(Piste::features)
    .agent(fencer().graded())
    .agent(standin().graded())
    .agent(horizon(&Piste::weights(), &[fencer()]))
    // Sixty decisions a second leave time for short looks ahead.
    .agent(treesearch(&Piste::weights()).with_default("iterations", 60.0).with_default("length", 40.0))
    .agent(playouts(&Piste::weights()).with_default("iterations", 45.0).with_default("length", 40.0))
    .agent(policy(vec![networks()]))
    .agent(drifter(30).graded())
}

fn sheet() -> GameSheet {
    let level = |name: &str, help: &str, strip_m: f64| {
        let strip = Knob::real("strip", LEAST_STRIP_M..=60.0, strip_m).unit("m").help("length of the strip");
        LevelSheet::new(name, help).knob(strip)
    };
    GameSheet {
        name: "piste".into(),
        help: "fencing on the pier: two fencers on a strip, real time, both choose at once".into(),
        seats: 2..=2,
        ticks_per_second: Some(TICKS_PER_SECOND),
        rules: PisteRules::knobs(),
        levels: vec![level("pier", "a strip of 14 m", 14.0), level("jetty", "a short strip of 9 m", 9.0)],
        level_file: None,
        measures: measures(),
        without_chance: None,
    }
}

/// In the order of `Tally::figures`, and among them those that follow from the touches.
fn measures() -> Vec<Measure> {
    vec![
        Measure::seat("lunges", "Lunges", "", "lunges tried"),
        Measure::seat("lunges_landed", "Lunges landed", "share", "share of its lunges that landed")
            .wanted(Wanted::More),
        Measure::seat("parries", "Parries", "", "parries tried"),
        Measure::seat("parries_good", "Good parries", "share", "share of its parries that met a thrust")
            .wanted(Wanted::More),
        Measure::seat("run_m", "Distance run", "m", "distance covered by its feet"),
        Measure::seat("reversals_per_s", "Reversals", "1/s", "changes of direction a second: jitter")
            .wanted(Wanted::Less),
        Measure::seat("idle_share", "Idle", "share", "share of the time standing with a free blade"),
        Measure::of_match("gap_m", "Mean gap", "m", "mean distance between the two"),
        Measure::of_match("length_s", "Length", "s", "length of the match"),
        Measure::of_match("doubles", "Double touches", "", "double touches"),
        Measure::of_match("lead_changes", "Lead changes", "", "how often the lead passed from one to the other")
            .by_scores(),
        Measure::of_match("longest_lull_s", "Longest lull", "s", "longest time in which nobody scored a touch")
            .wanted(Wanted::Less)
            .by_scores(),
        Measure::of_match("margin", "Margin", "touches", "difference in touches at the end"),
        Measure::of_match("comeback", "Biggest comeback", "touches", "largest deficit that the winner made good")
            .by_scores(),
    ]
}
