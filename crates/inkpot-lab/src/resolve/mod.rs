//! From a draft to a plan: defaults filled, names looked up, everything checked, all problems at once.

mod entrants;
mod values;

use inkpot_core::{
    AgentSheet, Casting, GameEntry, Knob, KnobError, KnobValue, Knobs, Level, LevelError, Registry, Setting,
    SettingError, nearest,
};

use self::entrants::MOST_ENTRANTS;
use crate::{Asked, Draft, Entrant, Ground, Place, Plan, Problem};

pub(crate) use self::values::MOST_POINTS;

const MATCHES: u64 = 400;
/// Matches at most of a comparison that stops once it is clear.
const MATCHES_UNTIL_CLEAR: u64 = 20_000;
const CONFIDENCE: f64 = 0.95;
const MOST_MATCHES: u64 = 1_000_000_000;
const MOST_SERIES: u64 = 1000;

/// Checks a draft against the registry. Errs with everything that is wrong with it.
pub fn resolve(draft: &Draft, registry: &Registry) -> Result<Plan, Vec<Problem>> {
    let mut checker = Checker::at(&draft.game, registry)?;
    let ground = checker.ground(&Grounds::of(draft));
    let entrants = checker.entrants(draft);
    let design = draft.asked.checked(&mut checker, draft, &entrants);
    let matches = checker.matches(draft);
    if let Some(frame) = draft.frame_ms.filter(|frame| !(*frame > 0.0 && frame.is_finite())) {
        checker.problem(
            "frame_ms",
            format!("a frame cannot last {frame} ms"),
            "it must be a number above 0, as in 16.7",
        );
    }
    if !checker.problems.is_empty() {
        return Err(checker.found());
    }
    let mut plan = Plan {
        ground,
        matches,
        blocks: matches.div_ceil(checker.fewest_seats() as u64),
        entrants,
        frame_ms: draft.frame_ms,
        record: draft.record,
        design,
        rounds: Vec::new(),
        cells: Vec::new(),
    };
    plan.design.clone().own().lay_out(&mut plan, &mut checker);
    checker.stages(&plan);
    checker.series(&plan);
    plan.blocks = matches.div_ceil(plan.matches_a_block().max(1));
    if checker.problems.is_empty() { Ok(plan) } else { Err(checker.found()) }
}

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

/// What a draft of any kind says of the ground.
pub(crate) struct Grounds<'a> {
    pub(crate) level: Option<&'a Level>,
    pub(crate) rules: &'a Knobs,
    pub(crate) seed: Option<u64>,
    pub(crate) series: Option<u64>,
    pub(crate) confidence: Option<f64>,
}

impl<'a> Grounds<'a> {
    fn of(draft: &'a Draft) -> Self {
        let Draft { level, rules, seed, series, confidence, .. } = draft;
        Self { level: level.as_ref(), rules, seed: *seed, series: *series, confidence: *confidence }
    }
}

/// What the checks of all kinds share: the game, and what they found.
pub(crate) struct Checker<'a> {
    game: &'a dyn GameEntry,
    problems: Vec<Problem>,
}

impl<'a> Checker<'a> {
    /// A checker of drafts for this game. Errs when there is no such game.
    pub(crate) fn at(game: &str, registry: &'a Registry) -> Result<Self, Vec<Problem>> {
        let names = || registry.games().map(|game| game.sheet().name.clone()).collect::<Vec<_>>();
        let found = registry.game(game).ok_or_else(|| vec![unknown(&"game".into(), "game", game, &names())])?;
        Ok(Self { game: found, problems: Vec::new() })
    }

