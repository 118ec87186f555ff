//! From the draft of a tuning to the tuning: names looked up, everything checked, all problems at once.

use std::collections::BTreeMap;

use inkpot_core::{GameEntry, Knob, KnobRange, KnobValue, Knobs, Registry, nearest};

use super::asked::{Modifiers, own_bounds, sheet_of};
use super::figure::Figure;
use super::modifier::Modifier;
use super::{
    Across, Free, FreeDraft, FreeRange, Player, ProfileDraft, Rung, RungDraft, Side, Target, TargetDraft, Tune,
    TuneDraft,
};
use crate::resolve::unknown;
use crate::{Draft, Entrant, EntrantDraft, Problem, resolve as resolve_study};

/// Matches of the search at most, per rung: with one free knob, and for each further one.
const BUDGET: (u64, u64) = (6000, 4000);
/// Standard error at which the search ends, in tolerances.
const PRECISION: f64 = 0.3;
/// The proof's margin, in tolerances, where nothing is said.
const PROOF_MARGIN: f64 = 0.2;
const LEAST_PROOF: f64 = 2000.0;
/// Matches of the proof where only measures are aimed at.
const PROOF_OF_MEASURES: u64 = 4000;
/// Longest name of a rung: with its player's it still is a label.
const LONGEST_NAME: usize = 30;
const MOST_RUNGS: usize = 30;
const MOST_FREE: usize = 8;
const MOST_MATCHES: u64 = 1_000_000_000;

/// Checks the draft of a tuning against the registry. Errs with everything that is wrong with it.
pub fn resolve_tune(draft: &TuneDraft, registry: &Registry) -> Result<Tune, Vec<Problem>> {
    let Some(game) = registry.game(&draft.game) else {
        let names: Vec<_> = registry.games().map(|game| game.sheet().name.clone()).collect();
        return Err(vec![unknown("game", "game", &draft.game, &names)]);
    };
    let mut desk = Desk { game, registry, draft, problems: Vec::new() };
    let base = desk.base();
    let profiles = desk.profiles();
    let rungs: Vec<Rung> = draft.rungs.iter().enumerate().map(|(i, rung)| desk.rung(i, rung, &profiles)).collect();
    let free = desk.free(&rungs, base.as_ref().map(|(opponent, _)| opponent));
    desk.counts(&rungs, &free);
    desk.ranges(&rungs, base.as_ref());
    let Some((opponent, (rules, level, seed, confidence))) = base.filter(|_| desk.problems.is_empty()) else {
        return Err(desk.problems);
    };
    let tune = Tune {
        game: draft.game.clone(),
        level,
        seed,
        series: draft.series,
        confidence,
        rules,
        opponent,
        budget: draft.budget.unwrap_or(BUDGET.0 + BUDGET.1 * (free.len() as u64 - 1)),
        proof: draft.proof.unwrap_or_else(|| proof(&rungs)).next_multiple_of(draft.series.unwrap_or(2).max(1)),
        precision: draft.precision.unwrap_or(PRECISION),
        free,
        rungs,
        languages: draft.languages.clone(),
    };
    let middle = tune.point_at(&vec![0.5; tune.free.len()]);
    for place in 0..tune.rungs.len() {
        let errors = tune.try_seated(place, &middle, game).err().unwrap_or_default();
        desk.problems.extend(errors.iter().map(|error| {
            let help = "look at what is free, and at what the rung and its profiles set";
            Problem::new(format!("rung[{place}]"), error.to_string(), help)
        }));
    }
    if desk.problems.is_empty() { Ok(tune) } else { Err(desk.problems) }
}

/// Matches that give the narrowest rate target a margin of a fifth of its tolerance.
fn proof(rungs: &[Rung]) -> u64 {
    let rates = rungs.iter().flat_map(|rung| &rung.targets).filter(|target| target.figure.is_rate());
    let narrowest = rates.map(Target::within).fold(f64::INFINITY, f64::min);
    if !narrowest.is_finite() {
        return PROOF_OF_MEASURES;
    }
    let margin = PROOF_MARGIN * narrowest;
    // Two standard errors of a rate of one half, and a fifth more for matches of a block that are alike.
    (1.2 / (margin * margin)).max(LEAST_PROOF).ceil() as u64
}

