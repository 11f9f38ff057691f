//! Ampere-hours against reserve minutes and against every other rate.

use super::{Doubt, DoubtKind, Suggestion, Sureness, plain, tidy};
use crate::shelf::{Battery, Chemistry, Detail, Rating};
use crate::units::Volts;

/// Labels disagree with themselves by 6 to 9 %: nothing under a tenth is worth a word.
const SLACK: f64 = 0.10;

/// Ampere-hours that a rating leads one to expect over `hours`, from and to.
///
/// Peukert between two rated times: `C2 = C1 (H2 / H1)^((k - 1) / k)`.
fn expected(rating: Rating, nominal: Volts, hours: f64, chemistry: Chemistry) -> (f64, f64) {
    let (low, high) = chemistry.facts().peukert_seen;
    let ah = rating.amp_hours(nominal).value();
    let at = |k: f64| ah * (hours / rating.hours().value()).powf((k - 1.0) / k);
    let (a, b) = (at(low), at(high));
    (a.min(b) * (1.0 - SLACK), a.max(b) * (1.0 + SLACK))
}

/// The headline ampere-hours against the reserve minutes.
pub(super) fn reserve(b: &Battery) -> Option<Doubt> {
    let reserve = b.ratings.iter().find(|r| r.is_reserve())?;
    let headline = b.ratings.iter().filter(|r| !matches!(r, Rating::Runtime { .. }));
    let headline =
        headline.max_by(|a, b| a.hours().value().total_cmp(&b.hours().value())).copied()?;
    let (ah, hours) = (headline.amp_hours(b.nominal_voltage).value(), headline.hours().value());
    let (low, high) = expected(*reserve, b.nominal_voltage, hours, b.chemistry);
    if (low..=high).contains(&ah) {
        return None;
    }
    let minutes = reserve.hours().minutes();
    let sentence = format!(
        "{} min at 25 A are {} Ah drawn that fast, so {} to {} Ah over {} h; the label says {} Ah.",
        tidy(minutes),
        tidy(reserve.amp_hours(b.nominal_voltage).value()),
        tidy(low),
        tidy(high),
        plain(hours),
        plain(ah)
    );
    let far = ah > high * 1.25 || ah < low * 0.75;
    let sure = if far { Sureness::CannotBe } else { Sureness::Hardly };
    Some(
        Doubt::new(DoubtKind::ReserveMinutes, sure, sentence)
            .instead(Suggestion::of(Detail::CAPACITY, f64::midpoint(low, high))),
    )
}

/// Every other pair of ratings.
pub(super) fn rates(b: &Battery) -> Option<Doubt> {
    let mut ratings: Vec<Rating> = b.ratings.clone();
    ratings.sort_by(|a, b| a.hours().value().total_cmp(&b.hours().value()));
    let pair = ratings.windows(2).find_map(|pair| {
        let [fast, slow] = pair else { return None };
        let seen = fast.is_reserve() != slow.is_reserve() && ratings.len() == 2;
        let ah = slow.amp_hours(b.nominal_voltage).value();
        let hours = slow.hours().value();
        let (low, high) = expected(*fast, b.nominal_voltage, hours, b.chemistry);
        (!seen && !(low..=high).contains(&ah)).then_some((*fast, *slow, low, high))
    });
    pair.map(|(fast, slow, low, high)| {
        let sentence = format!(
            "{} lead one to expect {} to {} Ah over {} h; the label says {}.",
            fast.words(),
            tidy(low),
            tidy(high),
            tidy(slow.hours().value()),
            slow.words()
        );
        Doubt::new(DoubtKind::RatesDisagree, Sureness::Hardly, sentence)
    })
}

/// "Lead-equivalent" ampere-hours are no capacity.
pub(super) fn lead_equivalent(b: &Battery) -> Option<Doubt> {
    let equivalent = b.lead_equivalent?.value();
    let stated = b.headline().ok().map(|(ah, _)| ah.value());
    // A real figure beside it, well below: the label is honest about which is which.
    if stated.is_some_and(|ah| ah < equivalent * 0.6) {
        return None;
    }
    let real =
        b.printed_energy.map_or(equivalent / 3.0, |wh| wh.value() / b.nominal_voltage.value());
    let sentence = format!(
        "{} \u{201c}lead-equivalent\u{201d} Ah are what a seller thinks a larger lead battery would be needed for, not a capacity: the real one is {} Ah{}.",
        plain(equivalent),
        tidy(real),
        if b.printed_energy.is_some() { " by its watt-hours" } else { ", about a third" }
    );
    Some(
        Doubt::new(DoubtKind::LeadEquivalent, Sureness::CannotBe, sentence)
            .instead(Suggestion::of(Detail::CAPACITY, real)),
    )
}
