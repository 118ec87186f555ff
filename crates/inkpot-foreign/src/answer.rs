//! The answer with a match, one line of JSON.

use std::collections::BTreeMap;

use inkpot_core::{Ending, GameSheet, Keeper, Verdict};
use serde::{Deserialize, Serialize};

use crate::file::is_of_seat;

/// The longest match in ticks: a longer one is taken for a mistake of units.
const MOST_TICKS: f64 = 1e7;

/// The answer with a match.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct Answer {
    /// The final score by seat.
    pub(crate) scores: Vec<f64>,
    /// The place by seat, 1 is best, equal places are ties; by default higher scores are placed first.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) places: Option<Vec<u16>>,
    /// The length of the match: seconds in real time, else turns.
    pub(crate) length: f64,
    /// The reason of its end in a word or two; `end` if missing.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) ending: Option<String>,
    /// Whether it was cut short, as by a time limit, instead of decided.
    #[serde(default)]
    pub(crate) cut_short: bool,
    /// The measures by name: one number for a measure of the match, one by seat for a measure of seats, null for none.
    #[serde(default)]
    pub(crate) measures: BTreeMap<String, Figure>,
    /// The changes of the scores, in order of time.
    #[serde(default)]
    pub(crate) changes: Option<Vec<Change>>,
}

/// The value of a measure.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(untagged)]
pub(crate) enum Figure {
    /// One for the match.
    One(Option<f64>),
    /// One for each seat.
    Each(Vec<Option<f64>>),
}

/// A change of the scores.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub(crate) struct Change {
    /// The time since the start, in the unit of lengths.
    pub(crate) at: f64,
    /// The scores from then on.
    pub(crate) scores: Vec<f64>,
    /// The reason in a word.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub(crate) by: Option<String>,
}

/// A checked answer: a match that was played elsewhere.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Course {
    /// Its length in ticks, at least 1.
    pub(crate) ticks: u64,
    /// The changes of the scores by tick, the last with the final scores.
    pub(crate) changes: Vec<(u64, Vec<f64>, Option<String>)>,
    /// The result.
    pub(crate) verdict: Verdict,
    /// The game's measures in the order of the sheet, by seat.
    pub(crate) figures: Vec<Vec<f64>>,
}

impl Course {
    /// Reads and checks an answer for this many seats; `has_changes` says whether it lists the changes of the scores.
    /// Errs with the first problem.
    pub(crate) fn read(
        line: &str,
        seats: usize,
        sheet: &GameSheet,
        (ticks_a_unit, has_changes): (f64, bool),
    ) -> Result<Self, String> {
        let answer: Answer = serde_json::from_str(line).map_err(|error| format!("it is no answer: {error}"))?;
        let number = |x: f64| x.is_finite();
        if answer.scores.len() != seats || !answer.scores.iter().copied().all(number) {
            return Err(format!("`scores` needs {seats} numbers"));
        }
        if !(0.0..=MOST_TICKS / ticks_a_unit).contains(&answer.length) {
            return Err(format!("`length` cannot be {}", answer.length));
        }
        let tick = |time: f64| ((time * ticks_a_unit).round() as u64).max(1);
        let ticks = tick(answer.length);
        let given = match (answer.changes, has_changes) {
            (Some(_), false) => return Err("the game file says `changes = false`, and it has `changes`".into()),
            (None, true) => {
                return Err("`changes` is missing: list them, or write `changes = false` into the game file".into());
            }
            (given, _) => given.unwrap_or_default(),
        };
        let mut changes = Vec::with_capacity(given.len() + 1);
        let mut before = 0.0;
        for change in given {
            if !(before..=answer.length).contains(&change.at) {
                return Err(format!(
                    "`changes` must be in order of time and within the match, and one is at {}",
                    change.at
                ));
            }
            if change.scores.len() != seats || !change.scores.iter().copied().all(number) {
                return Err(format!("a change at {} needs {seats} `scores`", change.at));
            }
            before = change.at;
            changes.push((tick(change.at), change.scores, change.by));
        }
        if changes.last().is_none_or(|(_, scores, _)| *scores != answer.scores) {
            changes.push((ticks, answer.scores.clone(), None));
        }
        let word = answer.ending.unwrap_or_else(|| "end".into()).into();
        let ending = if answer.cut_short { Ending::CutShort(word) } else { Ending::Decided(word) };
        let verdict = match answer.places {
            Some(placement) => Verdict { placement, ending },
            None => Verdict::by_score(&answer.scores, ending),
        };
        let figures = figures(answer.measures, seats, sheet)?;
        Ok(Self { ticks, changes, verdict, figures })
    }
}

