//! The checks that all kinds of study share: names looked up, defaults filled, all problems at once.

mod entrants;
mod values;

use inkpot_core::{
    AgentSheet, Casting, GameEntry, GameSource, Knob, KnobError, KnobValue, Knobs, Level, LevelError, Registry,
    Setting, SettingError, nearest,
};

use crate::counts::counted;
use crate::{Draft, Entrant, Ground, Place, Plan, Problem};

/// Points of a sweep, and of a range, at most.
pub(crate) const MOST_POINTS: usize = 1000;
const MOST_ENTRANTS: usize = 1000;
const CONFIDENCE: f64 = 0.95;
const MOST_MATCHES: u64 = 1_000_000_000;
const MOST_SERIES: u64 = 1000;

/// The agent kind of this name, or that of the preset of this name with its values.
pub fn find_agent<'a>(game: &'a dyn GameEntry, name: &str) -> Option<(&'a AgentSheet, Knobs)> {
    game.agents().iter().find_map(|sheet| {
        if sheet.name == name {
            return Some((sheet, Knobs::default()));
        }
        let preset = sheet.presets.iter().find(|preset| preset.name == name)?;
        Some((sheet, preset.knobs.clone()))
    })
}

pub(crate) fn unknown(at: &Place, what: &str, name: &str, known: &[String]) -> Problem {
    let help = match nearest(name, known.iter().map(String::as_str)) {
        None if known.is_empty() => "there are none here".to_string(),
        Some(near) => format!("did you mean `{near}`? Available: {}", known.join(", ")),
        None => format!("available: {}", known.join(", ")),
    };
    Problem::new(at, format!("there is no {what} `{name}`"), help)
}

/// Finds the game of this source. Errs with advice if there is none.
pub(crate) fn found_game<'a>(registry: &'a Registry, source: &GameSource) -> Result<&'a dyn GameEntry, Vec<Problem>> {
    registry.find(source).map_err(|none| vec![Problem::new("game", none.to_string(), none.help())])
}

/// The ground's keys in a draft of any kind.
pub(crate) struct Grounds<'a> {
    pub(crate) level: Option<&'a Level>,
    pub(crate) rules: &'a Knobs,
    pub(crate) seed: Option<u64>,
    pub(crate) series: Option<u64>,
    pub(crate) confidence: Option<f64>,
}

impl<'a> Grounds<'a> {
    pub(crate) fn of(draft: &'a Draft) -> Self {
        let Draft { level, rules, seed, series, confidence, .. } = draft;
        Self { level: level.as_ref(), rules, seed: *seed, series: *series, confidence: *confidence }
    }
}

/// The common state of all kinds' checks: the game and the problems.
pub(crate) struct Checker<'a> {
    source: GameSource,
    game: &'a dyn GameEntry,
    problems: Vec<Problem>,
}

impl<'a> Checker<'a> {
    /// A checker of drafts for this game. Errs when there is no such game.
    pub(crate) fn at(game: &GameSource, registry: &'a Registry) -> Result<Self, Vec<Problem>> {
        let (source, game) = (game.clone(), found_game(registry, game)?);
        Ok(Self { source, game, problems: Vec::new() })
    }

