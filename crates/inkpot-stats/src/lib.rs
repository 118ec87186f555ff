//! Intervals, differences, ratings, confidence sequences and response curves: pure functions over blocks.
//!
//! The unit of statistics is the block (one world, played once for each rotation of the seats): matches in a block are
//! correlated, blocks are independent. Every function says its formula and source.

mod difference;
mod field;
mod interval;
mod jackknife;
mod likelihood;
mod local;
mod logistic;
mod logit;
mod mean;
mod pairs;
mod people;
mod quadratic;
mod ratings;
mod repetitions;
mod resample;
mod response;
mod sequence;
mod spent;
mod surrogate;
mod win_rate;

pub use difference::{Difference, holm, mean_difference, paired_difference, unpaired_difference};
pub use field::{FieldSize, POINTS, PRIOR_MATCHES};
pub use interval::{Interval, hotelling_above, normal_density, normal_share, student_quantile};
pub use jackknife::jackknife;
pub use local::{Crossings, LocalCurve, Measured, Solved};
pub use logistic::{CurvePoint, LapseLogistic};
pub use logit::Logit;
pub use mean::{FEWEST_BLOCKS, Mean, Moments, Scale};
pub use pairs::{Cycles, Pair, cycles};
pub use people::{HOPELESS, IDLE, People, PeopleFigures};
pub use quadratic::Quadratic;
pub use ratings::{Meeting, Ratings};
pub use repetitions::{FEWEST_FOR_OUTLIER, OverRepetitions, left_behind};
pub use resample::{BlockTable, Draws};
pub use response::{Model, Outcome, Response, ResponseError, Solution, Turn};
pub use sequence::{Sequence, fixed_blocks};
pub use spent::{Spent, SpentRatio, bounds_ratio, median_spent, spent_ratio};
pub use surrogate::Surrogate;
pub use win_rate::BlockRates;
