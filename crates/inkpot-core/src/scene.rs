//! A scene: plain shapes in the game's units.

/// The role of a shape, from which a drawing derives its colour.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Paint {
    /// The ground, walls, shores.
    Ground,
    /// The faintest: grids, scales, numbers of places.
    Faint,
    /// Something of a seat.
    Seat(usize),
    /// A warning or an event (a blade out, a touch).
    Signal,
    /// Lettering and marks.
    Ink,
}

/// One shape; x grows to the right and y upwards.
#[derive(Clone, Debug, PartialEq)]
#[expect(
    missing_docs,
    reason = "the fields are plain coordinates and sizes in the units of the scene; the size of a text is the height of its letters"
)]
pub enum Shape {
    /// A stroke.
    Line { from: [f64; 2], to: [f64; 2], width: f64, paint: Paint },
    /// A filled rectangle.
    Rectangle { low: [f64; 2], high: [f64; 2], paint: Paint },
    /// A filled circle.
    Circle { centre: [f64; 2], radius: f64, paint: Paint },
    /// The edge of a circle.
    Ring { centre: [f64; 2], radius: f64, paint: Paint },
    /// A filled area with these corners.
    Area { corners: Vec<[f64; 2]>, paint: Paint },
    /// Letters around a place.
    Text { at: [f64; 2], text: String, size: f64, paint: Paint },
}

impl Shape {
    /// Its coordinates and sizes, in the order of its fields.
    pub fn numbers(&self) -> Vec<f64> {
        match self {
            Self::Line { from, to, width, .. } => vec![from[0], from[1], to[0], to[1], *width],
            Self::Rectangle { low, high, .. } => vec![low[0], low[1], high[0], high[1]],
            Self::Circle { centre, radius, .. } | Self::Ring { centre, radius, .. } => {
                vec![centre[0], centre[1], *radius]
            }
            Self::Area { corners, .. } => corners.iter().flatten().copied().collect(),
            Self::Text { at, size, .. } => vec![at[0], at[1], *size],
        }
    }
}

/// All shapes of one tick and the window that shows them.
///
/// Where the same thing keeps its place among the shapes from tick to tick, with shapes of the same kinds before it,
/// those who draw can follow it; a replay takes far less room then.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Scene {
    /// Lower left corner of the window.
    pub low: [f64; 2],
    /// Upper right corner of the window.
    pub high: [f64; 2],
    /// The shapes, in the order of drawing.
    pub shapes: Vec<Shape>,
}
