//! The history of a search, generation by generation, as a table for people and figures.

use std::fmt::Write;

use super::looks::Look;

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
    /// The fitness of the generation's best, by its first number.
    pub best: f64,
    /// Median and quartiles of all fitness values.
    pub median: f64,
    /// The lower quartile.
    pub low: f64,
    /// The upper quartile.
    pub high: f64,
    /// The yardstick's figure of the best of this generation, with its interval; none where it was not looked at.
    pub yardstick: Option<f64>,
    /// Its interval; none of too few blocks.
    pub yardstick_range: Option<[f64; 2]>,
    /// The same figure on the levels that are held back, with its interval.
    pub held_back: Option<f64>,
    /// Its interval; none of too few blocks.
    pub held_back_range: Option<[f64; 2]>,
    /// The other columns by name: the terms of the best, how far the candidates were apart, and the values of its free
    /// knobs.
    pub others: Vec<(String, String)>,
}

const COLUMNS: &str = "seed,round,matches,steps,best,median,low,high,yardstick,yardstick_low,yardstick_high,held_back,held_back_low,held_back_high";

/// The column of candidates that were tried.
pub(crate) const EVALUATIONS: &str = "evaluations";

impl HistoryLine {
    /// A number of another column; none where it has no such column or no value.
    pub fn number(&self, column: &str) -> Option<f64> {
        self.text(column)?.parse().ok()
    }

    /// The text in another column; none where there is no such column.
    pub fn text(&self, column: &str) -> Option<&str> {
        self.others.iter().find(|(name, _)| name == column).map(|(_, text)| text.as_str())
    }

    /// Candidates that the repetition had tried.
    pub fn evaluations(&self) -> Option<f64> {
        self.number(EVALUATIONS)
    }
}

/// One line of the table, as it is written.
pub(crate) struct Line<'a> {
    pub(crate) seed: u64,
    pub(crate) round: u64,
    pub(crate) matches: u64,
    pub(crate) steps: u64,
    pub(crate) best: f64,
    /// Lower quartile, median, upper quartile.
    pub(crate) quartiles: [f64; 3],
    pub(crate) look: Option<&'a Look>,
    /// The other columns, in their order; a missing number stays empty.
    pub(crate) others: Vec<f64>,
    /// Columns behind those that are no numbers.
    pub(crate) words: &'a [String],
}

/// The table, with these columns beside the common ones.
pub(crate) fn write<'a>(others: &[String], lines: impl Iterator<Item = Line<'a>>) -> String {
    let mut text = format!("{COLUMNS},{}\n", others.join(","));
    for line in lines {
        let Line { seed, round, matches, steps, best, quartiles: [low, median, high], .. } = line;
        let _ = write!(text, "{seed},{round},{matches},{steps}");
        let range = line.look.and_then(|look| look.range);
        let beside = line.look.and_then(|look| look.held_back);
        let wide = beside.and_then(|found| found.interval);
        let looked = [
            line.look.map(|look| look.figures.outcome),
            range.map(|ends| ends[0]),
            range.map(|ends| ends[1]),
            beside.map(|found| found.value),
            wide.map(|interval| interval.low),
            wide.map(|interval| interval.high),
        ];
        let looked = looked.into_iter().map(|value| value.unwrap_or(f64::NAN));
        for value in [best, median, low, high].into_iter().chain(looked).chain(line.others) {
            text.push(',');
            let _ = if value.is_finite() { write!(text, "{value}") } else { Ok(()) };
        }
        for word in line.words {
            let _ = write!(text, ",{word}");
        }
        text.push('\n');
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
        let or_gap = |place: usize| if cells.get(place)?.is_empty() { Some(f64::NAN) } else { number(place) };
        let whole = |place: usize| cells.get(place)?.parse::<u64>().ok();
        Some(HistoryLine {
            seed: whole(0)?,
            round: whole(1)?,
            matches: whole(2)?,
            steps: whole(3)?,
            best: or_gap(4)?,
            median: or_gap(5)?,
            low: or_gap(6)?,
            high: or_gap(7)?,
            yardstick: number(8),
            yardstick_range: number(9).zip(number(10)).map(|(low, high)| [low, high]),
            held_back: number(11),
            held_back_range: number(12).zip(number(13)).map(|(low, high)| [low, high]),
            others: names.iter().zip(&cells).skip(14).map(|(name, cell)| ((*name).into(), (*cell).into())).collect(),
        })
    };
    lines.filter_map(read).collect()
}

#[cfg(test)]
mod tests {
    use inkpot_learn::Genome;
    use inkpot_stats::Interval;

    use super::*;
    use crate::kinds::found::{Figures, Looked, Pick};

    fn look() -> Look {
        let figures = || Figures { terms: vec![1.0], outcome: 0.625 };
        Look {
            pick: Pick { generation: 2, matches: 20, genome: Genome::Numbers(vec![0.5]), seen: figures() },
            figures: figures(),
            range: Some([0.5, 0.75]),
            held_back: Some(Looked { value: 0.25, interval: Some(Interval { value: 0.25, low: 0.125, high: 0.375 }) }),
        }
    }

    #[test]
    fn a_table_is_read_back_as_it_was_written() {
        let (look, words) = (look(), ["fast".to_string()]);
        let line = |round: u64, look| Line {
            seed: 7,
            round,
            matches: 10 * round,
            steps: 100 * round,
            best: 0.5,
            quartiles: [0.1, 0.2, 0.3],
            look,
            others: vec![4.0 * round as f64, f64::NAN],
            words: &words,
        };
        let names = [EVALUATIONS, "term:win_rate", "style"].map(String::from);
        let text = write(&names, [line(1, None), line(2, Some(&look))].into_iter());
        let lines = read_evolution(&text);
        assert_eq!(lines.len(), 2);
        let [first, second] = lines.as_slice() else { panic!("two lines") };
        assert_eq!((first.seed, first.round, first.matches, first.steps), (7, 1, 10, 100));
        assert_eq!((first.low, first.median, first.high), (0.1, 0.2, 0.3));
        assert_eq!((first.yardstick, first.yardstick_range, first.held_back), (None, None, None));
        assert_eq!((second.yardstick, second.yardstick_range), (Some(0.625), Some([0.5, 0.75])));
        assert_eq!((second.held_back, second.held_back_range), (Some(0.25), Some([0.125, 0.375])));
        assert_eq!((second.evaluations(), second.number("term:win_rate")), (Some(8.0), None), "no number stays empty");
        assert_eq!((second.text("style"), second.text("colour")), (Some("fast"), None));
    }

    #[test]
    fn lines_that_are_none_and_files_that_are_empty_give_nothing() {
        assert!(read_evolution("").is_empty());
        assert!(read_evolution(COLUMNS).is_empty());
        let cut = format!("{COLUMNS}\n1,2,3,4,0.5,0.5,0.5");
        assert!(read_evolution(&cut).is_empty(), "a line that was cut has no upper quartile");
        let words = format!("{COLUMNS}\none,2,3,4,0.5,0.5,0.5,0.5,,,,,,");
        assert!(read_evolution(&words).is_empty(), "a seed is a number");
    }
}
