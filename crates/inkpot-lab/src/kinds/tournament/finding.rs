//! The finding of a tournament: ratings, their residuals and circles, and their course round by round.

use inkpot_stats::Interval;
use serde::{Deserialize, Serialize};

use super::asked::Format;
use crate::counts::count;
use crate::note::Note;

/// The finding of a tournament, beside the summary that all studies share.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct TournamentFinding {
    /// The field, best first.
    pub ratings: Vec<RatingSummary>,
    /// The summary beside the ratings.
    pub tournament: TournamentSummary,
}

/// An entrant of a tournament, best first.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[expect(missing_docs, reason = "the fields are named after the figures they carry")]
pub struct RatingSummary {
    pub name: String,
    /// Points above the field's mean, or above the anchor; none with fewer than two blocks.
    pub rating: Option<Interval>,
    /// Points share over all it played.
    pub points_share: Option<f64>,
    /// Probability that it is stronger than the next.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stronger_than_next: Option<f64>,
    /// Rating points above the next.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub above_next: Option<Interval>,
    /// The budget of its search for a decision, as its knob says.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub budget: Option<String>,
    /// The place in a knockout: 1 won it, 2 lost the last round, 3 the one before.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub placement: Option<usize>,
}

/// The summary of a tournament beside its ratings.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct TournamentSummary {
    /// The format, which decides the pairings.
    pub format: Format,
    /// The entrant whose rating is 0; else the mean is.
    pub anchor: Option<String>,
    /// Tables by round, where they were drawn from results.
    pub rounds: Vec<RoundSummary>,
    /// Rating points that sitting first is worth above sitting elsewhere.
    pub first_seat: Option<Interval>,
    /// Parts of the field that never met; between them ratings say nothing.
    pub groups: usize,
    /// Strength that goes round in circles.
    pub circles: CirclesSummary,
    /// The pairs that the ratings describe worst.
    pub residuals: Vec<ResidualSummary>,
    /// Ratings after some of the rounds, in the order of the entrants.
    pub progress: Vec<ProgressSummary>,
}

/// A round: its tables and the entrants that sat out.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[expect(missing_docs, reason = "the fields are named after what they carry")]
pub struct RoundSummary {
    pub tables: Vec<TableSummary>,
    pub sitting_out: Vec<String>,
}

/// A table: its entrants, the points share of each, and in a knockout those that went on.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[expect(missing_docs, reason = "the fields are named after what they carry")]
pub struct TableSummary {
    pub entrants: Vec<String>,
    pub points: Vec<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub through: Option<String>,
    /// Whether only the better seed decided the winner.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub by_seed: bool,
}

/// Threes that each clearly beat the next, round in a circle.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct CirclesSummary {
    /// The number of circles.
    #[serde(rename = "seen")]
    pub count: u64,
    /// The number that chance alone would give, were ratings the whole story.
    pub by_chance: f64,
    /// Probability of as many by chance.
    pub p: f64,
    /// Threes of which all pairs are separable.
    pub threes: u64,
    /// The clearest, each in the order of wins.
    pub clearest: Vec<Vec<String>>,
}

/// A pair against the ratings' expectation.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[expect(missing_docs, reason = "two names, the share of the first, the share expected, and a p-value after Holm")]
pub struct ResidualSummary {
    pub a: String,
    pub b: String,
    #[serde(rename = "seen")]
    pub share: Interval,
    pub expected: f64,
    pub p_adjusted: f64,
}

/// Ratings after a round.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[expect(missing_docs, reason = "the round, from 1 up, and the ratings in the order of the entrants")]
pub struct ProgressSummary {
    pub round: usize,
    pub ratings: Vec<Option<Interval>>,
}

/// The number of entrants or tables named in one note.
const NAMED: usize = 3;

/// Returns the notes on facts that ratings hide.
pub(super) fn notes(tournament: &TournamentSummary, unlikely: f64) -> Vec<String> {
    let mut notes = Vec::new();
    if tournament.groups > 1 {
        notes.push(Note::Groups.says(format!(
            "the field falls into {} groups that never met, so ratings do not compare them; play more rounds",
            tournament.groups
        )));
    }
    let circles = &tournament.circles;
    if circles.count > 0 && circles.p < unlikely {
        let named: Vec<String> = circles
            .clearest
            .iter()
            .take(1)
            .map(|three| format!("{} beats {}", three.join(" beats "), three[0]))
            .collect();
        notes.push(Note::Circles.says(format!(
            "strength goes in circles, so ratings do not say who beats whom: {}. Circles make up {} of {} separable threes; \
             chance alone would give {:.1}",
            named.join(""),
            count(circles.count),
            count(circles.threes),
            circles.by_chance
        )));
    }
    let level: Vec<String> = tournament
        .rounds
        .iter()
        .flat_map(|round| &round.tables)
        .filter(|table| table.by_seed)
        .filter_map(|table| Some(format!("`{}`", table.through.as_ref()?)))
        .collect();
    if !level.is_empty() {
        let more = if level.len() > NAMED { format!(" and {} more", level.len() - NAMED) } else { String::new() };
        notes.push(Note::Seeding.says(format!(
            "these were level after every match and went through as the better seed: {}{more}",
            level[..level.len().min(NAMED)].join(", ")
        )));
    }
    notes
}
