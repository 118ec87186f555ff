//! `tacker`: beats to windward in tacks, and turns away from shores that it sees ahead.

use inkpot_core::{Agent, AgentKind, GaveUp, Knob, Knobs, Person, Shape, Sight};

use super::game::{Helm, Regatta};
use super::scene::steered;
use super::view::View;

/// Rudder for each degree that the bow is off.
const GAIN: f64 = 1.0 / 25.0;
/// Rays within this angle of a course tell whether it is free (degrees).
const BEAM_DEG: f64 = 30.0;
/// Decisions that a tack is kept at least once a shore has forced it, at ten a second.
const KEPT: u32 = 60;

/// The kind `tacker`.
pub(crate) fn tacker() -> AgentKind<Regatta> {
    AgentKind::new("tacker", "beats to windward in tacks and keeps off the shores")
        .knob(
            Knob::real("tack_angle", 40.0..=85.0, 60.0)
                .unit("deg")
                .help("angle to the wind at which it beats; smaller points higher and sails slower"),
        )
        .knob(
            Knob::real("hysteresis", 0.0..=30.0, 6.0)
                .unit("deg")
                .help("how far a mark that it steers at may come into the wind before it beats again"),
        )
        .knob(
            Knob::real("layline_margin", -10.0..=40.0, 4.0)
                .unit("deg")
                .help("how far it sails past the line from which one more tack reaches the mark"),
        )
        .knob(
            Knob::real("look_ahead", 0.0..=40.0, 18.0).unit("m").help("a shore this near on its course turns it away"),
        )
        .preset("whimbrel", "points high and tacks late", Knobs::default().with("tack_angle", 50.0))
        .preset("knot", "sees shores late", Knobs::default().with("look_ahead", 6.0))
        .factory(|knobs| {
            let number = |name| knobs.number(name);
            let traits = Traits {
                tack_deg: number("tack_angle"),
                hysteresis_deg: number("hysteresis"),
                margin_deg: number("layline_margin"),
                look_m: number("look_ahead"),
            };
            Box::new(move |_person| Box::new(Tacker { traits, beating: None, turned: 0, side: 0.0, course_deg: 0.0 }))
        })
}

#[derive(Clone, Copy)]
struct Traits {
    tack_deg: f64,
    hysteresis_deg: f64,
    margin_deg: f64,
    look_m: f64,
}

struct Tacker {
    traits: Traits,
    /// On which side of the wind it beats, 1 to starboard of it; none while it steers at the mark.
    beating: Option<f64>,
    /// Decisions for which it still keeps the tack that a shore forced.
    turned: u32,
    /// To which side it passes a shore, -1 or 1; 0 while there is none.
    side: f64,
    /// The course that it steers, in degrees from the bow.
    course_deg: f64,
}

fn wrapped(degrees: f64) -> f64 {
    degrees - 360.0 * (degrees / 360.0).round()
}

/// The nearest shore within the beam around a course, which is given in degrees from the bow (m).
fn room_m(view: &View, course_deg: f64) -> f64 {
    let mut least = f64::INFINITY;
    view.look(|ray_deg, far| {
        if wrapped(ray_deg - course_deg).abs() <= BEAM_DEG {
            least = least.min(far);
        }
    });
    least
}

impl Tacker {
    /// The course to steer, in degrees from the bow, shores aside.
    fn course(&mut self, view: &View) -> f64 {
        let Traits { tack_deg, hysteresis_deg, margin_deg, look_m } = self.traits;
        let (mark, wind) = (view.mark_deg(), view.wind_deg());
        // The mark's direction, counted from that of the wind.
        let off = wrapped(mark - wind);
        self.turned = self.turned.saturating_sub(1);
        match self.beating {
            None if off.abs() < tack_deg - hysteresis_deg => {
                self.beating = Some(if off < 0.0 { -1.0 } else { 1.0 });
            }
            Some(side) if self.turned == 0 && off * side < 0.0 && off.abs() >= tack_deg + margin_deg => {
                self.beating = None;
            }
            Some(side) if self.turned == 0 && off * side > 0.0 && off.abs() >= tack_deg => self.beating = None,
            Some(side) if self.turned == 0 && room_m(view, wrapped(wind + side * tack_deg)) < look_m => {
                self.beating = Some(-side);
                self.turned = KEPT;
            }
            _ => {}
        }
        self.beating.map_or(mark, |side| wrapped(wind + side * tack_deg))
    }

    /// The course nearest to this one that is free of shores, in degrees from the bow. Once it has begun to pass a
    /// shore on one side it keeps to that side.
    fn kept_off(&mut self, view: &View, course_deg: f64) -> f64 {
        let look_m = self.traits.look_m;
        if room_m(view, course_deg) >= look_m {
            self.side = 0.0;
            return course_deg;
        }
        let free = |side: f64| {
            let turned = (1..=8).map(|step| wrapped(course_deg + side * 20.0 * f64::from(step)));
            let ahead = turned.take_while(|course| course.abs() <= 130.0);
            let room = ahead.map(|course| (course, room_m(view, course)));
            room.into_iter().find(|(_, room)| *room >= look_m).map(|(course, _)| course)
        };
        let sides = if self.side == 0.0 { [1.0, -1.0] } else { [self.side, -self.side] };
        let found = sides.map(|side| (side, free(side)));
        let by_turn =
            |pair: &(f64, Option<f64>)| pair.1.map_or(f64::INFINITY, |course| wrapped(course - course_deg).abs());
        let side = if self.side != 0.0 && found[0].1.is_some() {
            found[0]
        } else if by_turn(&found[1]) < by_turn(&found[0]) {
            found[1]
        } else {
            found[0]
        };
        self.side = side.0;
        side.1.unwrap_or(wrapped(course_deg + side.0 * 120.0))
    }
}

impl Agent<Regatta> for Tacker {
    fn renew(&mut self, _person: &Person) -> bool {
        (self.beating, self.turned, self.side) = (None, 0, 0.0);
        true
    }

    fn choose(&mut self, sight: &Sight<'_, Regatta>) -> Result<Helm, GaveUp> {
        let view = sight.view();
        let course = self.course(&view);
        self.course_deg = self.kept_off(&view, course);
        Ok(sight.repair(&Helm { rudder: GAIN * self.course_deg }))
    }

    /// The course that it steers.
    fn believes(&self, sight: &Sight<'_, Regatta>, into: &mut Vec<Shape>) {
        steered(sight.seat(), &sight.view(), self.course_deg, into);
    }
}
