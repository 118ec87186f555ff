//! The common frame of all figures: title, subtitle, caption, and a figure with its interval.

use crate::canvas::{Anchor, Canvas, Type};
use crate::palette::{CAPTION, INK, SECOND};

/// Width of every figure.
pub(crate) const WIDTH: f64 = 1280.0;
/// Height of most figures.
pub(crate) const HEIGHT: f64 = 800.0;
/// Room around the drawing.
pub(crate) const PADDING: f64 = 56.0;
/// Size of labels.
pub(crate) const LABEL: f64 = 15.0;

/// The words of a figure.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Words {
    /// The finding, in a sentence.
    pub title: String,
    /// The subtitle: the figure, and from how many matches.
    pub subtitle: String,
    /// Method, interval, seed, study.
    pub caption: String,
}

/// A figure with the ends of its interval.
#[derive(Clone, Copy, Debug, PartialEq)]
#[expect(missing_docs, reason = "value, lower end, upper end")]
pub struct Estimate {
    pub value: f64,
    pub low: f64,
    pub high: f64,
}

impl Estimate {
    /// Whether the interval leaves out `x`.
    pub(crate) fn clear_of(&self, x: f64) -> bool {
        x < self.low || x > self.high
    }
}

/// A canvas with its words; drawing may go from `TOP` to `height - BOTTOM`.
pub(crate) fn framed(words: &Words, height: f64) -> Canvas {
    framed_in(words, (WIDTH, height))
}

/// The same, wider than most.
pub(crate) fn framed_in(words: &Words, (width, height): (f64, f64)) -> Canvas {
    let mut canvas = Canvas::new(width, height);
    let room = width - 2.0 * PADDING;
    let mut size = 28.0;
    while size > 20.0 && canvas.measure(&words.title, Type::new(size, INK).bold()) > room {
        size -= 1.0;
    }
    let lines = [
        (&words.title, Type::new(size, INK).bold(), PADDING + 15.0),
        (&words.subtitle, Type::new(17.0, SECOND), PADDING + 44.0),
        (&words.caption, Type::new(13.5, CAPTION), height - 28.0),
    ];
    for (text, kind, y) in lines {
        let text = canvas.fit(text, kind, room);
        canvas.text((PADDING, y), &text, kind, Anchor::Start);
    }
    canvas
}

/// The top of the drawing area, below the titles.
pub(crate) const TOP: f64 = 146.0;
/// Room kept free above the lower edge.
pub(crate) const BOTTOM: f64 = 76.0;

/// A share as text: `55%`.
pub(crate) fn percent(share: f64) -> String {
    format!("{:.0} %", share * 100.0)
}

/// A whole number; nothing below 0 that is not one below it.
pub(crate) fn whole(x: f64) -> String {
    format!("{:.0}", x.round() + 0.0)
}

/// A whole number with its thousands set apart.
pub(crate) fn grouped(x: f64) -> String {
    let digits = whole(x);
    let mut text = String::new();
    for (place, digit) in digits.chars().enumerate() {
        if place > 0 && (digits.len() - place).is_multiple_of(3) {
            text.push(',');
        }
        text.push(digit);
    }
    text
}

/// A whole number with its sign; 0 has none.
pub(crate) fn signed(x: f64) -> String {
    let x = x.round();
    if x == 0.0 { "0".into() } else { format!("{x:+}") }
}

/// A number with about three digits that mean something.
pub(crate) fn short(x: f64) -> String {
    let places = if x.abs() >= 100.0 {
        0
    } else if x.abs() >= 10.0 {
        1
    } else {
        2
    };
    format!("{x:.places$}")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn thousands_are_set_apart() {
        assert_eq!((grouped(60_000.0), grouped(500.0)), ("60,000".into(), "500".into()));
    }
}
