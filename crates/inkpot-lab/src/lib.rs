//! Studies: a draft is checked into a plan, a plan is played block by block into a ledger, and the stored rows are
//! summed up. Nothing here knows the command line; what happens is told by [`Event`]s.

mod comparison;
mod curve;
mod draft;
mod event;
mod fit;
mod in_order;
mod matching;
mod notes;
mod outcomes;
mod plan;
mod points;
mod prints;
mod ranking;
mod resolve;
mod run;
mod schedule;
mod standing;
mod stored;
mod summary;
mod suspense;
mod tally;
mod tune;
mod watch;

pub use comparison::{ComparisonSummary, POWER};
pub use draft::{Draft, EntrantDraft, Format, Problem, Requirement, StudyKind, VaryDraft, VaryRange};
pub use event::Event;
pub use fit::{FitError, FitPlan, Fitted, FittedColumn, FittedKnob, HumanLog, LoggedMatch, fit_standin};
pub use plan::{Cell, Comparison, Entrant, Plan, Subject, Vary};
pub use ranking::{
    CirclesSummary, ProgressSummary, RatingSummary, ResidualSummary, RoundSummary, TableSummary, TournamentSummary,
};
pub use resolve::{find_agent, resolve};
pub use run::{Runner, Sitting};
pub use schedule::Tournament;
pub use standing::drawn;
pub use stored::{Stored, StoredError, compare_stored};
pub use summary::{
    CurveSummary, EntrantSummary, Fit, PairingSummary, PeopleSummary, PointDifference, PointSummary, SolvedSummary,
    Summary, summarise, told_measures,
};
pub use tune::{
    Across, CurveSeen, Effect, Found, FoundRung, Free, FreeDraft, FreeRange, HistoryError, Met, Miss, Next, Player,
    Point, ProfileDraft, Proof, Rung, RungDraft, SearchRound, Seen, Sheet, SheetAgent, SheetKnob, SheetMeasured,
    SheetModifiers, SheetProof, SheetRung, SheetTarget, Side, Sizes, Target, TargetDraft, Texts, Trial, Tried, Tune,
    TuneDraft, TuneSummary, found, next_values, rate_target, read_history, resolve_tune, search, write_history,
};
pub use watch::Verdict;
