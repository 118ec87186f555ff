//! The entrants of a draft: names looked up, knobs checked, fields spread out.

use inkpot_core::{GameEntry, HAND, KnobValue, Knobs};

use super::{Checker, MOST_ENTRANTS, find_agent, unknown};
use crate::{Draft, Entrant, EntrantDraft, Place};

const LONGEST_NAME: usize = 60;

impl Checker<'_> {
    pub(crate) fn entrants(&mut self, draft: &Draft) -> Vec<Entrant> {
        let mut entrants: Vec<Entrant> = Vec::new();
        for (index, entrant) in draft.entrants.iter().enumerate() {
            let at = Place::item("entrant", index);
            let Some((sheet, preset)) = find_agent(self.game, &entrant.agent) else {
                let known = agent_names(self.game);
                let mut problem = unknown(&at.key("agent"), "agent", &entrant.agent, &known);
                if entrant.agent == HAND {
                    problem.help = "only `play` seats a person".into();
                }
                self.problems.push(problem);
                continue;
            };
            let base = entrant.name.clone().unwrap_or_else(|| free_name(&entrant.agent, &entrants));
            for point in self.spread(&at, entrant) {
                let set: Knobs = point.iter().cloned().collect();
                let stated = set.over(&entrant.knobs).layered(&preset, &sheet.knobs);
                let key = if point.is_empty() { at.key("knobs") } else { at.key("vary") };
                let knobs = self.knobs(&key, &stated, &sheet.knobs);
                let values = point.iter().map(|(knob, value)| format!("{knob} {value}"));
                let name = std::iter::once(base.clone()).chain(values).collect::<Vec<_>>().join(" ");
                self.label(&at, &name, &entrants);
                let clock = sheet.knobs.iter().filter(|knob| knob.is_by_the_clock()).map(|knob| knob.name.clone());
                entrants.push(Entrant {
                    name,
                    agent: entrant.agent.clone(),
                    kind: sheet.name.clone(),
                    given: stated,
                    knobs,
                    repeats: sheet.repeats,
                    clock: clock.collect(),
                });
            }
        }
        entrants
    }

    /// Every combination of the values that an entrant's own `vary` gives its knobs; one without any if it has none.
    fn spread(&mut self, at: &Place, entrant: &EntrantDraft) -> Vec<Vec<(String, KnobValue)>> {
        let mut points = vec![Vec::new()];
        let sheet = find_agent(self.game, &entrant.agent).map(|(sheet, _)| sheet.knobs.clone()).unwrap_or_default();
        for (name, range) in &entrant.vary {
            let at = at.key("vary").key(name);
            let Some(knob) = sheet.iter().find(|knob| knob.name == *name) else {
                let known: Vec<String> = sheet.iter().map(|knob| knob.name.clone()).collect();
                self.problems.push(unknown(&at, "knob", name, &known));
                continue;
            };
            if entrant.knobs.get(name).is_some() {
                self.problem(&at, format!("`{name}` is both set and varied"), "leave one of the two out");
            }
            let values = self.values(&at, knob, range);
            points = points
                .iter()
                .flat_map(|point: &Vec<(String, KnobValue)>| {
                    values.iter().map(|value| {
                        let mut longer = point.clone();
                        longer.push((name.clone(), value.clone()));
                        longer
                    })
                })
                .collect();
            if points.len() > MOST_ENTRANTS {
                self.problem(
                    &at,
                    "the varied knobs make too many entrants",
                    format!("name at most {MOST_ENTRANTS} in all"),
                );
                return Vec::new();
            }
        }
        points
    }

    fn label(&mut self, at: &Place, name: &str, before: &[Entrant]) {
        let fine = !name.is_empty()
            && name.len() <= LONGEST_NAME
            && !["rules", "level"].contains(&name)
            && name.chars().all(|c| c.is_alphanumeric() || "-_. ".contains(c));
        if !fine {
            self.problem(
                at.key("name"),
                format!("an entrant cannot be called `{name}`"),
                format!(
                    "use up to {LONGEST_NAME} letters, digits, `-`, `_`, `.` and spaces; `rules` and `level` are \
                     reserved"
                ),
            );
        }
        if before.iter().any(|other| other.name == name) {
            self.problem(
                at.key("name"),
                format!("two entrants are called `{name}`"),
                "give each a label of its own, as in `first=fencer second=fencer`",
            );
        }
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
