//! Exact values of all options, after the search that found the best.

use inkpot_core::{Appraise, Imagine, Keyed, Options, Seat, Weighed};

use super::{AlphaBeta, mover};
use crate::score::Score;

/// A guess at the exact value of an option may cost so small a part of the search that was made.
const CHEAP: u64 = 16;
/// The exact value of an option is looked for so far off first, in score, and this many times as far each further time.
const FIRST_OFF: f64 = 1.0;
const WIDER: f64 = 4.0;

impl<G: Options + Imagine + Appraise + Keyed> AlphaBeta<G> {
    /// Values every option exactly, and the replies to it down to this many layers, each with its best line. It uses
    /// the table of the finished search, and windows about as wide as the value.
    pub(crate) fn weigh_all(&mut self, state: &G, seat: Seat, searched: u64, layers: u32) -> Vec<Weighed<G::Action>> {
        self.cheap = searched / CHEAP;
        self.weigh(state, seat, self.depth, 0, layers)
    }

    fn weigh(&mut self, state: &G, seat: Seat, depth: u32, ply: usize, layers: u32) -> Vec<Weighed<G::Action>> {
        let roots = self.roots(state, seat);
        let mut weighed: Vec<Weighed<G::Action>> = Vec::new();
        for root in roots {
            let score = self.valued(&root.state, seat, depth, ply);
            let mut option = Weighed::new(root.option, score.value()).of_seat(seat).deep(depth);
            let next = mover(&root.state).filter(|_| depth > 1);
            if let Some(next) = next {
                if layers > 1 {
                    option.replies = self.weigh(&root.state, next, depth - 1, ply + 1, layers - 1);
                }
                if let Some(reply) = option.replies.first() {
                    option.line.extend(reply.line.iter().cloned());
                } else {
                    let score = if next == seat { score } else { -score };
                    self.best_line(&root.state, next, (depth - 1, ply + 1), score, &mut option.line);
                }
            }
            weighed.push(option);
        }
        Weighed::sort(&mut weighed);
        weighed
    }

    /// The exact value for `seat` of the state that it led to. Where it may lie is first asked turn by turn deeper, as
    /// long as that is cheap; then at the whole depth.
    fn valued(&mut self, state: &G, seat: Seat, depth: u32, ply: usize) -> Score {
        let mut score = Score::estimate(state.appraise(seat, &self.weights));
        let dear = self.meter.nodes + self.cheap;
        let mut shallow = 1;
        while shallow < depth && self.meter.nodes <= dear {
            self.open = false;
            score = self.aimed(state, seat, shallow, ply, score);
            if self.meter.out || !self.open {
                return score;
            }
            shallow += 1;
        }
        self.aimed(state, seat, depth, ply, score)
    }

    /// The same at one depth, given what it may be.
    fn aimed(&mut self, state: &G, seat: Seat, depth: u32, ply: usize, guess: Score) -> Score {
        let (mut low, mut high) = guess.window(0.0);
        let mut off = FIRST_OFF;
        loop {
            let score = self.follow(state, seat, depth, ply, low, high);
            // A state without options has no value that a window could hold.
            let none = score <= Score::LEAST || score >= Score::MOST;
            if self.meter.out || none || (low < score && score < high) {
                return score;
            }
            // A bound is as far as the value may be on that side; on the other it is looked for ever farther off.
            let (below, above) = score.window(off);
            let (own_low, own_high) = score.window(0.0);
            (low, high) = if score >= high { (own_low, above) } else { (below, own_high) };
            off *= WIDER;
        }
    }

    /// Appends the best line from a state that is not over and whose score for `seat` is known: the first option that
    /// keeps it.
    fn best_line(
        &mut self,
        state: &G,
        seat: Seat,
        (depth, ply): (u32, usize),
        score: Score,
        line: &mut Vec<G::Action>,
    ) {
        let (low, high) = score.window(0.0);
        for root in self.roots(state, seat) {
            let value = self.follow(&root.state, seat, depth, ply, low, high);
            if self.meter.out {
                return;
            }
            if value.same_value(score) {
                line.push(root.option);
                if let Some(next) = mover(&root.state).filter(|_| depth > 1) {
                    let score = if next == seat { score } else { -score };
                    self.best_line(&root.state, next, (depth - 1, ply + 1), score, line);
                }
                return;
            }
        }
    }
}
