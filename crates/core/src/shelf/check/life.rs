//! Promises: cycles against years and chemistry, rest, cold, warranty.

use super::{Doubt, DoubtKind, Suggestion, Sureness, plain, tidy};
use crate::shelf::{Battery, CyclePoint, Detail};
use crate::units::system::{Measure, System};

/// Cycles against the years they fit in. Nobody discharges a battery deeply more than once a day for
/// years, so more than that is a laboratory's figure.
///
/// More than 1.2 a day over the years the label gives, or 2 a day over the chemistry's typical ones where it
/// gives none: ask; more than 2 a day: hardly. To use instead: one a day.
pub(super) fn in_years(b: &Battery) -> Option<Doubt> {
    let most = b.cycles.iter().map(|p| p.cycles).reduce(f64::max)?;
    // A warranty is no life. Where none is told, the chemistry's usual one counts, and only for what is
    // out of all proportion to it.
    let (years, limit) = b.calendar_years.map_or((b.chemistry.typical_years(), 2.0), |y| (y, 1.2));
    let a_day = most / (years * 365.0);
    (a_day > limit).then(|| {
        let sentence = format!(
            "{} cycles in {} years is {:.1} every day: a laboratory's figure, not a life. Count one a day at most, {} in all.",
            plain(most),
            plain(years),
            a_day,
            plain(years * 365.0)
        );
        let sure = if a_day > 2.0 { Sureness::Hardly } else { Sureness::Ask };
        Doubt::new(DoubtKind::CyclesInYears, sure, sentence)
            .instead(Suggestion::of(Detail::CYCLES, years * 365.0))
    })
}

/// Cycles against what the chemistry gives at that depth: more than two and a half times the typical.
///
/// Of several promises the boldest counts. Above 2.5 times the typical: hardly; above 4 times: cannot be. To use
/// instead: the typical number, the other promises shrunk in the same measure.
pub(super) fn for_chemistry(b: &Battery) -> Option<Doubt> {
    let (point, typical) = b
        .cycles
        .iter()
        .map(|p| (*p, b.chemistry.typical_cycles_at(p.depth)))
        .max_by(|a, b| (a.0.cycles / a.1).total_cmp(&(b.0.cycles / b.1)))?;
    let CyclePoint { depth, cycles } = point;
    (cycles > 2.5 * typical).then(|| {
        let sentence = format!(
            "{} cycles at {} % depth: a good {} battery gives about {}.",
            plain(cycles),
            tidy(depth * 100.0),
            b.chemistry.name(),
            tidy(typical)
        );
        let sure = if cycles > 4.0 * typical { Sureness::CannotBe } else { Sureness::Hardly };
        Doubt::new(DoubtKind::CyclesForChemistry, sure, sentence).instead(Suggestion::of(
            Detail::CYCLES,
            typical * b.cycles.iter().map(|p| p.cycles).fold(0.0, f64::max) / cycles,
        ))
    })
}

/// No battery keeps all of its charge; few lose a fifth in a month.
///
/// None at all cannot be. More than twice the most that a sound one of the chemistry loses in a month: ask.
pub(super) fn self_discharge(b: &Battery) -> Option<Doubt> {
    let share = b.self_discharge?;
    let name = b.chemistry.name();
    let (_, most) = b.chemistry.facts().self_discharge;
    if share <= 0.0 {
        let sentence = format!(
            "No self-discharge at all: every battery loses some, {name} at least 1 % a month."
        );
        return Some(Doubt::new(DoubtKind::SelfDischarge, Sureness::CannotBe, sentence));
    }
    (share > most * 2.0).then(|| {
        let sentence = format!(
            "{} % lost in a month: {name} loses {} % at most when it is sound.",
            tidy(share * 100.0),
            tidy(most * 100.0)
        );
        Doubt::new(DoubtKind::SelfDischarge, Sureness::Ask, sentence)
    })
}

/// Lithium below freezing is ruined by a charge, unless it is warmed.
///
/// Metallic lithium plates the anode below 0 °C; cell makers' datasheets allow no charge there. Half a degree is
/// left for a label's rounding.
pub(super) fn cold_charge(b: &Battery, units: System) -> Option<Doubt> {
    let cutoff = b.cold_cutoff?.value();
    let lithium = !b.chemistry.is_lead();
    (lithium && cutoff < -0.5 && b.heater != Some(true)).then(|| {
        let sentence = format!(
            "It is said to take a charge down to {} and has no heater: charging lithium below {} ruins it.",
            units.say(Measure::Temperature, cutoff, 0),
            units.say(Measure::Temperature, 0.0, 0)
        );
        Doubt::new(DoubtKind::ColdCharge, Sureness::Hardly, sentence)
    })
}

/// A warranty that is shorter in all than in full, or longer than the life promised.
///
/// The first cannot be. The second, by more than a twentieth: ask, since the later years are prorated.
pub(super) fn warranty(b: &Battery) -> Option<Doubt> {
    let total = b.warranty_total.or(b.warranty_full)?;
    if let Some(full) = b.warranty_full
        && full > total
    {
        let sentence = format!(
            "{} years in full but only {} in all: the warranty contradicts itself.",
            plain(full),
            plain(total)
        );
        return Some(Doubt::new(DoubtKind::Warranty, Sureness::CannotBe, sentence));
    }
    let years = b.calendar_years?;
    (total > years * 1.05).then(|| {
        let sentence = format!(
            "A warranty of {} years on a life of {}: check what the later years really pay.",
            plain(total),
            plain(years)
        );
        Doubt::new(DoubtKind::Warranty, Sureness::Ask, sentence)
    })
}
