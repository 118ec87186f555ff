//! Games, agents and matches, without input, output or interface.
//!
//! A game implements [`Game`] (and the capability traits it can offer); an agent implements [`Agent`] for a game or
//! for every game with some capability. A [`MatchTable`] is one match under way: its tight loop plays it, and whoever holds
//! it may go through it step by step. [`Registry`] lists games and agents by name; a [`Stage`] is one concrete pairing,
//! ready to play blocks and hand back [`Rows`], or to open a match as a [`HeldMatch`]. All chance comes from
//! [`Streams`].

mod agent;
mod block;
mod bytes;
mod capability;
mod chance;
mod choices;
mod clock;
mod conformance;
mod count;
mod entry;
mod experience;
mod explain;
mod fall;
mod features;
mod filing;
mod game;
mod halt;
mod held;
mod held_table;
mod kind;
mod knob;
mod knobs;
mod laying;
mod lesson;
mod level;
mod match_table;
mod person;
mod players;
mod points;
mod record;
mod registry;
mod respond;
mod row;
mod scene;
mod seating;
mod setting;
mod setup;
mod sheet;
mod source;
mod spot;
mod stage;
mod stepper;
mod thoughts;
mod times;

pub use agent::{Agent, GaveUp, Pace, Sight};
pub use block::{Block, MatchRows};
pub use bytes::Bytes;
pub use capability::{
    Appraise, ByHand, Control, Imagine, Keyed, Measured, Noted, Options, Pictured, Playable, folded, margin,
};
pub use chance::{Chance, Streams};
pub use choices::{HAND, Record};
pub use clock::GRACE;
pub use conformance::{Broken, Conformance};
pub use count::{CountError, CountRequest, Layer, Sequences};
pub use entry::{Entry, GameEntry};
pub use experience::{LEADS, lead_moment, read_leads};
pub use explain::{Explained, InquiryError, explain, explain_turn};
pub use fall::{catch, quiet_panics_in_matches};
pub use features::{ActionSpace, Feature, FeatureSheet, Features, Intent, Tempo, normalised};
pub use filing::Position;
pub use game::{Acting, Advance, Choices, Ending, Game, MOST_SEATS, Seat, SeatSet, Verdict};
pub use halt::Halt;
pub use held::{Considered, HeldMatch, Moment, Telling, tell};
pub use kind::{AgentKind, Factory, Maker};
pub use knob::{Knob, KnobError, KnobRange, KnobValue, nearest};
pub use knobs::Knobs;
pub use laying::Laying;
pub use lesson::{LEARNER, Lessons};
pub use level::{Level, LevelError};
pub use match_table::{Fall, MatchTable, TICK_LIMIT};
pub use person::Person;
pub use players::Players;
pub use points::points_share;
pub use registry::{LoadGame, NoSuchGame, Registry};
pub use respond::{Response, ResponseError, ResponseRequest};
pub use row::{Outcome, Row, Rows};
pub use scene::{Paint, Scene, Shape};
pub use seating::{Seating, Seatings};
pub use setting::{Casting, Setting, SettingError};
pub use setup::{GameFactory, PositionError};
pub use sheet::{AgentSheet, GameSheet, Keeper, LevelSheet, Measure, MeasureOf, Preset, Wanted};
pub use source::{GameSource, GameText};
pub use spot::Spot;
pub use stage::Stage;
pub use stepper::Stepper;
pub use thoughts::{Spent, Step, Thoughts, Weighed};
pub use times::DecisionTimes;