    /// The game.
    pub(crate) fn game(&self) -> &'a dyn GameEntry {
        self.game
    }

    /// The fewest and the most seats that a match can have.
    pub(crate) fn seat_range(&self) -> (usize, usize) {
        let seats = &self.game.sheet().seats;
        (*seats.start(), *seats.end())
    }

    /// The seats of a match of this many entrants: as many as are asked for, else two where there are two entrants and
    /// the game can seat them. Reports a number that the game does not have.
    pub(crate) fn seats(&mut self, wanted: Option<u64>, entrants: usize) -> usize {
        let (fewest, most) = self.seat_range();
        let Some(seats) = wanted else { return entrants.min(2).clamp(fewest, most) };
        if !(fewest as u64..=most as u64).contains(&seats) {
            let game = &self.game.sheet().name;
            let (what, help) = if fewest == most {
                (
                    format!("`{game}` has {fewest} seats, not {seats}"),
                    format!("leave `seats` out, or set it to {fewest}"),
                )
            } else {
                (format!("`seats` cannot be {seats}"), format!("`{game}` has {fewest} to {most} seats"))
            };
            self.problem("seats", what, help);
            return fewest;
        }
        seats as usize
    }

    pub(crate) fn problem(&mut self, at: impl Into<Place>, what: impl Into<String>, help: impl Into<String>) {
        self.report(Problem::new(at, what, help));
    }

    /// Problems so far.
    pub(crate) fn count(&self) -> usize {
        self.problems.len()
    }

    /// Moves the problems after the first `count` to where `to` says, if it says so.
    pub(crate) fn move_since(&mut self, count: usize, to: impl Fn(&Place) -> Option<Place>) {
        for problem in &mut self.problems[count..] {
            if let Some(place) = to(&problem.at) {
                problem.at = place;
            }
        }
    }

    pub(crate) fn report(&mut self, problem: Problem) {
        self.problems.push(problem);
    }

    /// Checks and returns the ground.
    pub(crate) fn ground(&mut self, grounds: &Grounds) -> Ground {
        let level = self.level(grounds.level);
        let rules = self.knobs(&"rules".into(), grounds.rules, &self.game.sheet().rules);
        let confidence = grounds.confidence.unwrap_or(CONFIDENCE);
        if !(0.5..=0.9999).contains(&confidence) {
            self.problem(
                "confidence",
                format!("the confidence cannot be {confidence}"),
                "it must be a number from 0.5 to 0.9999",
            );
        }
        Ground {
            game: self.source.clone(),
            level,
            rules,
            seed: grounds.seed.unwrap_or(1),
            series: grounds.series,
            confidence,
            seats_kept: false,
        }
    }

    /// Reports too few entrants for these seats, or for a study of this kind, which takes `least`, and too many.
    pub(crate) fn field(&mut self, draft: &Draft, resolved: &[Entrant], (kind, least): (&str, usize)) {
        let entrants = draft.entrants.len().max(resolved.len());
        let (game, seats) = (&self.game.sheet().name, self.seats_to_fill(draft));
        let needed = seats.max(least);
        if entrants < needed {
            let few = counted(entrants as u64, "entrant", "entrants");
            let wrong = if needed > seats {
                format!("{few} cannot make a {kind}")
            } else {
                format!("{few} cannot fill the {seats} seats of `{game}`")
            };
            let help = format!("name {needed} or more; available: {}", self.agent_names());
            self.problem("entrant", wrong, help);
        }
        if entrants > MOST_ENTRANTS {
            self.problem(
                "entrant",
                format!("{entrants} entrants are too many"),
                format!("name at most {MOST_ENTRANTS}"),
            );
        }
    }

    /// Agents and presets of the game, in words.
    pub(crate) fn agent_names(&self) -> String {
        let presets = |sheet: &AgentSheet| sheet.presets.iter().map(|preset| preset.name.clone()).collect::<Vec<_>>();
        let names = self.game.agents().iter().flat_map(|sheet| [vec![sheet.name.clone()], presets(sheet)].concat());
        names.collect::<Vec<_>>().join(", ")
    }

    /// The seats that have to be filled: those asked for, where the game has them, or the fewest of the game.
    fn seats_to_fill(&self, draft: &Draft) -> usize {
        let (fewest, most) = self.seat_range();
        draft.seats.map_or(fewest, |seats| if seats <= most as u64 { fewest.max(seats as usize) } else { fewest })
    }

    /// Whether these seats leave somebody to win against.
    pub(crate) fn seats_for_two(&mut self, seats: usize) -> bool {
        if seats > 1 {
            return true;
        }
        if self.seat_range().1 > 1 {
            self.problem("seats", "with one seat there is no opponent", "leave `seats` out, or ask for two or more");
        } else {
            let what = format!("`{}` has one seat, so there is no opponent", self.game.sheet().name);
            self.problem("game", what, "choose a game of two seats or more; a batch measures one alone");
        }
        false
    }

    /// Every problem once, however many points of a grid share it.
    pub(crate) fn found(mut self) -> Vec<Problem> {
        let mut seen: Vec<(String, String)> = Vec::new();
        self.problems.retain(|problem| {
            let words = (problem.what.clone(), problem.help.clone());
            let spread = problem.at.has("vary") || problem.at.is_within(&"level".into());
            let fresh = !seen.contains(&words) || !spread;
            seen.push(words);
            fresh
        });
        self.problems
    }

    /// The level asked for, or the game's first, with every knob of its generator.
    fn level(&mut self, asked: Option<&Level>) -> Level {
        let sheet = self.game.sheet();
        let first = || Level::named(sheet.levels.first().map_or("", |level| level.name.as_str()), Knobs::default());
        let level = asked.cloned().unwrap_or_else(first);
        self.resolved_level(&"level".into(), &level).unwrap_or(level)
    }

    /// Returns a level with every knob of its generator; none if it is wrong, which is reported at this key.
    pub(crate) fn resolved_level(&mut self, at: &Place, level: &Level) -> Option<Level> {
        match level.resolve(self.game.sheet()) {
            Ok(level) => return Some(level),
            Err(LevelError::Unknown { name, known, .. }) => self.problems.push(unknown(at, "level", &name, &known)),
            Err(LevelError::Knobs(errors)) => self.problems.extend(errors.iter().map(|error| knob_problem(at, error))),
            Err(LevelError::NoFiles { file }) => {
                let game = &self.game.sheet().name;
                let levels: Vec<&str> = self.game.sheet().levels.iter().map(|level| level.name.as_str()).collect();
                let help = format!("available: {}", levels.join(", "));
                self.problem(at, format!("`{game}` reads no level files, and `{file}` is one"), help);
            }
        }
        None
    }

    /// Whether every setting of a plan can be staged: its levels laid, its seats filled.
    pub(crate) fn stages(&mut self, plan: &Plan) {
        // The cells of a field differ only in who plays, and everybody's knobs are checked already.
        let varied = plan.cells.iter().filter(|cell| cell.variation.is_some());
        let mut settings: Vec<_> =
            plan.cells.first().into_iter().chain(varied).map(|cell| plan.setting(cell)).collect();
        // What a file holds shows only when somebody is to play by it.
        let by_file =
            |entrant: &&Entrant| entrant.knobs.iter().any(|(_, value)| matches!(value, KnobValue::File { .. }));
        if let Some(setting) = settings.first().cloned() {
            for entrant in plan.entrants.iter().filter(by_file) {
                let cast = Casting::everywhere(&entrant.kind, &entrant.knobs, setting.cast.len());
                settings.push(Setting { cast, ..setting.clone() });
            }
        }
        self.stage_all(&settings);
    }

    /// Whether all of these can be staged.
    pub(crate) fn stage_all(&mut self, settings: &[Setting]) {
        let errors = settings.iter().filter_map(|setting| self.game.stage(setting).err()).collect();
        self.unstaged(errors);
    }

    /// Whether all of these can be learned in.
    pub(crate) fn lesson_all(&mut self, settings: &[Setting]) {
        let errors = settings.iter().filter_map(|setting| self.game.lessons(setting).err()).collect();
        self.unstaged(errors);
    }

    fn unstaged(&mut self, errors: Vec<SettingError>) {
        for error in errors {
            if self.problems.iter().any(|known| known.what == error.to_string()) {
                continue;
            }
            let (at, help) = match &error {
                SettingError::Level { .. } => ("level", "correct the level, or choose another"),
                SettingError::Agent { .. } => ("entrant", "choose another agent, or other rules"),
                _ => ("game", "choose another game"),
            };
            self.problem(at, error.to_string(), help);
        }
    }

    /// Every knob, with these values where they are allowed. The others are reported and have their defaults, so that
    /// checks that follow have a whole set to go by; none at all where a knob without a default is missing.
    pub(crate) fn knobs(&mut self, at: &Place, stated: &Knobs, knobs: &[Knob]) -> Knobs {
        stated.resolve(knobs).unwrap_or_else(|errors| {
            for error in errors {
                self.problems.push(knob_problem(at, &error));
            }
            let allowed = stated.allowed(knobs);
            allowed.resolve(knobs).or_else(|_| Knobs::default().resolve(knobs)).unwrap_or_default()
        })
    }

    /// A series of whole rotations, so that nobody sits in one seat more often.
    pub(crate) fn series(&mut self, plan: &Plan) {
        let Some(series) = plan.ground.series else { return };
        let seats = plan.seats();
        if series == 0 || series % seats.max(1) != 0 || series > MOST_SERIES {
            let what = format!("a series cannot have {series} matches");
            self.problem("series", what, format!("it must be a multiple of the {seats} seats, at most {MOST_SERIES}"));
        }
    }

    /// The matches a cell, as many as are `usual` where the draft says nothing.
    pub(crate) fn matches(&mut self, draft: &Draft, usual: u64) -> u64 {
        let matches = draft.matches.unwrap_or(usual);
        if !(1..=MOST_MATCHES).contains(&matches) {
            self.problem(
                "matches",
                format!("`matches` cannot be {matches}"),
                format!("it must be a whole number from 1 to {MOST_MATCHES}"),
            );
        }
        matches
    }
}

