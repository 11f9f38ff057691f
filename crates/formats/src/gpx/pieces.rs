//! Points gathered into pieces: as fine as memory allows, coarser as the way grows.

use super::{Piece, distance};

/// Most pieces kept: when there are more, each two become one.
const MOST: usize = 4096;
/// Most points of the drawn line.
const MOST_LINE: usize = 256;
/// A piece is closed after so many metres or seconds at first.
const METRES: f64 = 10.0;
const SECONDS: f64 = 10.0;
/// Time between two points that counts as a gap. [s]
const GAP_SECONDS: f64 = 600.0;
/// Faster than this between two points is a jump of the receiver. [m/s]
const JUMP: f64 = 60.0;

/// One point of the file.
#[derive(Debug, Clone, Copy)]
pub(super) struct Point {
    pub(super) at: (f64, f64),
    pub(super) elevation: Option<f64>,
    /// Seconds since the epoch.
    pub(super) time: Option<f64>,
}

/// A piece that is being filled.
#[derive(Debug, Clone, Copy, Default)]
struct Open {
    metres: f64,
    seconds: f64,
    height: f64,
    heights: f64,
}

/// The way so far.
#[derive(Debug, Default)]
pub(super) struct Pieces {
    all: Vec<Open>,
    now: Open,
    last: Option<Point>,
    coarse: f64,
    pub(super) line: Vec<(f64, f64)>,
    line_every: f64,
    since_line: f64,
    pub(super) points: u64,
    pub(super) gaps: u64,
    pub(super) jumps: u64,
    pub(super) backwards: u64,
    pub(super) timed: u64,
    pub(super) first_time: Option<f64>,
}

impl Pieces {
    pub(super) fn new() -> Self {
        Self { coarse: 1.0, line_every: 10.0, ..Self::default() }
    }

    /// The way is interrupted here: what follows is not joined by a straight line.
    pub(super) fn interrupt(&mut self) {
        if self.last.take().is_some() && self.points > 1 {
            self.gaps += 1;
        }
    }

    pub(super) fn add(&mut self, point: Point) {
        self.points += 1;
        if self.first_time.is_none() {
            self.first_time = point.time;
        }
        let Some(last) = self.last.replace(point) else {
            self.line.push(point.at);
            return;
        };
        let metres = distance(last.at, point.at);
        let mut seconds = 0.0;
        if let (Some(from), Some(to)) = (last.time, point.time) {
            seconds = to - from;
            if seconds < 0.0 {
                self.backwards += 1;
                return;
            }
            self.timed += 1;
            if seconds > GAP_SECONDS && metres > 50.0 {
                // Switched off on the way: neither the speed nor the way between is known.
                self.gaps += 1;
                return;
            }
        }
        if seconds > 0.0 && metres / seconds > JUMP || seconds <= 0.0 && metres > 5000.0 {
            self.jumps += 1;
            return;
        }
        self.now.metres += metres;
        self.now.seconds += seconds;
        if let Some(height) = point.elevation {
            self.now.height += height;
            self.now.heights += 1.0;
        }
        if self.now.metres >= METRES * self.coarse || self.now.seconds >= SECONDS * self.coarse {
            self.close();
        }
        self.draw(point.at, metres);
    }

    fn close(&mut self) {
        self.all.push(std::mem::take(&mut self.now));
        if self.all.len() > MOST {
            self.all = self
                .all
                .chunks(2)
                .map(|pair| {
                    pair.iter().fold(Open::default(), |sum, p| Open {
                        metres: sum.metres + p.metres,
                        seconds: sum.seconds + p.seconds,
                        height: sum.height + p.height,
                        heights: sum.heights + p.heights,
                    })
                })
                .collect();
            self.coarse *= 2.0;
        }
    }

    fn draw(&mut self, at: (f64, f64), metres: f64) {
        self.since_line += metres;
        if self.since_line >= self.line_every {
            self.since_line = 0.0;
            self.line.push(at);
            if self.line.len() > MOST_LINE {
                self.line = self.line.iter().copied().step_by(2).collect();
                self.line_every *= 2.0;
            }
        }
    }

    pub(super) fn finish(&mut self) -> Vec<Piece> {
        if self.now.metres > 0.0 || self.now.seconds > 0.0 {
            self.close();
        }
        if let Some(last) = self.last
            && self.line.last() != Some(&last.at)
        {
            self.line.push(last.at);
        }
        let heights: Vec<Option<f64>> =
            self.all.iter().map(|p| (p.heights > 0.0).then(|| p.height / p.heights)).collect();
        self.all
            .iter()
            .zip(smooth(&heights))
            .map(|(p, elevation)| Piece { metres: p.metres, seconds: p.seconds, elevation })
            .collect()
    }
}

/// Receivers' heights are off by metres from one point to the next: the mean over some pieces each way.
fn smooth(heights: &[Option<f64>]) -> Vec<Option<f64>> {
    const EACH_WAY: usize = 4;
    (0..heights.len())
        .map(|n| {
            heights[n]?;
            let near = &heights[n.saturating_sub(EACH_WAY)..(n + EACH_WAY + 1).min(heights.len())];
            let (sum, count) =
                near.iter().flatten().fold((0.0, 0.0), |(sum, count), h| (sum + h, count + 1.0));
            Some(sum / count)
        })
        .collect()
}
