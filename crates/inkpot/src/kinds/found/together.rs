//! Searches side by side: how each gets on, and which needs less for the target.

use std::collections::BTreeSet;

use inkpot_figures::{Drawing, Learning, Words};
use inkpot_lab::{SearchFound, compare_spent};
use inkpot_stats::{FEWEST_REPETITIONS, SpentRatio, median_spent};
use serde_json::json;

use super::searched::Searched;
use super::words::{self, plainly};
use crate::failure::Failure;
use crate::show::format::{capital, counted, plain, significant};
use crate::spent_by::By;

/// The value at which all of these end, if they have one in common.
fn target(searched: &[Searched]) -> Option<f64> {
    let first = searched.iter().find_map(|search| search.found().target)?;
    searched.iter().all(|search| search.found().target.is_none_or(|other| other == first)).then_some(first)
}

/// Errs where these are not looked at on one yardstick: then their figures cannot be compared.
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
    match others.iter().find(|search| of(search) != of(first)) {
        None => Ok(()),
        Some(other) => Err(Failure::wrong(
            format!("`{}` and `{}` have different yardsticks", first.name, other.name),
            "give both briefs the same game, figure, level, rules and opponents under [yardstick]",
        )),
    }
}

/// How each gets on, the searches in one figure.
pub(crate) fn learning(searched: &[Searched], by: By) -> Result<Drawing, Failure> {
    comparable(searched)?;
    searched.iter().try_for_each(|search| search.has(by))?;
    let first = &searched[0];
    let names: Vec<&str> = searched.iter().map(|search| search.name.as_str()).collect();
    let single = searched.len() == 1;
    let goal = target(searched);
    let named = |search: &Searched| match goal {
        Some(goal) => {
            let spent = search.spent_until(goal, by);
            let reached = spent.iter().filter(|x| x.is_finite()).count();
            let name = if single { search.found().method.name() } else { &search.name };
            format!("{name}, {reached} of {}", spent.len())
        }
        None if single => search.found().method.name().into(),
        None => search.name.clone(),
    };
    let counts: BTreeSet<u64> = searched.iter().map(|search| search.found().seeds.len() as u64).collect();
    let counts: Vec<String> = counts.into_iter().map(|n| counted(n, "repetition", "repetitions")).collect();
    let figure = capital(&words::figure(first.found()));
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
                "Right: champions on fresh blocks, {:.0} % intervals{reached}. {}, seed {}. {} {}.",
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
        searches: searched.iter().map(|search| search.drawn(by, &named(search))).collect(),
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

/// What was found, short enough for the title of a figure.
fn headline(searched: &[Searched], by: By) -> String {
    let first = &searched[0];
    let Some(goal) = target(searched).filter(|_| searched.len() > 1) else {
        return match searched {
            [only] => words::headline(only.found()),
            several => compared(several, by).swap_remove(0).replace('`', ""),
        };
    };
    let spent: Vec<Vec<f64>> = searched.iter().map(|search| search.spent_until(goal, by)).collect();
    if let ([a, b], Some(ratio)) = (searched, compare_spent(&spent[0], &spent[spent.len() - 1], first.confidence)) {
        return format!("{} needs {} times {} as {}", a.name, ratio_text(&ratio), by.many(), b.name);
    }
    let (mut reached, mut others) = (Vec::new(), Vec::new());
    for (search, spent) in searched.iter().zip(&spent) {
        match median_spent(spent) {
            Some(median) => reached.push(format!("{} after {}", search.name, by.amount(median))),
            None => others.push(search.name.as_str()),
        }
    }
    let figure = self::goal(first.found(), goal);
    match (reached.is_empty(), others.is_empty()) {
        (true, _) => format!("No search reached {figure} in more than half of its repetitions"),
        (false, true) => format!("{} in the median: {}", capital(&figure), reached.join(", ")),
        (false, false) => format!("{}: {}; not {}", capital(&figure), reached.join(", "), others.join(", ")),
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

/// What one search needs for the target, against another.
struct Against<'a> {
    pair: [&'a Searched; 2],
    spent: [Vec<f64>; 2],
    target: f64,
    by: By,
}

/// Each of the others against the first; none without a target that they share.
fn pairs(searched: &[Searched], by: By) -> Vec<Against<'_>> {
    let (Some(target), Some((first, others))) = (target(searched), searched.split_first()) else { return Vec::new() };
    let against = |other| {
        let pair = [first, other];
        Against { pair, spent: pair.map(|search: &Searched| search.spent_until(target, by)), target, by }
    };
    others.iter().map(against).collect()
}

/// Which of these needs less for the target, and by how much. Without a target that they share, what was proved of each.
pub(crate) fn compared(searched: &[Searched], by: By) -> Vec<String> {
    let pairs = pairs(searched, by);
    if !pairs.is_empty() {
        return pairs.iter().map(Against::sentence).collect();
    }
    let proved = |search: &Searched| {
        let seed = search.found().chosen();
        let value = seed.proved.map_or(seed.seen, |proved| proved.value);
        format!("`{}` {}", search.name, plainly(search.found(), value, seed.proved.as_ref()))
    };
    let each: Vec<String> = searched.iter().map(proved).collect();
    let figure = searched.first().map_or_else(String::new, |search| capital(&words::figure(search.found())));
    vec![format!("{figure} on fresh blocks: {}.", each.join(", "))]
}

/// The same as numbers.
pub(crate) fn ratios(searched: &[Searched], by: By) -> serde_json::Value {
    pairs(searched, by).iter().map(Against::json).collect()
}

impl Against<'_> {
    fn ratio(&self) -> Option<SpentRatio> {
        compare_spent(&self.spent[0], &self.spent[1], self.pair[0].confidence)
    }

    fn sentence(&self) -> String {
        let (by, [a, b]) = (self.by, &self.pair);
        let goal = goal(a.found(), self.target);
        let Some(ratio) = self.ratio() else {
            let reached = |spent: &Vec<f64>| {
                let there = spent.iter().filter(|x| x.is_finite()).count();
                let median = median_spent(spent)
                    .map_or(String::new(), |median| format!(", in the median by {}", by.amount(median)));
                format!("in {there} of {} repetitions{median}", spent.len())
            };
            let [first, second] = self.spent.each_ref().map(reached);
            return format!("`{}` reached {goal} {first}; `{}` {second}.", a.name, b.name);
        };
        let median = |spent: &Vec<f64>| {
            let failed = spent.iter().filter(|x| !x.is_finite()).count();
            let median = median_spent(spent).map_or_else(String::new, |median| by.amount(median));
            format!("{median} ({failed} of {} failed)", spent.len())
        };
        let few = match self.spent[0].len().min(self.spent[1].len()) {
            1 => " One repetition compares nothing; use `seeds = 5`.".into(),
            few if few < FEWEST_REPETITIONS => format!(" {few} repetitions give no interval; use `seeds = 5`."),
            _ => String::new(),
        };
        let [first, second] = self.spent.each_ref().map(median);
        format!(
            "`{}` needs {} times {} as `{}` to reach {goal}: in the median {first} against {second}.{few}",
            a.name,
            ratio_text(&ratio),
            by.many(),
            b.name,
        )
    }

    fn json(&self) -> serde_json::Value {
        let side = |search: &Searched, spent: &Vec<f64>| {
            let failed = spent.iter().filter(|x| !x.is_finite()).count();
            json!({ "study": search.name, "median": median_spent(spent), "failed": failed, "repetitions": spent.len() })
        };
        let [a, b] = [0, 1].map(|place| side(self.pair[place], &self.spent[place]));
        // What may be any number has no upper end.
        let ratio = self.ratio().map(|ratio| {
            let range = ratio.range.map_or([None; 2], |ends| ends.map(|end| Some(end).filter(|end| end.is_finite())));
            json!({ "value": ratio.value, "low": range[0], "high": range[1] })
        });
        json!({ "a": a, "b": b, "target": self.target, "ratio": ratio })
    }
}
