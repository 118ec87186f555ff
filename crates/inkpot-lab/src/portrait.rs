//! Portraits of an agent's matches: measures of both sides, endings, and kinds of scores.

use std::collections::BTreeMap;

use inkpot_core::{HeldMatch, Measure, MeasureOf, Rows, Seat};
use inkpot_stats::{Interval, Moments, mean_difference};

use crate::turning::{Scored, score_counts};

/// The portrait of an agent's matches, by block.
#[derive(Clone, Debug, Default)]
pub struct Portrait {
    /// By trait, the values of the agent and of those it met; one a block.
    traits: BTreeMap<Trait, [Moments; 2]>,
    /// Matches whose course was looked at.
    courses: u64,
}

/// Something that matches are compared by.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Trait {
    /// A seat's scores a match, by the game's word for them.
    ScoredBy(String),
    /// A seat's distance from its start when the other scored, in units of the game's scene.
    Away,
    /// A measure, by its place in the game's sheet.
    Measure(usize),
    /// The share of matches with this end.
    Ending(String),
}

/// The course of a match, as far as portraits look at it.
#[derive(Clone, Debug, Default)]
pub struct ScoreCourse {
    /// The entrant of each seat.
    entrants: Vec<u16>,
    scores: Vec<Scored>,
    /// By seat, its distances from its start as another scored.
    away: Vec<Moments>,
}

/// Plays a match to its end and keeps how scores came about, and how far everybody was from its start then.
pub fn score_course(held: &mut dyn HeldMatch) -> ScoreCourse {
    let seats = held.seats();
    let entrants = (0..seats).map(|seat| held.entrant(seat)).collect();
    let start: Vec<Option<[f64; 2]>> = (0..seats).map(|seat| held.place(seat)).collect();
    let mut course = ScoreCourse { entrants, scores: Vec::new(), away: vec![Moments::default(); seats] };
    let mut scores = held.scores().to_vec();
    course.scores.push(Scored { tick: 0, scores: scores.clone(), by: None });
    loop {
        let places: Vec<Option<[f64; 2]>> = (0..seats).map(|seat| held.place(seat)).collect();
        let goes_on = held.turn();
        if held.scores() != scores {
            for seat in 0..seats {
                let others = (0..seats).filter(|other| *other != seat);
                let rose = |other: Seat| held.scores().get(other) > scores.get(other);
                if let (true, Some(start), Some(place)) = (others.into_iter().any(rose), start[seat], places[seat]) {
                    course.away[seat].push((place[0] - start[0]).hypot(place[1] - start[1]));
                }
            }
            scores = held.scores().to_vec();
            course.scores.push(Scored { tick: held.tick(), scores: scores.clone(), by: held.scored_by() });
        }
        if !goes_on {
            return course;
        }
    }
}

impl Portrait {
    /// Takes in the rows of a study, of those matches that the agent played; `measures` are those of the game's sheet.
    pub fn rows(&mut self, rows: &Rows, entrant: u16, measures: &[Measure], endings: &[String]) {
        for block in rows.blocks() {
            let mut sums: BTreeMap<Trait, [Moments; 2]> = BTreeMap::new();
            for played in block.matches().filter(|played| !played.is_void()) {
                let Some(seat) = played.seats().iter().position(|row| row.entrant == entrant) else { continue };
                for (place, measure) in measures.iter().enumerate() {
                    let sides = sums.entry(Trait::Measure(place)).or_default();
                    sides[0].push(played.measures(seat)[place]);
                    let others = (0..played.seats().len()).filter(|other| *other != seat);
                    for other in others.filter(|_| measure.of == MeasureOf::Seat) {
                        sides[1].push(played.measures(other)[place]);
                    }
                }
                for word in endings {
                    let ended = played.seats()[seat].ending == *word;
                    sums.entry(Trait::Ending(word.clone())).or_default()[0].push(f64::from(u8::from(ended)));
                }
            }
            self.block(&sums);
        }
    }

