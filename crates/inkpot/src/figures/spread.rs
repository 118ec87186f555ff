//! Distributions of scores and lengths: the figures that need the rows.

use inkpot_core::Row;
use inkpot_figures::{Distribution, Group, Words};
use inkpot_ledger::Columns;
use inkpot_stats::Interval;

use super::gallery::{Gallery, estimate};
use crate::failure::Failure;
use crate::figure_name::Name;
use crate::show::format::plain;

/// Histograms in one picture, and bins in one histogram.
const GROUPS: usize = 6;
const BINS: usize = 32;
/// The measure that is the length of a match, where a game has it; else turns are counted.
const LENGTH: &str = "length_s";

/// The histograms under way for one figure.
struct Spread {
    name: Name,
    low: f64,
    high: f64,
    whole: bool,
    edges: Vec<f64>,
    counts: Vec<Vec<u64>>,
}

/// Builds the distributions of these names (scores, lengths), in two passes over the rows.
pub(crate) fn distributions(gallery: &Gallery, names: &[Name]) -> Result<Vec<Distribution>, Failure> {
    if names.is_empty() {
        return Ok(Vec::new());
    }
    let groups = groups(gallery);
    let mut spreads: Vec<Spread> = names.iter().map(|&name| Spread::new(name)).collect();
    rows(gallery, |row, measures| {
        for spread in &mut spreads {
            spread.widen(value(gallery, spread.name, row, measures));
        }
    })?;
    for spread in &mut spreads {
        spread.cut(groups.len());
    }
    rows(gallery, |row, measures| {
        if let Some(group) = place(gallery, &groups, row) {
            for spread in &mut spreads {
                spread.count(group, value(gallery, spread.name, row, measures));
            }
        }
    })?;
    Ok(spreads.into_iter().map(|spread| spread.distribution(gallery, &groups)).collect())
}

impl Spread {
    fn new(name: Name) -> Self {
        Self { name, low: f64::INFINITY, high: f64::NEG_INFINITY, whole: true, edges: Vec::new(), counts: Vec::new() }
    }

    fn widen(&mut self, x: f64) {
        if x.is_finite() {
            (self.low, self.high) = (self.low.min(x), self.high.max(x));
            self.whole &= x.fract() == 0.0;
        }
    }

    /// One bin a whole number where there are few, else even bins over the range.
    fn cut(&mut self, groups: usize) {
        let (low, high) = if self.low <= self.high { (self.low, self.high) } else { (0.0, 1.0) };
        self.whole &= high - low < BINS as f64;
        self.edges = if self.whole {
            (0..=(high - low) as usize + 1).map(|i| low - 0.5 + i as f64).collect()
        } else {
            let width = ((high - low) / BINS as f64).max(1e-9);
            (0..=BINS).map(|i| low + width * i as f64).collect()
        };
        self.counts = vec![vec![0; self.edges.len() - 1]; groups];
    }

    fn count(&mut self, group: usize, x: f64) {
        if x.is_finite() {
            let bin = self.edges.partition_point(|edge| *edge <= x).clamp(1, self.edges.len() - 1) - 1;
            self.counts[group][bin] += 1;
        }
    }

