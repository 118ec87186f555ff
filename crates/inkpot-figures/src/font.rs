//! The bundled font: registered once for measuring, handed to the renderer for PNG.

use std::sync::{Arc, OnceLock};

use plotters::style::{FontStyle, register_font};
use resvg::usvg::fontdb;

/// Name of the family in SVG.
pub(crate) const FAMILY: &str = "Inkpot Sans";
const REGULAR: &[u8] = include_bytes!("../fonts/inkpot-sans-400.otf");
const BOLD: &[u8] = include_bytes!("../fonts/inkpot-sans-600.otf");

/// Registers the font for measuring; cheap after the first call.
pub(crate) fn register() {
    static ONCE: OnceLock<()> = OnceLock::new();
    ONCE.get_or_init(|| {
        // Both files are part of the program and are valid fonts; a test measures with each.
        let _ = register_font(FAMILY, FontStyle::Normal, REGULAR);
        let _ = register_font(FAMILY, FontStyle::Bold, BOLD);
    });
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
