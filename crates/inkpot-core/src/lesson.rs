//! Matches in which somebody learns: some seats are decided from outside, in numbers.

use std::sync::Arc;

use crate::fall::catch;
use crate::held_table::{Cast, HeldTable};
use crate::setup::Setup;
use crate::{Acting, Fall, Game, Intent, MatchTable, Playable, Position, Record, Rows, Seat, Spot, TICK_LIMIT};

/// The learner's place in the study; its choices come from outside.
pub const LEARNER: u16 = 0;

/// Matches of one setting in which the entrant [`LEARNER`] is decided from outside, by intents or by places among the
/// options of a position; all others decide for themselves.
///
/// A fall of the game or of an agent ends the match, as it does everywhere.
pub trait Lessons: Send {
    /// Begins the match of a spot, and plays on until the learner decides or the match is over.
    fn begin(&mut self, spot: Spot);
    /// Whether the match is over.
    fn is_over(&self) -> bool;
    /// The seat of the learner that decides now, or did last.
    fn seat(&self) -> Seat;
    /// Writes that seat's observation into `into`; empty if the game has no features.
    fn observe(&mut self, into: &mut Vec<f32>);
    /// Carries out an intent for this many decisions of the learner, at least 1, and plays on until it decides again or
    /// the match is over.
    fn act(&mut self, intent: Intent<'_>, decisions: u32);
    /// The position before the learner, as its symmetries fold it; none where the game has no keys or no text of positions,
    /// and once the match is over.
    fn position(&mut self) -> Option<Position>;
    /// Takes one of the options of that position, and plays on until the learner decides again or the match is over.
    fn take(&mut self, option: usize);
    /// Writes over `into` the rows of the match as it stands: cut short now, where it is not over.
    fn rows(&mut self, into: &mut Rows);
}

/// The lessons of a concrete game.
pub(crate) struct LessonsOf<G: Game> {
    setup: Arc<Setup<G>>,
    seating: Vec<usize>,
    held: Option<HeldTable<G>>,
    /// The learner's seat that decides, or did last.
    seat: Seat,
    pending: Vec<Seat>,
}

impl<G: Playable> LessonsOf<G> {
    pub(crate) fn new(setup: Setup<G>) -> Self {
        Self { setup: Arc::new(setup), seating: Vec::new(), held: None, seat: 0, pending: Vec::new() }
    }

    /// Lets the learner choose this often, and plays on after each until it decides again or the match is over.
    fn play(&mut self, decisions: u32, choose: impl Fn(&Setup<G>, &G, Seat) -> Option<G::Action>) {
        let Self { setup, seating, held, seat, pending } = self;
        let Some(held) = held else { return };
        let learns = |seat: Seat| seating.get(seat).is_some_and(|&who| setup.entrant(who) == LEARNER);
        held.at_table(|table| {
            for _ in 0..decisions {
                if let Some(action) = choose(setup, table.game(), *seat) {
                    table.choose(*seat, action);
                }
                match play_on(table, &learns, pending)? {
                    Some(due) => *seat = due,
                    None => break,
                }
            }
            Ok(())
        });
        held.look();
    }
}

/// Lets all others decide, and steps, until one of the learner's seats decides; none once the match is over.
fn play_on<G: Game>(
    table: &mut MatchTable<G>,
    learns: &impl Fn(Seat) -> bool,
    pending: &mut Vec<Seat>,
) -> Result<Option<Seat>, Fall> {
    loop {
        table.pending(pending);
        let mut due = None;
        for &seat in pending.iter() {
            if learns(seat) {
                due = due.or(Some(seat));
            } else {
                table.decide(seat)?;
            }
        }
        if due.is_some() {
            return Ok(due);
        }
        if table.stepper().acting() == Acting::Nobody || table.tick() >= TICK_LIMIT {
            return Ok(None);
        }
        table.step()?;
    }
}

impl<G: Playable> Lessons for LessonsOf<G> {
    fn begin(&mut self, spot: Spot) {
        self.setup.seating(spot, &mut self.seating);
        let begun = catch(|| self.setup.laid(spot)).and_then(|laid| laid);
        let begun = begun.and_then(|(game, world)| catch(|| MatchTable::new(game, world)));
        self.held = Some(HeldTable::begin(
            self.setup.clone(),
            spot,
            Cast::seated(self.seating.clone()),
            &Record::default(),
            begun,
        ));
        self.play(1, |_, _, _| None);
    }

    fn is_over(&self) -> bool {
        self.held.as_ref().is_none_or(HeldTable::is_over)
    }

    fn seat(&self) -> Seat {
        self.seat
    }

    fn observe(&mut self, into: &mut Vec<f32>) {
        into.clear();
        let (Some(held), Some((observe, _))) = (&mut self.held, self.setup.abilities.features) else { return };
        held.look_at(|game| observe(game, self.seat, into));
    }

    fn act(&mut self, intent: Intent<'_>, decisions: u32) {
        self.play(decisions, |setup, game, seat| setup.abilities.features.map(|(_, act)| act(game, seat, intent)));
    }

    fn position(&mut self) -> Option<Position> {
        let filing = self.setup.abilities.filing?;
        let seat = self.seat;
        self.held.as_mut().filter(|held| !held.is_over())?.look_at(|game| (filing.position)(game, seat))
    }

    fn take(&mut self, option: usize) {
        self.play(1, |setup, game, seat| setup.abilities.filing.map(|filing| (filing.action)(game, seat, option)));
    }

    fn rows(&mut self, into: &mut Rows) {
        into.clear();
        if let Some(held) = &mut self.held {
            held.record(into);
        }
    }
}
