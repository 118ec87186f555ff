//! Made-up matches for simulations.

/// A made-up match: points from a uniform number, mean `rate`, a share of draws as large as asked for and possible.
pub(crate) fn points(u: f64, rate: f64, draws: f64) -> f64 {
    let drawn = draws * 2.0 * rate.min(1.0 - rate);
    let won = rate - drawn / 2.0;
    if u < won {
        1.0
    } else if u < won + drawn {
        0.5
    } else {
        0.0
    }
}
