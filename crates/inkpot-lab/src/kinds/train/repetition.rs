//! One repetition of a training: it learns for a while, is looked at, and learns on.

use std::sync::{Arc, Mutex, MutexGuard, PoisonError};

use inkpot_core::{GameEntry, Halt};
use inkpot_learn::{Genome, Learned};
use serde::{Deserialize, Serialize};

use super::asked::Train;
use super::files;
use super::learner::Learner;
use super::lesson::{Lesson, Past};
use super::past::Record;
use crate::kinds::found::{Comparison, Ended, Figures, Looks, Pick, Seen, StoppedBy};
use crate::searching::Play;

/// Decisions after which a repetition that learns is saved.
const SAVED_EVERY: u64 = 16_384;

/// States of the agent that are kept on the way, about.
const EARLIER: u64 = 10;

/// What is kept of the time between two looks.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Round {
    /// Matches that had ended by then.
    pub(super) matches: u64,
    /// Decisions by then.
    pub(super) steps: u64,
    /// Ticks or turns by then.
    pub(super) ticks: u64,
    /// Rewards of a match: the best, and the lower quartile, the median and the upper one.
    #[serde(with = "crate::gaps::one")]
    pub(super) best: f64,
    #[serde(with = "crate::gaps::many")]
    pub(super) quartiles: Vec<f64>,
    /// The terms of its matches, and their outcome.
    pub(super) figures: Figures,
    /// Means over its updates, where they are known.
    pub(super) entropy: Option<f64>,
    pub(super) explained: Option<f64>,
    pub(super) moved: Option<f64>,
    pub(super) loss: f64,
    /// How often each option was taken.
    pub(super) taken: Vec<u64>,
    /// Positions whose values were known by then; none of a network.
    pub(super) positions: Option<u64>,
}

/// What was gathered since the last look.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
struct Gathered {
    #[serde(with = "crate::gaps::many")]
    rewards: Vec<f64>,
    figures: Vec<Figures>,
    entropy: Mean,
    explained: Mean,
    moved: Mean,
    loss: Mean,
    taken: Vec<u64>,
}

/// A mean of what is known.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
struct Mean {
    sum: f64,
    count: f64,
}

impl Mean {
    fn add(&mut self, x: Option<f64>) {
        if let Some(x) = x {
            self.sum += x;
            self.count += 1.0;
        }
    }

    fn value(self) -> Option<f64> {
        (self.count > 0.0).then(|| self.sum / self.count)
    }
}

/// One repetition.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub(super) struct Repetition {
    pub(super) learner: Learner,
    pub(super) matches: u64,
    /// Ticks or turns of these, and of those under way.
    pub(super) ticks: u64,
    pub(super) rounds: Vec<Round>,
    pub(super) looks: Looks,
    pub(super) stopped: Option<StoppedBy>,
    /// Matches until a look first succeeded.
    pub(super) first_success: Option<u64>,
    /// The decision at which learning diverged, if it did.
    pub(super) diverged: Option<u64>,
    /// What the agent was on the way, with the decisions by then, at about even distances.
    earlier: Vec<(u64, Genome)>,
    /// How it did against what it was before.
    record: Record,
    /// Which past self is met in each match under way.
    met: Vec<Option<usize>>,
    gathered: Gathered,
}

impl Repetition {
    /// At its beginning.
    pub(super) fn new(train: &Train, number: usize) -> Self {
        let learner = Learner::new(train, number);
        Self {
            earlier: vec![(0, learner.genome(train))],
            learner,
            matches: 0,
            ticks: 0,
            rounds: Vec::new(),
            looks: Looks::default(),
            stopped: None,
            first_success: None,
            diverged: None,
            record: Record::default(),
            met: Vec::new(),
            gathered: Gathered::default(),
        }
    }

    /// Its past selves, where it meets them.
    fn past(&mut self, train: &Train) -> Arc<Past> {
        if !train.meets_past() {
            return Arc::default();
        }
        self.record.reach(self.earlier.len());
        let selves = self.earlier.iter().map(|(_, own)| own.clone()).collect();
        Arc::new(Past { selves, record: self.record.clone() })
    }

