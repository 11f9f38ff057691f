//! Energy against volts, weight and size.

use super::{Doubt, DoubtKind, Suggestion, Sureness, plain, tidy};
use crate::shelf::{Battery, Detail};
use crate::units::convert::{KG_PER_LB, L_PER_CUBIC_FOOT};
use crate::units::system::{Measure, System};

/// Volts times ampere-hours against the watt-hours printed, which differ by rounding up to 3 %.
///
/// `E = V Q` by definition, with the nominal volts or with those that a whole number of cells makes. More than
/// 12 % apart it cannot be, else ask. The smaller of the two figures is the one to use.
pub(super) fn energy_sum(b: &Battery) -> Option<Doubt> {
    let printed = b.printed_energy?.value();
    let (ah, _) = b.headline().ok()?;
    let volts = b.nominal_voltage;
    let sum = (volts * ah).value();
    let off = (printed - sum) / sum;
    if off.abs() <= 0.03 {
        return None;
    }
    // "12 V" names a battery of 12.8 V: the volts that the cells make and the watt-hours fit win.
    let by_cells = super::volts::likely(b) * ah.value();
    if ((printed - by_cells) / by_cells).abs() <= 0.03 {
        return None;
    }
    let sentence = format!(
        "{} V x {} Ah is {} Wh, the label prints {} Wh: {} % {}.",
        plain(volts.value()),
        plain(ah.value()),
        tidy(sum),
        tidy(printed),
        tidy(off.abs() * 100.0),
        if off < 0.0 { "less" } else { "more" }
    );
    let sure = if off.abs() > 0.12 { Sureness::CannotBe } else { Sureness::Ask };
    let doubt = Doubt::new(DoubtKind::EnergySum, sure, sentence);
    Some(if off < 0.0 {
        doubt.instead(Suggestion::of(Detail::CAPACITY, printed / volts.value()))
    } else {
        doubt.instead(Suggestion::of(Detail::ENERGY, sum))
    })
}

/// Energy for each pound or kilogram.
fn by_weight(wh_per_kg: f64, units: System) -> String {
    match units {
        System::Metric => format!("{} Wh/kg", tidy(wh_per_kg)),
        System::Us | System::Nautical => format!("{} Wh/lb", tidy(wh_per_kg * KG_PER_LB)),
    }
}

/// Room, and energy for each litre or cubic foot of it.
fn room(litres: f64, units: System) -> String {
    match units {
        System::Metric => format!("{litres:.1} litres"),
        System::Us | System::Nautical => format!("{:.2} cubic feet", litres / L_PER_CUBIC_FOOT),
    }
}

/// Energy for each litre or cubic foot, the room being named already.
fn by_room(wh_per_litre: f64, units: System) -> String {
    match units {
        System::Metric => format!("{} Wh", tidy(wh_per_litre)),
        System::Us | System::Nautical => format!("{} Wh", tidy(wh_per_litre * L_PER_CUBIC_FOOT)),
    }
}

/// Energy for the weight.
///
/// Watt-hours for each kilogram against the chemistry's `energy_per_kg`. Above its ceiling, which the active
/// materials alone set (Faraday's law), it cannot be; a tenth above the usual range, hardly; a quarter below it,
/// ask. To use instead: the capacity that the weight can hold at the range's end.
pub(super) fn for_weight(b: &Battery, units: System) -> Option<Doubt> {
    let energy = b.energy().ok()?.value();
    let mass = b.mass?;
    let density = energy / mass.value();
    let facts = b.chemistry.facts();
    let name = b.chemistry.name();
    let (low, high) = facts.energy_per_kg;
    let claim = format!(
        "{} Wh in {} is {}",
        tidy(energy),
        units.say(Measure::Mass, mass.value(), 1),
        by_weight(density, units)
    );
    let usual = format!("{} to {}", by_weight(low, units), by_weight(high, units));
    let plausible = high * mass.value() / b.nominal_voltage.value();
    let instead = Suggestion::of(Detail::CAPACITY, plausible).whole();
    if density > facts.energy_ceiling {
        let why = if b.chemistry.is_lead() {
            "the lead and the acid alone weigh more"
        } else {
            "more than anyone builds"
        };
        let mut sentence = format!("{claim}: {name} reaches {usual}, and {why}.");
        // An "equivalent" is about three times the real figure.
        if !b.chemistry.is_lead() && (low..=high).contains(&(density / 3.0)) {
            sentence.push_str(" Perhaps its Ah are \u{201c}lead-equivalent\u{201d}: the real ones are about a third.");
        }
        return Some(
            Doubt::new(DoubtKind::EnergyForWeight, Sureness::CannotBe, sentence).instead(instead),
        );
    }
    if density > high * 1.1 {
        let sentence = format!("{claim}: {name} batteries hold {usual}.");
        return Some(
            Doubt::new(DoubtKind::EnergyForWeight, Sureness::Hardly, sentence).instead(instead),
        );
    }
    (density < low * 0.75).then(|| {
        let sentence = format!(
            "{claim}, and {name} batteries hold {usual}: far heavier than it should be. Is that the shipping weight?"
        );
        Doubt::new(DoubtKind::EnergyForWeight, Sureness::Ask, sentence)
    })
}

/// Energy for the case.
///
/// Watt-hours for each litre of the outside against the most the chemistry holds: a tenth above it hardly, half
/// above it cannot be. A case may well be emptier than it could be, so too little raises no doubt.
pub(super) fn for_size(b: &Battery, units: System) -> Option<Doubt> {
    let (energy, size) = (b.energy().ok()?.value(), b.size?);
    let litres = size.litres();
    let most = b.chemistry.facts().energy_per_litre;
    let density = energy / litres;
    (density > most * 1.1).then(|| {
        let sentence = format!(
            "{} Wh in {} is {} in each: no {} battery holds more than some {}.",
            tidy(energy),
            room(litres, units),
            by_room(density, units),
            b.chemistry.name(),
            by_room(most, units)
        );
        let sure = if density > most * 1.5 { Sureness::CannotBe } else { Sureness::Hardly };
        let plausible = most * litres / b.nominal_voltage.value();
        Doubt::new(DoubtKind::EnergyForSize, sure, sentence)
            .instead(Suggestion::of(Detail::CAPACITY, plausible).whole())
    })
}
