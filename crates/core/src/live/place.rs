//! Places on the earth, the way between them, and what is left of a way.

use crate::units::Metres;

/// Radius of the sphere that distances are taken on. [m] IUGG mean radius, R1 = (2a + b)/3 of WGS 84.
pub const EARTH: f64 = 6_371_008.8;

/// A place. [°], WGS 84.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Place {
    lat: f64,
    lon: f64,
}

impl Place {
    /// A latitude from -90 to 90 and a longitude from -180 to 180; `None` for any other. [°]
    pub fn of(lat: f64, lon: f64) -> Option<Self> {
        let on_earth = (-90.0..=90.0).contains(&lat) && (-180.0..=180.0).contains(&lon);
        on_earth.then_some(Self { lat, lon })
    }

    /// Latitude, longitude. [°]
    pub const fn degrees(self) -> (f64, f64) {
        (self.lat, self.lon)
    }

    /// Along the great circle: `2 R asin sqrt(sin²(Δφ/2) + cos φ1 cos φ2 sin²(Δλ/2))`, the haversine formula. R. W. Sinnott,
    /// *Virtues of the Haversine*, Sky and Telescope 68 (1984) 158. [m]
    pub fn to(self, other: Self) -> Metres {
        let (lat1, lat2) = (self.lat.to_radians(), other.lat.to_radians());
        let (dlat, dlon) = (lat2 - lat1, (other.lon - self.lon).to_radians());
        let h = (dlat / 2.0).sin().powi(2) + lat1.cos() * lat2.cos() * (dlon / 2.0).sin().powi(2);
        Metres::of(2.0 * EARTH * h.sqrt().min(1.0).asin())
    }

    /// Course at the start of the great circle, clockwise from north. [rad]
    pub fn bearing(self, other: Self) -> f64 {
        let (lat1, lat2) = (self.lat.to_radians(), other.lat.to_radians());
        let dlon = (other.lon - self.lon).to_radians();
        let east = dlon.sin() * lat2.cos();
        let north = lat1.cos() * lat2.sin() - lat1.sin() * lat2.cos() * dlon.cos();
        east.atan2(north)
    }

    /// How far it lies off the great circle from one place to another, to the right of it above zero, and how far along that
    /// its foot is. E. Williams, *Aviation Formulary*, "Cross track error": `asin(sin d13 sin(θ13 - θ12))`, and
    /// `atan2(cos(θ13 - θ12) sin d13, cos d13)` along it, which goes below zero behind the first. [m]
    pub fn off(self, from: Self, to: Self) -> (Metres, Metres) {
        let d = from.to(self).value() / EARTH;
        let turn = from.bearing(self) - from.bearing(to);
        let off = (d.sin() * turn.sin()).clamp(-1.0, 1.0).asin();
        let along = (turn.cos() * d.sin()).atan2(d.cos());
        (Metres::of(off * EARTH), Metres::of(along * EARTH))
    }
}

/// A part of a way on the road: how long, and its rise over run, uphill above zero.
pub type Graded = (Metres, f64);

/// A way from place to place.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Path {
    points: Vec<Place>,
    /// Height of each, where told. [m]
    heights: Vec<Option<f64>>,
}

/// Most points of a way.
pub const MOST_POINTS: usize = 4096;
/// Grades beyond this are a receiver's error. As a file's stretches have them.
const STEEPEST: f64 = 0.35;

impl Path {
    /// Through these points, in order; of too many every other one is left out.
    pub fn of(points: impl IntoIterator<Item = (Place, Option<f64>)>) -> Self {
        let (points, heights) = points.into_iter().unzip();
        let mut path = Self { points, heights };
        while path.points.len() > MOST_POINTS {
            path.thin();
        }
        path
    }

