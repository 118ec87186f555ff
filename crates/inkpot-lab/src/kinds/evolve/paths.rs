//! Where candidates go on the level: the champion, and the population of the last generation.

use inkpot_core::{GameEntry, HeldMatch, Paint, Scene, Setting, Shape, Spot};
use inkpot_learn::Genome;

use super::asked::Evolve;
use crate::kinds::CheckpointError;

/// Blocks of these matches begin here: neither a search nor a proof comes so far.
const FIRST_PATH_BLOCK: u64 = 1 << 42;
/// Matches of the champion.
const MATCHES: u64 = 5;
/// Candidates of the population at most.
const CANDIDATES: usize = 100;
/// Ticks from one point to the next.
const APART: u64 = 4;

/// Where candidates went, in the units of the scene.
#[derive(Clone, Debug, PartialEq)]
pub struct Paths {
    /// The level as a match begins.
    pub scene: Scene,
    /// The champion's way in each of its matches.
    pub champion: Vec<Vec<[f64; 2]>>,
    /// The way of each candidate of the last generation, in one match.
    pub population: Vec<Vec<[f64; 2]>>,
}

/// Plays the champion of the repetition with this seed, and the last generation of that, on blocks that no search saw.
/// None where the game draws no scene of seats. Errs where the checkpoint is not one of this search.
pub fn paths(
    evolve: &Evolve,
    checkpoint: &str,
    seed: u64,
    game: &dyn GameEntry,
) -> Result<Option<Paths>, CheckpointError> {
    let repetitions = evolve.restored(checkpoint)?;
    let Some(number) = (0..repetitions.len()).find(|number| evolve.seed_of(*number) == seed) else {
        return Err(CheckpointError(format!("no repetition has the seed {seed}")));
    };
    let own = &repetitions[number];
    let champion = &own.looks.champion_or_last().pick.genome;
    let field = evolve.training(&[], game);
    let field = if field.stands_alone() == (evolve.seats() == 1) { field } else { evolve.looking() };
    let way = |genome: &Genome, block: u64| {
        let setting = evolve.settings(genome, &field, evolve.ground.seed, game).swap_remove(0);
        walked(&setting, FIRST_PATH_BLOCK + block, game)
    };
    let Some((scene, first)) = way(champion, 0) else { return Ok(None) };
    let rest = (1..MATCHES).filter_map(|block| Some(way(champion, block)?.1));
    let mut population = own.own.evolver.ask();
    population.truncate(CANDIDATES);
    Ok(Some(Paths {
        scene,
        champion: std::iter::once(first).chain(rest).collect(),
        population: population.iter().filter_map(|genome| Some(way(genome, 0)?.1)).collect(),
    }))
}

/// The scene at the start of a match, and the way of the first of its cast.
fn walked(setting: &Setting, block: u64, game: &dyn GameEntry) -> Option<(Scene, Vec<[f64; 2]>)> {
    let stage = game.stage(setting).ok()?;
    let mut held = stage.open(Spot { cell: 0, block, rotation: 0, match_index: 0, leads: false });
    let seat = (0..held.seats()).find(|seat| held.entrant(*seat) == 0)?;
    let scene = held.scene()?;
    let mut way = vec![place(held.as_ref(), seat)?];
    while held.turn() {
        if held.tick() % APART == 0 {
            way.extend(place(held.as_ref(), seat));
        }
    }
    way.extend(place(held.as_ref(), seat));
    Some((scene, way))
}

/// Where a seat is: the middle of the first shape that is its own.
fn place(held: &dyn HeldMatch, seat: usize) -> Option<[f64; 2]> {
    let middle = |a: [f64; 2], b: [f64; 2]| [f64::midpoint(a[0], b[0]), f64::midpoint(a[1], b[1])];
    held.scene()?.shapes.iter().find_map(|shape| match shape {
        Shape::Line { from, to, paint: Paint::Seat(own), .. } if *own == seat => Some(middle(*from, *to)),
        Shape::Rectangle { low, high, paint: Paint::Seat(own) } if *own == seat => Some(middle(*low, *high)),
        Shape::Circle { centre, paint: Paint::Seat(own), .. } if *own == seat => Some(*centre),
        _ => None,
    })
}
