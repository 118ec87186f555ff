//! A match before somebody's eyes: it goes on at a pace of its own while a view draws it and listens to keys; a person
//! may sit in one of its seats.
//!
//! It steps what is due, draws at most sixty times a second, less on a slow line, and takes keys at once. An adviser sits in the person's seat and is overruled, so it
//! sees what the person sees. `play` stores each match as it ends.

mod hand;
pub(crate) mod keys;
mod view;

use std::io;
use std::time::{Duration, Instant};

use inkpot_core::{Halt, HeldMatch, Seat, Thoughts};
use ratatui::crossterm::event::{Event, KeyCode, KeyEvent, KeyEventKind, KeyModifiers};
use serde_json::Value;

pub(crate) use self::hand::Hand;
use crate::terminal::{Heard, Screen, heard};

/// Time from one drawing to the next, at least: a frame of sixty a second.
const FRAME: Duration = Duration::from_micros(16_667);
/// A line takes at most this share of the time to draw: a slow one is drawn on less often.
const DRAWING: u32 = 2;
/// More time than this (s) is never made up for at once: a machine that was busy slows the match down.
const CATCH_UP_S: f64 = 0.1;
/// By how much faster and slower each press makes it.
const STEP: f64 = 1.5;

/// The way in which a match was left.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Left {
    /// The match ended, and the spectator closed it.
    Over,
    /// Somebody left it.
    Away,
    /// The program was asked to stop.
    Stopped,
}

/// A seat's last decision.
#[derive(Clone, Debug, Default)]
struct Decided {
    choice: Option<Value>,
    thoughts: Option<Thoughts<Value>>,
}

/// The data of a match before its start.
pub(crate) struct About {
    /// The game, the level and where it stands in a series.
    pub(crate) title: String,
    /// Names by seat.
    pub(crate) names: Vec<String>,
    /// Ticks a second; none where it goes by turns.
    pub(crate) rate: Option<f64>,
    /// The text after its end.
    pub(crate) after: String,
    pub(crate) color: bool,
}

/// The state of a match.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum State {
    /// A person begins a match in real time by a key.
    NotBegun,
    GoesOn,
    Paused,
    Over,
}

/// A match before somebody's eyes.
pub(crate) struct Live {
    held: Box<dyn HeldMatch>,
    about: About,
    hand: Option<Hand>,
    /// The speed of a match, as a multiple in real time, and in turns a second otherwise.
    pace: f64,
    state: State,
    /// Whether somebody is asked whether to leave.
    asked: bool,
    /// Ticks that are due.
    due: f64,
    before: Instant,
    /// The seats that decide now; none until they are looked at.
    acting: Option<Vec<Seat>>,
    decided: Vec<Decided>,
    /// The adviser's choice at this tick.
    advice: Option<(u64, Decided)>,
    /// The seat whose thoughts and sight are shown.
    shown: Option<Seat>,
}

impl Live {
    /// A match at its start; `pace` as many times as fast as it is, or turns a second.
    pub(crate) fn new(held: Box<dyn HeldMatch>, about: About, hand: Option<Hand>, pace: f64) -> Self {
        let seats = held.seats();
        let waits = hand.is_some() && about.rate.is_some();
        let mut live = Self {
            held,
            about,
            hand,
            pace,
            state: if waits { State::NotBegun } else { State::GoesOn },
            asked: false,
            due: 0.0,
            before: Instant::now(),
            acting: None,
            decided: vec![Decided::default(); seats],
            advice: None,
            shown: None,
        };
        live.look();
        live
    }

    /// Shows the thoughts of a seat from the start.
    pub(crate) fn show(&mut self, seat: Seat) {
        self.held.reflect(1);
        self.shown = Some(seat);
    }

    /// The match as it was left.
    pub(crate) fn into_held(self) -> Box<dyn HeldMatch> {
        self.held
    }

    /// Whether anything was played of it.
    pub(crate) fn is_begun(&self) -> bool {
        self.held.tick() > 0
    }

    /// Plays it in the terminal until it is left.
    pub(crate) fn run(&mut self, halt: &Halt) -> io::Result<Left> {
        let mut screen = Screen::enter()?;
        self.before = Instant::now();
        let mut next = Instant::now();
        loop {
            if halt.is_called() {
                return Ok(Left::Stopped);
            }
            self.advance();
            let now = Instant::now();
            if now >= next {
                screen.draw(|frame| view::draw(self, frame))?;
                next = now + FRAME.max(now.elapsed() * DRAWING);
            }
            match heard(next.saturating_duration_since(Instant::now())) {
                Heard::Gone => return Ok(Left::Stopped),
                Heard::Event(Event::Key(key)) if key.kind != KeyEventKind::Release => {
                    if let Some(left) = self.key(key) {
                        return Ok(left);
                    }
                    next = Instant::now();
                }
                Heard::Event(Event::Resize(..)) => next = Instant::now(),
                Heard::Event(_) | Heard::Nothing => {}
            }
        }
    }

    /// Plays as many ticks as are due.
    fn advance(&mut self) {
        let seconds = self.before.elapsed().as_secs_f64().min(CATCH_UP_S);
        self.before = Instant::now();
        if self.asked || self.state != State::GoesOn {
            return;
        }
        self.due += seconds * self.pace * self.about.rate.unwrap_or(1.0);
        while self.due >= 1.0 && self.state == State::GoesOn {
            if !self.tick() {
                // As soon as the person has chosen, it goes on.
                self.due = 1.0;
                return;
            }
            self.due -= 1.0;
        }
    }

