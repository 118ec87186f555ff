//! A figure fitted on a study, with the error of the fit: by leaving out blocks, a group at a time.

use crate::Interval;
use crate::interval::t_quantile;

/// The figure `whole` of all groups and those with each group left out, as an interval; none of fewer than two groups.
///
/// Value: `g whole - (g - 1) mean`, free of bias of the order of 1 / g (Quenouille 1956). Variance: `(g - 1) / g` times
/// the sum of squares around the mean, with Student's t (Tukey 1958; it errs on the wide side, Efron & Stein 1981).
pub fn jackknife(whole: f64, left_out: &[f64], confidence: f64) -> Option<Interval> {
    let g = left_out.len() as f64;
    if g < 2.0 {
        return None;
    }
    let mean = left_out.iter().sum::<f64>() / g;
    let variance = (g - 1.0) / g * left_out.iter().map(|x| (x - mean).powi(2)).sum::<f64>();
    let value = g * whole - (g - 1.0) * mean;
    let margin = t_quantile(f64::midpoint(1.0, confidence), g - 1.0) * variance.sqrt();
    Some(Interval { value, low: value - margin, high: value + margin })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn of_a_mean_it_is_the_t_interval() {
        // 2, 4, 4, 4, 5, 5, 7, 9: mean 5, variance of the mean 32 / 7 / 8, t(7) = 2.364624.
        let all = [2.0, 4.0, 4.0, 4.0, 5.0, 5.0, 7.0, 9.0];
        let without: Vec<f64> = all.iter().map(|x| (40.0 - x) / 7.0).collect();
        let interval = jackknife(5.0, &without, 0.95).unwrap();
        assert!((interval.value - 5.0).abs() < 1e-12);
        assert!((interval.half_width() - 2.364_624 * (32.0f64 / 7.0 / 8.0).sqrt()).abs() < 1e-5, "{interval:?}");
    }

    #[test]
    fn the_bias_of_a_square_is_taken_off() {
        // The square of a mean is too large by its variance: 25 less 32 / 7 / 8.
        let all = [2.0, 4.0, 4.0, 4.0, 5.0, 5.0, 7.0, 9.0];
        let without: Vec<f64> = all.iter().map(|x| ((40.0 - x) / 7.0f64).powi(2)).collect();
        let interval = jackknife(25.0, &without, 0.95).unwrap();
        assert!((interval.value - (25.0 - 32.0 / 56.0)).abs() < 1e-9, "{interval:?}");
    }
}
