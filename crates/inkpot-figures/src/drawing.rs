//! A finished figure, as SVG or PNG.

use resvg::{tiny_skia, usvg};
use thiserror::Error;

use crate::font::database;

/// A finished figure.
#[derive(Clone, Debug, PartialEq)]
pub struct Drawing {
    svg: String,
    spots: Vec<Hotspot>,
}

/// A place of a figure that tells something when it is pointed at, in units of the SVG.
#[derive(Clone, Debug, PartialEq)]
#[expect(missing_docs, reason = "where it is")]
pub struct Hotspot {
    pub left: f64,
    pub top: f64,
    pub width: f64,
    pub height: f64,
    /// Whom it is about; spots of one key belong together.
    pub key: String,
    /// The text of the spot.
    pub text: String,
}

/// An error: the figure could not be rendered.
#[derive(Debug, Error)]
pub enum DrawingError {
    /// The SVG was not understood, or the picture does not fit into memory.
    #[error("the figure could not be rendered: {0}")]
    Render(String),
}

impl Drawing {
    pub(crate) fn new(svg: String, spots: Vec<Hotspot>) -> Self {
        Self { svg, spots }
    }

    /// The places that tell something.
    pub fn spots(&self) -> &[Hotspot] {
        &self.spots
    }

    /// Returns the figure as SVG, 1280 wide.
    pub fn svg(&self) -> &str {
        &self.svg
    }

    /// Renders the SVG as PNG at `scale` pixels a unit.
    pub fn png(&self, scale: f32) -> Result<Vec<u8>, DrawingError> {
        let failed = |what: String| DrawingError::Render(what);
        let options = usvg::Options { fontdb: database(), ..usvg::Options::default() };
        let tree = usvg::Tree::from_str(&self.svg, &options).map_err(|error| failed(error.to_string()))?;
        let size = tree.size();
        let (width, height) = ((size.width() * scale).round() as u32, (size.height() * scale).round() as u32);
        let mut picture =
            tiny_skia::Pixmap::new(width, height).ok_or_else(|| failed(format!("{width} x {height} pixels")))?;
        resvg::render(&tree, tiny_skia::Transform::from_scale(scale, scale), &mut picture.as_mut());
        encoded(&picture).map_err(|error| failed(error.to_string()))
    }
}

/// Encodes a picture as PNG without transparency, since figures have a ground. The fastest compression packs flat areas
/// well.
fn encoded(picture: &tiny_skia::Pixmap) -> Result<Vec<u8>, png::EncodingError> {
    let colours: Vec<u8> = picture.data().chunks_exact(4).flat_map(|pixel| [pixel[0], pixel[1], pixel[2]]).collect();
    let mut bytes = Vec::new();
    let mut encoder = png::Encoder::new(&mut bytes, picture.width(), picture.height());
    encoder.set_color(png::ColorType::Rgb);
    encoder.set_compression(png::Compression::Fast);
    encoder.write_header()?.write_image_data(&colours)?;
    Ok(bytes)
}
