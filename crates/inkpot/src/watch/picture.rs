//! A match as a small picture: the game's scene in dots, or its position as text.

use inkpot_core::{GameEntry, HeldMatch, Paint, Scene, Setting, Shape, Spot};
use ratatui::Frame;
use ratatui::layout::Rect;
use ratatui::style::{Color, Style};
use ratatui::symbols::Marker;
use ratatui::widgets::canvas::{Canvas, Circle, Context, Line, Rectangle};
use ratatui::widgets::{Block, Paragraph};

/// How many times faster than it is a match in real time is shown.
const FASTER: f64 = 4.0;
/// Frames for which a turn, or the end of a match, stays.
const TURN: u32 = 4;
const END: u32 = 15;

/// A match that is shown.
pub(super) struct Picture {
    held: Box<dyn HeldMatch>,
    ticks_per_second: Option<f64>,
    /// Ticks that are due, as far as time has gone.
    due: f64,
    /// Frames since the last turn, or since the end.
    waited: u32,
    over: bool,
}

impl Picture {
    /// A match at its start; none where its setting cannot be staged.
    pub(super) fn of(game: &dyn GameEntry, setting: &Setting, block: u64) -> Option<Self> {
        let stage = game.stage(setting).ok()?;
        let held = stage.open(Spot { cell: 0, block, rotation: 0, match_index: 0, leads: false });
        Some(Self { held, ticks_per_second: game.sheet().ticks_per_second, due: 0.0, waited: 0, over: false })
    }

    /// Goes on by one frame, of the seconds given. Gives whether there is more to see.
    pub(super) fn step(&mut self, seconds: f64) -> bool {
        self.waited += 1;
        if self.over {
            return self.waited < END;
        }
        self.due += match self.ticks_per_second {
            Some(rate) => FASTER * seconds * rate,
            None if self.waited.is_multiple_of(TURN) => 1.0,
            None => 0.0,
        };
        while self.due >= 1.0 && !self.over {
            self.due -= 1.0;
            self.over = !self.held.turn();
        }
        if self.over {
            self.waited = 0;
        }
        true
    }

    pub(super) fn draw(&self, frame: &mut Frame, area: Rect, color: bool, marker: Marker) {
        let scores: Vec<String> = self.held.scores().iter().map(|score| format!("{score}")).collect();
        let when = match self.ticks_per_second {
            Some(rate) => format!("{:.1} s", self.held.tick() as f64 / rate),
            None => format!("turn {}", self.held.tick()),
        };
        let over = if self.over { ", over" } else { "" };
        let title = format!(" its latest match: {when}, score {}{over} ", scores.join(" to "));
        let block = Block::bordered().title(title);
        let Some(scene) = self.held.scene() else {
            let text = self.held.note().unwrap_or_else(|| "this game draws no picture of its states".into());
            frame.render_widget(Paragraph::new(text).block(block), area);
            return;
        };
        let (x, y) = bounds(&scene, block.inner(area));
        let canvas = Canvas::default().block(block).marker(marker).x_bounds(x).y_bounds(y);
        frame.render_widget(canvas.paint(|context| painted(&scene, context, color)), area);
    }
}

/// The window of a scene, opened so that its units are as long upwards as across: a cell is about twice as high as wide.
fn bounds(scene: &Scene, room: Rect) -> ([f64; 2], [f64; 2]) {
    let cells = [f64::from(room.width.max(1)), 2.0 * f64::from(room.height.max(1))];
    let size = [0, 1].map(|axis| (scene.high[axis] - scene.low[axis]).max(1e-9));
    let unit = (size[0] / cells[0]).max(size[1] / cells[1]);
    let around = |axis: usize| {
        let (middle, half) = (f64::midpoint(scene.low[axis], scene.high[axis]), unit * cells[axis] / 2.0);
        [middle - half, middle + half]
    };
    (around(0), around(1))
}

fn painted(scene: &Scene, context: &mut Context, color: bool) {
    let ink = |paint: Paint| match paint {
        _ if !color => Color::Reset,
        Paint::Ground => Color::Gray,
        Paint::Faint => Color::DarkGray,
        Paint::Seat(0) => Color::LightBlue,
        Paint::Seat(_) => Color::Yellow,
        Paint::Signal => Color::LightRed,
        Paint::Ink => Color::Reset,
    };
    for shape in &scene.shapes {
        match shape {
            Shape::Line { from, to, paint, .. } => {
                context.draw(&Line { x1: from[0], y1: from[1], x2: to[0], y2: to[1], color: ink(*paint) });
            }
            Shape::Rectangle { low, high, paint } => context.draw(&Rectangle {
                x: low[0],
                y: low[1],
                width: high[0] - low[0],
                height: high[1] - low[1],
                color: ink(*paint),
            }),
            Shape::Circle { centre, radius, paint } | Shape::Ring { centre, radius, paint } => {
                context.draw(&Circle { x: centre[0], y: centre[1], radius: *radius, color: ink(*paint) });
            }
            Shape::Area { corners, paint } => {
                for (from, to) in corners.iter().zip(corners.iter().cycle().skip(1)) {
                    context.draw(&Line { x1: from[0], y1: from[1], x2: to[0], y2: to[1], color: ink(*paint) });
                }
            }
            Shape::Text { at, text, paint, .. } => {
                let text = ratatui::text::Line::styled(text.clone(), Style::new().fg(ink(*paint)));
                context.print(at[0], at[1], text);
            }
        }
    }
}
