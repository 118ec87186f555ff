//! A game that keeps its promises passes, and each one that it breaks is found and told.

use std::collections::BTreeSet;
use std::sync::Arc;
use std::sync::atomic::{AtomicU32, Ordering};

use inkpot_core::{
    Acting, Advance, Agent, AgentKind, Appraise, Broken, Chance, Choices, Conformance, Ending, Entry, Game, GameSheet,
    GaveUp, Imagine, Keyed, Knob, Knobs, LevelSheet, Measure, MeasureOf, Measured, Noted, Options, Pictured, Scene,
    Seat, SeatSet, Sight, Verdict,
};
use serde::{Deserialize, Serialize};

const COINS: u8 = 5;

/// What a game can get wrong.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Flaw {
    None,
    ActsTooFar,
    BlankPicture,
    CarelessWithoutFault,
    CopiesShare,
    HelpMissing,
    KeyTooSmall,
    ListsTwice,
    LooksAtTheClock,
    MeasureMissing,
    MeasureOfOneSeat,
    NeverImagines,
    NoteWithoutMover,
    OffersTheTaken,
    PeeksAtHidden,
    ReadsAnyNote,
    RepairsTheSound,
    RulesBreak,
    ScoreIsNoNumber,
    TurnsNoAction,
    ValueIsNoNumber,
    VerdictMissing,
    WeakAgent,
}

/// Two take coins of a row in turn; the last coin of all is worth three. Each hides a purse of its own.
#[derive(Clone)]
struct Coins {
    there: Vec<bool>,
    mover: Seat,
    scores: [f64; 2],
    purses: [u8; 2],
    shared: Arc<AtomicU32>,
    flaw: Flaw,
}

/// Moments so far: a clock that never shows the same.
static CLOCK: AtomicU32 = AtomicU32::new(0);

impl Coins {
    fn new(flaw: Flaw, chance: &mut Chance) -> Self {
        let purses = [0; 2].map(|_: u8| chance.below(100) as u8);
        let shared = Arc::default();
        Self { there: vec![true; usize::from(COINS)], mover: 0, scores: [0.0; 2], purses, shared, flaw }
    }

    fn left(&self) -> usize {
        self.there.iter().filter(|there| **there).count()
    }
}

/// The coin taken, from the left.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
struct Take(usize);

impl Game for Coins {
    type Action = Take;
    type View = (Vec<bool>, u8, u32);

    fn seats(&self) -> usize {
        2
    }

    fn acting(&self) -> Acting<'_> {
        match (self.flaw, self.left()) {
            (_, 0) => Acting::Nobody,
            (Flaw::ActsTooFar, 3) => Acting::One(2),
            _ => Acting::One(self.mover),
        }
    }

    fn view(&self, seat: Seat) -> (Vec<bool>, u8, u32) {
        let shared = if self.flaw == Flaw::CopiesShare { self.shared.load(Ordering::Relaxed) } else { 0 };
        let shown_purse = if self.flaw == Flaw::PeeksAtHidden { self.purses[1 - seat] } else { self.purses[seat] };
        (self.there.clone(), shown_purse, shared)
    }

    fn advance(&mut self, choices: &Choices<Take>, _chance: &mut Chance) -> Advance {
        self.shared.fetch_add(1, Ordering::Relaxed);
        let mut faults = SeatSet::default();
        let legal = |take: &&Take| self.there.get(take.0) == Some(&true);
        let taken = choices.get(self.mover).filter(legal).map(|take| take.0);
        if taken.is_none() && self.flaw != Flaw::CarelessWithoutFault {
            faults.insert(self.mover);
        }
        let first = self.there.iter().position(|there| *there);
        if let Some(coin) = taken.or(first) {
            self.there[coin] = false;
        }
        self.scores[self.mover] += if self.left() == 0 { 3.0 } else { 1.0 };
        if self.flaw == Flaw::ScoreIsNoNumber && self.left() == 2 {
            self.scores[0] = f64::NAN;
        }
        if self.flaw == Flaw::LooksAtTheClock {
            self.purses[0] = CLOCK.fetch_add(1, Ordering::Relaxed) as u8;
        }
        self.mover = 1 - self.mover;
        faults.into_advance()
    }

    fn scores(&self) -> &[f64] {
        &self.scores
    }

    fn verdict(&self) -> Option<Verdict> {
        let over = self.left() == 0 && self.flaw != Flaw::VerdictMissing;
        over.then(|| Verdict::by_score(&self.scores, Ending::Decided("empty".into())))
    }
}

