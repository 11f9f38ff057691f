//! Volts against the chemistry.

use super::{Doubt, DoubtKind, Suggestion, Sureness, plain};
use crate::shelf::{Battery, Chemistry, Detail};

/// A nominal voltage that is no whole number of cells.
///
/// Of one of the voltages that makers name their cells by, within 1.2 % for rounding (12.8 V of four, 25.6 V of
/// eight). More than 8 % from the nearest whole number: hardly, else ask.
pub(super) fn nominal(b: &Battery) -> Option<Doubt> {
    let volts = b.nominal_voltage.value();
    let whole = |cell: f64| {
        let cells = (volts / cell).round().max(1.0);
        (volts / cell - cells).abs() / cells <= 0.012
    };
    if b.chemistry.facts().named_cells.iter().any(|cell| whole(*cell)) {
        return None;
    }
    let likely = likely(b);
    let cell = b.chemistry.nominal_cell().value();
    let cells = (likely / cell).round();
    let sentence = format!(
        "{} V is no whole number of {} cells of {} V: {} of them make {} V.",
        plain(volts),
        b.chemistry.name(),
        plain(cell),
        plain(cells),
        plain(likely)
    );
    let sure =
        if (volts - likely).abs() > 0.08 * likely { Sureness::Hardly } else { Sureness::Ask };
    Some(
        Doubt::new(DoubtKind::NominalVoltage, sure, sentence)
            .instead(Suggestion::of(Detail::VOLTS, likely)),
    )
}

/// Volts that a whole number of the chemistry's cells makes, nearest to the nominal ones. "12 V" on
/// lithium stands for four cells, one for each three volts of lead. [V]
pub(super) fn likely(b: &Battery) -> f64 {
    let volts = b.nominal_voltage.value();
    let cell = b.chemistry.nominal_cell().value();
    let cells = if b.chemistry == Chemistry::Lfp && (volts / 12.0).fract() < 1e-9 {
        volts / 3.0
    } else {
        (volts / cell).round().max(1.0)
    };
    cells * cell
}

/// A charging voltage that harms it, or never fills it.
///
/// Volts for each cell against the chemistry's `charge_cell`, absorption and, for flooded lead, equalising. Above
/// it cannot be: it gasses or overcharges. Below it, hardly.
pub(super) fn charging(b: &Battery) -> Option<Doubt> {
    let volts = b.charge_voltage?.value();
    let cells = f64::from(b.cells());
    let (low, high) = b.chemistry.facts().charge_cell;
    let name = b.chemistry.name();
    if volts > high * cells + 0.005 {
        let equalise = if b.chemistry == Chemistry::Flooded { ", equalising included" } else { "" };
        let sentence = format!(
            "{} V to charge with is too high for {name}: at most {} V{equalise}.",
            plain(volts),
            plain(high * cells)
        );
        return Some(
            Doubt::new(DoubtKind::ChargeVoltage, Sureness::CannotBe, sentence)
                .instead(Suggestion::of(Detail::CHARGE_VOLTAGE, high * cells)),
        );
    }
    (volts < low * cells - 0.005).then(|| {
        let sentence = format!(
            "{} V never fills {name} of {} V: it takes {} V at least.",
            plain(volts),
            plain(b.nominal_voltage.value()),
            plain(low * cells)
        );
        Doubt::new(DoubtKind::ChargeVoltage, Sureness::Hardly, sentence)
    })
}
