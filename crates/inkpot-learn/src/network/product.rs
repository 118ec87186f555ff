//! The one product that a network is made of, forward and backward.

/// Rows that are summed up together.
const ROWS: usize = 2;
/// Columns that are summed up side by side in registers.
const LANES: usize = 16;

/// The left side of a product: its rows are `row` apart in memory, and the numbers of a row `along`.
#[derive(Clone, Copy)]
pub(super) struct Left<'a> {
    pub(super) values: &'a [f32],
    pub(super) row: usize,
    pub(super) along: usize,
}

impl Left<'_> {
    #[inline(always)]
    fn at(&self, row: usize, k: usize) -> f32 {
        self.values[row * self.row + k * self.along]
    }
}

/// Adds to `sums` (rows x `width`) the product of `left` (rows x depth) with `right` (depth x `width`). Every sum runs
/// over the depth in order and takes one product at a time, so that it has the same bits however it is computed.
pub(super) fn add_product(sums: &mut [f32], width: usize, left: Left, right: &[f32]) {
    let mut row = 0;
    let mut blocks = sums.chunks_exact_mut(ROWS * width);
    for block in &mut blocks {
        add_rows::<ROWS>(block, width, left, row, right);
        row += ROWS;
    }
    for single in blocks.into_remainder().chunks_exact_mut(width) {
        add_rows::<1>(single, width, left, row, right);
        row += 1;
    }
}

#[inline(always)]
fn add_rows<const R: usize>(sums: &mut [f32], width: usize, left: Left, row: usize, right: &[f32]) {
    let mut from = 0;
    while from + LANES <= width {
        add_block::<R, LANES>(sums, width, left, row, right, from);
        from += LANES;
    }
    while from + 4 <= width {
        add_block::<R, 4>(sums, width, left, row, right, from);
        from += 4;
    }
    while from < width {
        add_block::<R, 1>(sums, width, left, row, right, from);
        from += 1;
    }
}

/// `R` rows of `N` columns, from column `from` on.
#[inline(always)]
fn add_block<const R: usize, const N: usize>(
    sums: &mut [f32],
    width: usize,
    left: Left,
    row: usize,
    right: &[f32],
    from: usize,
) {
    let mut block = [[0.0_f32; N]; R];
    for (r, line) in block.iter_mut().enumerate() {
        line.copy_from_slice(&sums[r * width + from..r * width + from + N]);
    }
    for (k, line) in right.chunks_exact(width).enumerate() {
        let line: &[f32; N] = line[from..from + N].try_into().expect("the range has this length");
        for (r, block_row) in block.iter_mut().enumerate() {
            let factor = left.at(row + r, k);
            for (sum, value) in block_row.iter_mut().zip(line) {
                *sum += factor * value;
            }
        }
    }
    for (r, line) in block.iter().enumerate() {
        sums[r * width + from..r * width + from + N].copy_from_slice(line);
    }
}

#[cfg(test)]
mod tests {
    use inkpot_core::Chance;

    use super::*;

    #[test]
    fn a_product_is_the_sum_of_the_single_ones_in_order() {
        let mut chance = Chance::from_seed(3);
        for (rows, depth, width) in [(1, 1, 1), (5, 7, 3), (9, 4, 21), (8, 30, 64), (3, 2, 16)] {
            let mut drawn = |count: usize| (0..count).map(|_| chance.normal() as f32).collect::<Vec<_>>();
            let (values, right, start) = (drawn(rows * depth), drawn(depth * width), drawn(rows * width));
            let turned: Vec<f32> = (0..depth * rows).map(|place| values[place % rows * depth + place / rows]).collect();
            for left in [Left { values: &values, row: depth, along: 1 }, Left { values: &turned, row: 1, along: rows }]
            {
                let mut sums = start.clone();
                add_product(&mut sums, width, left, &right);
                for (place, sum) in sums.iter().enumerate() {
                    let (row, column) = (place / width, place % width);
                    let each = (0..depth).map(|k| values[row * depth + k] * right[k * width + column]);
                    assert_eq!(*sum, each.fold(start[place], |sum, x| sum + x), "{rows} {depth} {width}");
                }
            }
        }
    }
}
