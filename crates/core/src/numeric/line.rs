//! What lies between points of rising x.

/// Straight between the points; the end points outside them.
///
/// `table` holds one point at least, by rising x.
pub(crate) fn along(table: &[(f64, f64)], x: f64) -> f64 {
    let last = table.len() - 1;
    if x <= table[0].0 {
        return table[0].1;
    }
    for pair in table.windows(2) {
        if x <= pair[1].0 {
            let share = (x - pair[0].0) / (pair[1].0 - pair[0].0);
            return pair[0].1 + (pair[1].1 - pair[0].1) * share;
        }
    }
    table[last].1
}

/// Interpolation straight on log-log axes; the end segments run on.
///
/// `y = y0 (x/x0)^m` with `m = ln(y1/y0) / ln(x1/x0)`. Every x and y above zero, by rising x; a single point is
/// returned as it is.
pub(crate) fn log_log(points: &[(f64, f64)], x: f64) -> f64 {
    if points.len() < 2 {
        return points[0].1;
    }
    let at = points.iter().rposition(|p| p.0 <= x).unwrap_or(0).min(points.len() - 2);
    let ((x0, y0), (x1, y1)) = (points[at], points[at + 1]);
    let slope = (y1 / y0).ln() / (x1 / x0).ln();
    y0 * (x / x0).powf(slope)
}

/// PCHIP through points of rising x; constant outside them.
///
/// A cubic between each two points, with slopes that never overshoot: it rises where the points rise. F. N. Fritsch
/// and R. E. Carlson, SIAM J. Numer. Anal. 17 (1980) 238; slopes by the harmonic mean of the neighbouring secants.
pub(crate) fn monotone_cubic(points: &[(f64, f64)], x: f64) -> f64 {
    let last = points.len() - 1;
    if x <= points[0].0 {
        return points[0].1;
    }
    if x >= points[last].0 {
        return points[last].1;
    }
    let secant = |i: usize| (points[i + 1].1 - points[i].1) / (points[i + 1].0 - points[i].0);
    // The harmonic mean of the neighbouring secants keeps the curve from overshooting.
    let slope = |i: usize| {
        if i == 0 {
            return secant(0);
        }
        if i == last {
            return secant(last - 1);
        }
        let (before, after) = (secant(i - 1), secant(i));
        if before * after <= 0.0 { 0.0 } else { 2.0 * before * after / (before + after) }
    };
    let i = points.iter().rposition(|p| p.0 <= x).unwrap_or(0).min(last - 1);
    let width = points[i + 1].0 - points[i].0;
    let t = (x - points[i].0) / width;
    let (t2, t3) = (t * t, t * t * t);
    points[i].1 * (2.0 * t3 - 3.0 * t2 + 1.0)
        + width * slope(i) * (t3 - 2.0 * t2 + t)
        + points[i + 1].1 * (3.0 * t2 - 2.0 * t3)
        + width * slope(i + 1) * (t3 - t2)
}