    /// Its points with their heights. [m]
    pub fn points(&self) -> impl Iterator<Item = (Place, Option<f64>)> + '_ {
        self.points.iter().copied().zip(self.heights.iter().copied())
    }

    /// The same from its end to its start.
    pub fn reversed(&self) -> Self {
        Self {
            points: self.points.iter().rev().copied().collect(),
            heights: self.heights.iter().rev().copied().collect(),
        }
    }

    /// Every other point, the first and the last among them.
    fn thin(&mut self) {
        let last = self.points.len().saturating_sub(1);
        let keep = |n: &usize| n.is_multiple_of(2) || *n == last;
        let kept: Vec<usize> = (0..=last).filter(keep).collect();
        self.points = kept.iter().map(|n| self.points[*n]).collect();
        self.heights = kept.iter().map(|n| self.heights[*n]).collect();
    }

    /// From end to end. [m]
    pub fn metres(&self) -> Metres {
        self.points.windows(2).map(|pair| pair[0].to(pair[1])).sum()
    }

    /// What is left of it from where it comes nearest to a place, with the way there; and its parts with their grades. A way
    /// that comes by more than once is taken where least is left. `None` for a way of no points.
    pub fn left(&self, from: Place) -> Option<(Metres, Vec<Graded>)> {
        let last = *self.points.last()?;
        // What is left behind each point.
        let mut behind = vec![0.0; self.points.len()];
        for n in (0..self.points.len() - 1).rev() {
            behind[n] = behind[n + 1] + self.points[n].to(self.points[n + 1]).value();
        }
        let mut best = (from.to(last).value(), self.points.len() - 1, 0.0);
        for n in 0..self.points.len() - 1 {
            let (a, b) = (self.points[n], self.points[n + 1]);
            let long = a.to(b).value();
            let (off, along) = from.off(a, b);
            let (near, along) = match along.value() {
                s if s <= 0.0 => (from.to(a).value(), 0.0),
                s if s >= long => (from.to(b).value(), long),
                s => (off.value().abs(), s),
            };
            // As near within a receiver's error: the later one.
            if near <= best.0 + NEAR || (near - best.0).abs() < 1e-9 {
                best = (near.min(best.0), n + 1, long - along);
            }
        }
        let (off, next, to_next) = best;
        let grade = |n: usize| match (self.heights[n - 1], self.heights[n]) {
            (Some(a), Some(b)) => {
                let run = self.points[n - 1].to(self.points[n]).value();
                if run < 1.0 { 0.0 } else { ((b - a) / run).clamp(-STEEPEST, STEEPEST) }
            }
            _ => 0.0,
        };
        let mut parts = vec![(Metres::of(off), 0.0)];
        if next > 0 && to_next > 0.0 {
            parts.push((Metres::of(to_next), grade(next)));
        }
        for n in next + 1..self.points.len() {
            parts.push((self.points[n - 1].to(self.points[n]), grade(n)));
        }
        Some((Metres::of(off + to_next + behind[next]), parts))
    }
}

/// So near two places are one, by a receiver. [m]
const NEAR: f64 = 40.0;
/// A track's points are so far apart at the least. [m]
const APART: f64 = 15.0;

/// The way gone so far as a thread that leads back: where it comes to itself again the loop between is cut out, so that going
/// back along it winds it up.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Track {
    path: Path,
    /// How far it was in all. [m]
    gone: f64,
    last: Option<Place>,
}

impl Track {
    /// It was here.
    pub fn at(&mut self, place: Place) {
        let points = &mut self.path.points;
        if let Some(last) = self.last {
            let step = last.to(place).value();
            if step < APART {
                return;
            }
            self.gone += step;
        }
        self.last = Some(place);
        // The last few points are near of themselves.
        let far_enough = points.len().saturating_sub(4);
        if let Some(n) = points[..far_enough].iter().position(|p| p.to(place).value() < NEAR) {
            points.truncate(n + 1);
            self.path.heights.truncate(n + 1);
            return;
        }
        points.push(place);
        self.path.heights.push(None);
        if points.len() > MOST_POINTS {
            self.path.thin();
        }
    }

    /// How far it went in all. [m]
    pub const fn gone(&self) -> Metres {
        Metres::of(self.gone)
    }

    /// Back along it from a place to where it began; `None` where it has not begun. [m]
    pub fn back(&self, from: Place) -> Option<Metres> {
        let last = self.path.points.last()?;
        Some(self.path.metres() + last.to(from))
    }

