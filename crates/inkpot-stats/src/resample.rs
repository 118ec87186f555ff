//! Resampling whole blocks, jointly over everything that shares their chance.

/// The source of a bootstrap's random whole numbers: `below(n)` is even in `0..n`.
pub trait Draws {
    /// A whole number in `0..n`.
    fn below(&mut self, n: usize) -> usize;
}

/// More groups of blocks than this are not resampled one by one: neighbours are pooled, which keeps the distribution
/// (sums of independent blocks are independent) and bounds the work.
const MOST_GROUPS: usize = 2000;

/// Points shares by column (a point of a sweep) and row (a block, or a pool of neighbouring blocks).
#[derive(Clone, Debug)]
pub struct BlockTable {
    columns: usize,
    groups: usize,
    blocks: usize,
    /// Group by group, column by column: sum of shares and number of blocks.
    sums: Vec<(f64, f64)>,
}

impl BlockTable {
    /// An empty table of this many columns and blocks.
    pub fn new(columns: usize, blocks: usize) -> Self {
        let groups = blocks.min(MOST_GROUPS);
        Self { columns, groups, blocks, sums: vec![(0.0, 0.0); groups * columns] }
    }

    /// Adds the share of a block in a column; blocks of the same index share their chance. One that is not finite is
    /// left out.
    pub fn add(&mut self, column: usize, block: usize, share: f64) {
        if share.is_finite() {
            let group = block * self.groups / self.blocks;
            let cell = &mut self.sums[group * self.columns + column];
            cell.0 += share;
            cell.1 += 1.0;
        }
    }

    /// Blocks of a column.
    pub fn blocks(&self) -> usize {
        self.blocks
    }

    /// Mean share by column.
    pub fn means(&self) -> Vec<f64> {
        self.mean_of(0..self.groups)
    }

    /// Mean share by column in a sample of as many groups, drawn with replacement (Efron 1979).
    pub fn resample(&self, draws: &mut impl Draws) -> Vec<f64> {
        let picks: Vec<usize> = (0..self.groups).map(|_| draws.below(self.groups)).collect();
        self.mean_of(picks.into_iter())
    }

    /// Covariance of the mean shares of two columns, over groups.
    pub fn covariance(&self) -> nalgebra::DMatrix<f64> {
        let means = self.means();
        let mut totals = vec![0.0; self.columns];
        let mut deviations = nalgebra::DMatrix::zeros(self.groups, self.columns);
        for group in 0..self.groups {
            for column in 0..self.columns {
                let (sum, count) = self.sums[group * self.columns + column];
                deviations[(group, column)] = sum - count * means[column];
                totals[column] += count;
            }
        }
        let groups = self.groups as f64;
        nalgebra::DMatrix::from_fn(self.columns, self.columns, |a, b| {
            let product: f64 = (0..self.groups).map(|group| deviations[(group, a)] * deviations[(group, b)]).sum();
            product / (totals[a] * totals[b]) * groups / (groups - 1.0)
        })
    }

    /// By column: variance of the mean share over groups.
    pub fn variances(&self) -> Vec<f64> {
        let means = self.means();
        (0..self.columns)
            .map(|column| {
                let (mut squares, mut blocks, mut groups) = (0.0, 0.0, 0.0);
                for group in 0..self.groups {
                    let (sum, count) = self.sums[group * self.columns + column];
                    if count > 0.0 {
                        squares += (sum - count * means[column]).powi(2);
                        blocks += count;
                        groups += 1.0;
                    }
                }
                if groups > 1.0 { squares / (blocks * blocks) * groups / (groups - 1.0) } else { f64::NAN }
            })
            .collect()
    }

    fn mean_of(&self, groups: impl Iterator<Item = usize>) -> Vec<f64> {
        let mut totals = vec![(0.0, 0.0); self.columns];
        for group in groups {
            let row = &self.sums[group * self.columns..(group + 1) * self.columns];
            for (total, cell) in totals.iter_mut().zip(row) {
                total.0 += cell.0;
                total.1 += cell.1;
            }
        }
        totals.into_iter().map(|(sum, count)| sum / count).collect()
    }
}

#[cfg(test)]
pub(crate) mod tests {
    use super::*;

    /// `SplitMix64`, as a source of its own.
    pub(crate) struct Cycle(pub(crate) u64);
    impl Draws for Cycle {
        fn below(&mut self, n: usize) -> usize {
            self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
            let mut z = self.0;
            z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
            z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
            ((z ^ (z >> 31)) % n as u64) as usize
        }
    }

    fn table(columns: &[Vec<f64>]) -> BlockTable {
        let mut table = BlockTable::new(columns.len(), columns[0].len());
        for (column, shares) in columns.iter().enumerate() {
            shares.iter().enumerate().for_each(|(block, &share)| table.add(column, block, share));
        }
        table
    }

    #[test]
    fn means_and_variances_are_the_plain_ones() {
        let table = table(&[vec![0.0, 1.0, 0.5, 0.5], vec![1.0, f64::NAN, 1.0, 0.0]]);
        assert_eq!(table.means(), [0.5, 2.0 / 3.0]);
        // Variance of the mean: sample variance 1/6 over 4; 1/3 over 3.
        for (variance, expected) in table.variances().iter().zip([1.0 / 24.0, 1.0 / 9.0]) {
            assert!((variance - expected).abs() < 1e-12);
        }
    }

    #[test]
    fn columns_of_a_block_are_drawn_together() {
        let shares: Vec<f64> = (0..50).map(|i| f64::from(i % 2)).collect();
        let table = table(&[shares.clone(), shares]);
        let mut draws = Cycle(1);
        for _ in 0..20 {
            let sample = table.resample(&mut draws);
            assert_eq!(sample[0], sample[1]);
        }
    }

    #[test]
    fn pooling_many_blocks_keeps_mean_and_error() {
        let mut draws = Cycle(3);
        let shares: Vec<f64> = (0..50_000).map(|_| draws.below(2) as f64).collect();
        let table = table(&[shares]);
        assert!((table.means()[0] - 0.5).abs() < 0.02);
        assert!((table.variances()[0].sqrt() / (0.5 / 50_000f64.sqrt()) - 1.0).abs() < 0.1);
    }
}
