//! Searches side by side: learning curves, and costs until the target.

use std::collections::BTreeSet;

use inkpot_figures::{Drawing, Learning, Words};
use inkpot_lab::{SearchFound, reached_unconfirmed};
use inkpot_stats::{Spent, SpentRatio, bounds_ratio, median_spent, spent_ratio};
use serde_json::json;

use super::searched::Searched;
use super::words;
use crate::failure::Failure;
use crate::show::format::{capital, counted, plain, significant};
use crate::spent_by::By;

/// The value at which all of these end, if they have one in common.
fn target(searched: &[Searched]) -> Option<f64> {
    let first = searched.first()?.found().target?;
    searched.iter().all(|search| search.found().target == Some(first)).then_some(first)
}

/// Errs where these are not looked at on one yardstick: then their figures cannot be compared. Errs too where they have
/// one target and reached it by other evidence: larger looks reach a target sooner, and a single one reaches it by luck.
pub(crate) fn comparable(searched: &[Searched]) -> Result<(), Failure> {
    let of = |search: &Searched| {
        let yardstick = &search.aim().yardstick;
        let opponents: Vec<_> =
            yardstick.opponents.iter().map(|other| (other.kind.clone(), other.knobs.clone())).collect();
        (
            search.aim().ground.game.clone(),
            yardstick.figure.clone(),
            yardstick.level.clone(),
            yardstick.rules.clone(),
            opponents,
        )
    };
    let Some((first, others)) = searched.split_first() else { return Ok(()) };
    if target(searched).is_some() && !others.is_empty() {
        let looks = |search: &Searched| search.aim().yardstick.matches;
        if let Some(other) = others.iter().find(|search| looks(search) != looks(first)) {
            return Err(Failure::wrong(
                format!(
                    "`{}` and `{}` look at their target with {} and {} matches, and more matches confirm it sooner",
                    first.name,
                    other.name,
                    looks(first),
                    looks(other)
                ),
                "give both briefs the same `matches` under [yardstick]",
            ));
        }
        if let Some(early) = searched.iter().find(|search| reached_unconfirmed(search.found())) {
            return Err(Failure::wrong(
                format!("`{}` is of an earlier version, which ended a repetition at one lucky look", early.name),
                "run its brief again",
            ));
        }
    }
    match others.iter().find(|search| of(search) != of(first)) {
        None => Ok(()),
        Some(other) => Err(Failure::wrong(
            format!("`{}` and `{}` have different yardsticks", first.name, other.name),
            "give both briefs the same game, figure, level, rules and opponents under [yardstick]",
        )),
    }
}

/// Draws the learning curves of several searches in one figure.
pub(crate) fn learning(searched: &[Searched], by: By) -> Result<Drawing, Failure> {
    comparable(searched)?;
    searched.iter().try_for_each(|search| search.has(by))?;
    let first = &searched[0];
    let names: Vec<&str> = searched.iter().map(|search| search.name.as_str()).collect();
    let single = searched.len() == 1;
    let goal = target(searched);
    let named = |search: &Searched| match goal {
        Some(_) => {
            let spent = search.spent_until(by);
            let reached = spent.iter().filter(|spent| spent.is_reached()).count();
            let name = if single { search.found().method.name() } else { &search.name };
            format!("{name}, {reached} of {}", spent.len())
        }
        None if single => search.found().method.name().into(),
        None => search.name.clone(),
    };
    let counts: BTreeSet<u64> = searched.iter().map(|search| search.found().seeds.len() as u64).collect();
    let counts: Vec<String> = counts.into_iter().map(|n| counted(n, "repetition", "repetitions")).collect();
    let figure = capital(&words::figure(first.found()));
    let right = if single { "the champion" } else { "means over the repetitions" };
    let reached = if goal.is_some() { " and how many reached the target" } else { "" };
    Ok(Learning {
        words: Words {
            title: headline(searched, by),
            subtitle: format!(
                "{figure} of {} on the yardstick; median and quartiles of {}",
                whose(searched),
                counts.join(" or ")
            ),
            caption: format!(
                "Right: {right} on fresh blocks, {:.0} % intervals{reached}. {}, seed {}. {} {}.",
                100.0 * first.confidence,
                first.aim().ground.game,
                first.aim().ground.seed,
                if single { "Study" } else { "Studies" },
                names.join(", ")
            ),
        },
        spent: by.axis().into(),
        figure,
        is_share: first.found().is_share,
        target: goal,
        searches: searched.iter().map(|search| search.drawn(by, &named(search), !single)).collect(),
    }
    .draw())
}

