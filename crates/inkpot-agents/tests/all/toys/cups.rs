//! Something that is hidden.

use inkpot_core::{
    Acting, Advance, Appraise, Chance, Choices, Ending, Game, Imagine, Measured, Options, Seat, Verdict,
};

/// A coin lies under one of two cups, seen by nobody; the one player lifts a cup, for 1 or -9 points, or pays a quarter
/// of a point to walk away.
#[derive(Clone, Debug)]
pub(crate) struct Cups {
    coin: u8,
    scores: [f64; 1],
    over: bool,
}

impl Cups {
    pub(crate) fn new(chance: &mut Chance) -> Self {
        Self { coin: chance.below(2) as u8, scores: [0.0], over: false }
    }
}

impl Game for Cups {
    /// Lift cup 0 or 1; 2 walks away.
    type Action = u8;
    type View = [f64; 1];

    fn seats(&self) -> usize {
        1
    }

    fn acting(&self) -> Acting<'_> {
        if self.over { Acting::Nobody } else { Acting::One(0) }
    }

    fn view(&self, _seat: Seat) -> [f64; 1] {
        self.scores
    }

    fn advance(&mut self, choices: &Choices<u8>, _chance: &mut Chance) -> Advance {
        self.scores[0] = match choices.get(0) {
            Some(2) => -0.25,
            Some(cup) if *cup == self.coin => 1.0,
            _ => -9.0,
        };
        self.over = true;
        Advance::Fine
    }

    fn scores(&self) -> &[f64] {
        &self.scores
    }

    fn verdict(&self) -> Option<Verdict> {
        self.over.then(|| Verdict::by_score(&self.scores, Ending::Decided("lifted".into())))
    }
}

impl Options for Cups {
    fn options(&self, _seat: Seat, into: &mut Vec<u8>) {
        into.extend(0..3);
    }
}

impl Imagine for Cups {
    fn imagine(&self, _seat: Seat, chance: &mut Chance) -> Option<Self> {
        Some(Self { coin: chance.below(2) as u8, ..self.clone() })
    }
}

impl Appraise for Cups {}

impl Measured for Cups {
    fn measures(&self, _seat: Seat, _into: &mut Vec<f64>) {}
}
