//! `lanterns`: two players hang lanterns on a row of poles in turn. A row of n lanterns of one colour is worth n x n
//! points.

use inkpot_agents::{Graded, drifter, minimax, treesearch_reusing};
use inkpot_core::{
    Acting, Advance, Appraise, Chance, Choices, Ending, Entry, Game, GameSheet, Imagine, Keyed, Knob, Knobs,
    LevelSheet, Measure, Measured, Noted, Options, Seat, SeatSet, Verdict,
};

const COLOURS: [char; 2] = ['r', 'g'];
const FREE: char = '.';

/// The poles, each with a lantern of a colour or free, and the scores. Red moves first.
#[derive(Clone)]
pub struct Lanterns {
    poles: Vec<char>,
    scores: [f64; 2],
}

/// The lengths of the rows of one colour.
fn rows(poles: &[char], colour: char) -> impl Iterator<Item = usize> {
    poles.split(move |pole| *pole != colour).map(<[char]>::len)
}

impl Lanterns {
    fn on(poles: Vec<char>) -> Self {
        let squares = |colour| rows(&poles, colour).map(|length| length * length).sum::<usize>() as f64;
        Self { scores: COLOURS.map(squares), poles }
    }
}

impl Game for Lanterns {
    type Action = usize;
    type View = String;

    fn seats(&self) -> usize {
        2
    }

    fn acting(&self) -> Acting<'_> {
        let free = self.poles.iter().filter(|&&pole| pole == FREE).count();
        if free == 0 { Acting::Nobody } else { Acting::One((self.poles.len() - free) % 2) }
    }

    fn view(&self, _seat: Seat) -> String {
        self.note()
    }

    /// An illegal or missing choice counts as the first free pole.
    fn advance(&mut self, choices: &Choices<usize>, _chance: &mut Chance) -> Advance {
        let Acting::One(seat) = self.acting() else { return Advance::Fine };
        let mut faults = SeatSet::default();
        let mut options = Vec::new();
        self.options(seat, &mut options);
        let pole = choices.get(seat).filter(|pole| options.contains(pole)).copied().unwrap_or_else(|| {
            faults.insert(seat);
            options[0]
        });
        let mut poles = std::mem::take(&mut self.poles);
        poles[pole] = COLOURS[seat];
        *self = Self::on(poles);
        faults.into_advance()
    }

    fn scores(&self) -> &[f64] {
        &self.scores
    }

    fn verdict(&self) -> Option<Verdict> {
        (self.acting() == Acting::Nobody).then(|| Verdict::by_score(&self.scores, Ending::Decided("full".into())))
    }
}

impl Options for Lanterns {
    fn options(&self, _seat: Seat, into: &mut Vec<usize>) {
        into.extend((0..self.poles.len()).filter(|&pole| self.poles[pole] == FREE));
    }
}

impl Imagine for Lanterns {
    fn imagine(&self, _seat: Seat, _chance: &mut Chance) -> Option<Self> {
        Some(self.clone())
    }
}

impl Keyed for Lanterns {
    type Key = u64;

    /// Two bits a pole, so that a row may have 32.
    fn key(&self) -> u64 {
        let bits = |pole: &char| COLOURS.iter().position(|other| other == pole).map_or(0, |place| place as u64 + 1);
        self.poles.iter().fold(0, |key, pole| key << 2 | bits(pole))
    }

    fn symmetries(&self) -> usize {
        1
    }

    fn turned(&self, symmetry: usize) -> Self {
        if symmetry == 0 { self.clone() } else { Self::on(self.poles.iter().rev().copied().collect()) }
    }

    fn turn_action(&self, symmetry: usize, &pole: &usize) -> usize {
        if symmetry == 0 { pole } else { self.poles.len() - 1 - pole }
    }

    fn turn_back(&self, symmetry: usize, pole: &usize) -> usize {
        self.turn_action(symmetry, pole)
    }
}

impl Noted for Lanterns {
    fn note(&self) -> String {
        self.poles.iter().collect()
    }

    fn read_note(&self, text: &str) -> Result<Self, String> {
        let poles: Vec<char> = text.trim().chars().collect();
        let hung = COLOURS.map(|colour| poles.iter().filter(|&&pole| pole == colour).count());
        let known = poles.iter().all(|pole| *pole == FREE || COLOURS.contains(pole));
        if !known || poles.len() != self.poles.len() || !(hung[1]..=hung[1] + 1).contains(&hung[0]) {
            let length = self.poles.len();
            return Err(format!("write {length} poles, each `r`, `g` or `.`, with as many r as g or one more"));
        }
        Ok(Self::on(poles))
    }
}

/// The weights of the value of a state.
fn weights() -> Vec<Knob> {
    vec![Knob::real("room", 0.0..=5.0, 1.0).help("points that a free pole beside an own lantern is worth")]
}

impl Appraise for Lanterns {
    fn appraise(&self, seat: Seat, weights: &[f64]) -> f64 {
        let room = |colour| {
            let beside = |pair: &&[char]| pair.contains(&colour) && pair.contains(&FREE);
            self.poles.windows(2).filter(beside).count() as f64
        };
        inkpot_core::margin(&self.scores, seat) + weights[0] * (room(COLOURS[seat]) - room(COLOURS[1 - seat]))
    }
}

impl Measured for Lanterns {
    fn measures(&self, seat: Seat, into: &mut Vec<f64>) {
        into.push(rows(&self.poles, COLOURS[seat]).max().unwrap_or(0) as f64);
    }
}

/// The game with agents that think, all of them generic.
pub fn entry() -> Entry<Lanterns> {
    let sheet = GameSheet {
        name: "lanterns".into(),
        help: "two hang lanterns in turn, and long rows of one colour are worth most".into(),
        seats: 2..=2,
        ticks_per_second: None,
        rules: vec![Knob::whole("poles", 2..=32, 12).help("poles in the row")],
        levels: vec![LevelSheet::new("pier", "a straight row")],
        level_file: None,
        without_chance: Some(Knobs::default()),
        measures: vec![Measure::seat("row", "Longest row", "lanterns", "longest row of own lanterns")],
    };
    Entry::new(sheet, |laying| {
        let poles = laying.rules.number("poles") as usize;
        Ok(Box::new(move |_chance| Lanterns::on(vec![FREE; poles])))
    })
    .noted()
    .optioned()
    .counted()
    .agent(minimax(&weights()).preset("tern", "looks two turns ahead", Knobs::default().with("depth", 2.0)))
    .agent(treesearch_reusing(&weights()))
    .agent(drifter(1).graded())
}

#[cfg(test)]
#[test]
fn lanterns_keeps_what_it_promises() -> Result<(), inkpot_core::Broken> {
    let entry = entry();
    inkpot_core::Conformance::of(&entry).options().imagined().appraised(weights()).keyed().noted().agents().check()
}
