//! The common part of all matches of a stage.

use thiserror::Error;

use crate::experience::Source;
use crate::filing::Filing;
use crate::{
    Agent, Chance, Factory, Game, GaveUp, Intent, Laying, Person, Scene, Seat, SeatSet, Setting, Shape, Spot, Streams,
};

/// Makes the state at the start of a match from the world's chance.
pub type GameFactory<G> = Box<dyn Fn(&mut Chance) -> G + Send + Sync>;

/// Makes a start that is the same for all.
pub(crate) type PlainStart<G> = std::sync::Arc<dyn Fn(&Laying) -> Result<G, String> + Send + Sync>;

/// Appends the options of a seat.
type OptionsOf<G> = fn(&G, Seat, &mut Vec<<G as Game>::Action>);

/// The functions of features: a seat's observation, and the action of an intent.
pub(crate) type FeaturesOf<G> = (fn(&G, Seat, &mut Vec<f32>), fn(&G, Seat, Intent) -> <G as Game>::Action);

/// Maps a seat's pressed controls to an action.
type HandOf<G> = fn(&G, Seat, Option<usize>, Option<usize>) -> <G as Game>::Action;

/// The functions of a game's capabilities, so that no code asks for its type.
pub(crate) struct Abilities<G: Game> {
    /// Position text, both ways.
    pub(crate) positions: Option<Positions<G>>,
    /// The options of a seat.
    pub(crate) options: Option<OptionsOf<G>>,
    /// The controls of a person.
    pub(crate) hand: Option<HandOf<G>>,
    /// Pictures of the state.
    pub(crate) pictures: Option<Pictures<G>>,
    /// Views and actions as numbers.
    pub(crate) features: Option<FeaturesOf<G>>,
    /// Positions folded by their symmetries.
    pub(crate) filing: Option<Filing<G>>,
}

/// The functions of pictures: the state, a seat's perception, and the seat's place.
pub(crate) struct Pictures<G> {
    pub(crate) scene: fn(&G, &mut Scene),
    pub(crate) sight: fn(&G, Seat, &mut Vec<Shape>),
    pub(crate) place: fn(&G, Seat) -> Option<[f64; 2]>,
}

impl<G> Clone for Pictures<G> {
    fn clone(&self) -> Self {
        *self
    }
}

impl<G> Copy for Pictures<G> {}

/// Position text, both ways.
pub(crate) struct Positions<G> {
    pub(crate) note: fn(&G) -> String,
    pub(crate) read: fn(&G, &str) -> Result<G, String>,
}

impl<G: Game> Clone for Abilities<G> {
    fn clone(&self) -> Self {
        *self
    }
}

impl<G: Game> Copy for Abilities<G> {}

impl<G> Clone for Positions<G> {
    fn clone(&self) -> Self {
        *self
    }
}

impl<G> Copy for Positions<G> {}

/// An error: the match cannot begin at the position.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum PositionError {
    /// The game has no position text.
    #[error("positions of `{game}` cannot be written as text")]
    #[expect(missing_docs, reason = "the game's name")]
    NoPositions { game: String },
    /// The text is no position.
    #[error("this is not a position of `{game}`: {reason}")]
    #[expect(missing_docs, reason = "the game's name; what is wrong and how to write it")]
    Position { game: String, reason: String },
    /// The game panicked over it.
    #[error("`{game}` failed at this position: it {reason}")]
    #[expect(missing_docs, reason = "the game's name; the panic's message")]
    Fell { game: String, reason: String },
}

/// The common part of all matches of a stage.
pub(crate) struct Setup<G: Game> {
    pub(crate) game: String,
    pub(crate) setting: Setting,
    pub(crate) factories: Vec<Factory<G>>,
    /// Whether each member of the cast lasts for a block.
    pub(crate) remembers: Vec<bool>,
    pub(crate) lay: GameFactory<G>,
    pub(crate) start: Option<PlainStart<G>>,
    pub(crate) abilities: Abilities<G>,
    /// The source of each measure.
    pub(crate) sources: Vec<Source>,
    /// Ticks a second; 1 for turns.
    pub(crate) a_second: f64,
}