impl Options for Coins {
    fn options(&self, _seat: Seat, into: &mut Vec<Take>) {
        let listed = |coin: &usize| self.there[*coin] || self.flaw == Flaw::OffersTheTaken;
        into.extend((0..self.there.len()).filter(listed).map(Take));
        if self.flaw == Flaw::ListsTwice {
            into.push(into[0]);
        }
    }

    fn repair(&self, seat: Seat, action: &Take) -> Take {
        let mut options = Vec::new();
        self.options(seat, &mut options);
        if options.contains(action) && self.flaw != Flaw::RepairsTheSound { *action } else { options[0] }
    }
}

impl Imagine for Coins {
    fn imagine(&self, seat: Seat, chance: &mut Chance) -> Option<Self> {
        let mut state = self.clone();
        state.purses[1 - seat] = chance.below(100) as u8;
        (self.flaw != Flaw::NeverImagines).then_some(state)
    }
}

impl Appraise for Coins {
    fn appraise(&self, seat: Seat, _weights: &[f64]) -> f64 {
        if self.flaw == Flaw::ValueIsNoNumber { f64::INFINITY } else { inkpot_core::margin(&self.scores, seat) }
    }
}

impl Keyed for Coins {
    type Key = u32;

    /// The row alone: who moves and what both have follows from how many coins are left.
    fn key(&self) -> u32 {
        let row = self.there.iter().fold(0, |row, there| row << 1 | u32::from(*there));
        if self.flaw == Flaw::KeyTooSmall { row >> 1 } else { row }
    }

    fn symmetries(&self) -> usize {
        1
    }

    fn turned(&self, symmetry: usize) -> Self {
        let mut turned = self.clone();
        if symmetry == 1 {
            turned.there.reverse();
        }
        turned
    }

    fn turn_action(&self, symmetry: usize, take: &Take) -> Take {
        if symmetry == 0 || self.flaw == Flaw::TurnsNoAction { *take } else { Take(self.there.len() - 1 - take.0) }
    }

    fn turn_back(&self, symmetry: usize, take: &Take) -> Take {
        self.turn_action(symmetry, take)
    }
}

impl Noted for Coins {
    fn note(&self) -> String {
        let row: String = self.there.iter().map(|there| if *there { 'o' } else { '.' }).collect();
        format!("{row} {} {} {} {} {}", self.mover, self.scores[0], self.scores[1], self.purses[0], self.purses[1])
    }

    fn read_note(&self, text: &str) -> Result<Self, String> {
        let parts: Vec<&str> = text.split(' ').collect();
        let number = |at: usize| parts.get(at).and_then(|part| part.parse::<f64>().ok());
        let numbers: Option<Vec<f64>> = (1..=5).map(number).collect();
        let Some(numbers) = numbers else {
            let any = self.flaw == Flaw::ReadsAnyNote;
            return if any { Ok(self.clone()) } else { Err("write ROW MOVER SCORE SCORE PURSE PURSE".into()) };
        };
        let mut state = self.clone();
        state.there = parts[0].chars().map(|coin| coin == 'o').collect();
        state.mover = if self.flaw == Flaw::NoteWithoutMover { 0 } else { numbers[0] as usize };
        state.scores = [numbers[1], numbers[2]];
        state.purses = [numbers[3] as u8, numbers[4] as u8];
        Ok(state)
    }
}

impl Pictured for Coins {
    fn scene(&self, into: &mut Scene) {
        let width = if self.flaw == Flaw::BlankPicture { 0.0 } else { 5.0 };
        *into = Scene { low: [0.0, 0.0], high: [width, 1.0], shapes: Vec::new() };
    }
}

impl Measured for Coins {
    fn measures(&self, seat: Seat, into: &mut Vec<f64>) {
        into.push(f64::from(self.purses[seat]));
        match self.flaw {
            Flaw::MeasureMissing => {}
            Flaw::MeasureOfOneSeat => into.push(seat as f64),
            _ => into.push(self.left() as f64),
        }
    }
}

/// Takes the first coin, or gives up.
struct First(bool);

impl Agent<Coins> for First {
    fn choose(&mut self, sight: &Sight<'_, Coins>) -> Result<Take, GaveUp> {
        let (there, ..) = sight.view();
        let first = there.iter().position(|there| *there);
        if self.0 { Err(GaveUp::because("it lost heart")) } else { Ok(Take(first.unwrap_or_default())) }
    }
}

