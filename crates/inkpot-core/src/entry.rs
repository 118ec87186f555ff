//! The registry: games and agents by name, typed inside, dynamic at this one place.

use std::sync::Arc;

use serde::Serialize;
use thiserror::Error;

use crate::count::{CountError, CountRequest, Layer, count_positions};
use crate::experience::{Feel, added};
use crate::explain::{Explained, Inquiry, InquiryError, Place, explain};
use crate::limits;
use crate::stage::{Feels, StageOf};
use crate::{
    AgentSheet, Chance, Factory, Game, GameSheet, Keyed, Knob, KnobError, Knobs, Measure, Measured, Noted, Options,
    Preset, Stage, Streams, nearest,
};

/// An agent kind of a game: its sheet and its factory.
pub struct AgentKind<G: Game> {
    sheet: AgentSheet,
    prepare: Prepare<G>,
}

type Prepare<G> = Arc<dyn Fn(&Knobs) -> Factory<G> + Send + Sync>;

impl<G: Game + 'static> AgentKind<G> {
    /// A kind with a name and one line about it.
    pub fn new(name: &str, help: &str) -> Self {
        let sheet = AgentSheet {
            name: name.into(),
            help: help.into(),
            knobs: Vec::new(),
            presets: Vec::new(),
            chanceless: |_| false,
        };
        let nameless = name.to_string();
        Self {
            sheet,
            prepare: Arc::new(move |_| panic!("the agent kind `{nameless}` was registered without a factory")),
        }
    }

    /// With one more knob; a master stands before those that follow it.
    #[must_use]
    pub fn knob(mut self, knob: Knob) -> Self {
        self.sheet.knobs.push(knob);
        self
    }

    /// With another default of a numeric knob that it has: what suits one game does not suit all.
    ///
    /// Panics when there is no such knob or the value is not allowed, which any test that makes the game meets.
    #[must_use]
    pub fn with_default(mut self, name: &str, value: f64) -> Self {
        let knob = self.sheet.knobs.iter_mut().find(|knob| knob.name == name);
        knob.expect("only a knob of the kind has a default").set_default(value);
        self
    }

    /// With one more preset.
    #[must_use]
    pub fn preset(mut self, name: &str, help: &str, knobs: Knobs) -> Self {
        self.sheet.presets.push(Preset { name: name.into(), help: help.into(), knobs });
        self
    }

    /// With the condition on its knobs under which its agents leave nothing to chance: matches between such agents
    /// that go alike are known for repeats of one match, and count once. For agents of games in which nothing but the
    /// start is drawn.
    #[must_use]
    pub fn chanceless(mut self, when: fn(&Knobs) -> bool) -> Self {
        self.sheet.chanceless = when;
        self
    }

    /// With what makes its agents: given all knob values once, a factory that makes one agent a match. The factory is
    /// given the block's [`Person`](crate::Person), which a stand-in draws its traits from.
    #[must_use]
    pub fn factory(mut self, prepare: impl Fn(&Knobs) -> Factory<G> + Send + Sync + 'static) -> Self {
        self.prepare = Arc::new(prepare);
        self
    }

    /// With the knob `slip`, which makes a weaker player of any agent: so large a share of its decisions is replaced
    /// by a random legal one.
    #[must_use]
    pub fn graded(self) -> Self
    where
        G: Options,
    {
        let inner = self.prepare.clone();
        self.knob(limits::slip()).factory(move |knobs| limits::limited(inner(knobs), knobs))
    }

    /// With the knobs `slip` and `temper`; the latter draws from the agent's own values of its options, so it is for
    /// agents that give them as their thoughts.
    #[must_use]
    pub fn graded_by_values(self) -> Self
    where
        G: Options,
    {
        let inner = self.prepare.clone();
        self.knob(limits::slip()).knob(limits::temper()).factory(move |knobs| limits::limited(inner(knobs), knobs))
    }

    /// What it is.
    pub fn sheet(&self) -> &AgentSheet {
        &self.sheet
    }

    /// A factory of its agents with these values of its knobs, the others at their defaults. Errs with all values that
    /// are not allowed.
    pub fn made(&self, given: &Knobs) -> Result<Factory<G>, Vec<KnobError>> {
        Ok((self.prepare)(&given.resolve(&self.sheet.knobs)?))
    }
}

impl<G: Game> Clone for AgentKind<G> {
    fn clone(&self) -> Self {
        Self { sheet: self.sheet.clone(), prepare: self.prepare.clone() }
    }
}

/// Makes the state at the start of a match from the world's chance.
pub type GameFactory<G> = Box<dyn Fn(&mut Chance) -> G + Send + Sync>;

