//! The most boxes of one size on a floor, each turned as it may be: by halving the floor and by the pinwheel of five
//! blocks, over and over.
//!
//! Cuts lie at sums of the boxes' sides, since any packing can be pushed into a corner so that they do (normal
//! patterns: Herz, IBM J. Res. Dev. 16 (1972) 462; Christofides and Whitlock, Operations Research 25 (1977) 30). Five
//! blocks around a middle one: Bischoff and Dowsland, J. Operational Research Society 33 (1982) 271. For up to a dozen
//! boxes of one size no packing is known that these do not find; a test compares them with every placing there is.

use std::collections::HashMap;

/// Most places of a cut along one side: beyond that the search would take too long and is not begun.
const MOST_CUTS: usize = 28;

/// A block and how it is filled.
#[derive(Debug, Clone, Copy)]
enum Filled {
    Nothing,
    /// One box of this footprint in its corner.
    One(usize),
    /// Divided along the first side, or along the second.
    Along(f64),
    Across(f64),
    /// Five blocks around the middle one between (x1, x2) and (y1, y2).
    Pinwheel(f64, f64, f64, f64),
}

/// A floor and the footprints that a box may have on it.
pub(super) struct Search<'a> {
    footprints: &'a [[f64; 2]],
    cuts: [Vec<f64>; 2],
    least_area: f64,
    known: HashMap<(u64, u64), (u32, Filled)>,
}

/// A box on the floor: its corner and which footprint it has.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Placed {
    pub(super) at: [f64; 2],
    pub(super) footprint: usize,
}

/// Sides differ by less than this only by rounding.
const SAME: f64 = 1e-6;

/// All sums of sides up to a length, from nought on; `None` where there are too many.
fn sums(sides: &[f64], length: f64) -> Option<Vec<f64>> {
    let mut all = vec![0.0];
    let mut from = 0;
    while from < all.len() {
        let base = all[from];
        for side in sides {
            let sum = base + side;
            if sum <= length + SAME && !all.iter().any(|known| (known - sum).abs() < SAME) {
                all.push(sum);
            }
        }
        if all.len() > MOST_CUTS {
            return None;
        }
        from += 1;
    }
    all.sort_by(f64::total_cmp);
    Some(all)
}

impl<'a> Search<'a> {
    /// `None` where there are more places for cuts than can be gone through.
    pub(super) fn new(floor: [f64; 2], footprints: &'a [[f64; 2]]) -> Option<Self> {
        let sides: Vec<f64> = footprints.iter().flatten().copied().collect();
        let cuts = [sums(&sides, floor[0])?, sums(&sides, floor[1])?];
        let areas = footprints.iter().map(|[a, b]| a * b);
        let least_area = areas.fold(f64::INFINITY, f64::min);
        Some(Self { footprints, cuts, least_area, known: HashMap::new() })
    }

    /// The most boxes on a floor.
    pub(super) fn most(&mut self, floor: [f64; 2]) -> u32 {
        self.fill(floor).0
    }

    /// Where they stand.
    pub(super) fn placed(&mut self, floor: [f64; 2]) -> Vec<Placed> {
        let mut placed = Vec::new();
        self.place([0.0, 0.0], floor, &mut placed);
        placed
    }

    /// The longest side that sums can fill.
    fn filled(&self, axis: usize, length: f64) -> f64 {
        let cuts = &self.cuts[axis];
        cuts.iter().rev().find(|cut| **cut <= length + SAME).copied().unwrap_or(0.0)
    }

    fn fill(&mut self, floor: [f64; 2]) -> (u32, Filled) {
        let [x, y] = [self.filled(0, floor[0]), self.filled(1, floor[1])];
        let fits = self.footprints.iter().position(|[a, b]| *a <= x + SAME && *b <= y + SAME);
        let Some(fits) = fits else { return (0, Filled::Nothing) };
        let key = (x.to_bits(), y.to_bits());
        if let Some(known) = self.known.get(&key) {
            return *known;
        }
        let bound = ((x * y) / self.least_area + 1e-6).floor() as u32;
        let mut best = (1, Filled::One(fits));
        if bound > 1 {
            self.divide([x, y], bound, &mut best);
        }
        if best.0 < bound && bound >= 4 {
            self.pinwheel([x, y], bound, &mut best);
        }
        self.known.insert(key, best);
        best
    }

