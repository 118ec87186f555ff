//! Chance that decides who acts next.

use inkpot_core::{
    Acting, Advance, Appraise, Chance, Choices, Ending, Game, Imagine, Measured, Options, Seat, Verdict,
};

/// Whoever is called on takes a point or leaves it; a coin decides who is called on next. Four calls.
#[derive(Clone, Debug)]
pub(crate) struct Calls {
    called: Seat,
    left: u32,
    scores: [f64; 2],
}

impl Calls {
    pub(crate) fn new() -> Self {
        Self { called: 0, left: 4, scores: [0.0; 2] }
    }
}

impl Game for Calls {
    /// 1 takes the point, 0 leaves it.
    type Action = u8;
    type View = (Seat, u32);

    fn seats(&self) -> usize {
        2
    }

    fn acting(&self) -> Acting<'_> {
        if self.left == 0 { Acting::Nobody } else { Acting::One(self.called) }
    }

    fn view(&self, _seat: Seat) -> (Seat, u32) {
        (self.called, self.left)
    }

    fn advance(&mut self, choices: &Choices<u8>, chance: &mut Chance) -> Advance {
        let choice = choices.get(self.called).expect("whoever is called on chooses");
        assert!(choices.get(1 - self.called).is_none(), "nobody else does");
        self.scores[self.called] += f64::from(*choice);
        self.called = chance.below(2);
        self.left -= 1;
        Advance::Fine
    }

    fn scores(&self) -> &[f64] {
        &self.scores
    }

    fn verdict(&self) -> Option<Verdict> {
        (self.left == 0).then(|| Verdict::by_score(&self.scores, Ending::Decided("called".into())))
    }
}

impl Options for Calls {
    fn options(&self, _seat: Seat, into: &mut Vec<u8>) {
        into.extend([0, 1]);
    }
}

impl Imagine for Calls {
    fn imagine(&self, _seat: Seat, _chance: &mut Chance) -> Option<Self> {
        Some(self.clone())
    }
}

impl Appraise for Calls {}

impl Measured for Calls {
    fn measures(&self, _seat: Seat, _into: &mut Vec<f64>) {}
}
