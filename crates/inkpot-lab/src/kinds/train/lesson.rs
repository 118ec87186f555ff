//! A training match, with the pay of its decisions.

use std::sync::Arc;

use inkpot_core::{
    GameEntry, Halt, InquiryError, Intent, Lessons, MatchRows, Response, ResponseError, Rows, Seat, Setting, Spot,
};
use inkpot_learn::{At, End, Environment, Genome, Step, Turns};
use serde::{Deserialize, Serialize};

use super::asked::Train;
use super::past::Record;
use crate::figure::player_seat;
use crate::kinds::found::{Figures, Pays, Purpose};

/// Matches of a training, one after the other.
pub(super) struct Lesson<'a> {
    train: &'a Train,
    game: &'a dyn GameEntry,
    /// The number of the repetition.
    number: usize,
    /// The leg on which matches begin from now on.
    leg: usize,
    /// The leg of the match under way.
    staged: usize,
    /// Fixed opponents; 1 where it plays alone, or both sides.
    fixed: usize,
    /// The lessons of the legs that matches take turns on, each once it was laid out and while another is staged.
    laid: Vec<Vec<Box<dyn Lessons>>>,
    /// One a fixed opponent, and behind them the one against a past self that is under way.
    lessons: Vec<Box<dyn Lessons>>,
    /// The learner's earlier states, with its results against each.
    past: Arc<Past>,
    /// The past self that is met in the match under way.
    met: Option<usize>,
    /// The match to restore instead of the one that leg and record give.
    again: Option<UnderWay>,
    /// The past selves of matches that have ended, with the learner's points.
    results: Vec<(usize, f64)>,
    /// The index of the present setting.
    now: usize,
    rows: Rows,
    /// The standing of each way of paying before the coming decision: for the learner, or for seat 0 in self-play.
    before: Standing,
    /// The figures of matches that ended since the last request.
    ended: Vec<Figures>,
    /// Ticks or turns since they were last asked for.
    ticks: u64,
    /// The tick of the match at the last decision.
    tick: u64,
    /// The times at which each figure of an observation was out of range, since the last request.
    outside: Vec<u64>,
    /// Matches in a row that were over before the learner could decide.
    idle: u32,
    /// Why a match could not be played to its end, if one could not.
    fell: Option<String>,
}

/// Matches in a row that may be over before the learner can decide.
const MOST_IDLE: u32 = 1_000;

/// A learner's earlier states, with its results against each.
#[derive(Default)]
pub(super) struct Past {
    pub(super) selves: Vec<Genome>,
    pub(super) record: Record,
}

/// The data of a match in progress, beside its number.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub(super) struct UnderWay {
    /// Its leg.
    leg: usize,
    /// The past self that is met in it, if one is.
    met: Option<usize>,
}

/// The events of matches since the last request.
#[derive(Default)]
pub(super) struct News {
    /// Ticks or turns.
    pub(super) ticks: u64,
    /// The figures of the matches that ended.
    pub(super) ended: Vec<Figures>,
    /// The times at which each figure of an observation was out of range.
    pub(super) outside: Vec<u64>,
    /// The past selves that were met in those that have ended, with the learner's points.
    pub(super) results: Vec<(usize, f64)>,
}

/// The weighted sum of the terms that pay each way.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
struct Standing {
    change: f64,
    end: f64,
    shape: f64,
}

impl<'a> Lesson<'a> {
    /// The matches of the repetition of this number.
    ///
    /// # Panics
    /// When one cannot be staged; they were checked before.
    pub(super) fn new(train: &'a Train, number: usize, game: &'a dyn GameEntry) -> Self {
        let mut lesson = Self {
            number,
            leg: 0,
            staged: 0,
            fixed: 0,
            laid: (0..=train.legs.len()).map(|_| Vec::new()).collect(),
            lessons: Vec::new(),
            past: Arc::default(),
            met: None,
            again: None,
            results: Vec::new(),
            rows: Rows::new(game.sheet().measures.len()),
            now: 0,
            before: Standing::default(),
            ended: Vec::new(),
            ticks: 0,
            tick: 0,
            outside: Vec::new(),
            idle: 0,
            fell: None,
            train,
            game,
        };
        lesson.stage(0);
        lesson
    }

