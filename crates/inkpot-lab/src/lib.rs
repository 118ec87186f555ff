//! Studies. A draft is checked into a plan, a plan is played block by block into a ledger, and the stored rows are
//! summed up; a search proposes plays and learns from them. Nothing here knows the command line; [`Event`]s report
//! progress.

mod chance;
mod checker;
mod combinations;
mod counts;
mod course;
mod draft;
mod equal_cost;
mod event;
mod exploit;
mod figure;
mod figure_tally;
mod film;
mod gaps;
mod jobs;
mod kind;
mod kinds;
mod note;
mod notes;
mod outcomes;
mod pace;
mod place;
mod plan;
mod plan_file;
mod plan_job;
mod planning;
mod pool;
mod portrait;
mod rounds;
mod run;
mod searching;
mod seeks;
mod sitting;
mod stages;
mod standing;
mod stored_rows;
mod study;
mod summary;
mod summing;
mod suspense;
mod tally;
mod turning;
mod work;

pub use checker::find_agent;
pub use counts::{count, counted};
pub use draft::{Draft, EntrantDraft, Problem, VaryRange};
pub use equal_cost::{EqualCost, NODES, equal_cost};
pub use event::Event;
pub use exploit::{Attempt, AttemptDraft, Exploit};
pub use film::{SeatShot, Shot, film};
pub use jobs::{job, search_job};
pub use kinds::batch::{Batch, BatchFinding};
pub use kinds::compare::{
    Compare, CompareDraft, CompareFinding, ComparisonSummary, POWER, Requirement, SmallestDifference, Stored,
    StoredError, Verdict, compare_stored,
};
pub use kinds::evolve::{Evolve, EvolveDraft, Method, NicheDraft, Rivals, RivalsDraft, resolve_evolve};
pub use kinds::fit::{
    Fit, FitDraft, FitError, FitFinding, FitProof, Fitted, FittedColumn, FittedKnob, HumanLog, LoggedMatch, resolve_fit,
};
pub use kinds::found::{
    Aim, AimDraft, Candidate, EvolutionName, GeneDraft, HistoryLine, LearnedOn, LegFound, MapAxis, MapFound,
    MethodDraft, MethodFamily, MethodName, Niche, NicheFound, Paths, Pays, SearchFinding, SearchFound, SearchProof,
    SeedFound, Shape, StoppedBy, SubjectDraft, TargetVerdict, Term, TermDraft, TermFound, TrainingName, Yardstick,
    YardstickDraft, reached_unconfirmed, read_evolution, spent_until,
};
pub use kinds::sweep::{
    CurveFit, CurveSummary, PointDifference, PointSummary, SolvedSummary, Subject, Sweep, SweepDraft, SweepFinding,
    Vary, VaryDraft,
};
pub use kinds::tournament::{
    CirclesSummary, Format, ProgressSummary, RatingSummary, ResidualSummary, RoundSummary, TableSummary, Tournament,
    TournamentDraft, TournamentFinding, TournamentSummary,
};
pub use kinds::train::{Foresight, LearnedGame, Leg, LegDraft, Train, TrainDraft, Training, resolve_train};
pub use kinds::tune::{
    Across, Effect, Found, FoundRung, Free, FreeDraft, FreeRange, HistoryError, Measured, Met, Miss, Next, Player,
    Point, Probe, ProbeCurve, Probed, ProfileDraft, Proof, Rung, RungDraft, Sample, Sheet, SheetAgent, SheetKnob,
    SheetModifiers, SheetProof, SheetRung, SheetValue, Side, Sizes, Target, TargetDraft, Texts, Tune, TuneDraft,
    TuneFinding, TuneSearch, TuneSummary, found, next_values, read_history, resolve_tune, write_history,
};
pub use kinds::{Design, Finding, KindDraft, SearchPlan, StudyKind};
pub use note::{Note, note_names};
pub use pace::Pace;
pub use place::Place;
pub use plan::{Cell, Entrant, Ground, Plan, Variation};
pub use plan_file::{PlanFileError, read_plan, write_plan};
pub use plan_job::PlanJob;
pub use pool::{PoolTable, pool_tables, rate_pool};
pub use portrait::{Portrait, ScoreCourse, Trait, TraitDifference, differing, score_course, score_words};
pub use rounds::{drawn, drawn_as_far};
pub use run::{PlayError, Runner};
pub use searching::{Ask, Results, SearchError, SearchJob, SearchRound, SearchWork, Searching, Watched, search};
pub use seeks::{CheckpointError, Made, Seeks};
pub use sitting::Sitting;
pub use stored_rows::visit_rows;
pub use study::{Basis, StudyDraft, StudyPlan, StudySummary, resolve, summarise};
pub use summary::{EntrantSummary, PairingSummary, PeopleSummary, Summary};
pub use summing::told_measures;
pub use suspense::suspense_of_matches;
pub use turning::{
    Choices, Judged, JudgedCourse, Scored, Turn, TurningPoint, choices_until, follow, judge, score_counts,
    turning_points,
};
pub use work::{Answer, Executor, Fell, Job, Piece, Play, Request, State, Task, Threads, Worker, basis_hash};