    /// Where it leads.
    pub const fn path(&self) -> &Path {
        &self.path
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn place(lat: f64, lon: f64) -> Place {
        Place::of(lat, lon).expect("on earth")
    }

    /// Worked values of E. Williams, *Aviation Formulary* 1.47, from memory: Los Angeles to New York 0.623585 rad at 65.892°,
    /// and of a place near that way 0.00216747 rad off it to the right and 0.0289691 rad along it.
    #[test]
    fn distances_courses_and_what_lies_off_them_are_those_of_a_formulary() {
        let lax = place(33.0 + 57.0 / 60.0, -(118.0 + 24.0 / 60.0));
        let jfk = place(40.0 + 38.0 / 60.0, -(73.0 + 47.0 / 60.0));
        let near = place(34.5, -116.5);
        assert!((lax.to(jfk).value() / EARTH - 0.623585).abs() < 2e-6);
        assert!((lax.bearing(jfk).to_degrees() - 65.892).abs() < 1e-3);
        let (off, along) = near.off(lax, jfk);
        assert!((off.value() / EARTH - 0.002_167_47).abs() < 5e-7, "{off}");
        assert!((along.value() / EARTH - 0.028_969_1).abs() < 1e-6, "{along}");
    }

    #[test]
    fn what_is_not_on_earth_is_no_place() {
        for (lat, lon) in [(f64::NAN, 0.0), (91.0, 0.0), (0.0, 181.0), (f64::INFINITY, 1.0)] {
            assert_eq!(Place::of(lat, lon), None, "{lat} {lon}");
        }
        assert!(Place::of(0.0, 1.0).is_some());
    }

    /// North by so many metres, east by so many, of a lake.
    fn by(north: f64, east: f64) -> Place {
        let per_degree = EARTH.to_radians();
        place(44.0 + north / per_degree, -72.0 + east / per_degree / 44.0_f64.to_radians().cos())
    }

    #[test]
    fn what_is_left_of_a_way_is_counted_from_where_it_is_nearest() {
        let heights = [10.0, 10.0, 60.0];
        let corners = [by(0.0, 0.0), by(1000.0, 0.0), by(1000.0, 1000.0)];
        let path = Path::of(corners.into_iter().zip(heights.map(Some)));
        let left = |p: Place| path.left(p).expect("a way");
        assert!((left(by(0.0, 0.0)).0.value() - 2000.0).abs() < 1.0);
        let (far, parts) = left(by(500.0, 100.0));
        assert!((far.value() - 1600.0).abs() < 1.5, "{far}");
        let sum: Metres = parts.iter().map(|p| p.0).sum();
        assert!((sum - far).value().abs() < 1e-6, "its parts are all of it");
        assert!((parts.last().expect("three").1 - 0.05).abs() < 1e-3, "{parts:?}");
        assert!((left(by(1000.0, 1300.0)).0.value() - 300.0).abs() < 1.0);
        assert_eq!(Path::default().left(by(0.0, 0.0)), None);
        let back = path.reversed();
        assert!((back.left(by(1000.0, 1000.0)).expect("a way").0.value() - 2000.0).abs() < 1.0);
    }

    /// Out and back winds it up; a loop on the way is not gone once more; a long day stays within its bounds.
    #[test]
    fn a_track_leads_back_and_is_wound_up_on_the_way() {
        let mut track = Track::default();
        assert_eq!(track.back(by(0.0, 0.0)), None);
        for n in 0..=100 {
            track.at(by(f64::from(n) * 20.0, 0.0));
        }
        let here = by(2000.0, 0.0);
        assert!((track.back(here).expect("begun").value() - 2000.0).abs() < 2.0);
        // Once round a bay.
        for n in 0..=60 {
            let turn = f64::from(n) / 60.0 * std::f64::consts::TAU;
            track.at(by(2000.0 + 150.0 * turn.sin(), 150.0 - 150.0 * turn.cos()));
        }
        assert!((track.back(here).expect("begun").value() - 2000.0).abs() < 45.0);
        assert!(track.gone().value() > 2850.0);
        for n in (0..=100).rev() {
            track.at(by(f64::from(n) * 20.0 + 7.0, 12.0));
            let left = track.back(by(f64::from(n) * 20.0, 12.0)).expect("begun").value();
            assert!((left - f64::from(n) * 20.0).abs() < 80.0, "{n}: {left}");
        }
        for n in 0..20_000 {
            let n = f64::from(n);
            track.at(by(n * 100.0, 0.0));
            if n > 5000.0 {
                break;
            }
        }
        assert!(track.path().points.len() <= MOST_POINTS);
    }
}
