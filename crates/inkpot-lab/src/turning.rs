//! Turning points of a match: the decisions at which it changed most.

use std::collections::BTreeMap;

use inkpot_core::{HeldMatch, Seat, Thoughts, Weighed};
use serde::Serialize;
use serde_json::Value;

/// Turning points of one kind that are listed.
const OF_A_KIND: usize = 3;
/// The difference below which values are equal.
const SAME: f64 = 1e-9;

/// Choices as they were made in a match, by tick and seat.
pub type Choices = BTreeMap<(u64, Seat), Value>;

/// A change of the scores.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Scored {
    /// Ticks or turns until then.
    pub tick: u64,
    /// Scores by seat from then on.
    pub scores: Vec<f64>,
    /// Why they changed, in a word of the game, if it says.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub by: Option<String>,
}

/// Counts each seat's scores by the game's word for them; scores without a word are left out.
pub fn score_counts(course: &[Scored]) -> Vec<BTreeMap<String, u64>> {
    let mut counts: Vec<BTreeMap<String, u64>> = Vec::new();
    let mut before: &[f64] = &[];
    for scored in course {
        counts.resize_with(scored.scores.len().max(counts.len()), BTreeMap::new);
        for (seat, score) in scored.scores.iter().enumerate() {
            let rose = *score > before.get(seat).copied().unwrap_or(0.0);
            if let Some(by) = scored.by.as_ref().filter(|_| rose) {
                *counts[seat].entry(by.clone()).or_default() += 1;
            }
        }
        before = &scored.scores;
    }
    counts
}

/// A decision of a match, as its judge weighs it.
#[derive(Clone, Debug, PartialEq)]
pub struct Judged {
    /// Ticks or turns before it.
    pub tick: u64,
    /// The deciding seat.
    pub seat: Seat,
    /// The choice in the match.
    pub chosen: Value,
    /// The value of that to the seat, in the judge's own units; none where it is not known.
    pub value: Option<f64>,
    /// The option that the judge values most, and its value.
    pub best: Option<(Value, f64)>,
}

/// A match from start to end: its decisions as they are judged, and its scores.
#[derive(Clone, Debug, Default)]
pub struct JudgedCourse {
    /// The decisions in order.
    pub decisions: Vec<Judged>,
    /// The scores at the start, and from each change on.
    pub scores: Vec<Scored>,
}

/// Plays a match by its own agents up to this tick, or to its end, and keeps every choice.
pub fn choices_until(held: &mut dyn HeldMatch, tick: u64) -> Choices {
    let mut choices = Choices::new();
    while held.tick() < tick {
        let now = held.tick();
        for seat in held.pending() {
            if let Ok(action) = held.consider(seat).action {
                choices.insert((now, seat), action);
            }
        }
        if !held.turn() {
            break;
        }
    }
    choices
}

/// Plays a match to this tick by the choices of another: the agent of `seat` decides too, so that it sees what that
/// seat saw, and is overruled.
pub fn follow(held: &mut dyn HeldMatch, made: &Choices, seat: Seat, tick: u64) {
    while held.tick() < tick {
        let now = held.tick();
        for acting in held.pending() {
            if acting == seat {
                held.consider(acting);
            }
            let Some(choice) = made.get(&(now, acting)) else { continue };
            if held.choose(acting, choice.clone()).is_err() {
                return;
            }
        }
        if !held.step() {
            break;
        }
    }
}

/// Returns the valued options; none for thoughts that are chances.
fn values(thoughts: Thoughts<Value>) -> Vec<Weighed<Value>> {
    let chances = !thoughts.spent.looked_ahead() && thoughts.options.iter().any(|option| option.share.is_some());
    if chances { Vec::new() } else { thoughts.options }
}

