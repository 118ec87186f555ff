//! A tiny game for two or three: everybody names a number at once, the highest wins; chance may add to each.

use std::time::Duration;

use inkpot_core::{
    Acting, Advance, Agent, AgentKind, Chance, Choices, Ending, Entry, GRACE, Game, GameSheet, GaveUp, Knob, Knobs,
    LevelSheet, Measure, Measured, Pace, Registry, Seat, SeatSet, Sight, Verdict,
};
use serde::Serialize;

/// The state: scores once everybody has named a number.
#[derive(Clone)]
pub(crate) struct Highest {
    scores: Vec<f64>,
    luck: f64,
    fall: f64,
    /// Whether of two numbers the one that is one above the other, counted round by three, wins.
    round: bool,
    over: bool,
}

/// What a seat sees: nothing but how much luck there is.
#[derive(Default, Serialize)]
pub(crate) struct Luck {
    pub(crate) luck: f64,
}

impl Game for Highest {
    type Action = i32;
    type View = Luck;

    fn seats(&self) -> usize {
        self.scores.len()
    }

    fn acting(&self) -> Acting<'_> {
        if self.over { Acting::Nobody } else { Acting::All }
    }

    fn view(&self, _seat: Seat) -> Luck {
        Luck { luck: self.luck }
    }

    fn advance(&mut self, choices: &Choices<i32>, chance: &mut Chance) -> Advance {
        let mut faults = SeatSet::default();
        if chance.happens(self.fall) {
            return Advance::Fell("the table broke".into());
        }
        for (seat, score) in self.scores.iter_mut().enumerate() {
            match choices.get(seat) {
                Some(&number) if (0..=9).contains(&number) => *score = f64::from(number),
                _ => faults.insert(seat),
            }
            *score += self.luck * chance.unit();
        }
        if self.round {
            let numbers: Vec<i32> = (0..2).map(|seat| choices.get(seat).copied().unwrap_or(0)).collect();
            for seat in 0..2 {
                let above = (numbers[seat] - numbers[1 - seat]).rem_euclid(3) == 1;
                self.scores[seat] = f64::from(u8::from(above)) + self.luck * chance.unit();
            }
        }
        self.over = true;
        faults.into_advance()
    }

    fn scores(&self) -> &[f64] {
        &self.scores
    }

    fn verdict(&self) -> Option<Verdict> {
        self.over.then(|| Verdict::by_score(&self.scores, Ending::Decided("count".into())))
    }
}

impl Measured for Highest {
    fn measures(&self, seat: Seat, into: &mut Vec<f64>) {
        into.push(self.scores[seat].fract());
    }
}

/// Names its number, or panics with some chance; slow, it takes far longer than it promises.
struct Caller {
    number: i32,
    panics: f64,
    slow: bool,
    chance: Chance,
}

impl Agent<Highest> for Caller {
    fn begin(&mut self, _seat: Seat, chance: Chance) {
        self.chance = chance;
    }

    fn pace(&self) -> Pace {
        if self.slow { Pace::Within(Duration::from_millis(1)) } else { Pace::Quick }
    }

    fn choose(&mut self, _sight: &Sight<'_, Highest>) -> Result<i32, GaveUp> {
        assert!(!self.chance.happens(self.panics), "lost its voice");
        if self.slow {
            std::thread::sleep(GRACE + Duration::from_millis(5));
        }
        Ok(self.number)
    }
}

/// The game with its one agent for this many seats.
pub(crate) fn registry(seats: usize) -> Registry {
    registry_with(seats, 5, |_| 0.0)
}

/// The game as another version might have it: its agent names another number by default, and one that follows it is added
/// along another curve.
pub(crate) fn registry_with(seats: usize, default: i64, added: fn(f64) -> f64) -> Registry {
    let sheet = GameSheet {
        name: "highest".into(),
        help: "everybody names a number".into(),
        seats: seats..=seats,
        ticks_per_second: None,
        rules: vec![
            Knob::real("luck", 0.0..=20.0, 0.0),
            Knob::real("fall", 0.0..=1.0, 0.0),
            Knob::whole("round", 0..=1, 0),
        ],
        levels: vec![LevelSheet::new("table", "")],
        level_file: None,
        without_chance: Some(Knobs::default().with("luck", 0.0).with("fall", 0.0)),
        measures: vec![Measure::seat("rest", "Rest", "", "what luck added")],
    };
    let caller = AgentKind::new("caller", "names a number")
        .knob(Knob::whole("number", 0..=20, default))
        .knob(Knob::whole("added", 0..=20, 0).follows("number", added))
        .knob(Knob::real("panics", 0.0..=1.0, 0.0))
        .knob(Knob::whole("slow", 0..=1, 0))
        .factory(|knobs| {
            let number = (knobs.number("number") + knobs.number("added")) as i32;
            let (panics, slow) = (knobs.number("panics"), knobs.number("slow") > 0.0);
            Box::new(move |_| Box::new(Caller { number, panics, slow, chance: Chance::from_seed(0) }))
        })
        .without_chance(Knobs::default().with("panics", 0.0));
    let entry = Entry::new(sheet, move |laying| {
        let rules = laying.rules;
        let (luck, fall, round) = (rules.number("luck"), rules.number("fall"), rules.number("round") > 0.0);
        Ok(Box::new(move |_| Highest { scores: vec![0.0; seats], luck, fall, round, over: false }))
    });
    Registry::default().with(entry.agent(caller))
}

/// Names of the columns that a study of the game has.
pub(crate) fn measures(registry: &Registry) -> Vec<String> {
    let game = registry.games().next().expect("the one game");
    game.sheet().measures.iter().map(|measure| measure.name.clone()).collect()
}
