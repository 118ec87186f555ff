//! Intervals, differences, curves: pure functions over blocks.
