//! A picture of the board: pits in two rows, their seeds, and the mover.

use inkpot_core::{Paint, Pictured, Scene, Seat, Shape};

use super::board::Board;
use super::game::Sowing;

/// Heights of the rows of south and north.
const ROWS: [f64; 2] = [1.0, 2.3];
/// Size of a pit and of a seed.
const PIT: f64 = 0.44;
const SEED: f64 = 0.056;
/// Seeds lie apart by about this much.
const APART: f64 = 0.108;
/// Turn from one seed of a pit to the next, so that no two lie in one line (the golden angle, in radians).
const TURN: f64 = 2.399_963_229_728_653;

/// Returns the middle of a pit. Each side's pits lie in its order of sowing, counter-clockwise.
fn pit(board: &Board, side: usize, pit: usize) -> [f64; 2] {
    let along = if side == 0 { pit + 1 } else { board.pits() - pit };
    [along as f64, ROWS[side]]
}

/// Returns the middle of a store, beyond the last pit of its side.
fn store(board: &Board, side: usize) -> [f64; 2] {
    let middle = f64::midpoint(ROWS[0], ROWS[1]);
    if side == 0 { [board.pits() as f64 + 1.05, middle] } else { [-0.05, middle] }
}

/// Returns the place of the n-th seed of a heap: from the middle outwards, as far as there is room.
fn seed(middle: [f64; 2], which: u8, room: [f64; 2]) -> [f64; 2] {
    let (sin, cos) = libm::sincos(TURN * f64::from(which));
    let far = APART * f64::from(which).sqrt();
    let held = |room: f64| far.min(room - SEED);
    [middle[0] + held(room[0]) * cos, middle[1] + held(room[1]) * sin * room[1] / room[0].max(1e-9)]
}

impl Pictured for Sowing {
    fn scene(&self, into: &mut Scene) {
        let board = self.board();
        let pits = board.pits();
        into.low = [-0.8, -0.15];
        into.high = [pits as f64 + 1.8, 3.45];
        into.shapes.clear();
        let shapes = &mut into.shapes;
        let text = |at: [f64; 2], text: String, size: f64, paint: Paint| Shape::Text { at, text, size, paint };
        for side in [0, 1] {
            let full = store(board, side);
            let (low, high) = ([full[0] - 0.4, ROWS[0] - 0.45], [full[0] + 0.4, ROWS[1] + 0.45]);
            shapes.push(Shape::Rectangle { low, high, paint: Paint::Ground });
            shapes.extend((0..pits).map(|at| Shape::Circle {
                centre: pit(board, side, at),
                radius: PIT,
                paint: Paint::Ground,
            }));
        }
        // Every seed keeps a place among the shapes, wherever it lies.
        for side in [0, 1] {
            let heaps = board.row(side).enumerate().map(|(at, seeds)| (pit(board, side, at), seeds, [PIT, PIT]));
            for (middle, seeds, room) in heaps.chain([(store(board, side), board.store(side), [0.4, 0.8])]) {
                let at = |which: u8| seed(middle, which, room);
                shapes.extend((0..seeds).map(|which| Shape::Circle {
                    centre: at(which),
                    radius: SEED,
                    paint: Paint::Ink,
                }));
            }
        }
        for side in [0, 1] {
            let outwards = if side == 0 { -0.7 } else { 0.7 };
            for (at, seeds) in board.row(side).enumerate() {
                let [x, y] = pit(board, side, at);
                shapes.push(text([x, y + outwards], seeds.to_string(), 0.15, Paint::Ink));
                shapes.push(text([x, y + 1.3 * outwards], (at + 1).to_string(), 0.1, Paint::Faint));
            }
            let [x, _] = store(board, side);
            shapes.push(text([x, ROWS[side] + outwards], board.store(side).to_string(), 0.22, Paint::Seat(side)));
        }
        let middle = [f64::midpoint(1.0, pits as f64), f64::midpoint(ROWS[0], ROWS[1])];
        let (words, paint) = match board.to_move() {
            Some(side) => (["south to move", "north to move"][side], Paint::Seat(side)),
            None => ("over", Paint::Ink),
        };
        shapes.push(text(middle, words.into(), 0.13, paint));
    }

    /// Draws the pits that the seat may empty on its turn.
    fn sight(&self, seat: Seat, into: &mut Vec<Shape>) {
        let board = self.board();
        if board.to_move() == Some(seat) {
            into.extend(board.filled(seat).map(|at| Shape::Ring {
                centre: pit(board, seat, at),
                radius: PIT + 0.03,
                paint: Paint::Seat(seat),
            }));
        }
    }
}
