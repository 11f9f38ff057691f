//! Linear equations.

/// A matrix taken apart, so that many right sides can be solved with it. Only what is not nought is kept.
#[derive(Debug)]
pub(crate) struct Lu {
    rows: Vec<Row>,
    order: Vec<usize>,
}

/// A row in the order of the pivots: the factors that eliminated it, its pivot, and what stands behind that.
#[derive(Debug)]
struct Row {
    before: Vec<(usize, f64)>,
    pivot: f64,
    behind: Vec<(usize, f64)>,
}

/// A pivot below this says nothing.
const NOTHING: f64 = 1e-12;

impl Lu {
    /// By elimination with the largest pivot of each column.
    pub(crate) fn of(mut rows: Vec<Vec<f64>>) -> Self {
        let n = rows.len();
        let mut order: Vec<usize> = (0..n).collect();
        for at in 0..n {
            let largest = (at..n).max_by(|a, b| rows[*a][at].abs().total_cmp(&rows[*b][at].abs()));
            let largest = largest.unwrap_or(at);
            rows.swap(at, largest);
            order.swap(at, largest);
            if rows[at][at].abs() < NOTHING {
                continue;
            }
            let (above, below) = rows.split_at_mut(at + 1);
            let from = &above[at];
            for to in below {
                if to[at] == 0.0 {
                    continue;
                }
                let factor = to[at] / from[at];
                to[at] = factor;
                for (cell, taken) in to[at + 1..].iter_mut().zip(&from[at + 1..]) {
                    *cell -= factor * taken;
                }
            }
        }
        let row = |(at, row): (usize, Vec<f64>)| {
            let some = |range: std::ops::Range<usize>| {
                range.map(|n| (n, row[n])).filter(|(_, v)| *v != 0.0).collect()
            };
            Row { before: some(0..at), pivot: row[at], behind: some(at + 1..n) }
        };
        Self { rows: rows.into_iter().enumerate().map(row).collect(), order }
    }

    /// What the unknowns are with these right sides. What no equation says is nought.
    pub(crate) fn solve(&self, right: &[f64]) -> Vec<f64> {
        let mut x: Vec<f64> = self.order.iter().map(|row| right[*row]).collect();
        let known =
            |x: &[f64], some: &[(usize, f64)]| some.iter().map(|(n, v)| v * x[*n]).sum::<f64>();
        for (at, row) in self.rows.iter().enumerate() {
            x[at] -= known(&x, &row.before);
        }
        for (at, row) in self.rows.iter().enumerate().rev() {
            let left = x[at] - known(&x, &row.behind);
            x[at] = if row.pivot.abs() < NOTHING { 0.0 } else { left / row.pivot };
        }
        x
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn equations_are_solved_with_rows_that_must_change_places() {
        // 2y + z = 7, x + y = 3, 3x - z = 0 by hand: x = 1, y = 2, z = 3.
        let lu = Lu::of(vec![vec![0.0, 2.0, 1.0], vec![1.0, 1.0, 0.0], vec![3.0, 0.0, -1.0]]);
        for (got, want) in lu.solve(&[7.0, 3.0, 0.0]).into_iter().zip([1.0, 2.0, 3.0]) {
            assert!((got - want).abs() < 1e-12);
        }
        // Twice as much on the right is twice as much.
        assert!((lu.solve(&[14.0, 6.0, 0.0])[2] - 6.0).abs() < 1e-12);
        // An unknown that nothing is said of stays nought.
        let loose = Lu::of(vec![vec![2.0, 0.0], vec![0.0, 0.0]]);
        assert_eq!(loose.solve(&[4.0, 0.0]), [2.0, 0.0]);
    }
}
