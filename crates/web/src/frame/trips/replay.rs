//! A trip that is over, told again: what was said at each moment, against how it ended.

use super::told_again;
use lake_hour_core::live::{Left, Row, Warning};
use lake_hour_formats::underway;
use lake_hour_store::KeptTrip;

/// Moments that are told again.
const MOMENTS: f64 = 72.0;

/// What was said at a moment.
#[derive(Debug, Clone)]
pub(crate) struct Moment {
    /// Since it began. [h]
    pub(crate) at: f64,
    pub(crate) left: Left,
    /// What it really was, by the end and what was counted after this moment.
    pub(crate) was: f64,
    pub(crate) draw: f64,
    pub(crate) take: Option<Row>,
    pub(crate) homeward: bool,
}

/// A trip told again.
#[derive(Debug, Clone)]
pub(crate) struct Replay {
    pub(crate) began: i64,
    pub(crate) moments: Vec<Moment>,
    pub(crate) warned: Vec<(Warning, f64)>,
    pub(crate) floor: f64,
    pub(crate) reserve: f64,
    /// What was left at the end, and how far it was home then. [m]
    pub(crate) ended: (Left, f64),
    pub(crate) dial: lake_hour_core::rig::Dial,
}

impl Replay {
    /// Of what is kept; `None` where it cannot be read any more, or nothing was heard.
    pub(crate) fn of(kept: &KeptTrip, lines: &str) -> Option<Self> {
        let begun = underway::read(&kept.body).ok()?;
        let last = underway::lines(lines).map(|(at, _)| at).last()?;
        let every = (last / MOMENTS).max(20.0);
        let (mut next, mut moments, mut counts) = (0.0, Vec::new(), Vec::new());
        let trip = told_again(begun.setup, lines, |trip| {
            let at = trip.at().value() * 3600.0;
            if at < next && at < last {
                return;
            }
            next = at + every;
            let now = trip.now();
            trip.look(&now);
            counts.push(trip.count().drawn());
            moments.push(Moment {
                at: trip.at().value(),
                left: now.left,
                was: now.left.charge,
                draw: now.draw.value(),
                take: now.home.as_ref().and_then(|h| h.rows.get(h.take?)).copied(),
                homeward: trip.is_homeward(),
            });
        })?;
        let ended = trip.left();
        // As it turned out: the end, and what was drawn until then by all that is believed of meter and pack by now.
        let (all, hours) = trip.count().drawn();
        for (moment, (drawn, since)) in moments.iter_mut().zip(counts) {
            let later = trip.count().share_of(all - drawn, hours - since);
            moment.was = (ended.charge + later).min(1.0);
        }
        let rules = &trip.setup().plan.rules;
        let chemistry = trip.pack().battery.chemistry;
        Some(Self {
            began: kept.began,
            moments,
            warned: trip.warnings().said().to_vec(),
            floor: rules.floor(chemistry),
            reserve: rules.reserve_level(chemistry),
            ended: (ended, trip.distance().0.value()),
            dial: trip.setup().plan.rig.motor.dial.clone(),
        })
    }
}
