//! Tables of values as models of a policy.

use std::collections::HashMap;
use std::sync::Arc;

use inkpot_core::{
    Chance, GaveUp, Imagine, Keyed, Knob, KnobValue, Knobs, Laying, Noted, Options, Seat, Sight, folded,
};

use super::trained::Trained;
use super::{Model, ModelKind, Models};

/// Tables, for a game whose positions are filed: they give the value of every option.
pub fn tables<G>() -> ModelKind<G>
where
    G: Keyed + Noted + Options + Imagine + 'static,
{
    ModelKind {
        about: "plays by a table of values that was learned, position by position",
        file: Knob::file("file", "a table of values (CSV)").help("the table, as a training wrote it"),
        endings: &[".csv"],
        knobs: Vec::new(),
        read: models,
    }
}

fn models<G>(knobs: &Knobs, _laying: &Laying) -> Result<Models<G>, String>
where
    G: Keyed + Noted + Options + Imagine + 'static,
{
    let trained = read(knobs)?;
    Ok(Box::new(move || {
        Box::new(Filed { table: trained.later().clone(), trained: trained.clone(), seat: 0, options: Vec::new() })
    }))
}

/// The values of the options of each position, by its text.
type Values = HashMap<String, Vec<f64>>;

/// Reads the file of the knob `file` at this share of its training; a table without lines knows nothing yet. Errs with
/// the problem.
fn read(knobs: &Knobs) -> Result<Trained<Arc<Values>>, String> {
    let Some(KnobValue::File { file, bytes }) = knobs.get("file") else {
        return Err("the knob `file` names no file".into());
    };
    let wrong = |what: String| format!("`{file}` cannot be used: {what}");
    let mut reader = csv::Reader::from_reader(bytes.0.as_ref());
    let headers = reader.headers().map_err(|_| wrong("it is no table of values (CSV)".into()))?.clone();
    let place = |name: &str| {
        let missing = || wrong(format!("it has no column `{name}`, so it is no table of values"));
        headers.iter().position(|header| header == name).ok_or_else(missing)
    };
    let (position, option, last) = (place("position")?, place("option")?, place("value")?);
    let by = |(place, name): (usize, &str)| Some((name.strip_prefix("value_")?.parse::<f64>().ok()?, place));
    let stages: Vec<(f64, usize)> = headers.iter().enumerate().filter_map(by).collect();
    let columns = Trained::at(knobs.number("training"), &stages, last).map_err(wrong)?;
    let table = |value: usize| {
        let mut reader = csv::Reader::from_reader(bytes.0.as_ref());
        let (mut values, mut row, mut line) = (Values::new(), csv::StringRecord::new(), 1);
        while reader.read_record(&mut row).map_err(|error| wrong(error.to_string()))? {
            line += 1;
            let cell = |place: usize| row.get(place).unwrap_or_default();
            let number = |place: usize| cell(place).parse::<f64>().ok().filter(|x| x.is_finite());
            if value != last && cell(value).is_empty() {
                // It was not known by then.
                continue;
            }
            let (Some(option), Some(value)) = (number(option), number(value)) else {
                return Err(wrong(format!("line {line} has no position, option and value")));
            };
            let known = match values.get_mut(cell(position)) {
                Some(known) => known,
                None => values.entry(cell(position).to_string()).or_default(),
            };
            if option != (known.len() + 1) as f64 {
                return Err(wrong(format!("line {line} is not option {} of its position", known.len() + 1)));
            }
            known.push(value);
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
    /// The options of the position that was judged last.
    options: Vec<A>,
}

impl<G> Model<G> for Filed<G::Action>
where
    G: Keyed + Noted + Options + Imagine,
{
    fn begin(&mut self, seat: Seat, chance: &mut Chance) {
        self.seat = seat;
        self.table = self.trained.of_match(chance).clone();
    }

    fn judge(&mut self, sight: &Sight<'_, G>, chance: &mut Chance, values: &mut Vec<f64>) -> Result<(), GaveUp> {
        let state = sight.imagine(chance).ok_or_else(|| GaveUp::because("nothing can be imagined"))?;
        // Who answers one opponent knows positions as they stand: that may not be the same in those that are alike.
        let symmetry = if self.table.contains_key(&state.note()) { 0 } else { folded(&state).1 };
        let filed = state.turned(symmetry);
        self.options.clear();
        filed.options(self.seat, &mut self.options);
        self.options.iter_mut().for_each(|option| *option = state.turn_back(symmetry, option));
        match self.table.get(&filed.note()) {
            Some(known) if known.len() == self.options.len() => values.extend_from_slice(known),
            _ => values.resize(self.options.len(), f64::NAN),
        }
        Ok(())
    }

    /// Returns a best option, one of equals at random, and any option of an unknown position.
    fn best(&self, values: &[f64], chance: &mut Chance) -> usize {
        let ties = || (0..values.len()).filter(|&option| is_best(values, option));
        let pick = chance.below(ties().count());
        ties().nth(pick).unwrap_or(0)
    }

    fn may_be_best(&self, values: &[f64], option: usize) -> Option<bool> {
        // Between two states of its training, which it plays is drawn for each match.
        self.trained.is_single().then(|| is_best(values, option))
    }

    fn act(&self, _sight: &Sight<'_, G>, option: usize) -> G::Action {
        self.options[option].clone()
    }
}

/// Whether an option is one of the best: of equals, and of those that are not known, any is.
fn is_best(values: &[f64], option: usize) -> bool {
    let best = values.iter().copied().fold(f64::NEG_INFINITY, f64::max);
    values[option].is_nan() || values[option] == best
}
