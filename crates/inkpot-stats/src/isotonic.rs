//! Isotonic regression: the best fit that never falls (or never rises).

/// Least-squares fit of values with equal weights that never decreases (`rising`) or never increases, by pooling
/// adjacent violators (Ayer et al. 1955).
pub fn isotonic(values: &[f64], rising: bool) -> Vec<f64> {
    let sign = if rising { 1.0 } else { -1.0 };
    let mut pools: Vec<(f64, usize)> = Vec::with_capacity(values.len());
    for &value in values {
        let mut pool = (sign * value, 1);
        while let Some(&(mean, count)) = pools.last().filter(|(mean, _)| *mean > pool.0) {
            let total = count + pool.1;
            pool = ((mean * count as f64 + pool.0 * pool.1 as f64) / total as f64, total);
            pools.pop();
        }
        pools.push(pool);
    }
    pools.into_iter().flat_map(|(mean, count)| std::iter::repeat_n(sign * mean, count)).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn violators_are_pooled() {
        assert_eq!(isotonic(&[1.0, 3.0, 2.0, 4.0], true), [1.0, 2.5, 2.5, 4.0]);
        assert_eq!(isotonic(&[3.0, 4.0, 1.0], false), [3.5, 3.5, 1.0]);
        assert_eq!(isotonic(&[3.0, 2.0, 1.0], true), [2.0, 2.0, 2.0]);
    }
}