    /// Finds the deciding seat of this tick and its choices.
    fn look(&mut self) {
        let acting = self.held.pending();
        if acting.is_empty() {
            self.state = State::Over;
        }
        let by_turns = self.about.rate.is_none();
        if let Some(hand) = self.hand.as_mut().filter(|hand| acting.contains(&hand.seat)) {
            hand.look(self.held.as_ref());
        }
        let hints = self.hand.as_ref().is_some_and(|hand| hand.hints && acting.contains(&hand.seat));
        self.acting = Some(acting);
        if hints && by_turns {
            self.advise();
        }
    }

    /// One tick. False where a person has not chosen yet.
    fn tick(&mut self) -> bool {
        let real_time = self.about.rate.is_some();
        let acting = self.acting.clone().unwrap_or_default();
        let mut by_hand = None;
        if let Some(hand) = self.hand.as_mut().filter(|hand| acting.contains(&hand.seat)) {
            let Some(choice) = hand.choice(self.held.as_ref(), real_time) else { return false };
            by_hand = Some((hand.seat, choice));
        }
        for &seat in &acting {
            if let Some((who, choice)) = by_hand.as_ref().filter(|(who, _)| *who == seat) {
                if real_time {
                    self.advise();
                }
                let _ = self.held.choose(*who, choice.clone());
                self.decided[seat] = Decided { choice: Some(choice.clone()), ..Decided::default() };
                continue;
            }
            let considered = self.held.consider(seat);
            self.decided[seat] = Decided { choice: considered.action.ok(), thoughts: considered.thoughts };
        }
        self.held.turn();
        self.look();
        true
    }

    /// Asks the person's adviser, once a tick. It sits in the person's seat and is overruled.
    fn advise(&mut self) {
        let Some(hand) = self.hand.as_ref().filter(|hand| hand.advised) else { return };
        let tick = self.held.tick();
        if self.advice.as_ref().is_none_or(|(at, _)| *at != tick) {
            let considered = self.held.consider(hand.seat);
            let thinking = Decided { choice: considered.action.ok(), thoughts: considered.thoughts };
            self.advice = Some((tick, thinking));
        }
    }

    /// Whether the person is to choose now.
    fn awaits(&self) -> bool {
        let acting = self.acting.as_deref().unwrap_or_default();
        self.state != State::Over && self.hand.as_ref().is_some_and(|hand| acting.contains(&hand.seat))
    }

    /// Pauses, or goes on.
    fn pause(&mut self) {
        self.state = match self.state {
            State::GoesOn => State::Paused,
            State::Paused => State::GoesOn,
            other => other,
        };
    }

    fn key(&mut self, key: KeyEvent) -> Option<Left> {
        if key.code == KeyCode::Char('c') && key.modifiers.contains(KeyModifiers::CONTROL) {
            return Some(Left::Stopped);
        }
        if self.state == State::Over {
            let leaves = matches!(key.code, KeyCode::Esc | KeyCode::Char('q'));
            return match key.code {
                KeyCode::Enter => Some(Left::Over),
                _ if leaves => Some(Left::Away),
                _ => None,
            };
        }
        if self.asked {
            match key.code {
                KeyCode::Esc => return Some(Left::Away),
                KeyCode::Enter => self.asked = false,
                _ => {}
            }
            return None;
        }
        if self.hand.is_some() {
            self.played(key.code);
            return None;
        }
        self.watched(key.code)
    }

    /// Handles a player's key.
    fn played(&mut self, key: KeyCode) {
        let real_time = self.about.rate.is_some();
        let Some(hand) = self.hand.as_mut() else { return };
        match key {
            KeyCode::Esc if hand.typed.is_empty() => self.asked = true,
            KeyCode::Esc => hand.typed.clear(),
            KeyCode::Tab if hand.advised => {
                hand.hints = !hand.hints;
                if hand.hints {
                    self.held.reflect(1);
                }
            }
            KeyCode::Enter if self.state == State::NotBegun => self.state = State::GoesOn,
            KeyCode::Char('p') if real_time => self.pause(),
            KeyCode::Char('+' | '=') if real_time => self.pace *= STEP,
            KeyCode::Char('-') if real_time => self.pace /= STEP,
            _ => hand.press(key),
        }
        let hints = self.hand.as_ref().is_some_and(|hand| hand.hints);
        if hints && !real_time && self.awaits() {
            self.advise();
        }
    }

    /// Handles a spectator's key.
    fn watched(&mut self, key: KeyCode) -> Option<Left> {
        match key {
            KeyCode::Esc | KeyCode::Char('q') => return Some(Left::Away),
            KeyCode::Char(' ' | 'p') => self.pause(),
            KeyCode::Right | KeyCode::Char('.') => {
                self.state = State::Paused;
                self.tick();
            }
            KeyCode::Char('+' | '=') => self.pace *= STEP,
            KeyCode::Char('-') => self.pace /= STEP,
            KeyCode::Char('t') => {
                let next = self.shown.map_or(0, |seat| seat + 1);
                self.shown = (next < self.held.seats()).then_some(next);
                self.held.reflect(1);
            }
            _ => {}
        }
        None
    }
}
