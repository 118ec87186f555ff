//! Seats that choose at once.

use inkpot_core::{
    Acting, Advance, Appraise, Chance, Choices, Ending, Game, Imagine, Keyed, Measured, Options, Seat, Verdict,
};

/// Both point at one of three doors at once; seat 0 wins when both point at the same, seat 1 otherwise.
#[derive(Clone, Debug)]
pub(crate) struct Doors {
    scores: [f64; 2],
    over: bool,
}

impl Doors {
    pub(crate) fn new() -> Self {
        Self { scores: [0.0; 2], over: false }
    }
}

impl Game for Doors {
    type Action = u8;
    type View = ();

    fn seats(&self) -> usize {
        2
    }

    fn acting(&self) -> Acting<'_> {
        if self.over { Acting::Nobody } else { Acting::All }
    }

    fn view(&self, _seat: Seat) {}

    fn advance(&mut self, choices: &Choices<u8>, _chance: &mut Chance) -> Advance {
        let [a, b] = [0, 1].map(|seat| choices.get(seat).copied().unwrap_or(0));
        if a == b {
            self.scores[0] = 1.0;
        } else {
            self.scores[1] = 1.0;
        }
        self.over = true;
        Advance::Fine
    }

    fn scores(&self) -> &[f64] {
        &self.scores
    }

    fn verdict(&self) -> Option<Verdict> {
        self.over.then(|| Verdict::by_score(&self.scores, Ending::Decided("doors".into())))
    }
}

impl Options for Doors {
    fn options(&self, _seat: Seat, into: &mut Vec<u8>) {
        into.extend([0, 1, 2]);
    }
}

impl Imagine for Doors {
    fn imagine(&self, _seat: Seat, _chance: &mut Chance) -> Option<Self> {
        Some(self.clone())
    }
}

impl Appraise for Doors {}

impl Keyed for Doors {
    type Key = bool;

    fn key(&self) -> bool {
        self.over
    }
}

impl Measured for Doors {
    fn measures(&self, _seat: Seat, _into: &mut Vec<f64>) {}
}
