//! The pack that is looked at: what one dead unit leaves, its air, its column.

use super::row::disc;
use crate::figures;
use crate::parts::decision::{self, About};
use lake_hour_core::pack::{Pack, stow};
use lake_hour_core::proposals::failing::{self, Remains, one_fails};
use lake_hour_core::rig::Dial;
use lake_hour_core::rig::Rig;
use lake_hour_core::units::Millimetres;
use lake_hour_core::units::system::System;
use lake_hour_core::verdict::Evaluation;

/// A figure with its name.
#[derive(Debug, Clone)]
pub(super) struct Line {
    pub(super) name: String,
    pub(super) value: String,
    pub(super) bad: bool,
}

impl Line {
    pub(super) fn new(name: impl Into<String>, value: impl Into<String>) -> Self {
        Self { name: name.into(), value: value.into(), bad: false }
    }

    pub(super) fn bad_if(self, bad: bool) -> Self {
        Self { bad, ..self }
    }
}

/// What one dead unit leaves of a pack.
#[derive(Debug, Clone)]
pub(super) struct FailureRow {
    pub(super) name: String,
    pub(super) left: String,
    pub(super) gets: String,
    pub(super) disc: &'static str,
    pub(super) any: String,
    pub(super) stranded: String,
    pub(super) this: bool,
}

/// "1 in 50", "4 in 100", "under 1 in 1,000".
fn chance(share: f64) -> String {
    match share * 100.0 {
        p if p <= 0.0 => "none".to_owned(),
        p if p < 0.1 => "under 1 in 1,000".to_owned(),
        p if p < 0.95 => format!("{:.0} in 1,000", p * 10.0),
        p => format!("{p:.0} in 100"),
    }
}

impl FailureRow {
    /// `rest` is the verdict on what is left, where something is.
    pub(super) fn of(about: &About<'_>, rest: Option<&Evaluation>, rate: f64, this: bool) -> Self {
        let (pack, rig) = (about.pack, &about.plan.rig);
        let remains = one_fails(pack, rig);
        let chances = failing::chances(pack, rig, rate);
        let boat = about.is_boat();
        let stuck = if boat { "paddle" } else { "towed home" };
        let left = match &remains {
            Some(Remains::Strings(rest)) => format!(
                "{} of {} strings, {} V",
                rest.parallel,
                pack.parallel,
                figures::typed(rest.voltage().value())
            ),
            Some(Remains::LowerVolts(rest)) => format!(
                "{} of {} units: {} V, which the motor takes too",
                rest.series,
                pack.series,
                figures::typed(rest.voltage().value())
            ),
            None if pack.series > 1 => {
                let volts = (pack.battery.nominal_voltage * f64::from(pack.series - 1)).value();
                let needs = rig.motor.system_voltage.value();
                format!("{} V: the motor needs {}", figures::typed(volts), figures::typed(needs))
            }
            None => "nothing".to_owned(),
        };
        let (gets, disc) = match (&remains, rest) {
            (Some(remains), Some(rest)) => {
                let about = About { pack: remains.pack(), ..*about };
                let mut gets = decision::verdict(&about, rest);
                if let Some(setting) =
                    rest.drawn.as_ref().and_then(|d| d.highest_safe_setting).filter(|s| *s < 9.99)
                    && setting >= 0.5
                {
                    let dial = &about.plan.rig.motor.dial;
                    let slower = if boat || *dial != Dial::Tenths {
                        let setting = figures::setting_below(dial, setting);
                        format!("; at setting {setting} or below all day")
                    } else {
                        format!("; below {} throttle all day", figures::percent(setting / 10.0))
                    };
                    if rest.drawn.as_ref().is_some_and(|d| d.ended_early_at().is_some()) {
                        gets.push_str(&slower);
                    }
                }
                (gets, disc(rest.counts_as()))
            }
            _ => (stuck.to_owned(), "open"),
        };
        Self {
            name: pack.name.clone(),
            left,
            gets,
            disc,
            any: chance(chances.any),
            stranded: chance(chances.stranded),
            this,
        }
    }
}

/// "25.6 V · 100 Ah · 2.6 kWh", as its label says.
pub(super) fn label(pack: &Pack) -> String {
    let volts = format!("{} V", figures::typed(pack.voltage().value()));
    match (pack.capacity(), pack.energy()) {
        (Ok(ah), Ok(wh)) => {
            let ah = figures::amount(ah.value());
            format!("{volts} · {ah} Ah · {}", figures::energy(wh.value()))
        }
        _ => volts,
    }
}

/// Why it cannot be set out, where it cannot.
pub(super) fn places(rig: &Rig, pack: &Pack) -> Option<String> {
    if rig.bays.is_empty() {
        return Some("This rig has no bays yet: type their sizes on the Rig page.".to_owned());
    }
    let says = "Its size is not on the label: whether it fits is not known.";
    pack.battery.size.is_none().then(|| says.to_owned())
}

