//! Looks of a repetition at the yardstick: who is looked at, and who is its champion in the end.

use inkpot_core::GameEntry;
use inkpot_learn::Genome;
use serde::{Deserialize, Serialize};

use super::asked::Evolve;
use super::rivals::best_of;
use super::seen::{Seen, judged};
use super::term::Figures;
use crate::figure_tally::interval_of;
use crate::searching::Play;

/// Blocks of looks at the yardstick begin here, and those of the last comparison: neither a generation nor a proof comes
/// so far.
const FIRST_LOOK_BLOCK: u64 = 1 << 40;
const FIRST_FINAL_BLOCK: u64 = 1 << 36;
/// Comparisons against a hall of fame begin here.
const FIRST_COMPARED_BLOCK: u64 = 1 << 38;
/// The best so far that are compared at the end.
const FINALISTS: usize = 5;

/// A candidate that was the best of its generation.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Pick {
    /// Its generation, from 1 up.
    pub(super) generation: u64,
    /// Matches that the repetition had played by then.
    pub(super) matches: u64,
    pub(super) genome: Genome,
    /// What it came to where it learned.
    pub(super) seen: Figures,
}

/// A look at the yardstick.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(super) struct Look {
    pub(super) pick: Pick,
    /// What it came to on the yardstick.
    pub(super) figures: Figures,
    /// The interval of the yardstick's figure; none of too few blocks.
    pub(super) range: Option<[f64; 2]>,
}

/// All looks so far, and who is looked at next.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub(super) struct Looks {
    pub(super) all: Vec<Look>,
    due: Option<Pick>,
    /// Where candidates learn against each other, the best of the generations since the last look: each was the best
    /// against a few rivals only.
    recent: Vec<Pick>,
    /// Those of them that are compared next against all of the hall of fame; the best of them is looked at.
    compared: Vec<Pick>,
    /// Which of the looks is the champion, once the best were compared.
    champion: Option<usize>,
}

impl Looks {
    /// The look at the champion, once there is one.
    pub(super) fn champion(&self) -> Option<&Look> {
        self.champion.map(|own| &self.all[own])
    }

    /// The look at the champion; the last of all while there is none.
    ///
    /// # Panics
    /// Before anything was looked at.
    pub(super) fn champion_or_last(&self) -> &Look {
        self.champion().unwrap_or_else(|| &self.all[self.all.len() - 1])
    }

    /// The first block of the last look.
    pub(super) fn last_block(&self, evolve: &Evolve) -> u64 {
        FIRST_LOOK_BLOCK + (self.all.len() as u64).saturating_sub(1) * evolve.yardstick_blocks()
    }

    /// The looks that are compared at the end: the best by what they were worth on the yardstick.
    fn finalists(&self, evolve: &Evolve) -> Vec<usize> {
        let value = |look: &Look| evolve.worth_of(&look.figures);
        let mut order: Vec<usize> = (0..self.all.len()).collect();
        order.sort_by(|&a, &b| value(&self.all[b]).cmp(&value(&self.all[a])).then(b.cmp(&a)));
        order.truncate(FINALISTS);
        order
    }

    /// A genome on the yardstick.
    fn on_yardstick(evolve: &Evolve, genome: &Genome, first_block: u64, game: &dyn GameEntry) -> Play {
        Play {
            settings: evolve.settings(genome, &evolve.looking(), evolve.ground.seed, game),
            first_block,
            blocks: evolve.yardstick_blocks(),
        }
    }

    /// Whether somebody is looked at, or compared before that.
    pub(super) fn are_due(&self) -> bool {
        self.due.is_some() || !self.compared.is_empty()
    }

    /// The look that is due, and the comparison with this hall of fame that says who is looked at next.
    pub(super) fn plays(&self, evolve: &Evolve, number: usize, hall: &[Genome], game: &dyn GameEntry) -> Vec<Play> {
        let before = self.all.len() as u64;
        let look = |pick: &Pick| {
            Self::on_yardstick(evolve, &pick.genome, FIRST_LOOK_BLOCK + before * evolve.yardstick_blocks(), game)
        };
        let mut plays: Vec<Play> = self.due.iter().map(look).collect();
        if !self.compared.is_empty() {
            let field = evolve.training(hall, game);
            plays.extend(self.compared.iter().map(|pick| Play {
                settings: evolve.settings(&pick.genome, &field, evolve.seed_of(number), game),
                first_block: FIRST_COMPARED_BLOCK + before * evolve.blocks,
                blocks: evolve.blocks,
            }));
        }
        plays
    }

    /// The best of all on the same blocks; nothing once there is a champion.
    pub(super) fn last_plays(&self, evolve: &Evolve, game: &dyn GameEntry) -> Vec<Play> {
        if self.champion.is_some() {
            return Vec::new();
        }
        let finalists = self.finalists(evolve).into_iter();
        finalists.map(|own| Self::on_yardstick(evolve, &self.all[own].pick.genome, FIRST_FINAL_BLOCK, game)).collect()
    }

    /// Takes in what `plays` came to, and gives the look that was due.
    pub(super) fn take(
        &mut self,
        evolve: &Evolve,
        mut seen: impl Iterator<Item = Seen>,
        game: &dyn GameEntry,
    ) -> Option<&Look> {
        let looked = self.due.take().zip(seen.next());
        let mut compared = std::mem::take(&mut self.compared);
        if !compared.is_empty() {
            let best = best_of(&judged(evolve, &seen.collect::<Vec<_>>()));
            self.due = Some(compared.swap_remove(best));
        }
        let (pick, seen) = looked?;
        let (yardstick, confidence) = (&evolve.yardstick, evolve.ground.confidence);
        let matches_a_block = evolve.yardstick_seats() as usize * yardstick.opponents.len().max(1);
        let range = interval_of(yardstick.of, game.sheet(), &seen.outcomes, matches_a_block, confidence);
        let range = range.map(|own| [own.low, own.high]);
        self.all.push(Look { pick, figures: seen.figures, range });
        self.all.last()
    }

    /// The best of a generation, which is looked at `now` or not; where candidates learn against rivals, the best of all
    /// since the last look are compared before.
    pub(super) fn next(&mut self, pick: Pick, now: bool, rivals: bool) {
        if !rivals {
            self.due = now.then_some(pick);
            return;
        }
        self.recent.push(pick);
        if now {
            self.compared = std::mem::take(&mut self.recent);
        }
    }

    /// Takes in what the last plays came to: the best is the champion.
    pub(super) fn choose(&mut self, evolve: &Evolve, seen: impl Iterator<Item = Seen>) {
        let value = |seen: &Seen| evolve.worth_of(&seen.figures);
        // Of equals the first, which was worth more before.
        let each = self.finalists(evolve).into_iter().zip(seen).map(|(own, seen)| (own, value(&seen)));
        let best = each.reduce(|best, next| if next.1 > best.1 { next } else { best });
        self.champion = best.map(|(own, _)| own);
    }
}
