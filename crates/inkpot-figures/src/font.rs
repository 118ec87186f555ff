//! The bundled font: for measuring, and for rendering PNG.

use std::sync::{Arc, OnceLock};

use ab_glyph::{Font, FontRef};
use resvg::usvg::fontdb;

/// Name of the family in SVG.
pub(crate) const FAMILY: &str = "Inkpot Sans";
const REGULAR: &[u8] = include_bytes!("../fonts/inkpot-sans-400.otf");
const BOLD: &[u8] = include_bytes!("../fonts/inkpot-sans-600.otf");

/// The text with `?` for every character that the font does not have, which would come out as an empty box.
pub(crate) fn drawable(text: &str) -> String {
    let known = |c: &char| font(false).is_none_or(|font| font.glyph_id(*c).0 != 0);
    text.chars().map(|c| if known(&c) { c } else { '?' }).collect()
}

/// Width of a text at one pixel a font size, kerning left out: a share of a percent too wide rather than too narrow.
pub(crate) fn width(text: &str, bold: bool) -> f64 {
    font(bold).map_or(0.6 * text.chars().count() as f64, |font| {
        let em = f64::from(font.units_per_em().unwrap_or(1.0));
        text.chars().map(|c| f64::from(font.h_advance_unscaled(font.glyph_id(c))) / em).sum()
    })
}

/// Both files are part of the program and valid, as a test shows.
fn font(bold: bool) -> Option<&'static FontRef<'static>> {
    static FONTS: OnceLock<[Option<FontRef<'static>>; 2]> = OnceLock::new();
    let fonts = FONTS.get_or_init(|| [REGULAR, BOLD].map(|bytes| FontRef::try_from_slice(bytes).ok()));
    fonts[usize::from(bold)].as_ref()
}

/// The fonts that PNG is rendered with: the bundled ones and no other.
pub(crate) fn database() -> Arc<fontdb::Database> {
    static BASE: OnceLock<Arc<fontdb::Database>> = OnceLock::new();
    BASE.get_or_init(|| {
        let mut base = fontdb::Database::new();
        base.load_font_data(REGULAR.to_vec());
        base.load_font_data(BOLD.to_vec());
        base.set_sans_serif_family(FAMILY);
        Arc::new(base)
    })
    .clone()
}
