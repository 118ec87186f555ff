//! A tournament: a field that is ranked.

mod asked;
mod finding;
mod kind;
mod matching;
mod ranking;
mod schedule;

pub(crate) use ranking::meetings_of;

pub use asked::{Format, Tournament, TournamentDraft};
pub use finding::{
    CirclesSummary, ProgressSummary, RatingSummary, ResidualSummary, RoundSummary, TableSummary, TournamentFinding,
    TournamentSummary,
};
