//! The knobs that a sweep varies, their values, and its points.

use inkpot_core::{Knob, KnobValue, Knobs, Level};

use super::asked::{Subject, Sweep, SweepDraft, Vary};
use crate::checker::{Checker, MOST_POINTS, unknown};
use crate::{Cell, Draft, Entrant, Place, Plan, Variation};

impl Checker<'_> {
    pub(super) fn vary(&mut self, sweep: &SweepDraft, draft: &Draft, entrants: &[Entrant]) -> Vec<Vary> {
        let mut all: Vec<Vary> = Vec::new();
        for (index, axis) in sweep.vary.iter().enumerate() {
            let at = Place::item("vary", index);
            let subject = match axis.of.as_deref() {
                None if axis.knob == "level" && !self.has_knob(entrants.first(), "level") => Subject::Level,
                None => Subject::Entrant(0),
                Some("rules") => Subject::Rules,
                Some("level") => Subject::Generator,
                Some(name) => match entrants.iter().position(|entrant| entrant.name == name) {
                    Some(place) => Subject::Entrant(place),
                    None if entrants.len() < draft.entrants.len() => continue, // The entrant itself is at fault.
                    None => {
                        let mut known: Vec<String> = entrants.iter().map(|entrant| entrant.name.clone()).collect();
                        known.extend(["rules".into(), "level".into()]);
                        self.report(unknown(&at.key("of"), "entrant", name, &known));
                        continue;
                    }
                },
            };
            let knobs = match subject {
                Subject::Rules => self.game().sheet().rules.clone(),
                Subject::Level => vec![self.levels()],
                Subject::Generator => self.generator(draft.level.as_ref()),
                Subject::Entrant(place) => match entrants.get(place) {
                    Some(entrant) => {
                        self.game().agent(&entrant.kind).map(|sheet| sheet.knobs.clone()).unwrap_or_default()
                    }
                    None => continue,
                },
            };
            let Some(knob) = knobs.iter().find(|knob| knob.name == axis.knob) else {
                let known: Vec<String> = knobs.iter().map(|knob| knob.name.clone()).collect();
                let mut problem = unknown(&at.key("knob"), "knob", &axis.knob, &known);
                let other = entrants.iter().find(|entrant| self.has_knob(Some(entrant), &axis.knob));
                if let Some(other) = other.filter(|_| axis.of.is_none()) {
                    problem.help = format!("`{}` has one: vary `{}.{}`", other.name, other.name, axis.knob);
                }
                self.report(problem);
                continue;
            };
            if all.iter().any(|other| other.subject == subject && other.knob == axis.knob) {
                self.problem(at.key("knob"), format!("`{}` is varied twice", axis.knob), "vary each knob once");
            }
            let values = self.values(&at, knob, &axis.range);
            all.push(Vary { subject, knob: axis.knob.clone(), values });
        }
        all
    }

    fn has_knob(&self, entrant: Option<&Entrant>, knob: &str) -> bool {
        let sheet = entrant.and_then(|entrant| self.game().agent(&entrant.kind));
        sheet.is_some_and(|sheet| sheet.knobs.iter().any(|known| known.name == knob))
    }

    /// The levels of the game as a choice.
    fn levels(&self) -> Knob {
        let names: Vec<&str> = self.game().sheet().levels.iter().map(|level| level.name.as_str()).collect();
        Knob::choice("level", &names)
    }

    /// The knobs of the generator of the level that is played, or the game's first.
    fn generator(&self, level: Option<&Level>) -> Vec<Knob> {
        let levels = &self.game().sheet().levels;
        let found = match level {
            Some(level) => levels.iter().find(|known| known.name == level.name()),
            None => levels.first(),
        };
        found.map(|level| level.knobs.clone()).unwrap_or_default()
    }

    pub(super) fn points(&mut self, sweep: &Sweep, plan: &Plan) -> Vec<Cell> {
        let count: usize = sweep.vary.iter().map(|vary| vary.values.len()).product();
        if count > MOST_POINTS {
            self.problem(
                "vary",
                format!("{count} points are too many"),
                format!("use at most {MOST_POINTS}, over all varied knobs"),
            );
            return Vec::new();
        }
        let mut points: Vec<Vec<KnobValue>> = vec![Vec::new()];
        for vary in &sweep.vary {
            let longer = |point: &Vec<KnobValue>| {
                let point = point.clone();
                vary.values
                    .iter()
                    .map(move |value| [point.as_slice(), std::slice::from_ref(value)].concat())
                    .collect::<Vec<_>>()
            };
            points = points.iter().flat_map(longer).collect();
        }
        points.into_iter().map(|point| self.point(sweep, plan, point)).collect()
    }

    fn point(&mut self, sweep: &Sweep, plan: &Plan, point: Vec<KnobValue>) -> Cell {
        let everyone: Vec<usize> = (0..plan.entrants.len()).collect();
        let values = |subject| sweep.vary.iter().zip(&point).filter(move |(vary, _)| vary.subject == subject);
        let mut rules = plan.ground.rules.clone();
        values(Subject::Rules).for_each(|(vary, value)| rules.set(&vary.knob, value.clone()));
        let mut knobs: Vec<Knobs> = plan.entrants.iter().map(|entrant| entrant.knobs.clone()).collect();
        for (place, entrant) in plan.entrants.iter().enumerate() {
            // All values of the point count as given, and move the knobs that follow them.
            let set: Knobs =
                values(Subject::Entrant(place)).map(|(vary, value)| (vary.knob.clone(), value.clone())).collect();
            if !set.is_empty() {
                let sheet = self.game().agent(&entrant.kind).map(|sheet| sheet.knobs.clone()).unwrap_or_default();
                knobs[place] =
                    self.knobs(&Place::item("entrant", place).key("knobs"), &set.over(&entrant.given), &sheet);
            }
        }
        let level = self.level_at(sweep, plan, &point);
        Cell { point, variation: Some(Box::new(Variation { level, rules, knobs })), ..Cell::of(everyone, 0) }
    }

    /// The level of a point: that of the plan, unless which one or its generator is varied.
    fn level_at(&mut self, sweep: &Sweep, plan: &Plan, point: &[KnobValue]) -> Level {
        let values = |subject| sweep.vary.iter().zip(point).filter(move |(vary, _)| vary.subject == subject);
        let named = values(Subject::Level).next();
        if named.is_none() && values(Subject::Generator).next().is_none() {
            return plan.ground.level.clone();
        }
        let mut level = match named {
            Some((_, name)) => Level::named(name.to_string(), Knobs::default()),
            None => plan.ground.level.clone(),
        };
        for (vary, value) in values(Subject::Generator) {
            level = level.with(&vary.knob, value.clone());
        }
        self.resolved_level(&"level".into(), &level).unwrap_or(level)
    }
}
