//! Points of a placement.

use std::cmp::Ordering;

/// Returns the points share of the `who`-th of a table from all placements; `placement` is its own.
pub fn points_share(placements: impl ExactSizeIterator<Item = u16>, who: usize, placement: u16) -> f64 {
    let opponents = placements.len().saturating_sub(1).max(1) as f64;
    let points =
        placements.enumerate().filter(|(other, _)| *other != who).map(|(_, place)| match placement.cmp(&place) {
            Ordering::Less => 1.0,
            Ordering::Equal => 0.5,
            Ordering::Greater => 0.0,
        });
    points.sum::<f64>() / opponents
}

#[cfg(test)]
mod tests {
    use super::*;

    fn shares(placements: &[u16]) -> Vec<f64> {
        let share = |(who, placement): (usize, &u16)| points_share(placements.iter().copied(), who, *placement);
        placements.iter().enumerate().map(share).collect()
    }

    #[test]
    fn points_share_counts_opponents_placed_behind_with_ties_half() {
        assert_eq!(shares(&[1, 2]), [1.0, 0.0]);
        assert_eq!(shares(&[1, 1]), [0.5, 0.5]);
        assert_eq!(shares(&[3, 1, 1]), [0.0, 0.75, 0.75]);
        assert_eq!(shares(&[1]), [0.0]);
    }
}
