//! The running interval of a comparison.

use inkpot_figures::{Estimate, Running, Words};
use inkpot_lab::{ComparisonSummary, Verdict};

use super::words::headline;
use crate::figures::Gallery;
use crate::show::format::{confidence, count};

impl Gallery<'_> {
    pub(super) fn running(&self, comparison: &ComparisonSummary) -> Running {
        let looks = comparison.running.iter().map(|&(block, value, low, high)| (block, Estimate { value, low, high }));
        let figure = if comparison.against.is_empty() {
            format!("Win rate of {} against {}", comparison.a, comparison.b)
        } else {
            format!("Win rate of {} less that of {}, in points", comparison.a, comparison.b)
        };
        let clear = comparison.clear_at.map(|block| {
            let what = match comparison.verdict {
                Verdict::Better => "better",
                Verdict::Worse => "worse",
                Verdict::Equal => "equal",
                Verdict::Open => "not worse",
            };
            (block, format!("clear after {} blocks: {what}", count(block)))
        });
        let whom = if comparison.against.is_empty() {
            String::new()
        } else {
            format!(" against {}", comparison.against.join(", "))
        };
        Running {
            words: Words {
                title: headline(comparison),
                subtitle: format!(
                    "{figure}{whom}, after each block of {} matches",
                    self.plan.matches_a_block() * self.plan.cells.len() as u64
                ),
                caption: format!(
                    "Shaded: {} interval that holds at all looks at once, by betting. {}, seed {}. Study {}.",
                    confidence(self.summary),
                    self.summary.game,
                    self.summary.seed,
                    self.summary.study
                ),
            },
            figure,
            looks: looks.collect(),
            even: comparison.even(),
            equal_within: comparison.equal_within,
            clear,
        }
    }
}
