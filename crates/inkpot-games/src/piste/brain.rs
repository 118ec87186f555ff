//! The rules of a scripted fencer: it keeps a distance, attacks now and then, and answers visible attacks.

use inkpot_core::{Agent, Chance, GaveUp, Seat, Shape, Sight};

use super::fighter::Phase;
use super::game::{Blade, Order, Piste, View};
use super::percept::{Eyes, Glimpse, Senses};
use super::rules::TICK_S;
use super::scene::ghost;

/// The traits of a fencer, besides its senses.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Temper {
    /// Distance kept between attacks (m).
    pub(crate) distance_m: f64,
    /// Error in distance that is let be (m).
    pub(crate) dead_zone_m: f64,
    /// Throttle for each metre of error.
    pub(crate) gain: f64,
    /// Share of the top speed used.
    pub(crate) top_share: f64,
    /// Attacks a second while the other is near.
    pub(crate) aggression: f64,
    /// Chance to parry a lunge that is seen coming; otherwise it steps back.
    pub(crate) parry_rate: f64,
    /// Feints a second while the other is near.
    pub(crate) feint_rate: f64,
    /// Standard deviation of the moment of a parry (ticks).
    pub(crate) timing_sd: f64,
}

/// Beyond the reach by this much (m), the other is near enough to attack or to feint at.
const NEAR_M: f64 = 1.5;
/// Beyond the reach by this much (m), a lunge of the other is a threat.
const THREAT_M: f64 = 0.6;
/// A lunge starts once the gap is inside the reach by this much (m).
const BITE_M: f64 = 0.05;
/// An attack that does not get to its lunge is given up after this many ticks.
const ATTACK_TICKS: u16 = 40;
/// A feint goes forward, then back, for this many ticks each.
const FEINT_TICKS: u16 = 9;
/// A step back from a lunge lasts this many ticks.
const EVADE_TICKS: u16 = 18;
/// The other's speed (m/s) from which an advance begins to look like an attack.
const RUSH_SPEED: f64 = 1.0;
/// Guesses a second, for each m/s above that, that a rush will be a lunge, for a fencer that parries every time.
const GUESSES_PER_S: f64 = 5.0;
/// Readiness to strike into an opening, against that to start an attack.
const OPENING_SHARE: f64 = 8.0;
/// Room behind the back (m) below which a fencer does not give way, and attacks instead.
const CORNER_M: f64 = 1.2;
/// A guard is best set this many ticks before the thrust.
const GUARD_LEAD: f64 = 4.0;
/// A riposte is tried within this many ticks after a good parry.
const RIPOSTE_TICKS: u16 = 14;

/// The present plan of a fencer.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Plan {
    /// Keep the distance.
    Measure,
    /// Run in and lunge.
    Attack { left: u16 },
    /// Run in as if to lunge, then out again.
    Feint { left: u16 },
    /// Parry after this many ticks.
    Parry { wait: u16 },
    /// Give way.
    Evade { left: u16 },
}

/// A scripted fencer, the base of `fencer` and of the stand-ins.
pub struct Brain {
    temper: Temper,
    eyes: Eyes,
    chance: Chance,
    plan: Plan,
    phrase: u32,
    answered: bool,
    last: Order,
    /// Its latest perception.
    seen: Glimpse,
    /// Whether its attention lapses now.
    lapsing: bool,
}

impl Brain {
    pub(crate) fn new(temper: Temper, senses: Senses) -> Self {
        Self {
            temper,
            eyes: Eyes::new(senses),
            chance: Chance::from_seed(0),
            plan: Plan::Measure,
            phrase: 0,
            answered: false,
            last: Order::default(),
            seen: Glimpse::default(),
            lapsing: false,
        }
    }

    /// Decides on a perception; `Agent::choose` without the seat around it.
    #[inline(always)]
    pub fn decide(&mut self, view: &View) -> Order {
        if view.phrase != self.phrase {
            self.phrase = view.phrase;
            self.plan = Plan::Measure;
        }
        let glimpse = self.eyes.look(view, &mut self.chance);
        self.lapsing = glimpse.is_none();
        let Some(glimpse) = glimpse else {
            // An absent mind lets its feet run on.
            return Order { blade: Blade::None, ..self.last };
        };
        self.seen = glimpse;
        if view.phase == Phase::Free {
            self.notice(view, &glimpse);
            self.consider(view, &glimpse);
        } else {
            self.plan = Plan::Measure;
        }
        let blade = self.blade(view, &glimpse);
        let throttle = self.throttle(view, &glimpse);
        self.plan = self.plan.passed();
        self.last = Order { throttle, blade };
        self.last
    }

