//! Figures as SVG and PNG: plain data in, bytes out. The same input gives the same bytes.
//!
//! Every figure is a function from its data to a [`Drawing`]; PNG is rendered from that same SVG.

mod axis;
mod canvas;
mod cost;
mod distribution;
mod drawing;
mod font;
mod forest;
mod frame;
mod matrix;
mod measures;
mod options;
mod palette;
mod rates;
mod response;
mod rounds;
mod running;
mod surface;

pub use cost::{Cost, CostMark, Strength};
pub use distribution::{Distribution, Group};
pub use drawing::{Drawing, DrawingError};
pub use forest::{Forest, ForestRow};
pub use frame::{Estimate, Words};
pub use matrix::{Matrix, MatrixOf};
pub use measures::{Measures, Panel, PanelMark};
pub use options::{OptionRow, OptionValues};
pub use rates::{Rates, RatesRow};
pub use response::{Answer, Response, ResponsePoint};
pub use rounds::{Rounds, RoundsLine};
pub use running::Running;
pub use surface::Surface;
