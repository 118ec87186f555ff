//! Tests of choosing from known figures: constraints across rungs, hard and soft targets, targets out of reach.

use proptest::prelude::*;

use super::super::search::{matches, next_probes};
use super::super::surface::spread;
use super::super::{Across, FoundRung, FreeDraft, Probe, Probed, RungDraft, Sample, TargetDraft, Tune, found};
use super::made::{aim, free, ladder, range, rung};

const BLOCKS: u64 = 400;

/// Builds a history in which `figures` gives every figure, for the free knobs as shares of their ranges.
fn history(tune: &Tune, figures: impl Fn(usize, &[f64]) -> Vec<f64>) -> Vec<Probed> {
    let each = (0..tune.rungs.len()).flat_map(|rung| (0..30).map(move |i| (rung, i)));
    let tried = each.map(|(rung, i)| {
        let shares = spread(i, tune.free.len());
        let samples = figures(rung, &shares).into_iter().map(|mean| Sample { count: BLOCKS, mean, sd: 0.02 });
        let first_block = i as u64 * BLOCKS;
        let probe = Probe { rung, point: tune.point_at(&shares), first_block, blocks: BLOCKS };
        Probed { round: 0, probe, samples: samples.collect() }
    });
    tried.collect()
}

fn chosen(tune: &Tune, figures: impl Fn(usize, &[f64]) -> Vec<f64>) -> Vec<FoundRung> {
    found(tune, &history(tune, figures)).rungs
}

/// Rungs that want these rates and any length; two free knobs.
fn rates(wanted: &[f64], across: Across, step: Option<f64>) -> Tune {
    let rungs = wanted.iter().enumerate().map(|(i, rate)| {
        rung(&format!("rung {i}"), "regular", vec![aim("win_rate", *rate, 0.02), range("length_s", Some(1.0), None)])
    });
    let first = FreeDraft { across: Some(across), step, ..free("skill", 0.0, 1.0) };
    ladder("piste", "fencer", vec![first, free("feint_rate", 0.0, 0.5)], rungs.collect(), 20_000, 1)
}

/// A player who wins less as the first knob rises; matches are long enough.
fn falling(_: usize, x: &[f64]) -> Vec<f64> {
    vec![0.9 - 0.8 * x[0], 30.0]
}

#[test]
fn free_of_each_other_every_rung_has_its_own_value() {
    let rungs = chosen(&rates(&[0.7, 0.3, 0.5], Across::Any, None), falling);
    for (rung, wanted) in rungs.iter().zip([0.25, 0.75, 0.5]) {
        assert!((rung.point[0] - wanted).abs() < 0.03, "{:?}, wanted {wanted}", rung.point);
        assert!(rung.misses.is_empty() && rung.binds.is_empty(), "{rung:?}");
    }
}

#[test]
fn a_knob_that_never_falls_is_named_as_what_stands_against_an_easier_rung() {
    let rungs = chosen(&rates(&[0.3, 0.7], Across::Rising, None), falling);
    assert!(rungs[0].point[0] <= rungs[1].point[0], "{rungs:?}");
    let misses: Vec<_> = rungs.iter().flat_map(|rung| &rung.misses).collect();
    assert!(!misses.is_empty() && misses.iter().all(|miss| miss.target == "win_rate" && miss.order), "{misses:?}");
    // The other way round nothing does.
    let rungs = chosen(&rates(&[0.7, 0.3], Across::Rising, None), falling);
    assert!(rungs.iter().all(|rung| rung.misses.is_empty()), "{rungs:?}");
}

#[test]
fn a_shared_knob_has_one_value_and_the_other_knob_does_the_rest() {
    let tune = rates(&[0.6, 0.4], Across::Shared, None);
    let rungs = chosen(&tune, |_, x| vec![0.9 - 0.4 * x[0] - 0.5 * x[1], 30.0]);
    assert_eq!(rungs[0].point[0], rungs[1].point[0]);
    assert!(rungs.iter().all(|rung| rung.misses.is_empty()), "{rungs:?}");
    assert!(rungs[1].point[1] > rungs[0].point[1] + 0.1, "the harder rung feints more: {rungs:?}");
}

