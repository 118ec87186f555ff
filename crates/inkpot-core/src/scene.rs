//! A scene: plain shapes in the game's own units, for whoever draws replays.

/// What a shape stands for; the one who draws picks the colour.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Paint {
    /// The ground, walls, shores.
    Ground,
    /// Something of a seat.
    Seat(usize),
    /// A warning or an event (a blade out, a touch).
    Signal,
    /// Lettering and marks.
    Ink,
}

/// One shape; x grows to the right and y upwards.
#[derive(Clone, Debug, PartialEq)]
#[expect(missing_docs, reason = "the fields are plain coordinates and sizes in the units of the scene")]
pub enum Shape {
    Line { from: [f64; 2], to: [f64; 2], width: f64, paint: Paint },
    Rectangle { low: [f64; 2], high: [f64; 2], paint: Paint },
    Circle { centre: [f64; 2], radius: f64, paint: Paint },
    Text { at: [f64; 2], text: String, paint: Paint },
}

/// All shapes of one tick and the window that shows them.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Scene {
    /// Lower left corner of the window.
    pub low: [f64; 2],
    /// Upper right corner of the window.
    pub high: [f64; 2],
    /// The shapes, in the order of drawing.
    pub shapes: Vec<Shape>,
}
