//! What a search did, generation by generation, as a table for people and figures.

use std::fmt::Write;

use super::asked::Evolve;
use super::candidate::Shape;
use super::repetition::Repetition;

/// One generation of one repetition, as it stands in `history.csv`.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct HistoryLine {
    /// Seed of the repetition.
    pub seed: u64,
    /// The generation, from 1 up.
    pub round: u64,
    /// Matches of the repetition so far, its looks at the yardstick left out.
    pub matches: u64,
    /// Ticks or turns of those.
    pub steps: u64,
    /// What the best of the generation was worth, by its first number.
    pub best: f64,
    /// Median and quartiles of what all were worth.
    pub median: f64,
    /// The lower quartile.
    pub low: f64,
    /// The upper quartile.
    pub high: f64,
    /// The yardstick's figure of the best of this generation, with its interval; none where it was not looked at.
    pub yardstick: Option<f64>,
    /// Its interval; none of too few blocks.
    pub yardstick_range: Option<[f64; 2]>,
    /// The other columns by name: the terms of the best, how far the candidates were apart, and the values of its free
    /// knobs.
    pub others: Vec<(String, String)>,
}

const COLUMNS: &str = "seed,round,matches,steps,best,median,low,high,yardstick,yardstick_low,yardstick_high";

/// The column of candidates that were tried.
const EVALUATIONS: &str = "evaluations";

impl HistoryLine {
    /// A number of another column; none where it has no such column or no value.
    pub fn number(&self, column: &str) -> Option<f64> {
        self.text(column)?.parse().ok()
    }

    /// What stands in another column; none where it has no such column.
    pub fn text(&self, column: &str) -> Option<&str> {
        self.others.iter().find(|(name, _)| name == column).map(|(_, text)| text.as_str())
    }

    /// Candidates that the repetition had tried.
    pub fn evaluations(&self) -> Option<f64> {
        self.number(EVALUATIONS)
    }
}

/// Names of the columns beside the common ones.
fn others(evolve: &Evolve) -> Vec<String> {
    let knobs = match &evolve.candidate.shape {
        Shape::Knobs { free, .. } => free.iter().map(|free| format!("knob.{}", free.knob)).collect(),
        _ => Vec::new(),
    };
    let terms = evolve.terms.iter().map(|term| format!("term.{}", term.figure));
    terms.chain(["outcome", "diversity", "groups", EVALUATIONS].map(String::from)).chain(knobs).collect()
}

/// The table.
pub(super) fn write(evolve: &Evolve, repetitions: &[Repetition]) -> String {
    let mut text = format!("{COLUMNS},{}\n", others(evolve).join(","));
    for (number, repetition) in repetitions.iter().enumerate() {
        for (place, own) in repetition.generations.iter().enumerate() {
            let round = place as u64 + 1;
            let [low, median, high] = own.quartiles;
            let (seed, matches, steps, best) = (evolve.seed_of(number), own.matches, own.steps, own.best.first());
            let _ = write!(text, "{seed},{round},{matches},{steps},{best},{median},{low},{high}");
            let look = repetition.looks.all.iter().find(|look| look.pick.generation == round);
            let range = look.and_then(|look| look.range);
            for value in [
                look.map(|look| look.figures.outcome).filter(|x| x.is_finite()),
                range.map(|own| own[0]),
                range.map(|own| own[1]),
            ] {
                text.push(',');
                let _ = value.map_or(Ok(()), |value| write!(text, "{value}"));
            }
            for value in own.figures.terms.iter().chain([&own.figures.outcome]) {
                text.push(',');
                let _ = if value.is_finite() { write!(text, "{value}") } else { Ok(()) };
            }
            let _ = write!(text, ",{},{},{}", own.diversity, own.groups, own.evaluations);
            for value in &own.values {
                let _ = write!(text, ",{value}");
            }
            text.push('\n');
        }
    }
    text
}

/// Reads a table back; lines that are none of it are left out.
pub fn read_evolution(text: &str) -> Vec<HistoryLine> {
    let mut lines = text.lines();
    let names: Vec<&str> = lines.next().unwrap_or_default().split(',').collect();
    let read = |line: &str| {
        let cells: Vec<&str> = line.split(',').collect();
        let number = |place: usize| cells.get(place)?.parse::<f64>().ok();
        let whole = |place: usize| cells.get(place)?.parse::<u64>().ok();
        Some(HistoryLine {
            seed: whole(0)?,
            round: whole(1)?,
            matches: whole(2)?,
            steps: whole(3)?,
            best: number(4)?,
            median: number(5)?,
            low: number(6)?,
            high: number(7)?,
            yardstick: number(8),
            yardstick_range: number(9).zip(number(10)).map(|(low, high)| [low, high]),
            others: names.iter().zip(&cells).skip(11).map(|(name, cell)| ((*name).into(), (*cell).into())).collect(),
        })
    };
    lines.filter_map(read).collect()
}
