//! Costs of searches until they reached their target.

use inkpot_stats::Spent;

use super::{HistoryLine, SearchFound, SeedFound, StoppedBy};

/// Returns, by this count, the cost of each repetition until it reached the target: between the look before and the
/// look whose candidate fresh blocks confirmed.
pub fn spent_until<'a>(
    found: &SearchFound,
    history: &'a [HistoryLine],
    spent: impl Fn(&'a HistoryLine) -> Option<f64>,
) -> Vec<Spent> {
    let by_round =
        |seed: u64, round: u64| history.iter().find(|line| (line.seed, line.round) == (seed, round)).and_then(&spent);
    let of = |repetition: &SeedFound| {
        let [after, by] = repetition.reached?;
        let after = if after == 0 { 0.0 } else { by_round(repetition.seed, after)? };
        Some(Spent { after, by: by_round(repetition.seed, by)? })
    };
    found.seeds.iter().map(|repetition| of(repetition).unwrap_or(Spent::NEVER)).collect()
}

/// Whether the repetitions of a search that ended by its target reached it on a single look, as studies of earlier
/// versions did: then nothing confirms when they reached it.
pub fn reached_unconfirmed(found: &SearchFound) -> bool {
    found.seeds.iter().any(|repetition| repetition.stopped_by == StoppedBy::Target && repetition.reached.is_none())
}
