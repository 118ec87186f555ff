//! Choices of some out of many.

/// Number of ways to choose `k` of `n`; the largest number where there are more.
pub(crate) fn choose(n: usize, k: usize) -> usize {
    if k > n {
        return 0;
    }
    // Each step is a whole number of ways.
    let step = |ways: usize, i: usize| Some(ways.checked_mul(n - i)? / (i + 1));
    (0..k.min(n - k)).try_fold(1, step).unwrap_or(usize::MAX)
}

/// Returns the number of a choice among all of its size, in the order of its largest member, then the next
/// (combinatorial number system, Lehmer 1964). It does not change when there is more to choose from. `pick` rises.
pub(crate) fn rank(pick: &[usize]) -> usize {
    pick.iter().enumerate().fold(0, |sum: usize, (i, who)| sum.saturating_add(choose(*who, i + 1)))
}

/// Every choice of `k` out of `0..n`, in order, made one by one.
pub(crate) fn combinations(n: usize, k: usize) -> impl Iterator<Item = Vec<usize>> {
    let mut next: Option<Vec<usize>> = (k <= n).then(|| (0..k).collect());
    std::iter::from_fn(move || {
        let pick = next.take()?;
        // The last place that can still move on does so, and those behind it follow it closely.
        if let Some(place) = (0..k).rev().find(|place| pick[*place] < n - k + place) {
            let mut following = pick.clone();
            let from = pick[place] + 1;
            following[place..].iter_mut().enumerate().for_each(|(i, who)| *who = from + i);
            next = Some(following);
        }
        Some(pick)
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_choice_comes_once_and_in_order() {
        for (n, k) in [(5, 2), (6, 3), (4, 4), (3, 0), (7, 1)] {
            let all: Vec<Vec<usize>> = combinations(n, k).collect();
            assert_eq!(all.len(), choose(n, k), "{n} {k}");
            assert!(all.windows(2).all(|pair| pair[0] < pair[1]), "{n} {k}");
            assert!(
                all.iter().all(|pick| pick.windows(2).all(|pair| pair[0] < pair[1]) && pick.iter().all(|w| *w < n))
            );
        }
        assert_eq!(combinations(2, 3).count(), 0);
    }

    #[test]
    fn every_choice_has_a_number_of_its_own_that_more_to_choose_from_does_not_change() {
        for (n, k) in [(5, 2), (6, 3), (4, 4), (7, 1)] {
            let mut ranks: Vec<usize> = combinations(n, k).map(|pick| rank(&pick)).collect();
            ranks.sort_unstable();
            assert_eq!(ranks, (0..choose(n, k)).collect::<Vec<_>>(), "{n} {k}");
        }
        assert_eq!((rank(&[0, 1]), rank(&[0, 1, 2])), (0, 0));
    }

    #[test]
    fn more_ways_than_can_be_counted_are_the_largest_number() {
        assert_eq!(choose(30, 15), 155_117_520);
        assert_eq!(choose(1000, 500), usize::MAX);
        assert_eq!(combinations(1000, 500).next().map(|pick| pick.len()), Some(500));
    }
}
