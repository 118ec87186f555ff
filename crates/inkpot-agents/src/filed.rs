//! `policy` of a game of turns: plays by the values of single positions that were learned.

use std::collections::HashMap;
use std::sync::Arc;

use inkpot_core::{
    Agent, AgentKind, Chance, GaveUp, Imagine, Keyed, Knob, KnobValue, Knobs, Laying, Noted, Options, Person, Seat,
    Sight, Thoughts, Weighed, folded,
};

use crate::Graded;
use crate::weights::{Trained, training};

/// The kind `policy` for any game whose positions are filed: it takes the best option of a table.
pub fn filed_policy<G>() -> AgentKind<G>
where
    G: Keyed + Noted + Options + Imagine + 'static,
{
    AgentKind::new("policy", "plays by a table of values that was learned, position by position")
        .knob(Knob::file("file", "a table of values (CSV)").help("the table, as a training wrote it"))
        .knob(training())
        .factory_for(|knobs, _laying: &Laying| {
            let trained = read(knobs)?;
            Ok(Box::new(move |_person| Box::new(Filed::new(trained.clone()))))
        })
        .graded_by_values()
}

/// The values of the options of each position, by its text.
type Values = HashMap<String, Vec<f64>>;

/// Reads the file of the knob `file`, as it was at this share of its training; a table without a line knows nothing yet.
/// Errs with what is wrong with it.
fn read(knobs: &Knobs) -> Result<Trained<Arc<Values>>, String> {
    let Some(KnobValue::File { file, bytes }) = knobs.get("file") else {
        return Err("the knob `file` names no file".into());
    };
    let wrong = |what: String| format!("`{file}` cannot be used: {what}");
    let mut reader = csv::Reader::from_reader(bytes.0.as_ref());
    let headers = reader.headers().map_err(|_| wrong("it is no table of values (CSV)".into()))?.clone();
    let place = |name: &str| {
        let missing = || wrong(format!("it has no column `{name}`, so it is no table of values"));
        headers.iter().position(|own| own == name).ok_or_else(missing)
    };
    let (position, option, last) = (place("position")?, place("option")?, place("value")?);
    let by = |(place, name): (usize, &str)| Some((name.strip_prefix("value_")?.parse::<f64>().ok()?, place));
    let kept: Vec<(f64, usize)> = headers.iter().enumerate().filter_map(by).collect();
    let columns = Trained::at(knobs.number("training"), &kept, last).map_err(wrong)?;
    let rows: Vec<csv::StringRecord> =
        reader.records().collect::<Result<_, _>>().map_err(|error| wrong(error.to_string()))?;
    let table = |value: usize| {
        let mut values = Values::new();
        for (row, line) in rows.iter().zip(2..) {
            let cell = |place: usize| row.get(place).unwrap_or_default();
            let number = |place: usize| cell(place).parse::<f64>().ok().filter(|x| x.is_finite());
            if value != last && cell(value).is_empty() {
                // It was not known by then.
                continue;
            }
            let (Some(option), Some(value)) = (number(option), number(value)) else {
                return Err(wrong(format!("line {line} has no position, option and value")));
            };
            let own = values.entry(cell(position).to_string()).or_default();
            if option != (own.len() + 1) as f64 {
                return Err(wrong(format!("line {line} is not option {} of its position", own.len() + 1)));
            }
            own.push(value);
        }
        Ok(Arc::new(values))
    };
    columns.each(table)
}

struct Filed<A> {
    trained: Trained<Arc<Values>>,
    /// The state that this match is played by.
    table: Arc<Values>,
    seat: Seat,
    chance: Chance,
    options: Vec<A>,
    /// What it knows of these; NaN where it never met the position.
    values: Vec<f64>,
}

impl<A> Filed<A> {
    fn new(trained: Trained<Arc<Values>>) -> Self {
        Self {
            table: trained.later().clone(),
            trained,
            seat: 0,
            chance: Chance::from_seed(0),
            options: Vec::new(),
            values: Vec::new(),
        }
    }
}

impl<G> Agent<G> for Filed<G::Action>
where
    G: Keyed + Noted + Options + Imagine,
{
    fn begin(&mut self, seat: Seat, chance: Chance) {
        self.seat = seat;
        self.chance = chance;
        self.table = self.trained.of_match(&mut self.chance).clone();
    }

    fn renew(&mut self, _person: &Person) -> bool {
        true
    }

    /// The best option; of equals, and in a position that it never met, any.
    fn choose(&mut self, sight: &Sight<'_, G>) -> Result<G::Action, GaveUp> {
        let state = sight.imagine(&mut self.chance).ok_or_else(|| GaveUp::because("nothing can be imagined"))?;
        // Who answers one opponent knows positions as they stand: that may not be the same in those that are alike.
        let symmetry = if self.table.contains_key(&state.note()) { 0 } else { folded(&state).1 };
        let filed = state.turned(symmetry);
        self.options.clear();
        filed.options(self.seat, &mut self.options);
        self.options.iter_mut().for_each(|option| *option = state.turn_back(symmetry, option));
        self.values.clear();
        match self.table.get(&filed.note()) {
            Some(known) if known.len() == self.options.len() => self.values.extend_from_slice(known),
            _ => self.values.resize(self.options.len(), f64::NAN),
        }
        let best = self.values.iter().copied().fold(f64::NEG_INFINITY, f64::max);
        let ties = || (0..self.options.len()).filter(|&own| self.values[own].is_nan() || self.values[own] == best);
        let pick = self.chance.below(ties().count());
        let chosen = ties().nth(pick).unwrap_or(0);
        Ok(self.options[chosen].clone())
    }

    fn thoughts(&self) -> Option<Thoughts<G::Action>> {
        let weighed = self.options.iter().zip(&self.values);
        Some(Thoughts::of(weighed.map(|(own, &value)| Weighed::new(own.clone(), value).of_seat(self.seat)).collect()))
    }
}
