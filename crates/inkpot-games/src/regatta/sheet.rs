//! The sheet of regatta.

use std::sync::{Arc, Mutex, PoisonError};

use inkpot_agents::{Graded, drifter, networks, policy, tape};
use inkpot_core::{Entry, GameSheet, Knob, Knobs, Level, LevelSheet, Measure, Wanted};

use super::beeline::beeline;
use super::course::Course;
use super::game::Regatta;
use super::generator::{self, ChartSize};
use super::rules::{RegattaRules, TICKS_PER_SECOND, ray_degrees};
use super::tacker::tacker;
use super::water::Water;
use super::{chart::Chart, levels};

/// The levels that have a chart: name, help, time limit (s), chart.
type Charted = (&'static str, &'static str, f64, fn() -> Chart);

const CHARTED: [Charted; 5] = [
    ("reach", "one mark abeam of the wind, on open water", 60.0, levels::reach),
    ("triangle", "three marks on open water: upwind, across, downwind", 180.0, levels::triangle),
    ("windward", "a mark upwind behind a mole that is open towards the start", 200.0, levels::windward),
    ("channel", "a bending channel with shores on both sides", 180.0, levels::channel),
    ("harbour", "out of a harbour, round an island upwind, and home", 420.0, levels::harbour),
];

/// Waters that are kept ready: those of the settings that a study goes to and fro between.
const KEPT: usize = 8;

/// Waters made ready, by level.
type Ready = Mutex<Vec<(Level, Vec<Arc<Water>>)>>;

/// The game with all its agents.
pub fn entry() -> Entry<Regatta> {
    let ready = Ready::default();
    Entry::new(sheet(), move |laying| {
        let course = Arc::new(Course {
            rules: RegattaRules::new(laying.rules),
            ray_degrees: ray_degrees(laying.rules),
            waters: waters(laying.level, &ready)?,
            time: (time_s(laying.level)? * TICKS_PER_SECOND) as u32,
        });
        let seats = laying.seats;
        Ok(Box::new(move |world| Regatta::new(course.clone(), seats, world)))
    })
    .optioned()
    .pictured()
    .by_hand(Regatta::controls())
    .featured(Regatta::features)
    .agent(tacker().graded())
    .agent(beeline().graded())
    .agent(policy(vec![networks()]))
    .agent(tape())
    .agent(drifter(10).graded())
}

fn generator(level: &Level) -> Result<&Knobs, String> {
    match level {
        Level::Named { knobs, .. } => Ok(knobs),
        Level::File { .. } => Err("the water of a regatta is not read from a file".into()),
    }
}

fn time_s(level: &Level) -> Result<f64, String> {
    Ok(generator(level)?.number("time"))
}

/// The waters of a level, made ready once and not for every setting.
fn waters(level: &Level, ready: &Ready) -> Result<Vec<Arc<Water>>, String> {
    let mut kept = ready.lock().unwrap_or_else(PoisonError::into_inner);
    if let Some((_, waters)) = kept.iter().find(|(known, _)| known.same_as(level)) {
        return Ok(waters.clone());
    }
    let knobs = generator(level)?;
    let charted = CHARTED.iter().find(|(name, ..)| *name == level.name());
    let waters = if let Some((.., chart)) = charted {
        vec![Arc::new(Water::of(&chart())?)]
    } else {
        let size = ChartSize { marks: knobs.number("marks") as usize, shores: knobs.number("shores") as usize };
        let (seed, number) = (knobs.number("seed") as u64, knobs.number("waters") as u64);
        (0..number).map(|number| Arc::new(generator::water(seed, number, size))).collect()
    };
    if kept.len() == KEPT {
        kept.remove(0);
    }
    kept.push((level.clone(), waters.clone()));
    Ok(waters)
}

fn sheet() -> GameSheet {
    let time = |time_s: f64| Knob::real("time", 10.0..=3600.0, time_s).unit("s").help("time limit");
    let charted = CHARTED.map(|(name, help, time_s, _)| LevelSheet::new(name, help).knob(time(time_s)));
    let drawn = LevelSheet::new("waters", "waters drawn from a seed, one of them for each block")
        .knob(Knob::whole("seed", 0..=1_000_000, 1).help("what the waters are drawn from"))
        .knob(Knob::whole("waters", 1..=200, 20).unit("waters").help("how many different waters there are"))
        .knob(Knob::whole("marks", 1..=6, 2).unit("marks").help("marks of each"))
        .knob(Knob::whole("shores", 0..=12, 5).unit("shores").help("islands and moles of each"))
        .knob(time(240.0));
    GameSheet {
        name: "regatta".into(),
        help: "boats under sail round marks, in real time; the wind decides what can be reached".into(),
        seats: 1..=8,
        ticks_per_second: Some(TICKS_PER_SECOND),
        rules: RegattaRules::knobs(),
        levels: charted.into_iter().chain([drawn]).collect(),
        level_file: None,
        measures: measures(),
        without_chance: None,
    }
}

/// In the order of the game's `measures`.
fn measures() -> Vec<Measure> {
    vec![
        Measure::seat("finished", "Finished", "share", "whether it rounded the last mark in time")
            .wanted(Wanted::More)
            .success(),
        Measure::seat("marks", "Marks", "", "marks rounded").wanted(Wanted::More),
        Measure::seat("finish_s", "Finish time", "s", "time at the last mark, of those that rounded it")
            .wanted(Wanted::Less),
        Measure::seat("left_m", "Straight distance left", "m", "straight from mark to mark, through the shores")
            .wanted(Wanted::Less),
        Measure::seat("water_left_m", "Distance left", "m", "along the water from mark to mark, around the shores")
            .wanted(Wanted::Less),
        Measure::seat("least_left_m", "Least straight distance left", "m", "the least of `left_m` at any time")
            .wanted(Wanted::Less),
        Measure::seat("water_least_left_m", "Least distance left", "m", "the least of `water_left_m` at any time")
            .wanted(Wanted::Less),
        Measure::seat("groundings", "Groundings", "", "how often it touched a shore").wanted(Wanted::Less),
        Measure::seat("tacks", "Tacks", "", "how often its bow went through the wind"),
        Measure::seat("sailed_m", "Distance sailed", "m", "distance through the water"),
        Measure::seat("irons_share", "In irons", "share", "share of the time pointing too close to the wind to move")
            .wanted(Wanted::Less),
        Measure::of_match("length_s", "Length", "s", "length of the match"),
    ]
}