    /// The game.
    pub(crate) fn game(&self) -> &'a dyn GameEntry {
        self.game
    }

    /// The fewest seats of a match.
    pub(crate) fn fewest_seats(&self) -> usize {
        *self.game.sheet().seats.start()
    }

    /// The most seats of a match.
    pub(crate) fn most_seats(&self) -> usize {
        *self.game.sheet().seats.end()
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

    /// Where and how matches are played.
    pub(crate) fn ground(&mut self, asked: &Grounds) -> Ground {
        let level = self.level(asked.level);
        let rules = self.knobs(&"rules".into(), asked.rules, &self.game.sheet().rules);
        let confidence = asked.confidence.unwrap_or(CONFIDENCE);
        if !(0.5..=0.9999).contains(&confidence) {
            self.problem(
                "confidence",
                format!("the confidence cannot be {confidence}"),
                "it must be a number from 0.5 to 0.9999",
            );
        }
        let game = self.game.sheet().name.clone();
        Ground {
            game,
            level,
            rules,
            seed: asked.seed.unwrap_or(1),
            series: asked.series,
            confidence,
            seats_kept: false,
        }
    }

    /// Whether there are enough entrants for the seats, and for a study that takes `least`, and not too many.
    pub(crate) fn field(&mut self, draft: &Draft, resolved: &[Entrant], least: usize) {
        let asked = draft.entrants.len().max(resolved.len());
        let (game, seats) = (&self.game.sheet().name, self.fewest_seats());
        let needed = seats.max(least);
        if asked < needed {
            let s = if asked == 1 { "" } else { "s" };
            let wrong = if needed > seats {
                format!("{asked} entrant{s} cannot make a {}", draft.kind().name())
            } else {
                format!("{asked} entrant{s} cannot fill the {seats} seats of `{game}`")
            };
            let help = format!("name {needed} or more; `inkpot agents {game}` shows what there is");
            self.problem("entrant", wrong, help);
        }
        if asked > MOST_ENTRANTS {
            self.problem("entrant", format!("{asked} entrants are too many"), format!("name at most {MOST_ENTRANTS}"));
        }
    }

    /// Whether the game has somebody to win against.
    pub(crate) fn seats_for_two(&mut self) -> bool {
        let alone = self.fewest_seats() < 2;
        if alone {
            let what = format!("`{}` has one seat, and nobody to win against", self.game.sheet().name);
            self.problem("game", what, "choose a game of two seats or more; a batch measures one alone");
        }
        !alone
    }

    /// Every problem once, however many points of a grid share it.
    pub(crate) fn found(mut self) -> Vec<Problem> {
        let mut seen: Vec<(String, String)> = Vec::new();
        self.problems.retain(|problem| {
            let own = (problem.what.clone(), problem.help.clone());
            let spread = problem.at.has("vary") || problem.at.is_within(&"level".into());
            let fresh = !seen.contains(&own) || !spread;
            seen.push(own);
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

    /// A level with every knob of its generator; none where it is wrong, which is told at this key.
    pub(crate) fn resolved_level(&mut self, at: &Place, level: &Level) -> Option<Level> {
        match level.resolve(self.game.sheet()) {
            Ok(level) => return Some(level),
            Err(LevelError::Unknown { name, known, .. }) => self.problems.push(unknown(at, "level", &name, &known)),
            Err(LevelError::Knobs(errors)) => self.problems.extend(errors.iter().map(|error| knob_problem(at, error))),
            Err(LevelError::NoFiles { file }) => {
                let game = &self.game.sheet().name;
                let help = format!("`inkpot games {game}` shows its levels");
                self.problem(at, format!("`{game}` reads no level files, and `{file}` is one"), help);
            }
        }
        None
    }

    /// Whether every setting of a plan can be staged: its levels laid, its seats filled.
    fn stages(&mut self, plan: &Plan) {
        // The cells of a field differ only in who plays, and everybody's knobs are checked already.
        let own = plan.cells.iter().filter(|cell| cell.own.is_some());
        let mut settings: Vec<_> = plan.cells.first().into_iter().chain(own).map(|cell| plan.setting(cell)).collect();
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
            if self.problems.iter().any(|own| own.what == error.to_string()) {
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

    pub(crate) fn knobs(&mut self, at: &Place, given: &Knobs, knobs: &[Knob]) -> Knobs {
        given.resolve(knobs).unwrap_or_else(|errors| {
            for error in errors {
                self.problems.push(knob_problem(at, &error));
            }
            Knobs::default()
        })
    }

    /// A series of whole rotations, so that nobody sits in one seat more often.
    fn series(&mut self, plan: &Plan) {
        let Some(series) = plan.ground.series else { return };
        let seats = plan.seats();
        if series == 0 || series % seats.max(1) != 0 || series > MOST_SERIES {
            let what = format!("a series cannot have {series} matches");
            self.problem("series", what, format!("it must be a multiple of the {seats} seats, at most {MOST_SERIES}"));
        }
        if !plan.design.own().has_series() {
            let what = format!("a {} has no series", plan.kind().name());
            self.problem("series", what, "use it in a batch, a sweep or a tuning");
        }
    }

    fn matches(&mut self, draft: &Draft) -> u64 {
        let until_clear = matches!(&draft.asked, Asked::Compare(asked) if asked.until_clear);
        let matches = draft.matches.unwrap_or(if until_clear { MATCHES_UNTIL_CLEAR } else { MATCHES });
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
        KnobError::Unfit { reason, .. } => Problem::new(at, reason.clone(), "choose another agent"),
        KnobError::Together { group, knobs } => Problem::new(
            at.key(knobs.last().map_or("", String::as_str)),
            format!("`{}` are set together, and each is a {group}", knobs.join("` and `")),
            "set one of them",
        ),
    }
}
