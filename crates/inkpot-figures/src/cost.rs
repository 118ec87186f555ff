//! Strength against cost: states advanced, or time a decision.

use crate::Drawing;
use crate::axis::Axis;
use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, Estimate, HEIGHT, LABEL, PADDING, TOP, WIDTH, Words, framed, percent};
use crate::palette::{AXIS, GRID, INDIGO, INK, ORANGE, ORANGE_TEXT, SECOND, tint};

/// Fields up to this size have all their names written.
const ALL_NAMED: usize = 24;
/// Names written in larger ones.
const NAMED: usize = 10;

/// Win rates or ratings over the cost of a decision, on a logarithmic axis.
#[derive(Clone, Debug, PartialEq)]
pub struct Cost {
    /// Title, subtitle, caption.
    pub words: Words,
    /// The unit of strength.
    pub strength: Strength,
    /// The unit of cost.
    pub of: CostOf,
    /// The agents, or the points of a sweep.
    pub marks: Vec<CostMark>,
    /// Whether the marks are points of one knob, to be joined in their order.
    pub joined: bool,
    /// The game's time a decision, in microseconds; none if cost is in states.
    pub frame_us: Option<f64>,
}

/// The unit of cost.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum CostOf {
    /// States advanced a decision.
    States,
    /// Microseconds a decision.
    Time,
}

impl CostOf {
    fn axis(self, large: bool) -> &'static str {
        match self {
            Self::States => "States advanced a decision",
            Self::Time if large => "Median time of a decision",
            Self::Time => "Time of a decision: median, and to the right the time that 99 of 100 stay within",
        }
    }

    fn said(self, x: f64) -> String {
        match self {
            Self::States => states(x),
            Self::Time => time(x),
        }
    }
}

/// The unit of strength.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Strength {
    /// Win rates, 0 to 1.
    WinRate,
    /// Rating points.
    Rating,
}

impl Strength {
    fn name(self) -> &'static str {
        match self {
            Self::WinRate => "Win rate",
            Self::Rating => "Rating",
        }
    }

    fn even(self) -> f64 {
        match self {
            Self::WinRate => 0.5,
            Self::Rating => 0.0,
        }
    }
}

/// One agent or point.
#[derive(Clone, Debug, PartialEq)]
pub struct CostMark {
    /// Its name.
    pub name: String,
    /// Its win rate or rating.
    pub rate: Estimate,
    /// The cost of a decision, above 0; none if it looks at nothing.
    pub cost: Option<f64>,
    /// The cost that 99 of 100 decisions stay within.
    pub most: Option<f64>,
}

impl Cost {
    /// Draws it.
    pub fn draw(&self) -> Drawing {
        let mut canvas = framed(&self.words, HEIGHT);
        let (top, bottom) = (TOP + 24.0, HEIGHT - BOTTOM - 56.0);
        let rates = self.rates((bottom, top));
        let costs = self.costs();
        let label = Type::new(LABEL, SECOND);
        for (y, text) in rates.ticks(5) {
            let text = if self.strength == Strength::WinRate { percent(y) } else { text };
            canvas.line((PADDING + 56.0, rates.at(y)), (WIDTH - PADDING, rates.at(y)), GRID, 1.0);
            canvas.text((PADDING + 44.0, rates.at(y) + 5.0), &text, label, Anchor::End);
        }
        for (x, text) in costs.ticks(self.of) {
            canvas.line((costs.at(x), bottom), (costs.at(x), bottom + 6.0), AXIS, 1.0);
            canvas.text((costs.at(x), bottom + 26.0), &text, label, Anchor::Middle);
        }
        canvas.line((PADDING + 56.0, bottom), (WIDTH - PADDING, bottom), AXIS, 1.0);
        let middle = (PADDING + 56.0).midpoint(WIDTH - PADDING);
        canvas.text(
            (middle, bottom + 52.0),
            self.of.axis(self.is_large()),
            Type::new(LABEL, INK).bold(),
            Anchor::Middle,
        );
        canvas.text((PADDING, top - 24.0), self.strength.name(), Type::new(LABEL, INK).bold(), Anchor::Start);
        if let Some(frame) = self.frame_us {
            canvas.dashes((costs.at(Some(frame)), top), (costs.at(Some(frame)), bottom), ORANGE, 1.5, (6.0, 5.0));
            let text = format!("a frame: {}", time(frame));
            let kind = Type::new(LABEL, ORANGE_TEXT).bold();
            let (x, anchor) =
                if costs.at(Some(frame)) > WIDTH - 240.0 { (-8.0, Anchor::End) } else { (8.0, Anchor::Start) };
            canvas.text((costs.at(Some(frame)) + x, bottom - 10.0), &text, kind, anchor);
        }
        if self.joined {
            let points = self.marks.iter().map(|mark| (costs.at(mark.cost), rates.at(mark.rate.value)));
            canvas.path(points.collect(), tint(INDIGO, 0.3), 2.0);
        }
        for mark in &self.marks {
            let even = self.strength.even();
            let most = mark.most.filter(|_| !self.is_large());
            CostMark { most, ..mark.clone() }.draw(&mut canvas, &costs, &rates, even);
        }
        self.names(&mut canvas, &costs, &rates);
        canvas.finish()
    }

