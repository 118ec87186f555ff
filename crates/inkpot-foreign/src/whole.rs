//! Games that play whole matches by themselves.
//!
//! The first tick sends the request, with the agents of all seats, and waits for the answer. The ticks after it go through the answered changes of the scores,
//! so that courses, common measures and suspense are those of any game.

use std::borrow::Cow;
use std::path::Path;
use std::sync::{Arc, Mutex, PoisonError};

use inkpot_core::{
    Acting, Advance, Agent, AgentKind, Chance, Choices, Entry, Game, GameSheet, GaveUp, Knobs, Measured, Person, Seat,
    Sight, Verdict,
};

use crate::answer::Course;
use crate::file::{AgentText, GameFile, GameFileError};
use crate::process::{NoAnswer, Process, Program};
use crate::request::{Placed, Request, Seated};

/// Bits by which seeds are cut, so that every language reads them as whole numbers.
const CUT: u32 = 11;

/// The processes of a game.
struct Engine {
    program: Program,
    per_match: bool,
    sheet: GameSheet,
    ticks_a_unit: f64,
    has_changes: bool,
    /// Processes without a match. Each thread that plays takes one and gives it back.
    idle: Mutex<Vec<Process>>,
}

impl Engine {
    /// Plays a match. Errs with the reason why there is no result.
    fn play(&self, request: &Request) -> Result<Course, String> {
        let line = serde_json::to_string(request).map_err(|error| error.to_string())?;
        let answer = self.ask(&line).map_err(|none| none.to_string())?;
        Course::read(&answer, request.seats.len(), &self.sheet, (self.ticks_a_unit, self.has_changes)).map_err(
            |wrong| {
                format!(
                    "the answer of `{}` is wrong: {wrong}; it was `{}`",
                    self.program.command.join(" "),
                    cut(&answer)
                )
            },
        )
    }

    fn ask(&self, line: &str) -> Result<String, NoAnswer> {
        let idle = || self.idle.lock().unwrap_or_else(PoisonError::into_inner);
        let taken = idle().pop();
        let mut process = taken.map_or_else(|| self.program.start(), Ok)?;
        let answer = process.ask(line, self.per_match, &self.program)?;
        if !self.per_match {
            idle().push(process);
        }
        Ok(answer)
    }
}

/// Cuts a long answer for a message.
fn cut(answer: &str) -> Cow<'_, str> {
    const SHOWN: usize = 200;
    if answer.chars().count() <= SHOWN {
        return answer.into();
    }
    let start: String = answer.chars().take(SHOWN).collect();
    format!("{start}...").into()
}

/// A match of a game that plays by itself.
struct WholeMatch {
    engine: Arc<Engine>,
    rules: Knobs,
    level: Placed,
    seats: usize,
    seed: u64,
    tick: u64,
    /// The result, once it is answered.
    course: Option<Course>,
    /// Changes of the scores that have come.
    changed: usize,
    scores: Vec<f64>,
}

impl WholeMatch {
    /// Plays the match, once all seats have said what plays them. Errs with the reason why there is no result.
    fn play(&self, choices: &Choices<Seated>) -> Result<Course, String> {
        let seats: Option<Vec<Seated>> = (0..self.seats).map(|seat| choices.get(seat).cloned()).collect();
        let seats = seats.ok_or("a game that plays by itself needs the agents of all seats")?;
        self.engine.play(&Request { seed: self.seed, rules: self.rules.clone(), level: self.level.clone(), seats })
    }
}

/// Draws a seed that every language reads as a whole number.
fn seed(chance: &mut Chance) -> u64 {
    chance.bits() >> CUT
}

impl Game for WholeMatch {
    type Action = Seated;
    type View = ();

    fn seats(&self) -> usize {
        self.seats
    }

