//! Measures of every game, derived from the course of its scores.

use crate::{GameSheet, Keeper, Measure, Wanted};

/// Moments of a match at which the lead is kept.
pub const LEADS: usize = 20;

/// The moment of this number as a share of the match.
pub fn lead_moment(moment: usize) -> f64 {
    (moment as f64 + 0.5) / LEADS as f64
}

/// The leads of a match as a row keeps them; none where it does not.
pub fn read_leads(bytes: &[u8]) -> Option<[f64; LEADS]> {
    let mut leads = [0.0; LEADS];
    let (numbers, rest) = bytes.as_chunks::<4>();
    if numbers.len() != LEADS || !rest.is_empty() {
        return None;
    }
    leads.iter_mut().zip(numbers).for_each(|(lead, bytes)| *lead = f64::from(f32::from_le_bytes(*bytes)));
    Some(leads)
}

/// A measure that every game has.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Feel {
    /// One less the mean lead over time, as a share of the largest change of any score.
    Closeness,
    /// Changes of the lead.
    LeadChanges,
    /// The largest deficit that the winner made good.
    Comeback,
    /// Longest time without a change of any score.
    LongestLull,
    /// Time until a score changed first.
    FirstScore,
    /// Mean time from one change of score to the next.
    Rally,
}

/// The source of a column of measures.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Source {
    /// The next of the game's own figures.
    Game,
    /// A figure of how the scores developed.
    Scores(Feel),
}

/// All measures of a game: those of its sheet and, behind them, those of every game whose name the sheet does not use.
/// With each where it comes from.
///
/// # Panics
/// When the sheet leaves a measure to the scores that no game has by this name, which any test that makes the game
/// meets.
pub(crate) fn sourced(sheet: &GameSheet) -> (Vec<Measure>, Vec<Source>) {
    let common = common(sheet);
    let source = |measure: &Measure| match measure.kept_by {
        Keeper::Game => Source::Game,
        Keeper::Scores => {
            let found = common.iter().find(|(_, other)| other.name == measure.name);
            Source::Scores(found.expect("a measure kept by the scores has the name of one that every game has").0)
        }
    };
    let mut sources: Vec<Source> = sheet.measures.iter().map(source).collect();
    let mut measures = sheet.measures.clone();
    for (feel, measure) in common {
        if !measures.iter().any(|known| known.name == measure.name) {
            measures.push(measure);
            sources.push(Source::Scores(feel));
        }
    }
    (measures, sources)
}

/// The measures that every game can have.
fn common(sheet: &GameSheet) -> [(Feel, Measure); 6] {
    let (unit, ending) = if sheet.ticks_per_second.is_some() { ("s", "s") } else { ("turns", "turns") };
    let whole =
        |name: &str, label: &str, unit: &str, help: &str| Measure::of_match(name, label, unit, help).by_scores();
    let timed = |name: &str, label: &str, help: &str| whole(&format!("{name}_{ending}"), label, unit, help);
    [
        (
            Feel::Closeness,
            whole("closeness", "Closeness", "", "how close the scores were over the whole match, 0 to 1")
                .wanted(Wanted::More),
        ),
        (Feel::LeadChanges, whole("lead_changes", "Lead changes", "", "how often the lead passed from one to another")),
        (Feel::Comeback, whole("comeback", "Biggest comeback", "points", "largest deficit that the winner made good")),
        (
            Feel::LongestLull,
            timed("longest_lull", "Longest lull", "longest time without a change of score").wanted(Wanted::Less),
        ),
        (Feel::FirstScore, timed("first_score", "First score", "time until a score changed")),
        (Feel::Rally, timed("rally", "Rally", "mean time from one change of score to the next")),
    ]
}

/// The lead of the first seat over the second, with the tick of each change. Separate, since few matches record it.
#[derive(Clone, Debug, Default)]
struct Leads(Vec<(u64, f64)>);

