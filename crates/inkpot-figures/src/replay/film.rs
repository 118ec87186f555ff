//! A match from its start to its end, taken in picture by picture, as a page tells it.

use std::collections::HashMap;
use std::io::Write;

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use flate2::Compression;
use flate2::write::ZlibEncoder;
use serde::Serialize;

use super::reel::{Reel, Stored};
use crate::scene::Shape;

/// A match under way to a page.
#[derive(Clone, Debug)]
pub struct Film {
    about: About,
    ticks: Vec<u64>,
    scene: Reel,
    positions: Said<String>,
    seats: Vec<Seat>,
    scores: Vec<Scored>,
    end: End,
}

/// Facts about a match that are known before it is played.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
pub struct About {
    /// Its title.
    pub title: String,
    /// Name and value of each setting.
    pub facts: Vec<(String, String)>,
    /// Ticks a second; none where it goes by turns.
    pub per_second: Option<f64>,
    /// The seats, in order.
    pub seats: Vec<AboutSeat>,
}

/// Facts about a seat that are known before it is played.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
pub struct AboutSeat {
    /// Its name in the match.
    pub name: String,
    /// The agent.
    pub agent: String,
    /// Titles of its measures.
    pub measures: Vec<String>,
}

/// One tick of a match, before its step.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Frame {
    /// Ticks or turns so far.
    pub tick: u64,
    /// Lower left and upper right corner of the scene.
    pub window: [[f64; 2]; 2],
    /// The scene; none where the game draws none.
    pub shapes: Vec<Shape>,
    /// The position as text, where the game has that.
    pub position: Option<String>,
    /// Scores by seat.
    pub scores: Vec<f64>,
    /// Why they changed since the frame before, in a word of the game.
    pub scored_by: Option<String>,
    /// The state of each seat.
    pub seats: Vec<FrameSeat>,
}

/// State of a seat at a tick.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct FrameSeat {
    /// Shapes that it perceives, drawn over the scene.
    pub sight: Vec<Shape>,
    /// Its place in the scene.
    pub place: Option<[f64; 2]>,
    /// Its choice, in words; none where it does not act.
    pub choice: Option<String>,
    /// The thoughts behind that choice.
    pub mind: Option<Mind>,
    /// Its measures so far, where they were looked at.
    pub measures: Option<Vec<f64>>,
    /// Its faults so far.
    pub faults: u32,
}

/// Thoughts of an agent, in words.
#[derive(Clone, Debug, Default, PartialEq, Eq, Hash, Serialize)]
pub struct Mind {
    /// Its options, the best first.
    pub options: Vec<MindOption>,
    /// Steps by which its judgement changed as it looked further.
    pub steps: Vec<String>,
    /// The cost, in words.
    pub spent: String,
}

/// An option with its values.
#[derive(Clone, Debug, Default, PartialEq, Eq, Hash, Serialize)]
#[expect(
    missing_docs,
    reason = "the option, its value, what it was tried with, the line it begins, whether it was chosen"
)]
pub struct MindOption {
    pub option: String,
    pub value: String,
    pub tried: String,
    pub line: String,
    pub chosen: bool,
}

/// The end of a match.
#[derive(Clone, Debug, Default, PartialEq, Serialize)]
pub struct End {
    /// In a sentence.
    pub sentence: String,
    /// The longest time without a score, from and to (ticks).
    pub lull: Option<(u64, u64)>,
}

/// A seat over the whole match.
#[derive(Clone, Debug, Default)]
struct Seat {
    sight: Reel,
    /// Each choice that is another than the one before it, or each there is in a game of turns.
    choices: Said<String>,
    minds: Said<Mind>,
    measures: Vec<(u64, Vec<f64>)>,
    faults: Vec<u64>,
    faulted: u32,
    places: Vec<Option<[f64; 2]>>,
}

/// Texts by tick, each stored once while it repeats.
#[derive(Clone, Debug)]
struct Said<T> {
    all: Vec<T>,
    known: HashMap<T, usize>,
    at: Vec<(u64, usize)>,
}

impl<T> Default for Said<T> {
    fn default() -> Self {
        Self { all: Vec::new(), known: HashMap::new(), at: Vec::new() }
    }
}