type Common = (Knobs, String, u64, f64);

struct Desk<'a> {
    game: &'a dyn GameEntry,
    registry: &'a Registry,
    draft: &'a TuneDraft,
    problems: Vec<Problem>,
}

impl Desk<'_> {
    fn problem(&mut self, at: impl Into<String>, what: impl Into<String>, help: impl Into<String>) {
        self.problems.push(Problem::new(at, what, help));
    }

    /// An entrant alone, checked as in any study; `at` is where it was typed.
    fn entrant(&mut self, at: &str, asked: &EntrantDraft) -> Option<(Entrant, Common)> {
        let draft = self.draft;
        let name = asked.name.clone().unwrap_or_else(|| asked.agent.clone());
        let seats = *self.game.sheet().seats.start();
        let others = (1..seats.max(2)).map(|place| EntrantDraft {
            name: Some(format!("other {place}")),
            agent: self.game.agents().first().map(|sheet| sheet.name.clone()).unwrap_or_default(),
            ..EntrantDraft::default()
        });
        let study = Draft {
            game: draft.game.clone(),
            level: draft.level.clone(),
            seed: draft.seed,
            series: draft.series,
            confidence: draft.confidence,
            rules: draft.rules.clone(),
            entrants: std::iter::once(EntrantDraft { name: Some(name), ..asked.clone() }).chain(others).collect(),
            ..Draft::default()
        };
        match resolve_study(&study, self.registry) {
            Ok(plan) => Some((plan.entrants[0].clone(), (plan.rules.clone(), plan.level, plan.seed, plan.confidence))),
            Err(problems) => {
                for mut problem in problems {
                    problem.at = problem.at.replace("entrant[0]", at);
                    if !self.problems.contains(&problem) {
                        self.problems.push(problem);
                    }
                }
                None
            }
        }
    }

    fn base(&mut self) -> Option<(Entrant, Common)> {
        let seats = &self.game.sheet().seats;
        if *seats.start() != 2 {
            let game = &self.draft.game;
            let what = format!("`{game}` is not for two, and a ladder is a player against an opponent");
            self.problem("game", what, "choose a game that two can play");
        }
        let opponent = self.draft.opponent.clone();
        self.entrant("opponent", &opponent)
    }

    /// The profiles by name, each with all that it inherits.
    fn profiles(&mut self) -> BTreeMap<String, ProfileDraft> {
        let mut known: BTreeMap<String, ProfileDraft> = BTreeMap::new();
        let places = (0..self.draft.profiles.len()).map(|i| format!("profile[{i}]"));
        for (at, profile) in places.zip(&self.draft.profiles) {
            if known.contains_key(&profile.name) {
                let what = format!("two profiles are called `{}`", profile.name);
                self.problem(format!("{at}.name"), what, "give each a name of its own");
            }
            let whole = self.inherited(&at, profile, &known);
            known.insert(profile.name.clone(), whole);
        }
        known
    }

    /// A profile over the one it extends.
    fn inherited(&mut self, at: &str, own: &ProfileDraft, known: &BTreeMap<String, ProfileDraft>) -> ProfileDraft {
        let Some(name) = &own.extends else { return own.clone() };
        let Some(parent) = known.get(name) else {
            let names: Vec<String> = known.keys().cloned().collect();
            let mut problem = unknown(&format!("{at}.extends"), "profile", name, &names);
            let before = "a profile stands before those that extend it";
            problem.help = if names.is_empty() { before.into() } else { format!("{}; {before}", problem.help) };
            self.problems.push(problem);
            return own.clone();
        };
        let texts = |own: &super::Texts, parent: &super::Texts| {
            let mut all = parent.clone();
            all.extend(own.clone());
            all
        };
        ProfileDraft {
            name: own.name.clone(),
            extends: own.extends.clone(),
            title: texts(&own.title, &parent.title),
            text: texts(&own.text, &parent.text),
            opponent: own.opponent.over(&parent.opponent),
            player: own.player.over(&parent.player),
            rules: own.rules.over(&parent.rules),
        }
    }

    fn rung(&mut self, index: usize, asked: &RungDraft, profiles: &BTreeMap<String, ProfileDraft>) -> Rung {
        let at = format!("rung[{index}]");
        // A rung may extend a profile or a rung before it.
        let mut known = profiles.clone();
        for earlier in &self.draft.rungs[..index] {
            let mut silent = Desk { game: self.game, registry: self.registry, draft: self.draft, problems: Vec::new() };
            let whole = silent.inherited("", &earlier.profile, &known);
            known.insert(earlier.profile.name.clone(), whole);
        }
        let profile = self.inherited(&at, &asked.profile, &known);
        if self.draft.rungs[..index].iter().any(|rung| rung.profile.name == profile.name) {
            let what = format!("two rungs are called `{}`", profile.name);
            self.problem(format!("{at}.name"), what, "give each a name of its own");
        }
        for language in &self.draft.languages {
            for (what, texts) in [("title", &profile.title), ("text", &profile.text)] {
                if !texts.contains_key(language) {
                    self.problem(
                        &at,
                        format!("rung `{}` has no {what} in `{language}`", profile.name),
                        format!("add `{what}.{language} = \"...\"`, or take `{language}` out of `languages`"),
                    );
                }
            }
        }
        self.rung_name(&at, &profile.name);
        let players = self.players(&at, asked);
        let opponent = sheet_knobs(self.game, &self.draft.opponent.agent);
        let player = players.first().map(|player| sheet_knobs(self.game, &player.entrant.kind)).unwrap_or_default();
        let modifiers = Modifiers {
            opponent: self.modifiers(&format!("{at}.opponent"), &profile.opponent, &opponent),
            player: self.modifiers(&format!("{at}.player"), &profile.player, &player),
            rules: self.modifiers(&format!("{at}.rules"), &profile.rules, &self.game.sheet().rules),
        };
        let mut targets = Vec::new();
        for (place, target) in self.draft.targets.iter().enumerate() {
            let own = asked.targets.iter().any(|own| own.figure == target.figure && own.side == target.side);
            targets.extend(self.target(&format!("targets[{place}]"), target).filter(|_| !own));
        }
        for (place, target) in asked.targets.iter().enumerate() {
            targets.extend(self.target(&format!("{at}.targets[{place}]"), target));
        }
        if targets.is_empty() {
            let help = "add `targets = [{ figure = \"win_rate\", value = 0.5, within = 0.03 }]`";
            self.problem(&at, format!("rung `{}` has no target", profile.name), help);
        }
        Rung { name: profile.name, title: profile.title, text: profile.text, modifiers, players, targets }
    }

    /// Rungs are entrants of the proof and stand in tables: their names are as plain as labels.
    fn rung_name(&mut self, at: &str, name: &str) {
        let plain = !name.is_empty() && name.chars().all(|c| c.is_alphanumeric() || "-_. ".contains(c));
        if !plain || name.len() > LONGEST_NAME || name == "rules" {
            self.problem(
                format!("{at}.name"),
                format!("a rung cannot be called `{name}`"),
                format!("use up to {LONGEST_NAME} letters, digits, `-`, `_`, `.` and spaces; `title` may be anything"),
            );
        }
    }

    fn players(&mut self, at: &str, asked: &RungDraft) -> Vec<Player> {
        if asked.players.is_empty() {
            let help = "add `player = \"newcomer\"`, or [[rung.players]] with `agent` and `weight`";
            self.problem(at, format!("nobody plays on rung `{}`", asked.profile.name), help);
        }
        let total: f64 = asked.players.iter().map(|(_, weight)| weight).sum();
        let mut players = Vec::new();
        for (place, (entrant, weight)) in asked.players.iter().enumerate() {
            let at = format!("{at}.players[{place}]");
            if !(*weight > 0.0 && weight.is_finite()) {
                self.problem(format!("{at}.weight"), format!("a player cannot weigh {weight}"), "a number above 0");
            }
            let found = self.entrant(&at, entrant);
            players.extend(found.map(|(entrant, _)| Player { entrant, weight: weight / total }));
        }
        let kinds: Vec<&str> = players.iter().map(|player| player.entrant.kind.as_str()).collect();
        if !asked.profile.player.is_empty() && kinds.windows(2).any(|pair| pair[0] != pair[1]) {
            let what = "players of several kinds have no knobs in common";
            self.problem(format!("{at}.player"), what, "use players of one kind, or leave the modifiers out");
        }
        players
    }

    /// The modifiers of a side; what matches no knob, or is not allowed, is a problem.
    fn modifiers(&mut self, at: &str, asked: &Knobs, knobs: &[Knob]) -> Vec<(String, Modifier)> {
        let mut modifiers = Vec::new();
        for (name, value) in asked.iter() {
            let at = format!("{at}.{name}");
            let Some(knob) = knobs.iter().find(|knob| knob.name == name) else {
                let known: Vec<String> = knobs.iter().map(|knob| knob.name.clone()).collect();
                self.problems.push(unknown(&at, "knob", name, &known));
                continue;
            };
            let modifier = Modifier::of(value);
            match &modifier {
                Modifier::Percent(percent) if knob.bounds().is_none() => {
                    let what = format!("`{name}` is a choice and cannot change by {percent} %");
                    self.problem(&at, what, format!("it takes {}", knob.allowed()));
                }
                Modifier::Set(value) if knob.check(value).is_err() => {
                    let what = format!("the knob `{name}` cannot be {value}");
                    let help = format!("it takes {}, or a signed percentage as in \"+20 %\"", knob.allowed());
                    self.problem(&at, what, help);
                }
                _ => modifiers.push((name.to_string(), modifier)),
            }
        }
        modifiers
    }

    fn target(&mut self, at: &str, asked: &TargetDraft) -> Option<Target> {
        let sheet = self.game.sheet();
        let side = match asked.side.as_deref() {
            None | Some("player") => Side::Player,
            Some("opponent") => Side::Opponent,
            Some(other) => {
                self.problem(
                    format!("{at}.side"),
                    format!("`side` cannot be `{other}`"),
                    "it takes player or opponent",
                );
                return None;
            }
        };
        let figure = match Figure::find(&asked.figure, side, sheet) {
            Ok(figure) => figure,
            Err(known) => {
                let near = nearest(&asked.figure, known.iter().map(String::as_str));
                let near = near.map(|near| format!("did you mean `{near}`? ")).unwrap_or_default();
                let what = format!("there is no figure `{}`", asked.figure);
                self.problem(format!("{at}.figure"), what, format!("{near}There are: {}", known.join(", ")));
                return None;
            }
        };
        if asked.side.is_some() && !figure.has_sides(sheet) {
            let what = format!("`{}` is one figure of the match", asked.figure);
            self.problem(format!("{at}.side"), what, "leave `side` out; a win rate is the player's");
            return None;
        }
        let weight = asked.weight.unwrap_or(1.0);
        if !(weight > 0.0 && weight.is_finite()) {
            self.problem(format!("{at}.weight"), format!("a target cannot weigh {weight}"), "a number above 0");
        }
        let (low, high) = match (asked.value, asked.within, asked.low, asked.high) {
            (Some(value), Some(within), None, None) if within > 0.0 => (value - within, value + within),
            (None, None, Some(low), Some(high)) if low < high => (low, high),
            (None, None, Some(low), None) => (low, f64::INFINITY),
            (None, None, None, Some(high)) => (f64::NEG_INFINITY, high),
            _ => {
                let help = "give `value` and a positive `within`, or `from`, `to` or both, the first below the second";
                self.problem(at, format!("it is not clear what `{}` should be", asked.figure), help);
                return None;
            }
        };
        if figure.is_rate() && (low >= 1.0 || high <= 0.0 || asked.value.is_some_and(|v| !(0.0..=1.0).contains(&v))) {
            let what = format!("a rate lies between 0 and 1, and `{}` never does there", asked.figure);
            self.problem(at, what, "write 70 % as 0.7");
            return None;
        }
        let hard = !asked.soft;
        Some(Target { name: asked.figure.clone(), figure, side, low, high, value: asked.value, weight, hard })
    }

    fn free(&mut self, rungs: &[Rung], opponent: Option<&Entrant>) -> Vec<Free> {
        let mut all: Vec<Free> = Vec::new();
        for (place, asked) in self.draft.free.iter().enumerate() {
            let at = format!("free[{place}]");
            let found = self.free_knob(&at, asked, rungs, opponent);
            if let Some(free) = found {
                if all.iter().any(|other| other.of == free.of && other.knob == free.knob) {
                    let what = format!("`{}` is free twice", free.name());
                    self.problem(&at, what, "leave one of the two out");
                }
                all.push(free);
            }
        }
        all
    }

    fn free_knob(&mut self, at: &str, asked: &FreeDraft, rungs: &[Rung], opponent: Option<&Entrant>) -> Option<Free> {
        let side = match asked.of.as_deref() {
            None => Side::Opponent,
            Some(name) => {
                if let Some(side) = Side::ALL.into_iter().find(|side| side.name() == name) {
                    side
                } else {
                    let help = "it takes opponent, player or rules";
                    self.problem(format!("{at}.of"), format!("`of` cannot be `{name}`"), help);
                    return None;
                }
            }
        };
        let knobs = match side {
            Side::Rules => self.game.sheet().rules.clone(),
            Side::Opponent => sheet_knobs(self.game, &opponent?.kind),
            Side::Player => {
                let mut kinds: Vec<&str> =
                    rungs.iter().flat_map(|rung| &rung.players).map(|player| player.entrant.kind.as_str()).collect();
                kinds.dedup();
                if kinds.len() > 1 {
                    let what = "players of several kinds have no knobs in common";
                    self.problem(at, what, "turn a knob of the opponent or the rules");
                    return None;
                }
                sheet_knobs(self.game, kinds.first()?)
            }
        };
        let Some(knob) = knobs.iter().find(|knob| knob.name == asked.knob) else {
            let known: Vec<String> = knobs.iter().map(|knob| knob.name.clone()).collect();
            self.problems.push(unknown(&format!("{at}.knob"), "knob", &asked.knob, &known));
            return None;
        };
        for rung in rungs.iter().filter(|rung| rung.modifiers.of(side).iter().any(|(name, _)| *name == asked.knob)) {
            self.problem(
                format!("{at}.knob"),
                format!("`{}` is free, and rung `{}` sets it", asked.knob, rung.name),
                "do one of the two",
            );
        }
        let range = self.free_range(at, asked, knob)?;
        Some(Free {
            of: side,
            knob: asked.knob.clone(),
            range,
            across: asked.across.unwrap_or_default(),
            step: asked.step,
        })
    }

    fn free_range(&mut self, at: &str, asked: &FreeDraft, knob: &Knob) -> Option<FreeRange> {
        if let KnobRange::Choice { of, .. } = &knob.range {
            let words = if asked.choices.is_empty() { of.clone() } else { asked.choices.clone() };
            if asked.low.is_some() || asked.high.is_some() || asked.step.is_some() || words.len() < 2 {
                let help = format!("give two or more `choices` of: {}", of.join(", "));
                self.problem(at, format!("`{}` is a choice", knob.name), help);
                return None;
            }
            for word in &words {
                if let Err(error) = knob.check(&KnobValue::Word(word.clone())) {
                    self.problem(format!("{at}.choices"), error.to_string(), format!("it takes {}", knob.allowed()));
                }
            }
            return Some(FreeRange::Words(words));
        }
        let ends = [asked.low, asked.high].into_iter().flatten();
        let outside = ends.filter(|x| knob.check(&KnobValue::Number(*x)).is_err()).collect::<Vec<_>>();
        for x in outside {
            let what = format!("`{}` cannot be {x}", knob.name);
            self.problem(at, what, format!("it takes {}", knob.allowed()));
        }
        let (low, high) = own_bounds(knob, asked.low, asked.high)?;
        if low >= high || !asked.choices.is_empty() {
            let what = format!("it is not clear how far `{}` may be turned", knob.name);
            self.problem(at, what, "give `from` and `to`, the first below the second");
            return None;
        }
        if asked.step.is_some_and(|step| step <= 0.0) {
            self.problem(format!("{at}.step"), "a step is a number above 0", "as in step = 0.2");
        }
        Some(FreeRange::Number { low, high, whole: matches!(knob.range, KnobRange::Whole { .. }) })
    }

    fn counts(&mut self, rungs: &[Rung], free: &[Free]) {
        let draft = self.draft;
        if !(1..=MOST_RUNGS).contains(&rungs.len()) {
            let what = format!("a ladder of {} rungs is asked for", rungs.len());
            self.problem("rung", what, format!("add 1 to {MOST_RUNGS} [[rung]]"));
        }
        if draft.seed.is_some_and(|seed| i64::try_from(seed).is_err()) {
            let what = "the sheet of a tuning cannot hold so large a seed";
            self.problem("seed", what, format!("a whole number up to {}", i64::MAX));
        }
        if draft.free.is_empty() || free.len() > MOST_FREE {
            let what = format!("{} knobs are free", draft.free.len());
            self.problem("free", what, format!("add 1 to {MOST_FREE} [[free]] with `knob`, `from` and `to`"));
        }
        for (key, matches, least) in [("budget", draft.budget, 200), ("proof", draft.proof, 40)] {
            if matches.is_some_and(|matches| !(least..=MOST_MATCHES).contains(&matches)) {
                let what = format!("`{key}` cannot be {}", matches.unwrap_or_default());
                self.problem(key, what, format!("a whole number from {least} to {MOST_MATCHES}"));
            }
        }
        if draft.precision.is_some_and(|precision| !(0.01..=2.0).contains(&precision)) {
            self.problem("precision", "the search cannot be so exact", "a number of tolerances from 0.01 to 2");
        }
        let wishes = |rung: &&Rung| !rung.targets.is_empty() && rung.targets.iter().all(|target| !target.hard);
        for rung in rungs.iter().filter(wishes) {
            let what = format!("all targets of rung `{}` are soft: nothing can fail", rung.name);
            self.problem("rung", what, "leave `soft` out of one");
        }
    }

    /// Modifiers that leave their knob's range over the base.
    fn ranges(&mut self, rungs: &[Rung], base: Option<&(Entrant, Common)>) {
        let Some((opponent, (rules, ..))) = base else { return };
        let mut found = Vec::new();
        for (index, rung) in rungs.iter().enumerate() {
            let player = rung.players.first().map(|player| &player.entrant);
            let sides = [
                (Side::Opponent, sheet_knobs(self.game, &opponent.kind), Some(&opponent.knobs)),
                (
                    Side::Player,
                    player.map(|own| sheet_knobs(self.game, &own.kind)).unwrap_or_default(),
                    player.map(|own| &own.knobs),
                ),
                (Side::Rules, self.game.sheet().rules.clone(), Some(rules)),
            ];
            for (side, knobs, base) in sides {
                for (name, modifier) in rung.modifiers.of(side) {
                    let knob = knobs.iter().find(|knob| knob.name == *name);
                    let value = base.and_then(|base| base.get(name)).and_then(KnobValue::number);
                    let (Modifier::Percent(percent), Some(knob), Some(value)) = (modifier, knob, value) else {
                        continue;
                    };
                    let result = super::modifier::changed(value, *percent);
                    if knob.bounds().is_some_and(|(low, high)| !(low..=high).contains(&result)) {
                        found.push((index, side, name.clone(), value, *percent, result, knob.allowed()));
                    }
                }
            }
        }
        for (index, side, name, value, percent, result, allowed) in found {
            self.problem(
                format!("rung[{index}].{}.{name}", side.name()),
                format!("{percent:+} % takes `{name}` from {} to {}", short(value), short(result)),
                format!("it takes {allowed}; choose a smaller percentage"),
            );
        }
    }
}

fn short(x: f64) -> f64 {
    (x * 1e4).round() / 1e4
}

/// The knobs of an agent kind or preset; none if there is no such.
fn sheet_knobs(game: &dyn GameEntry, agent: &str) -> Vec<Knob> {
    let sheet = sheet_of(game, agent).or_else(|| crate::find_agent(game, agent).map(|(sheet, _)| sheet));
    sheet.map(|sheet| sheet.knobs.clone()).unwrap_or_default()
}

impl Across {
    /// Whether a knob may go from one value to the next.
    pub(crate) fn allows(self, from: f64, to: f64) -> bool {
        const SLACK: f64 = 1e-9;
        match self {
            Self::Any => true,
            Self::Rising => to >= from - SLACK,
            Self::Falling => to <= from + SLACK,
            Self::Shared => (to - from).abs() <= SLACK,
        }
    }
}
