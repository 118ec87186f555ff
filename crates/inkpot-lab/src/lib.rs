//! Studies: a draft is checked into a plan, a plan is played block by block into a ledger, and the stored rows are
//! summed up; a search proposes what to play and learns from it. Nothing here knows the command line; what happens is
//! told by [`Event`]s.

mod chance;
mod combinations;
mod course;
mod draft;
mod event;
mod exploit;
mod figure;
mod figure_tally;
mod film;
mod gaps;
mod in_order;
mod kinds;
mod notes;
mod outcomes;
mod pace;
mod place;
mod plan;
mod plan_file;
mod pool;
mod resolve;
mod run;
mod searching;
mod stages;
mod summary;
mod suspense;
mod tally;

pub use draft::{Draft, EntrantDraft, Problem, VaryRange};
pub use event::Event;
pub use exploit::{Attempt, AttemptDraft, Exploit};
pub use film::{SeatShot, Shot, film};
pub use in_order::Fell;
pub use kinds::batch::{Batch, BatchFinding};
pub use kinds::compare::{
    Compare, CompareDraft, CompareFinding, ComparisonSummary, POWER, Requirement, Stored, StoredError, Verdict,
    compare_stored,
};
pub use kinds::evolve::{
    EvolutionName, Evolve, EvolveDraft, MapAxis, MapFound, Method, NicheDraft, NicheFound, Rivals, RivalsDraft,
    resolve_evolve,
};
pub use kinds::fit::{
    Fit, FitDraft, FitError, FitFinding, FitProof, Fitted, FittedColumn, FittedKnob, HumanLog, LoggedMatch, resolve_fit,
};
pub use kinds::found::{
    Aim, AimDraft, Candidate, GeneDraft, HistoryLine, LearnedOn, LegFound, MethodDraft, MethodName, Niche, Paths, Pays,
    SearchFinding, SearchFound, SearchProof, SeedFound, Shape, StoppedBy, SubjectDraft, Term, TermDraft, TermFound,
    Yardstick, YardstickDraft, compare_spent, read_evolution, spent_until,
};
pub use kinds::sweep::{
    CurveFit, CurveSummary, PointDifference, PointSummary, SolvedSummary, Subject, Sweep, SweepDraft, SweepFinding,
    Vary, VaryDraft,
};
pub use kinds::tournament::{
    CirclesSummary, Format, ProgressSummary, RatingSummary, ResidualSummary, RoundSummary, TableSummary, Tournament,
    TournamentDraft, TournamentFinding, TournamentSummary, drawn, drawn_as_far,
};
pub use kinds::train::{Leg, LegDraft, Train, TrainDraft, Training, TrainingName, resolve_train};
pub use kinds::tune::{
    Across, CurveSeen, Effect, Found, FoundRung, Free, FreeDraft, FreeRange, HistoryError, Measured, Met, Miss, Next,
    Player, Point, Probe, Probed, ProfileDraft, Proof, Rung, RungDraft, Seen, Sheet, SheetAgent, SheetKnob,
    SheetModifiers, SheetProof, SheetRung, SheetValue, Side, Sizes, Target, TargetDraft, Texts, Tune, TuneDraft,
    TuneFinding, TuneSearch, TuneSummary, found, next_values, read_history, resolve_tune, write_history,
};
pub use kinds::{Asked, CheckpointError, Design, Finding, Made, Seeks, Sought, StudyKind};
pub use pace::Pace;
pub use place::Place;
pub use plan::{Cell, CellOwn, Entrant, Ground, Plan};
pub use plan_file::{PlanFileError, read_plan, write_plan};
pub use pool::{PoolTable, pool_tables, rate_pool};
pub use resolve::{find_agent, resolve};
pub use run::{PlayError, Runner, Sitting};
pub use searching::{Ask, Play, Results, SearchError, SearchRound, Searching, Watched, search};
pub use summary::{EntrantSummary, PairingSummary, PeopleSummary, Summary, summarise, told_measures};
pub use suspense::suspense_of_matches;