impl<T: Clone + Eq + std::hash::Hash> Said<T> {
    fn say(&mut self, tick: u64, what: &T) {
        let place = *self.known.entry(what.clone()).or_insert_with(|| {
            self.all.push(what.clone());
            self.all.len() - 1
        });
        self.at.push((tick, place));
    }

    /// Returns the latest text.
    fn last(&self) -> Option<&T> {
        self.all.get(self.at.last()?.1)
    }
}

/// The amount of a match stored on a page.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Detail {
    /// One picture in this many ticks.
    pub(super) pictures: usize,
    /// Thoughts are stored of one decision in this many.
    pub(super) minds: usize,
    /// Options of each at most.
    pub(super) options: usize,
}

/// The data that the page's script reads.
#[derive(Serialize)]
struct Page<'a> {
    about: &'a About,
    end: &'a End,
    last: u64,
    /// Ticks of the pictures, each as the distance from the one before it.
    ticks: Vec<u64>,
    scene: Stored<'a>,
    positions: PageSaid<'a, String>,
    scores: &'a [Scored],
    seats: Vec<PageSeat<'a>>,
    notes: Vec<String>,
}

/// The scores from a tick on, and the game's word for why they changed there; stored as a list of three.
#[derive(Clone, Debug, Serialize)]
struct Scored(u64, Vec<f64>, Option<String>);

#[derive(Serialize)]
struct PageSeat<'a> {
    sight: Stored<'a>,
    /// Its place at each picture, in steps of the scene; empty if it had none.
    places: Vec<[i64; 2]>,
    choices: PageSaid<'a, String>,
    minds: PageSaid<'a, Mind>,
    measures: &'a [(u64, Vec<f64>)],
    faults: &'a [u64],
}

#[derive(Serialize)]
struct PageSaid<'a, T> {
    all: Vec<&'a T>,
    /// The tick, as the distance from the one before it, with the index of its text.
    at: Vec<(u64, usize)>,
}

/// Returns the texts that `keep` selects.
fn page_said<T>(said: &Said<T>, keep: impl Fn(usize) -> bool) -> PageSaid<'_, T> {
    let (mut all, mut places, mut before) = (Vec::new(), HashMap::new(), 0);
    let mut at = Vec::new();
    for (_, &(tick, what)) in said.at.iter().enumerate().filter(|(place, _)| keep(*place)) {
        let place = *places.entry(what).or_insert_with(|| {
            all.push(&said.all[what]);
            all.len() - 1
        });
        at.push((tick - before, place));
        before = tick;
    }
    PageSaid { all, at }
}

impl Film {
    /// A match at its start.
    pub fn new(about: About) -> Self {
        let seats = about.seats.iter().map(|_| Seat::default()).collect();
        let end = End::default();
        Self {
            about,
            ticks: Vec::new(),
            scene: Reel::default(),
            positions: Said::default(),
            seats,
            scores: Vec::new(),
            end,
        }
    }

    /// Takes in a tick; they come in order.
    pub fn take(&mut self, frame: &Frame) {
        let by_turns = self.about.per_second.is_none();
        let tick = frame.tick;
        self.ticks.push(tick);
        self.scene.push(frame.window, &frame.shapes);
        if let Some(position) = &frame.position {
            self.positions.say(tick, position);
        }
        if self.scores.last().is_none_or(|Scored(_, scores, _)| *scores != frame.scores) {
            self.scores.push(Scored(tick, frame.scores.clone(), frame.scored_by.clone()));
        }
        for (seat, now) in self.seats.iter_mut().zip(&frame.seats) {
            seat.sight.push(frame.window, &now.sight);
            seat.places.push(now.place);
            if let Some(choice) = now.choice.as_ref().filter(|choice| by_turns || seat.choices.last() != Some(*choice))
            {
                seat.choices.say(tick, choice);
            }
            if let Some(mind) = now.mind.as_ref().filter(|mind| by_turns || seat.minds.last() != Some(*mind)) {
                seat.minds.say(tick, mind);
            }
            if let Some(measures) = &now.measures {
                seat.measures.push((tick, measures.clone()));
            }
            if now.faults > seat.faulted {
                // What was done before this tick is what was wrong.
                seat.faults.push(tick.saturating_sub(1));
                seat.faulted = now.faults;
            }
        }
    }