    /// Its matches, where they were left.
    fn lessons<'a>(&mut self, train: &'a Train, number: usize, game: &'a dyn GameEntry) -> Vec<Lesson<'a>> {
        let past = self.past(train);
        let mut lessons: Vec<Lesson> =
            (0..train.method.environments()).map(|_| Lesson::new(train, number, game)).collect();
        for (place, lesson) in lessons.iter_mut().enumerate() {
            lesson.meet(&past);
            lesson.meet_again(self.met.get(place).copied().flatten());
        }
        self.learner.restore(&mut lessons);
        for lesson in &mut lessons {
            lesson.meet_again(None);
        }
        lessons
    }

    /// The champion as a file, which keeps what it was on the way.
    pub(super) fn champion(&self) -> Genome {
        let pick = &self.looks.champion_or_last().pick;
        let steps = self.rounds[pick.generation as usize - 1].steps;
        let file = |genome: &Genome| match genome {
            Genome::File(bytes) => bytes.clone(),
            _ => Vec::new(),
        };
        let before: Vec<(f64, Vec<u8>)> = self
            .earlier
            .iter()
            .filter(|(by, _)| *by < steps)
            .map(|(by, own)| (*by as f64 / steps as f64, file(own)))
            .collect();
        let before: Vec<(f64, &[u8])> = before.iter().map(|(share, bytes)| (*share, bytes.as_slice())).collect();
        Genome::File(files::with_earlier(&file(&pick.genome), &before))
    }

