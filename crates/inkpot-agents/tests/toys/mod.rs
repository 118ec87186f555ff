//! Games small enough to know all about them by hand.

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