    fn costs(&self) -> LogAxis {
        let all = || {
            let marks = self.marks.iter().flat_map(|mark| [mark.cost, mark.most]);
            marks.flatten().chain(self.frame_us).filter(|cost| *cost > 0.0)
        };
        let (low, high) = (all().fold(f64::INFINITY, f64::min), all().fold(0.0, f64::max));
        let none = self.marks.iter().any(|mark| mark.cost.is_none()).then_some(PADDING + 96.0);
        let left = if none.is_some() { PADDING + 196.0 } else { PADDING + 76.0 };
        LogAxis::new((low.min(high), high), (left, WIDTH - PADDING - 60.0), none)
    }

    fn rates(&self, pixels: (f64, f64)) -> Axis {
        if self.strength == Strength::WinRate {
            return Axis::new((0.0, 1.0), pixels);
        }
        let ends = || self.marks.iter().flat_map(|mark| [mark.rate.low, mark.rate.high]).chain([0.0]);
        Axis::round((ends().fold(f64::INFINITY, f64::min), ends().fold(f64::NEG_INFINITY, f64::max)), pixels, 6)
    }

    /// Whether this is a field too large for every mark to have its name and its slow decisions drawn.
    fn is_large(&self) -> bool {
        self.marks.len() > ALL_NAMED
    }

    /// The marks with a name: in a large field the strongest of those that nobody beats at less cost.
    fn named(&self) -> Vec<&CostMark> {
        let beaten = |mark: &CostMark| {
            let better = |other: &CostMark| {
                other.cost.unwrap_or(0.0) <= mark.cost.unwrap_or(0.0) && other.rate.value > mark.rate.value
            };
            self.marks.iter().any(better)
        };
        let mut named: Vec<&CostMark> = self.marks.iter().filter(|mark| !self.is_large() || !beaten(mark)).collect();
        if self.is_large() {
            named.sort_by(|a, b| b.rate.value.total_cmp(&a.rate.value));
            named.truncate(NAMED);
        }
        named
    }

    /// Names beside their marks, moved apart where they would collide.
    fn names(&self, canvas: &mut Canvas, costs: &LogAxis, rates: &Axis) {
        let kind = Type::new(LABEL, INK).bold();
        let mut taken: Vec<[f64; 4]> = self.marks.iter().map(|mark| mark.room(costs, rates)).collect();
        taken
            .extend(self.frame_us.map(|frame| [costs.at(Some(frame)) - 2.0, 0.0, costs.at(Some(frame)) + 2.0, HEIGHT]));
        for mark in self.named() {
            let name = canvas.fit(&mark.name, kind, 220.0);
            let width = canvas.measure(&name, kind);
            let (at, y) = (costs.at(mark.cost), rates.at(mark.rate.value));
            let room = |x: f64, y: f64| [x, y - 14.0, x + width, y + 4.0];
            let free = |&(x, y): &(f64, f64)| {
                let space = room(x, y);
                let apart = |other: &[f64; 4]| {
                    space[0] > other[2] || space[2] < other[0] || space[1] > other[3] || space[3] < other[1]
                };
                let inside = x > PADDING && x + width < WIDTH - PADDING && y > TOP && y < HEIGHT - BOTTOM - 60.0;
                inside && taken.iter().all(apart)
            };
            // Above first, then below, to the right and to the left, ever further off.
            let sides = [at + 12.0, at - 12.0 - width];
            let steps = (0..24).map(|step| f64::from(step) * 6.0);
            let places =
                steps.flat_map(|step| sides.map(|x| [(x, y - 8.0 - step), (x, y + 20.0 + step)]).into_iter().flatten());
            let (x, y) = places.into_iter().find(free).unwrap_or((sides[0].min(WIDTH - PADDING - width), y - 8.0));
            taken.push(room(x, y));
            canvas.text((x, y), &name, kind, Anchor::Start);
        }
    }
}