    /// Answers a lunge seen coming, once.
    fn notice(&mut self, view: &View, glimpse: &Glimpse) {
        if glimpse.other_phase != Phase::WindUp {
            self.answered = false;
            return;
        }
        if self.answered || glimpse.gap_m > view.reach_m + THREAT_M {
            return;
        }
        self.answered = true;
        if self.chance.happens(self.temper.parry_rate) {
            let lead = f64::from(view.wind_up) - self.eyes.delay_ticks() - GUARD_LEAD;
            let wait = lead + self.temper.timing_sd * self.chance.normal();
            self.plan = Plan::Parry { wait: wait.round().max(0.0) as u16 };
        } else {
            self.plan = Plan::Evade { left: EVADE_TICKS };
        }
    }

    /// Takes an opening, guesses at a rush, starts an attack or a feint.
    fn consider(&mut self, view: &View, glimpse: &Glimpse) {
        if matches!(self.plan, Plan::Parry { .. } | Plan::Attack { .. }) {
            return;
        }
        let rate = |a_second: f64| a_second * TICK_S;
        let near = glimpse.gap_m < view.reach_m + NEAR_M;
        let open = matches!(glimpse.other_phase, Phase::Recovery | Phase::GuardRecovery);
        let rush = glimpse.other_speed - RUSH_SPEED;
        let cornered = if view.behind_m < CORNER_M { 2.0 } else { 1.0 };
        if view.since_parry < RIPOSTE_TICKS {
            self.plan = Plan::Attack { left: ATTACK_TICKS };
        } else if matches!(self.plan, Plan::Evade { .. }) && !open {
            // Let the lunge pass first.
        } else if near
            && (open && self.chance.happens(rate(OPENING_SHARE * self.temper.aggression))
                || self.chance.happens(rate(cornered * self.temper.aggression)))
        {
            self.plan = Plan::Attack { left: ATTACK_TICKS };
        } else if rush > 0.0
            && glimpse.gap_m < view.reach_m + THREAT_M
            && self.chance.happens(rate(GUESSES_PER_S * rush * self.temper.parry_rate))
        {
            self.plan = Plan::Parry { wait: 0 };
        } else if near && self.plan == Plan::Measure && self.chance.happens(rate(self.temper.feint_rate)) {
            self.plan = Plan::Feint { left: 2 * FEINT_TICKS };
        }
    }

    fn blade(&mut self, view: &View, glimpse: &Glimpse) -> Blade {
        if view.phase != Phase::Free {
            return Blade::None;
        }
        match self.plan {
            Plan::Parry { wait: 0 } => {
                self.plan = Plan::Measure;
                Blade::Parry
            }
            Plan::Attack { .. } if glimpse.gap_m < view.reach_m - BITE_M => {
                self.plan = Plan::Measure;
                Blade::Lunge
            }
            _ => Blade::None,
        }
    }

    fn throttle(&mut self, view: &View, glimpse: &Glimpse) -> f64 {
        let top = self.temper.top_share;
        let error = glimpse.gap_m - self.temper.distance_m;
        let wanted = match self.plan {
            Plan::Attack { .. } => top,
            Plan::Feint { left } => {
                if left > FEINT_TICKS {
                    top
                } else {
                    -top
                }
            }
            Plan::Evade { .. } => -top,
            // A lunge is carried forward, a guard stands.
            _ if matches!(view.phase, Phase::WindUp | Phase::Thrust) => 1.0,
            Plan::Parry { .. } | Plan::Measure if error.abs() < self.temper.dead_zone_m => 0.0,
            Plan::Parry { .. } | Plan::Measure => (self.temper.gain * error).clamp(-top, top),
        };
        // Nobody backs off the strip with open eyes.
        wanted.max(-(view.behind_m - CORNER_M / 2.0).clamp(0.0, 1.0))
    }
}

impl Plan {
    /// In a few words.
    fn name(self) -> &'static str {
        match self {
            Plan::Measure => "keeps its distance",
            Plan::Attack { .. } => "attacks",
            Plan::Feint { .. } => "feints",
            Plan::Parry { .. } => "is about to parry",
            Plan::Evade { .. } => "gives way",
        }
    }

    fn passed(self) -> Self {
        match self {
            Plan::Measure | Plan::Attack { left: 0 } | Plan::Feint { left: 0 } | Plan::Evade { left: 0 } => {
                Plan::Measure
            }
            Plan::Attack { left } => Plan::Attack { left: left - 1 },
            Plan::Feint { left } => Plan::Feint { left: left - 1 },
            Plan::Evade { left } => Plan::Evade { left: left - 1 },
            Plan::Parry { wait } => Plan::Parry { wait: wait.saturating_sub(1) },
        }
    }
}

impl Agent<Piste> for Brain {
    fn begin(&mut self, _seat: Seat, chance: Chance) {
        self.chance = chance;
    }

    #[inline]
    fn choose(&mut self, sight: &Sight<'_, Piste>) -> Result<Order, GaveUp> {
        Ok(self.decide(&sight.view()))
    }

    /// Draws the other fencer's believed place and the present plan.
    fn believes(&self, sight: &Sight<'_, Piste>, into: &mut Vec<Shape>) {
        let plan = if self.lapsing { "attention lapses" } else { self.plan.name() };
        ghost(sight.seat(), &sight.view(), &self.seen, plan, into);
    }
}
