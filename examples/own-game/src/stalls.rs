//! `stalls`: three sellers at the fair ask a price for their last crates, all at once, hour by hour. The cheapest sells
//! (ties share), a customer who finds the price too high walks on, and nobody sees how many crates the others have.

use inkpot_agents::{Graded, drifter, horizon, playouts, treesearch};
use inkpot_core::{
    Acting, Advance, Agent, AgentKind, Appraise, Chance, Choices, Ending, Entry, Game, GameSheet, GaveUp, Imagine,
    Knob, LevelSheet, Measure, Measured, Options, Seat, SeatSet, Sight, Verdict,
};
use serde::Serialize;

const SEATS: usize = 3;
const TOP_PRICE: u8 = 9;

/// What is common knowledge, and in `crates` what is not.
#[derive(Clone, Debug)]
pub struct Stalls {
    hours: u32,
    crates: [u8; SEATS],
    most_crates: u8,
    sold: [u8; SEATS],
    asked: [u8; SEATS],
    earned: [f64; SEATS],
}

/// What a seller sees: its own crates, and of all what they asked last, sold so far and earned.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
pub struct View {
    pub hours: u32,
    pub own_crates: u8,
    pub asked: [u8; SEATS],
    pub sold: [u8; SEATS],
    pub earned: [f64; SEATS],
}

impl Stalls {
    fn new(hours: u32, most_crates: u8, chance: &mut Chance) -> Self {
        let crates = [0; SEATS].map(|_: u8| 1 + chance.below(usize::from(most_crates)) as u8);
        Self { hours, crates, most_crates, sold: [0; SEATS], asked: [0; SEATS], earned: [0.0; SEATS] }
    }
}

impl Game for Stalls {
    /// A price from 1 to 9; 0 keeps the stall closed for the hour, and stands for any illegal choice.
    type Action = u8;
    type View = View;

    fn seats(&self) -> usize {
        SEATS
    }

    fn acting(&self) -> Acting<'_> {
        if self.hours == 0 { Acting::Nobody } else { Acting::All }
    }

    fn view(&self, seat: Seat) -> View {
        View {
            hours: self.hours,
            own_crates: self.crates[seat],
            asked: self.asked,
            sold: self.sold,
            earned: self.earned,
        }
    }

    fn advance(&mut self, choices: &Choices<u8>, chance: &mut Chance) -> Advance {
        let mut faults = SeatSet::default();
        for seat in 0..SEATS {
            let legal = |price: &&u8| **price <= TOP_PRICE && (**price == 0 || self.crates[seat] > 0);
            let price = choices.get(seat).filter(legal).copied();
            if price.is_none() {
                faults.insert(seat);
            }
            self.asked[seat] = price.unwrap_or(0);
        }
        // The hour's customer pays up to this much, at the cheapest stall, one of several at random.
        let purse = 1 + chance.below(usize::from(TOP_PRICE)) as u8;
        let open = || (0..SEATS).filter(|&seat| self.asked[seat] > 0);
        let cheapest = open().map(|seat| self.asked[seat]).min();
        if let Some(price) = cheapest.filter(|price| *price <= purse) {
            let stalls: Vec<Seat> = open().filter(|&seat| self.asked[seat] == price).collect();
            let seat = stalls[chance.below(stalls.len())];
            self.crates[seat] -= 1;
            self.sold[seat] += 1;
            self.earned[seat] += f64::from(price);
        }
        self.hours -= 1;
        faults.into_advance()
    }

    fn scores(&self) -> &[f64] {
        &self.earned
    }

    fn verdict(&self) -> Option<Verdict> {
        (self.hours == 0).then(|| Verdict::by_score(&self.earned, Ending::Decided("evening".into())))
    }
}

impl Options for Stalls {
    fn options(&self, seat: Seat, into: &mut Vec<u8>) {
        into.extend(0..=if self.crates[seat] > 0 { TOP_PRICE } else { 0 });
    }
}

impl Imagine for Stalls {
    /// The others' crates are hidden: any number that they may still have.
    fn imagine(&self, seat: Seat, chance: &mut Chance) -> Option<Self> {
        let mut state = self.clone();
        for other in (0..SEATS).filter(|&other| other != seat) {
            // Whoever asked a price last had a crate then; it has sold at most that one since.
            let least = 1.max(self.sold[other]);
            let had = least + chance.below(usize::from(self.most_crates - least + 1)) as u8;
            state.crates[other] = had - self.sold[other];
        }
        Some(state)
    }
}

impl Appraise for Stalls {}

impl Measured for Stalls {
    fn measures(&self, seat: Seat, into: &mut Vec<f64>) {
        into.extend([f64::from(self.sold[seat]), self.earned[seat] / f64::from(self.sold[seat])]);
    }
}

/// Asks a fixed price, less what the clock takes off.
struct Haggler {
    price: f64,
    hurry: f64,
}

impl Agent<Stalls> for Haggler {
    fn choose(&mut self, sight: &Sight<'_, Stalls>) -> Result<u8, GaveUp> {
        let view = sight.view();
        let price = self.price - self.hurry * f64::from(view.own_crates) / f64::from(view.hours);
        Ok(if view.own_crates == 0 { 0 } else { price.round().clamp(1.0, f64::from(TOP_PRICE)) as u8 })
    }
}

fn haggler() -> AgentKind<Stalls> {
    AgentKind::new("haggler", "asks a fixed price, and less when it has much to sell in little time")
        .knob(Knob::real("price", 1.0..=9.0, 6.0).unit("coins").help("what it would like to get"))
        .knob(Knob::real("hurry", 0.0..=9.0, 2.0).unit("coins").help("how far crates left over hours left press it"))
        .factory(|knobs| {
            let (price, hurry) = (knobs.number("price"), knobs.number("hurry"));
            Box::new(move |_person| Box::new(Haggler { price, hurry }))
        })
        .graded()
}

/// The game with its agents: one of its own, and the generic ones.
pub fn entry() -> Entry<Stalls> {
    let sheet = GameSheet {
        name: "stalls".into(),
        help: "three sellers ask their prices at once, and the cheapest sells".into(),
        seats: SEATS..=SEATS,
        ticks_per_second: None,
        rules: vec![
            Knob::whole("hours", 1..=48, 8).help("customers of a day, one an hour"),
            Knob::whole("crates", 1..=20, 5).help("most crates that a seller may have in the morning"),
        ],
        levels: vec![LevelSheet::new("quay", "three stalls side by side")],
        level_file: None,
        without_chance: None,
        measures: vec![
            Measure::seat("sold", "Sold", "crates", "crates sold"),
            Measure::seat("price", "Mean price", "coins", "what it got for a crate"),
        ],
    };
    Entry::new(sheet, |laying| {
        let (hours, crates) = (laying.rules.number("hours") as u32, laying.rules.number("crates") as u8);
        Ok(Box::new(move |chance| Stalls::new(hours, crates, chance)))
    })
    .agent(haggler())
    .agent(drifter(1).graded())
    .agent(treesearch(&[]))
    .agent(playouts(&[]))
    .agent(horizon(&[], &[haggler()]))
}

#[cfg(test)]
#[test]
fn stalls_keeps_what_it_promises() -> Result<(), inkpot_core::Broken> {
    let entry = entry();
    inkpot_core::Conformance::of(&entry).options().imagined().appraised(Vec::new()).agents().check()
}
