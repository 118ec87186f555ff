//! The one product that a network is made of, forward and backward.

use super::wide;

/// Depth of a chunk. All rows of the left side go through one chunk of the right side before the next, so that the chunk stays
/// in the nearest cache.
const DEPTH: usize = 64;

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
/// over the depth in order and takes one product at a time, so that it has the same bits however it is computed, and
/// however wide the vectors of the machine are.
pub(super) fn add_product(sums: &mut [f32], width: usize, left: Left, right: &[f32]) {
    wide::dispatch(
        #[inline(always)]
        |lanes| match (lanes, width) {
            // One sum a row: sixteen of them hide how long each waits for its last addition.
            (_, 1) => add::<16, 1>(sums, width, left, right),
            (16.., _) => add::<4, 64>(sums, width, left, right),
            (8.., _) => add::<4, 16>(sums, width, left, right),
            _ => add::<2, 16>(sums, width, left, right),
        },
    );
}

/// Width of the last block of columns; zeros fill it up.
const TAIL: usize = 8;

/// In blocks of `R` rows by `N` columns.
#[inline(always)]
fn add<const R: usize, const N: usize>(sums: &mut [f32], width: usize, left: Left, right: &[f32]) {
    let rest = if N == 1 { 0 } else { width % TAIL };
    let mut tail = [[0.0_f32; TAIL]; DEPTH];
    for (chunk, lines) in right.chunks(DEPTH * width).enumerate() {
        let (first, mut row) = (chunk * DEPTH, 0);
        if rest > 0 {
            for (filled, line) in tail.iter_mut().zip(lines.chunks_exact(width)) {
                filled[..rest].copy_from_slice(&line[width - rest..]);
            }
        }
        let mut blocks = sums.chunks_exact_mut(R * width);
        for block in &mut blocks {
            add_rows::<R, N>(block, width, left, (row, first), lines, (rest, &tail));
            row += R;
        }
        for single in blocks.into_remainder().chunks_exact_mut(width) {
            add_rows::<1, N>(single, width, left, (row, first), lines, (rest, &tail));
            row += 1;
        }
    }
}

/// `R` rows of all columns, over the lines of a part of the depth; the left side begins at this row and this depth, and so
/// many columns at the end of the lines lie filled up beside them.
#[inline(always)]
fn add_rows<const R: usize, const N: usize>(
    sums: &mut [f32],
    width: usize,
    left: Left,
    (row, first): (usize, usize),
    lines: &[f32],
    (rest, tail): (usize, &[[f32; TAIL]; DEPTH]),
) {
    let mut packed = [[0.0_f32; R]; DEPTH];
    let factors = &mut packed[..lines.len() / width];
    for (k, each) in factors.iter_mut().enumerate() {
        for (r, factor) in each.iter_mut().enumerate() {
            *factor = left.at(row + r, first + k);
        }
    }
    let mut from = 0;
    while from + N <= width {
        add_block::<R, N>(sums, width, factors, lines, from);
        from += N;
    }
    while from + 2 * TAIL <= width {
        add_block::<R, { 2 * TAIL }>(sums, width, factors, lines, from);
        from += 2 * TAIL;
    }
    while from + TAIL <= width {
        add_block::<R, TAIL>(sums, width, factors, lines, from);
        from += TAIL;
    }
    if rest > 0 {
        add_tail::<R>(&mut sums[from..], (width, rest), factors, tail);
    }
}

/// `R` rows of the columns at the end, which are filled up to `TAIL`.
#[inline(always)]
fn add_tail<const R: usize>(
    sums: &mut [f32],
    (width, rest): (usize, usize),
    factors: &[[f32; R]],
    tail: &[[f32; TAIL]; DEPTH],
) {
    let mut block = [[0.0_f32; TAIL]; R];
    for (r, line) in block.iter_mut().enumerate() {
        line[..rest].copy_from_slice(&sums[r * width..r * width + rest]);
    }
    sum_up(&mut block, factors, tail.iter());
    for (r, line) in block.iter().enumerate() {
        sums[r * width..r * width + rest].copy_from_slice(&line[..rest]);
    }
}

/// `R` rows of `N` columns, from column `from` on.
#[inline(always)]
fn add_block<const R: usize, const N: usize>(
    sums: &mut [f32],
    width: usize,
    factors: &[[f32; R]],
    lines: &[f32],
    from: usize,
) {
    let mut block = [[0.0_f32; N]; R];
    for (r, line) in block.iter_mut().enumerate() {
        line.copy_from_slice(&sums[r * width + from..r * width + from + N]);
    }
    let columns = lines.chunks_exact(width).map(
        #[inline(always)]
        |line| line[from..from + N].try_into().expect("the range has this length"),
    );
    sum_up(&mut block, factors, columns);
    for (r, line) in block.iter().enumerate() {
        sums[r * width + from..r * width + from + N].copy_from_slice(line);
    }
}

/// Adds to a block the product of factors (depth x rows) with lines (depth x columns).
#[inline(always)]
fn sum_up<'a, const R: usize, const N: usize>(
    block: &mut [[f32; N]; R],
    factors: &[[f32; R]],
    lines: impl Iterator<Item = &'a [f32; N]>,
) {
    for (each, line) in factors.iter().zip(lines) {
        for (r, sums) in block.iter_mut().enumerate() {
            let factor = each[r];
            for (sum, value) in sums.iter_mut().zip(line) {
                *sum += factor * value;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use inkpot_core::Chance;

    use super::*;

    #[test]
    fn a_product_is_the_sum_of_the_single_ones_in_order() {
        let mut chance = Chance::from_seed(3);
        for (rows, depth, width) in [(1, 1, 1), (5, 7, 3), (9, 4, 21), (8, 130, 77), (3, 2, 16), (19, 70, 1)] {
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
