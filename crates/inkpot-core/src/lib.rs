//! What a game, an agent and a match are, without input, output or interface.
//!
//! A game implements [`Game`] (and the capability traits it can offer); an agent implements [`Agent`] for a game or
//! for every game with some capability. [`play`] is the match loop, [`Stepper`] the same loop for somebody who wants
//! to hold it. [`Registry`] lists games and agents by name; a [`Stage`] is one concrete pairing, ready to play blocks
//! and hand back [`Rows`]. All chance comes from [`Streams`].

mod agent;
mod budget;
mod capability;
mod chance;
mod count;
mod drifter;
mod entry;
mod experience;
mod explain;
mod fall;
mod game;
mod knob;
mod limits;
mod person;
mod play;
mod row;
mod scene;
mod search;
mod sheet;
mod stage;
mod stepper;
mod thoughts;
mod times;

pub use agent::{Agent, Pace, Sight};
pub use capability::{Appraise, Imagine, Keyed, Measured, Noted, Options, Pictured, folded, margin};
pub use chance::{Chance, Streams};
pub use count::{CountError, CountRequest, Layer, Sequences};
pub use drifter::drifter;
pub use entry::{AgentKind, Casting, Entry, GameEntry, GameFactory, Registry, Setting, SettingError};
pub use explain::{Explained, Inquiry, InquiryError, Place};
pub use fall::quiet_panics_in_matches;
pub use game::{Acting, Advance, Choices, Ending, Game, Seat, SeatSet, Verdict};
pub use knob::{Knob, KnobError, KnobRange, KnobValue, Knobs, nearest};
pub use person::Person;
pub use play::{Decision, Fall, Observer, Players, TICK_LIMIT, Unobserved, play};
pub use row::{Outcome, Row, Rows, points_shares};
pub use scene::{Paint, Scene, Shape};
pub use search::{horizon, minimax, playouts, treesearch, treesearch_reusing};
pub use sheet::{AgentSheet, GameSheet, LevelSheet, Measure, MeasureOf, Preset, Wanted};
pub use stage::{Factory, Moment, Spot, Stage};
pub use stepper::Stepper;
pub use thoughts::{Spent, Step, Thoughts, Weighed};
pub use times::DecisionTimes;
