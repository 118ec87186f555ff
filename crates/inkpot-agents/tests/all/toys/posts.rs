//! A row of posts in two seats, of which everything is known.

use inkpot_core::{
    Acting, Advance, Appraise, Chance, Choices, Ending, Game, Imagine, Keyed, Measured, Options, Seat, SeatSet, Verdict,
};

/// A row of posts; a mover takes one or two neighbouring ones that still stand, and whoever takes the last one wins a
/// point. The row reads the same from either end. With a trap, taking the post in the middle breaks the game's code.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Posts {
    pub(crate) standing: Vec<bool>,
    pub(crate) side: Seat,
    pub(crate) trap: bool,
    scores: [f64; 2],
}

impl Posts {
    pub(crate) fn new(posts: usize) -> Self {
        Self { standing: vec![true; posts], side: 0, trap: false, scores: [0.0; 2] }
    }

    pub(crate) fn trapped(posts: usize) -> Self {
        Self { trap: true, ..Self::new(posts) }
    }

    fn over(&self) -> bool {
        self.standing.iter().all(|up| !up)
    }
}

impl Game for Posts {
    /// First post taken, and how many.
    type Action = (usize, usize);
    type View = Vec<bool>;

    fn seats(&self) -> usize {
        2
    }

    fn acting(&self) -> Acting<'_> {
        if self.over() { Acting::Nobody } else { Acting::One(self.side) }
    }

    fn view(&self, _seat: Seat) -> Vec<bool> {
        self.standing.clone()
    }

    fn advance(&mut self, choices: &Choices<(usize, usize)>, _chance: &mut Chance) -> Advance {
        let mut options = Vec::new();
        self.options(self.side, &mut options);
        let mut faults = SeatSet::default();
        let (first, count) = match choices.get(self.side) {
            Some(choice) if options.contains(choice) => *choice,
            _ => {
                faults.insert(self.side);
                options[0]
            }
        };
        assert!(!(self.trap && first == self.standing.len() / 2), "the post in the middle is rotten");
        self.standing[first..first + count].fill(false);
        if self.over() {
            self.scores[self.side] += 1.0;
        }
        self.side = 1 - self.side;
        faults.into_advance()
    }

    fn scores(&self) -> &[f64] {
        &self.scores
    }

    fn verdict(&self) -> Option<Verdict> {
        self.over().then(|| Verdict::by_score(&self.scores, Ending::Decided("last post".into())))
    }
}

impl Options for Posts {
    fn options(&self, _seat: Seat, into: &mut Vec<(usize, usize)>) {
        let up = |at: usize| self.standing.get(at) == Some(&true);
        into.extend((0..self.standing.len()).filter(|&at| up(at)).map(|at| (at, 1)));
        into.extend((0..self.standing.len()).filter(|&at| up(at) && up(at + 1)).map(|at| (at, 2)));
    }
}

impl Imagine for Posts {
    fn imagine(&self, _seat: Seat, _chance: &mut Chance) -> Option<Self> {
        Some(self.clone())
    }
}

impl Appraise for Posts {}

impl Keyed for Posts {
    type Key = u32;

    fn key(&self) -> u32 {
        self.standing.iter().fold(self.side as u32, |key, up| key << 1 | u32::from(*up))
    }

    fn symmetries(&self) -> usize {
        1
    }

    fn turned(&self, symmetry: usize) -> Self {
        let mut turned = self.clone();
        if symmetry == 1 {
            turned.standing.reverse();
        }
        turned
    }

    fn turn_action(&self, symmetry: usize, &(first, count): &(usize, usize)) -> (usize, usize) {
        if symmetry == 1 { (self.standing.len() - first - count, count) } else { (first, count) }
    }

    fn turn_back(&self, symmetry: usize, action: &(usize, usize)) -> (usize, usize) {
        self.turn_action(symmetry, action)
    }
}

impl Measured for Posts {
    fn measures(&self, _seat: Seat, _into: &mut Vec<f64>) {}
}
