//! A person in a seat: pressed and typed keys until they are a choice.

use inkpot_core::HeldMatch;
use ratatui::crossterm::event::KeyCode;
use serde_json::Value;

use super::keys::Bindings;
use crate::show::thoughts::action;

/// A person in a seat.
pub(crate) struct Hand {
    pub(crate) seat: usize,
    pub(crate) bindings: Bindings,
    /// The control that holds, and the one that was tapped since the last tick.
    pub(crate) held: Option<usize>,
    tapped: Option<usize>,
    /// The options to choose from, with their words.
    pub(crate) options: Vec<(Value, String)>,
    /// The option that is picked out.
    pub(crate) picked: usize,
    pub(crate) typed: String,
    /// The last typed text that begins no option.
    pub(crate) refused: Option<String>,
    /// The choice for the coming step.
    choice: Option<Value>,
    /// Whether an agent advises, and whether that is shown.
    pub(crate) advised: bool,
    pub(crate) hints: bool,
}

impl Hand {
    /// Builds a person; `advised` if an agent can give hints.
    pub(crate) fn new(seat: usize, bindings: Bindings, advised: bool) -> Self {
        Self {
            seat,
            bindings,
            held: None,
            tapped: None,
            options: Vec::new(),
            picked: 0,
            typed: String::new(),
            refused: None,
            choice: None,
            advised,
            hints: false,
        }
    }

    /// Sees the options of a turn; those of a game in real time that has no controls hold from tick to tick.
    pub(crate) fn look(&mut self, held: &dyn HeldMatch) {
        if self.bindings.is_empty() {
            let options = held.options(self.seat).unwrap_or_default();
            self.options = options
                .into_iter()
                .map(|option| {
                    let words = action(&option);
                    (option, words)
                })
                .collect();
            self.picked = self.picked.min(self.options.len().saturating_sub(1));
        }
    }

    /// Takes a key; one that means nothing changes nothing.
    pub(crate) fn press(&mut self, key: KeyCode) {
        self.refused = None;
        if let Some(control) = self.bindings.pressed(key) {
            if self.bindings.holds(control) {
                self.held = Some(control);
            } else {
                self.tapped = Some(control);
            }
            return;
        }
        if self.options.is_empty() {
            return;
        }
        let count = self.options.len();
        match key {
            KeyCode::Up | KeyCode::Left => self.picked = (self.picked + count - 1) % count,
            KeyCode::Down | KeyCode::Right => self.picked = (self.picked + 1) % count,
            KeyCode::Enter => self.choose(self.picked),
            KeyCode::Backspace => {
                self.typed.pop();
            }
            KeyCode::Char(letter) => self.letter(letter),
            _ => {}
        }
    }

    /// A letter of the words of an option; once they are those of one option alone, it is chosen.
    fn letter(&mut self, letter: char) {
        let typed = format!("{}{letter}", self.typed);
        let fits = |(_, (_, words)): &(usize, &(Value, String))| words.starts_with(&typed);
        let fitting: Vec<usize> = self.options.iter().enumerate().filter(fits).map(|(place, _)| place).collect();
        match fitting.as_slice() {
            [] => self.refused = Some(typed),
            [only] if self.options[*only].1 == typed => self.choose(*only),
            [first, ..] => {
                self.picked = *first;
                self.typed = typed;
            }
        }
    }

    fn choose(&mut self, place: usize) {
        self.choice = Some(self.options[place].0.clone());
        self.typed.clear();
    }

    /// Returns the choice for the coming step: always one in real time, after a choice in a game of turns.
    pub(crate) fn choice(&mut self, held: &dyn HeldMatch, real_time: bool) -> Option<Value> {
        if !self.bindings.is_empty() {
            return held.by_hand(self.seat, self.held, self.tapped.take());
        }
        if let Some(choice) = self.choice.take() {
            return Some(choice);
        }
        self.options.get(self.picked).filter(|_| real_time).map(|(option, _)| option.clone())
    }
}