type Lay<G> = Box<dyn Fn(&Knobs, &str) -> GameFactory<G> + Send + Sync>;

/// A game with its agents.
pub struct Entry<G: Game> {
    sheet: GameSheet,
    feels: Vec<Feel>,
    lay: Lay<G>,
    start: Option<Start<G>>,
    positions: Option<Positions<G>>,
    count: Option<Count<G>>,
    agents: Vec<AgentKind<G>>,
    agent_sheets: Vec<AgentSheet>,
}

/// Makes the plain start from the values of all rules knobs and the level's name.
type Start<G> = Box<dyn Fn(&Knobs, &str) -> G + Send + Sync>;
/// Counts positions and move sequences from a state.
type Count<G> = fn(&G, &CountRequest, &mut dyn FnMut(&Layer)) -> Result<Vec<Layer>, CountError>;

/// Position text, both ways, of a game that has it.
pub(crate) struct Positions<G> {
    pub(crate) note: fn(&G) -> String,
    pub(crate) read: fn(&G, &str) -> Result<G, String>,
}

impl<G: Game + Measured + 'static> Entry<G>
where
    G::Action: Serialize,
    G::View: Serialize,
{
    /// A game: its sheet, to which the measures of every game are added, and what makes its states from the values of all rules knobs and the level's name.
    pub fn new(sheet: GameSheet, lay: impl Fn(&Knobs, &str) -> GameFactory<G> + Send + Sync + 'static) -> Self {
        let mut sheet = sheet;
        let (feels, measures): (Vec<Feel>, Vec<Measure>) = added(&sheet).into_iter().unzip();
        sheet.measures.extend(measures);
        Self {
            sheet,
            feels,
            lay: Box::new(lay),
            start: None,
            positions: None,
            count: None,
            agents: Vec::new(),
            agent_sheets: Vec::new(),
        }
    }

    /// With a start that is the same for all, where matches begin from random openings.
    #[must_use]
    pub fn plain_start(mut self, start: impl Fn(&Knobs, &str) -> G + Send + Sync + 'static) -> Self {
        self.start = Some(Box::new(start));
        self
    }

    /// With positions as text, so that `explain` can be asked of any.
    #[must_use]
    pub fn noted(mut self) -> Self
    where
        G: Noted,
    {
        self.positions = Some(Positions { note: G::note, read: G::read_note });
        self
    }

    /// With counts of positions and move sequences, for a game of turns without chance.
    #[must_use]
    pub fn counted(mut self) -> Self
    where
        G: Options + Keyed + Clone,
    {
        self.count = Some(count_positions);
        self
    }

    /// The state at the plain start, or where matches begin.
    fn first_state(&self, rules: &Knobs, level: &str, seed: u64) -> G {
        match &self.start {
            Some(start) => start(rules, level),
            None => (self.lay)(rules, level)(&mut Chance::from_seed(Streams::of_study(seed).world_seed(0, 0))),
        }
    }

    fn state(&self, place: &Place) -> Result<G, InquiryError> {
        let start = self.first_state(&place.rules, &place.level, place.seed);
        let Some(text) = &place.position else { return Ok(start) };
        let game = || self.sheet.name.clone();
        let positions = self.positions.as_ref().ok_or_else(|| InquiryError::NoPositions { game: game() })?;
        (positions.read)(&start, text).map_err(|reason| InquiryError::Position { game: game(), reason })
    }

    /// With one more agent kind.
    #[must_use]
    pub fn agent(mut self, kind: AgentKind<G>) -> Self {
        self.agent_sheets.push(kind.sheet.clone());
        self.agents.push(kind);
        self
    }
}

/// What is to be played: resolved rules, a level, and who sits down.
#[derive(Clone, Debug, PartialEq)]
pub struct Setting {
    /// Every rules knob.
    pub rules: Knobs,
    /// Name of the level.
    pub level: String,
    /// Who plays; rotated over the seats.
    pub cast: Vec<Casting>,
    /// How often the seats are rotated in a block: each time in a new world, by the same people.
    pub series: u32,
    /// Confidence-free identity of the study: where all chance comes from.
    pub study_seed: u64,
}

/// One entrant of a setting.
#[derive(Clone, Debug, PartialEq)]
pub struct Casting {
    /// Its place in the study.
    pub entrant: u16,
    /// Agent kind.
    pub kind: String,
    /// Every knob of the kind.
    pub knobs: Knobs,
}

