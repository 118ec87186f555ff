//! Learning curves: each repetition, and for each search the median with a band between the quartiles.

use crate::Drawing;
use crate::axis::Axis;
use crate::canvas::{Anchor, Canvas, Type};
use crate::frame::{BOTTOM, Estimate, HEIGHT, LABEL, PADDING, TOP, WIDTH, Words, framed, grouped, percent, short};
use crate::palette::{AXIS, CATEGORIES, GRID, INK, ORANGE, ORANGE_TEXT, SECOND};
use crate::repetitions::Repetitions;

/// Room for names at the ends of the lines, at most.
const NAMES: f64 = 250.0;
/// Labels stand this far apart.
const APART: f64 = 40.0;

/// Learning curves of searches over their cost.
#[derive(Clone, Debug, PartialEq)]
pub struct Learning {
    /// The words.
    pub words: Words,
    /// The unit of cost, for the axis.
    pub spent: String,
    /// The figure, for the axis.
    pub figure: String,
    /// Whether that is a share, drawn from 0 to 100 %.
    pub is_share: bool,
    /// The value that is wanted.
    pub target: Option<f64>,
    /// The searches; at most six are coloured.
    pub searches: Vec<LearningSearch>,
}

/// One search.
#[derive(Clone, Debug, PartialEq)]
pub struct LearningSearch {
    /// Its name.
    pub name: String,
    /// Each repetition: cost and figure, in order.
    pub repetitions: Vec<Vec<(f64, f64)>>,
    /// The figure of its proof.
    pub proved: Option<Estimate>,
    /// The word before it: `proved` of its champion, `mean` over its repetitions.
    pub proved_word: &'static str,
}

impl Learning {
    /// Draws it.
    pub fn draw(&self) -> Drawing {
        let mut canvas = framed(&self.words, HEIGHT);
        let (top, bottom) = (TOP + 20.0, HEIGHT - BOTTOM - 52.0);
        let room = self.room(&canvas);
        let (left, right) = (PADDING + 58.0, WIDTH - PADDING - room);
        let points = || self.searches.iter().flat_map(|search| search.repetitions.iter().flatten());
        let most = points().map(|point| point.0).fold(1.0, f64::max);
        let x = Axis::new((0.0, most), (left, right - 14.0));
        let y = Axis::round(self.range(), (bottom, top), 5);
        let label = Type::new(LABEL, SECOND);
        for (value, text) in y.ticks(5) {
            let text = if self.is_share { percent(value) } else { text };
            canvas.line((left, y.at(value)), (right, y.at(value)), GRID, 1.0);
            canvas.text((left - 12.0, y.at(value) + 5.0), &text, label, Anchor::End);
        }
        canvas.line((left, bottom), (right, bottom), AXIS, 1.0);
        for (spent, _) in x.ticks(6) {
            canvas.line((x.at(spent), bottom), (x.at(spent), bottom + 5.0), AXIS, 1.0);
            canvas.text((x.at(spent), bottom + 24.0), &grouped(spent), label, Anchor::Middle);
        }
        let bold = Type::new(LABEL, INK).bold();
        canvas.text((f64::midpoint(left, right), bottom + 50.0), &self.spent, bold, Anchor::Middle);
        canvas.text((PADDING, top - 24.0), &self.figure, bold, Anchor::Start);
        // No band covers the median of another search.
        let colour = |index: usize| CATEGORIES.get(index).map_or(AXIS, |(mark, _)| *mark);
        for (index, search) in self.searches.iter().enumerate().rev() {
            Repetitions(&search.repetitions).draw_spread(&mut canvas, &x, &y, colour(index));
        }
        for (index, search) in self.searches.iter().enumerate().rev() {
            Repetitions(&search.repetitions).draw_median(&mut canvas, &x, &y, colour(index), 2.6);
        }
        if let Some(target) = self.target {
            canvas.dashes((left, y.at(target)), (right, y.at(target)), ORANGE, 1.6, (6.0, 5.0));
            let text = format!("target {}", self.number_text(target));
            canvas.text((left + 8.0, y.at(target) - 7.0), &text, Type::new(13.5, ORANGE_TEXT), Anchor::Start);
        }
        self.names(&mut canvas, &y, right, room);
        canvas.finish()
    }

    fn range(&self) -> (f64, f64) {
        if self.is_share {
            return (0.0, 1.0);
        }
        let points = self.searches.iter().flat_map(|search| search.repetitions.iter().flatten()).map(|point| point.1);
        let proved = self.searches.iter().filter_map(|search| search.proved).flat_map(|proof| [proof.low, proof.high]);
        let all = points.chain(proved).chain(self.target);
        let (low, high) = all.fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), y| (low.min(y), high.max(y)));
        if low <= high { (low, high) } else { (0.0, 1.0) }
    }

    fn number_text(&self, value: f64) -> String {
        if self.is_share { percent(value) } else { short(value) }
    }

    /// Width of the widest label.
    fn room(&self, canvas: &Canvas) -> f64 {
        let kind = Type::new(LABEL, INK).bold();
        let each = self.searches.iter().flat_map(|search| [search.name.clone(), self.proved(search)]);
        each.map(|text| canvas.measure(&text, kind) + 34.0).fold(120.0, f64::max).min(NAMES)
    }

    fn proved(&self, search: &LearningSearch) -> String {
        let shown = |estimate: Estimate| {
            let fine = self.is_share && estimate.high - estimate.low < 0.02;
            let text = |x: f64| if fine { format!("{:.1} %", 100.0 * x) } else { self.number_text(x) };
            let [value, low, high] = [estimate.value, estimate.low, estimate.high].map(text);
            format!("{} {value} ({}-{high})", search.proved_word, low.trim_end_matches(" %"))
        };
        search.proved.map_or("not proved".into(), shown)
    }

    /// Draws the proof of each champion at the right, and the names of the searches, moved apart.
    fn names(&self, canvas: &mut Canvas, y: &Axis, right: f64, room: f64) {
        let place = |search: &LearningSearch| {
            let last = Repetitions(&search.repetitions).quartiles().last().map(|(_, quartiles)| quartiles[1]);
            search.proved.map(|proof| proof.value).or(last).map(|value| y.at(value))
        };
        let searches = self.searches.iter().take(CATEGORIES.len()).enumerate();
        let mut places: Vec<(f64, usize)> =
            searches.filter_map(|(index, search)| Some((place(search)?, index))).collect();
        places.sort_by(|a, b| a.0.total_cmp(&b.0));
        for index in 1..places.len() {
            places[index].0 = places[index].0.max(places[index - 1].0 + APART);
        }
        for (at, index) in places {
            let (search, (mark, text)) = (&self.searches[index], CATEGORIES[index]);
            if let Some(proof) = search.proved {
                canvas.line((right, y.at(proof.low)), (right, y.at(proof.high)), mark, 2.4);
                canvas.disc((right, y.at(proof.value)), 6.0, mark);
            }
            let name = canvas.fit(&search.name, Type::new(LABEL, text).bold(), room - 20.0);
            canvas.text((right + 16.0, at - 2.0), &name, Type::new(LABEL, text).bold(), Anchor::Start);
            let proved = canvas.fit(&self.proved(search), Type::new(13.5, text), room - 20.0);
            canvas.text((right + 16.0, at + 16.0), &proved, Type::new(13.5, text), Anchor::Start);
        }
    }
}