/// Plays a match to its end, every decision valued by the agent of its seat. With `made` the match goes on by those choices, and
/// the agents only judge them.
pub fn judge(held: &mut dyn HeldMatch, made: Option<&Choices>) -> JudgedCourse {
    held.reflect(1);
    let mut course = JudgedCourse::default();
    loop {
        if course.scores.last().is_none_or(|last| last.scores != held.scores()) {
            course.scores.push(Scored { tick: held.tick(), scores: held.scores().to_vec(), by: held.scored_by() });
        }
        let now = held.tick();
        for seat in held.pending() {
            let considered = held.consider(seat);
            let chosen = match made {
                Some(made) => made.get(&(now, seat)).cloned(),
                None => considered.action.ok(),
            };
            let Some(chosen) = chosen else { continue };
            if made.is_some() && held.choose(seat, chosen.clone()).is_err() {
                return course;
            }
            let options = considered.thoughts.map(values).unwrap_or_default();
            // What is only bounded is not known, but known to be no better.
            let known = || options.iter().filter(|option| option.value.is_finite() && !option.bound);
            let value = known().find(|option| option.option == chosen).map(|option| option.value);
            let best = known().max_by(|a, b| a.value.total_cmp(&b.value));
            let best = best.map(|option| (option.option.clone(), option.value));
            course.decisions.push(Judged { tick: now, seat, chosen, value, best });
        }
        let goes_on = if made.is_some() { held.step() } else { held.turn() };
        if !goes_on {
            break;
        }
    }
    if course.scores.last().is_none_or(|last| last.scores != held.scores()) {
        course.scores.push(Scored { tick: held.tick(), scores: held.scores().to_vec(), by: held.scored_by() });
    }
    course
}

/// Why a decision is a turning point.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[serde(rename_all = "snake_case", tag = "reason")]
pub enum Turn {
    /// The judge values another option more.
    Beaten {
        /// The better option.
        option: Value,
        /// Its gain over the choice.
        by: f64,
    },
    /// The value of the position changed from the seat's last decision to this one.
    Value {
        /// The value of the choice before.
        before: f64,
        /// The value of this one.
        after: f64,
    },
    /// The lead changed after it.
    Lead {
        /// Scores before it.
        before: Vec<f64>,
        /// Scores after it.
        after: Vec<f64>,
        /// Why they changed, in a word of the game.
        #[serde(skip_serializing_if = "Option::is_none")]
        by: Option<String>,
    },
}

/// A decision at which a match turned.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct TurningPoint {
    /// Its turn or tick, counted from 1.
    pub turn: u64,
    /// The seat that decided, or scored.
    pub seat: Seat,
    /// The choice.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub choice: Option<Value>,
    /// Why it is listed.
    pub reasons: Vec<Turn>,
}

/// The lead of a seat over the best of the others.
fn lead(scores: &[f64], seat: Seat) -> f64 {
    let others = scores.iter().enumerate().filter(|(other, _)| *other != seat).map(|(_, score)| *score);
    scores.get(seat).copied().unwrap_or(0.0) - others.reduce(f64::max).unwrap_or(0.0)
}