/// Why a setting cannot be staged.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum SettingError {
    /// The game has no such agent kind.
    #[error("the game `{game}` has no agent `{kind}`")]
    #[expect(missing_docs, reason = "the game's and the kind's names")]
    NoSuchAgent { game: String, kind: String },
    /// The number of entrants does not fit the seats.
    #[error("`{game}` has {seats} seats, not {got}")]
    #[expect(missing_docs, reason = "the game's name, its seats in words, and how many sat down")]
    Seats { game: String, seats: String, got: usize },
}

/// A game whose types are hidden: what everything above the match loop sees.
pub trait GameEntry: Send + Sync {
    /// What the game is.
    fn sheet(&self) -> &GameSheet;
    /// What its agents are.
    fn agents(&self) -> &[AgentSheet];
    /// A stage on which a setting can be played.
    fn stage(&self, setting: &Setting) -> Result<Box<dyn Stage>, SettingError>;
    /// What an agent weighs at a position.
    fn explain(&self, inquiry: &Inquiry) -> Result<Explained, InquiryError>;
    /// Positions and move sequences by depth; `listener` hears each layer as it is done.
    fn count(
        &self,
        place: &Place,
        request: &CountRequest,
        listener: &mut dyn FnMut(&Layer),
    ) -> Result<Vec<Layer>, InquiryError>;
}

impl<G: Game + Measured + 'static> GameEntry for Entry<G>
where
    G::Action: Serialize,
    G::View: Serialize,
{
    fn sheet(&self) -> &GameSheet {
        &self.sheet
    }

    fn agents(&self) -> &[AgentSheet] {
        &self.agent_sheets
    }

    fn stage(&self, setting: &Setting) -> Result<Box<dyn Stage>, SettingError> {
        if !self.sheet.seats.contains(&setting.cast.len()) {
            return Err(SettingError::Seats {
                game: self.sheet.name.clone(),
                seats: seats_in_words(&self.sheet),
                got: setting.cast.len(),
            });
        }
        let factories = setting
            .cast
            .iter()
            .map(|casting| {
                let kind = self.agents.iter().find(|kind| kind.sheet.name == casting.kind);
                kind.map(|kind| (kind.prepare)(&casting.knobs)).ok_or_else(|| SettingError::NoSuchAgent {
                    game: self.sheet.name.clone(),
                    kind: casting.kind.clone(),
                })
            })
            .collect::<Result<_, _>>()?;
        let lay = (self.lay)(&setting.rules, &setting.level);
        let feels = Feels {
            own: self.sheet.measures.len() - self.feels.len(),
            added: self.feels.clone(),
            a_second: self.sheet.ticks_per_second.unwrap_or(1.0),
        };
        Ok(Box::new(StageOf::new(lay, factories, setting, feels)))
    }

    fn explain(&self, inquiry: &Inquiry) -> Result<Explained, InquiryError> {
        let kind = self.agents.iter().find(|kind| kind.sheet.name == inquiry.kind);
        let kind = kind
            .ok_or_else(|| InquiryError::NoSuchAgent { game: self.sheet.name.clone(), kind: inquiry.kind.clone() })?;
        let factory = (kind.prepare)(&inquiry.knobs);
        explain(&self.state(&inquiry.place)?, self.positions.as_ref(), &factory, inquiry)
    }

    fn count(
        &self,
        place: &Place,
        request: &CountRequest,
        listener: &mut dyn FnMut(&Layer),
    ) -> Result<Vec<Layer>, InquiryError> {
        let count = self.count.ok_or_else(|| InquiryError::NotCounted { game: self.sheet.name.clone() })?;
        Ok(count(&self.state(place)?, request, listener)?)
    }
}

fn seats_in_words(sheet: &GameSheet) -> String {
    let (low, high) = (sheet.seats.start(), sheet.seats.end());
    if low == high { low.to_string() } else { format!("{low} to {high}") }
}

/// All games by name.
#[derive(Clone, Default)]
pub struct Registry {
    games: Vec<Arc<dyn GameEntry>>,
}

impl Registry {
    /// With one more game.
    #[must_use]
    pub fn with(mut self, game: impl GameEntry + 'static) -> Self {
        self.games.push(Arc::new(game));
        self
    }

    /// The game of this name.
    pub fn game(&self, name: &str) -> Option<&dyn GameEntry> {
        self.games.iter().find(|game| game.sheet().name == name).map(AsRef::as_ref)
    }

    /// All games in the order of registration.
    pub fn games(&self) -> impl Iterator<Item = &dyn GameEntry> {
        self.games.iter().map(AsRef::as_ref)
    }

    /// The registered name nearest to a misspelt one.
    pub fn nearest(&self, typed: &str) -> Option<String> {
        nearest(typed, self.games.iter().map(|game| game.sheet().name.as_str()))
    }
}