impl<G: Game> Setup<G> {
    /// Seats of every match.
    pub(crate) fn seats(&self) -> usize {
        self.factories.len()
    }

    /// Matches a block.
    pub(crate) fn matches_a_block(&self) -> usize {
        self.setting.seating.matches_a_block()
    }

    /// Whether anybody of the cast lasts for a block.
    pub(crate) fn is_remembered(&self) -> bool {
        self.remembers.contains(&true)
    }

    fn streams(&self) -> Streams {
        Streams::of_study(self.setting.study_seed)
    }

    /// The state at the start of a match, with the world's chance from there on. Errs when the game has not the seats
    /// that it was asked for.
    pub(crate) fn laid(&self, spot: Spot) -> Result<(G, Chance), String> {
        let mut world = Chance::from_seed(self.world_seed(spot));
        let game = (self.lay)(&mut world);
        let (seats, scores, wanted) = (game.seats(), game.scores().len(), self.seats());
        if (seats, scores) != (wanted, wanted) {
            return Err(format!("the game has {seats} seats and {scores} scores, and the match has {wanted} entrants"));
        }
        Ok((game, world))
    }

    /// The seed of the world of a match.
    pub(crate) fn world_seed(&self, spot: Spot) -> u64 {
        self.streams().world_seed(spot.block, self.setting.seating.round_of(spot.rotation))
    }

    /// A seat's own chance in a match.
    pub(crate) fn seat_chance(&self, spot: Spot, seat: Seat) -> Chance {
        self.streams().of_pairing(self.setting.pairing).seat(spot.block, spot.rotation, seat)
    }

    /// Whether the course of the scores is known, and not only their end.
    pub(crate) fn has_course(&self) -> bool {
        self.sources.iter().any(|source| *source != Source::Game)
    }

    /// Returns the person of a member of the cast in a match.
    pub(crate) fn person(&self, who: usize, spot: Spot) -> Person {
        let chance = self.streams().person(spot.block, usize::from(self.entrant(who)));
        Person { chance, matches_before: spot.rotation as u32 }
    }

    /// An agent of a member of the cast.
    pub(crate) fn agent(&self, who: usize, person: Person) -> Result<Box<dyn Agent<G>>, GaveUp> {
        (self.factories[who])(person)
    }

    /// The seats whose choices are kept, where the cast is seated so.
    pub(crate) fn recorded(&self, seating: &[usize]) -> SeatSet {
        let seats = seating.iter().enumerate().filter(|(_, who)| self.setting.cast[**who].recorded);
        seats.map(|(seat, _)| seat).collect()
    }

    /// The place in the study of a member of the cast.
    pub(crate) fn entrant(&self, who: usize) -> u16 {
        self.setting.cast[who].entrant
    }

    /// Writes the seating of a match: for each seat the place in the cast.
    pub(crate) fn seating(&self, spot: Spot, places: &mut Vec<usize>) {
        self.setting.seating.seat(spot.rotation, || self.streams().order(spot.block), places);
    }

    /// The state at the plain start, or, where the game has none, where the first match begins.
    fn first_state(&self) -> Result<G, PositionError> {
        match &self.start {
            None => Ok((self.lay)(&mut Chance::from_seed(self.world_seed(Spot::default())))),
            Some(start) => start(&self.setting.laying(None))
                .map_err(|reason| PositionError::Position { game: self.game.clone(), reason }),
        }
    }

    /// The state that a text describes; the first one without a text.
    pub(crate) fn position(&self, text: Option<&str>) -> Result<G, PositionError> {
        let first = self.first_state()?;
        let Some(text) = text else { return Ok(first) };
        let game = || self.game.clone();
        let positions = self.abilities.positions.ok_or_else(|| PositionError::NoPositions { game: game() })?;
        (positions.read)(&first, text).map_err(|reason| PositionError::Position { game: game(), reason })
    }
}
