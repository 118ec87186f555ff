//! Learning curves on the yardstick and on levels held back.

use inkpot_figures::{Drawing, Learning, LearningSearch, Words};
use inkpot_lab::HistoryLine;
use inkpot_stats::Interval;

use super::searched::Searched;
use super::together::whose;
use super::words::{self, plainly};
use crate::figures::estimate;
use crate::show::format::{capital, counted};

/// Draws it.
pub(super) fn draw(searched: &Searched) -> Drawing {
    let (found, by) = (searched.found(), searched.usual());
    let line = |name: &str, figure: fn(&HistoryLine) -> Option<f64>, proved: Option<Interval>| LearningSearch {
        name: name.into(),
        repetitions: searched.lines(by, figure),
        proved: proved.as_ref().map(estimate),
        proved_word: "proved",
    };
    let best = found.chosen();
    let text = |proved: Option<Interval>| {
        proved.map_or("unknown".into(), |interval| plainly(found, interval.value, Some(&interval)))
    };
    let figure = capital(&words::figure(found));
    let levels: Vec<String> = searched.aim().yardstick.held_back.iter().map(ToString::to_string).collect();
    Learning {
        words: Words {
            title: format!(
                "{figure} is {} on the yardstick, {} on levels that were held back",
                text(best.proved),
                text(best.held_back)
            ),
            subtitle: format!(
                "{figure} of {}; median and quartiles of {}",
                whose(std::slice::from_ref(searched)),
                counted(found.seeds.len() as u64, "repetition", "repetitions")
            ),
            caption: format!(
                "Right: the champion on fresh blocks, {:.0} % intervals. Held back: {}. {}, seed {}. Study {}.",
                100.0 * searched.confidence,
                levels.join(", "),
                searched.aim().ground.game,
                searched.aim().ground.seed,
                searched.name
            ),
        },
        spent: by.axis().into(),
        figure,
        is_share: found.is_share,
        target: None,
        searches: vec![
            line("yardstick", |line| line.yardstick, best.proved),
            line("held back", |line| line.held_back, best.held_back),
        ],
    }
    .draw()
}
