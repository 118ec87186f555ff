//! A game with its agents, as it goes into a registry: typed inside, dynamic at this one place.

use std::ops::RangeInclusive;
use std::sync::Arc;

use crate::choices::Outside;
use crate::count::{CountError, CountRequest, Layer, count_positions};
use crate::experience::{Source, sourced};
use crate::fall::catch;
use crate::filing::Filing;
use crate::lesson::{LEARNER, Lessons, LessonsOf};
use crate::respond::{Response, ResponseError, ResponseRequest, respond};
use crate::setup::{Abilities, Pictures, PlainStart, Positions, Setup};
use crate::stage::StageOf;
use crate::{
    AgentKind, AgentSheet, ByHand, Casting, Control, Explained, Factory, FeatureSheet, Features, Game, GameFactory,
    GameSheet, HAND, InquiryError, Keyed, Knobs, Laying, MOST_SEATS, Measure, Noted, Options, Pictured, Playable, Seat,
    Setting, SettingError, Stage, explain,
};

/// Builds the factory of a study's states; errs with the level's problem.
type Lay<G> = Box<dyn Fn(&Laying) -> Result<GameFactory<G>, String> + Send + Sync>;
/// Counts positions and move sequences from a state.
type Count<G> = fn(&G, &CountRequest, &mut dyn FnMut(&Layer)) -> Result<Vec<Layer>, CountError>;

/// Lists the observations and actions of a game under these rules.
type FeaturesUnder = Box<dyn Fn(&Knobs) -> FeatureSheet + Send + Sync>;

/// Computes a best response to an agent from a state on.
type Respond<G> = fn(&G, &Factory<G>, bool, &ResponseRequest) -> Result<Response, ResponseError>;

/// A game with its agents.
pub struct Entry<G: Game> {
    sheet: GameSheet,
    sources: Vec<Source>,
    lay: Lay<G>,
    start: Option<PlainStart<G>>,
    abilities: Abilities<G>,
    features: Option<FeaturesUnder>,
    count: Option<Count<G>>,
    respond: Option<Respond<G>>,
    controls: Vec<Control>,
    plays_by_itself: bool,
    agents: Vec<AgentKind<G>>,
    agent_sheets: Vec<AgentSheet>,
}

impl<G: Playable> Entry<G> {
    /// Builds a game from its sheet, to which the common measures are added, and from the function that makes its
    /// states out of all rules knobs, the level and the number of seats. That function may err with the level's
    /// problem. The level is one of the sheet, with all its knobs, or a file if the sheet allows files.
    pub fn new(
        sheet: GameSheet,
        lay: impl Fn(&Laying) -> Result<GameFactory<G>, String> + Send + Sync + 'static,
    ) -> Self {
        let mut sheet = sheet;
        let (measures, sources) = sourced(&sheet);
        sheet.measures = measures;
        Self {
            sheet,
            sources,
            lay: Box::new(lay),
            start: None,
            abilities: Abilities {
                positions: None,
                options: None,
                hand: None,
                pictures: None,
                features: None,
                filing: None,
            },
            features: None,
            count: None,
            respond: None,
            controls: Vec::new(),
            plays_by_itself: false,
            agents: Vec::new(),
            agent_sheets: Vec::new(),
        }
    }

    /// With a start that is the same for all, where matches begin from random openings.
    #[must_use]
    pub fn plain_start(mut self, start: impl Fn(&Laying) -> Result<G, String> + Send + Sync + 'static) -> Self {
        self.start = Some(Arc::new(start));
        self
    }

    /// With positions as text, so that `explain` can be asked of any.
    #[must_use]
    pub fn noted(mut self) -> Self
    where
        G: Noted,
    {
        self.abilities.positions = Some(Positions { note: G::note, read: G::read_note });
        self
    }

    /// Marks a game that plays whole matches by itself: its agents' decisions are not seen from outside.
    #[must_use]
    pub fn by_itself(mut self) -> Self {
        self.plays_by_itself = true;
        self
    }

    /// Leaves out the measures that follow from the course of the scores, and suspense, for a game that tells only its
    /// final scores.
    #[must_use]
    pub fn without_course(mut self) -> Self {
        let mut kept = self.sources.iter().map(|source| *source == Source::Game);
        self.sheet.measures.retain(|_| kept.next() == Some(true));
        self.sources.retain(|source| *source == Source::Game);
        self
    }

    /// Lists its options for holders of a match.
    #[must_use]
    pub fn optioned(mut self) -> Self
    where
        G: Options,
    {
        self.abilities.options = Some(G::options);
        self
    }

    /// With pictures of its states.
    #[must_use]
    pub fn pictured(mut self) -> Self
    where
        G: Pictured,
    {
        self.abilities.pictures = Some(Pictures { scene: G::scene, sight: G::sight, place: G::place });
        self
    }

    /// With these controls for a person, in the order in which they are shown.
    #[must_use]
    pub fn by_hand(mut self, controls: Vec<Control>) -> Self
    where
        G: ByHand,
    {
        self.controls = controls;
        self.abilities.hand = Some(G::by_hand);
        self
    }