/// The measures of one match, kept up as scores change.
#[derive(Clone, Debug, Default)]
pub(crate) struct Experience {
    start: Vec<f64>,
    scores: Vec<f64>,
    changed_at: u64,
    changes: u64,
    first: u64,
    lull: u64,
    widest: f64,
    lead_time: f64,
    leader: Option<usize>,
    lead_changes: u64,
    deepest: Vec<f64>,
    /// The record of leads, if a column needs it.
    leads: Option<Box<Leads>>,
}

impl Experience {
    /// A match begins with these scores, in the memory of the one before.
    pub(crate) fn begin(&mut self, scores: &[f64]) {
        let Self { mut start, scores: mut before, mut deepest, .. } = std::mem::take(self);
        for curve in [&mut start, &mut before] {
            curve.clear();
            curve.extend_from_slice(scores);
        }
        deepest.clear();
        deepest.resize(scores.len(), 0.0);
        *self = Self { start, scores: before, deepest, ..Self::default() };
    }

    /// Keeps the lead of the first seat over the second from here on.
    pub(crate) fn keep_leads(&mut self) {
        self.leads = Some(Box::default());
    }

    /// The lead at evenly spaced moments of a match that ended at this tick, where it was kept.
    pub(crate) fn leads(&self, tick: u64) -> Option<Vec<u8>> {
        let changes = &self.leads.as_ref()?.0;
        let at = |moment: usize| {
            let when = (lead_moment(moment) * tick as f64) as u64;
            let before = changes.partition_point(|(changed, _)| *changed <= when);
            before.checked_sub(1).map_or(0.0, |last| changes[last].1) as f32
        };
        Some((0..LEADS).flat_map(|moment| at(moment).to_le_bytes()).collect())
    }

    /// Looks at the scores after a tick.
    #[inline]
    pub(crate) fn look(&mut self, tick: u64, scores: &[f64]) {
        let same = match (self.scores.as_slice(), scores) {
            // Most matches are between two, and this is looked at after every tick.
            ([a, b], [x, y]) => a == x && b == y,
            (before, now) => before == now,
        };
        if !same {
            self.change(tick, scores);
        }
    }

    #[inline(never)]
    fn change(&mut self, tick: u64, scores: &[f64]) {
        self.pass(tick);
        if self.changes == 0 {
            self.first = tick;
        }
        self.changes += 1;
        self.scores.copy_from_slice(scores);
        if self.leads.is_some() {
            self.keep_lead(tick);
        }
        let (best, leader) = leader(scores);
        if leader.is_some() {
            self.lead_changes += u64::from(self.leader.is_some_and(|before| Some(before) != leader));
            self.leader = leader;
        }
        for (seat, score) in scores.iter().enumerate() {
            self.deepest[seat] = self.deepest[seat].max(best - score);
            self.widest = self.widest.max((score - self.start[seat]).abs());
        }
    }

    #[cold]
    fn keep_lead(&mut self, tick: u64) {
        if let (Some(leads), [first, second]) = (&mut self.leads, self.scores.as_slice()) {
            leads.0.push((tick, first - second));
        }
    }

    /// Counts the time since the last change.
    fn pass(&mut self, tick: u64) {
        let passed = tick - self.changed_at;
        self.lull = self.lull.max(passed);
        self.lead_time += passed as f64 * lead(&self.scores);
        self.changed_at = tick;
    }

    /// A figure of a match that ended at this tick.
    pub(crate) fn figure(&self, feel: Feel, tick: u64, a_second: f64) -> f64 {
        let passed = tick - self.changed_at;
        let time = |ticks: u64| ticks as f64 / a_second;
        let none = |x: f64| if self.changes == 0 { f64::NAN } else { x };
        match feel {
            Feel::Closeness if self.widest == 0.0 || tick == 0 => 1.0,
            Feel::Closeness => {
                let lead_time = self.lead_time + passed as f64 * lead(&self.scores);
                1.0 - (lead_time / tick as f64 / self.widest).min(1.0)
            }
            Feel::LeadChanges => self.lead_changes as f64,
            Feel::Comeback => self.comeback(),
            // Times the length of a tick, as the first game kept it: rows stay what they were, to the last bit.
            Feel::LongestLull => self.lull.max(passed) as f64 * (1.0 / a_second),
            Feel::FirstScore => none(time(self.first)),
            Feel::Rally => none(time(tick) / self.changes as f64),
        }
    }