    /// Cuts right through, in either direction; the smaller part first, since the parts may change places.
    fn divide(&mut self, [x, y]: [f64; 2], bound: u32, best: &mut (u32, Filled)) {
        for axis in 0..2 {
            for cut in self.cuts[axis].clone() {
                let whole = [x, y][axis];
                if cut <= 0.0 || cut > whole / 2.0 + SAME {
                    continue;
                }
                let (count, how) = if axis == 0 {
                    (self.most([cut, y]) + self.most([x - cut, y]), Filled::Along(cut))
                } else {
                    (self.most([x, cut]) + self.most([x, y - cut]), Filled::Across(cut))
                };
                if count > best.0 {
                    *best = (count, how);
                }
                if best.0 >= bound {
                    return;
                }
            }
        }
    }

    /// Four blocks around a middle one, none cut right through.
    fn pinwheel(&mut self, [x, y]: [f64; 2], bound: u32, best: &mut (u32, Filled)) {
        let within = |cuts: &[f64], length: f64| -> Vec<f64> {
            cuts.iter().copied().filter(|c| *c > 0.0 && *c < length - SAME).collect()
        };
        let (xs, ys) = (within(&self.cuts[0], x), within(&self.cuts[1], y));
        for (n, x1) in xs.iter().enumerate() {
            for x2 in &xs[n + 1..] {
                for (m, y1) in ys.iter().enumerate() {
                    for y2 in &ys[m + 1..] {
                        let count: u32 = blocks([x, y], [*x1, *x2, *y1, *y2])
                            .into_iter()
                            .map(|(_, block)| self.most(block))
                            .sum();
                        if count > best.0 {
                            *best = (count, Filled::Pinwheel(*x1, *x2, *y1, *y2));
                        }
                        if best.0 >= bound {
                            return;
                        }
                    }
                }
            }
        }
    }

    fn place(&mut self, at: [f64; 2], floor: [f64; 2], placed: &mut Vec<Placed>) {
        let [x, y] = [self.filled(0, floor[0]), self.filled(1, floor[1])];
        let [left, near] = at;
        match self.fill([x, y]).1 {
            Filled::Nothing => {}
            Filled::One(footprint) => placed.push(Placed { at, footprint }),
            Filled::Along(cut) => {
                self.place(at, [cut, y], placed);
                self.place([left + cut, near], [x - cut, y], placed);
            }
            Filled::Across(cut) => {
                self.place(at, [x, cut], placed);
                self.place([left, near + cut], [x, y - cut], placed);
            }
            Filled::Pinwheel(x1, x2, y1, y2) => {
                for ([dx, dy], block) in blocks([x, y], [x1, x2, y1, y2]) {
                    self.place([left + dx, near + dy], block, placed);
                }
            }
        }
    }
}