/// Whom these are looked at by.
pub(super) fn whose(searched: &[Searched]) -> &'static str {
    let trained = |search: &&Searched| search.found().method.trains();
    match searched.iter().filter(trained).count() {
        0 => "the best of a generation",
        count if count == searched.len() => "the policy at each look",
        _ => "the best of a generation, or the policy,",
    }
}

/// Writes the finding, short enough for a figure's title.
fn headline(searched: &[Searched], by: By) -> String {
    let first = &searched[0];
    let Some(goal) = target(searched).filter(|_| searched.len() > 1) else {
        return match searched {
            [only] => words::headline(only.found()),
            several => compared(several, by).swap_remove(0).trim_end_matches('.').replace('`', ""),
        };
    };
    if let ([a, b], [Against { ratio: Some(ratio), .. }]) = (searched, pairs(searched, by).as_slice()) {
        return match ratio.range {
            Some([low, high]) if low <= 1.0 && high >= 1.0 => {
                format!("{} and {} are not separable in what they need", a.name, b.name)
            }
            _ => format!("{} needs {} times {} as {}", a.name, ratio_text(ratio), by.many(), b.name),
        };
    }
    let (mut reached, mut others) = (Vec::new(), Vec::new());
    for search in searched {
        let spent = search.spent_until(by);
        if let Some(median) = median_spent(&spent) {
            reached.push(format!("{} after {}", search.name, by.amount(median)));
        } else {
            let count = spent.iter().filter(|spent| spent.is_reached()).count();
            others.push(format!("{} in {count} of {}", search.name, spent.len()));
        }
    }
    let figure = self::goal(first.found(), goal);
    match (reached.is_empty(), others.is_empty()) {
        (true, _) => format!("No search reached {figure} in more than half of its repetitions"),
        (false, true) => format!("{} in the median: {}", capital(&figure), reached.join(", ")),
        (false, false) => format!("{}: {}; {}", capital(&figure), reached.join(", "), others.join(", ")),
    }
}

/// The target in words.
fn goal(found: &SearchFound, target: f64) -> String {
    let value = if found.is_share { format!("{} %", plain(100.0 * target)) } else { plain(target) };
    format!("{} {value}", words::figure(found))
}

/// A ratio with its interval.
fn ratio_text(ratio: &SpentRatio) -> String {
    let value = significant(ratio.value, 2);
    match ratio.range {
        Some([low, high]) if high.is_finite() => format!("{value} ({}-{})", significant(low, 2), significant(high, 2)),
        Some([low, _]) if low > 0.0 => format!("{value} ({} or more)", significant(low, 2)),
        Some(_) => format!("{value} (interval open)"),
        None => value,
    }
}

/// The most repetitions that are advised.
const MOST_ADVISED: usize = 100;

/// The comparison of one search's cost with another's.
struct Against<'a> {
    pair: [&'a Searched; 2],
    spent: [Vec<Spent>; 2],
    target: f64,
    by: By,
    /// Confidence of each comparison, so that all hold at once (Bonferroni).
    confidence: f64,
    ratio: Option<SpentRatio>,
}

/// Each of the others against the first; none without a target that they share.
fn pairs(searched: &[Searched], by: By) -> Vec<Against<'_>> {
    let (Some(target), Some((first, others))) = (target(searched), searched.split_first()) else { return Vec::new() };
    let confidence = 1.0 - (1.0 - first.confidence) / others.len().max(1) as f64;
    let against = |other| {
        let pair = [first, other];
        let spent = pair.map(|search: &Searched| search.spent_until(by));
        let ratio = spent_ratio(&spent[0], &spent[1], confidence);
        Against { pair, spent, target, by, confidence, ratio }
    };
    others.iter().map(against).collect()
}

/// Writes the searches' costs until their common target, then their results over repetitions.
pub(crate) fn compared(searched: &[Searched], by: By) -> Vec<String> {
    pairs(searched, by).iter().map(Against::sentence).chain(other_targets(searched)).chain(results(searched)).collect()
}

/// Writes that searches with different targets cannot be compared by cost.
fn other_targets(searched: &[Searched]) -> Option<String> {
    let has_target = |search: &Searched| search.found().target.is_some();
    if searched.len() < 2 || target(searched).is_some() || !searched.iter().any(has_target) {
        return None;
    }
    let each = searched.iter().map(|search| match search.found().target {
        Some(target) => format!("`{}` {}", search.name, goal(search.found(), target)),
        None => format!("`{}` none", search.name),
    });
    let each: Vec<String> = each.collect();
    Some(format!("Which needs less is not compared, since their targets differ: {}.", each.join(", ")))
}

