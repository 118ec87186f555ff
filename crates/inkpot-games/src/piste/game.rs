//! The rules of piste as a game: ticks, touches, perception.

use std::borrow::Cow;

use inkpot_core::{
    Acting, Advance, Appraise, Chance, Choices, Ending, Game, Imagine, Knob, Measured, Options, Seat, SeatSet, Verdict,
};
use serde::{Deserialize, Serialize};

use super::fighter::{Fighter, Phase};
use super::rules::{
    CONTACT_M, DOUBLE_WINDOW, Double, PARRIED_RECOVERY, PisteRules, START_GAP_M, START_JITTER_M, TICK_S,
};
use super::tally::Tally;

/// The decision of a seat at a tick.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Order {
    /// -1 (full speed back) to 1 (full speed forward).
    pub throttle: f64,
    /// The order to the blade.
    pub blade: Blade,
}

/// An order to the blade; legal only while it is free.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Blade {
    /// No new order.
    #[default]
    None,
    /// Lunge.
    Lunge,
    /// Parry.
    Parry,
}

/// The view of a seat: distances in metres, speeds in m/s (forward is positive), times in ticks.
#[derive(Clone, Copy, Debug, Default, Serialize)]
pub struct View {
    /// Distance between the two.
    pub gap_m: f64,
    /// Own forward speed.
    pub speed: f64,
    /// The other's forward speed (towards us).
    pub other_speed: f64,
    /// Strip left behind our back.
    pub behind_m: f64,
    /// Strip left behind the other's back.
    pub other_behind_m: f64,
    /// The phase of our blade.
    pub phase: Phase,
    /// Ticks left of that.
    pub left: u16,
    /// The phase of the other's blade.
    pub other_phase: Phase,
    /// Ticks since our guard last met a thrust, saturating.
    pub since_parry: u16,
    /// Reach of a thrust.
    pub reach_m: f64,
    /// Ticks of wind-up before a thrust.
    pub wind_up: u16,
    /// Our touches.
    pub touches: u32,
    /// The other's touches.
    pub other_touches: u32,
    /// Ticks to the time limit.
    pub time_left: u32,
    /// Counts the starts of a phrase: changes when both go back to their lines.
    pub phrase: u32,
}

/// A match of piste.
#[derive(Clone, Debug)]
pub struct Piste {
    rules: PisteRules,
    fighters: [Fighter; 2],
    scores: [f64; 2],
    landed: [u16; 2],
    /// Why the scores changed last.
    scored_by: Option<&'static str>,
    tick: u32,
    phrase: u32,
    tally: Tally,
}

/// A touch this soon after a parry (ticks) is a riposte: the other was still on its way back, or the touch was settling.
const RIPOSTE: u16 = PARRIED_RECOVERY + DOUBLE_WINDOW;

/// No thrust has landed in this phrase.
const NOT_LANDED: u16 = u16::MAX;

impl Piste {
    /// A match at its start lines.
    pub fn new(rules: PisteRules, world: &mut Chance) -> Self {
        let mut game = Self {
            rules,
            fighters: [Fighter::default(); 2],
            scores: [0.0; 2],
            landed: [NOT_LANDED; 2],
            scored_by: None,
            tick: 0,
            phrase: 0,
            tally: Tally::default(),
        };
        game.take_places(world);
        game
    }

    pub(super) fn rules(&self) -> &PisteRules {
        &self.rules
    }

    pub(super) fn fighters(&self) -> &[Fighter; 2] {
        &self.fighters
    }

    /// Time since the start (s).
    pub(super) fn time_s(&self) -> f64 {
        f64::from(self.tick) * TICK_S
    }

    /// Distance between the two (m).
    pub fn gap_m(&self) -> f64 {
        self.rules.strip_m - self.fighters[0].place_m - self.fighters[1].place_m
    }

    fn take_places(&mut self, world: &mut Chance) {
        let line = (self.rules.strip_m - START_GAP_M) / 2.0;
        for fighter in &mut self.fighters {
            *fighter = Fighter::at_start(line + world.between(-START_JITTER_M, START_JITTER_M));
        }
        self.landed = [NOT_LANDED; 2];
        self.phrase += 1;
    }

    fn lead(&self) -> i32 {
        (self.scores[0] - self.scores[1]) as i32
    }

    fn over(&self) -> bool {
        let goal = f64::from(self.rules.touches);
        self.tick >= self.rules.time || self.scores[0] >= goal || self.scores[1] >= goal
    }

