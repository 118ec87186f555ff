//! Looks of a repetition at the yardstick: candidates due, and the final champion.

use inkpot_core::{GameEntry, GameSheet};
use inkpot_learn::Genome;
use inkpot_stats::Interval;
use serde::{Deserialize, Serialize};

use super::Aim;
use super::aim::Field;
use super::evaluation::{Evaluation, best_of, judged};
use super::term::Figures;
use crate::work::Play;

/// Blocks of looks at the yardstick begin here, and those of the last comparison: neither a generation nor a proof comes
/// so far.
const FIRST_LOOK_BLOCK: u64 = 1 << 40;
const FIRST_FINAL_BLOCK: u64 = 1 << 36;
/// Champions on the levels that are held back begin here.
const FIRST_HELD_BACK_BLOCK: u64 = 1 << 41;
/// Comparisons against a hall of fame begin here.
const FIRST_COMPARED_BLOCK: u64 = 1 << 38;
/// Blocks that confirm looks at the target begin here.
const FIRST_CONFIRMING_BLOCK: u64 = 1 << 43;
/// The best so far that are compared at the end.
const FINALISTS: usize = 5;

/// A candidate that was the best of its generation.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Pick {
    /// Its generation, from 1 up.
    pub(crate) generation: u64,
    /// Matches that the repetition had played by then.
    pub(crate) matches: u64,
    pub(crate) genome: Genome,
    /// Its figures in training.
    pub(crate) seen: Figures,
}

/// A look at the yardstick.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Look {
    pub(crate) pick: Pick,
    /// Its figures on the yardstick.
    pub(crate) figures: Figures,
    /// The interval of the yardstick's figure; none of too few blocks.
    pub(crate) range: Option<[f64; 2]>,
    /// The same figure on the levels that are held back, if there are any.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) held_back: Option<Looked>,
}

/// The yardstick's figure elsewhere.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Looked {
    #[serde(with = "crate::gaps::number")]
    pub(crate) value: f64,
    /// None of too few blocks.
    pub(crate) interval: Option<Interval>,
}

impl Looked {
    /// Builds a look from an evaluation over this many pairings.
    pub(crate) fn of(evaluation: &Evaluation, pairings: usize, aim: &Aim, sheet: &GameSheet) -> Self {
        Self { value: evaluation.figures.outcome, interval: aim.interval(&evaluation.outcomes, pairings, sheet) }
    }
}

/// Against whom the best of some generations are compared before one of them is looked at.
pub(crate) struct Comparison<'a> {
    pub(crate) field: Field<'a>,
    pub(crate) seed: u64,
    pub(crate) blocks: u64,
}

/// All looks so far, and the candidates due.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(crate) struct Looks {
    pub(crate) all: Vec<Look>,
    due: Option<Pick>,
    /// The best of each generation since the last look, where candidates meet rivals: each was the best against a few
    /// rivals only.
    recent: Vec<Pick>,
    /// Those of them that are compared next against all of the hall of fame; the best of them is looked at.
    compared: Vec<Pick>,
    /// The index of the champion's look, once the best were compared.
    champion: Option<usize>,
    /// The champion's result on the levels held back, once it has played there.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    held_back: Option<Looked>,
    /// The look at the target whose candidate plays fresh blocks now, if there is one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    confirming: Option<Confirming>,
    /// Looks at the target so far, and the first block that none of them has played.
    #[serde(default)]
    confirmations: (u64, u64),
    /// The look that fresh blocks confirmed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    confirmed: Option<usize>,
}

/// A look at or beyond the target: a single look may be luck, so its candidate plays fresh blocks until these say whether
/// it has reached the target.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
struct Confirming {
    look: usize,
    /// The stage under way, from 0.
    stage: u32,
    first_block: u64,
    /// The yardstick's figure over the fresh blocks so far.
    #[serde(with = "crate::gaps::many")]
    outcomes: Vec<f64>,
}