impl CostMark {
    /// Returns the box of its dot and interval.
    fn room(&self, costs: &LogAxis, rates: &Axis) -> [f64; 4] {
        let (x, y) = (costs.at(self.cost), rates.at(self.rate.value));
        [x - 7.0, rates.at(self.rate.high).min(y - 7.0), x + 7.0, rates.at(self.rate.low).max(y + 7.0)]
    }

    fn draw(&self, canvas: &mut Canvas, costs: &LogAxis, rates: &Axis, even: f64) {
        let at = (costs.at(self.cost), rates.at(self.rate.value));
        let colour = if self.rate.clear_of(even) { INDIGO } else { tint(INDIGO, 0.45) };
        canvas.line((at.0, rates.at(self.rate.low)), (at.0, rates.at(self.rate.high)), tint(colour, 0.55), 4.0);
        if let Some(most) = self.most.filter(|most| self.cost.is_some_and(|cost| *most > cost)) {
            let end = costs.at(Some(most));
            canvas.line(at, (end, at.1), AXIS, 1.5);
            canvas.line((end, at.1 - 5.0), (end, at.1 + 5.0), AXIS, 1.5);
        }
        canvas.disc(at, 6.5, colour);
    }
}

/// A logarithmic axis of costs, from one decade to another, with a place before it for zero cost.
struct LogAxis {
    axis: Axis,
    decades: (i32, i32),
    none: Option<f64>,
}

impl LogAxis {
    fn new((low, high): (f64, f64), pixels: (f64, f64), none: Option<f64>) -> Self {
        let first = if low.is_finite() && low > 0.0 { low.log10().floor() as i32 } else { 0 };
        let last = (high.max(1e-3).log10().ceil() as i32).max(first + 1);
        Self { axis: Axis::new((f64::from(first), f64::from(last)), pixels), decades: (first, last), none }
    }

    fn at(&self, cost: Option<f64>) -> f64 {
        let least = self.none.unwrap_or_else(|| self.axis.at(f64::from(self.decades.0)));
        cost.map_or(least, |cost| self.axis.at(cost.max(1e-9).log10()))
    }

    fn ticks(&self, of: CostOf) -> Vec<(Option<f64>, String)> {
        let decades = (self.decades.0..=self.decades.1).map(|decade| 10f64.powi(decade));
        let none = self.none.map(|_| (None, "none".to_string()));
        none.into_iter().chain(decades.map(|cost| (Some(cost), of.said(cost)))).collect()
    }
}

/// A power of ten of states, in digits up to a million.
fn states(x: f64) -> String {
    match x {
        x if x < 1e3 => format!("{x}"),
        x if x < 1e6 => format!("{},000", x / 1e3),
        x => format!("{} million", x / 1e6),
    }
}

/// A time in the unit that suits it.
fn time(us: f64) -> String {
    let (value, unit) = match us {
        us if us < 1000.0 => (us, "µs"),
        us if us < 1e6 => (us / 1e3, "ms"),
        us => (us / 1e6, "s"),
    };
    format!("{} {unit}", (value * 100.0).round() / 100.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_axis_covers_whole_decades_and_tells_them_in_fitting_units() {
        let axis = LogAxis::new((30.0, 21_000.0), (0.0, 400.0), None);
        let ticks = |axis: &LogAxis, of| axis.ticks(of).into_iter().map(|(_, text)| text).collect::<Vec<_>>();
        assert_eq!(ticks(&axis, CostOf::Time), ["10 µs", "100 µs", "1 ms", "10 ms", "100 ms"]);
        assert_eq!((axis.at(Some(10.0)), axis.at(Some(1e5))), (0.0, 400.0));
        let axis = LogAxis::new((300.0, 2e6), (100.0, 400.0), Some(20.0));
        let labels = ["none", "100", "1,000", "10,000", "100,000", "1 million", "10 million"];
        assert_eq!(ticks(&axis, CostOf::States), labels);
        assert_eq!((axis.at(None), axis.at(Some(100.0))), (20.0, 100.0));
    }
}
