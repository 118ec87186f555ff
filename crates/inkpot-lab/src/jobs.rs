//! Jobs from their bases.

use inkpot_core::{GameEntry, Halt};

use crate::plan_job::PlanJob;
use crate::searching::SearchJob;
use crate::study::Basis;
use crate::work::Job;
use crate::{CheckpointError, SearchPlan};

/// Builds the job of a search at its game. Errs if the work does not fit the search.
pub fn search_job<'a>(
    search: &'a SearchPlan,
    game: &'a dyn GameEntry,
    halt: &'a Halt,
) -> Result<SearchJob<'a>, CheckpointError> {
    let basis = Basis::Search(std::borrow::Cow::Borrowed(search)).text();
    Ok(SearchJob::new(search.as_search().work(game)?, game, halt, basis))
}

/// Builds the job of this basis at its game; unfinished work stops once `halt` is called. Errs if it makes no sense.
pub fn job<'a>(
    basis: &'a Basis<'_>,
    game: &'a dyn GameEntry,
    halt: &'a Halt,
) -> Result<Box<dyn Job + 'a>, CheckpointError> {
    Ok(match basis {
        Basis::Plan(plan) => Box::new(PlanJob::new(plan, game, halt)),
        Basis::Search(search) => Box::new(search_job(search, game, halt)?),
    })
}
