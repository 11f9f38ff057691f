//! From pieces of a way to the stretches of a day.

use super::{Piece, Way};
use lake_hour_core::day::{Duty, Heading, Stretch};
use lake_hour_core::units::{Hours, Metres};

/// Most stretches made of one way.
const MOST: usize = 24;
/// Slower than this is standing. [m/s]
const STANDING: f64 = 0.25;
/// Standing for longer is a stretch of its own; for shorter it is a stop on the way. [s]
const LONG_STAND: f64 = 180.0;
/// Speed that is taken where the file has no times, on water and on the road. [m/s] Common practice, no
/// source: 2.5 and 9 mph.
const USUAL: (f64, f64) = (1.12, 4.0);
/// A piece belongs to another stretch when its speed differs by this share.
const OTHER_SPEED: f64 = 0.35;
/// On wheels also when its grade differs by this much.
const OTHER_GRADE: f64 = 0.025;

/// A stretch that is being put together.
#[derive(Debug, Clone, Copy, Default)]
struct Part {
    metres: f64,
    seconds: f64,
    climb: f64,
    stops: u32,
    standing: bool,
}

impl Part {
    fn speed(&self) -> f64 {
        self.metres / self.seconds.max(1e-9)
    }

    fn grade(&self) -> f64 {
        if self.metres < 1.0 { 0.0 } else { (self.climb / self.metres).clamp(-0.35, 0.35) }
    }

    fn with(self, other: Self) -> Self {
        Self {
            metres: self.metres + other.metres,
            seconds: self.seconds + other.seconds,
            climb: self.climb + other.climb,
            // Standing inside a stretch is a stop on it.
            stops: self.stops
                + other.stops
                + u32::from(other.standing && !self.standing)
                + u32::from(self.standing && !other.standing),
            standing: self.standing && other.standing,
        }
    }
}

/// The stretches of a way: where it stood, where it went, how fast, and on wheels how steep.
pub fn stretches(way: &Way, boat: bool) -> Vec<Stretch> {
    let usual = if boat { USUAL.0 } else { USUAL.1 };
    let mut parts: Vec<Part> = Vec::new();
    let mut height: Option<f64> = None;
    for piece in &way.pieces {
        let part = part(piece, &mut height, way.timed, usual, boat);
        match parts.last_mut() {
            Some(last) if alike(last, &part, boat) => *last = last.with(part),
            _ => parts.push(part),
        }
    }
    absorb_short_stands(&mut parts);
    join_alike(&mut parts, boat);
    while parts.len() > MOST {
        join_shortest(&mut parts);
    }
    parts
        .into_iter()
        .filter(|p| p.seconds >= 30.0)
        .enumerate()
        .map(|(n, p)| {
            let lasts = Hours::of(p.seconds / 3600.0);
            if p.standing {
                let name = if boat { "Motor off" } else { "Parked" };
                return Stretch::new(name, lasts, Duty::Off);
            }
            let duty = Duty::Distance(Metres::of(p.metres));
            let mut stretch = Stretch::new(format!("Leg {}", n + 1), lasts, duty);
            // A track does not tell the wind: neither helped nor hindered until someone says so.
            stretch.heading = Heading::Across;
            if !boat {
                stretch.grade = (p.grade() * 1000.0).round() / 1000.0;
                stretch.stops = p.stops.min(500);
            }
            stretch
        })
        .collect()
}

fn part(piece: &Piece, height: &mut Option<f64>, timed: bool, usual: f64, boat: bool) -> Part {
    let climb = match (piece.elevation, *height) {
        (Some(now), Some(before)) if !boat => now - before,
        _ => 0.0,
    };
    if piece.elevation.is_some() {
        *height = piece.elevation;
    }
    let seconds = if timed { piece.seconds } else { piece.metres / usual };
    let standing = timed && piece.metres < STANDING * seconds;
    Part { metres: piece.metres, seconds, climb, stops: 0, standing }
}

fn alike(a: &Part, b: &Part, boat: bool) -> bool {
    if a.standing || b.standing {
        return a.standing == b.standing;
    }
    // Too short to tell a speed or a grade from.
    if a.seconds < 60.0 || a.metres < 60.0 {
        return true;
    }
    let faster = a.speed().max(b.speed());
    let speeds = (a.speed() - b.speed()).abs() <= OTHER_SPEED * faster;
    speeds && (boat || (a.grade() - b.grade()).abs() <= OTHER_GRADE)
}

/// A short stand is a stop on the way.
fn absorb_short_stands(parts: &mut Vec<Part>) {
    let mut kept: Vec<Part> = Vec::with_capacity(parts.len());
    for part in parts.drain(..) {
        match kept.last_mut() {
            Some(last) if part.standing && part.seconds < LONG_STAND => *last = last.with(part),
            Some(last) if last.standing && last.seconds < LONG_STAND => *last = part.with(*last),
            _ => kept.push(part),
        }
    }
    *parts = kept;
}

fn join_alike(parts: &mut Vec<Part>, boat: bool) {
    let mut kept: Vec<Part> = Vec::with_capacity(parts.len());
    for part in parts.drain(..) {
        match kept.last_mut() {
            Some(last) if alike(last, &part, boat) => *last = last.with(part),
            _ => kept.push(part),
        }
    }
    *parts = kept;
}

/// The shortest part joins its shorter neighbour.
fn join_shortest(parts: &mut Vec<Part>) {
    let Some(n) = (0..parts.len()).min_by(|a, b| parts[*a].seconds.total_cmp(&parts[*b].seconds))
    else {
        return;
    };
    let before = n.checked_sub(1).map_or(f64::INFINITY, |b| parts[b].seconds);
    let after = parts.get(n + 1).map_or(f64::INFINITY, |p| p.seconds);
    let (first, second) = if before <= after { (n - 1, n) } else { (n, n + 1) };
    let joined = parts[first].with(parts[second]);
    parts[first] = joined;
    parts.remove(second);
}