/// The turning points of a match in order of play: of each kind the few largest (another option valued more, the value of the
/// position changed, the lead changed). Of changes of the lead that are alike those count first that pass it on, then the earlier.
pub fn turning_points(course: &JudgedCourse) -> Vec<TurningPoint> {
    let chosen: BTreeMap<(u64, Seat), &Value> =
        course.decisions.iter().map(|decision| ((decision.tick + 1, decision.seat), &decision.chosen)).collect();
    let mut beaten = Vec::new();
    let mut values = Vec::new();
    let mut before: BTreeMap<Seat, f64> = BTreeMap::new();
    for decision in &course.decisions {
        let Some(value) = decision.value else { continue };
        let at = (decision.tick + 1, decision.seat);
        if let Some((option, best)) = decision.best.as_ref().filter(|(_, best)| best - value > SAME) {
            beaten.push((best - value, at, Turn::Beaten { option: option.clone(), by: best - value }));
        }
        if let Some(before) = before.insert(decision.seat, value).filter(|before| (value - before).abs() > SAME) {
            values.push(((value - before).abs(), at, Turn::Value { before, after: value }));
        }
    }
    let leads = course.scores.windows(2).filter_map(|pair| {
        let (then, now) = (&pair[0], &pair[1]);
        let seats = 0..now.scores.len();
        let rise = |seat: Seat| lead(&now.scores, seat) - lead(&then.scores, seat);
        let seat = seats.reduce(|most, seat| if rise(seat) > rise(most) { seat } else { most })?;
        let passes = lead(&then.scores, seat) <= 0.0 && lead(&now.scores, seat) > 0.0;
        // Passing the lead on breaks ties of whole scores.
        let weight = rise(seat) + if passes { 0.5 } else { 0.0 };
        let turn = Turn::Lead { before: then.scores.clone(), after: now.scores.clone(), by: now.by.clone() };
        // Whoever decided then is asked, where the seat that scored did not.
        let mut deciding = chosen.range((now.tick, 0)..(now.tick + 1, 0)).map(|((_, seat), _)| *seat);
        let asked = if chosen.contains_key(&(now.tick, seat)) { Some(seat) } else { deciding.next() };
        (rise(seat) > SAME).then_some((weight, (now.tick, asked.unwrap_or(seat)), turn))
    });
    let mut points: BTreeMap<(u64, Seat), Vec<Turn>> = BTreeMap::new();
    for mut kind in [leads.collect(), values, beaten] {
        kind.sort_by(|a: &(f64, _, _), b| b.0.total_cmp(&a.0).then(a.1.cmp(&b.1)));
        for (_, at, turn) in kind.into_iter().take(OF_A_KIND) {
            points.entry(at).or_default().push(turn);
        }
    }
    let point = |(at, reasons): ((u64, Seat), Vec<Turn>)| TurningPoint {
        turn: at.0,
        seat: at.1,
        choice: chosen.get(&at).map(|choice| (*choice).clone()),
        reasons,
    };
    points.into_iter().map(point).collect()
}

#[cfg(test)]
mod tests {
    use serde_json::json;

    use super::*;

    fn scored(tick: u64, scores: [f64; 2], by: &str) -> Scored {
        Scored { tick, scores: scores.to_vec(), by: Some(by.into()) }
    }

    #[test]
    fn turning_points_are_the_largest_of_each_kind_in_order() {
        let judged = |tick, seat, value, best: f64| Judged {
            tick,
            seat,
            chosen: json!(1),
            value: Some(value),
            best: Some((json!(2), best)),
        };
        let decisions = vec![judged(0, 0, 1.0, 1.0), judged(1, 1, 0.0, 3.0), judged(2, 0, -4.0, -4.0)];
        let scores = vec![scored(0, [0.0, 0.0], ""), scored(2, [0.0, 1.0], "edge"), scored(3, [2.0, 1.0], "lunge")];
        let points = turning_points(&JudgedCourse { decisions, scores });
        let at: Vec<(u64, Seat, usize)> =
            points.iter().map(|point| (point.turn, point.seat, point.reasons.len())).collect();
        assert_eq!(at, [(2, 1, 2), (3, 0, 2)]);
        assert_eq!(points[0].reasons[1], Turn::Beaten { option: json!(2), by: 3.0 });
        assert_eq!(points[1].reasons[1], Turn::Value { before: 1.0, after: -4.0 });
    }

    #[test]
    fn a_score_counts_for_the_seat_that_rose() {
        let course = [scored(0, [0.0, 0.0], "x"), scored(4, [1.0, 0.0], "edge"), scored(9, [2.0, 1.0], "double")];
        let counts = score_counts(&course);
        assert_eq!(counts[0], BTreeMap::from([("edge".into(), 1), ("double".into(), 1)]));
        assert_eq!(counts[1], BTreeMap::from([("double".into(), 1)]));
    }
}