#[test]
fn a_target_that_fights_another_is_named() {
    // Wins come with short matches: 60 % at 24 s, and 40 s at 28 %.
    let both = |_: usize, x: &[f64]| vec![0.1 + 0.8 * x[0], 50.0 - 40.0 * x[0]];
    let tune = |length: TargetDraft| -> Tune {
        let rungs: Vec<RungDraft> = vec![rung("calm", "regular", vec![aim("win_rate", 0.6, 0.03), length])];
        ladder("piste", "fencer", vec![free("skill", 0.0, 1.0), free("feint_rate", 0.0, 0.5)], rungs, 20_000, 1)
    };
    let found = chosen(&tune(range("length_s", Some(40.0), None)), both);
    let rungs: Vec<(&str, &[String])> =
        found[0].misses.iter().map(|miss| (miss.target.as_str(), miss.fights.as_slice())).collect();
    assert!(!rungs.is_empty(), "{found:?}");
    for (target, fights) in rungs {
        let other = if target == "win_rate" { "length_s" } else { "win_rate" };
        assert_eq!(fights, [other]);
    }
    // As a wish the length gives way.
    let wish = TargetDraft { soft: true, ..range("length_s", Some(40.0), None) };
    let found = chosen(&tune(wish), both);
    assert!(found[0].misses.is_empty(), "{found:?}");
    assert!((0.1 + 0.8 * found[0].point[0] - 0.6).abs() < 0.03, "{found:?}");
}

#[test]
fn a_value_beyond_the_range_is_said_to_bind_there() {
    let found = chosen(&rates(&[0.95], Across::Any, None), falling);
    assert_eq!(found[0].binds, ["opponent.skill is at its lowest, 0"]);
    assert_eq!(found[0].misses[0].target, "win_rate");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(12))]

    #[test]
    fn whatever_is_wanted_steps_and_directions_are_kept(
        wanted in prop::collection::vec(0.1f64..0.9, 2..5),
        step in 0.05f64..0.5,
        rising in any::<bool>(),
    ) {
        let across = if rising { Across::Rising } else { Across::Falling };
        let rungs = chosen(&rates(&wanted, across, Some(step)), falling);
        for pair in rungs.windows(2) {
            let moved = pair[1].point[0] - pair[0].point[0];
            // Values are rounded to a ten-thousandth of the range.
            prop_assert!(moved.abs() <= step + 2e-4, "{moved} is more than {step}");
            prop_assert!(if rising { moved >= 0.0 } else { moved <= 0.0 }, "{moved}");
        }
    }

    #[test]
    fn a_search_never_plays_more_than_its_budget(budget in 200u64..3000, rounds in 1u64..8) {
        let mut tune = rates(&[0.6, 0.4], Across::Any, None);
        tune.budget = budget;
        tune.precision = 0.01;
        let mut all = Vec::new();
        for round in 0..rounds {
            let probes = next_probes(&tune, &all, round);
            all.extend(probes.into_iter().map(|probe| {
                let x = tune.shares_of(&probe.point);
                let samples = falling(0, &x).into_iter().map(|mean| Sample { count: probe.blocks, mean, sd: 0.5 });
                Probed { round, samples: samples.collect(), probe }
            }));
        }
        prop_assert!(matches(&tune, &all) <= budget * tune.rungs.len() as u64);
        for rung in 0..2 {
            let mut blocks: Vec<_> = all.iter().filter(|probed| probed.probe.rung == rung).collect();
            blocks.sort_by_key(|probed| probed.probe.first_block);
            let apart = blocks.windows(2).all(|pair| {
                pair[0].probe.first_block + pair[0].probe.blocks <= pair[1].probe.first_block
            });
            prop_assert!(apart, "no block is played twice");
        }
    }
}
