//! Fewer points for a picture.

/// So many of a line's points, `most` of them at the most, that it looks the same: largest triangle three buckets, S.
/// Steinarsson, *Downsampling Time Series for Visual Representation*, thesis, University of Iceland 2013. First and last stay.
pub fn thinned(points: &[(f64, f64)], most: usize) -> Vec<(f64, f64)> {
    let n = points.len();
    if n <= most.max(3) {
        return points.to_vec();
    }
    let buckets = most.max(3) - 2;
    let edge = |b: usize| 1 + b * (n - 2) / buckets;
    let mut kept = vec![points[0]];
    for bucket in 0..buckets {
        let (from, to) = (edge(bucket), edge(bucket + 1));
        // The mean of the next bucket; of the last one's it is the last point.
        let next = &points[to..edge(bucket + 2).min(n).max(to + 1)];
        let count = next.len() as f64;
        let (mx, my) = next.iter().fold((0.0, 0.0), |(x, y), p| (x + p.0 / count, y + p.1 / count));
        let (ax, ay) = kept[kept.len() - 1];
        let area = |p: &(f64, f64)| ((ax - mx) * (p.1 - ay) - (ax - p.0) * (my - ay)).abs();
        let largest = points[from..to].iter().max_by(|a, b| area(a).total_cmp(&area(b)));
        kept.extend(largest);
    }
    kept.push(points[n - 1]);
    kept
}

#[cfg(test)]
mod tests {
    use super::thinned;

    #[test]
    fn a_thinned_line_keeps_its_ends_its_peaks_and_its_order() {
        let line: Vec<(f64, f64)> = (0..10_000)
            .map(|n| (f64::from(n), if n == 4_321 { 50.0 } else { (f64::from(n) / 700.0).sin() }))
            .collect();
        let few = thinned(&line, 300);
        assert_eq!(few.len(), 300);
        assert_eq!((few[0], few[299]), (line[0], line[9_999]));
        assert!(few.windows(2).all(|p| p[0].0 < p[1].0));
        assert!(few.contains(&(4_321.0, 50.0)), "a peak is what a picture is for");
        assert_eq!(thinned(&line[..200], 300).len(), 200);
        assert_eq!(thinned(&line, 0).len(), 3);
        assert!(thinned(&[], 10).is_empty());
    }
}
