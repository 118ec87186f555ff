//! A target: the same in a tuning, on a sheet, and with its measurement.

use inkpot_core::GameSheet;
use inkpot_stats::Interval;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::figure::{Figure, Met, Side};

/// A target with its measurement.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Target {
    /// The figure.
    pub figure: String,
    /// Whose.
    #[serde(default)]
    pub side: Side,
    /// Least that is wanted; none if there is no least.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub from: Option<f64>,
    /// Most that is wanted.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub to: Option<f64>,
    /// The value that was aimed at, where one was.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub value: Option<f64>,
    /// The margin within which that still counts as met.
    #[serde(default, rename = "within", skip_serializing_if = "Option::is_none")]
    pub value_within: Option<f64>,
    /// The weight.
    pub weight: f64,
    /// Whether the sheet fails without it.
    pub hard: bool,
    /// The measurement of the proof.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub measured: Option<Measured>,
}

/// The measured value of a target.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Measured {
    /// The figure.
    pub value: f64,
    /// Lower end of its interval.
    pub low: f64,
    /// Upper end.
    pub high: f64,
    /// The verdict on the target: met, not met, or not separable yet.
    pub verdict: Met,
}

impl Measured {
    /// The interval.
    pub fn interval(&self) -> Interval {
        Interval { value: self.value, low: self.low, high: self.high }
    }
}

impl Target {
    /// A hard target of one win rate.
    pub fn rate(value: f64, within: f64) -> Self {
        Self {
            figure: "win_rate".into(),
            side: Side::Player,
            from: Some(value - within),
            to: Some(value + within),
            value: Some(value),
            value_within: Some(within),
            weight: 1.0,
            hard: true,
            measured: None,
        }
    }

    /// Its figure; none where the game no longer has it.
    pub(crate) fn of(&self, sheet: &GameSheet) -> Option<Figure> {
        Figure::find(&self.figure, self.side, sheet).ok()
    }

    /// Its name with its side, where both have one: `opponent.reversals_per_s`.
    pub fn full_name(&self) -> String {
        if self.side == Side::Opponent { format!("opponent.{}", self.figure) } else { self.figure.clone() }
    }

    /// Least that is wanted; minus infinity where that is open.
    pub fn low(&self) -> f64 {
        self.from.unwrap_or(f64::NEG_INFINITY)
    }

    /// Most that is wanted; infinity where that is open.
    pub fn high(&self) -> f64 {
        self.to.unwrap_or(f64::INFINITY)
    }

    /// Both.
    pub fn ends(&self) -> (f64, f64) {
        (self.low(), self.high())
    }

    /// The margin within which a figure still counts as met: half the width of a range; of one with an open end a tenth
    /// of the other end.
    pub fn within(&self) -> f64 {
        let half = (self.high() - self.low()) / 2.0;
        if half.is_finite() && half > 0.0 {
            return half;
        }
        let end = self.from.unwrap_or(self.high());
        (0.1 * end.abs()).max(1e-3)
    }

    /// The margin within which its value still counts as met; sheets of the first releases say only where that ends.
    pub fn given_within(&self) -> Option<f64> {
        self.value.map(|value| self.value_within.unwrap_or_else(|| self.high() - value))
    }

    /// Whether it is a share of matches.
    pub fn is_rate(&self) -> bool {
        matches!(self.figure.as_str(), "win_rate" | "draw_rate")
    }

    /// Sets the measurement and the verdict.
    pub(crate) fn measured(&mut self, interval: Option<Interval>) {
        let (low, high) = self.ends();
        self.measured = interval.map(|interval| Measured {
            value: interval.value,
            low: interval.low,
            high: interval.high,
            verdict: Met::of(&interval, low, high),
        });
    }
}