/// The most stages in which a candidate is confirmed.
const STAGES: u32 = 3;
/// Looks' worth of blocks in the first stage; each later stage doubles the blocks so far.
const FIRST_STAGE: u64 = 4;

impl Confirming {
    /// Blocks of the stage under way.
    fn stage_blocks(&self, aim: &Aim) -> u64 {
        aim.yardstick_blocks() * FIRST_STAGE * (1 << self.stage.saturating_sub(1))
    }
}

/// The confidence at which a look is confirmed at each stage, so that over all looks and stages of a repetition the chance
/// to confirm any candidate that has not reached the target is at most `(1 - confidence) / 2`: of that, the `k`-th look at
/// the target may spend the share `1 / k (k + 1)`, which sum to 1, evenly over its stages (Bonferroni).
fn stage_confidence(look: u64, confidence: f64) -> f64 {
    1.0 - (1.0 - confidence) / (look * (look + 1)) as f64 / f64::from(STAGES)
}

impl Looks {
    /// The look at the champion, once there is one.
    pub(crate) fn champion(&self) -> Option<&Look> {
        self.champion.map(|index| &self.all[index])
    }

    /// The look at the champion; the last of all while there is none.
    ///
    /// # Panics
    /// Before anything was looked at.
    pub(crate) fn champion_or_last(&self) -> &Look {
        self.champion().unwrap_or_else(|| &self.all[self.all.len() - 1])
    }

    /// The look at the best of a generation, if there was one.
    pub(crate) fn of_generation(&self, generation: u64) -> Option<&Look> {
        self.all.iter().find(|look| look.pick.generation == generation)
    }

    /// Returns the champion's result on the levels held back.
    pub(crate) fn held_back(&self) -> Option<Looked> {
        self.held_back
    }

    /// The first block of the last look.
    pub(crate) fn last_block(&self, aim: &Aim) -> u64 {
        self.next_block(aim).saturating_sub(aim.yardstick_blocks()).max(FIRST_LOOK_BLOCK)
    }

    /// Returns the looks of the final comparison: the best on the yardstick.
    fn finalists(&self, aim: &Aim) -> Vec<usize> {
        let value = |look: &Look| aim.fitness_of(&look.figures);
        let mut order: Vec<usize> = (0..self.all.len()).collect();
        order.sort_by(|&a, &b| value(&self.all[b]).cmp(&value(&self.all[a])).then(b.cmp(&a)));
        order.truncate(FINALISTS);
        order
    }

    /// A genome on the yardstick.
    fn on_yardstick(
        aim: &Aim,
        (repetition, genome): (usize, &Genome),
        first_block: u64,
        blocks: u64,
        game: &dyn GameEntry,
    ) -> Play {
        Play::new(aim.settings_looking(genome, repetition, game), first_block, blocks)
    }

    /// A genome on the levels that are held back; none where there are none.
    fn on_held_back(
        aim: &Aim,
        (repetition, genome): (usize, &Genome),
        first_block: u64,
        blocks: u64,
        game: &dyn GameEntry,
    ) -> Option<Play> {
        let settings = aim.settings_held_back(genome, repetition, game);
        (!settings.is_empty()).then(|| Play::new(settings, first_block, blocks))
    }

    /// Returns the next candidate to look at.
    pub(crate) fn due(&self) -> Option<&Pick> {
        self.due.as_ref()
    }

    /// The first block of the next look.
    pub(crate) fn next_block(&self, aim: &Aim) -> u64 {
        FIRST_LOOK_BLOCK + self.all.len() as u64 * aim.yardstick_blocks()
    }

    /// Whether somebody is looked at, or compared before that.
    pub(crate) fn are_due(&self) -> bool {
        self.due.is_some() || !self.compared.is_empty()
    }

