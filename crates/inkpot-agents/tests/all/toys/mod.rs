//! Games small enough to know all about them by hand, and how they are played.

mod calls;
mod cups;
mod doors;
mod ladder;
mod posts;

use inkpot_core::{
    AgentKind, Casting, Chance, Entry, Explained, Game, GameEntry, GameSheet, Knobs, Level, LevelSheet, Playable,
    Seating, Setting,
};

pub(crate) use calls::Calls;
pub(crate) use cups::Cups;
pub(crate) use doors::Doors;
pub(crate) use ladder::Ladder;
pub(crate) use posts::Posts;

pub(crate) fn entry<G: Playable>(
    seats: usize,
    lay: impl Fn(&mut Chance) -> G + Clone + Send + Sync + 'static,
) -> Entry<G> {
    let sheet = GameSheet {
        name: "toy".into(),
        help: "a toy".into(),
        seats: seats..=seats,
        ticks_per_second: None,
        rules: Vec::new(),
        levels: vec![LevelSheet::new("table", "a table")],
        level_file: None,
        without_chance: None,
        measures: Vec::new(),
    };
    Entry::new(sheet, move |_laying| Ok(Box::new(lay.clone())))
}

pub(crate) fn knobs_of<G: Game + 'static>(kind: &AgentKind<G>, knobs: &Knobs) -> Knobs {
    knobs.resolve(&kind.sheet().knobs).unwrap()
}

/// What an agent weighs at the start of a toy.
pub(crate) fn weighed<G: Playable>(
    seats: usize,
    lay: impl Fn(&mut Chance) -> G + Clone + Send + Sync + 'static,
    kind: AgentKind<G>,
    given: &Knobs,
) -> Explained {
    let knobs = knobs_of(&kind, given);
    let name = kind.sheet().name.clone();
    entry(seats, lay).agent(kind).explain(&everywhere(&name, &knobs, seats, 5), None, None, 2).unwrap()
}

/// An agent in every seat.
pub(crate) fn everywhere(kind: &str, knobs: &Knobs, seats: usize, study_seed: u64) -> Setting {
    let level = Level::named("table", Knobs::default());
    Setting {
        rules: Knobs::default(),
        level,
        cast: Casting::everywhere(kind, knobs, seats),
        seating: Seating::rotated(seats),
        study_seed,
        pairing: 0,
    }
}

pub(crate) fn set(knob: &str, value: f64) -> Knobs {
    Knobs::default().with(knob, value)
}
