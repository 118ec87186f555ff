//! Colours: safe for colour-blind eyes, text dark enough on white.

/// A colour as red, green, blue.
pub(crate) type Rgb = (u8, u8, u8);

pub(crate) const INK: Rgb = (0x17, 0x20, 0x2B);
pub(crate) const SECOND: Rgb = (0x4A, 0x55, 0x65);
pub(crate) const CAPTION: Rgb = (0x66, 0x71, 0x82);
pub(crate) const AXIS: Rgb = (0x8D, 0x97, 0xA5);
pub(crate) const GRID: Rgb = (0xE7, 0xEA, 0xEF);
pub(crate) const PAPER: Rgb = (0xFF, 0xFF, 0xFF);
pub(crate) const INDIGO: Rgb = (0x28, 0x34, 0x8F);
pub(crate) const ORANGE: Rgb = (0xD9, 0x73, 0x0F);
pub(crate) const ORANGE_TEXT: Rgb = (0xA9, 0x56, 0x0A);

/// Six categories, as mark and as text.
pub(crate) const CATEGORIES: [(Rgb, Rgb); 6] = [
    (INDIGO, INDIGO),
    (ORANGE, ORANGE_TEXT),
    ((0x12, 0x79, 0x6D), (0x12, 0x79, 0x6D)),
    ((0x8E, 0x43, 0xBE), (0x8E, 0x43, 0xBE)),
    ((0x66, 0x38, 0x03), (0x66, 0x38, 0x03)),
    ((0x31, 0x9C, 0xD4), (0x1D, 0x73, 0xA3)),
];

/// Around one half: where each colour stands, and the colour.
const DIVERGING: [(f64, Rgb); 7] = [
    (0.0, (0x8F, 0x3D, 0x08)),
    (0.22, (0xD9, 0x73, 0x0F)),
    (0.40, (0xF5, 0xCD, 0xA3)),
    (0.50, (0xF5, 0xF5, 0xF3)),
    (0.60, (0xC3, 0xCE, 0xEC)),
    (0.78, (0x5C, 0x71, 0xC6)),
    (1.0, (0x28, 0x34, 0x8F)),
];

/// The colour of a rate, pale at one half.
pub(crate) fn diverging(rate: f64) -> Rgb {
    let rate = rate.clamp(0.0, 1.0);
    let right = DIVERGING.iter().position(|(at, _)| *at >= rate).unwrap_or(DIVERGING.len() - 1).max(1);
    let ((low, from), (high, to)) = (DIVERGING[right - 1], DIVERGING[right]);
    let part = (rate - low) / (high - low);
    let mix = |a: u8, b: u8| (f64::from(a) + part * (f64::from(b) - f64::from(a))).round() as u8;
    (mix(from.0, to.0), mix(from.1, to.1), mix(from.2, to.2))
}

/// Ink or paper, whichever reads better on a colour (relative luminance as in WCAG 2).
pub(crate) fn on(colour: Rgb) -> Rgb {
    let linear = |channel: u8| {
        let c = f64::from(channel) / 255.0;
        if c <= 0.040_45 { c / 12.92 } else { ((c + 0.055) / 1.055).powf(2.4) }
    };
    let luminance = 0.2126 * linear(colour.0) + 0.7152 * linear(colour.1) + 0.0722 * linear(colour.2);
    if luminance > 0.22 { INK } else { PAPER }
}

/// A colour mixed with white, `share` of the colour.
pub(crate) fn tint(colour: Rgb, share: f64) -> Rgb {
    let mix = |c: u8| (255.0 - share * (255.0 - f64::from(c))).round() as u8;
    (mix(colour.0), mix(colour.1), mix(colour.2))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_scale_runs_through_its_stops() {
        for (at, colour) in DIVERGING {
            assert_eq!(diverging(at), colour);
        }
        assert_eq!((on(diverging(0.5)), on(diverging(1.0))), (INK, PAPER));
    }
}
