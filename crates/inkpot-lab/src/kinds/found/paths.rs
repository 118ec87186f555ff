//! Paths on the level: the champion, and the population of the last generation.

use inkpot_core::{GameEntry, Paint, Scene, Setting, Shape, Spot};
use inkpot_learn::Genome;

use super::Aim;
use super::aim::Field;

/// Blocks of these matches begin here: neither a search nor a proof comes so far.
const FIRST_PATH_BLOCK: u64 = 1 << 42;
/// Matches of the champion.
const MATCHES: u64 = 5;
/// Candidates of the population at most.
const CANDIDATES: usize = 100;
/// Ticks from one point to the next.
const APART: u64 = 4;

/// The paths of candidates, in the units of the scene.
#[derive(Clone, Debug, PartialEq)]
pub struct Paths {
    /// The level as a match begins.
    pub scene: Scene,
    /// The champion's way in each of its matches.
    pub champion: Vec<Vec<[f64; 2]>>,
    /// The way of each candidate of the last generation, in one match.
    pub population: Vec<Vec<[f64; 2]>>,
}

/// Plays a champion, and others of its time, on blocks that no search saw. None where the game draws no scene of seats.
pub(crate) fn ways(
    aim: &Aim,
    field: &Field,
    champion: &Genome,
    others: &[Genome],
    game: &dyn GameEntry,
) -> Option<Paths> {
    let way = |genome: &Genome, block: u64| {
        let setting = aim.settings(genome, field, aim.ground.seed, game).swap_remove(0);
        walked(&setting, FIRST_PATH_BLOCK + block, game)
    };
    let (scene, first) = way(champion, 0)?;
    // Where each match lies on another level, ways on others would be drawn over the wrong one.
    let rest = (1..MATCHES).filter_map(|block| way(champion, block));
    let rest = rest.filter(|(start, _)| ground(start).eq(ground(&scene))).map(|(_, way)| way);
    let champion = std::iter::once(first).chain(rest).collect();
    Some(Paths {
        champion,
        scene,
        population: others.iter().take(CANDIDATES).filter_map(|genome| Some(way(genome, 0)?.1)).collect(),
    })
}

/// Returns the fixed shapes of a level.
fn ground(scene: &Scene) -> impl Iterator<Item = &Shape> {
    scene.shapes.iter().filter(|shape| {
        matches!(
            shape,
            Shape::Line { paint: Paint::Ground, .. }
                | Shape::Rectangle { paint: Paint::Ground, .. }
                | Shape::Circle { paint: Paint::Ground, .. }
        )
    })
}

/// The scene at the start of a match, and the way of the first of its cast.
fn walked(setting: &Setting, block: u64, game: &dyn GameEntry) -> Option<(Scene, Vec<[f64; 2]>)> {
    let stage = game.stage(setting).ok()?;
    let mut held = stage.open(Spot { cell: 0, block, rotation: 0, match_index: 0, leads: false });
    let seat = (0..held.seats()).find(|seat| held.entrant(*seat) == 0)?;
    let scene = held.scene()?;
    let mut way = vec![held.place(seat)?];
    while held.turn() {
        if held.tick() % APART == 0 {
            way.extend(held.place(seat));
        }
    }
    way.extend(held.place(seat));
    Some((scene, way))
}
