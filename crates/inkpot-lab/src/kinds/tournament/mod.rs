//! A tournament: a field that is ranked.
//!
//! A plan knows how many tables each round has. It draws who sits there from the stored rows of the rounds before and the study's seed, so a killed tournament
//! draws the same tables again. The rounds of a round robin share their blocks; those of other formats have blocks of their own (`Cell::first_block`).

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
