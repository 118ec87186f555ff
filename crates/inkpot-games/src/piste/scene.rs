//! A picture of the strip: two fencers, their blades, and each one's perception.

use inkpot_core::{Game, Paint, Pictured, Scene, Seat, Shape};

use super::fighter::{Fighter, Phase};
use super::game::{Piste, View};
use super::percept::Glimpse;

/// Room beyond the ends of the strip (m).
const MARGIN_M: f64 = 1.0;
/// Height of the hip, of the shoulder and of the middle of the head (m).
const HIP_M: f64 = 0.85;
const SHOULDER_M: f64 = 1.38;
const HEAD_M: f64 = 1.66;
/// Width of a limb as it is drawn (m).
const LIMB_M: f64 = 0.09;

/// A fencer's pose in a phase: metres ahead of its place, and above the ground.
struct Pose {
    front_foot: f64,
    back_foot: f64,
    hip: [f64; 2],
    hand: [f64; 2],
    tip: [f64; 2],
}

impl Pose {
    fn of(phase: Phase, reach_m: f64) -> Self {
        let still =
            Self { front_foot: 0.28, back_foot: -0.28, hip: [0.0, HIP_M], hand: [0.42, 1.15], tip: [0.95, 1.3] };
        match phase {
            Phase::Free => still,
            Phase::WindUp => Self { hip: [-0.1, HIP_M], hand: [-0.05, 1.3], tip: [0.45, 1.75], ..still },
            Phase::Thrust => Self {
                front_foot: 0.62,
                back_foot: -0.45,
                hip: [0.12, HIP_M - 0.18],
                hand: [0.75, 1.2],
                tip: [reach_m.max(0.9), 1.18],
            },
            Phase::Recovery => Self { front_foot: 0.45, hand: [0.5, 1.0], tip: [0.95, 0.75], ..still },
            Phase::Guard => Self { hand: [0.4, 1.2], tip: [0.5, 1.85], ..still },
            Phase::GuardRecovery => Self { hand: [0.42, 1.1], tip: [0.85, 1.6], ..still },
        }
    }
}

/// Returns a fencer's place on the strip and its forward direction.
fn stance(seat: Seat, place_m: f64, strip_m: f64) -> (f64, f64) {
    if seat == 0 { (place_m, 1.0) } else { (strip_m - place_m, -1.0) }
}

/// A fencer; always as many shapes.
fn fencer(seat: Seat, fighter: &Fighter, strip_m: f64, reach_m: f64, into: &mut Vec<Shape>) {
    let (at, forward) = stance(seat, fighter.place_m, strip_m);
    let pose = Pose::of(fighter.phase, reach_m);
    let point = |[ahead, above]: [f64; 2]| [at + forward * ahead, above];
    let paint = Paint::Seat(seat);
    let limb = |from: [f64; 2], to: [f64; 2]| Shape::Line { from: point(from), to: point(to), width: LIMB_M, paint };
    let shoulder = [pose.hip[0] + 0.06, pose.hip[1] + SHOULDER_M - HIP_M];
    let head = [shoulder[0] + 0.04, shoulder[1] + HEAD_M - SHOULDER_M];
    let body = Shape::Line { from: point(pose.hip), to: point(shoulder), width: 0.2, paint };
    into.extend([body, limb(pose.hip, [pose.back_foot, 0.04]), limb(pose.hip, [pose.front_foot, 0.04])]);
    into.push(limb(shoulder, pose.hand));
    let out = fighter.phase == Phase::Thrust;
    let blade = if out { Paint::Signal } else { Paint::Ink };
    into.push(Shape::Line { from: point(pose.hand), to: point(pose.tip), width: 0.045, paint: blade });
    into.push(Shape::Circle { centre: point(head), radius: 0.16, paint });
    // The tell: what the other can see coming.
    let tell = if fighter.phase == Phase::WindUp { 0.1 } else { 0.0 };
    into.push(Shape::Circle { centre: point([head[0], head[1] + 0.38]), radius: tell, paint: Paint::Signal });
}

impl Pictured for Piste {
    fn scene(&self, into: &mut Scene) {
        let (strip, reach) = (self.rules().strip_m, self.rules().reach_m);
        into.low = [-MARGIN_M, -1.1];
        into.high = [strip + MARGIN_M, 3.3];
        into.shapes.clear();
        into.shapes.push(Shape::Rectangle { low: [0.0, -0.3], high: [strip, 0.0], paint: Paint::Ground });
        let mark = |at: f64| Shape::Line { from: [at, -0.3], to: [at, 0.0], width: 0.03, paint: Paint::Faint };
        into.shapes.extend((1..strip.ceil() as u32).map(|metre| mark(f64::from(metre))));
        for (seat, fighter) in self.fighters().iter().enumerate() {
            fencer(seat, fighter, strip, reach, &mut into.shapes);
        }
        let text = |at: [f64; 2], text: String, size: f64, paint: Paint| Shape::Text { at, text, size, paint };
        let middle = strip / 2.0;
        for (seat, side) in [(0, -1.0), (1, 1.0)] {
            let touches = self.scores()[seat].to_string();
            into.shapes.push(text([middle + side * 0.7, 2.75], touches, 0.4, Paint::Seat(seat)));
        }
        let clock = format!("{:.1} s", self.time_s());
        into.shapes.push(text([middle, -0.75], clock, 0.19, Paint::Ink));
    }

    /// Draws the reach of the seat's thrust.
    fn sight(&self, seat: Seat, into: &mut Vec<Shape>) {
        let (strip, reach) = (self.rules().strip_m, self.rules().reach_m);
        let (at, forward) = stance(seat, self.fighters()[seat].place_m, strip);
        let to = at + forward * reach;
        let low = if seat == 0 { -0.12 } else { -0.27 };
        let (low, high) = ([at.min(to), low], [at.max(to), low + 0.09]);
        into.push(Shape::Rectangle { low, high, paint: Paint::Seat(seat) });
    }

    fn place(&self, seat: Seat) -> Option<[f64; 2]> {
        let (at, _) = stance(seat, self.fighters().get(seat)?.place_m, self.rules().strip_m);
        Some([at, 0.0])
    }
}

/// Draws the other fencer as this one perceives it, late and blurred, with the present plan in words.
pub(crate) fn ghost(seat: Seat, view: &View, glimpse: &Glimpse, plan: &str, into: &mut Vec<Shape>) {
    let strip_m = view.behind_m + view.gap_m + view.other_behind_m;
    let (foot, forward) = stance(seat, view.behind_m, strip_m);
    let at = foot + forward * glimpse.gap_m;
    let paint = Paint::Seat(1 - seat);
    let pose = Pose::of(glimpse.other_phase, view.reach_m);
    let point = |[ahead, above]: [f64; 2]| [at - forward * ahead, above];
    into.push(Shape::Line { from: [at, 0.0], to: [at, SHOULDER_M], width: 0.05, paint });
    into.push(Shape::Line { from: point(pose.hand), to: point(pose.tip), width: 0.04, paint });
    into.push(Shape::Ring { centre: [at, HEAD_M], radius: 0.18, paint });
    into.push(Shape::Text { at: [foot, 2.35], text: plan.into(), size: 0.19, paint: Paint::Seat(seat) });
}