    /// The order of a seat if it is legal; the null order (stand, nothing) and a fault if not.
    #[inline]
    fn legal(&self, seat: Seat, choice: Option<&Order>, faults: &mut SeatSet) -> Order {
        match choice {
            Some(order)
                if (-1.0..=1.0).contains(&order.throttle)
                    && (order.blade == Blade::None || self.fighters[seat].phase == Phase::Free) =>
            {
                *order
            }
            _ => {
                faults.insert(seat);
                Order::default()
            }
        }
    }

    #[inline]
    fn carry_out(&mut self, seat: Seat, order: Order) {
        let fighter = &mut self.fighters[seat];
        match order.blade {
            Blade::None => {}
            Blade::Lunge => {
                fighter.lunge(&self.rules);
                self.tally.seats[seat].lunges += 1;
            }
            Blade::Parry => {
                fighter.guard();
                self.tally.seats[seat].parries += 1;
            }
        }
        fighter.walk(order.throttle, &self.rules);
    }

    /// Two bodies cannot overlap: both give way by halves and lose the speed that pressed them together.
    #[inline]
    fn part(&mut self) {
        let overlap = CONTACT_M - self.gap_m();
        if overlap > 0.0 {
            for fighter in &mut self.fighters {
                fighter.place_m -= overlap / 2.0;
                fighter.speed = fighter.speed.min(0.0);
            }
        }
    }

    #[inline]
    fn thrust(&mut self) {
        let in_reach = self.gap_m() <= self.rules.reach_m;
        for (seat, landed) in self.landed.iter_mut().enumerate() {
            *landed = if *landed == NOT_LANDED { NOT_LANDED } else { *landed + 1 };
            let attacker = self.fighters[seat];
            if attacker.phase != Phase::Thrust || attacker.spent || !in_reach {
                continue;
            }
            if self.fighters[1 - seat].phase == Phase::Guard {
                self.fighters[seat].be_parried();
                self.fighters[1 - seat].have_parried();
                self.tally.seats[1 - seat].parried += 1;
            } else {
                self.fighters[seat].spent = true;
                self.tally.seats[seat].landed += 1;
                *landed = 0;
            }
        }
    }

    /// Settles touches: a landed thrust counts once the other can no longer make it a double.
    #[inline]
    fn settle(&mut self, world: &mut Chance) {
        let off: [bool; 2] = self.fighters.map(|fighter| fighter.place_m < 0.0);
        let [first, second] = self.landed;
        let double = first != NOT_LANDED && second != NOT_LANDED;
        let ripe = |landed: u16| landed != NOT_LANDED && landed >= DOUBLE_WINDOW;
        if !(double || ripe(first) || ripe(second) || off[0] || off[1]) {
            return;
        }
        if double {
            self.tally.doubles += 1;
            if self.rules.double == Double::Both {
                self.scored_by = Some("double");
                self.scores = self.scores.map(|score| score + 1.0);
            }
        } else {
            for seat in 0..2 {
                // Stepping off after being touched costs no second touch.
                let touched = self.landed[seat] != NOT_LANDED;
                let gift = off[1 - seat] && self.landed[1 - seat] == NOT_LANDED;
                if touched || gift {
                    self.scores[seat] += 1.0;
                    self.scored_by = Some(match self.fighters[seat].since_parry {
                        _ if !touched => "edge",
                        ..=RIPOSTE => "riposte",
                        _ => "lunge",
                    });
                }
            }
        }
        self.take_places(world);
    }
}

impl Game for Piste {
    type Action = Order;
    type View = View;

    fn seats(&self) -> usize {
        2
    }