fn entry(flaw: Flaw) -> Entry<Coins> {
    let sheet = GameSheet {
        name: "coins".into(),
        help: "two take coins in turn".into(),
        seats: 2..=2,
        ticks_per_second: None,
        rules: vec![Knob::whole("hands", 1..=2, 1).help(if flaw == Flaw::HelpMissing { "" } else { "unused" })],
        levels: vec![LevelSheet::new("table", "a table")],
        level_file: None,
        without_chance: None,
        measures: vec![
            Measure::seat("purse", "Purse", "coins", "coins in the purse"),
            Measure { of: MeasureOf::Match, ..Measure::seat("left", "Left", "coins", "coins left") },
        ],
    };
    Entry::new(sheet, move |laying| {
        let broken = flaw == Flaw::RulesBreak && laying.rules.number("hands") > 1.0;
        let flaw = if broken { Flaw::MeasureMissing } else { flaw };
        Ok(Box::new(move |chance| Coins::new(flaw, chance)))
    })
    .noted()
    .pictured()
    .agent(
        AgentKind::new("first", "takes the first")
            .factory(move |_| Box::new(move |_person| Box::new(First(flaw == Flaw::WeakAgent)))),
    )
}

fn check(flaw: Flaw) -> Result<(), Broken> {
    let entry = entry(flaw);
    let check = Conformance::of(&entry).options().imagined().appraised(Vec::new()).keyed().noted().pictured().agents();
    check.playing(10, 20).check()
}

#[test]
fn a_game_that_keeps_its_promises_passes_with_its_options_and_with_its_agents_alone() {
    check(Flaw::None).unwrap();
    Conformance::of(&entry(Flaw::None)).check().unwrap();
}

#[test]
fn every_broken_promise_is_found_and_told() {
    let messages = [
        (Flaw::ActsTooFar, "seat 2 acts, and there are 2 seats, counted from 0"),
        (Flaw::BlankPicture, "window without area"),
        (Flaw::CarelessWithoutFault, "the seats [0] made no choice, and `advance` gives Fine"),
        (Flaw::CopiesShare, "advancing a copy of the state changed the state itself"),
        (Flaw::HelpMissing, "the knob `hands` has no line of help"),
        (Flaw::KeyTooSmall, "two states have one key"),
        (Flaw::ListsTwice, "of seat 0 is listed twice"),
        (Flaw::LooksAtTheClock, "two copies of one state go apart"),
        (Flaw::MeasureMissing, r#"`measures` gives 1 figures, and the sheet has ["purse", "left"]"#),
        (Flaw::MeasureOfOneSeat, "`left` is a measure of the match, yet seat 0 has 0 and seat 1 has 1"),
        (Flaw::NeverImagines, "`imagine` gave no state at all"),
        (Flaw::NoteWithoutMover, "reads back as"),
        (Flaw::OffersTheTaken, "and `advance` finds it illegal"),
        (Flaw::PeeksAtHidden, "what it sees in the state that seat 0 imagines"),
        (Flaw::ReadsAnyNote, "`read_note` takes the text `no position at all`"),
        (Flaw::RepairsTheSound, "`repair` makes 0 of 1, an option of seat 0"),
        (Flaw::ScoreIsNoNumber, "give one finite number for each of 2 seats"),
        (Flaw::TurnsNoAction, "0 and then turning leads elsewhere than turning and then 0"),
        (Flaw::ValueIsNoNumber, "`appraise` gives seat 0 the value inf"),
        (Flaw::VerdictMissing, "nobody acts, yet there is no verdict"),
        (Flaw::WeakAgent, "`first` on level table: seat 0 gave up: it lost heart"),
    ];
    for (flaw, words) in messages {
        let broken = check(flaw).expect_err(&format!("{flaw:?} is not found")).to_string();
        assert!(broken.contains(words), "{flaw:?}: {broken}");
    }
    let kinds: BTreeSet<String> = messages.iter().map(|(flaw, _)| format!("{flaw:?}")).collect();
    // All but none, and the one that shows under other rules only.
    assert_eq!(kinds.len(), Flaw::WeakAgent as usize - 1, "a flaw has no row here");
}

#[test]
fn where_it_broke_is_told_so_that_it_can_be_found_again() {
    let broken = check(Flaw::ScoreIsNoNumber).unwrap_err();
    assert!(broken.to_string().starts_with("on level table, at tick 3 of match 0: "), "{broken}");
    let entry = entry(Flaw::RulesBreak);
    let broken = Conformance::of(&entry).rules(Knobs::default().with("hands", 2.0)).check().unwrap_err();
    assert!(broken.to_string().starts_with("on level table under the rules hands=2, at tick 0 "), "{broken}");
    assert_eq!(format!("{broken:?}"), broken.to_string(), "a test that returns it prints the words");
}