    /// The fresh blocks of the look that is being confirmed; nothing where none is.
    pub(crate) fn confirming_plays(&self, aim: &Aim, repetition: usize, game: &dyn GameEntry) -> Vec<Play> {
        let play = |confirming: &Confirming| {
            let genome = &self.all[confirming.look].pick.genome;
            Self::on_yardstick(aim, (repetition, genome), confirming.first_block, confirming.stage_blocks(aim), game)
        };
        self.confirming.iter().map(play).collect()
    }

    /// Returns the plays of the look in confirmation, or of the look that is due and of the comparison before it.
    pub(crate) fn plays(&self, aim: &Aim, repetition: usize, compared: &Comparison, game: &dyn GameEntry) -> Vec<Play> {
        if self.is_confirming() {
            return self.confirming_plays(aim, repetition, game);
        }
        let before = self.all.len() as u64;
        let look = |pick: &Pick| {
            let (first, blocks) = (self.next_block(aim), aim.yardstick_blocks());
            let beside = Self::on_held_back(aim, (repetition, &pick.genome), first, blocks, game);
            std::iter::once(Self::on_yardstick(aim, (repetition, &pick.genome), first, blocks, game)).chain(beside)
        };
        let plays = self.due.iter().flat_map(look);
        plays
            .chain(self.compared.iter().map(|pick| {
                let settings = aim.settings(&pick.genome, &compared.field, compared.seed, game);
                Play::new(settings, FIRST_COMPARED_BLOCK + before * compared.blocks, compared.blocks)
            }))
            .collect()
    }

    /// The best of all on the same blocks, then the champion on the levels that are held back; nothing after that.
    pub(crate) fn last_plays(&self, aim: &Aim, repetition: usize, game: &dyn GameEntry) -> Vec<Play> {
        if let Some(look) = self.champion() {
            let (genome, blocks) = (&look.pick.genome, aim.proof_blocks());
            let play = Self::on_held_back(aim, (repetition, genome), FIRST_HELD_BACK_BLOCK, blocks, game);
            return play.filter(|_| self.held_back.is_none()).into_iter().collect();
        }
        let (first, blocks) = (FIRST_FINAL_BLOCK, aim.yardstick_blocks());
        let candidates = self.finalists(aim).into_iter().map(|look| (repetition, &self.all[look].pick.genome));
        candidates.map(|candidate| Self::on_yardstick(aim, candidate, first, blocks, game)).collect()
    }

    /// Whether a look at the target is being confirmed.
    pub(crate) fn is_confirming(&self) -> bool {
        self.confirming.is_some()
    }

    /// The confirmed look at the target, if there is one.
    pub(crate) fn confirmed(&self) -> Option<&Look> {
        self.confirmed.map(|look| &self.all[look])
    }

    /// The look before the confirmed one, if there is one.
    pub(crate) fn before_confirmed(&self) -> Option<&Look> {
        self.all.get(self.confirmed?.checked_sub(1)?)
    }

    /// Takes the results of the fresh blocks in confirmation of a look. True once they show that its candidate has
    /// reached the target: it is the champion.
    pub(crate) fn confirm(&mut self, aim: &Aim, evaluation: Option<Evaluation>, game: &dyn GameEntry) -> bool {
        let Some((mut confirming, evaluation)) = self.confirming.take().zip(evaluation) else { return false };
        confirming.outcomes.extend(evaluation.outcomes);
        let confidence = stage_confidence(self.confirmations.0, aim.ground.confidence);
        let pairings = aim.looking().pairings();
        let proved = aim.interval_at(&confirming.outcomes, pairings, game.sheet(), confidence);
        let is_there =
            |interval: &Interval| aim.yardstick.reached(interval.low) && aim.yardstick.reached(interval.high);
        if proved.as_ref().is_some_and(is_there) {
            self.confirmed = Some(confirming.look);
            self.champion = self.confirmed;
            (self.due, self.compared, self.recent) = (None, Vec::new(), Vec::new());
            return true;
        }
        let still = proved.is_none_or(|interval| aim.yardstick.reached(interval.value));
        if still && confirming.stage + 1 < STAGES {
            confirming.first_block = self.confirmations.1;
            confirming.stage += 1;
            self.confirmations.1 += confirming.stage_blocks(aim);
            self.confirming = Some(confirming);
        }
        false
    }