/// Puts measures into the order of the sheet, by seat; missing ones have no value. Errs on unknown ones.
fn figures(mut given: BTreeMap<String, Figure>, seats: usize, sheet: &GameSheet) -> Result<Vec<Vec<f64>>, String> {
    let mut all = Vec::new();
    for measure in sheet.measures.iter().filter(|measure| measure.kept_by == Keeper::Game) {
        let value = |x: Option<f64>| x.unwrap_or(f64::NAN);
        all.push(match (given.remove(&measure.name), is_of_seat(measure)) {
            (None, _) => vec![f64::NAN; seats],
            (Some(Figure::One(x)), false) => vec![value(x); seats],
            (Some(Figure::Each(each)), true) if each.len() == seats => each.into_iter().map(value).collect(),
            (Some(_), true) => {
                return Err(format!("the measure `{}` needs a list of {seats} numbers, one a seat", measure.name));
            }
            (Some(_), false) => {
                return Err(format!("the measure `{}` is of the match and needs one number", measure.name));
            }
        });
    }
    match given.keys().next() {
        Some(unknown) => Err(format!("the game file has no measure `{unknown}`")),
        None => Ok(all),
    }
}

#[cfg(test)]
mod tests {
    use inkpot_core::Measure;

    use super::*;

    fn sheet() -> GameSheet {
        GameSheet {
            name: "crates".into(),
            help: String::new(),
            seats: 2..=2,
            ticks_per_second: Some(10.0),
            rules: Vec::new(),
            levels: Vec::new(),
            level_file: None,
            measures: vec![Measure::seat("lifts", "Lifts", "", ""), Measure::of_match("rain", "Rain", "mm", "")],
            without_chance: None,
        }
    }

    fn read(line: &str) -> Result<Course, String> {
        Course::read(line, 2, &sheet(), (10.0, line.contains("changes")))
    }

    #[test]
    fn changes_are_listed_as_the_game_file_says() {
        let read = |line, has_changes| Course::read(line, 2, &sheet(), (10.0, has_changes)).unwrap_err();
        assert!(read(r#"{"scores": [1, 3], "length": 4}"#, true).contains("`changes` is missing"));
        assert!(read(r#"{"scores": [1, 3], "length": 4, "changes": []}"#, false).contains("`changes = false`"));
    }

    #[test]
    fn a_short_answer_is_placed_by_score() {
        let course = read(r#"{"scores": [1, 3], "length": 4.2}"#).unwrap();
        assert_eq!((course.ticks, course.verdict.placement.as_slice()), (42, [2, 1].as_slice()));
        assert_eq!(course.changes, [(42, vec![1.0, 3.0], None)]);
        assert!(course.figures.iter().flatten().all(|x| x.is_nan()) && course.figures.len() == 2);
    }

    #[test]
    fn changes_and_measures_are_read_in_order() {
        let line = r#"{"scores": [1, 0], "length": 9, "ending": "goal", "places": [1, 2], "cut_short": false,
            "measures": {"rain": 3.5, "lifts": [2, null]}, "changes": [{"at": 0.02, "scores": [1, 0], "by": "lift"}]}"#;
        let course = read(line).unwrap();
        assert_eq!(course.changes, [(1, vec![1.0, 0.0], Some("lift".into()))]);
        assert_eq!(course.figures[1], [3.5, 3.5]);
        assert!(course.figures[0][0] == 2.0 && course.figures[0][1].is_nan());
        assert_eq!(course.verdict.ending, Ending::Decided("goal".into()));
    }

    #[test]
    fn wrong_answers_say_what_is_wrong() {
        for (line, part) in [
            ("", "it is no answer"),
            ("[]", "it is no answer"),
            (r#"{"scores": [1], "length": 1}"#, "`scores` needs 2 numbers"),
            (r#"{"scores": [1, 2], "length": -1}"#, "`length` cannot be -1"),
            (r#"{"scores": [1, 2], "length": 1e300}"#, "`length` cannot be"),
            (r#"{"scores": [1, 2], "length": 1, "winner": 0}"#, "unknown field `winner`"),
            (r#"{"scores": [1, 2], "length": 1, "measures": {"snow": 1}}"#, "no measure `snow`"),
            (r#"{"scores": [1, 2], "length": 1, "measures": {"rain": [1, 2]}}"#, "needs one number"),
            (r#"{"scores": [1, 2], "length": 1, "measures": {"lifts": 1}}"#, "needs a list of 2 numbers"),
            (r#"{"scores": [1, 2], "length": 1, "changes": [{"at": 2, "scores": [0, 0]}]}"#, "within the match"),
            (r#"{"scores": [1, 2], "length": 1, "changes": [{"at": 0, "scores": [0]}]}"#, "needs 2 `scores`"),
        ] {
            let wrong = read(line).unwrap_err();
            assert!(wrong.contains(part), "{line}: {wrong}");
        }
    }
}
