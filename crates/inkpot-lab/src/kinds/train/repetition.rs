//! One repetition of a training: it learns for a while, is looked at, and learns on.

use std::sync::Arc;

use inkpot_core::{GameEntry, Halt};
use inkpot_learn::Genome;
use serde::{Deserialize, Serialize};

use super::asked::Train;
use super::course::Course;
use super::files;
use super::gathered::{Gathered, Reached, Round};
use super::learner::Learner;
use super::lesson::{Lesson, Past, UnderWay};
use super::past::Record;
use crate::kinds::found::{Comparison, Ended, Evaluation, Looks, Pick, StoppedBy};
use crate::work::Play;

/// Decisions after which a repetition that learns is saved.
const SAVED_EVERY: u64 = 16_384;

/// States of the agent that are kept on the way, about.
const EARLIER: u64 = 10;

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
    /// The decision at which learning diverged, if it did.
    pub(super) diverged: Option<u64>,
    /// The times at which each figure of an observation was out of range.
    pub(super) outside: Vec<u64>,
    /// Earlier states, each with the decisions by then, at about even distances.
    earlier: Vec<(u64, Genome)>,
    /// The results against earlier states.
    record: Record,
    /// The matches under way.
    under_way: Vec<UnderWay>,
    pub(super) course: Course,
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
            diverged: None,
            outside: Vec::new(),
            record: Record::default(),
            under_way: Vec::new(),
            course: Course::default(),
            gathered: Gathered::default(),
        }
    }

    /// Its past selves, where it meets them.
    fn past(&mut self, train: &Train) -> Arc<Past> {
        if !train.meets_past() {
            return Arc::default();
        }
        self.record.reach(self.earlier.len());
        let selves = self.earlier.iter().map(|(_, genome)| genome.clone()).collect();
        Arc::new(Past { selves, record: self.record.clone() })
    }

    /// Its matches, where they were left.
    pub(super) fn lessons<'a>(&mut self, train: &'a Train, number: usize, game: &'a dyn GameEntry) -> Vec<Lesson<'a>> {
        let past = self.past(train);
        let mut lessons: Vec<Lesson> =
            (0..train.method.environments()).map(|_| Lesson::new(train, number, game)).collect();
        for (place, lesson) in lessons.iter_mut().enumerate() {
            lesson.go_on(self.course.leg(), &past);
            lesson.begin_again(self.under_way.get(place).copied());
        }
        self.learner.restore(&mut lessons);
        for lesson in &mut lessons {
            lesson.begin_again(None);
        }
        lessons
    }

    /// Returns the champion as a file, with its earlier states.
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
            .map(|(by, genome)| (*by as f64 / steps as f64, file(genome)))
            .collect();
        let before: Vec<(f64, &[u8])> = before.iter().map(|(share, bytes)| (*share, bytes.as_slice())).collect();
        Genome::File(files::with_earlier(&file(&pick.genome), &before))
    }

    /// Returns the earlier states.
    pub(super) fn earlier(&self) -> Vec<Genome> {
        self.earlier.iter().map(|(_, genome)| genome.clone()).collect()
    }

    /// Returns the repetition as an ended one.
    pub(super) fn ended(&self, train: &Train) -> Ended<'_> {
        Ended {
            looks: &self.looks,
            matches: self.matches,
            steps: self.ticks,
            decisions: Some(self.learner.steps()),
            rounds: self.rounds.len() as u64,
            stopped: self.stopped,
            legs: self.course.found(train),
        }
    }

    /// Whether it learns next.
    pub(super) fn learns(&self) -> bool {
        self.stopped.is_none() && !self.looks.are_due() && !self.looks.is_confirming()
    }

    /// Returns the next plays besides learning: a look, or the final comparison. Empty once it has a champion.
    pub(super) fn plays(&self, train: &Train, number: usize, game: &dyn GameEntry) -> Vec<Play> {
        let nobody = Comparison { field: train.aim.looking(), seed: 0, blocks: 0 };
        let mut plays = self.looks.plays(&train.aim, number, &nobody, game);
        if plays.is_empty() {
            return self.looks.last_plays(&train.aim, number, game);
        }
        let first_block = self.looks.next_block(&train.aim);
        plays.extend(self.looks.due().and_then(|pick| self.course.look(train, (number, pick), first_block, game)));
        plays
    }

    /// Learns until it is looked at next, or it has learned enough to be saved, or it is asked to stop. Errs where a match
    /// could not be played, or a term has no value.
    pub(super) fn learn(&mut self, train: &Train, lessons: &mut [Lesson], halt: &Halt) -> Result<(), String> {
        let begun = self.learner.steps();
        let due = (self.rounds.len() as u64 + 1) * train.aim.yardstick.every;
        while self.learner.steps() < due.min(train.steps) && !self.learner.is_done() {
            if halt.is_called() || self.learner.steps() - begun >= SAVED_EVERY {
                return Ok(());
            }
            let most = due.min(train.steps) - self.learner.steps();
            let past = self.past(train);
            for lesson in lessons.iter_mut() {
                lesson.go_on(self.course.leg(), &past);
            }
            let learned = self.learner.learn(lessons, most, train, halt);
            self.under_way = lessons.iter().map(Lesson::under_way).collect();
            for lesson in lessons.iter_mut() {
                if let Some(why) = lesson.fell() {
                    return Err(why.into());
                }
                let news = lesson.take_news();
                self.ticks += news.ticks;
                for (past, points) in news.results {
                    self.record.take(past, points);
                }
                self.outside.resize(news.outside.len().max(self.outside.len()), 0);
                self.outside.iter_mut().zip(news.outside).for_each(|(sum, count)| *sum += count);
                self.gathered.figures.extend(news.ended);
            }
            match learned {
                Ok(learned) => {
                    self.matches += learned.episodes.len() as u64;
                    self.gathered.take(&learned);
                }
                Err(diverged) => {
                    self.diverged = Some(diverged.steps);
                    self.stopped = Some(StoppedBy::Diverged);
                    break;
                }
            }
        }
        if let Some(place) = self.gathered.without_value(train.aim.terms.len()) {
            return Err(format!(
                "matches have no value of the term `{}`: say by `missing` what counts for a match that has none",
                train.aim.terms[place].figure
            ));
        }
        self.round(train);
        Ok(())
    }

    /// Sums up the gathered data; the present agent is looked at next.
    fn round(&mut self, train: &Train) {
        let steps = self.learner.steps();
        let reached = Reached { matches: self.matches, steps, ticks: self.ticks, positions: self.learner.positions() };
        let round = std::mem::take(&mut self.gathered).summed_up(train.aim.terms.len(), reached);
        let figures = round.figures.clone();
        self.rounds.push(round);
        let genome = self.learner.genome(train);
        self.keep_earlier(train, &genome);
        if self.stopped.is_none() && self.learner.is_done() {
            self.stopped = Some(StoppedBy::Solved);
        }
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

    /// Takes the results of its plays.
    pub(super) fn take(&mut self, train: &Train, evaluations: Vec<Evaluation>, game: &dyn GameEntry) {
        let mut evaluations = evaluations.into_iter();
        if self.looks.is_confirming() {
            if self.looks.confirm(&train.aim, evaluations.next(), game) {
                self.stopped.get_or_insert(StoppedBy::Target);
            }
            return;
        }
        if !self.looks.are_due() {
            self.looks.choose(&train.aim, evaluations, game);
            return;
        }
        let leg = if self.course.is_over(train) { None } else { evaluations.next_back() };
        self.looks.take(&train.aim, &mut evaluations, game);
        if let Some(evaluation) = leg {
            self.course.take(train, &evaluation, self.learner.steps(), game);
        }
        self.looks.thin(&train.aim);
    }
}
