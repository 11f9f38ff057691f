//! How fast a pack holds a hill, and what getting up to speed asks of it.

use super::opened::Line;
use super::view::PacksView;
use crate::figures;
use crate::parts::decision::About;
use lake_hour_core::allowed;
use lake_hour_core::proposals::power::{
    FASTEST, HeldBy, Power, cranking, on_a_hill, power, sprint, steepest,
};
use lake_hour_core::units::convert::MS_PER_MPH;
use lake_hour_core::units::parse;
use lake_hour_core::units::system::Measure;
use lake_hour_core::units::{MetresPerSecond, Watts};
use lake_hour_core::verdict::Evaluation;

/// What is shown where nothing is typed. Choices.
const HILL: f64 = 5.0;
const TO: MetresPerSecond = MetresPerSecond::of(12.0 * MS_PER_MPH);
const SECONDS: f64 = 6.0;

/// The hill and the sprint on the page.
#[derive(Debug, Clone)]
pub(super) struct PowerView {
    pub(super) lines: Vec<Line>,
    pub(super) hill: String,
    pub(super) to: String,
    pub(super) secs: String,
    pub(super) speed: &'static str,
    pub(super) problems: Vec<(&'static str, String)>,
    /// Power that cranking amps tell of.
    pub(super) cranking: Option<String>,
}

impl PowerView {
    /// `None` for what floats, and where the motor's current is not known.
    pub(super) fn of(about: &About<'_>, evaluation: &Evaluation, view: &PacksView) -> Option<Self> {
        let (plan, pack, say) = (about.plan, about.pack, about.say);
        if about.is_boat() {
            return None;
        }
        let floor = evaluation.drawn.as_ref()?.floor;
        let mut problems = Vec::new();
        let usual_hill = steepest(plan).map_or(HILL, |grade| grade * 100.0);
        let mut read =
            |name, typed: &str, usual: f64, read: &dyn Fn(&str) -> Result<f64, String>| {
                if typed.is_empty() {
                    return usual;
                }
                read(typed).unwrap_or_else(|wrong| {
                    problems.push((name, wrong));
                    usual
                })
            };
        let number = |typed: &str, allowed: &allowed::Allowed| {
            parse::number(typed, allowed).map_err(|e| e.to_string())
        };
        let hill = read("hill", &view.hill, usual_hill, &|t| {
            number(t.trim_end_matches('%').trim_end(), &allowed::HILL)
        });
        let to = read("to", &view.to, TO.value(), &|t| {
            let speed = say.units.read(t, Measure::Speed, &allowed::ROAD_SPEED);
            speed.map_err(|e| e.to_string())
        });
        let seconds = read("secs", &view.secs, SECONDS, &|t| number(t, &allowed::SPRINT));
        let to = MetresPerSecond::of(to);
        let fresh = on_a_hill(plan, pack, hill / 100.0, 1.0)?;
        let low = on_a_hill(plan, pack, hill / 100.0, floor)?;
        let speed = |(v, _): &(MetresPerSecond, Power)| match *v >= FASTEST {
            true => "as fast as it goes".to_owned(),
            false => figures::speed(*v, say.units),
        };
        let at = |of: &(MetresPerSecond, Power)| format!("{}, {}", speed(of), watts(&of.1));
        let asks = sprint(plan, pack, to, seconds);
        let gives = power(plan, pack, 1.0)?;
        let can = gives.watts >= asks;
        let level = say.units.figure(Measure::Speed, to.value());
        let lines = vec![
            Line::new(format!("up {} %, full", figures::amount(hill)), at(&fresh)),
            Line::new(format!("up {} %, at its floor", figures::amount(hill)), at(&low)),
            Line::new("held back by", held_by(&low.1)),
            Line::new(
                format!(
                    "to {level:.0} {} in {} s",
                    say.units.unit(Measure::Speed).name,
                    figures::amount(seconds)
                ),
                format!(
                    "asks {:.1} kW, it gives {:.1}: {}",
                    asks.value() / 1000.0,
                    gives.watts.value() / 1000.0,
                    if can { "yes" } else { "slower" }
                ),
            )
            .bad_if(!can),
        ];
        let cranking = cranking(pack).map(|power: Watts| {
            format!(
                "Its cranking amps tell of {:.1} kW for the 30 s of a start at 0 °F: power, and nothing of how long it runs.",
                power.value() / 1000.0
            )
        });
        Some(Self {
            lines,
            cranking,
            hill: figures::typed_coarse(usual_hill),
            to: figures::typed_coarse(say.units.figure(Measure::Speed, TO.value())),
            secs: figures::typed(SECONDS),
            speed: say.units.unit(Measure::Speed).name,
            problems,
        })
    }
}

/// "4.1 kW at 47.2 V".
fn watts(power: &Power) -> String {
    format!("{:.1} kW at {:.1} V", power.watts.value() / 1000.0, power.volts.value())
}

fn held_by(power: &Power) -> String {
    let amps = figures::amount(power.amps.value());
    match power.held_by {
        HeldBy::Motor => format!("the motor, {amps} A"),
        HeldBy::Label => format!("its BMS or label, {amps} A"),
        HeldBy::Voltage => format!("its own voltage, at {amps} A"),
    }
}
