//! A trip that is over, seen again at any speed: what was said at each moment, and how it ended.

use super::face::{Speaks, clock};
use crate::figures;
use crate::frame::look::Look;
use crate::frame::trips::{Moment, Replay};
use lake_hour_core::live::End;
use lake_hour_core::units::Metres;
use serde::Serialize;
use std::fmt::Write;

/// A moment as it is shown.
#[derive(Debug, Clone, Serialize)]
pub(crate) struct MomentView {
    pub(crate) clock: String,
    pub(crate) charge: String,
    pub(crate) said: String,
    pub(crate) ended: String,
    pub(crate) draw: String,
    /// Where it stands across the picture. [px]
    pub(crate) x: f64,
    /// Since it began. [s]
    pub(crate) at: f64,
}

/// A trip told again.
#[derive(Debug, Clone)]
pub(crate) struct ReplayView {
    pub(crate) moments: Vec<MomentView>,
    pub(crate) json: String,
    pub(crate) band: String,
    pub(crate) said: String,
    pub(crate) was: String,
    pub(crate) floor: String,
    pub(crate) deep: String,
    pub(crate) reserve: String,
    pub(crate) sentence: String,
    pub(crate) warned: Vec<(String, String)>,
    pub(crate) last: usize,
}

/// The picture. [px]
const WIDE: f64 = 720.0;
const HIGH: f64 = 160.0;

impl ReplayView {
    pub(crate) fn of(replay: &Replay, look: Look) -> Self {
        let speaks = Speaks::plain(look, &replay.dial);
        let lasts = replay.moments.last().map_or(1.0, |m| m.at).max(1e-6);
        let x = |m: &Moment| WIDE * m.at / lasts;
        let y = |charge: f64| HIGH * (1.0 - charge.clamp(0.0, 1.0));
        let at = |hours: f64| clock(replay.began + (hours * 3600.0) as i64, look.clock);
        let line = |of: &dyn Fn(&Moment) -> f64| {
            replay.moments.iter().fold(String::new(), |mut line, m| {
                let _ = write!(line, "{:.1},{:.1} ", x(m), y(of(m)));
                line
            })
        };
        let lower = replay.moments.iter().rev().fold(String::new(), |mut line, m| {
            let _ = write!(line, "{:.1},{:.1} ", x(m), y(m.left.between.0));
            line
        });
        let ended = format!("it ended with {}", figures::percent(replay.ended.0.charge));
        let moments: Vec<MomentView> = replay
            .moments
            .iter()
            .map(|m| MomentView {
                clock: at(m.at),
                charge: format!(
                    "{} ({:.0} to {:.0})",
                    figures::percent(m.left.charge),
                    m.left.between.0 * 100.0,
                    m.left.between.1 * 100.0
                ),
                said: said(m, speaks),
                ended: format!("it was {}", figures::percent(m.was)),
                draw: format!("{} A", figures::amount(m.draw)),
                x: x(m),
                at: m.at * 3600.0,
            })
            .collect();
        let held = replay
            .moments
            .iter()
            .filter(|m| (m.left.between.0..=m.left.between.1).contains(&m.was));
        let held = figures::percent(held.count() as f64 / replay.moments.len().max(1) as f64);
        let home = if replay.ended.1 < 150.0 {
            "At the launch".to_owned()
        } else {
            format!("{} from the launch", figures::distance(Metres::of(replay.ended.1), look.units))
        };
        Self {
            json: serde_json::to_string(&moments).unwrap_or_default(),
            last: moments.len().saturating_sub(1),
            moments,
            band: line(&|m| m.left.between.1) + &lower,
            said: line(&|m| m.left.charge),
            was: line(&|m| m.was),
            floor: format!("{:.1}", y(replay.floor)),
            deep: format!("{:.1}", HIGH * replay.floor),
            reserve: format!("{:.1}", y(replay.reserve)),
            sentence: format!("{home} {ended}; what was said held it {held} of the time."),
            warned: replay
                .warned
                .iter()
                .map(|(w, s)| (at(s / 3600.0), super::face::title(*w).to_owned()))
                .collect(),
        }
    }
}

/// "home with 18 % at setting 6".
fn said(m: &Moment, speaks: Speaks) -> String {
    let Some(row) = &m.take else { return String::new() };
    let gear = speaks.gear(row.gear).to_lowercase();
    match (row.end, row.left) {
        (End::Short(_) | End::Backwards, _) | (_, None) => "home not likely".to_owned(),
        (_, Some(left)) => {
            let way = if m.homeward { "home" } else { "home from there" };
            format!("{way} with {} at {gear}", figures::percent(left.charge))
        }
    }
}
