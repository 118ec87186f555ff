//! From a draft to a plan: defaults filled, names looked up, everything checked, all problems at once.

mod entrants;
mod kinds;
mod vary;

use inkpot_core::{AgentSheet, Casting, GameEntry, Knob, KnobError, Knobs, Registry, Setting, nearest};

use crate::{Draft, Plan, Problem};

const MATCHES: u64 = 400;
/// Matches at most of a comparison that stops once it is clear.
const MATCHES_UNTIL_CLEAR: u64 = 20_000;
const CONFIDENCE: f64 = 0.95;
const MOST_MATCHES: u64 = 1_000_000_000;
const MOST_SERIES: u64 = 1000;

/// Checks a draft against the registry. Errs with everything that is wrong with it.
pub fn resolve(draft: &Draft, registry: &Registry) -> Result<Plan, Vec<Problem>> {
    let Some(game) = registry.game(&draft.game) else {
        let names: Vec<_> = registry.games().map(|game| game.sheet().name.clone()).collect();
        return Err(vec![unknown("game", "game", &draft.game, &names)]);
    };
    let mut desk = Desk { game, problems: Vec::new() };
    let level = desk.level(draft);
    let rules = desk.knobs("rules", &draft.rules, &game.sheet().rules);
    let entrants = desk.entrants(draft);
    let vary = desk.vary(draft, &entrants);
    let matches = desk.matches(draft);
    let confidence = draft.confidence.unwrap_or(CONFIDENCE);
    if !(0.5..=0.9999).contains(&confidence) {
        desk.problem("confidence", format!("the confidence cannot be {confidence}"), "a number from 0.5 to 0.9999");
    }
    if let Some(frame) = draft.frame_ms.filter(|frame| !(*frame > 0.0 && frame.is_finite())) {
        desk.problem("frame_ms", format!("a frame cannot last {frame} ms"), "a number above 0, as in 16.7");
    }
    desk.foreign_keys(draft);
    desk.target(draft);
    desk.field_size(draft, &entrants);
    let tournament = desk.tournament(draft, &entrants);
    let comparison = desk.comparison(draft);
    if !desk.problems.is_empty() {
        return Err(desk.found());
    }
    let mut plan = Plan {
        kind: draft.kind,
        game: draft.game.clone(),
        level,
        seed: draft.seed.unwrap_or(1),
        matches,
        blocks: matches.div_ceil(*game.sheet().seats.start() as u64),
        series: draft.series,
        confidence,
        rules,
        entrants,
        vary,
        target: draft.target,
        frame_ms: draft.frame_ms,
        tournament,
        comparison,
        proof: None,
        rounds: Vec::new(),
        cells: Vec::new(),
    };
    desk.cells(&mut plan);
    desk.series(&plan);
    plan.blocks = matches.div_ceil(plan.matches_a_block().max(1));
    if desk.problems.is_empty() { Ok(plan) } else { Err(desk.found()) }
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

pub(crate) fn unknown(at: &str, what: &str, name: &str, known: &[String]) -> Problem {
    let help = match nearest(name, known.iter().map(String::as_str)) {
        Some(near) => format!("did you mean `{near}`? There are: {}", known.join(", ")),
        None => format!("there are: {}", known.join(", ")),
    };
    Problem::new(at, format!("there is no {what} `{name}`"), help)
}

/// What the checks share: the game, and what they found.
struct Desk<'a> {
    game: &'a dyn GameEntry,
    problems: Vec<Problem>,
}

impl Desk<'_> {
    fn problem(&mut self, at: impl Into<String>, what: impl Into<String>, help: impl Into<String>) {
        self.problems.push(Problem::new(at, what, help));
    }

    /// Every problem once, however many points of a grid share it.
    fn found(mut self) -> Vec<Problem> {
        let mut seen: Vec<(String, String)> = Vec::new();
        self.problems.retain(|problem| {
            let own = (problem.what.clone(), problem.help.clone());
            let fresh = !seen.contains(&own) || !problem.at.contains(".vary");
            seen.push(own);
            fresh
        });
        self.problems
    }

    fn level(&mut self, draft: &Draft) -> String {
        let names: Vec<String> = self.game.sheet().levels.iter().map(|level| level.name.clone()).collect();
        match &draft.level {
            Some(name) if !names.contains(name) => {
                self.problems.push(unknown("level", "level", name, &names));
                String::new()
            }
            Some(name) => name.clone(),
            None => names.first().cloned().unwrap_or_default(),
        }
    }

    fn knobs(&mut self, at: &str, given: &Knobs, knobs: &[Knob]) -> Knobs {
        given.resolve(knobs).unwrap_or_else(|errors| {
            for error in errors {
                self.problems.push(knob_problem(at, &error));
            }
            Knobs::default()
        })
    }

    /// A series of whole rotations, so that nobody sits in one seat more often.
    fn series(&mut self, plan: &Plan) {
        let Some(series) = plan.series else { return };
        let seats = plan.seats();
        if series == 0 || series % seats.max(1) != 0 || series > MOST_SERIES {
            let what = format!("a series cannot have {series} matches");
            self.problem("series", what, format!("a multiple of the {seats} seats, at most {MOST_SERIES}"));
        }
        if plan.comparison.is_some() || plan.tournament.is_some() {
            let what = format!("a {} has no series", plan.kind.name());
            self.problem("series", what, "use it in a batch, a sweep or a tuning");
        }
    }

    fn matches(&mut self, draft: &Draft) -> u64 {
        let matches = draft.matches.unwrap_or(if draft.until_clear { MATCHES_UNTIL_CLEAR } else { MATCHES });
        if !(1..=MOST_MATCHES).contains(&matches) {
            self.problem(
                "matches",
                format!("{matches} matches are asked for"),
                format!("a whole number from 1 to {MOST_MATCHES}"),
            );
        }
        matches
    }
}

fn knob_problem(at: &str, error: &KnobError) -> Problem {
    match error {
        KnobError::Unknown { knob, known, .. } => unknown(&format!("{at}.{knob}"), "knob", knob, known),
        KnobError::Value { knob, value, allowed, nearest } => {
            let help = match nearest {
                Some(near) => format!("did you mean `{near}`? It takes {allowed}"),
                None => format!("it takes {allowed}"),
            };
            Problem::new(format!("{at}.{knob}"), format!("the knob `{knob}` cannot be {value}"), help)
        }
        KnobError::Together { group, knobs } => Problem::new(
            format!("{at}.{}", knobs.last().map_or("", String::as_str)),
            format!("`{}` are set together, and each is a {group}", knobs.join("` and `")),
            "set one of them",
        ),
    }
}

/// What a stage is given for these entrants.
pub(crate) fn setting(plan: &Plan, entrants: &[usize]) -> Setting {
    let cast = entrants
        .iter()
        .map(|&place| {
            let entrant = &plan.entrants[place];
            Casting { entrant: place as u16, kind: entrant.kind.clone(), knobs: entrant.knobs.clone() }
        })
        .collect();
    Setting {
        rules: plan.rules.clone(),
        level: plan.level.clone(),
        cast,
        series: plan.rounds_a_block(entrants.len()),
        study_seed: plan.seed,
    }
}
