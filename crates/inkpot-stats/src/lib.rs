//! Intervals, differences and response curves: pure functions over blocks.
//!
//! The unit of statistics is the block (one world, played once for each rotation of the seats): matches in a block are
//! correlated, blocks are independent. Every function says its formula and source.

mod difference;
mod interval;
mod isotonic;
mod logistic;
mod mean;
mod resample;
mod response;
mod win_rate;

pub use difference::{Difference, holm, paired_difference};
pub use interval::Interval;
pub use isotonic::isotonic;
pub use logistic::{CurvePoint, LapseLogistic};
pub use mean::Moments;
pub use resample::{BlockTable, Draws};
pub use response::{Model, Response, ResponseError, Solved};
pub use win_rate::BlockRates;