    /// Says how it ended.
    pub fn close(&mut self, end: End) {
        self.end = end;
    }

    /// Its title.
    pub fn title(&self) -> &str {
        &self.about.title
    }

    /// Returns the table for readers without a script: times, scores and the end.
    pub(super) fn score_texts(&self) -> Vec<(String, String)> {
        let when = |tick: u64| match self.about.per_second {
            Some(rate) => format!("{:.1} s", tick as f64 / rate),
            None => format!("turn {tick}"),
        };
        let plain = |score: &f64| ((score * 100.0).round() / 100.0 + 0.0).to_string();
        let scores = |numbers: &[f64]| numbers.iter().map(plain).collect::<Vec<_>>().join(" : ");
        let by = |word: &Option<String>| word.as_ref().map(|word| format!(" ({word})")).unwrap_or_default();
        self.scores.iter().map(|Scored(tick, score, word)| (when(*tick), scores(score) + &by(word))).collect()
    }

    /// Returns the page's data in this detail: JSON, deflated (zlib, RFC 1950), in base64.
    pub(super) fn packed(&self, detail: Detail) -> String {
        let last = self.ticks.len().saturating_sub(1);
        let scored: Vec<u64> =
            self.scores.iter().flat_map(|Scored(tick, ..)| [*tick, tick.saturating_sub(1)]).collect();
        let keep = |at: &usize| at.is_multiple_of(detail.pictures) || *at == last || scored.contains(&self.ticks[*at]);
        let shown: Vec<usize> = (0..self.ticks.len()).filter(keep).collect();
        let mut before = 0;
        let ticks = shown.iter().map(|&at| {
            let apart = self.ticks[at] - before;
            before = self.ticks[at];
            apart
        });
        let scene = self.scene.stored(&shown);
        let step = scene.step();
        let cut: Vec<Said<Mind>> = self.seats.iter().map(|seat| seat.minds.cut(detail.options)).collect();
        let seats = self.seats.iter().zip(&cut).map(|(seat, minds)| {
            let place =
                |&at: &usize| seat.places[at].map(|point| point.map(|coordinate| (coordinate / step).round() as i64));
            PageSeat {
                sight: seat.sight.stored(&shown),
                places: shown.iter().filter_map(place).collect(),
                choices: page_said(&seat.choices, |_| true),
                minds: page_said(minds, |place| place.is_multiple_of(detail.minds)),
                measures: &seat.measures,
                faults: &seat.faults,
            }
        });
        let page = Page {
            about: &self.about,
            end: &self.end,
            last: self.ticks.last().copied().unwrap_or(0),
            ticks: ticks.collect(),
            scene,
            positions: page_said(&self.positions, |_| true),
            scores: &self.scores,
            seats: seats.collect(),
            notes: self.notes(detail),
        };
        let mut deflated = ZlibEncoder::new(Vec::new(), Compression::default());
        // Writing into memory does not fail, and what is written can always be told as JSON.
        let json = serde_json::to_vec(&page).unwrap_or_default();
        let packed = deflated.write_all(&json).and_then(|()| deflated.finish()).unwrap_or_default();
        STANDARD.encode(packed)
    }

    /// Names the parts left out to keep the page small.
    fn notes(&self, detail: Detail) -> Vec<String> {
        let mut notes = Vec::new();
        if detail.pictures > 1 {
            notes.push(format!(
                "The match is long: the page keeps a picture of every {} tick, and of those where the score changes.",
                nth(detail.pictures)
            ));
        }
        let thinks = self.seats.iter().any(|seat| !seat.minds.at.is_empty());
        if detail.minds > 1 && thinks {
            notes.push(format!(
                "What agents weighed is kept of every {} decision, {} options of each at most.",
                nth(detail.minds),
                detail.options
            ));
        }
        if !notes.is_empty() {
            notes.push("Every choice is kept.".into());
        }
        notes
    }
}

