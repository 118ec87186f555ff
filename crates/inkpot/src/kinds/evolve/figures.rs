//! The figures of an evolution.

use inkpot_figures::{Learning, LearningSearch, Words};
use inkpot_lab::{HistoryLine, SearchFound, read_evolution};

use super::words::{chosen, figure};
use crate::failure::Failure;
use crate::figures::{Gallery, estimate};
use crate::show::format::{capital, count, counted};
use crate::stored::HISTORY;

/// The yardstick's figure by matches, repetition by repetition.
pub(super) fn learning(found: &SearchFound, gallery: &Gallery) -> Result<Learning, Failure> {
    let history = read_evolution(&gallery.study.read_kept(&gallery.manifest, HISTORY)?);
    let of_seed = |seed: u64| -> Vec<(f64, f64)> {
        let own = history.iter().filter(|line| line.seed == seed);
        own.filter_map(|line: &HistoryLine| Some((line.matches as f64, line.yardstick?))).collect()
    };
    let search = LearningSearch {
        name: found.method.name().into(),
        repetitions: found.seeds.iter().map(|own| of_seed(own.seed)).collect(),
        proved: chosen(found).proved.as_ref().map(estimate),
    };
    let repetitions = counted(found.seeds.len() as u64, "repetition", "repetitions");
    let never = found.seeds.iter().filter(|own| own.first_success.is_none()).count();
    let missed = if never > 0 { format!("; {} never succeeded", count(never as u64)) } else { String::new() };
    Ok(Learning {
        words: Words {
            title: gallery.title(),
            subtitle: format!(
                "{} of the best of a generation on the yardstick: {repetitions}, their median and quartiles{missed}",
                capital(&figure(found))
            ),
            caption: gallery.caption("Right: the champion on fresh blocks."),
        },
        spent: "Matches of a repetition".into(),
        figure: capital(&figure(found)),
        is_share: found.is_share,
        target: found.target,
        searches: vec![search],
    })
}