/// Writes the result of each over its repetitions, and the difference of each other from the first.
fn results(searched: &[Searched]) -> Vec<String> {
    let Some((first, others)) = searched.split_first() else { return Vec::new() };
    let found = first.found();
    let result = |search: &Searched| {
        let of = counted(search.found().seeds.len() as u64, "repetition", "repetitions");
        if let Some(mean) = search.found().over_repetitions {
            return format!("`{}` {} over {of}", search.name, words::interval(found, &mean));
        }
        let proved = search.found().chosen().proved;
        let value = proved.map_or_else(|| "unknown".into(), |proved| words::interval(found, &proved));
        format!("`{}` {value} for one champion", search.name)
    };
    let each: Vec<String> = searched.iter().map(result).collect();
    let mut text = vec![format!("{} on fresh blocks: {}.", capital(&words::figure(found)), each.join(", "))];
    let confidence = 1.0 - (1.0 - first.confidence) / others.len().max(1) as f64;
    text.extend(others.iter().filter_map(|other| {
        let [a, b] = [first, other].map(|search| search.found().repetitions(confidence));
        let apart = a?.above(&b?, confidence)?;
        let verdict = match () {
            () if apart.low > 0.0 => "lies above",
            () if apart.high < 0.0 => "lies below",
            () => "is not separable from",
        };
        Some(format!("`{}` {verdict} `{}`: difference {}.", first.name, other.name, words::difference(found, &apart)))
    }));
    text
}

/// The same as numbers.
pub(crate) fn ratios(searched: &[Searched], by: By) -> serde_json::Value {
    pairs(searched, by).iter().map(Against::json).collect()
}

impl Against<'_> {
    fn sentence(&self) -> String {
        let (by, [a, b]) = (self.by, &self.pair);
        let goal = goal(a.found(), self.target);
        let Some(ratio) = &self.ratio else {
            let reached = |spent: &Vec<Spent>| {
                let there = spent.iter().filter(|spent| spent.is_reached()).count();
                let median = median_spent(spent)
                    .map_or(String::new(), |median| format!(", in the median by {}", by.amount(median)));
                format!("in {there} of {} repetitions{median}", spent.len())
            };
            let [first, second] = self.spent.each_ref().map(reached);
            return format!("`{}` reached {goal} {first}; `{}` {second}.", a.name, b.name);
        };
        let median = |spent: &Vec<Spent>| {
            let failed = spent.iter().filter(|spent| !spent.is_reached()).count();
            let median = median_spent(spent).map_or_else(|| "none".into(), |median| by.amount(median));
            format!("{median} ({failed} of {} failed)", spent.len())
        };
        let [first, second] = self.spent.each_ref().map(median);
        let beside = format!("in the median {first} against {second}");
        let text = ratio_text(ratio);
        match ratio.range {
            Some([low, high]) if low <= 1.0 && high >= 1.0 => format!(
                "How much `{}` needs to reach {goal} is not separable from what `{}` needs: {text} times {}, {beside}.",
                a.name,
                b.name,
                by.many()
            ),
            range => {
                let few = if range.is_some() { String::new() } else { self.too_few() };
                format!("`{}` needs {text} times {} as `{}` to reach {goal}: {beside}.{few}", a.name, by.many(), b.name)
            }
        }
    }

    /// Why there is no interval, and how many repetitions would give one.
    fn too_few(&self) -> String {
        let [a, b] = self.spent.each_ref().map(Vec::len);
        let enough = (2..=MOST_ADVISED).find(|&n| bounds_ratio(n, n, self.confidence)).unwrap_or_default();
        format!(" {a} and {b} repetitions give no interval; use `seeds = {enough}` in both briefs.")
    }

    fn json(&self) -> serde_json::Value {
        let side = |search: &Searched, spent: &Vec<Spent>| {
            let failed = spent.iter().filter(|spent| !spent.is_reached()).count();
            json!({ "study": search.name, "median": median_spent(spent), "failed": failed, "repetitions": spent.len() })
        };
        let [a, b] = [0, 1].map(|place| side(self.pair[place], &self.spent[place]));
        // What may be any number has no upper end.
        let ratio = self.ratio.map(|ratio| {
            let range = ratio.range.map_or([None; 2], |ends| ends.map(|end| Some(end).filter(|end| end.is_finite())));
            json!({ "value": ratio.value, "low": range[0], "high": range[1] })
        });
        json!({ "a": a, "b": b, "target": self.target, "ratio": ratio, "confidence": self.confidence })
    }
}