    fn acting(&self) -> Acting<'_> {
        match &self.course {
            None => Acting::All,
            Some(course) if self.tick < course.ticks => Acting::These(&[]),
            Some(_) => Acting::Nobody,
        }
    }

    fn view(&self, _seat: Seat) {}

    fn advance(&mut self, choices: &Choices<Seated>, _chance: &mut Chance) -> Advance {
        let played = self.course.take().map_or_else(|| self.play(choices), Ok);
        let course = match played {
            Ok(course) => course,
            Err(reason) => return Advance::Fell(reason),
        };
        self.tick += 1;
        while let Some((_, scores, _)) = course.changes.get(self.changed).filter(|(tick, ..)| *tick <= self.tick) {
            self.scores.clone_from(scores);
            self.changed += 1;
        }
        self.course = Some(course);
        Advance::Fine
    }

    fn scores(&self) -> &[f64] {
        &self.scores
    }

    fn scored_by(&self) -> Option<Cow<'static, str>> {
        let (_, _, by) = self.course.as_ref()?.changes.get(self.changed.checked_sub(1)?)?;
        by.clone().map(Cow::Owned)
    }

    fn verdict(&self) -> Option<Verdict> {
        self.course.as_ref().filter(|course| self.tick >= course.ticks).map(|course| course.verdict.clone())
    }
}

impl Measured for WholeMatch {
    fn measures(&self, seat: Seat, into: &mut Vec<f64>) {
        match &self.course {
            Some(course) => into.extend(course.figures.iter().map(|each| each[seat])),
            None => into.extend(self.engine.sheet.measures.iter().map(|_| f64::NAN)),
        }
    }
}

/// An agent that plays inside of the game: it only says what it is.
struct Inside {
    seated: Seated,
}

impl Agent<WholeMatch> for Inside {
    fn begin(&mut self, _seat: Seat, mut chance: Chance) {
        self.seated.seed = seed(&mut chance);
    }

    fn choose(&mut self, _sight: &Sight<'_, WholeMatch>) -> Result<Seated, GaveUp> {
        Ok(self.seated.clone())
    }
}

fn kind(agent: &AgentText) -> Result<AgentKind<WholeMatch>, GameFileError> {
    let name = agent.name.clone();
    let mut kind = AgentKind::new(&name, &agent.help);
    for knob in agent.knobs()? {
        kind = kind.knob(knob);
    }
    for preset in &agent.presets {
        kind = kind.preset(&preset.name, &preset.help, preset.knobs.clone());
    }
    Ok(kind.factory(move |knobs| {
        let (agent, knobs) = (name.clone(), knobs.clone());
        Box::new(move |mut person: Person| {
            let (person_seed, matches_before) = (seed(&mut person.chance), person.matches_before);
            let seated =
                Seated { agent: agent.clone(), knobs: knobs.clone(), seed: 0, person: person_seed, matches_before };
            Box::new(Inside { seated })
        })
    }))
}

/// Builds the game of a file; its command runs in `folder`.
///
/// Errs if the file is wrong. A command that does not start is met at the first match, which is then void.
pub fn entry(file: &GameFile, folder: &Path) -> Result<impl inkpot_core::GameEntry + use<>, GameFileError> {
    let sheet = file.sheet()?;
    let engine = Arc::new(Engine {
        program: Program {
            command: file.command.clone(),
            folder: folder.into(),
            environment: file.environment.clone(),
            patience: file.limits.patience(),
            most_bytes: file.limits.answer_kb << 10,
        },
        per_match: file.per_match,
        sheet: sheet.clone(),
        ticks_a_unit: file.ticks_a_unit(),
        has_changes: file.changes,
        idle: Mutex::default(),
    });
    let mut entry = Entry::new(sheet, move |laying| {
        let engine = engine.clone();
        let (rules, level, seats) = (laying.rules.clone(), Placed::of(laying.level), laying.seats);
        Ok(Box::new(move |chance| WholeMatch {
            engine: engine.clone(),
            rules: rules.clone(),
            level: level.clone(),
            seats,
            seed: seed(chance),
            tick: 0,
            course: None,
            changed: 0,
            scores: vec![0.0; seats],
        }))
    });
    entry = entry.by_itself();
    if !file.changes {
        entry = entry.without_course();
    }
    for agent in &file.agents {
        entry = entry.agent(kind(agent)?);
    }
    Ok(entry)
}