/// The five blocks of a pinwheel: corner and sides.
fn blocks([x, y]: [f64; 2], [x1, x2, y1, y2]: [f64; 4]) -> [([f64; 2], [f64; 2]); 5] {
    [
        ([0.0, 0.0], [x2, y1]),
        ([x2, 0.0], [x - x2, y2]),
        ([x1, y2], [x - x1, y - y2]),
        ([0.0, y1], [x1, y - y1]),
        ([x1, y1], [x2 - x1, y2 - y1]),
    ]
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The most boxes a by b, turned or not, on a floor of whole squares: every placing gone through, square by square.
    fn by_force(x: usize, y: usize, a: usize, b: usize) -> u32 {
        fn from(
            taken: &mut [u16],
            x: usize,
            first: usize,
            sides: [[usize; 2]; 2],
            best: &mut u32,
            now: u32,
        ) {
            *best = (*best).max(now);
            let (y, [[a, b], _]) = (taken.len(), sides);
            let free: u32 = taken.iter().map(|row| x as u32 - row.count_ones()).sum();
            if now + free / (a * b) as u32 <= *best {
                return;
            }
            let Some(at) = (first..x * y).find(|n| taken[n / x] >> (n % x) & 1 == 0) else {
                return;
            };
            let (row, column) = (at / x, at % x);
            for [wide, deep] in sides {
                if column + wide > x || row + deep > y {
                    continue;
                }
                let mask = ((1_u16 << wide) - 1) << column;
                if taken[row..row + deep].iter().any(|r| r & mask != 0) {
                    continue;
                }
                taken[row..row + deep].iter_mut().for_each(|r| *r |= mask);
                from(taken, x, at + 1, sides, best, now + 1);
                taken[row..row + deep].iter_mut().for_each(|r| *r &= !mask);
            }
            // Or this square stays empty.
            taken[row] |= 1 << column;
            from(taken, x, at + 1, sides, best, now);
            taken[row] &= !(1 << column);
        }
        let mut best = 0;
        from(&mut vec![0; y], x, 0, [[a, b], [b, a]], &mut best, 0);
        best
    }

    /// Against every placing there is, for all floors up to 11 by 11 and boxes up to 5 by 4, with at most a dozen on them.
    #[test]
    fn no_placing_takes_more() {
        let (mut compared, mut turned) = (0, 0);
        for (a, b) in
            (1..=5).flat_map(|a| (1..=a.min(4)).map(move |b| (a, b))).filter(|(a, b)| a * b > 3)
        {
            for (x, y) in (a..=11).flat_map(|x| (b..=x).map(move |y| (x, y))) {
                if x * y / (a * b) > 12 {
                    continue;
                }
                let sides = [[a as f64, b as f64], [b as f64, a as f64]];
                let floor = [x as f64, y as f64];
                let mut search = Search::new(floor, &sides).expect("few cuts");
                let (most, placed) = (search.most(floor), search.placed(floor));
                assert_eq!(most, by_force(x, y, a, b), "{a} x {b} on {x} x {y}");
                assert_eq!(placed.len() as u32, most);
                turned += usize::from(placed.iter().any(|p| p.footprint != placed[0].footprint));
                for (n, p) in placed.iter().enumerate() {
                    let end = |p: &Placed, k: usize| p.at[k] + sides[p.footprint][k];
                    assert!((0..2).all(|k| p.at[k] >= 0.0 && end(p, k) <= floor[k] + SAME));
                    for q in &placed[..n] {
                        let apart = (0..2)
                            .any(|k| end(p, k) <= q.at[k] + SAME || end(q, k) <= p.at[k] + SAME);
                        assert!(apart, "{p:?} {q:?}");
                    }
                }
                compared += 1;
            }
        }
        assert!(compared > 250 && turned > 40, "{compared} {turned}");
    }

    /// Published: four boxes 2 by 3 turn around the middle of 5 by 5, where straight rows hold fewer. Barnes' bound: no
    /// more than the area allows less the waste of rods as long and as wide as the box (J. Barnes, Discrete Mathematics 26
    /// (1979) 79).
    #[test]
    fn the_pinwheel_is_found_and_barnes_bound_is_kept() {
        let floor = [5.0, 5.0];
        assert_eq!(Search::new(floor, &[[3.0, 2.0], [2.0, 3.0]]).expect("few").most(floor), 4);
        for (a, b) in [(3, 2), (5, 2), (4, 3)] {
            for (x, y) in (a..=12).flat_map(|x| (b..=12).map(move |y| (x, y))) {
                if x * y / (a * b) > 12 {
                    continue;
                }
                // Rods of length n on x by y leave min(rs, (n-r)(n-s)) squares, r and s what is left of the sides.
                let waste = |n: usize| {
                    let (r, s) = (x % n, y % n);
                    (r * s).min((n - r) * (n - s))
                };
                let bound = (x * y - waste(a).max(waste(b))) / (a * b);
                let sides = [[a as f64, b as f64], [b as f64, a as f64]];
                let floor = [x as f64, y as f64];
                let most = Search::new(floor, &sides).expect("few").most(floor);
                assert!(most as usize <= bound, "{a} x {b} on {x} x {y}: {most} {bound}");
            }
        }
    }
}
