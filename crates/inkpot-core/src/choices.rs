//! Recorded choices of a seat, run by run, from which a match plays again exactly, even by a person or by the clock.

use serde::Serialize;
use serde::de::DeserializeOwned;

use crate::row::ABANDONED;
use crate::{Agent, Choices, Game, GaveUp, Row, Seat, SeatSet, Sight};

/// Choices, each with the number of its repetitions in a row.
type Runs<A> = Vec<(A, u64)>;

/// The choices of some seats so far.
pub(crate) struct ChoiceLog<A> {
    seats: SeatSet,
    runs: Vec<Runs<A>>,
}

impl<A: Clone + PartialEq> ChoiceLog<A> {
    /// Starts an empty record for these seats.
    pub(crate) fn of(seats: SeatSet) -> Self {
        Self { seats, runs: Vec::new() }
    }

    /// Takes in the choices of a step.
    pub(crate) fn take(&mut self, choices: &Choices<A>, seats: usize) {
        self.runs.resize_with(seats.max(self.runs.len()), Vec::new);
        for (seat, runs) in self.runs.iter_mut().enumerate() {
            let Some(chosen) = choices.get(seat).filter(|_| self.seats.contains(seat)) else { continue };
            match runs.last_mut() {
                Some((last, count)) if last == chosen => *count += 1,
                _ => runs.push((chosen.clone(), 1)),
            }
        }
    }

    /// Returns the choices of a seat as JSON, `[[choice, count], ...]`; none for a seat that is not recorded.
    pub(crate) fn written(&self, seat: Seat) -> Option<String>
    where
        A: Serialize,
    {
        let none = Vec::new();
        let runs = self.runs.get(seat).unwrap_or(&none);
        self.seats.contains(seat).then(|| serde_json::to_string(runs).ok())?
    }
}

/// The choices of a match by seat, as its rows keep them; none of a seat that plays for itself.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Record {
    seats: Vec<Option<String>>,
    /// The tick at which a person left the match.
    left_at: Option<u64>,
}

impl Record {
    /// Reads the records in a match's rows.
    pub fn of(rows: &[Row]) -> Self {
        let left = rows.first().filter(|row| row.ending == ABANDONED);
        Self { seats: rows.iter().map(|row| row.choices.clone()).collect(), left_at: left.map(|row| row.ticks) }
    }

    /// The tick at which a person left the match, if one did.
    pub(crate) fn left_at(&self) -> Option<u64> {
        self.left_at
    }

    /// Whether any seat is played by record.
    pub fn is_any(&self) -> bool {
        self.seats.iter().any(Option::is_some)
    }

    /// Whether a seat is played by record.
    pub fn has(&self, seat: Seat) -> bool {
        self.text(seat).is_some()
    }

    fn text(&self, seat: Seat) -> Option<&String> {
        self.seats.get(seat)?.as_ref()
    }

    /// Builds the player of a seat's record, if there is one. Errs if the record cannot be read.
    pub(crate) fn player<G>(&self, seat: Seat) -> Result<Option<Box<dyn Agent<G>>>, String>
    where
        G: Game<Action: DeserializeOwned> + 'static,
    {
        let Some(text) = self.text(seat) else { return Ok(None) };
        let runs: Runs<G::Action> = serde_json::from_str(text)
            .map_err(|error| format!("the choices of seat {seat} cannot be read: {error}"))?;
        Ok(Some(Box::new(Recorded { runs, at: 0, done: 0 })))
    }
}

/// Plays recorded choices.
struct Recorded<A> {
    runs: Runs<A>,
    at: usize,
    /// Repetitions of this run that were played.
    done: u64,
}

impl<G: Game> Agent<G> for Recorded<G::Action> {
    fn choose(&mut self, _sight: &Sight<'_, G>) -> Result<G::Action, GaveUp> {
        while self.runs.get(self.at).is_some_and(|(_, count)| self.done >= *count) {
            (self.at, self.done) = (self.at + 1, 0);
        }
        self.done += 1;
        let (choice, _) = self.runs.get(self.at).ok_or_else(|| GaveUp::because("its record ends here"))?;
        Ok(choice.clone())
    }
}

/// The kind of agent that stands for a person: it sits down where somebody else decides.
pub const HAND: &str = "hand";

/// Sits where somebody else decides.
pub(crate) struct Outside;

impl<G: Game> Agent<G> for Outside {
    fn choose(&mut self, _sight: &Sight<'_, G>) -> Result<G::Action, GaveUp> {
        Err(GaveUp::because("its seat is decided from outside"))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn equal_choices_in_a_row_are_one_run() {
        let mut log = ChoiceLog::of(SeatSet::from_iter([1]));
        for choice in [3, 3, 3, 5, 3] {
            let mut choices = Choices::none(2);
            choices.set(0, 9);
            choices.set(1, choice);
            log.take(&choices, 2);
        }
        assert_eq!(log.written(1).as_deref(), Some("[[3,3],[5,1],[3,1]]"));
        assert_eq!(log.written(0), None, "nobody asked for those of seat 0");
    }
}