    /// With its views and actions as numbers, for policies; `features` lists the observations and actions under all
    /// rules knobs.
    #[must_use]
    pub fn featured(mut self, features: impl Fn(&Knobs) -> FeatureSheet + Send + Sync + 'static) -> Self
    where
        G: Features,
    {
        self.features = Some(Box::new(features));
        self.abilities.features = Some((G::observe, G::act));
        self
    }

    /// With positions that are filed under their symmetries, so that their values can be learned one by one.
    #[must_use]
    pub fn filed(mut self) -> Self
    where
        G: Keyed + Noted + Options + Clone,
    {
        self.abilities.filing = Some(Filing::new());
        self.respond = Some(respond);
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

    /// With one more agent kind.
    #[must_use]
    pub fn agent(mut self, kind: AgentKind<G>) -> Self {
        self.agent_sheets.push(kind.sheet().clone());
        self.agents.push(kind);
        self
    }

    /// Lays the state of each match.
    pub fn laid(&self, laying: &Laying) -> Result<GameFactory<G>, String> {
        (self.lay)(laying)
    }

    /// Its agent kinds.
    pub(crate) fn kinds(&self) -> &[AgentKind<G>] {
        &self.agents
    }

    /// Returns the possible numbers of seats.
    pub(crate) fn seats(&self) -> &RangeInclusive<usize> {
        &self.sheet.seats
    }

    /// The measures that the game gives itself.
    pub(crate) fn own_measures(&self) -> Vec<&Measure> {
        let of_game = self.sheet.measures.iter().zip(&self.sources).filter(|(_, source)| **source == Source::Game);
        of_game.map(|(measure, _)| measure).collect()
    }

    /// Whether the agents of a kind last for a block.
    fn remembers(&self, kind: &str) -> bool {
        self.agents.iter().any(|sheet_agent| sheet_agent.sheet().name == kind && sheet_agent.sheet().remembers)
    }

    fn setup(&self, setting: &Setting) -> Result<Setup<G>, SettingError> {
        self.setup_with(setting, |_| false)
    }

    /// The same, where those of the cast of which `outside` is true are decided from outside.
    fn setup_with(&self, setting: &Setting, outside: impl Fn(&Casting) -> bool) -> Result<Setup<G>, SettingError> {
        let game = || self.sheet.name.clone();
        let seats = &self.sheet.seats;
        if *seats.end() > MOST_SEATS {
            return Err(SettingError::TooManySeats { game: game(), seats: *seats.end(), most: MOST_SEATS });
        }
        if !seats.contains(&setting.cast.len()) || setting.seating.seats() != setting.cast.len() {
            let seats = seats_in_words(&self.sheet);
            return Err(SettingError::Seats { game: game(), seats, got: setting.cast.len() });
        }
        let features = self.features.as_ref().map(|features| features(&setting.rules));
        let laying = setting.laying(features.as_ref());
        let fell = |reason| SettingError::Fell { game: game(), reason };
        let factory = |kind: &str, knobs: &Knobs| {
            let found = self.agents.iter().find(|agent| agent.sheet().name == kind);
            let found = found.ok_or_else(|| SettingError::NoSuchAgent { game: game(), kind: kind.into() })?;
            let prepared = catch(|| found.prepared(knobs, &laying)).map_err(fell)?;
            prepared.map_err(|reason| SettingError::Agent { game: game(), kind: kind.into(), reason })
        };
        let factories = setting.cast.iter().map(|casting| {
            let from_outside = || -> Factory<G> { Box::new(|_| Ok(Box::new(Outside))) };
            if outside(casting) || casting.kind == HAND {
                Ok(from_outside())
            } else {
                factory(&casting.kind, &casting.knobs)
            }
        });
        let lay = catch(|| self.laid(&laying)).map_err(fell)?;
        let lay =
            lay.map_err(|reason| SettingError::Level { game: game(), level: setting.level.to_string(), reason })?;
        Ok(Setup {
            game: game(),
            setting: setting.clone(),
            remembers: setting.cast.iter().map(|casting| self.remembers(&casting.kind)).collect(),
            factories: factories.collect::<Result<_, _>>()?,
            lay,
            start: self.start.clone(),
            abilities: self.abilities,
            sources: self.sources.clone(),
            a_second: self.sheet.ticks_per_second.unwrap_or(1.0),
        })
    }
}

fn seats_in_words(sheet: &GameSheet) -> String {
    let (low, high) = (sheet.seats.start(), sheet.seats.end());
    if low == high { low.to_string() } else { format!("{low} to {high}") }
}

/// A game with hidden types, as everything above the match loop uses it.
pub trait GameEntry: Send + Sync {
    /// Returns the game's sheet.
    fn sheet(&self) -> &GameSheet;
    /// Returns the sheets of its agents.
    fn agents(&self) -> &[AgentSheet];
    /// A stage on which a setting can be played.
    fn stage(&self, setting: &Setting) -> Result<Box<dyn Stage>, SettingError>;
    /// Matches of a setting in which the entrant [`LEARNER`](crate::LEARNER) is decided from outside; its kind and
    /// knobs count for nothing.
    fn lessons(&self, setting: &Setting) -> Result<Box<dyn Lessons>, SettingError>;
    /// Whether its positions are filed, so that their values can be learned one by one.
    fn files_positions(&self) -> bool;
    /// Finds the best response to the other of a cast of two in which the entrant [`LEARNER`](crate::LEARNER) answers, at
    /// every position that can be reached from the plain start.
    fn best_response(&self, setting: &Setting, request: &ResponseRequest) -> Result<Response, InquiryError>;
    /// Returns the observations and actions of policies under these rules (all given); none for a game without
    /// features.
    fn features(&self, rules: &Knobs) -> Option<FeatureSheet>;

    /// Whether it plays whole matches by itself, so that nobody sees its agents decide.
    fn plays_by_itself(&self) -> bool;
    /// Whether it draws its states.
    fn has_scene(&self) -> bool;
    /// Returns the controls of a game in real time; empty if it has none.
    fn controls(&self) -> &[Control];
    /// Explains the decision of a seat, or of the first to act, at a position or the plain start, with this many layers
    /// of options and replies.
    fn explain(
        &self,
        setting: &Setting,
        position: Option<&str>,
        seat: Option<Seat>,
        layers: u32,
    ) -> Result<Explained, InquiryError> {
        explain(self.stage(setting)?.open_at(position)?.as_mut(), seat, layers)
    }
    /// Positions and move sequences by depth, from a position or the plain start of a setting; `listener` hears each
    /// layer as it is done.
    fn count(
        &self,
        setting: &Setting,
        position: Option<&str>,
        request: &CountRequest,
        listener: &mut dyn FnMut(&Layer),
    ) -> Result<Vec<Layer>, InquiryError>;
}

impl<G: Playable> GameEntry for Entry<G> {
    fn sheet(&self) -> &GameSheet {
        &self.sheet
    }

    fn agents(&self) -> &[AgentSheet] {
        &self.agent_sheets
    }

    fn plays_by_itself(&self) -> bool {
        self.plays_by_itself
    }

    fn has_scene(&self) -> bool {
        self.abilities.pictures.is_some()
    }

    fn controls(&self) -> &[Control] {
        &self.controls
    }

    fn features(&self, rules: &Knobs) -> Option<FeatureSheet> {
        self.features.as_ref().map(|features| features(rules))
    }

    fn stage(&self, setting: &Setting) -> Result<Box<dyn Stage>, SettingError> {
        Ok(Box::new(StageOf::new(self.setup(setting)?)))
    }

    fn lessons(&self, setting: &Setting) -> Result<Box<dyn Lessons>, SettingError> {
        let others = setting.cast.iter().filter(|casting| casting.entrant != LEARNER);
        if let Some(other) = others.into_iter().find(|casting| self.remembers(&casting.kind)) {
            let reason = "it remembers the matches of a block, and those of a learner are not played again".into();
            return Err(SettingError::Agent { game: self.sheet.name.clone(), kind: other.kind.clone(), reason });
        }
        let setup = self.setup_with(setting, |casting| casting.entrant == LEARNER)?;
        Ok(Box::new(LessonsOf::new(setup)))
    }

    fn files_positions(&self) -> bool {
        self.abilities.filing.is_some()
    }

    fn best_response(&self, setting: &Setting, request: &ResponseRequest) -> Result<Response, InquiryError> {
        let unsolved = || InquiryError::NotSolved { game: self.sheet.name.clone() };
        let respond = self.respond.ok_or_else(unsolved)?;
        let other = setting.cast.iter().position(|casting| casting.entrant != LEARNER).ok_or_else(unsolved)?;
        let setup = self.setup_with(setting, |casting| casting.entrant == LEARNER)?;
        let Casting { kind, knobs, .. } = &setting.cast[other];
        let sheet = self.agent_sheets.iter().find(|sheet| sheet.name == *kind);
        let without_chance = sheet.is_some_and(|sheet| sheet.is_without_chance(knobs));
        Ok(respond(&setup.position(None)?, &setup.factories[other], without_chance, request)?)
    }

    fn count(
        &self,
        setting: &Setting,
        position: Option<&str>,
        request: &CountRequest,
        listener: &mut dyn FnMut(&Layer),
    ) -> Result<Vec<Layer>, InquiryError> {
        let count = self.count.ok_or_else(|| InquiryError::NotCounted { game: self.sheet.name.clone() })?;
        Ok(count(&self.setup(setting)?.position(position)?, request, listener)?)
    }
}

impl dyn GameEntry + '_ {
    /// The sheet of an agent kind.
    pub fn agent(&self, kind: &str) -> Option<&AgentSheet> {
        self.agents().iter().find(|sheet| sheet.name == kind)
    }

    /// Names of the measures, in the order of their columns.
    pub fn measure_names(&self) -> Vec<String> {
        self.sheet().measures.iter().map(|measure| measure.name.clone()).collect()
    }
}