    #[inline]
    fn acting(&self) -> Acting<'_> {
        if self.over() { Acting::Nobody } else { Acting::All }
    }

    #[inline(always)]
    fn view(&self, seat: Seat) -> View {
        let fighter = &self.fighters[seat];
        let other = &self.fighters[1 - seat];
        View {
            gap_m: self.gap_m(),
            speed: fighter.speed,
            other_speed: other.speed,
            behind_m: fighter.place_m,
            other_behind_m: other.place_m,
            phase: fighter.phase,
            left: fighter.left,
            other_phase: other.phase,
            since_parry: fighter.since_parry,
            reach_m: self.rules.reach_m,
            wind_up: self.rules.wind_up,
            touches: self.scores[seat] as u32,
            other_touches: self.scores[1 - seat] as u32,
            time_left: self.rules.time.saturating_sub(self.tick),
            phrase: self.phrase,
        }
    }

    #[inline]
    fn advance(&mut self, choices: &Choices<Order>, chance: &mut Chance) -> Advance {
        let mut faults = SeatSet::default();
        let orders = [0, 1].map(|seat| self.legal(seat, choices.get(seat), &mut faults));
        self.tick += 1;
        self.tally.tick();
        for fighter in &mut self.fighters {
            fighter.pass();
        }
        for (seat, order) in orders.into_iter().enumerate() {
            self.carry_out(seat, order);
        }
        self.part();
        self.thrust();
        let gap_m = self.gap_m();
        for (fighter, tally) in self.fighters.iter().zip(&mut self.tally.seats) {
            tally.tick(fighter.speed, fighter.phase == Phase::Free, gap_m);
        }
        self.settle(chance);
        faults.into_advance()
    }

    fn scores(&self) -> &[f64] {
        &self.scores
    }

    fn scored_by(&self) -> Option<Cow<'static, str>> {
        self.scored_by.map(Cow::Borrowed)
    }

    fn verdict(&self) -> Option<Verdict> {
        let goal = f64::from(self.rules.touches);
        self.over().then(|| {
            let reached = self.scores.iter().any(|&score| score >= goal);
            let ending = if reached { Ending::Decided("touches".into()) } else { Ending::CutShort("time".into()) };
            Verdict::by_score(&self.scores, ending)
        })
    }
}

impl Options for Piste {
    /// The coarse set: throttle -1, -0.5, 0, 0.5, 1 times the blade orders that are possible now.
    fn options(&self, seat: Seat, into: &mut Vec<Order>) {
        let blades: &[Blade] = if self.fighters[seat].phase == Phase::Free {
            &[Blade::None, Blade::Lunge, Blade::Parry]
        } else {
            &[Blade::None]
        };
        for &blade in blades {
            into.extend([-1.0, -0.5, 0.0, 0.5, 1.0].map(|throttle| Order { throttle, blade }));
        }
    }

    /// Any throttle; the blade mostly at rest, since an order binds it for a while.
    fn draw(&self, seat: Seat, chance: &mut Chance) -> Order {
        let throttle = chance.between(-1.0, 1.0);
        let free = self.fighters[seat].phase == Phase::Free;
        let blade = match chance.unit() {
            x if !free || x < 0.7 => Blade::None,
            x if x < 0.85 => Blade::Lunge,
            _ => Blade::Parry,
        };
        Order { throttle, blade }
    }

    /// A little more or less throttle, the same order to the blade.
    fn nudge(&self, seat: Seat, action: &Order, chance: &mut Chance) -> Order {
        let throttle = action.throttle + 0.3 * chance.normal();
        self.repair(seat, &Order { throttle, blade: action.blade })
    }

    fn repair(&self, seat: Seat, action: &Order) -> Order {
        let throttle = if action.throttle.is_nan() { 0.0 } else { action.throttle.clamp(-1.0, 1.0) };
        let free = self.fighters[seat].phase == Phase::Free;
        Order { throttle, blade: if free { action.blade } else { Blade::None } }
    }
}

impl Imagine for Piste {
    /// Returns a copy: phases have known lengths, so an observer since the start line knows all of it. Future chance is
    /// drawn anew.
    fn imagine(&self, _seat: Seat, _chance: &mut Chance) -> Option<Self> {
        Some(self.clone())
    }
}

impl Piste {
    /// The weights of the value of a state.
    pub fn weights() -> Vec<Knob> {
        vec![
            Knob::real("spacing", 0.0..=1.0, 0.02)
                .unit("touches/m")
                .help("cost of each metre off the distance from which a step brings the other within reach"),
            Knob::real("ground", 0.0..=1.0, 0.05)
                .unit("touches/m")
                .help("cost of each metre that the strip behind is shorter than two metres"),
        ]
    }
}

impl Appraise for Piste {
    fn appraise(&self, seat: Seat, weights: &[f64]) -> f64 {
        let margin = self.scores[seat] - self.scores[1 - seat];
        let &[spacing, ground] = weights else { return margin };
        let off = (self.gap_m() - self.rules.reach_m - 0.2).abs();
        let short = |seat: Seat| (2.0 - self.fighters[seat].place_m).max(0.0);
        margin - spacing * off - ground * (short(seat) - short(1 - seat))
    }
}

impl Measured for Piste {
    fn measures(&self, seat: Seat, into: &mut Vec<f64>) {
        self.tally.figures(seat, self.lead(), into);
    }
}
