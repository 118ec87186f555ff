//! From a draft to a plan: defaults filled, names looked up, everything checked, all problems at once.

use inkpot_core::{
    AgentSheet, Casting, GameEntry, Knob, KnobError, KnobRange, KnobValue, Knobs, Registry, Setting, nearest,
};

use crate::{Cell, Draft, Entrant, Plan, Problem, StudyKind, Subject, Vary, VaryRange};

const MATCHES: u64 = 400;
const CONFIDENCE: f64 = 0.95;
const MOST_MATCHES: u64 = 1_000_000_000;
const MOST_ENTRANTS: usize = 64;
const MOST_POINTS: usize = 1000;

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
    desk.target(draft);
    if let Some(frame) = draft.frame_ms.filter(|frame| !(*frame > 0.0 && frame.is_finite())) {
        desk.problem("frame_ms", format!("a frame cannot last {frame} ms"), "a number above 0, as in 16.7");
    }
    desk.field_size(draft, entrants.len());
    if !desk.problems.is_empty() {
        return Err(desk.problems);
    }
    let mut plan = Plan {
        kind: draft.kind,
        game: draft.game.clone(),
        level,
        seed: draft.seed.unwrap_or(1),
        matches,
        blocks: 0,
        confidence,
        rules,
        entrants,
        vary,
        target: draft.target,
        frame_ms: draft.frame_ms,
        cells: Vec::new(),
    };
    plan.cells = match plan.kind {
        StudyKind::Batch => pairings(&plan, game),
        StudyKind::Sweep => desk.points(&plan),
    };
    plan.blocks = matches.div_ceil(plan.rotations());
    if desk.problems.is_empty() { Ok(plan) } else { Err(desk.problems) }
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

