//! How units side by side share a current, by the resistance of the units and of the links.

use crate::units::Amps;

/// Currents of `units` alike units in parallel, joined along two bars by links. [A]
///
/// `unit` and `link` are resistances [Ω]; each link stands once in either bar. The load is taken
/// from one end of both bars, or from `opposite_corners`, which evens the paths out. Kirchhoff's
/// laws: walking along the bars from unit to unit, the voltage across the next unit is that of the
/// last, less or plus what the links between drop at the current they carry.
pub fn currents(
    units: usize,
    unit: f64,
    link: f64,
    total: Amps,
    opposite_corners: bool,
) -> Vec<Amps> {
    if units == 0 {
        return Vec::new();
    }
    let n = units;
    // Nodes: plus bar 0..n, minus bar n..2n-1 with the last minus node as the reference.
    let nodes = 2 * n - 1;
    let reference = if opposite_corners { n - 1 } else { 0 };
    let minus = |i: usize| match i.cmp(&reference) {
        std::cmp::Ordering::Equal => None,
        std::cmp::Ordering::Less => Some(n + i),
        std::cmp::Ordering::Greater => Some(n + i - 1),
    };
    let mut matrix = vec![vec![0.0; nodes + 1]; nodes];
    let mut join = |a: Option<usize>, b: Option<usize>, conductance: f64| {
        for (from, to) in [(a, b), (b, a)] {
            if let Some(from) = from {
                matrix[from][from] += conductance;
                if let Some(to) = to {
                    matrix[from][to] -= conductance;
                }
            }
        }
    };
    for i in 0..n {
        join(Some(i), minus(i), 1.0 / unit);
        if i + 1 < n {
            join(Some(i), Some(i + 1), 1.0 / link);
            join(minus(i), minus(i + 1), 1.0 / link);
        }
    }
    // The load draws at the first plus node; by symmetry this is the same as feeding it in there.
    matrix[0][nodes] = total.value();
    let volts = solve(matrix);
    (0..n).map(|i| Amps::of((volts[i] - minus(i).map_or(0.0, |m| volts[m])) / unit)).collect()
}

/// Gaussian elimination; the conductance matrix is symmetric and its diagonal dominates.
fn solve(mut rows: Vec<Vec<f64>>) -> Vec<f64> {
    let n = rows.len();
    for pivot in 0..n {
        for row in pivot + 1..n {
            let (above, below) = rows.split_at_mut(row);
            let (from, to) = (&above[pivot], &mut below[0]);
            let factor = to[pivot] / from[pivot];
            for (cell, taken) in to.iter_mut().zip(from).skip(pivot) {
                *cell -= factor * taken;
            }
        }
    }
    let mut solution = vec![0.0; n];
    for row in (0..n).rev() {
        let known: f64 = (row + 1..n).map(|c| rows[row][c] * solution[c]).sum();
        solution[row] = (rows[row][n] - known) / rows[row][row];
    }
    solution
}
