//! Rungs and the profiles that they extend.

use std::collections::BTreeMap;

use inkpot_core::{Knob, Knobs};

use super::{TuneChecker, sheet_knobs};
use crate::Place;
use crate::checker::unknown;
use crate::kinds::tune::asked::Modifiers;
use crate::kinds::tune::modifier::Modifier;
use crate::kinds::tune::{Player, ProfileDraft, Rung, RungDraft, Texts};

/// Longest name of a rung: with its player's it still is a label.
const LONGEST_NAME: usize = 30;

impl TuneChecker<'_> {
    /// The profiles by name, each with all that it inherits.
    pub(super) fn profiles(&mut self) -> BTreeMap<String, ProfileDraft> {
        let mut known: BTreeMap<String, ProfileDraft> = BTreeMap::new();
        let places = (0..self.draft.profiles.len()).map(|i| Place::item("profile", i));
        for (at, profile) in places.zip(&self.draft.profiles) {
            if known.contains_key(&profile.name) {
                let what = format!("two profiles are called `{}`", profile.name);
                self.problem(at.key("name"), what, "give each a name of its own");
            }
            let whole = self.inherited(&at, profile, &known);
            known.insert(profile.name.clone(), whole);
        }
        known
    }

    /// A profile over the one it extends.
    fn inherited(&mut self, at: &Place, draft: &ProfileDraft, known: &BTreeMap<String, ProfileDraft>) -> ProfileDraft {
        let Some(name) = &draft.extends else { return draft.clone() };
        let Some(parent) = known.get(name) else {
            let names: Vec<String> = known.keys().cloned().collect();
            let mut problem = unknown(&at.key("extends"), "profile", name, &names);
            let before = "a profile stands before those that extend it";
            problem.help = if names.is_empty() { before.into() } else { format!("{}; {before}", problem.help) };
            self.problems.push(problem);
            return draft.clone();
        };
        let texts = |texts: &Texts, parent: &Texts| {
            let mut all = parent.clone();
            all.extend(texts.clone());
            all
        };
        ProfileDraft {
            name: draft.name.clone(),
            extends: draft.extends.clone(),
            title: texts(&draft.title, &parent.title),
            text: texts(&draft.text, &parent.text),
            opponent: draft.opponent.over(&parent.opponent),
            player: draft.player.over(&parent.player),
            rules: draft.rules.over(&parent.rules),
        }
    }

    pub(super) fn rung(&mut self, index: usize, asked: &RungDraft, profiles: &BTreeMap<String, ProfileDraft>) -> Rung {
        let at = Place::item("rung", index);
        // A rung may extend a profile or a rung before it.
        let mut known = profiles.clone();
        for earlier in &self.draft.rungs[..index] {
            let mut silent =
                TuneChecker { game: self.game, registry: self.registry, draft: self.draft, problems: Vec::new() };
            let whole = silent.inherited(&Place::default(), &earlier.profile, &known);
            known.insert(earlier.profile.name.clone(), whole);
        }
        let profile = self.inherited(&at, &asked.profile, &known);
        if self.draft.rungs[..index].iter().any(|rung| rung.profile.name == profile.name) {
            let what = format!("two rungs are called `{}`", profile.name);
            self.problem(at.key("name"), what, "give each a name of its own");
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
            opponent: self.modifiers(&at.key("opponent"), &profile.opponent, &opponent),
            player: self.modifiers(&at.key("player"), &profile.player, &player),
            rules: self.modifiers(&at.key("rules"), &profile.rules, &self.game.sheet().rules),
        };
        let mut targets = Vec::new();
        for (place, target) in self.draft.targets.iter().enumerate() {
            let has_own = asked.targets.iter().any(|known| known.figure == target.figure && known.side == target.side);
            targets.extend(self.target(&Place::item("targets", place), target).filter(|_| !has_own));
        }
        for (place, target) in asked.targets.iter().enumerate() {
            targets.extend(self.target(&at.key("targets").at(place), target));
        }
        // One that is wrong is a target all the same.
        if targets.is_empty() && asked.targets.is_empty() && self.draft.targets.is_empty() {
            let help = "add `targets = [{ figure = \"win_rate\", value = 0.5, within = 0.03 }]`";
            self.problem(&at, format!("rung `{}` has no target", profile.name), help);
        }
        Rung { name: profile.name, title: profile.title, text: profile.text, modifiers, players, targets }
    }

    /// Rungs are entrants of the proof and stand in tables: their names are as plain as labels.
    fn rung_name(&mut self, at: &Place, name: &str) {
        let plain = !name.is_empty() && name.chars().all(|c| c.is_alphanumeric() || "-_. ".contains(c));
        if !plain || name.len() > LONGEST_NAME || name == "rules" {
            self.problem(
                at.key("name"),
                format!("a rung cannot be called `{name}`"),
                format!("use up to {LONGEST_NAME} letters, digits, `-`, `_`, `.` and spaces; `title` may be anything"),
            );
        }
    }

    fn players(&mut self, at: &Place, rung: &RungDraft) -> Vec<Player> {
        if rung.players.is_empty() {
            let help = "add `stand_in = \"newcomer\"`, or [[rung.mix]] tables with `agent` and `weight`";
            self.problem(at, format!("rung `{}` has no player", rung.profile.name), help);
        }
        let mut players = Vec::new();
        for (place, (entrant, weight)) in rung.players.iter().enumerate() {
            let at = at.key("players").at(place);
            if !(*weight > 0.0 && weight.is_finite()) {
                self.problem(
                    at.key("weight"),
                    format!("the `weight` of a player cannot be {weight}"),
                    "it must be a number above 0",
                );
            }
            let found = self.entrant(&at, entrant);
            players.extend(found.map(|(entrant, _)| Player { entrant, weight: *weight }));
        }
        let kinds: Vec<&str> = players.iter().map(|player| player.entrant.kind.as_str()).collect();
        if !rung.profile.player.is_empty() && kinds.windows(2).any(|pair| pair[0] != pair[1]) {
            let what = "players of several kinds have no knobs in common";
            self.problem(at.key("player"), what, "use players of one kind, or leave the modifiers out");
        }
        players
    }

    /// Resolves the modifiers of a side; unknown and forbidden names are problems.
    fn modifiers(&mut self, at: &Place, asked: &Knobs, knobs: &[Knob]) -> Vec<(String, Modifier)> {
        let mut modifiers = Vec::new();
        for (name, value) in asked.iter() {
            let at = at.key(name);
            let Some(knob) = knobs.iter().find(|knob| knob.name == name) else {
                let known: Vec<String> = knobs.iter().map(|knob| knob.name.clone()).collect();
                self.problems.push(unknown(&at, "knob", name, &known));
                continue;
            };
            let modifier = Modifier::of(value);
            match &modifier {
                Modifier::Percent(percent) if knob.bounds().is_none() => {
                    let what = format!("`{name}` is a choice and cannot change by {percent} %");
                    self.problem(&at, what, format!("it must be {}", knob.allowed()));
                }
                Modifier::Set(value) if knob.check(value).is_err() => {
                    let what = format!("the knob `{name}` cannot be {value}");
                    let help = format!("it must be {}, or a signed percentage as in \"+20 %\"", knob.allowed());
                    self.problem(&at, what, help);
                }
                _ => modifiers.push((name.to_string(), modifier)),
            }
        }
        modifiers
    }
}
