//! A count that seats push up in turn.

use inkpot_core::{
    Acting, Advance, Appraise, Chance, Choices, Ending, Game, Imagine, Keyed, Measured, Options, Seat, Verdict,
};

/// Seats in turn add 1 or 2 to a count; whoever reaches the goal wins.
#[derive(Clone, Debug)]
pub(crate) struct Ladder {
    seats: usize,
    goal: u32,
    count: u32,
    turn: usize,
    scores: Vec<f64>,
}

impl Ladder {
    pub(crate) fn new(seats: usize, goal: u32) -> Self {
        Self { seats, goal, count: 0, turn: 0, scores: vec![0.0; seats] }
    }
}

impl Game for Ladder {
    type Action = u32;
    type View = u32;

    fn seats(&self) -> usize {
        self.seats
    }

    fn acting(&self) -> Acting<'_> {
        if self.count >= self.goal { Acting::Nobody } else { Acting::One(self.turn) }
    }

    fn view(&self, _seat: Seat) -> u32 {
        self.count
    }

    fn advance(&mut self, choices: &Choices<u32>, _chance: &mut Chance) -> Advance {
        self.count += choices.get(self.turn).copied().unwrap_or(1);
        if self.count >= self.goal {
            self.scores[self.turn] = 1.0;
        }
        self.turn = (self.turn + 1) % self.seats;
        Advance::Fine
    }

    fn scores(&self) -> &[f64] {
        &self.scores
    }

    fn verdict(&self) -> Option<Verdict> {
        (self.count >= self.goal).then(|| Verdict::by_score(&self.scores, Ending::Decided("top".into())))
    }
}

impl Options for Ladder {
    fn options(&self, _seat: Seat, into: &mut Vec<u32>) {
        into.extend([1, 2]);
    }
}

impl Imagine for Ladder {
    fn imagine(&self, _seat: Seat, _chance: &mut Chance) -> Option<Self> {
        Some(self.clone())
    }
}

impl Appraise for Ladder {}

impl Keyed for Ladder {
    type Key = (u32, usize);

    fn key(&self) -> (u32, usize) {
        (self.count, self.turn)
    }
}

impl Measured for Ladder {
    fn measures(&self, _seat: Seat, _into: &mut Vec<f64>) {}
}
