//! The rules of regatta as a game: ticks, marks, perception.

use std::borrow::Cow;
use std::sync::Arc;

use inkpot_core::{Acting, Advance, Chance, Choices, Ending, Game, Measured, Options, Seat, SeatSet, Verdict};
use serde::{Deserialize, Serialize};

use super::boat::Boat;
use super::course::Course;
use super::geometry::{Point, minus, plus, times};
use super::rules::TICK_S;
use super::view::{Lookout, View};
use super::water::Water;
use super::wind::Wind;

/// Boats lie this far apart on the starting line (m).
const BERTH_M: f64 = 5.0;
/// Largest random offset on the starting line, to each side (m).
const START_JITTER_M: f64 = 1.5;

/// Ticks from one look at the distance left to the next.
const LOOK: u32 = 5;

/// The decision of a seat at a tick.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Helm {
    /// -1 (hard to port) to 1 (hard to starboard).
    pub rudder: f64,
}

/// A match of regatta.
#[derive(Clone, Debug)]
pub struct Regatta {
    course: Arc<Course>,
    /// The index of the water.
    water: usize,
    wind: Wind,
    boats: Vec<Boat>,
    scores: Vec<f64>,
    /// Why the scores changed last.
    scored_by: Option<&'static str>,
    /// The seats that still sail.
    racing: Vec<Seat>,
    tick: u32,
}

impl Regatta {
    /// A match on the starting line.
    pub(crate) fn new(course: Arc<Course>, seats: usize, world: &mut Chance) -> Self {
        let index = if course.waters.len() > 1 { world.below(course.waters.len()) } else { 0 };
        let water = &course.waters[index];
        let wind = Wind::new(water.wind_from, &course.rules, world);
        let boat = |seat: usize| {
            let along = (seat as f64 - (seats as f64 - 1.0) / 2.0) * BERTH_M;
            let beam = [water.bow[1], -water.bow[0]];
            Boat::at_start(plus(water.start, times(beam, along)), water.bow)
        };
        let mut boats: Vec<Boat> = (0..seats).map(boat).collect();
        // All are moved alike, so that nobody starts ahead.
        let off = times(water.bow, world.between(-START_JITTER_M, START_JITTER_M));
        for boat in &mut boats {
            boat.at = plus(boat.at, off);
        }
        let (water, scores, racing) = (index, vec![0.0; seats], (0..seats).collect());
        Self { course, water, wind, boats, scores, scored_by: None, racing, tick: 0 }
    }

    pub(super) fn water(&self) -> &Water {
        &self.course.waters[self.water]
    }

    pub(super) fn course(&self) -> &Course {
        &self.course
    }

    pub(super) fn boats(&self) -> &[Boat] {
        &self.boats
    }

    pub(super) fn wind(&self) -> &Wind {
        &self.wind
    }

    /// Time since the start (s).
    pub(super) fn time_s(&self) -> f64 {
        f64::from(self.tick) * TICK_S
    }

    /// The way from a boat to its next mark, the last one once it has finished.
    pub(super) fn to_mark(&self, seat: Seat) -> Point {
        let (boat, marks) = (&self.boats[seat], &self.water().marks);
        minus(marks[boat.mark.min(marks.len() - 1)], boat.at)
    }

    fn over(&self) -> bool {
        self.racing.is_empty() || self.tick >= self.course.time
    }

    /// The rudder that an order sets, if it is legal.
    #[inline]
    fn legal(&self, choice: Option<&Helm>) -> Option<f64> {
        let rudder = choice?.rudder;
        let fine = (-1.0..=1.0).contains(&rudder) && !(self.course.rules.discrete && rudder.fract() != 0.0);
        fine.then_some(rudder)
    }
}

impl Game for Regatta {
    type Action = Helm;
    type View = View;

    fn seats(&self) -> usize {
        self.boats.len()
    }

