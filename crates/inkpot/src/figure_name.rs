//! The figures by name, as they are typed.

use clap::ValueEnum;

/// The figures by name.
#[derive(ValueEnum, Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Name {
    /// Win rates with intervals, best first
    Rates,
    /// Win rate of each pair
    Matrix,
    /// Win rate over a knob, with curve and target
    Response,
    /// Win rate over two knobs
    Surface,
    /// Distribution of the scores
    Scores,
    /// Distribution of the match lengths
    Lengths,
    /// Measures side by side
    Measures,
    /// Win rate or rating against the states that a decision advances
    Cost,
    /// Win rate or rating against the time of a decision
    Times,
    /// Ratings with intervals, best first
    Ratings,
    /// Differences between pairs and what ratings predict
    Residuals,
    /// Ratings round by round
    Rounds,
    /// The running interval of a comparison
    Running,
    /// The targets of each rung, and what was proved
    Ladder,
    /// The search for one knob
    Aim,
    /// Learning curves of a search
    Learning,
    /// Learning curves on the yardstick and on levels held back
    HeldBack,
    /// Terms of the best candidate's fitness, over a search
    Terms,
    /// Share of each option, over a training
    Shares,
    /// Free knobs of the best candidate, over a search
    Knobs,
    /// The champion's paths over those of the last generation, or of the training
    Paths,
    /// Niches of a map of elites, with the elites' win rates
    Niches,
    /// Two targets against each other, over all probes
    Front,
}

impl Name {
    pub(crate) fn word(self) -> String {
        self.to_possible_value().map(|value| value.get_name().to_string()).unwrap_or_default()
    }

    /// Whether it is drawn from the rows rather than from the summary.
    pub(crate) fn is_spread(self) -> bool {
        matches!(self, Self::Scores | Self::Lengths)
    }
}
