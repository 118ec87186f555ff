//! A match that is learned in, with what its decisions pay.

use std::sync::Arc;

use inkpot_core::{GameEntry, Intent, Lessons, MatchRows, Outcome, Rows, Seat, Setting, Spot};
use inkpot_learn::{At, End, Environment, Genome, Step, Turns};

use super::asked::Train;
use super::past::Record;
use crate::kinds::found::{Figures, Pays};

/// Matches of a training, one after the other.
pub(super) struct Lesson<'a> {
    train: &'a Train,
    game: &'a dyn GameEntry,
    /// The number of the repetition.
    number: usize,
    /// Fixed opponents; 1 where it plays alone, or both sides.
    fixed: usize,
    /// One a fixed opponent, and behind them the one against a past self that is under way.
    lessons: Vec<Box<dyn Lessons>>,
    /// What the learner was before, and how it did against each.
    past: Arc<Past>,
    /// The past self that is met in the match under way.
    met: Option<usize>,
    /// Who is met next whatever the record, where a match is brought back that was under way.
    again: Option<usize>,
    /// The past selves of matches that have ended, with the learner's points.
    results: Vec<(usize, f64)>,
    /// Which of them is under way.
    now: usize,
    rows: Rows,
    /// What each way of paying stood at before the coming decision, to the learner, or, where it plays itself, to seat 0.
    before: Standing,
    /// What came of the matches that have ended since they were last asked for.
    ended: Vec<Figures>,
    /// Ticks or turns since they were last asked for.
    ticks: u64,
    /// The tick of the match at the last decision.
    tick: u64,
    /// Numbers of observations that lay outside their range, figure by figure.
    outside: Vec<u64>,
    /// Why a match could not be played to its end, if one could not.
    fell: Option<String>,
}

/// What a learner was before, and how it did against each.
#[derive(Default)]
pub(super) struct Past {
    pub(super) selves: Vec<Genome>,
    pub(super) record: Record,
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
        let lessons: Vec<_> = train.lessons(number).iter().map(|setting| staged(setting, game)).collect();
        Self {
            number,
            fixed: lessons.len(),
            lessons,
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
            fell: None,
            train,
            game,
        }
    }

    /// From now on it meets these.
    pub(super) fn meet(&mut self, past: &Arc<Past>) {
        self.past = past.clone();
    }

    /// The next match is against this past self, as one that was under way.
    pub(super) fn meet_again(&mut self, met: Option<usize>) {
        self.again = met;
    }

    /// The past self that is met in the match under way.
    pub(super) fn met(&self) -> Option<usize> {
        self.met
    }

    /// The past selves of matches that have ended since this was last asked, with the learner's points.
    pub(super) fn take_results(&mut self) -> Vec<(usize, f64)> {
        std::mem::take(&mut self.results)
    }

    /// Ticks or turns, and what came of the matches that have ended, since this was last asked.
    pub(super) fn take_news(&mut self) -> (u64, Vec<Figures>) {
        (std::mem::take(&mut self.ticks), std::mem::take(&mut self.ended))
    }

    /// Why a match could not be played to its end, if one could not.
    pub(super) fn fell(&self) -> Option<&str> {
        self.fell.as_deref()
    }

    fn spot(&self, episode: u64) -> (usize, Spot) {
        let past = u64::from(self.train.meets_past());
        let (seats, opponents) = (self.train.seats(), self.fixed as u64 + past);
        let rotation = (episode % seats) as usize;
        let opponent = (episode / seats % opponents) as usize;
        let block = episode / seats / opponents;
        (opponent, Spot { cell: 0, block, rotation, match_index: 0, leads: false })
    }

    fn begin_match(&mut self, episode: u64) {
        let (opponent, spot) = self.spot(episode);
        self.now = opponent;
        self.met = None;
        if opponent == self.fixed {
            let seed = self.train.aim.seed_of(self.number);
            let met = self.again.take().unwrap_or_else(|| self.past.record.met(seed, episode));
            let setting = self.train.against_past(self.number, &self.past.selves[met], self.game);
            self.lessons.truncate(opponent);
            self.lessons.push(staged(&setting, self.game));
            self.met = Some(met);
        }
        self.lessons[opponent].begin(spot);
        self.tick = 0;
        self.before = self.standing();
        if self.lessons[opponent].is_over() {
            self.fell.get_or_insert_with(|| "a match was over before the learner could decide".into());
        }
    }

    /// How it stands, to the learner or to seat 0.
    fn standing(&mut self) -> Standing {
        let Self { train, game, lessons, now, rows, .. } = self;
        lessons[*now].rows(rows);
        let Some(played) = rows.matches().next() else { return Standing::default() };
        let to = |seat: Seat| {
            let mut sum = Standing::default();
            for term in &train.aim.terms {
                let value = term.value(played, seat, game.sheet());
                let worth = if value.is_finite() { term.weight * value } else { 0.0 };
                match term.pays {
                    Pays::Change => sum.change += worth,
                    Pays::End => sum.end += worth,
                    Pays::Shape => sum.shape += worth,
                }
            }
            sum
        };
        if !train.plays_both() {
            return to(played.seat_of(0).unwrap_or(0));
        }
        // What one gets the other loses.
        let (own, other) = (to(0), to(1));
        Standing { change: own.change - other.change, end: own.end - other.end, shape: own.shape - other.shape }
    }

    /// What the decision paid that has led here, to the learner or to seat 0, and whether the match has ended with it.
    fn paid(&mut self) -> Step {
        let now = self.standing();
        let over = self.lessons[self.now].is_over();
        let tick = self.rows.rows.first().map_or(0, |row| row.ticks);
        self.ticks += tick - std::mem::replace(&mut self.tick, tick);
        let before = std::mem::replace(&mut self.before, now);
        // At the end a potential is 0, whatever the figure.
        let later = if over { 0.0 } else { self.train.method.discount() * now.shape };
        let reward = now.change - before.change + if over { now.end } else { 0.0 } + later - before.shape;
        let end = over.then(|| self.end());
        Step { reward, end }
    }

    /// Notes what came of the match.
    fn end(&mut self) -> End {
        let Self { train, game, rows, .. } = self;
        let Some(played) = rows.matches().next() else { return End::Over };
        let seat = played.seat_of(0).unwrap_or(0);
        let row = &played.seats()[seat];
        if row.outcome == Outcome::Void || row.incident.is_some() {
            let incident = row.incident.clone().unwrap_or_default();
            self.fell.get_or_insert_with(|| format!("a match failed while it was learned in: {incident}"));
        }
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
    fn begin(&mut self, episode: u64) {
        self.begin_match(episode);
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
    fn begin(&mut self, episode: u64) {
        self.begin_match(episode);
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
        Step { reward: if mirrored { -step.reward } else { step.reward }, ..step }
    }
}
