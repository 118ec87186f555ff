//! Figures for targets, read from a match's rows, and the verdict on a target.

use inkpot_core::{GameSheet, MatchRows, Measure, MeasureOf, Seat};
use inkpot_stats::{Interval, Scale};
use serde::{Deserialize, Serialize};

use crate::plan::OF_THE_CELL;

/// A figure of a match between a player and an opponent.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Figure {
    /// The player's points share.
    WinRate,
    /// Share of draws.
    DrawRate,
    /// Score of a side.
    Score(Side),
    /// The player's score less the opponent's.
    ScoreMargin,
    /// Length in seconds, or turns.
    Length,
    /// A measure of a side.
    Measure(usize, Side),
    /// Share of matches that were cut short.
    CutShort,
}

/// Whose figure.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Side {
    /// The player's stand-in.
    #[default]
    Player,
    /// The opponent that is tuned.
    Opponent,
    /// The rules, or the match as a whole.
    Rules,
}

impl Side {
    /// All of them.
    pub const ALL: [Self; 3] = [Self::Opponent, Self::Player, Self::Rules];

    /// Its name in briefs.
    pub fn name(self) -> &'static str {
        match self {
            Self::Player => "player",
            Self::Opponent => "opponent",
            Self::Rules => "rules",
        }
    }
}

/// Number of figures that every game has.
pub(crate) const COMMON_FIGURES: usize = 6;
const COMMON: [&str; COMMON_FIGURES] = ["win_rate", "draw_rate", "score", "score_margin", "length", "cut_short"];

impl Figure {
    /// The figure of this name; errs with all names there are.
    pub(crate) fn find(name: &str, side: Side, sheet: &GameSheet) -> Result<Self, Vec<String>> {
        Ok(match name {
            "win_rate" => Self::WinRate,
            "draw_rate" => Self::DrawRate,
            "score" => Self::Score(side),
            "score_margin" => Self::ScoreMargin,
            "length" => Self::Length,
            "cut_short" => Self::CutShort,
            _ => {
                if let Some(index) = sheet.measures.iter().position(|measure| measure.name == name) {
                    Self::Measure(index, side)
                } else {
                    let measures = sheet.measures.iter().map(|measure| measure.name.clone());
                    return Err(COMMON.map(String::from).into_iter().chain(measures).collect());
                }
            }
        })
    }

    /// Returns the scale of a figure.
    pub(crate) fn scale(self, sheet: &GameSheet) -> Scale {
        match self {
            Self::Measure(index, _) => scale_of(&sheet.measures[index]),
            _ if self.is_rate() => Scale::Share,
            _ => Scale::Any,
        }
    }

    /// Whether it is a share of matches.
    pub(crate) fn is_rate(self) -> bool {
        matches!(self, Self::WinRate | Self::DrawRate | Self::CutShort)
    }

    /// Whether both sides have one of their own.
    pub(crate) fn has_sides(self, sheet: &GameSheet) -> bool {
        match self {
            Self::Score(_) => true,
            Self::Measure(index, _) => sheet.measures[index].of == MeasureOf::Seat,
            _ => false,
        }
    }

    /// Its value in a match of which this is the player's seat.
    pub(crate) fn of(self, played: MatchRows, player: Seat, ticks_per_second: Option<f64>) -> f64 {
        let seats = played.seats();
        let opponent = (player + 1) % seats.len();
        let seat = |side: Side| if side == Side::Opponent { opponent } else { player };
        match self {
            Self::WinRate => played.points(player),
            Self::DrawRate => f64::from(u8::from(seats.iter().filter(|row| row.placement == 1).count() > 1)),
            Self::Score(side) => seats[seat(side)].score,
            Self::ScoreMargin => seats[player].score - seats[opponent].score,
            Self::Length => seats[player].ticks as f64 / ticks_per_second.unwrap_or(1.0),
            Self::Measure(index, side) => played.measures(seat(side))[index],
            Self::CutShort => f64::from(u8::from(seats[player].cut_short)),
        }
    }
}

/// The seat of the player, whom every search seats as entrant 0.
///
/// # Panics
/// When nobody of that number plays.
pub(crate) fn player_seat(played: MatchRows) -> Seat {
    played.seat_of(0).expect(OF_THE_CELL)
}

/// Returns the scale of a measure by its unit; counts have none.
pub(crate) fn scale_of(measure: &Measure) -> Scale {
    match measure.unit.as_str() {
        "" => Scale::Count,
        "share" => Scale::Share,
        _ => Scale::Any,
    }
}

/// The standing of a figure against its target.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize, schemars::JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Met {
    /// The whole interval lies within the target.
    Met,
    /// The whole interval lies outside.
    NotMet,
    /// Neither.
    NotSeparable,
}

impl Met {
    /// Returns the verdict of an interval on a figure that should lie within these ends.
    pub(crate) fn of(interval: &Interval, low: f64, high: f64) -> Self {
        if interval.low >= low && interval.high <= high {
            Self::Met
        } else if interval.high < low || interval.low > high {
            Self::NotMet
        } else {
            Self::NotSeparable
        }
    }

    /// In words.
    pub fn word(self) -> &'static str {
        match self {
            Self::Met => "met",
            Self::NotMet => "not met",
            Self::NotSeparable => "not separable yet",
        }
    }
}

/// The mean of a figure over the matches that have it and are not void.
pub(crate) fn figure_mean<'r>(
    matches: impl Iterator<Item = MatchRows<'r>>,
    mut figure: impl FnMut(MatchRows<'r>) -> f64,
) -> f64 {
    let (mut sum, mut count) = (0.0, 0.0);
    for played in matches.filter(|played| !played.is_void()) {
        let x = figure(played);
        if x.is_finite() {
            sum += x;
            count += 1.0;
        }
    }
    sum / count
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn met_is_the_whole_interval_inside_and_not_met_the_whole_outside() {
        let seen = |low: f64, high: f64| Interval { value: f64::midpoint(low, high), low, high };
        for (interval, expected) in [
            (seen(0.68, 0.72), Met::Met),
            (seen(0.67, 0.73), Met::Met),
            (seen(0.66, 0.70), Met::NotSeparable),
            (seen(0.60, 0.66), Met::NotMet),
            (seen(0.74, 0.76), Met::NotMet),
            (seen(0.50, 0.90), Met::NotSeparable),
        ] {
            assert_eq!(Met::of(&interval, 0.67, 0.73), expected, "{interval:?}");
        }
    }
}
