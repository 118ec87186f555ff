//! The figures by name, as they are typed.

use clap::ValueEnum;

/// The figures by name.
#[derive(ValueEnum, Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Name {
    /// Win rates with intervals, best first
    Rates,
    /// Who beats whom
    Matrix,
    /// Win rate over a knob, with curve and target
    Response,
    /// Win rate over two knobs
    Surface,
    /// How the scores are distributed
    Scores,
    /// How the lengths of the matches are distributed
    Lengths,
    /// Measures side by side
    Measures,
    /// Win rate or rating against the states that a decision advances
    Cost,
    /// Win rate or rating against the time of a decision
    Times,
    /// Ratings with intervals, best first
    Ratings,
    /// Where pairs differ from what ratings predict
    Residuals,
    /// Ratings round by round
    Rounds,
    /// The running interval of a comparison
    Running,
    /// The targets of each rung, and what was proved
    Ladder,
    /// The search for one knob
    Aim,
    /// How a search gets on, by matches
    Learning,
    /// How a search gets on where it learns, and on levels that are held back
    HeldBack,
    /// What the fitness of the best is made of, over a search
    Terms,
    /// How often each option was taken while it learned
    Shares,
    /// The free knobs of the best, over a search
    Knobs,
    /// Where the champion goes on the level, over where the last generation was, or where it went while it learned
    Paths,
    /// The niches of a map of elites, and what fills them
    Niches,
    /// Two targets against each other, and how much of both is possible
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
