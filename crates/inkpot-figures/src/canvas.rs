//! A surface to draw on in pixels with fractions, on top of the SVG backend.

use plotters::prelude::{FontStyle, IntoFont, RGBColor, SVGBackend, TextStyle};
use plotters::style::text_anchor::{HPos, Pos, VPos};
use plotters_backend::{BackendColor, BackendStyle, DrawingBackend, DrawingErrorKind};

use crate::drawing::{Drawing, Hotspot};
use crate::font::{self, FAMILY};
use crate::palette::Rgb;

/// The backend takes whole pixels only: it draws on a canvas this many times as large.
const FINE: f64 = 10.0;
/// The backend writes font sizes divided by this.
const FONT_FACTOR: f64 = 1.24;

/// The end of a text at its place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Anchor {
    Start,
    Middle,
    End,
}

/// Size, weight and colour of a text.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Type {
    pub(crate) size: f64,
    pub(crate) bold: bool,
    pub(crate) colour: Rgb,
}

impl Type {
    pub(crate) fn new(size: f64, colour: Rgb) -> Self {
        Self { size, bold: false, colour }
    }

    pub(crate) fn bold(self) -> Self {
        Self { bold: true, ..self }
    }
}

/// A surface under way.
pub(crate) struct Canvas {
    svg: String,
    width: f64,
    height: f64,
    marks: Vec<Mark>,
    spots: Vec<Hotspot>,
}

/// A drawn element.
enum Mark {
    Path { points: Vec<(f64, f64)>, colour: Rgb, width: f64 },
    Area { points: Vec<(f64, f64)>, colour: Rgb },
    Disc { at: (f64, f64), radius: f64, colour: Rgb },
    Text { at: (f64, f64), text: String, kind: Type, anchor: Anchor },
}

impl Canvas {
    pub(crate) fn new(width: f64, height: f64) -> Self {
        Self { svg: String::new(), width, height, marks: Vec::new(), spots: Vec::new() }
    }

    pub(crate) fn line(&mut self, from: (f64, f64), to: (f64, f64), colour: Rgb, width: f64) {
        self.path(vec![from, to], colour, width);
    }

    pub(crate) fn path(&mut self, points: Vec<(f64, f64)>, colour: Rgb, width: f64) {
        self.marks.push(Mark::Path { points, colour, width });
    }

    /// A line of dashes, `on` long with gaps of `off`.
    pub(crate) fn dashes(&mut self, from: (f64, f64), to: (f64, f64), colour: Rgb, width: f64, (on, off): (f64, f64)) {
        let (dx, dy) = (to.0 - from.0, to.1 - from.1);
        let length = dx.hypot(dy);
        let at = |along: f64| (from.0 + dx * along / length, from.1 + dy * along / length);
        let mut along = 0.0;
        while along < length {
            self.line(at(along), at((along + on).min(length)), colour, width);
            along += on + off;
        }
    }

    pub(crate) fn area(&mut self, points: Vec<(f64, f64)>, colour: Rgb) {
        self.marks.push(Mark::Area { points, colour });
    }

    pub(crate) fn rectangle(&mut self, low: (f64, f64), high: (f64, f64), colour: Rgb) {
        self.area(vec![low, (high.0, low.1), high, (low.0, high.1)], colour);
    }

    pub(crate) fn disc(&mut self, at: (f64, f64), radius: f64, colour: Rgb) {
        self.marks.push(Mark::Disc { at, radius, colour });
    }

    /// A text whose baseline starts, centres or ends at `at`.
    pub(crate) fn text(&mut self, at: (f64, f64), text: &str, kind: Type, anchor: Anchor) {
        self.marks.push(Mark::Text { at, text: font::drawable(text), kind, anchor });
    }

    /// A place that tells something when it is pointed at; places of one key belong together.
    pub(crate) fn hover(&mut self, low: (f64, f64), high: (f64, f64), key: &str, text: &str) {
        let (left, top) = (low.0.min(high.0), low.1.min(high.1));
        let (width, height) = ((high.0 - low.0).abs().max(6.0), (high.1 - low.1).abs().max(6.0));
        self.spots.push(Hotspot { left, top, width, height, key: key.into(), text: text.into() });
    }

    /// Width of a text in pixels.
    #[expect(clippy::unused_self, reason = "measuring belongs to the surface that is drawn on")]
    pub(crate) fn measure(&self, text: &str, kind: Type) -> f64 {
        font::width(text, kind.bold) * kind.size
    }

