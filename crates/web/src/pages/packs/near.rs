//! What would let a refused pack pass, in words.

use crate::figures;
use lake_hour_core::proposals::near::Mend;
use lake_hour_core::rig::{Dial, Rig};
use lake_hour_core::units::say::Say;
use lake_hour_core::units::system::{Measure, System};

/// A near miss on the page.
#[derive(Debug, Clone)]
pub(super) struct NearView {
    pub(super) name: String,
    pub(super) href: String,
    pub(super) says: String,
}

/// "the bow box 0.5 in (12 mm) longer".
pub(super) fn words(mend: &Mend, say: Say<'_>, rig: &Rig) -> String {
    let (boat, dial) = (rig.craft.kind.is_boat(), &rig.motor.dial);
    match mend {
        Mend::Amps { more, limit, setting } => {
            let amps = format!(
                "{} A more continuous: its label says {} A",
                figures::amount(more.value().ceil()),
                figures::amount(limit.value())
            );
            match setting {
                Some(setting) if boat || *dial != Dial::Tenths => format!(
                    "you stay at setting {} or below, or {amps}",
                    figures::setting_below(dial, *setting)
                ),
                Some(setting) => format!(
                    "you stay below {} throttle, or {amps}",
                    figures::percent(setting / 10.0)
                ),
                None => amps,
            }
        }
        Mend::Bay { bay, way, by } => format!("{bay} were {} {way}", side(*by, say)),
        Mend::Carry { what, by } => {
            format!("{what} carried {} more", figures::mass(*by, say.units))
        }
        Mend::SlowerHome => "you go home slower".to_owned(),
    }
}

fn side(mm: f64, say: Say<'_>) -> String {
    let mm = mm.ceil().max(1.0);
    if say.units == System::Metric {
        return figures::measure(say.units, Measure::Side, mm, 0);
    }
    // Up to the next tenth: rounded down it would not fit.
    let inches = (mm / lake_hour_core::units::convert::MM_PER_INCH * 10.0).ceil() / 10.0;
    format!("{} in", figures::amount(inches))
}