/// The air that lead in a closed-off bay asks for.
pub(super) fn air(rig: &Rig, pack: &Pack, units: System) -> Option<String> {
    let air = lake_hour_core::pack::air::air(pack)?;
    let closed = stow::stow(rig, pack)?.bays.into_iter().find(|b| {
        !b.stowed.spots.is_empty() && rig.bays.get(b.place).is_some_and(|bay| bay.sealed)
    })?;
    let (flow, openings) = match units {
        System::Metric => (format!("{:.1} m³", air.flow), format!("{:.0} cm²", air.openings)),
        _ => (
            format!("{:.0} cu ft", air.flow * CUBIC_FEET_PER_M3),
            format!("{:.1} sq in", air.openings / CM2_PER_SQUARE_INCH),
        ),
    };
    Some(format!(
        "{} is closed off: sealed lead gasses too when it is charged hard. Give it {flow} of air an hour while it charges, by openings of {openings} low and high (IEC 62485-3).",
        closed.bay
    ))
}

/// Cubic feet in a cubic metre, square centimetres in a square inch: exact by definition of foot and inch.
const CUBIC_FEET_PER_M3: f64 = 35.314_667;
const CM2_PER_SQUARE_INCH: f64 = 6.4516;

/// A pack in a column beside others.
#[derive(Debug, Clone)]
pub(super) struct Column {
    pub(super) name: String,
    pub(super) away: String,
    pub(super) href: String,
    /// In the order of [`Column::ROWS`].
    pub(super) cells: [String; 10],
    /// Length, width and height of one unit. [mm]
    pub(super) size: Option<[f64; 3]>,
}

impl Column {
    /// What is told of each.
    pub(super) const ROWS: [&'static str; 10] = [
        "Wired",
        "Today",
        "Weight",
        "Room",
        "Price",
        "Wiring",
        "Balance",
        "Full again",
        "If one unit fails",
        "Stranded in a season",
    ];

    pub(super) fn cell(&self, row: &usize) -> &str {
        self.cells.get(*row).map_or("", String::as_str)
    }

    pub(super) fn of(
        about: &About<'_>,
        evaluation: &Evaluation,
        rest: Option<&Evaluation>,
        wiring: Option<&super::wiring::WiringView>,
        rate: f64,
    ) -> Self {
        let (pack, say) = (about.pack, about.say);
        let unknown = || "not known".to_owned();
        let failure = FailureRow::of(about, rest, rate, false);
        let size = pack.battery.size.map(|s| [s.length, s.width, s.height].map(Millimetres::value));
        let litres = size.map(|[l, w, h]| l * w * h * 1e-6 * f64::from(pack.units()));
        let room = litres.map(|l| match say.units {
            System::Metric => format!("{l:.0} L"),
            _ => format!("{:.1} cu ft", l / LITRES_PER_CUBIC_FOOT),
        });
        let lifts = pack.battery.mass.map(|m| format!(", {} each", figures::mass(m, say.units)));
        let lifts = lifts.filter(|_| pack.units() > 1).unwrap_or_default();
        let price = evaluation.price_total.map(|p| {
            let needs = if decision::has_needs(about.plan, pack, evaluation) {
                " with what it needs"
            } else {
                ""
            };
            format!("{}{needs}", say.money(p))
        });
        let full = evaluation.drawn.as_ref().map(|d| match &d.refill.by {
            Some(by) => format!("{} by {by}", figures::hours(d.refill.hours().value())),
            None => "needs a charger".to_owned(),
        });
        let strings = if pack.units() == 1 {
            "inside the one battery"
        } else if pack.series == 1 {
            "side by side: by themselves"
        } else {
            "in series: each unit to full now and then"
        };
        let cells = [
            crate::parts::lane::wired(pack),
            match evaluation.reasons.first() {
                Some(why) => format!("Set aside: it {}", why.sentence(say.units)),
                None => decision::verdict(about, evaluation),
            },
            evaluation.mass.map_or_else(unknown, |m| figures::mass(m, say.units)) + &lifts,
            room.unwrap_or_else(unknown),
            price.unwrap_or_else(unknown),
            wiring.map_or_else(unknown, |w| w.parts.clone()),
            strings.to_owned(),
            full.unwrap_or_else(unknown),
            format!("{}: {}", failure.left, failure.gets),
            failure.stranded,
        ];
        Self { name: pack.name.clone(), away: String::new(), href: String::new(), cells, size }
    }
}

/// Litres in a cubic foot: exact by definition of the foot, 28.3168.
const LITRES_PER_CUBIC_FOOT: f64 = 28.316_846_592;