fn unknown(at: &str, what: &str, name: &str, known: &[String]) -> Problem {
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

    fn entrants(&mut self, draft: &Draft) -> Vec<Entrant> {
        let mut entrants: Vec<Entrant> = Vec::new();
        for (index, asked) in draft.entrants.iter().enumerate() {
            let at = format!("entrant[{index}]");
            let Some((sheet, preset)) = find_agent(self.game, &asked.agent) else {
                let known: Vec<String> = agent_names(self.game);
                self.problems.push(unknown(&format!("{at}.agent"), "agent", &asked.agent, &known));
                continue;
            };
            let given = asked.knobs.layered(&preset, &sheet.knobs);
            let knobs = self.knobs(&format!("{at}.knobs"), &given, &sheet.knobs);
            let name = asked.name.clone().unwrap_or_else(|| free_name(&asked.agent, &entrants));
            self.label(&at, &name, &entrants);
            entrants.push(Entrant { name, agent: asked.agent.clone(), kind: sheet.name.clone(), given, knobs });
        }
        entrants
    }

    fn label(&mut self, at: &str, name: &str, before: &[Entrant]) {
        let fine = !name.is_empty()
            && name.len() <= 40
            && name != "rules"
            && name.chars().all(|c| c.is_alphanumeric() || "-_ ".contains(c));
        if !fine {
            self.problem(
                format!("{at}.name"),
                format!("an entrant cannot be called `{name}`"),
                "use up to 40 letters, digits, `-`, `_` and spaces; `rules` is taken",
            );
        }
        if before.iter().any(|other| other.name == name) {
            self.problem(
                format!("{at}.name"),
                format!("two entrants are called `{name}`"),
                "give each a label of its own, as in `first=fencer second=fencer`",
            );
        }
    }

    fn vary(&mut self, draft: &Draft, entrants: &[Entrant]) -> Vec<Vary> {
        let mut all: Vec<Vary> = Vec::new();
        for (index, asked) in draft.vary.iter().enumerate() {
            let at = format!("vary[{index}]");
            let subject = match asked.of.as_deref() {
                None => Subject::Entrant(0),
                Some("rules") => Subject::Rules,
                Some(name) => match entrants.iter().position(|entrant| entrant.name == name) {
                    Some(place) => Subject::Entrant(place),
                    None if entrants.len() < draft.entrants.len() => continue, // The entrant itself is at fault.
                    None => {
                        let mut known: Vec<String> = entrants.iter().map(|entrant| entrant.name.clone()).collect();
                        known.push("rules".into());
                        self.problems.push(unknown(&format!("{at}.of"), "entrant", name, &known));
                        continue;
                    }
                },
            };
            let sheets = match subject {
                Subject::Rules => self.game.sheet().rules.clone(),
                Subject::Entrant(place) => match entrants.get(place) {
                    Some(entrant) => {
                        find_agent(self.game, &entrant.kind).map(|(sheet, _)| sheet.knobs.clone()).unwrap_or_default()
                    }
                    None => continue,
                },
            };
            let Some(knob) = sheets.iter().find(|knob| knob.name == asked.knob) else {
                let known: Vec<String> = sheets.iter().map(|knob| knob.name.clone()).collect();
                self.problems.push(unknown(&format!("{at}.knob"), "knob", &asked.knob, &known));
                continue;
            };
            if all.iter().any(|other| other.subject == subject && other.knob == asked.knob) {
                self.problem(format!("{at}.knob"), format!("`{}` is varied twice", asked.knob), "vary each knob once");
            }
            let values = self.values(&at, knob, &asked.range);
            all.push(Vary { subject, knob: asked.knob.clone(), values });
        }
        all
    }

    fn values(&mut self, at: &str, knob: &Knob, range: &VaryRange) -> Vec<KnobValue> {
        let (key, mut values) = match range {
            VaryRange::List(values) => ("values", values.clone()),
            VaryRange::Span { low, high, points } => ("points", self.span(at, knob, *low, *high, *points)),
        };
        if let Some(error) = values.iter().find_map(|value| knob.check(value).err()) {
            let key = if key == "values" { "values" } else { "from" };
            self.problems.push(Problem { at: format!("{at}.{key}"), ..knob_problem(at, &error) });
        }
        values.sort_by(|a, b| match (a, b) {
            (KnobValue::Number(a), KnobValue::Number(b)) => a.total_cmp(b),
            _ => std::cmp::Ordering::Equal,
        });
        values.dedup();
        if values.len() == 1 && self.problems.is_empty() {
            self.problem(
                format!("{at}.{key}"),
                format!("`{}` is varied over one value", knob.name),
                "give two or more",
            );
        }
        values
    }

    fn span(&mut self, at: &str, knob: &Knob, low: f64, high: f64, points: u64) -> Vec<KnobValue> {
        if low.partial_cmp(&high) != Some(std::cmp::Ordering::Less) {
            self.problem(
                format!("{at}.from"),
                format!("{low} to {high} is no range"),
                "the first end must be below the second",
            );
            return Vec::new();
        }
        if !(2..=MOST_POINTS as u64).contains(&points) {
            self.problem(
                format!("{at}.points"),
                format!("{points} points are asked for"),
                format!("from 2 to {MOST_POINTS}"),
            );
            return Vec::new();
        }
        let whole = matches!(knob.range, KnobRange::Whole { .. });
        let steps = (points - 1) as f64;
        (0..points)
            .map(|i| {
                // Rounded to twelve places, so that a tenth reads as 0.1.
                let x = ((low + (high - low) * i as f64 / steps) * 1e12).round() / 1e12;
                KnobValue::Number(if whole { x.round() } else { x })
            })
            .collect()
    }

    fn matches(&mut self, draft: &Draft) -> u64 {
        let matches = draft.matches.unwrap_or(MATCHES);
        if !(1..=MOST_MATCHES).contains(&matches) {
            self.problem(
                "matches",
                format!("{matches} matches are asked for"),
                format!("a whole number from 1 to {MOST_MATCHES}"),
            );
        }
        matches
    }

    fn target(&mut self, draft: &Draft) {
        let Some(target) = draft.target else { return };
        if !(target > 0.0 && target < 1.0) {
            self.problem(
                "target",
                format!("a win rate cannot be aimed at {target}"),
                "a number between 0 and 1, as in 0.55",
            );
        }
        if draft.kind != StudyKind::Sweep {
            self.problem(
                "target",
                "only a sweep has a target",
                "use kind = \"sweep\" with a [[vary]], or leave `target` out",
            );
        }
    }

    fn field_size(&mut self, draft: &Draft, resolved: usize) {
        let sheet = self.game.sheet();
        let asked = draft.entrants.len();
        let seats = *sheet.seats.start();
        if asked < seats {
            let (game, s) = (&sheet.name, if asked == 1 { "" } else { "s" });
            self.problem(
                "entrant",
                format!("{asked} entrant{s} cannot fill the {seats} seats of `{game}`"),
                format!("name {seats} or more; `inkpot agents {game}` shows what there is"),
            );
        }
        if asked > MOST_ENTRANTS {
            self.problem("entrant", format!("{asked} entrants are too many"), format!("{MOST_ENTRANTS} at most"));
        }
        match draft.kind {
            StudyKind::Batch if !draft.vary.is_empty() => {
                self.problem("vary", "a batch varies nothing", "use kind = \"sweep\", or leave [[vary]] out");
            }
            StudyKind::Sweep if !(1..=2).contains(&draft.vary.len()) => {
                self.problem(
                    "vary",
                    format!("a sweep varies one or two knobs, not {}", draft.vary.len()),
                    "add a [[vary]] with `knob`, `from`, `to`, `points`",
                );
            }
            StudyKind::Sweep if resolved > *sheet.seats.end() => {
                self.problem(
                    "entrant",
                    format!("a sweep plays one pairing, not {asked} entrants"),
                    format!("name {seats}; a batch plays every pairing"),
                );
            }
            _ => {}
        }
    }

    fn points(&mut self, plan: &Plan) -> Vec<Cell> {
        let count: usize = plan.vary.iter().map(|vary| vary.values.len()).product();
        if count > MOST_POINTS {
            self.problem(
                "vary",
                format!("{count} points are too many"),
                format!("{MOST_POINTS} at most, over all varied knobs"),
            );
            return Vec::new();
        }
        let mut points: Vec<Vec<KnobValue>> = vec![Vec::new()];
        for vary in &plan.vary {
            let longer = |point: &Vec<KnobValue>| {
                let point = point.clone();
                vary.values
                    .iter()
                    .map(move |value| [point.as_slice(), std::slice::from_ref(value)].concat())
                    .collect::<Vec<_>>()
            };
            points = points.iter().flat_map(longer).collect();
        }
        points.into_iter().map(|point| self.point(plan, point)).collect()
    }

    fn point(&mut self, plan: &Plan, point: Vec<KnobValue>) -> Cell {
        let everyone: Vec<usize> = (0..plan.entrants.len()).collect();
        let mut setting = setting(plan, &everyone);
        for (vary, value) in plan.vary.iter().zip(&point) {
            match vary.subject {
                Subject::Rules => setting.rules.set(&vary.knob, value.clone()),
                Subject::Entrant(place) => {
                    let entrant = &plan.entrants[place];
                    let mut given = entrant.given.clone();
                    // The other varied knobs of this entrant are set too: all values of the point count as given.
                    for (other, value) in
                        plan.vary.iter().zip(&point).filter(|(other, _)| other.subject == vary.subject)
                    {
                        given.set(&other.knob, value.clone());
                    }
                    let sheet =
                        find_agent(self.game, &entrant.kind).map(|(sheet, _)| sheet.knobs.clone()).unwrap_or_default();
                    setting.cast[place].knobs = self.knobs(&format!("entrant[{place}].knobs"), &given, &sheet);
                }
            }
        }
        Cell { entrants: everyone, point, setting }
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

/// Names of all agents of a game: kinds and presets.
fn agent_names(game: &dyn GameEntry) -> Vec<String> {
    let presets = game.agents().iter().flat_map(|sheet| sheet.presets.iter().map(|preset| preset.name.clone()));
    game.agents().iter().map(|sheet| sheet.name.clone()).chain(presets).collect()
}

/// The agent's own name, numbered from the second on.
fn free_name(agent: &str, before: &[Entrant]) -> String {
    let taken = |name: &str| before.iter().any(|entrant| entrant.name == name);
    if !taken(agent) {
        return agent.to_string();
    }
    (2..=before.len() + 1).map(|number| format!("{agent}-{number}")).find(|name| !taken(name)).unwrap_or_default()
}

fn setting(plan: &Plan, entrants: &[usize]) -> Setting {
    let cast = entrants
        .iter()
        .map(|&place| {
            let entrant = &plan.entrants[place];
            Casting { entrant: place as u16, kind: entrant.kind.clone(), knobs: entrant.knobs.clone() }
        })
        .collect();
    Setting { rules: plan.rules.clone(), level: plan.level.clone(), cast, study_seed: plan.seed }
}

/// Every way to fill the fewest seats of the game with different entrants, in order of their places.
fn pairings(plan: &Plan, game: &dyn GameEntry) -> Vec<Cell> {
    let seats = *game.sheet().seats.start();
    let mut picks: Vec<Vec<usize>> = vec![Vec::new()];
    for _ in 0..seats {
        picks = picks
            .iter()
            .flat_map(|pick| {
                let from = pick.last().map_or(0, |last| last + 1);
                (from..plan.entrants.len()).map(move |next| [pick.as_slice(), &[next]].concat())
            })
            .collect();
    }
    picks.into_iter().map(|entrants| Cell { setting: setting(plan, &entrants), point: Vec::new(), entrants }).collect()
}