    /// Lays out a leg, once.
    fn stage(&mut self, leg: usize) {
        self.lessons.truncate(self.fixed);
        self.laid[self.staged] = std::mem::take(&mut self.lessons);
        self.staged = leg;
        self.lessons = std::mem::take(&mut self.laid[leg]);
        if self.lessons.is_empty() {
            let settings = self.train.lessons(self.number, leg);
            self.lessons = settings.iter().map(|setting| staged(setting, self.game)).collect();
        }
        self.fixed = self.lessons.len();
    }

    /// From now on matches begin on this leg, and it meets these.
    pub(super) fn go_on(&mut self, leg: usize, past: &Arc<Past>) {
        self.leg = leg;
        self.past = past.clone();
    }

    /// The next match is this one, which was under way.
    pub(super) fn begin_again(&mut self, under_way: Option<UnderWay>) {
        self.again = under_way;
    }

    /// The match under way.
    pub(super) fn under_way(&self) -> UnderWay {
        UnderWay { leg: self.staged, met: self.met }
    }

    /// Returns and clears the events.
    pub(super) fn take_news(&mut self) -> News {
        News {
            ticks: std::mem::take(&mut self.ticks),
            ended: std::mem::take(&mut self.ended),
            outside: std::mem::take(&mut self.outside),
            results: std::mem::take(&mut self.results),
        }
    }

    /// Computes the best response to the opponent of these matches; none after a request to stop, or with an error that
    /// is reported like that of a match.
    pub(super) fn best_response(&mut self, halt: &Halt) -> Option<Response> {
        let request = self.train.method.exact(self.train.aim.stream(Purpose::Learning, self.number), halt);
        let found = self.game.best_response(&self.train.lessons(self.number, self.leg)[0], &request);
        match found {
            Ok(response) => Some(response),
            Err(InquiryError::Response(ResponseError::Halted)) => None,
            Err(error) => {
                self.fell.get_or_insert(error.to_string());
                None
            }
        }
    }

    /// Why a match could not be played to its end, if one could not.
    pub(super) fn fell(&self) -> Option<&str> {
        self.fell.as_deref()
    }

    /// Whose turn it is where legs are mixed, and the place of this block among those of the leg.
    fn turn(&self, episode: u64) -> (usize, u64) {
        let block = episode / self.train.matches_a_block();
        let legs = if self.train.mixed { self.train.legs.len() as u64 + 1 } else { 1 };
        ((block % legs) as usize, block / legs)
    }

    fn spot(&self, episode: u64) -> (usize, Spot) {
        let past = u64::from(self.train.meets_past());
        let (a_block, opponents) = (self.train.matches_a_block(), self.fixed as u64 + past);
        let rotation = (episode % a_block) as usize;
        let (_, place) = self.turn(episode);
        let opponent = (place % opponents) as usize;
        let block = place / opponents;
        (opponent, Spot { cell: 0, block, rotation, match_index: 0, leads: false })
    }

    /// Begins a match; false if it is over before the learner can decide.
    fn begin_match(&mut self, episode: u64) -> bool {
        let again = self.again.take();
        let leg = match again {
            Some(again) => again.leg,
            None if self.train.mixed => self.turn(episode).0,
            None => self.leg,
        };
        if leg != self.staged {
            self.stage(leg);
        }
        let (opponent, spot) = self.spot(episode);
        self.now = opponent;
        self.met = None;
        if opponent == self.fixed {
            let seed = self.train.aim.stream(Purpose::Learning, self.number);
            let met = again.and_then(|again| again.met).unwrap_or_else(|| self.past.record.met(seed, episode));
            let setting = self.train.against_past(self.number, leg, &self.past.selves[met], self.game);
            self.lessons.truncate(opponent);
            self.lessons.push(staged(&setting, self.game));
            self.met = Some(met);
        }
        self.lessons[opponent].begin(spot);
        self.tick = 0;
        self.before = self.standing();
        if !self.lessons[opponent].is_over() {
            self.idle = 0;
            return true;
        }
        self.idle += 1;
        self.notice_fall();
        if self.idle >= MOST_IDLE {
            self.fell.get_or_insert_with(|| {
                format!("{MOST_IDLE} matches in a row were over before the learner could decide")
            });
        }
        // One that cannot go on is told when the learner comes back from it.
        self.fell.is_some()
    }

    /// Whether the match could not be played to its end.
    fn notice_fall(&mut self) {
        let incident = self.rows.rows.iter().find_map(|row| row.incident.clone());
        if let Some(incident) = incident {
            self.fell.get_or_insert_with(|| format!("a match failed while it was learned in: {incident}"));
        }
    }

