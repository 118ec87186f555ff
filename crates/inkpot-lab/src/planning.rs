//! Builds the plan of a draft, for every kind of study.

use inkpot_core::Registry;

use crate::checker::{Checker, Grounds};
use crate::kind::Kind;
use crate::{Draft, Entrant, Plan, Problem};

/// The methods of a kind that the common steps call.
pub(crate) struct Planning<'a, K> {
    /// Its name, as in "a tournament has no series".
    pub(crate) name: &'static str,
    /// Matches a cell where the draft says nothing.
    pub(crate) matches: u64,
    /// Checks the request of the kind, given the entrants.
    pub(crate) check: &'a dyn Fn(&mut Checker, &[Entrant]) -> K,
    /// The design as a kind.
    pub(crate) kind: fn(&K) -> &dyn Kind,
}

/// Matches a cell where neither draft nor kind says anything else.
pub(crate) const MATCHES: u64 = 400;

/// Checks a draft against the registry. Errs with everything that is wrong with it.
pub(crate) fn planned<K>(
    draft: &Draft,
    registry: &Registry,
    planning: &Planning<K>,
) -> Result<(Plan, K), Vec<Problem>> {
    let mut checker = Checker::at(&draft.game, registry)?;
    let ground = checker.ground(&Grounds::of(draft));
    let entrants = checker.entrants(draft);
    let design = (planning.check)(&mut checker, &entrants);
    let kind = (planning.kind)(&design);
    let seats = kind.seats(&mut checker, draft.seats, entrants.len());
    let matches = checker.matches(draft, planning.matches);
    if let Some(frame) = draft.frame_ms.filter(|frame| !(*frame > 0.0 && frame.is_finite())) {
        checker.problem(
            "frame_ms",
            format!("a frame cannot last {frame} ms"),
            "it must be a number above 0, as in 16.7",
        );
    }
    if checker.count() > 0 {
        return Err(checker.found());
    }
    let mut plan = Plan {
        ground,
        seats: seats as u64,
        matches,
        blocks: matches.div_ceil(seats as u64),
        entrants,
        frame_ms: draft.frame_ms,
        record: draft.record,
        rounds: Vec::new(),
        cells: Vec::new(),
    };
    kind.lay_out(&mut plan, &mut checker);
    checker.stages(&plan);
    checker.series(&plan);
    if plan.ground.series.is_some() && !kind.has_series() {
        checker.problem(
            "series",
            format!("a {} has no series", planning.name),
            "use it in a batch, a sweep or a tuning",
        );
    }
    plan.blocks = matches.div_ceil(plan.matches_a_block().max(1));
    if checker.count() == 0 { Ok((plan, design)) } else { Err(checker.found()) }
}
