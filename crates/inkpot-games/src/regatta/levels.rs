//! The levels that have a name.

use super::chart::Chart;

/// One mark abeam: nothing to learn but the rudder.
pub(crate) fn reach() -> Chart {
    Chart::open([0.0, 0.0], 90.0, &[[150.0, 0.0]])
}

/// Upwind, across and home: every point of sailing.
pub(crate) fn triangle() -> Chart {
    Chart::open([0.0, 0.0], 0.0, &[[0.0, 110.0], [90.0, 55.0], [0.0, 0.0]])
}

/// A mark straight upwind behind a mole that is open towards the start: steering at it ends inside.
pub(crate) fn windward() -> Chart {
    let mole = [[-35.0, 70.0], [-40.0, 110.0], [40.0, 110.0], [35.0, 70.0]];
    Chart { radius_m: 8.0, ..Chart::open([0.0, 0.0], 60.0, &[[0.0, 135.0]]) }.shore(&mole)
}

/// A bending channel with shores on both sides.
pub(crate) fn channel() -> Chart {
    let north = [[-25.0, 16.0], [62.0, 16.0], [112.0, -22.0], [172.0, -22.0], [232.0, 12.0], [310.0, 12.0]];
    let south = [[-25.0, -16.0], [50.0, -16.0], [101.0, -55.0], [180.0, -55.0], [241.0, -21.0], [310.0, -21.0]];
    Chart::open([0.0, 0.0], 90.0, &[[174.0, -38.0], [295.0, -5.0]]).shore(&north).shore(&south)
}

/// Out of a harbour, round an island upwind, and home again.
pub(crate) fn harbour() -> Chart {
    let basin = [[30.0, 45.0], [50.0, 45.0], [50.0, -40.0], [-70.0, -40.0], [-70.0, 45.0], [-10.0, 45.0]];
    let mole = [[-35.0, 75.0], [45.0, 70.0]];
    let island = [[-20.0, 150.0], [25.0, 140.0], [40.0, 170.0], [5.0, 190.0], [-20.0, 150.0]];
    Chart::open(
        [-30.0, -10.0],
        90.0,
        &[[10.0, 45.0], [85.0, 120.0], [10.0, 210.0], [-75.0, 120.0], [10.0, 45.0], [-30.0, -10.0]],
    )
    .shore(&basin)
    .shore(&mole)
    .shore(&island)
}
