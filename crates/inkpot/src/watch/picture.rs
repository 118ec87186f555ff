//! A match as a small picture: the game's scene in dots, or its position as text.

use inkpot_core::{GameEntry, HeldMatch, Setting, Spot};
use ratatui::Frame;
use ratatui::layout::Rect;
use ratatui::symbols::Marker;
use ratatui::widgets::{Block, Paragraph};

use crate::terminal::scene::Drawn;

/// The speed-up of a match in real time.
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
        let inner = block.inner(area);
        frame.render_widget(block, area);
        Drawn { color, marker }.draw(frame, inner, &scene, &[]);
    }
}