    /// The text cut with an ellipsis to fit into `width` pixels.
    pub(crate) fn fit(&self, text: &str, kind: Type, width: f64) -> String {
        if self.measure(text, kind) <= width {
            return text.to_string();
        }
        let mut short: Vec<char> = text.chars().collect();
        while short.pop().is_some() {
            let cut: String = short.iter().collect::<String>().trim_end().to_string() + "…";
            if self.measure(&cut, kind) <= width {
                return cut;
            }
        }
        String::new()
    }

    /// The finished figure.
    pub(crate) fn finish(mut self) -> Drawing {
        let size = (fine(self.width) as u32, fine(self.height) as u32);
        {
            let mut backend = SVGBackend::with_string(&mut self.svg, size);
            let white = BackendStyleOf { colour: (255, 255, 255), width: 1 };
            let corner = (size.0.cast_signed(), size.1.cast_signed());
            let mut drawn = backend.draw_rect((0, 0), corner, &white, true);
            for mark in &self.marks {
                drawn = drawn.and_then(|()| draw(&mut backend, mark));
            }
            // Writing into a string does not fail.
            let _ = drawn.and_then(|()| backend.present());
        }
        // The backend sets text by a fraction of its size above the place; the place is meant to be the baseline.
        let svg = self.svg.replace("dy=\"-0.5ex\"", "dy=\"0\"").replace(
            &format!("width=\"{}\" height=\"{}\" viewBox", size.0, size.1),
            &format!("width=\"{}\" height=\"{}\" viewBox", self.width, self.height),
        );
        Drawing::new(
            svg.replace(&format!("font-family=\"{FAMILY}\""), &format!("font-family=\"{FAMILY}, sans-serif\"")),
            self.spots,
        )
    }
}

fn draw(backend: &mut SVGBackend, mark: &Mark) -> Result<(), DrawingErrorKind<std::io::Error>> {
    let whole = |at: (f64, f64)| (fine(at.0), fine(at.1));
    match mark {
        Mark::Path { points, colour, width } => {
            let style = BackendStyleOf { colour: *colour, width: fine(*width).max(1) as u32 };
            backend.draw_path(points.iter().copied().map(whole), &style)
        }
        Mark::Area { points, colour } => {
            backend.fill_polygon(points.iter().copied().map(whole), &BackendStyleOf { colour: *colour, width: 0 })
        }
        Mark::Disc { at, radius, colour } => {
            backend.draw_circle(whole(*at), fine(*radius) as u32, &BackendStyleOf { colour: *colour, width: 0 }, true)
        }
        Mark::Text { at, text, kind, anchor } => {
            let hpos = match anchor {
                Anchor::Start => HPos::Left,
                Anchor::Middle => HPos::Center,
                Anchor::End => HPos::Right,
            };
            let colour = RGBColor(kind.colour.0, kind.colour.1, kind.colour.2);
            let style = TextStyle::from(typeface(*kind)).color(&colour).pos(Pos::new(hpos, VPos::Bottom));
            backend.draw_text(text, &style, whole(*at))
        }
    }
}

fn typeface(kind: Type) -> plotters::prelude::FontDesc<'static> {
    let style = if kind.bold { FontStyle::Bold } else { FontStyle::Normal };
    (FAMILY, kind.size * FINE * FONT_FACTOR).into_font().style(style)
}

fn fine(x: f64) -> i32 {
    (x * FINE).round() as i32
}

/// One colour and width, as the backend asks for it.
struct BackendStyleOf {
    colour: Rgb,
    width: u32,
}

impl BackendStyle for BackendStyleOf {
    fn color(&self) -> BackendColor {
        BackendColor { alpha: 1.0, rgb: self.colour }
    }

    fn stroke_width(&self) -> u32 {
        self.width
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::palette::INK;

    #[test]
    fn bold_is_wider_and_both_weights_measure() {
        let canvas = Canvas::new(100.0, 100.0);
        let plain = canvas.measure("Win rate 55 %", Type::new(15.0, INK));
        let bold = canvas.measure("Win rate 55 %", Type::new(15.0, INK).bold());
        assert!(plain > 60.0 && bold > plain, "{plain} {bold}");
    }

    #[test]
    fn long_names_are_cut_to_fit() {
        let canvas = Canvas::new(100.0, 100.0);
        let kind = Type::new(15.0, INK);
        let cut = canvas.fit("an entrant with a very long name indeed", kind, 120.0);
        assert!(cut.ends_with('…') && canvas.measure(&cut, kind) <= 120.0, "{cut}");
        assert_eq!(canvas.fit("short", kind, 120.0), "short");
    }
}