    /// Begins to confirm the last look, if that is at the target.
    fn look_closer(&mut self, aim: &Aim) {
        let Some(look) = self.all.len().checked_sub(1) else { return };
        if self.confirmed.is_some() || !aim.yardstick.reached(self.all[look].figures.outcome) {
            return;
        }
        let first_block = self.confirmations.1.max(FIRST_CONFIRMING_BLOCK);
        let confirming = Confirming { look, stage: 0, first_block, outcomes: Vec::new() };
        self.confirmations = (self.confirmations.0 + 1, first_block + confirming.stage_blocks(aim));
        self.confirming = Some(confirming);
    }

    /// Takes the results of `plays`, and returns the look that was due.
    pub(crate) fn take(
        &mut self,
        aim: &Aim,
        mut evaluations: impl Iterator<Item = Evaluation>,
        game: &dyn GameEntry,
    ) -> Option<&Look> {
        let looked = self.due.take().zip(evaluations.next());
        let beside = if looked.is_some() && !aim.yardstick.held_back.is_empty() { evaluations.next() } else { None };
        let mut compared = std::mem::take(&mut self.compared);
        if !compared.is_empty() {
            let best = best_of(&judged(aim, &evaluations.collect::<Vec<_>>()));
            self.due = Some(compared.swap_remove(best));
        }
        let (pick, evaluation) = looked?;
        let sheet = game.sheet();
        let pairings = aim.looking().pairings();
        let range = aim.interval(&evaluation.outcomes, pairings, sheet).map(|interval| [interval.low, interval.high]);
        let held_back =
            beside.map(|figures| Looked::of(&figures, pairings * aim.yardstick.held_back.len(), aim, sheet));
        self.all.push(Look { pick, figures: evaluation.figures, range, held_back });
        self.look_closer(aim);
        self.all.last()
    }

    /// Forgets the genomes of looks that can no longer become the champion, the last of all left out.
    pub(crate) fn thin(&mut self, aim: &Aim) {
        let (finalists, last) = (self.finalists(aim), self.all.len().saturating_sub(1));
        for (place, look) in self.all.iter_mut().enumerate() {
            if place != last && !finalists.contains(&place) {
                look.pick.genome = Genome::Numbers(Vec::new());
            }
        }
    }

    /// The best of a generation, which is looked at `now` or not; where candidates learn against rivals, the best of all
    /// since the last look are compared before.
    pub(crate) fn next(&mut self, pick: Pick, now: bool, rivals: bool) {
        if !rivals {
            self.due = now.then_some(pick);
            return;
        }
        self.recent.push(pick);
        if now {
            self.compared = std::mem::take(&mut self.recent);
        }
    }

    /// Takes the results of the final comparison: the best is the champion.
    pub(crate) fn choose(
        &mut self,
        aim: &Aim,
        mut evaluations: impl Iterator<Item = Evaluation>,
        game: &dyn GameEntry,
    ) {
        if self.champion.is_some() {
            let pairings = aim.looking().pairings() * aim.yardstick.held_back.len();
            self.held_back = evaluations.next().map(|figures| Looked::of(&figures, pairings, aim, game.sheet()));
            return;
        }
        let value = |evaluation: &Evaluation| aim.fitness_of(&evaluation.figures);
        // Of equals the first, which was worth more before.
        let each =
            self.finalists(aim).into_iter().zip(evaluations).map(|(index, evaluation)| (index, value(&evaluation)));
        let best = each.reduce(|best, next| if next.1 > best.1 { next } else { best });
        self.champion = best.map(|(index, _)| index);
    }
}
