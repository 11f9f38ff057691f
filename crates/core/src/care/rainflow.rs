//! Cycles in a history of charge: rainflow counting.

/// A cycle that was counted.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Cycle {
    /// From its lowest to its highest.
    pub range: f64,
    /// In the middle of them.
    pub mean: f64,
    /// One, or a half.
    pub count: f64,
}

/// Counts the cycles of a history by ASTM E1049-85 (2017), 5.4.4: three points are compared at a time; a range that holds the
/// start of the history counts half.
pub fn rainflow(history: &[f64]) -> Vec<Cycle> {
    // Peaks and valleys alone.
    let mut turns: Vec<f64> = Vec::new();
    for &value in history {
        if turns.last() == Some(&value) {
            continue;
        }
        if let [.., a, b] = turns.as_slice()
            && (b - a) * (value - b) > 0.0
        {
            turns.pop();
        }
        turns.push(value);
    }
    let cycle = |a: f64, b: f64, count| Cycle { range: (a - b).abs(), mean: 0.5 * (a + b), count };
    let mut counted = Vec::new();
    let mut open: Vec<f64> = Vec::new();
    for turn in turns {
        open.push(turn);
        while let [.., a, b, c] = open.as_slice() {
            let (earlier, later) = ((b - a).abs(), (c - b).abs());
            if later < earlier {
                break;
            }
            let (a, b) = (*a, *b);
            if open.len() == 3 {
                counted.push(cycle(a, b, 0.5));
                open.remove(0);
            } else {
                counted.push(cycle(a, b, 1.0));
                let last = open.len() - 1;
                open.drain(last - 2..last);
            }
        }
    }
    counted.extend(open.windows(2).map(|pair| cycle(pair[0], pair[1], 0.5)));
    counted
}