    #[inline]
    fn acting(&self) -> Acting<'_> {
        if self.over() { Acting::Nobody } else { Acting::These(&self.racing) }
    }

    #[inline(always)]
    fn view(&self, seat: Seat) -> View {
        let boat = &self.boats[seat];
        View {
            mark: boat.relative(self.to_mark(seat)),
            wind: boat.relative(self.wind.from),
            speed: boat.speed,
            lookout: Lookout { course: self.course.clone(), water: self.water, at: boat.at, bow: boat.bow },
        }
    }

    #[inline]
    fn advance(&mut self, choices: &Choices<Helm>, chance: &mut Chance) -> Advance {
        let mut faults = SeatSet::default();
        self.tick += 1;
        self.wind.turn(self.tick, &self.course.rules, chance);
        let mut left = false;
        for index in 0..self.racing.len() {
            let seat = self.racing[index];
            let rudder = self.legal(choices.get(seat)).unwrap_or_else(|| {
                faults.insert(seat);
                0.0
            });
            let water = &self.course.waters[self.water];
            let boat = &mut self.boats[seat];
            if boat.sail(rudder, &self.wind, water, &self.course.rules) {
                let left_share = 1.0 - f64::from(self.tick) / f64::from(self.course.time);
                self.scores[seat] = boat.mark as f64 + left_share;
                self.scored_by = Some(if boat.mark == water.marks.len() { "finish" } else { "mark" });
            }
            left |= boat.retired || boat.mark == water.marks.len();
            if self.tick.is_multiple_of(LOOK) {
                boat.least_m = boat.least_left_m(water);
            }
        }
        if left {
            let (boats, marks) = (&self.boats, self.course.waters[self.water].marks.len());
            self.racing.retain(|&seat| !boats[seat].retired && boats[seat].mark < marks);
        }
        faults.into_advance()
    }

    fn scores(&self) -> &[f64] {
        &self.scores
    }

    fn scored_by(&self) -> Option<Cow<'static, str>> {
        self.scored_by.map(Cow::Borrowed)
    }

    fn verdict(&self) -> Option<Verdict> {
        self.over().then(|| {
            let finished = |boat: &Boat| boat.mark == self.water().marks.len();
            let ending = match () {
                () if !self.racing.is_empty() => Ending::CutShort("time".into()),
                () if self.boats.iter().any(finished) => Ending::Decided("finish".into()),
                () => Ending::Decided("aground".into()),
            };
            Verdict::by_score(&self.scores, ending)
        })
    }
}

impl Options for Regatta {
    /// The coarse set: hard over, half over and straight; under the rule of a discrete rudder without half over.
    fn options(&self, _seat: Seat, into: &mut Vec<Helm>) {
        let rudders: &[f64] = if self.course.rules.discrete { &[-1.0, 0.0, 1.0] } else { &[-1.0, -0.5, 0.0, 0.5, 1.0] };
        into.extend(rudders.iter().map(|&rudder| Helm { rudder }));
    }

    fn draw(&self, seat: Seat, chance: &mut Chance) -> Helm {
        self.repair(seat, &Helm { rudder: chance.between(-1.5, 1.5) })
    }

    fn nudge(&self, seat: Seat, action: &Helm, chance: &mut Chance) -> Helm {
        self.repair(seat, &Helm { rudder: action.rudder + 0.4 * chance.normal() })
    }

    fn repair(&self, _seat: Seat, action: &Helm) -> Helm {
        let rudder = if action.rudder.is_nan() { 0.0 } else { action.rudder.clamp(-1.0, 1.0) };
        Helm { rudder: if self.course.rules.discrete { rudder.round() } else { rudder } }
    }
}

impl Measured for Regatta {
    fn measures(&self, seat: Seat, into: &mut Vec<f64>) {
        let (boat, water) = (&self.boats[seat], self.water());
        let finished = boat.mark == water.marks.len();
        let tally = &boat.tally;
        let ([left_m, water_left_m], [least_m, water_least_m]) = (boat.left_m(water), boat.least_left_m(water));
        into.extend([
            f64::from(u8::from(finished)),
            boat.mark as f64,
            if finished { tally.time_s() } else { f64::NAN },
            left_m,
            water_left_m,
            least_m,
            water_least_m,
            f64::from(tally.groundings),
            tally.tacks(),
            tally.sailed_m,
            tally.irons_share(),
            self.time_s(),
        ]);
    }
}