    fn distribution(self, gallery: &Gallery, groups: &[(usize, String)]) -> Distribution {
        // Where all meet in the same matches, these have one length.
        let once = [(0, "every match".to_string())];
        let shared = self.name == Name::Lengths && gallery.summary.sweep().is_none() && gallery.plan.cells.len() == 1;
        let groups = if shared { &once } else { groups };
        let means: Vec<Option<Interval>> = groups.iter().map(|(index, _)| mean(gallery, self.name, *index)).collect();
        let values = || means.iter().flatten().map(|mean| mean.value);
        let ends = (values().fold(f64::INFINITY, f64::min), values().fold(f64::NEG_INFINITY, f64::max));
        let (what, title) = match self.name {
            Name::Lengths => ("length", "How long the matches last"),
            _ => ("score", "How the scores are spread"),
        };
        let tenth = |x: f64| plain((x * 10.0).round() / 10.0);
        let range = match (tenth(ends.0), tenth(ends.1)) {
            _ if !ends.0.is_finite() => String::new(),
            (low, high) if low == high => format!(": mean {what} {low}"),
            (low, high) => format!(": mean {what} from {low} to {high}"),
        };
        let (whose, each) = match gallery.summary.sweep() {
            Some(_) => (format!(" of {}", gallery.summary.entrants[0].name), "point"),
            None => (String::new(), "pairing"),
        };
        Distribution {
            words: Words {
                title: format!("{title}{range}"),
                subtitle: format!("Share of matches by {what}{whose}; {} a {each}", gallery.each()),
                caption: gallery.caption("Dot and bar: mean and its interval."),
            },
            label: label(gallery, self.name),
            whole: self.whole,
            edges: self.edges,
            groups: groups
                .iter()
                .zip(self.counts)
                .zip(means)
                .map(|(((_, name), counts), mean)| Group {
                    name: name.clone(),
                    counts,
                    mean: mean.as_ref().map(estimate),
                })
                .collect(),
        }
    }
}

/// The groups of a histogram: the entrants of a field, evenly spread points of a sweep.
fn groups(gallery: &Gallery) -> Vec<(usize, String)> {
    if gallery.summary.sweep().is_none() {
        let names = gallery.summary.entrants.iter().map(|entrant| entrant.name.clone());
        return names.enumerate().take(2 * GROUPS).collect();
    }
    let all = gallery.plan.cells.len();
    let shown = all.min(GROUPS);
    (0..shown)
        .map(|i| if shown > 1 { i * (all - 1) / (shown - 1) } else { 0 })
        .map(|index| (index, gallery.plan.cell_name(&gallery.plan.cells[index])))
        .collect()
}

fn place(gallery: &Gallery, groups: &[(usize, String)], row: &Row) -> Option<usize> {
    let index = match (gallery.summary.sweep(), row.entrant) {
        (Some(_), 0) => row.cell as usize,
        (Some(_), _) => return None,
        (None, entrant) => usize::from(entrant),
    };
    groups.iter().position(|(group, _)| *group == index)
}

fn length_column(gallery: &Gallery) -> Option<usize> {
    gallery.measures.iter().position(|measure| measure.name == LENGTH)
}

fn value(gallery: &Gallery, name: Name, row: &Row, measures: &[f64]) -> f64 {
    match name {
        Name::Lengths => length_column(gallery).map_or(row.ticks as f64, |at| measures[at]),
        _ => row.score,
    }
}

fn label(gallery: &Gallery, name: Name) -> String {
    match name {
        Name::Lengths => {
            length_column(gallery).map_or_else(|| "Length (turns)".into(), |at| gallery.measures[at].titled())
        }
        _ => "Score".into(),
    }
}

fn mean(gallery: &Gallery, name: Name, group: usize) -> Option<Interval> {
    let (score, measures) = if gallery.summary.sweep().is_some() {
        let point = &gallery.summary.points()[group];
        (point.score, &point.measures)
    } else {
        let entrant = &gallery.summary.entrants[group];
        (entrant.score, &entrant.measures)
    };
    let mean = if name == Name::Lengths { measures.get(LENGTH).copied() } else { score };
    mean?.interval()
}

fn rows(gallery: &Gallery, mut visit: impl FnMut(&Row, &[f64])) -> Result<(), Failure> {
    let names: Vec<String> = gallery.measures.iter().map(|measure| measure.name.clone()).collect();
    let only = Columns {
        fields: vec!["cell", "entrant", "score", "ticks"],
        measures: length_column(gallery).into_iter().collect(),
    };
    gallery.study.visit_columns(&gallery.manifest, &names, Some(&only), |rows| {
        rows.rows.iter().enumerate().for_each(|(index, row)| visit(row, rows.measures_of(index)));
        Ok(())
    })?;
    Ok(())
}