    /// Returns the present standing of the learner, or of seat 0.
    fn standing(&mut self) -> Standing {
        let Self { train, game, lessons, now, rows, .. } = self;
        lessons[*now].rows(rows);
        let Some(played) = rows.matches().next() else { return Standing::default() };
        let to = |seat: Seat| {
            let mut sum = Standing::default();
            for term in &train.aim.terms {
                let value = term.value(played, seat, game.sheet());
                let value = if value.is_finite() { term.weight * value } else { 0.0 };
                match term.pays {
                    Pays::Change => sum.change += value,
                    Pays::End => sum.end += value,
                    Pays::Shape => sum.shape += value,
                }
            }
            sum
        };
        if !train.plays_both() {
            return to(player_seat(played));
        }
        // What one gets the other loses.
        let (mine, other) = (to(0), to(1));
        Standing { change: mine.change - other.change, end: mine.end - other.end, shape: mine.shape - other.shape }
    }

    /// Returns the pay of the last decision to the learner, or to seat 0, and whether the match ended with it.
    fn paid(&mut self) -> Step {
        let now = self.standing();
        let over = self.lessons[self.now].is_over();
        let tick = self.rows.rows.first().map_or(0, |row| row.ticks);
        self.ticks += tick - std::mem::replace(&mut self.tick, tick);
        let before = std::mem::replace(&mut self.before, now);
        let end = over.then(|| self.end());
        // A potential is 0 where nothing more can be had, whatever the figure; what was cut short could have gone on.
        let later = if end == Some(End::Over) { 0.0 } else { self.train.method.discount() * now.shape };
        let reward = now.change - before.change + if over { now.end } else { 0.0 } + later - before.shape;
        Step { reward, end }
    }

    /// Records the result of the match.
    fn end(&mut self) -> End {
        self.notice_fall();
        let Self { train, game, rows, .. } = self;
        let Some(played) = rows.matches().next() else { return End::Over };
        let seat = player_seat(played);
        let row = &played.seats()[seat];
        let sheet = game.sheet();
        let outcome = |played: MatchRows| train.aim.yardstick.of.of(played, seat, sheet.ticks_per_second);
        self.ended.push(Figures {
            terms: train.aim.terms.iter().map(|term| term.value(played, seat, sheet)).collect(),
            outcome: outcome(played),
        });
        self.results.extend(self.met.map(|met| (met, played.points(seat))));
        if row.cut_short { End::CutShort } else { End::Over }
    }
}

/// Matches that were checked before.
///
/// # Panics
/// When they cannot be staged.
fn staged(setting: &Setting, game: &dyn GameEntry) -> Box<dyn Lessons> {
    game.lessons(setting).unwrap_or_else(|error| panic!("cannot stage what was checked: {error}"))
}

impl Environment for Lesson<'_> {
    fn begin(&mut self, episode: u64) -> bool {
        self.begin_match(episode)
    }

    fn observe(&mut self, into: &mut Vec<f32>) {
        self.lessons[self.now].observe(into);
        self.outside.resize(into.len(), 0);
        for (count, x) in self.outside.iter_mut().zip(into) {
            *count += u64::from(!(-1.0..=1.0).contains(x));
        }
    }

    fn step(&mut self, intent: Intent<'_>) -> Step {
        self.lessons[self.now].act(intent, self.train.decide_every());
        self.paid()
    }
}

impl Turns<String> for Lesson<'_> {
    fn begin(&mut self, episode: u64) -> bool {
        self.begin_match(episode)
    }

    fn at(&mut self) -> At<String> {
        let side = if self.train.plays_both() { self.lessons[self.now].seat() } else { 0 };
        match self.lessons[self.now].position() {
            Some(position) => At { key: position.note, options: position.options, side },
            None => At { key: String::new(), options: 1, side },
        }
    }

    fn step(&mut self, option: usize) -> Step {
        let seat = self.lessons[self.now].seat();
        self.lessons[self.now].take(option);
        let step = self.paid();
        let mirrored = self.train.plays_both() && seat == 1;
        // There is no position after the end by which what could still be had might be guessed.
        let end = step.end.map(|_| End::Over);
        Step { reward: if mirrored { -step.reward } else { step.reward }, end }
    }
}
