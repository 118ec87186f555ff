//! A match narrated tick by tick: the picture, each seat's perception, choice and values, and the score.
//!
//! The replay page keeps the shapes as columns of whole numbers, deflates them, and leaves out pictures, never choices, where it would grow too large.

use inkpot_core::{HeldMatch, Rows, Scene, Shape, Thoughts};
use serde_json::Value;

/// One tick of a match, before its step.
#[derive(Debug)]
pub struct Shot {
    /// Ticks or turns so far.
    pub tick: u64,
    /// The picture, if the game draws one.
    pub scene: Option<Scene>,
    /// The position as text, if the game has that.
    pub note: Option<String>,
    /// Scores by seat.
    pub scores: Vec<f64>,
    /// Why they changed since the shot before, in a word of the game.
    pub scored_by: Option<String>,
    /// The seats.
    pub seats: Vec<SeatShot>,
}

/// State of a seat at a tick.
#[derive(Debug, Default)]
pub struct SeatShot {
    /// Shapes of its perception and beliefs, to draw over the picture.
    pub perceived: Vec<Shape>,
    /// Its place in the picture.
    pub place: Option<[f64; 2]>,
    /// Its choice; none where it does not act.
    pub choice: Option<Value>,
    /// The thoughts behind that choice.
    pub thoughts: Option<Thoughts<Value>>,
    /// Its measures so far, where they were looked at.
    pub measures: Option<Vec<f64>>,
    /// Its faults so far.
    pub faults: u32,
}

/// Plays a match to its end with its own agents, and shows every tick on the way; the last shot is of the end. The
/// measures are looked at once in this many ticks, and where the scores change.
pub fn film(mut held: Box<dyn HeldMatch>, measured_every: u64, listener: &mut dyn FnMut(&Shot), rows: &mut Rows) {
    held.reflect(1);
    let mut standing = Rows::new(rows.width);
    let mut scores: Vec<f64> = Vec::new();
    loop {
        let (tick, acting) = (held.tick(), held.pending());
        let scored = held.scores() != scores;
        scores = held.scores().to_vec();
        let (scene, note) = (held.scene(), held.note());
        let mut seats: Vec<SeatShot> = (0..held.seats()).map(|_| SeatShot::default()).collect();
        for &seat in &acting {
            let considered = held.consider(seat);
            seats[seat].choice = considered.action.ok();
            seats[seat].thoughts = considered.thoughts;
        }
        for (seat, shot) in seats.iter_mut().enumerate() {
            shot.perceived = held.perceived(seat);
            shot.place = held.place(seat);
        }
        standing.clear();
        held.standing(&mut standing);
        let over = acting.is_empty();
        let scored_by = if scored { held.scored_by() } else { None };
        let mut shot = Shot { tick, scene, note, scores: scores.clone(), scored_by, seats };
        look(&mut shot, &standing, scored || over || tick.is_multiple_of(measured_every.max(1)));
        listener(&shot);
        if over {
            break;
        }
        held.turn();
    }
    held.close(rows);
}

/// Notes the faults and, where that is wanted, the measures of rows as they stand.
fn look(shot: &mut Shot, standing: &Rows, measured: bool) {
    for (place, row) in standing.rows.iter().enumerate() {
        let Some(seat) = shot.seats.get_mut(usize::from(row.seat)) else { continue };
        seat.faults = row.faults;
        seat.measures = measured.then(|| standing.measures_of(place).to_vec());
    }
}