    /// As one that has ended.
    pub(super) fn ended(&self) -> Ended<'_> {
        Ended {
            looks: &self.looks,
            matches: self.matches,
            steps: self.ticks,
            decisions: Some(self.learner.steps()),
            rounds: self.rounds.len() as u64,
            stopped: self.stopped,
            first_success: self.first_success,
        }
    }

    /// Whether it learns next.
    pub(super) fn learns(&self) -> bool {
        self.stopped.is_none() && !self.looks.are_due()
    }

    /// What it plays next, where it does not learn: a look, or the best of all at the end. Nothing once it has a champion.
    pub(super) fn plays(&self, train: &Train, game: &dyn GameEntry) -> Vec<Play> {
        let nobody = Comparison { field: train.aim.looking(), seed: 0, blocks: 0 };
        let plays = self.looks.plays(&train.aim, &nobody, game);
        if plays.is_empty() { self.looks.last_plays(&train.aim, game) } else { plays }
    }

    /// Learns until it is looked at next, or it has learned enough to be saved, or it is asked to stop. Errs where a match
    /// could not be played, or a term has no value.
    fn learn(&mut self, train: &Train, lessons: &mut [Lesson], halt: &Halt) -> Result<(), String> {
        let begun = self.learner.steps();
        let due = (self.rounds.len() as u64 + 1) * train.aim.yardstick.every;
        while self.learner.steps() < due.min(train.steps) {
            if halt.is_called() || self.learner.steps() - begun >= SAVED_EVERY {
                return Ok(());
            }
            let most = due.min(train.steps) - self.learner.steps();
            let past = self.past(train);
            for lesson in lessons.iter_mut() {
                lesson.meet(&past);
            }
            let learned = self.learner.learn(lessons, most, train);
            self.met = lessons.iter().map(Lesson::met).collect();
            for lesson in lessons.iter_mut() {
                if let Some(why) = lesson.fell() {
                    return Err(why.into());
                }
                let (ticks, ended) = lesson.take_news();
                self.ticks += ticks;
                for (past, points) in lesson.take_results() {
                    self.record.take(past, points);
                }
                self.gathered.figures.extend(ended);
            }
            match learned {
                Ok(learned) => self.gather(&learned),
                Err(diverged) => {
                    self.diverged = Some(diverged.steps);
                    self.stopped = Some(StoppedBy::Diverged);
                    break;
                }
            }
        }
        if let Some(place) = self.without_value(train) {
            return Err(format!(
                "matches have no value of the term `{}`: say by `missing` what counts for a match that has none",
                train.aim.terms[place].figure
            ));
        }
        self.round(train);
        Ok(())
    }

    /// The first term that had no value in a match.
    fn without_value(&self, train: &Train) -> Option<usize> {
        (0..train.aim.terms.len()).find(|place| self.gathered.figures.iter().any(|own| !own.terms[*place].is_finite()))
    }

    fn gather(&mut self, learned: &Learned) {
        let Gathered { rewards, entropy, explained, moved, loss, taken, .. } = &mut self.gathered;
        self.matches += learned.episodes.len() as u64;
        rewards.extend(learned.episodes.iter().map(|own| own.reward));
        entropy.add(learned.entropy);
        explained.add(learned.explained);
        moved.add(learned.moved);
        loss.add(Some(learned.loss));
        taken.resize(learned.taken.len(), 0);
        taken.iter_mut().zip(&learned.taken).for_each(|(sum, own)| *sum += own);
    }

    /// Sums up what was gathered; the agent as it is now is looked at next.
    fn round(&mut self, train: &Train) {
        let gathered = std::mem::take(&mut self.gathered);
        let mut rewards = gathered.rewards;
        rewards.sort_by(f64::total_cmp);
        let at = |share: f64| {
            let last = rewards.len().saturating_sub(1) as f64;
            rewards.get((last * share).round() as usize).copied().unwrap_or(f64::NAN)
        };
        let mean = |of: &dyn Fn(&Figures) -> f64| {
            let known = || gathered.figures.iter().map(of).filter(|x| x.is_finite());
            known().sum::<f64>() / known().count() as f64
        };
        let figures = Figures {
            terms: (0..train.aim.terms.len()).map(|place| mean(&|own| own.terms[place])).collect(),
            outcome: mean(&|own| own.outcome),
        };
        let steps = self.learner.steps();
        self.rounds.push(Round {
            matches: self.matches,
            steps,
            ticks: self.ticks,
            best: at(1.0),
            quartiles: vec![at(0.25), at(0.5), at(0.75)],
            figures: figures.clone(),
            entropy: gathered.entropy.value(),
            explained: gathered.explained.value(),
            moved: gathered.moved.value(),
            loss: gathered.loss.value().unwrap_or(0.0),
            taken: gathered.taken,
            positions: self.learner.positions(),
        });
        let genome = self.learner.genome(train);
        self.keep_earlier(train, &genome);
        if self.stopped.is_none() && steps >= train.steps {
            self.stopped = Some(StoppedBy::Budget);
        }
        let pick = Pick { generation: self.rounds.len() as u64, matches: self.matches, genome, seen: figures };
        self.looks.next(pick, true, false);
    }

    /// Keeps the agent as it is now, if the last that was kept is long enough ago.
    fn keep_earlier(&mut self, train: &Train, now: &Genome) {
        let (steps, apart) = (self.learner.steps(), train.steps / EARLIER);
        if self.earlier.last().is_none_or(|(last, _)| steps >= last + apart) {
            self.earlier.push((steps, now.clone()));
        }
    }

    /// Takes in what its plays came to.
    pub(super) fn take(&mut self, train: &Train, seen: Vec<Seen>, game: &dyn GameEntry) {
        let mut seen = seen.into_iter();
        if !self.looks.are_due() {
            self.looks.choose(&train.aim, seen);
            return;
        }
        let Some(look) = self.looks.take(&train.aim, &mut seen, game) else { return };
        let (outcome, matches) = (look.figures.outcome, look.pick.matches);
        if train.aim.yardstick.succeeded(outcome) {
            self.first_success.get_or_insert(matches);
        }
        if train.aim.yardstick.reached(outcome) && self.stopped.is_none() {
            self.stopped = Some(StoppedBy::Target);
        }
        self.looks.thin(&train.aim);
    }
}

/// A repetition with its matches, for one thread at a time.
pub(super) struct Sitting<'a> {
    own: Mutex<(Repetition, Option<Vec<Lesson<'a>>>)>,
}

impl<'a> Sitting<'a> {
    pub(super) fn new(own: Repetition) -> Self {
        Self { own: Mutex::new((own, None)) }
    }

    /// The repetition.
    pub(super) fn lock(&self) -> MutexGuard<'_, (Repetition, Option<Vec<Lesson<'a>>>)> {
        self.own.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Learns for a while. Errs as [`Repetition::learn`] does.
    pub(super) fn learn(
        &self,
        train: &'a Train,
        number: usize,
        game: &'a dyn GameEntry,
        halt: &Halt,
    ) -> Result<(), String> {
        let mut held = self.lock();
        let (own, lessons) = &mut *held;
        let lessons = lessons.get_or_insert_with(|| own.lessons(train, number, game));
        own.learn(train, lessons, halt)
    }
}