pub(crate) fn knob_problem(at: &Place, error: &KnobError) -> Problem {
    match error {
        KnobError::Unknown { knob, known, .. } => unknown(&at.key(knob), "knob", knob, known),
        KnobError::Value { knob, value, allowed, nearest } => {
            let help = match nearest {
                Some(near) => format!("did you mean `{near}`? It must be {allowed}"),
                None => format!("it must be {allowed}"),
            };
            Problem::new(at.key(knob), format!("the knob `{knob}` cannot be {value}"), help)
        }
        KnobError::Missing { knob, allowed } => {
            let help = format!("set `{knob}` to {allowed}");
            Problem::new(at.key(knob), format!("the knob `{knob}` must be given"), help)
        }
        KnobError::Idle { knob, choice, word, needed } => Problem::new(
            at.key(knob),
            format!("`{knob}` has no effect with {choice} = \"{word}\""),
            format!("leave `{knob}` out, or set {choice} = \"{}\"", needed.join("\" or \"")),
        ),
        KnobError::Unfit { reason, .. } => Problem::new(at, reason.clone(), "choose another agent"),
        KnobError::Together { group, knobs } => Problem::new(
            at.key(knobs.last().map_or("", String::as_str)),
            format!("`{}` are set together, and each is a {group}", knobs.join("` and `")),
            "set one of them",
        ),
    }
}
