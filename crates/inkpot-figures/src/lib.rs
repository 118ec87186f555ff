//! Figures as SVG and PNG: plain data in, bytes out. The same input gives the same bytes.
//!
//! Every figure is a function from its data to a [`Drawing`]; PNG is rendered from that same SVG.

mod aim;
mod axis;
mod canvas;
mod cost;
mod distribution;
mod drawing;
mod font;
mod forest;
mod frame;
mod front;
mod grid;
mod ladder;
mod learning;
mod matrix;
mod measures;
mod options;
mod page;
mod palette;
mod paths;
mod rates;
mod repetitions;
mod replay;
mod response;
mod rounds;
mod running;
mod scene;
mod surface;
mod traces;

pub use aim::{Aim, AimLine};
pub use cost::{Cost, CostMark, CostOf, Strength};
pub use distribution::{Distribution, Group};
pub use drawing::{Drawing, DrawingError, Hotspot};
pub use forest::{Forest, ForestRow};
pub use frame::{Estimate, Words};
pub use front::{Front, FrontAxis, FrontMark};
pub use ladder::{Ladder, LadderPanel, LadderRow};
pub use learning::{Learning, LearningSearch};
pub use matrix::{Matrix, MatrixOf};
pub use measures::{Measures, Panel, PanelMark};
pub use options::{OptionRow, OptionValues};
pub use page::{Figure as PageFigure, Page, PageTable, Section, TableCell, TableRow};
pub use paths::{Paths, PathsShape};
pub use rates::{Rates, RatesRow};
pub use repetitions::quartiles;
pub use replay::{About, AboutSeat, End, Film, Frame, FrameSeat, Mind, MindOption, ReplayPage};
pub use response::{Answer, Response, ResponsePoint};
pub use rounds::{Rounds, RoundsLine};
pub use running::Running;
pub use scene::{Paint, Shape, Still};
pub use surface::Surface;
pub use traces::{Traces, TracesPanel};