impl Said<Mind> {
    /// The same with no more than these options each.
    fn cut(&self, options: usize) -> Self {
        let all = self.all.iter().map(|mind| {
            let mut mind = mind.clone();
            mind.options.truncate(options);
            mind
        });
        Self { all: all.collect(), known: HashMap::new(), at: self.at.clone() }
    }
}

/// A count as the place in an order: `2nd`.
fn nth(count: usize) -> String {
    let ending = match (count % 10, count % 100) {
        (_, 11..=13) => "th",
        (1, _) => "st",
        (2, _) => "nd",
        (3, _) => "rd",
        _ => "th",
    };
    format!("{count}{ending}")
}

#[cfg(test)]
mod tests {
    use std::io::Read;

    use flate2::read::ZlibDecoder;
    use serde_json::Value;

    use super::*;
    use crate::scene::Paint;

    /// A match of 100 ticks in which the score changes at 50, and a choice every 7 ticks.
    fn filmed() -> Film {
        let seats = vec![AboutSeat { name: "heron".into(), ..AboutSeat::default() }];
        let mut film = Film::new(About { per_second: Some(60.0), seats, ..About::default() });
        for tick in 0..=100 {
            let x = tick as f64 / 10.0;
            film.take(&Frame {
                tick,
                window: [[0.0; 2], [10.0; 2]],
                shapes: vec![Shape::Circle { centre: [x, 1.0], radius: 0.5, paint: Paint::Seat(0) }],
                position: None,
                scores: vec![f64::from(u8::from(tick >= 50))],
                scored_by: None,
                seats: vec![FrameSeat {
                    choice: Some((tick / 7).to_string()),
                    mind: Some(Mind { spent: (tick / 7).to_string(), ..Mind::default() }),
                    faults: u32::from(tick > 20),
                    ..FrameSeat::default()
                }],
            });
        }
        film
    }

    fn unpacked(film: &Film, detail: Detail) -> Value {
        let bytes = STANDARD.decode(film.packed(detail)).unwrap();
        let mut json = String::new();
        ZlibDecoder::new(bytes.as_slice()).read_to_string(&mut json).unwrap();
        serde_json::from_str(&json).unwrap()
    }

    fn ticks(page: &Value) -> Vec<u64> {
        let mut tick = 0;
        let apart = page["ticks"].as_array().unwrap().iter();
        apart
            .map(|parts| {
                tick += parts.as_u64().unwrap();
                tick
            })
            .collect()
    }

    #[test]
    fn a_page_that_is_thinned_keeps_every_choice_and_says_what_is_missing() {
        let film = filmed();
        let whole = unpacked(&film, Detail { pictures: 1, minds: 1, options: 12 });
        assert_eq!((ticks(&whole).len(), whole["notes"].as_array().unwrap().len()), (101, 0));
        let thin = unpacked(&film, Detail { pictures: 30, minds: 4, options: 3 });
        assert_eq!(ticks(&thin), [0, 30, 49, 50, 60, 90, 100], "the score changes at 50, and the end is kept");
        let (first, all) = (&thin["seats"][0], &whole["seats"][0]);
        assert_eq!(first["choices"], all["choices"], "every choice is kept");
        assert_eq!(
            first["minds"]["at"].as_array().unwrap().len(),
            all["minds"]["at"].as_array().unwrap().len().div_ceil(4)
        );
        let notes: Vec<&str> = thin["notes"].as_array().unwrap().iter().map(|note| note.as_str().unwrap()).collect();
        assert!(notes[0].contains("every 30th tick") && notes[2] == "Every choice is kept.", "{notes:?}");
    }

    #[test]
    fn a_fault_stands_where_it_was_made_and_the_course_of_the_score_is_told_without_a_script() {
        let film = filmed();
        let whole = unpacked(&film, Detail { pictures: 1, minds: 1, options: 12 });
        assert_eq!(whole["seats"][0]["faults"], serde_json::json!([20]));
        let texts = film.score_texts();
        assert_eq!(texts, [("0.0 s".to_string(), "0".to_string()), ("0.8 s".into(), "1".into())]);
    }
}
