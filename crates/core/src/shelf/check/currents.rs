//! Amps against ampere-hours: continuous, peak and cranking told apart.

use super::{Doubt, DoubtKind, Suggestion, Sureness, plain, tidy};
use crate::shelf::{Battery, Detail, Purpose};

/// Cold cranking amps for an ampere-hour: deep-cycle 5 to 8, starting 8 to 15. Common practice, no source.
const DEEP_CYCLE_CRANKING: f64 = 8.0;
/// Cranking amps for an ampere-hour that no battery gives: a fifth above the 15 of starting batteries. A choice.
const MOST_CRANKING: f64 = 18.0;

/// Cranking amps without a capacity, or out of proportion to it. Never turned into ampere-hours.
///
/// No capacity: cannot be, for a pack that is to be discharged. Over [`MOST_CRANKING`] for each ampere-hour:
/// hardly. A tenth over [`DEEP_CYCLE_CRANKING`] on a label that says deep-cycle: ask. Cold cranking amps are what
/// it gives at 0 °F (-18 °C) for 30 s above 1.2 V a cell (SAE J537, from memory): they say how thin the plates
/// are, not how much is in it.
pub(super) fn cranking(b: &Battery) -> Option<Doubt> {
    let cranking = b.cranking?.value();
    let Ok((ah, _)) = b.headline() else {
        let sentence = if b.chemistry.is_lead() {
            format!(
                "{} cranking amps and neither Ah nor reserve minutes: a starting battery with thin plates, ruined by deep use. Cranking amps say nothing about run time.",
                plain(cranking)
            )
        } else {
            format!(
                "{} cranking amps and no Ah on a lithium label: they say nothing about capacity.",
                plain(cranking)
            )
        };
        return Some(Doubt::new(DoubtKind::CrankingOnly, Sureness::CannotBe, sentence));
    };
    let ratio = cranking / ah.value();
    if ratio > MOST_CRANKING {
        let sentence = format!(
            "{} cranking amps from {} Ah is {} for each Ah: even starting batteries reach 8 to 15.",
            plain(cranking),
            plain(ah.value()),
            tidy(ratio)
        );
        return Some(Doubt::new(DoubtKind::CrankingForCapacity, Sureness::Hardly, sentence));
    }
    (ratio > DEEP_CYCLE_CRANKING * 1.1 && b.purpose == Some(Purpose::DeepCycle)).then(|| {
        let sentence = format!(
            "{} cranking amps from {} Ah is {} for each Ah: deep-cycle plates give 5 to 8. Built to start engines?",
            plain(cranking),
            plain(ah.value()),
            tidy(ratio)
        );
        Doubt::new(DoubtKind::CrankingForCapacity, Sureness::Ask, sentence)
    })
}

/// A starting battery that has a capacity on its label all the same: it can be run, not for long years.
pub(super) fn for_starting(b: &Battery) -> Option<Doubt> {
    if b.purpose != Some(Purpose::Starting) || b.headline().is_err() {
        return None;
    }
    let sentence = if b.chemistry.is_lead() {
        "a starting battery: its thin plates last a few dozen deep discharges, whatever its Ah. For a motor, buy a deep-cycle battery."
    } else {
        "a starting battery: ask its maker whether it may run a motor for hours."
    };
    Some(Doubt::new(DoubtKind::MadeForStarting, Sureness::Ask, sentence))
}

/// Current without end against the capacity.
///
/// As times the ampere-hours [1/h], by the chemistry's `continuous_rates` (usual, ask, never): nothing up to
/// the second, cannot be above the third, ask between. The figure to use instead is the usual rate's.
pub(super) fn continuous(b: &Battery) -> Option<Doubt> {
    let amps = b.max_continuous?.value();
    let (ah, _) = b.headline().ok()?;
    let rate = amps / ah.value();
    let (usual, ask, never) = b.chemistry.facts().continuous_rates;
    if rate <= ask {
        return None;
    }
    let name = b.chemistry.name();
    let mut sentence = format!(
        "{} A continuous from {} Ah is {} times its Ah; {name} batteries of this kind give about {}.",
        plain(amps),
        plain(ah.value()),
        tidy(rate),
        plain(usual)
    );
    let sure = if rate > never { Sureness::CannotBe } else { Sureness::Ask };
    if b.chemistry.is_lead() && rate > never {
        sentence
            .push_str(" As a 30-second cranking figure it could be true: then it belongs there.");
    }
    Some(
        Doubt::new(DoubtKind::Continuous, sure, sentence)
            .instead(Suggestion::of(Detail::CONTINUOUS, usual * ah.value())),
    )
}

/// Current for a moment against the capacity and against the continuous one.
///
/// Below the continuous current it cannot be: who bears a current without end bears it for seconds. A tenth
/// above the chemistry's `burst_rate`, in times the ampere-hours [1/h]: ask.
pub(super) fn peak(b: &Battery) -> Option<Doubt> {
    let peak = b.peak?;
    let amps = peak.current.value();
    if let Some(long) = b.max_continuous
        && amps < long.value()
    {
        let sentence = format!(
            "A peak of {} A for {} s is less than its {} A continuous.",
            plain(amps),
            plain(peak.seconds),
            plain(long.value())
        );
        return Some(
            Doubt::new(DoubtKind::Peak, Sureness::CannotBe, sentence)
                .instead(Suggestion::of(Detail::CONTINUOUS, amps)),
        );
    }
    let (ah, _) = b.headline().ok()?;
    let (rate, most) = (amps / ah.value(), b.chemistry.facts().burst_rate);
    (rate > most * 1.1).then(|| {
        let sentence = format!(
            "{} A from {} Ah is {} times its Ah, if only for {} s: {} batteries give some {}.",
            plain(amps),
            plain(ah.value()),
            tidy(rate),
            plain(peak.seconds),
            b.chemistry.name(),
            plain(most)
        );
        Doubt::new(DoubtKind::Peak, Sureness::Ask, sentence)
            .instead(Suggestion::of(Detail::PEAK, most * ah.value()))
    })
}