    /// Takes in the courses of the matches of a block; `words` are all by which anybody scored.
    pub fn courses(&mut self, courses: &[ScoreCourse], entrant: u16, words: &[String]) {
        let mut sums: BTreeMap<Trait, [Moments; 2]> = BTreeMap::new();
        for course in courses {
            let Some(seat) = course.entrants.iter().position(|who| *who == entrant) else { continue };
            self.courses += 1;
            let counts = score_counts(&course.scores);
            let of = |seat: Seat, word: &String| {
                counts.get(seat).and_then(|counts| counts.get(word)).copied().unwrap_or(0) as f64
            };
            for word in words {
                let sides = sums.entry(Trait::ScoredBy(word.clone())).or_default();
                sides[0].push(of(seat, word));
                for other in (0..course.entrants.len()).filter(|other| *other != seat) {
                    sides[1].push(of(other, word));
                }
            }
            sums.entry(Trait::Away).or_default()[0].push(course.away[seat].mean().unwrap_or(f64::NAN));
        }
        self.block(&sums);
    }

    fn block(&mut self, sums: &BTreeMap<Trait, [Moments; 2]>) {
        for (what, sides) in sums {
            let values = self.traits.entry(what.clone()).or_default();
            for (value, sum) in values.iter_mut().zip(sides) {
                value.push(sum.mean().unwrap_or(f64::NAN));
            }
        }
    }

    /// The mean of a trait of the agent, and of those it met.
    pub fn means(&self, of: &Trait) -> [Option<f64>; 2] {
        self.traits.get(of).map_or([None; 2], |sides| [sides[0].mean(), sides[1].mean()])
    }

    /// Matches whose course was looked at.
    pub fn looked_at(&self) -> u64 {
        self.courses
    }
}

/// The words by which anybody scored in these courses, in order.
pub fn score_words<'a>(courses: impl IntoIterator<Item = &'a ScoreCourse>) -> Vec<String> {
    let mut words: Vec<String> = courses
        .into_iter()
        .flat_map(|course| course.scores.iter().filter_map(|scored| scored.by.clone()).collect::<Vec<_>>())
        .collect();
    words.sort();
    words.dedup();
    words
}

/// A trait by which two portraits differ clearly.
#[derive(Clone, Debug, PartialEq)]
pub struct TraitDifference {
    /// The differing trait.
    pub of: Trait,
    /// Whether it is of those that the agent met, or of the agent itself.
    pub of_others: bool,
    /// Its means in the first portrait and in the second.
    pub means: [f64; 2],
    /// First minus second (Welch), with an interval that holds for all traits together.
    pub difference: Interval,
}

/// The traits by which two portraits differ clearly, the clearest first: difference by the spread of blocks. The intervals of all
/// traits hold together (Bonferroni).
pub fn differing(first: &Portrait, second: &Portrait, confidence: f64) -> Vec<TraitDifference> {
    let level = 1.0 - (1.0 - confidence) / (2 * first.traits.len().max(1)) as f64;
    let mut all = Vec::new();
    for (of, here) in &first.traits {
        let Some(there) = second.traits.get(of) else { continue };
        for (side, (a, b)) in here.iter().zip(there).enumerate() {
            let clear = |difference: &Interval| difference.low > 0.0 || difference.high < 0.0;
            let Some(difference) = mean_difference(a, b, level).filter(clear) else { continue };
            let (Some(x), Some(y), Some(sd), Some(other_sd)) = (a.mean(), b.mean(), a.sd(), b.sd()) else { continue };
            let effect = difference.value.abs() / sd.hypot(other_sd);
            all.push((effect, TraitDifference { of: of.clone(), of_others: side == 1, means: [x, y], difference }));
        }
    }
    all.sort_by(|a, b| b.0.total_cmp(&a.0));
    all.into_iter().map(|(_, difference)| difference).collect()
}