    /// Returns the deepest deficit of the final leader.
    fn comeback(&self) -> f64 {
        let best = self.scores.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        let winners = self.scores.iter().zip(&self.deepest).filter(|(score, _)| **score == best);
        winners.map(|(_, deficit)| *deficit).fold(0.0, f64::max)
    }
}

/// Returns the highest score, and its seat if only one has it.
#[inline]
fn leader(scores: &[f64]) -> (f64, Option<usize>) {
    // Most matches are between two, and in some the score changes with every move.
    if let [a, b] = *scores {
        return if a > b {
            (a, Some(0))
        } else if b > a {
            (b, Some(1))
        } else {
            (a, None)
        };
    }
    let best = scores.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    let mut leaders = (0..scores.len()).filter(|seat| scores[*seat] == best);
    (best, leaders.next().filter(|_| leaders.next().is_none()))
}

/// The lead of the best over the next.
fn lead(scores: &[f64]) -> f64 {
    if let [a, b] = *scores {
        return (a - b).abs();
    }
    let (mut best, mut next) = (f64::NEG_INFINITY, f64::NEG_INFINITY);
    for &score in scores {
        if score > best {
            (best, next) = (score, best);
        } else if score > next {
            next = score;
        }
    }
    if next == f64::NEG_INFINITY { 0.0 } else { best - next }
}

#[cfg(test)]
mod tests {
    use super::*;

    const ALL: [Feel; 6] =
        [Feel::Closeness, Feel::LeadChanges, Feel::Comeback, Feel::LongestLull, Feel::FirstScore, Feel::Rally];

    fn figures(changes: &[(u64, [f64; 2])], end: u64) -> Vec<f64> {
        let mut feel = Experience::default();
        feel.begin(&[0.0, 0.0]);
        for (tick, scores) in changes {
            feel.look(*tick, scores);
        }
        ALL.map(|each| feel.figure(each, end, 1.0)).to_vec()
    }

    #[test]
    fn a_match_that_turns_is_told_from_its_scores() {
        // Behind by 2 from 20 to 30, by 1 until 40, level until 50, then ahead by 1 to the end at 100.
        let figures_now =
            figures(&[(10, [0.0, 1.0]), (20, [0.0, 2.0]), (30, [1.0, 2.0]), (40, [2.0, 2.0]), (50, [3.0, 2.0])], 100);
        // Mean lead (10 * 1 + 10 * 2 + 10 * 1 + 50 * 1) / 100 = 0.9 of the largest change, 3.
        assert_eq!(figures_now, [0.7, 1.0, 2.0, 50.0, 10.0, 20.0]);
    }

    #[test]
    fn a_match_without_a_score_is_as_close_as_can_be_and_has_no_first_one() {
        let figures_now = figures(&[], 30);
        assert_eq!(figures_now[..4], [1.0, 0.0, 0.0, 30.0]);
        assert!(figures_now[4].is_nan() && figures_now[5].is_nan());
    }

    #[test]
    fn leads_are_kept_at_even_moments_where_they_are_asked_for() {
        let mut feel = Experience::default();
        feel.begin(&[0.0, 0.0]);
        assert_eq!(feel.leads(40), None);
        feel.keep_leads();
        feel.look(11, &[0.0, 1.0]);
        feel.look(31, &[3.0, 1.0]);
        // Moments at 1, 3, 5, ... of 40 ticks.
        let leads = feel.leads(40).and_then(|bytes| read_leads(&bytes)).expect("they are kept");
        assert_eq!((leads[4], leads[5], leads[14], leads[15], leads[19]), (0.0, -1.0, -1.0, 2.0, 2.0));
        assert_eq!(read_leads(&[0; 79]), None);
    }

    #[test]
    fn a_tie_on_the_way_is_one_change_of_lead() {
        let figures_now = figures(&[(1, [1.0, 0.0]), (2, [1.0, 1.0]), (3, [1.0, 2.0])], 4);
        assert_eq!(figures_now[1], 1.0);
    }
}
